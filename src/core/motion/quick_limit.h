// The limit speed alone, near where it is expected: quick enough to follow a value that is being dragged, and
// to be asked for hundreds of trains.
#pragma once

#include "core/motion/sweep.h"

namespace bathmos {

struct QuickLimitQuery {
    SpeedRange range;
    LimitsInForce limits{};
    double near_rpm = 0;      ///< where to look first; 0: the middle of the range
    double round_rpm = 250;   ///< how far round it the refined limit looks first
    std::size_t workers = 0;  ///< 0: all
    double bisect_to_rpm = 4; ///< of the refined limit
    CycleRule rule{};         ///< of the refined limit
    /// Duration change at kLowSpeed_rpm of a train much like this one, deg crank. With it the refined limit
    /// runs that slow (and dear) speed only where the answer hangs on it.
    std::optional<double> low_speed_deg{};
};

/// A first estimate from every second speed of the range round near_rpm, by a few cycles each; linear between
/// them.
LimitSpeed estimate_limit(const MotionModel& model, const QuickLimitQuery& query,
                          const std::stop_token& stop = {});

/// The query for the refined limit, once the estimate is there: where to look, and whether to wait for the
/// low speed.
QuickLimitQuery after_estimate(QuickLimitQuery query, const LimitSpeed& estimate);

/// The query for hundreds of trains much like this one, a train to a worker: the limit within a few rev/min,
/// coils that clash in the usual steps, the low speed of this train for all. Finds `near_rpm` where it is 0.
/// Throws Stopped, InputError where the train does not open its valve.
QuickLimitQuery query_for_many(const Train& train, const MotionModel& model, QuickLimitQuery query,
                               const std::stop_token& stop = {});

/// The limit as a sweep would find it, from the range's speeds round near_rpm only; looks further down while
/// the lowest of them is over a limit, and up while none is.
LimitSpeed refine_limit(const MotionModel& model, const QuickLimitQuery& query,
                        const std::stop_token& stop = {});

} // namespace bathmos
