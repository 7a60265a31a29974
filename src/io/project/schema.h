// Tables of the project file and how older ones are brought up to date.
#pragma once

#include <SQLiteCpp/SQLiteCpp.h>

#include <filesystem>
#include <string>

namespace bathmos::io {

/// Marks a file as a project of this program (PRAGMA application_id): "BtMs".
inline constexpr int kApplicationId = 0x42744d73;
/// PRAGMA user_version of files that this program writes.
/// How long a statement waits for another program's.
inline constexpr int kBusy_ms = 2000;

int newest_version();

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
