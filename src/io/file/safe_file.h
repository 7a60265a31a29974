// Files that are either written whole or not at all, and read whole with words for what went wrong.
#pragma once

#include <cstdint>
#include <filesystem>
#include <string>
#include <string_view>

namespace bathmos::io {

/// The largest files that are read whole, by kind; a larger one is no such file (docs/format.md).
inline constexpr std::uint64_t kMostTrainBytes = 16u << 20, kMostRecordBytes = 64u << 20;

/// A file in the making: written beside its name, which it takes when it is whole. What is left before that
/// goes, and the old file stands untouched.
class NewFile {
  public:
    /// Follows a link to its target. Throws InputError (source = path).
    explicit NewFile(const std::filesystem::path& path);
    ~NewFile();
    NewFile(const NewFile&) = delete;
    NewFile& operator=(const NewFile&) = delete;

    /// Throws InputError where folder or disk refuse.
    void write(std::string_view content);
    /// On disk, with the permissions of the file it replaces. Throws InputError.
    void keep();

  private:
    std::filesystem::path target_;
    std::string name_;
    int descriptor_ = -1;
    bool kept_ = false;
};

/// Writes whole or not at all, see NewFile; straight into a pipe or device. Throws InputError (source = path)
/// when the folder or disk refuses.
void write_file(const std::filesystem::path& path, std::string_view content);

/// The whole file. Throws InputError (source = path) when it cannot be read, or is larger than `most_bytes`.
std::string read_file(const std::filesystem::path& path, std::uint64_t most_bytes = kMostRecordBytes);

/// Where a link leads, through all its folders; else the path itself.
std::filesystem::path behind_links(const std::filesystem::path& path);

/// Whether two names lead to one file, by whatever links.
bool same_file(const std::filesystem::path& a, const std::filesystem::path& b);

} // namespace bathmos::io
