// What spring does this need: the limit speed over seat load and rate, and the springs that keep a target
// within their bounds (docs/bench.md, What spring does this need).
#pragma once

#include "core/motion/quick_limit.h"

#include <string>
#include <vector>

namespace bathmos {

/// A spring, or all springs of a train together, by what a tester says of it.
struct SpringPoint {
    double seat_N = 0, rate_N_per_m = 0;
};
/// The train's own at its installed height.
SpringPoint spring_point(const Train& train);
/// The train with springs of that seat load and rate in the place of its own, each with its share of both;
/// masses, solid heights and damping stay. Throws InputError where load or rate is not above 0.
Train with_spring(Train train, const SpringPoint& point);

struct SpringNeedQuery {
    double target_rpm = 0;
    SpeedRange range{};
    LimitsInForce limits{};
    /// From and to, as shares of what the train has.
    double least_seat = 0.6, most_seat = 1.8, least_rate = 0.6, most_rate = 1.6;
    std::size_t steps = 7; ///< along each
    /// What the tolerances take from the limit in 9 of 10 trains, rpm: the middle less the 10 % of its
    /// uncertainty. 0: not known, the limit itself counts.
    double tolerance_rpm = 0;
    double most_open_N = 0;    ///< at the valve, by rocker, follower or rules; 0: no bound
    double most_stress_Pa = 0; ///< at full lift; 0: no bound
};

/// One spring that was tried.
struct TriedSpring {
    SpringPoint spring;
    double limit_rpm = 0; ///< the range's end where there is none in it
    bool in_range = true; ///< whether a limit was found in the range
    double open_N = 0;
    double stress_Pa = 0;  ///< the highest of the springs; 0: not known
    std::string refused{}; ///< why it cannot be: load, stress, a train that cannot be run; "" where it can
    /// Whether it keeps the target in 9 of 10 trains.
    bool keeps(const SpringNeedQuery& query) const {
        return refused.empty() && limit_rpm - query.tolerance_rpm >= query.target_rpm;
    }
};

struct SpringNeed {
    std::vector<double> seat_N, rate_N_per_m; ///< rising
    std::vector<TriedSpring> tried;           ///< seat by rate: [i * rates + j]
    std::optional<TriedSpring> least_load;    ///< of those that keep the target, the lowest open load
    std::optional<TriedSpring> most_margin;   ///< of those that can be, the highest limit
};

/// Tries a grid of springs, each by its refined limit near the one beside it. Throws Stopped, and InputError
/// for a train that does not open its valve or a target outside the range.
SpringNeed spring_need(const Train& train, const SpringNeedQuery& query, const ProgressSink& progress = {},
                       const std::stop_token& stop = {});

} // namespace bathmos
