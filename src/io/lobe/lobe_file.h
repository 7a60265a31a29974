// Profile-gauge tables as delimited text: one column of angle, one of lift, units in the names.
#pragma once

#include "core/lobe/lobe.h"

#include <filesystem>

namespace bathmos::io {

/// Reads angle (cam_deg, crank_deg, or *_deg) and lift (lift_mm, lift_in, rise_mm, ...); without such names
/// the first two columns, cam degrees and mm. Base radius and follower are not in such a file and stay 0.
/// Throws InputError.
Lobe read_lobe_csv(const std::filesystem::path& path);

} // namespace bathmos::io
