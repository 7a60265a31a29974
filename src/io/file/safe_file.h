// Files that are either written whole or not at all, and read whole with words for what went wrong.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>

namespace bathmos::io {

/// Writes beside the target, syncs, then renames over it; follows a link to its target, keeps its
/// permissions. Throws InputError (source = path) when the folder or disk refuses; the old file is then
/// untouched.
void write_file(const std::filesystem::path& path, std::string_view content);

/// The whole file. Throws InputError (source = path) when it cannot be read.
std::string read_file(const std::filesystem::path& path);

} // namespace bathmos::io
