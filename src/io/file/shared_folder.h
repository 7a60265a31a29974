// Whether a folder belongs to this machine alone.
#pragma once

#include <filesystem>

namespace bathmos::io {

/// Who may write into a folder: programs of this machine, whose locks are seen, or other machines too.
enum class FolderOf { ThisMachine, SeveralMachines };

/// SeveralMachines where the folder of the path lies on a network file system, or on one that a program
/// provides (FUSE, which most network folders of desktops are); ThisMachine where that cannot be told.
/// Source: statfs(2), the kinds of file systems.
FolderOf folder_of(const std::filesystem::path& path);

} // namespace bathmos::io
