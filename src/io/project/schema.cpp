#include "io/project/schema.h"

#include "core/problem/input_error.h"
#include "io/project/record_json.h"
#include "io/text/encoding.h"

#include <fmt/format.h>
#include <sqlite3.h>
#include <vector>

namespace bathmos::io {

namespace {

// Columns beside number and text that other programs may want to look for; worked out from the text.
std::string shown_columns(RecordKind kind) {
    const auto column = [](const char* name, const char* type) {
        return fmt::format(", {0} {1} GENERATED ALWAYS AS (json_extract(body, '$.{0}')) VIRTUAL", name, type);
    };
    switch (kind) {
    case RecordKind::Part:
        return column("kind", "TEXT") + column("name", "TEXT") + column("serial", "TEXT");
    case RecordKind::Build:
        return column("name", "TEXT") + column("engine", "INTEGER") + column("head", "INTEGER");
    case RecordKind::Revision:
        return column("build", "INTEGER") + column("parent", "INTEGER") + column("reason", "TEXT");
    case RecordKind::Prediction:
        return column("hash", "TEXT") + column("revision", "INTEGER") + column("limit_rpm", "REAL");
    case RecordKind::Engine:
    case RecordKind::LimitSet:
        return column("name", "TEXT");
    default:
        return column("name", "TEXT") + column("revision", "INTEGER");
    }
}

void make_records(SQLite::Database& db, RecordKind kind) {
    db.exec(fmt::format("CREATE TABLE {} (id INTEGER PRIMARY KEY, body TEXT NOT NULL{})", record_name(kind),
                        shown_columns(kind)));
}

constexpr int kWithCalibrations = 3, kWithFiles = 4;

void make_first_tables(SQLite::Database& db) {
    for (std::size_t kind = 0; kind < kFirstKinds; ++kind)
        make_records(db, static_cast<RecordKind>(kind));
    db.exec("CREATE TABLE number (kind TEXT PRIMARY KEY, last INTEGER NOT NULL)");
    db.exec("CREATE TABLE edit (id INTEGER PRIMARY KEY, what TEXT NOT NULL, key TEXT NOT NULL, made TEXT NOT "
            "NULL, undone INTEGER NOT NULL DEFAULT 0)");
    db.exec("CREATE TABLE change (edit INTEGER NOT NULL, kind TEXT NOT NULL, record INTEGER NOT NULL, before "
            "TEXT NOT NULL, after TEXT NOT NULL, PRIMARY KEY (edit, kind, record)) WITHOUT ROWID");
    db.exec("CREATE TABLE trace (id INTEGER PRIMARY KEY, name TEXT NOT NULL, kind TEXT NOT NULL, valve TEXT "
            "NOT NULL, numbers INTEGER NOT NULL)");
    db.exec("CREATE TABLE trace_column (trace INTEGER NOT NULL, place INTEGER NOT NULL, name TEXT NOT NULL, "
            "width INTEGER NOT NULL, numbers INTEGER NOT NULL, PRIMARY KEY (trace, place)) WITHOUT ROWID");
    db.exec("CREATE TABLE trace_piece (id INTEGER PRIMARY KEY, trace INTEGER NOT NULL, place INTEGER NOT "
            "NULL, piece INTEGER NOT NULL, numbers INTEGER NOT NULL, data BLOB NOT NULL)");
    db.exec("CREATE UNIQUE INDEX trace_piece_place ON trace_piece (trace, place, piece)");
    db.exec("CREATE TABLE about (key TEXT PRIMARY KEY, value TEXT NOT NULL)");
    db.exec(fmt::format("PRAGMA application_id = {}", kApplicationId));
}

// What an edit put in stands in the records; `after` is filled while the edit is undone. A program of before
// would take the empty text for a record that goes, so the version says so.
void keep_texts_once(SQLite::Database& db) {
    db.exec("UPDATE change SET after = '' WHERE edit IN (SELECT id FROM edit WHERE undone = 0)");
}

void make_calibrations(SQLite::Database& db) {
    make_records(db, RecordKind::Calibration);
}

void make_files(SQLite::Database& db) {
    db.exec("CREATE TABLE file (id INTEGER PRIMARY KEY, hash TEXT NOT NULL UNIQUE, data BLOB NOT NULL)");
}

// Step i takes a file from version i to i + 1; a new file is one of version 0. Steps are never changed once
// released.
using Step = void (*)(SQLite::Database&);
const std::vector<Step> kSteps = {make_first_tables, keep_texts_once, make_calibrations, make_files};

} // namespace

int newest_version() {
    return static_cast<int>(kSteps.size());
}

std::size_t kinds_in(SQLite::Database& db) {
    return db.execAndGet("PRAGMA user_version").getInt() < kWithCalibrations ? kFirstKinds : kRecordKinds;
}

bool has_files(SQLite::Database& db) {
    return db.execAndGet("PRAGMA user_version").getInt() >= kWithFiles;
}

void migrate(SQLite::Database& db) {
    migrate_to(db, newest_version());
}

void migrate_to(SQLite::Database& db, int newest) {
    SQLite::Transaction all(db);
    for (int version = db.execAndGet("PRAGMA user_version").getInt(); version < newest; ++version) {
        kSteps[static_cast<std::size_t>(version)](db);
        db.exec(fmt::format("PRAGMA user_version = {}", version + 1));
    }
    all.commit();
}

namespace {

// What happened and how to mend it.
std::pair<std::string, std::string> words_for(const SQLite::Exception& error) {
    switch (error.getErrorCode()) {
    case SQLITE_FULL:
        return {"the disk is full, so this was not kept; all that was kept before is safe",
                "make room on the disk, then do it again"};
    case SQLITE_READONLY:
    case SQLITE_PERM:
        return {"the file or its folder cannot be written, so this was not kept",
                "check permissions, or save a copy elsewhere"};
    case SQLITE_CORRUPT:
    case SQLITE_NOTADB:
        return {
            "the file is damaged, or no project",
            "open a copy beside it (.backup-1), or rescue what can be read: File, Rescue a damaged project"};
    case SQLITE_BUSY:
    case SQLITE_LOCKED:
        return {"another program holds the file just now", "close it there, then do it again"};
    case SQLITE_IOERR:
        return {fmt::format("reading or writing failed: {}", error.getErrorStr()),
                "check disk, cable and network folder; all that was kept before is safe"};
    case SQLITE_CANTOPEN:
        return {"cannot be opened or made", "check the folder, its permissions and the space on the disk"};
    default:
        return {fmt::format("could not be kept: {}", error.what()),
                "save a copy elsewhere and send a report"};
    }
}

} // namespace

void refuse_sql(const std::filesystem::path& path, const SQLite::Exception& error) {
    auto [what, mend] = words_for(error);
    throw InputError({shown_path(path), "", std::move(what), std::move(mend)});
}

} // namespace bathmos::io
