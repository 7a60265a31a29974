// Computed motions as HDF5: one group a speed, as in docs/format.md.
#pragma once

#include "core/motion/motion.h"

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

namespace bathmos::io {

/// /crank_deg and /kinematic_mm, then /speed_06000 for each motion: every recorded channel, coils_mm (points
/// x coils), where motion does not repeat cycles_lift_mm (cycles x points); attributes rpm, cycles, periodic
/// and each metric under its column's name. Written whole or not at all. Throws InputError (source = path).
void write_motions_h5(const std::filesystem::path& path,
                      const std::vector<std::shared_ptr<const Motion>>& motions,
                      const std::vector<double>& rigid_m, const std::string& train_name,
                      const std::string& limits_name);

/// The bytes of such a file. Throws InputError that names `source`.
std::string motions_h5(const std::vector<std::shared_ptr<const Motion>>& motions,
                       const std::vector<double>& rigid_m, const std::string& train_name,
                       const std::string& limits_name, const std::string& source);

} // namespace bathmos::io
