// The seating velocity that runs show against that of the fitted train (docs/calibration.md, The landing that
// is seen): a ramp's bends of a micrometre hardly move the curve that is fitted, and move the landing by a
// tenth.
#pragma once

#include "core/motion/limits.h"
#include "core/motion/motion.h"
#include "core/motion/onset.h"
#include "core/rig/rig_run.h"

#include <stop_token>
#include <vector>

namespace bathmos {

/// Lift of the fitted train at a speed that was run: kGridPoints, 0 at first touch.
struct ModelLift {
    double speed_rpm;
    std::vector<double> lift_m;
};

/// How many times as hard as the fitted train the valve lands in its runs, by speed; rising speeds, 1 away
/// from those that were run. Both are read off alike, as the slope of the last crank degree before the valve
/// is down; `rigid_m` is the kinematic lift. A Gaussian process over ln speed [Rasmussen & Williams 2006]
/// with a mean of 1: a step speaks for its neighbourhood. Steps from the run's onset on, and those that do
/// not seat, say nothing; empty where none does.
std::vector<SpeedFactor> seating_seen(const std::vector<ModelLift>& model, const std::vector<double>& rigid_m,
                                      const std::vector<const RigRun*>& runs);

/// What a fitted train shows at the speeds of its runs.
struct AtRuns {
    OnsetResult onset;    ///< over the speeds of the first run
    LimitsInForce limits; ///< those given, the one on seating judged by what the runs have shown
};

/// Runs the train at the speeds of its runs, not empty. `workers`: 0 for all. Throws Stopped.
AtRuns at_runs(const MotionModel& model, const std::vector<const RigRun*>& runs, const LimitsInForce& limits,
               const CycleRule& rule, std::size_t workers, const std::stop_token& stop);

} // namespace bathmos
