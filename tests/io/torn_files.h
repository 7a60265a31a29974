// A file system that loses power: what was written and not yet synced may be there whole, in part (by sectors
// of 512 bytes) or not at all, in any order. Stands in front of the database library's own files.
#pragma once

#include <cstdint>
#include <filesystem>
#include <random>
#include <sqlite3.h>
#include <string>
#include <vector>

namespace bathmos::test {

class TornFiles {
  public:
    /// Becomes the library's file system until it goes.
    TornFiles();
    ~TornFiles();
    TornFiles(const TornFiles&) = delete;
    TornFiles& operator=(const TornFiles&) = delete;

    /// The folder's files as they may be after the power went now, into another folder.
    void crash_into(const std::filesystem::path& folder, const std::filesystem::path& to,
                    std::mt19937& random) const;
    /// Writes that were not synced yet.
    std::size_t unsynced() const;

    /// A write or truncation that may be lost: what stood there before.
    struct Change {
        std::string path;
        std::int64_t at = 0;
        std::string before; ///< as long as what was written; shorter where the file ended
        std::int64_t size_before = 0;
        std::int64_t bytes = 0; ///< written; -1: truncated
    };
    std::vector<Change> changes;

  private:
    sqlite3_vfs vfs_{};
    sqlite3_vfs* under_ = nullptr;
};

} // namespace bathmos::test
