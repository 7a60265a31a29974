// What the full model expects of each combination of a campaign, and how surely: limits of trains as
// believed, and of the same trains with their numbers moved within tolerances, moved alike wherever parts are
// the same.
#pragma once

#include "core/plan/campaign.h"
#include "core/tasks/tasks.h"
#include "core/train/train.h"

#include <functional>
#include <optional>

namespace bathmos::plan {

/// A combination with its train.
struct Candidate {
    Combination levels;
    std::optional<Train> train;
    std::string refused; ///< why there is none
};

struct ForecastQuery {
    LimitsInForce limits{};
    std::size_t draws = 12; ///< trains moved within tolerances, of each candidate that may be among the best
    unsigned seed = 1;
};

/// What is expected of one candidate.
struct Forecast {
    double limit_rpm = 0; ///< the range's end where it has none in it
    bool in_range = true;
    double open_N = 0;   ///< load of the springs at full lift; 0 where there is no train
    std::string stopped; ///< why it is not to be run: what cannot be, or a finding that is a stop
    /// By how much the limit moves in each draw, rpm; empty for those that are far from the best. Draws of
    /// two candidates belong together.
    std::vector<double> moved_rpm;
    double moving_kg = 0; ///< equivalent mass at the valve (docs/physics.md); 0 where there is no train
};

/// Limits of all candidates by the full model; draws for those within four deviations of the best (and the
/// baseline's). Progress, stop. Throws InputError where the baseline cannot be run, Stopped.
std::vector<Forecast> forecast(const Campaign& campaign, const std::vector<Candidate>& candidates,
                               const ForecastQuery& query, const ProgressSink& progress = {},
                               const std::stop_token& stop = {});

/// The train with every uncertain number moved by a draw: the same for the same number with the same value,
/// whatever the rest of the train is. A draw that makes no train counts as not moved.
Train drawn_alike(const Train& train, std::size_t draw, unsigned seed);

} // namespace bathmos::plan
