// What a change of a train does to its limit: the one question that cures, undone changes and mechanisms ask.
#pragma once

#include "core/motion/sweep.h"

namespace bathmos {

struct LimitQuestion {
    SpeedRange range;
    LimitsInForce limits{};
    std::stop_token stop{};
};

/// Limit of a train, rev/min, looked for round `near_rpm` first; the range's end where it has none up to
/// there; empty where it cannot be computed. Throws Stopped.
std::optional<double> limit_within(const Train& train, const LimitQuestion& question,
                                   std::optional<double> near_rpm);

/// What a change gains over the limit of now, rev/min; where that has none in the range, at least so much.
/// Empty where it cannot be computed. Throws Stopped.
std::optional<double> limit_gain(const Train& changed, std::optional<double> limit_now_rpm,
                                 const LimitQuestion& question);

} // namespace bathmos
