// Rows of a damaged database, read page by page without its index of pages: every leaf of a table that still
// stands gives what is on it. Follows the file format that the database library documents.
#pragma once

#include <cstdint>
#include <filesystem>
#include <stop_token>
#include <string>
#include <vector>

namespace bathmos::io {

/// A row as its cell holds it.
struct ScannedRow {
    std::uint32_t root = 0;            ///< first page of its table; 0 where no readable page leads to it
    std::int64_t id = 0;               ///< 0 in tables without numbered rows
    std::vector<std::string> texts;    ///< texts and blobs by column, "" for others
    std::vector<std::int64_t> numbers; ///< whole numbers by column, 0 for others
};

/// All rows of all leaves of the file with its write-ahead log, free pages apart. `roots`: the tables' first
/// pages, to tell whose leaves they are. A cell that points outside of its page, or claims more than the file
/// holds, is passed over. Throws InputError where the file cannot be read, and for one of over 4 GB; Stopped.
std::vector<ScannedRow> scan_pages(const std::filesystem::path& path, const std::vector<std::uint32_t>& roots,
                                   const std::stop_token& stop = {});

} // namespace bathmos::io
