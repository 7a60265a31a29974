// Programmes of a rig, *.programme.json (docs/rig-stream.md), and stop rules as text of a record.
#pragma once

#include "core/live/programme.h"
#include "core/live/stop_rules.h"

#include <filesystem>
#include <string_view>

namespace bathmos::io {

/// Throws InputError naming source, key, what is wrong and what would be right.
live::Programme read_programme(const std::filesystem::path& path);
live::Programme parse_programme(std::string_view text, const std::string& source);
std::string programme_text(const live::Programme& programme);

} // namespace bathmos::io
