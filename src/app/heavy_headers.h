// Read once for the whole application and for its tests (precompiled): what takes longest and changes least.
#pragma once

#include <QtWidgets>
#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <qcustomplot.h>
#include <string>
#include <vector>
