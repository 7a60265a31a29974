// Limits of trains drawn from what a fit leaves, and the bands that they make.
#pragma once

#include "core/motion/quick_limit.h"
#include "core/rig/rig_run.h"

#include <optional>
#include <vector>

namespace bathmos {

/// The speeds of runs and a fifth above, in steps of 100 rev/min. `runs` not empty.
SpeedRange range_of_runs(const std::vector<const RigRun*>& runs);

/// How the limit of a draw is looked for round that of the train it was drawn about: in fewer and longer
/// steps and cycles than a sweep; what that moves is little beside the draws' own spread.
QuickLimitQuery query_of_draws(const SpeedRange& range, const LimitsInForce& limits,
                               const SweepSummary& middle);

/// Limit by such a query; empty where there is none in its range. Throws Stopped, InputError.
std::optional<double> limit_of_draw(const MotionModel& model, const QuickLimitQuery& query,
                                    const std::stop_token& stop);

/// The same of each draw, judged by what its runs have shown (seating_seen.h); also empty where its numbers
/// make no train that can be run. Throws Stopped.
std::vector<std::optional<double>> limits_of_draws(const std::vector<Train>& draws,
                                                   const std::vector<const RigRun*>& runs,
                                                   const LimitsInForce& limits, const SweepSummary& middle,
                                                   const std::stop_token& stop);

/// The 10, 50 and 90 % points of what draws come to.
struct DrawnBand {
    std::optional<double> p10, p50, p90;
};

/// Of `draws` draws those without a value count as above all. The outer points are moved away from the middle
/// by one standard deviation of the model's own error, and by half a step where a value is only known to
/// that. Empty where half of the draws have no value.
DrawnBand band_of(std::vector<double> values, std::size_t draws, double model_sd, double half_step);

} // namespace bathmos
