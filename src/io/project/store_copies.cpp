#include "io/project/store_copies.h"

#include "io/project/record_json.h"
#include "io/project/schema.h"
#include "io/project/store.h"

#include <fmt/format.h>
#include <fstream>

namespace bathmos::io {

namespace fs = std::filesystem;

namespace {

// Copies all tables into another database that has the same ones already.
void copy_tables(SQLite::Database& from, SQLite::Database& to, bool with_pieces) {
    std::vector<std::string> tables(kRecordNames.begin(), kRecordNames.end());
    for (const char* name : {"number", "edit", "change", "trace", "trace_column", "about"})
        tables.emplace_back(name);
    if (with_pieces) {
        tables.emplace_back("trace_piece");
        if (has_files(from))
            tables.emplace_back("file");
    }
    SQLite::Transaction all(to);
    for (const std::string& table : tables) {
        SQLite::Statement rows(from, "SELECT * FROM " + table);
        // generated columns come last and are left out: they are worked out anew
        const bool record = find_record_kind(table).has_value();
        const int columns = record ? 2 : rows.getColumnCount();
        std::string names, marks;
        for (int i = 0; i < columns; ++i) {
            names += std::string(i ? ", " : "") + rows.getColumnName(i);
            marks += i ? ", ?" : "?";
        }
        SQLite::Statement put(to, fmt::format("INSERT INTO {} ({}) VALUES ({})", table, names, marks));
        while (rows.executeStep()) {
            for (int i = 0; i < columns; ++i) {
                const SQLite::Column value = rows.getColumn(i);
                if (value.isInteger())
                    put.bind(i + 1, value.getInt64());
                else if (value.isBlob())
                    put.bind(i + 1, value.getBlob(), value.getBytes());
                else
                    put.bind(i + 1, value.getString());
            }
            put.exec();
            put.reset();
        }
    }
    all.commit();
}

} // namespace

void write_copy(SQLite::Database& from, const fs::path& to, bool with_pieces) {
    fs::remove(to);
    {
        SQLite::Database db(to.string(), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE, kBusy_ms);
        migrate(db);
        copy_tables(from, db, with_pieces);
    }
}

fs::path backup_path(const fs::path& path, int number) {
    return path.string() + fmt::format(".backup-{}", number);
}

void write_backup(SQLite::Database& from, const fs::path& path) {
    const std::int64_t bytes =
        from.execAndGet("SELECT coalesce(sum(length(data)), 0) FROM trace_piece").getInt64() +
        (has_files(from) ? from.execAndGet("SELECT coalesce(sum(length(data)), 0) FROM file").getInt64() : 0);
    const fs::path fresh = path.string() + ".backup-new";
    try {
        write_copy(from, fresh, bytes <= kBackupTraces_bytes);
    } catch (...) {
        remove_unfinished_copies(path);
        throw;
    }
    for (int i = kBackups; i > 1; --i)
        if (fs::exists(backup_path(path, i - 1)))
            fs::rename(backup_path(path, i - 1), backup_path(path, i));
    fs::rename(fresh, backup_path(path, 1));
}

void remove_unfinished_copies(const fs::path& path) {
    std::error_code none;
    for (const char* end : {".backup-new", ".backup-new-journal", ".part", ".part-journal"})
        fs::remove(path.string() + end, none);
}

void remove_side_files(const fs::path& path) {
    std::error_code none;
    for (const char* end : {"-wal", "-shm", "-journal"})
        fs::remove(path.string() + end, none);
}

bool looks_like_project(const fs::path& path) {
    constexpr std::string_view kMagic = "SQLite format 3";
    std::ifstream file(path, std::ios::binary);
    std::string head(kMagic.size(), '\0');
    if (file.read(head.data(), static_cast<std::streamsize>(head.size())))
        return head == kMagic || path.string().ends_with(kProjectEnding);
    return path.string().ends_with(kProjectEnding);
}

std::vector<fs::path> backups_of(const fs::path& path) {
    std::vector<fs::path> out;
    for (int i = 1; i <= kBackups; ++i)
        if (fs::exists(backup_path(path, i)))
            out.push_back(backup_path(path, i));
    return out;
}

} // namespace bathmos::io
