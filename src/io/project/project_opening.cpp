#include "io/project/project_opening.h"

#include "core/problem/input_error.h"
#include "io/project/record_json.h"
#include "io/text/encoding.h"

#include <array>
#include <fmt/format.h>
#include <fstream>
#include <sqlite3.h>
#include <sys/stat.h>
#include <unistd.h>

namespace bathmos::io {

namespace fs = std::filesystem;

namespace {

// Bytes 18 and 19 of the file: 1 rollback journals, 2 write-ahead log. Every project that was ever open to
// write has 2, every copy has 1.
bool never_had_a_log(const fs::path& path) {
    std::ifstream file(path, std::ios::binary);
    std::array<char, 20> head{};
    return file.read(head.data(), head.size()) && head[18] == 1 && head[19] == 1;
}

// A path as part of a URI.
std::string in_uri(const fs::path& path) {
    std::string out;
    for (const char c : path.string())
        out += c == '%' || c == '?' || c == '#' ? fmt::format("%{:02X}", static_cast<unsigned char>(c))
                                                : std::string(1, c);
    return out;
}

} // namespace

FileIdentity identity_of(const fs::path& path) {
    struct stat found {};
    if (stat(path.c_str(), &found) != 0)
        return {};
    return {static_cast<std::uint64_t>(found.st_dev), static_cast<std::uint64_t>(found.st_ino)};
}

bool has_several_names(const fs::path& path) {
    struct stat found {};
    return stat(path.c_str(), &found) == 0 && found.st_nlink > 1;
}

std::string set_foreign_log_aside(const fs::path& path) {
    const fs::path log = path.string() + "-wal";
    std::error_code failed;
    if (!fs::exists(log, failed) || fs::file_size(log, failed) == 0 || failed || !never_had_a_log(path))
        return {};
    fs::path aside = path.string() + "-wal.of-another-file";
    for (int i = 2; fs::exists(aside, failed); ++i)
        aside = path.string() + fmt::format("-wal.of-another-file-{}", i);
    fs::rename(log, aside, failed);
    if (failed)
        throw InputError({shown_path(path), "", "the log beside it belongs to the file that was there before",
                          fmt::format("move {} away, then open it again", shown_path(log.filename()))});
    fs::remove(path.string() + "-shm", failed);
    return fmt::format("the log beside it belonged to another file and was moved aside: {}",
                       shown_path(aside.filename()));
}

void set_up_for_writing(SQLite::Database& db, FolderOf folder) {
    db.exec(folder == FolderOf::ThisMachine ? "PRAGMA journal_mode = WAL" : "PRAGMA journal_mode = DELETE");
    db.exec("PRAGMA synchronous = FULL"); // on disk when commit returns, also when the power goes
}

SQLite::Database reader_of(const fs::path& path) {
    const bool no_log_of_its_own = !fs::exists(path.string() + "-wal") || never_had_a_log(path);
    if (no_log_of_its_own && access(path.parent_path().empty() ? "." : path.parent_path().c_str(), W_OK) != 0)
        return SQLite::Database("file:" + in_uri(path) + "?immutable=1",
                                SQLite::OPEN_READONLY | SQLite::OPEN_URI, kBusy_ms);
    return SQLite::Database(path.string(), SQLite::OPEN_READONLY, kBusy_ms);
}

void require_project(SQLite::Database& db, const fs::path& path) {
    const int id = db.execAndGet("PRAGMA application_id").getInt();
    const int version = db.execAndGet("PRAGMA user_version").getInt();
    if (id != kApplicationId)
        throw InputError({shown_path(path), "", "is no project of this program",
                          "open a *.bathmos project or a *.train.json train"});
    if (version < 0)
        throw InputError({shown_path(path), "", fmt::format("says that it is of version {}", version),
                          "the file is damaged: open a copy beside it (.backup-1), or rescue it"});
    if (version > newest_version())
        throw InputError(
            {shown_path(path), "",
             fmt::format("was written by a newer program (version {} of the file, this one knows {})",
                         version, newest_version()),
             "open it with that program; it was left as it is"});
}

void require_tables(SQLite::Database& db, const fs::path& path) {
    std::vector<std::string> tables(kRecordNames.begin(),
                                    kRecordNames.begin() + static_cast<std::ptrdiff_t>(kinds_in(db)));
    for (const char* name : {"number", "edit", "change", "trace", "trace_column", "trace_piece", "about"})
        tables.emplace_back(name);
    if (has_files(db))
        tables.emplace_back("file");
    for (const std::string& table : tables)
        if (!db.tableExists(table))
            throw InputError(
                {shown_path(path), table, "is missing: the file is damaged",
                 "open a copy beside it (.backup-1), or rescue it: File, Rescue a damaged project"});
}

} // namespace bathmos::io
