// Tables of the project file and how older ones are brought up to date.
#pragma once

#include <SQLiteCpp/SQLiteCpp.h>

#include <cstddef>
#include <filesystem>
#include <string>

namespace bathmos::io {

/// Marks a file as a project of this program (PRAGMA application_id): "BtMs".
inline constexpr int kApplicationId = 0x42744d73;
/// How long a statement waits for another program's.
inline constexpr int kBusy_ms = 2000;
/// Kinds of record that a file of the first version has tables for, at the places where every file has them;
/// a table that came later lies wherever there was room when the file was brought up to date.
inline constexpr std::size_t kFirstKinds = 14;

/// PRAGMA user_version of files that this program writes.
int newest_version();
/// How many kinds of record the file has tables for, counted from the first: a file that is only read stays
/// of its version.
std::size_t kinds_in(SQLite::Database& db);

/// Whether the file has a table of kept files: likewise.
bool has_files(SQLite::Database& db);

/// Brings a file from its version to the newest in one transaction. Throws SQLite::Exception.
void migrate(SQLite::Database& db);
/// The same, to an earlier version: how files of that time looked.
void migrate_to(SQLite::Database& db, int version);

/// Runs `work`; what SQLite refuses becomes InputError with words for a person.
template <class Work>
auto told(const std::filesystem::path& path, Work work) -> decltype(work());
[[noreturn]] void refuse_sql(const std::filesystem::path& path, const SQLite::Exception& error);

template <class Work>
auto told(const std::filesystem::path& path, Work work) -> decltype(work()) {
    try {
        return work();
    } catch (const SQLite::Exception& error) {
        refuse_sql(path, error);
    }
}

} // namespace bathmos::io
