// The same for tests of the application, with what its own headers read.
#pragma once

#include "app/heavy_headers.h"

#include <QAccessible>
#include <QSignalSpy>
#include <QTest>
