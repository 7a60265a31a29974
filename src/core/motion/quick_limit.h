// The limit speed alone, near where it is expected: quick enough to follow a value that is being dragged, and
// to be asked for hundreds of trains.
#pragma once

#include "core/motion/sweep.h"

namespace bathmos {

struct QuickLimitQuery {
    SpeedRange range;
    std::vector<Limit> limits = usual_limits();
    double near_rpm = 0;      ///< where to look first; 0: the middle of the range
    std::size_t workers = 0;  ///< 0: all
    double bisect_to_rpm = 4; ///< of the refined limit
    CycleRule rule{};         ///< of the refined limit
};

/// A first estimate from every second speed of the range round near_rpm, by a few cycles each; linear between
/// them. `low_speed_duration_change_deg`: the value at kLowSpeed_rpm as far as known.
LimitSpeed estimate_limit(const MotionModel& model, const QuickLimitQuery& query,
                          double low_speed_duration_change_deg, const std::stop_token& stop = {});

/// The limit as a sweep would find it, from the range's speeds round near_rpm only; looks further down while
/// the lowest of them is over a limit, and up while none is.
LimitSpeed refine_limit(const MotionModel& model, const QuickLimitQuery& query,
                        const std::stop_token& stop = {});

} // namespace bathmos
