// Files that go out together: as a folder or as a zip, whole or not at all.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

namespace bathmos::io {

struct PackFile {
    std::string name; ///< without folders
    std::string bytes;
};
/// By its name; null where there is none.
const PackFile* find_file(const std::vector<PackFile>& files, std::string_view name);

/// A new folder, or an empty one that is there. Throws InputError (source = path).
void write_pack_folder(const std::filesystem::path& folder, const std::vector<PackFile>& files);
/// A zip; each file in it bears `date`, "2026-02-27", so that the same files make the same bytes. Throws
/// InputError (source = path).
void write_pack_zip(const std::filesystem::path& path, const std::vector<PackFile>& files,
                    const std::string& date);
/// The files of a pack, folder or zip, that has been written, 256 MB at most. Throws InputError.
std::vector<PackFile> read_pack(const std::filesystem::path& path);

} // namespace bathmos::io
