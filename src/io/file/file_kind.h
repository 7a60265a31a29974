// What a file is, by its name and the first of what stands in it: for files that somebody drops.
#pragma once

#include <filesystem>

namespace bathmos::io {

enum class FileKind { Unknown, Project, Train, Known, Rig, Pull, Lobe, Sheet, Campaign, Picture };

/// By the name's ending where that tells it; else by the format that a JSON text names, or by the column
/// names of a table (docs/format.md): speed and torque or power are a pull, angle and lift with speed or
/// cycles a rig run, angle and rise a lobe, height and load a sheet. Unknown where nothing tells. Throws
/// InputError where the file cannot be read.
FileKind kind_of_file(const std::filesystem::path& path);

} // namespace bathmos::io
