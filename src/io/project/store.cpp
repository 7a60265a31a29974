#include "io/project/store.h"

#include "core/problem/input_error.h"
#include "io/project/schema.h"
#include "io/project/trace_rows.h"
#include "io/project/write_lock.h"

#include <algorithm>
#include <ctime>
#include <fmt/chrono.h>
#include <fmt/format.h>
#include <fstream>
#include <map>
#include <sqlite3.h>
#include <unistd.h>

namespace bathmos::io {

namespace fs = std::filesystem;

namespace {

constexpr int kBusy_ms = 2000;

std::optional<RecordKind> find_record_kind(std::string_view name) {
    for (std::size_t kind = 0; kind < kRecordKinds; ++kind)
        if (kRecordNames[kind] == name)
            return static_cast<RecordKind>(kind);
    return std::nullopt;
}

void set_up_for_writing(SQLite::Database& db) {
    db.exec("PRAGMA journal_mode = WAL");
    db.exec("PRAGMA synchronous = FULL"); // on disk when commit returns, also when the power goes
}

// Opens an existing file to read only, also where its folder cannot be written.
SQLite::Database reader_of(const fs::path& path) {
    const bool quiet = !fs::exists(path.string() + "-wal");
    if (quiet && access(path.parent_path().empty() ? "." : path.parent_path().c_str(), W_OK) != 0)
        return SQLite::Database("file:" + path.string() + "?immutable=1",
                                SQLite::OPEN_READONLY | SQLite::OPEN_URI, kBusy_ms);
    return SQLite::Database(path.string(), SQLite::OPEN_READONLY, kBusy_ms);
}

void require_project(SQLite::Database& db, const fs::path& path) {
    const int id = db.execAndGet("PRAGMA application_id").getInt();
    const int version = db.execAndGet("PRAGMA user_version").getInt();
    if (id != kApplicationId)
        throw InputError({path.string(), "", "is no project of this program",
                          "open a *.bathmos project or a *.train.json train"});
    if (version > newest_version())
        throw InputError(
            {path.string(), "",
             fmt::format("was written by a newer program (version {} of the file, this one knows {})",
                         version, newest_version()),
             "open it with that program; it was left as it is"});
}

Project read_records(SQLite::Database& db) {
    Project out;
    for (std::size_t kind = 0; kind < kRecordKinds; ++kind) {
        SQLite::Statement rows(db, fmt::format("SELECT id, body FROM {} ORDER BY id", kRecordNames[kind]));
        while (rows.executeStep())
            put_record(out, static_cast<RecordKind>(kind), rows.getColumn(0).getInt64(),
                       rows.getColumn(1).getString());
    }
    return out;
}

// Copies all tables into another database that has the same ones already.
void copy_tables(SQLite::Database& from, SQLite::Database& to, bool with_pieces) {
    std::vector<std::string> tables(kRecordNames.begin(), kRecordNames.end());
    for (const char* name : {"number", "edit", "change", "trace", "trace_column", "about"})
        tables.emplace_back(name);
    if (with_pieces)
        tables.emplace_back("trace_piece");
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

} // namespace

std::string now_text() {
    return fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(std::time(nullptr)));
}

struct Store::Inside {
    Inside(fs::path where, SQLite::Database&& database) : path(std::move(where)), db(std::move(database)) {}

    fs::path path;
    WriteLock lock;
    SQLite::Database db;
    std::string read_only_why, backup_trouble;
    Project project;
    std::map<std::string, Id> numbers; ///< last one given out, by kind
    bool step_ended = true;

    void load() {
        project = read_records(db);
        SQLite::Statement rows(db, "SELECT kind, last FROM number");
        while (rows.executeStep())
            numbers[rows.getColumn(0).getString()] = rows.getColumn(1).getInt64();
    }
    void require_writable() const {
        if (!read_only_why.empty())
            throw InputError(
                {path.string(), "", read_only_why, "save a copy to work on, or close the other one"});
    }
    void keep_numbers() {
        SQLite::Statement put(db, "INSERT OR REPLACE INTO number (kind, last) VALUES (?, ?)");
        for (const auto& [kind, last] : numbers) {
            put.bind(1, kind);
            put.bind(2, last);
            put.exec();
            put.reset();
        }
    }
    std::string text_of(RecordKind kind, Id id) {
        SQLite::Statement row(db, fmt::format("SELECT body FROM {} WHERE id = ?", record_name(kind)));
        row.bind(1, id);
        return row.executeStep() ? row.getColumn(0).getString() : std::string();
    }
    void write(const RecordChange& change) {
        const std::string_view table = record_name(change.kind);
        if (change.text.empty()) {
            SQLite::Statement out(db, fmt::format("DELETE FROM {} WHERE id = ?", table));
            out.bind(1, change.id);
            out.exec();
            return;
        }
        SQLite::Statement put(db, fmt::format("INSERT OR REPLACE INTO {} (id, body) VALUES (?, ?)", table));
        put.bind(1, change.id);
        put.bind(2, change.text);
        put.exec();
    }
    void count_edit() {
        db.exec(
            "INSERT INTO about (key, value) VALUES ('edits', '1') ON CONFLICT (key) DO UPDATE SET value = "
            "CAST(value AS INTEGER) + 1");
    }
    std::int64_t about(const char* key) {
        SQLite::Statement row(db, "SELECT value FROM about WHERE key = ?");
        row.bind(1, key);
        return row.executeStep() ? std::stoll(row.getColumn(0).getString()) : 0;
    }
    void reserve_numbers(const std::vector<RecordChange>& changes) {
        for (const RecordChange& change : changes) {
            Id& last = numbers[std::string(record_name(change.kind))];
            last = std::max(last, change.id);
        }
    }
    void apply(const std::vector<RecordChange>& changes) {
        for (const RecordChange& change : changes)
            if (change.text.empty())
                remove_record(project, change.kind, change.id);
            else
                put_record(project, change.kind, change.id, change.text);
    }
    // A revision that goes takes what was predicted for it along: that can be computed again.
    void add_orphans(std::vector<RecordChange>& changes) const {
        std::vector<RecordChange> more;
        for (const RecordChange& change : changes)
            if (change.kind == RecordKind::Revision && change.text.empty())
                for (const auto& [id, prediction] : project.predictions)
                    if (prediction.revision == change.id)
                        more.push_back({RecordKind::Prediction, id, ""});
        changes.insert(changes.end(), more.begin(), more.end());
    }
    // Last edit that stands, or first that was undone; 0 for none.
    Id edit_at(bool undone) {
        return db
            .execAndGet(undone ? "SELECT coalesce(min(id), 0) FROM edit WHERE undone = 1"
                               : "SELECT coalesce(max(id), 0) FROM edit WHERE undone = 0")
            .getInt64();
    }
    std::string what_of(Id edit) {
        SQLite::Statement row(db, "SELECT what FROM edit WHERE id = ?");
        row.bind(1, edit);
        return row.executeStep() ? row.getColumn(0).getString() : std::string();
    }
    // The edit that this one goes on with, or a new one.
    Id edit_for(const std::string& what, const std::string& key) {
        db.exec("DELETE FROM change WHERE edit IN (SELECT id FROM edit WHERE undone = 1)");
        const bool undone_were_there = db.exec("DELETE FROM edit WHERE undone = 1") > 0;
        const Id last = edit_at(false);
        if (!key.empty() && !step_ended && !undone_were_there) {
            SQLite::Statement row(db, "UPDATE edit SET what = ? WHERE id = ? AND key = ?");
            row.bind(1, what);
            row.bind(2, last);
            row.bind(3, key);
            if (row.exec() == 1)
                return last;
        }
        SQLite::Statement put(db, "INSERT INTO edit (id, what, key, made) VALUES (?, ?, ?, ?)");
        put.bind(1, last + 1);
        put.bind(2, what);
        put.bind(3, key);
        put.bind(4, now_text());
        put.exec();
        return last + 1;
    }
    // The text before goes into the log; the text after stands in the record itself and is copied there only
    // when the edit is undone. A record that ends as it began has not changed.
    void record_change(Id edit, const RecordChange& change) {
        SQLite::Statement put(
            db, "INSERT INTO change (edit, kind, record, before, after) VALUES (?, ?, ?, ?, '') "
                "ON CONFLICT (edit, kind, record) DO NOTHING");
        put.bind(1, edit);
        put.bind(2, std::string(record_name(change.kind)));
        put.bind(3, change.id);
        put.bind(4, text_of(change.kind, change.id));
        put.exec();
        SQLite::Statement same(
            db, "DELETE FROM change WHERE edit = ? AND kind = ? AND record = ? AND before = ?");
        same.bind(1, edit);
        same.bind(2, std::string(record_name(change.kind)));
        same.bind(3, change.id);
        same.bind(4, change.text);
        same.exec();
    }
    // A step that ends where it began is none.
    void drop_if_empty(Id edit) {
        SQLite::Statement gone(
            db, "DELETE FROM edit WHERE id = ? AND NOT EXISTS (SELECT 1 FROM change WHERE edit = edit.id)");
        gone.bind(1, edit);
        gone.exec();
    }
    // What an edit put in stands in the records until it is undone; then it is kept for the way back.
    void keep_for_redo(Id edit, const std::vector<RecordChange>& changes) {
        for (const RecordChange& change : changes) {
            SQLite::Statement keep(db,
                                   "UPDATE change SET after = ? WHERE edit = ? AND kind = ? AND record = ?");
            keep.bind(1, text_of(change.kind, change.id));
            keep.bind(2, edit);
            keep.bind(3, std::string(record_name(change.kind)));
            keep.bind(4, change.id);
            keep.exec();
        }
    }
    // Puts an edit's texts from one side back.
    std::vector<RecordChange> step(bool undo) {
        require_writable();
        return told(path, [&] {
            const Id edit = edit_at(!undo);
            if (edit == 0)
                return std::vector<RecordChange>{};
            std::vector<RecordChange> changes;
            SQLite::Statement rows(db, fmt::format("SELECT kind, record, {} FROM change WHERE edit = ?",
                                                   undo ? "before" : "after"));
            rows.bind(1, edit);
            while (rows.executeStep())
                if (const auto kind = find_record_kind(rows.getColumn(0).getString()))
                    changes.push_back({*kind, rows.getColumn(1).getInt64(), rows.getColumn(2).getString()});
            SQLite::Transaction all(db);
            if (undo)
                keep_for_redo(edit, changes);
            add_orphans(changes);
            for (const RecordChange& change : changes)
                write(change);
            SQLite::Statement mark(db, "UPDATE edit SET undone = ? WHERE id = ?");
            mark.bind(1, undo ? 1 : 0);
            mark.bind(2, edit);
            mark.exec();
            count_edit();
            all.commit();
            step_ended = true;
            apply(changes);
            return changes;
        });
    }
    // Keeps the last good copies, if there was any edit since the newest.
    void back_up() {
        const std::int64_t edits = about("edits");
        if (path == ":memory:" || edits == about("backed_up") || edits == 0)
            return;
        const std::int64_t bytes =
            db.execAndGet("SELECT coalesce(sum(length(data)), 0) FROM trace_piece").getInt64();
        const fs::path fresh = path.string() + ".backup-new";
        write_copy(db, fresh, bytes <= kBackupTraces_bytes);
        for (int i = kBackups; i > 1; --i)
            if (fs::exists(backup_path(path, i - 1)))
                fs::rename(backup_path(path, i - 1), backup_path(path, i));
        fs::rename(fresh, backup_path(path, 1));
        SQLite::Statement mark(db, "INSERT OR REPLACE INTO about (key, value) VALUES ('backed_up', ?)");
        mark.bind(1, std::to_string(edits));
        mark.exec();
    }
};

Store::Store(std::unique_ptr<Inside> inside) : in_(std::move(inside)) {}
Store::Store(Store&&) noexcept = default;
Store& Store::operator=(Store&&) noexcept = default;
Store::~Store() = default;

Store Store::create(const fs::path& path) {
    const bool memory = path.empty();
    if (!memory && fs::exists(path))
        throw InputError({path.string(), "", "is there already", "choose another name, or open it"});
    return told(path, [&] {
        const fs::path where = memory ? fs::path(":memory:") : path;
        auto inside = std::make_unique<Inside>(
            where, SQLite::Database(where.string(), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE, kBusy_ms));
        if (!memory)
            inside->lock = WriteLock(path);
        set_up_for_writing(inside->db);
        migrate(inside->db);
        return Store(std::move(inside));
    });
}

Store Store::open(const fs::path& path) {
    if (!fs::exists(path))
        throw InputError({path.string(), "", "is not there", "check the name; was it moved?"});
    return told(path, [&] {
        WriteLock lock(path);
        const bool may_write = access(path.c_str(), W_OK) == 0;
        if (lock.held() && may_write) {
            auto inside = std::make_unique<Inside>(
                path, SQLite::Database(path.string(), SQLite::OPEN_READWRITE, kBusy_ms));
            require_project(inside->db, path);
            set_up_for_writing(inside->db);
            migrate(inside->db);
            inside->lock = std::move(lock);
            try {
                inside->load();
            } catch (const InputError& error) {
                throw error.in(path.string());
            }
            try {
                inside->back_up();
            } catch (const std::exception& error) { // no reason not to open
                inside->backup_trouble = error.what();
            }
            return Store(std::move(inside));
        }
        auto inside = std::make_unique<Inside>(path, reader_of(path));
        inside->read_only_why = lock.holder().empty()
                                    ? std::string("is open to read only, as file or folder cannot be written")
                                    : "is open to read only, as it is open elsewhere: " + lock.holder();
        require_project(inside->db, path);
        inside->load();
        return Store(std::move(inside));
    });
}

const fs::path& Store::path() const {
    return in_->path;
}
const std::string& Store::read_only_why() const {
    return in_->read_only_why;
}
const std::string& Store::backup_trouble() const {
    return in_->backup_trouble;
}
const Project& Store::project() const {
    return in_->project;
}

Id Store::next_id(RecordKind kind) const {
    const auto at = in_->numbers.find(std::string(record_name(kind)));
    return at == in_->numbers.end() ? 1 : at->second + 1;
}
Id Store::new_id(RecordKind kind) {
    return ++in_->numbers[std::string(record_name(kind))];
}

void Store::commit(const std::string& what, const std::string& key,
                   const std::vector<RecordChange>& changes) {
    Project read; // what cannot be read again is not kept
    for (const RecordChange& change : changes)
        if (!change.text.empty())
            put_record(read, change.kind, change.id, change.text);
    commit(what, key, changes, std::move(read));
}

void Store::commit(const std::string& what, const std::string& key, const std::vector<RecordChange>& changes,
                   Project read) {
    in_->require_writable();
    in_->reserve_numbers(changes);
    told(in_->path, [&] {
        SQLite::Transaction all(in_->db);
        const Id edit = in_->edit_for(what, key);
        for (const RecordChange& change : changes) {
            in_->record_change(edit, change);
            in_->write(change);
        }
        in_->drop_if_empty(edit);
        in_->keep_numbers();
        in_->count_edit();
        all.commit();
    });
    in_->step_ended = false;
    for (const RecordChange& change : changes)
        move_record(read, in_->project, change.kind, change.id);
}

void Store::note(const std::vector<RecordChange>& changes) {
    in_->require_writable();
    in_->reserve_numbers(changes);
    told(in_->path, [&] {
        SQLite::Transaction all(in_->db);
        for (const RecordChange& change : changes)
            in_->write(change);
        in_->keep_numbers();
        all.commit();
    });
    in_->apply(changes);
}

void Store::end_step() {
    in_->step_ended = true;
}

std::string Store::undo_text() const {
    return in_->read_only_why.empty() ? in_->what_of(in_->edit_at(false)) : std::string();
}
std::string Store::redo_text() const {
    return in_->read_only_why.empty() ? in_->what_of(in_->edit_at(true)) : std::string();
}
std::vector<RecordChange> Store::undo() {
    return in_->step(true);
}
std::vector<RecordChange> Store::redo() {
    return in_->step(false);
}
std::int64_t Store::edits() const {
    return in_->about("edits");
}

Id Store::add_trace(const PackedTrace& trace) {
    in_->require_writable();
    return told(in_->path, [&] {
        SQLite::Transaction all(in_->db);
        const Id id = ++in_->numbers["trace"];
        write_trace_rows(in_->db, id, trace);
        in_->keep_numbers();
        all.commit();
        return id;
    });
}

void Store::skip_trace_number() {
    ++in_->numbers["trace"];
}

PackedTrace Store::trace(Id id) const {
    return told(in_->path, [&] {
        PackedTrace out = read_trace_rows(in_->db, id);
        if (out.columns.empty())
            throw InputError({in_->path.string(), fmt::format("trace {}", id), "is not there",
                              "import the run's file again"});
        return out;
    });
}

std::vector<TraceInfo> Store::traces() const {
    return told(in_->path, [&] {
        std::vector<TraceInfo> out;
        SQLite::Statement rows(in_->db, "SELECT id, name, kind, valve, numbers FROM trace ORDER BY id");
        while (rows.executeStep())
            out.push_back({rows.getColumn(0).getInt64(), rows.getColumn(1).getString(),
                           rows.getColumn(2).getString(), rows.getColumn(3).getString(),
                           rows.getColumn(4).getInt64()});
        return out;
    });
}

void Store::save_copy(const fs::path& path) const {
    told(path, [&] {
        std::optional<WriteLock> target;
        if (fs::exists(path)) {
            target.emplace(path);
            if (!target->held())
                throw InputError({path.string(), "", "is open elsewhere: " + target->holder(),
                                  "close it there, or choose another name"});
        }
        const fs::path fresh = path.string() + ".part";
        try {
            write_copy(in_->db, fresh, true);
            remove_side_files(path);
            fs::rename(fresh, path);
        } catch (const fs::filesystem_error& error) {
            std::error_code none;
            fs::remove(fresh, none);
            throw InputError({path.string(), "", fmt::format("cannot be written: {}", error.code().message()),
                              "check the folder, its permissions and the space on the disk"});
        } catch (...) {
            std::error_code none;
            fs::remove(fresh, none);
            throw;
        }
    });
}

void Store::limit_pages(int more) {
    const int pages = in_->db.execAndGet("PRAGMA page_count").getInt();
    in_->db.exec(fmt::format("PRAGMA max_page_count = {}", pages + more));
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
