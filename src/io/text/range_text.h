// A range of speeds as text: FIRST:LAST:STEP.
#pragma once

#include "core/motion/sweep.h"

#include <string>

namespace bathmos::io {

inline constexpr double kLeastSpeed_rpm = 100, kMostSpeed_rpm = 30000;

/// Crank speeds, rev/min: at least 100, at most 30000, at most 2000 of them. Throws InputError (no source, no
/// location).
SpeedRange range_of(const std::string& text);
std::string range_text(const SpeedRange& range);

} // namespace bathmos::io
