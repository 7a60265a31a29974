// A lobe straight from a gauge's file, read as its names and numbers suggest.
#pragma once

#include "core/lobe/gauge.h"

#include <filesystem>
#include <stop_token>

namespace bathmos::io {

struct LobeFile {
    Lobe lobe; ///< base radius and follower are not in such a file and stay 0
    Repeatability repeatability;
    std::size_t lobes = 1; ///< in the file
};

/// Lobe `which` of the file, from 0. Throws InputError; Stopped.
LobeFile read_lobe_csv(const std::filesystem::path& path, std::size_t which = 0,
                       const std::stop_token& stop = {});

} // namespace bathmos::io
