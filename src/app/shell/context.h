// What every station is given: the document, its results, the cursors, units and theme.
#pragma once

#include "app/shell/comparison.h"
#include "app/shell/cursors.h"
#include "app/shell/display_units.h"
#include "app/shell/document.h"
#include "app/shell/dyno_session.h"
#include "app/shell/rig_session.h"
#include "app/shell/sweep_runner.h"
#include "app/shell/uncertainty_runner.h"
#include "app/shell/what_if.h"
#include "app/theme/theme.h"

#include <QString>

namespace bathmos::app {

struct Context {
    Theme& theme;
    DisplayUnits& units;
    Cursors& cursors;
    Document& document;
    SweepRunner& sweep;
    RigSession& rig;
    WhatIf& what_if;
    UncertaintyRunner& uncertainty;
    Comparison& comparison;
    DynoSession& dyno;
};

} // namespace bathmos::app
