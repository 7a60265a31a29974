// Copies of a project file: the ones kept beside it, and those that the user asks for.
#pragma once

#include "io/project/schema.h"

#include <filesystem>
#include <vector>

namespace bathmos::io {

/// Every table into a new file, which is one of rollback journals then; `with_pieces`: traces' readings too.
/// An old file of that name goes. Throws SQLite::Exception, std::filesystem::filesystem_error.
void write_copy(SQLite::Database& from, const std::filesystem::path& to, bool with_pieces);

/// Where a copy beside a project stands, from 1, the newest.
std::filesystem::path backup_path(const std::filesystem::path& path, int number);

/// Writes a new copy beside a project and moves the others on. Throws as write_copy.
void write_backup(SQLite::Database& from, const std::filesystem::path& path);

/// Takes away copies that were never finished.
void remove_unfinished_copies(const std::filesystem::path& path);

} // namespace bathmos::io
