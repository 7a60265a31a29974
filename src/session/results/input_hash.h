// What a result came from, as one hash: two results with the same hash are the same result.
#pragma once

#include "core/motion/sweep.h"
#include "core/rig/rig_run.h"

#include <string>

namespace bathmos::session {

/// All that a sweep is made from.
struct SweepInputs {
    Train train;
    SpeedRange range;
    LimitsInForce limits{};
};

/// 128 bits (XXH3) over the train's text, range, limits with their names, and the program's version, as
/// hexadecimal.
std::string hash_of(const SweepInputs& inputs);
/// The same for a reduction: every reading of the trace, the train, the sensor's direction, the limits.
std::string hash_of(const RigTrace& trace, const Train& train, bool reversed, const LimitsInForce& limits);
/// The same for anything that one text says, under limits.
std::string hash_of(const std::string& text, const LimitsInForce& limits);
/// Version of the program, as predictions name it.
std::string program_version();

} // namespace bathmos::session
