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

/// Seating velocity of the runs over that of the model, by speed; rising speeds, 1 away from those that were
/// run. `model`: the fitted train's metrics at the runs' speeds, any order. A Gaussian process over ln speed
/// [Rasmussen & Williams 2006] with a mean of 1: a step speaks for its neighbourhood, as far as its cycles agree.
/// Steps from the run's onset on, and those that do not seat, say nothing; empty where none does.
std::vector<SpeedFactor> seating_seen(const std::vector<SpeedMetrics>& model,
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
