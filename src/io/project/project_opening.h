// What is looked at before a project file is believed: whose file it is, which log belongs to it, and whether
// all of it is there.
#pragma once

#include "io/file/shared_folder.h"
#include "io/project/schema.h"

#include <cstdint>
#include <filesystem>
#include <string>

namespace bathmos::io {

/// Which file a name leads to: device and number of the file itself, whatever links lead to it.
struct FileIdentity {
    std::uint64_t device = 0, number = 0;
    bool operator==(const FileIdentity&) const = default;
};
/// Zeros where there is no such file.
FileIdentity identity_of(const std::filesystem::path& path);

/// Whether hard links give it more than one name, as tools that keep copies make them.
bool has_several_names(const std::filesystem::path& path);

/// A write-ahead log beside a file that never had one belongs to the file that was there before (a copy was
/// put in the place of a damaged project): applied, it would destroy the copy. Moves it aside and says so; ""
/// where there is none. Throws InputError where it cannot be moved.
std::string set_foreign_log_aside(const std::filesystem::path& path);

/// Opens an existing file to read only, also where its folder cannot be written.
SQLite::Database reader_of(const std::filesystem::path& path);

/// Throws InputError for a file that is no project, of a version that is not known, or without one of its
/// tables.
void require_project(SQLite::Database& db, const std::filesystem::path& path);
void require_tables(SQLite::Database& db, const std::filesystem::path& path);

/// What is kept is on the disk when a commit returns. A write-ahead log, but where several machines come: its
/// index lies in memory that they do not share, so a journal beside the file there.
/// Source: the database library's own notes on network file systems.
void set_up_for_writing(SQLite::Database& db, FolderOf folder);

} // namespace bathmos::io
