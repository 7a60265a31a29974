// What every station is given: the document, its results, the cursors, units and theme.
#pragma once

#include "app/desk/calibration_runner.h"
#include "app/desk/comparison.h"
#include "app/desk/cursors.h"
#include "app/desk/document.h"
#include "app/desk/dyno_session.h"
#include "app/desk/rig_session.h"
#include "app/desk/sweep_runner.h"
#include "app/desk/uncertainty_runner.h"
#include "app/desk/what_if.h"
#include "app/text/display_units.h"
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
    CalibrationRunner& calibration;
};

} // namespace bathmos::app
