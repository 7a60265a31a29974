#include "io/project/store.h"
#include "io/file/content_hash.h"

#include "core/problem/input_error.h"
#include "core/tasks/tasks.h"
#include "io/project/project_opening.h"
#include "io/project/schema.h"
#include "io/project/store_copies.h"
#include "io/project/trace_rows.h"
#include "io/project/write_lock.h"
#include "io/text/encoding.h"

#include <algorithm>
#include <charconv>
#include <cstdlib>
#include <ctime>
#include <fmt/chrono.h>
#include <fmt/format.h>
#include <map>
#include <unistd.h>

namespace bathmos::io {

namespace fs = std::filesystem;

namespace {

// Texts one by one as the file gives them, then read on all cores: a season's revisions are many.
Project read_records(SQLite::Database& db) {
    struct StoredText {
        RecordKind kind;
        Id id;
        std::string text;
    };
    std::vector<StoredText> all;
    for (std::size_t kind = 0; kind < kinds_in(db); ++kind) {
        SQLite::Statement rows(db, fmt::format("SELECT id, body FROM {} ORDER BY id", kRecordNames[kind]));
        while (rows.executeStep())
            all.push_back(
                {static_cast<RecordKind>(kind), rows.getColumn(0).getInt64(), rows.getColumn(1).getString()});
    }
    constexpr std::size_t piece = 64;
    std::vector<Project> read((all.size() + piece - 1) / piece);
    parallel_for(read.size(), [&](std::size_t p) {
        for (std::size_t i = p * piece; i < std::min(all.size(), (p + 1) * piece); ++i)
            put_record(read[p], all[i].kind, all[i].id, all[i].text);
    });
    Project out;
    for (std::size_t i = 0; i < all.size(); ++i)
        move_record(read[i / piece], out, all[i].kind, all[i].id);
    return out;
}

} // namespace

std::string now_text() {
    // The demo of a package carries the package's date, so that it is the same byte by byte.
    const char* given = std::getenv("SOURCE_DATE_EPOCH");
    const std::time_t now =
        given ? static_cast<std::time_t>(std::strtoll(given, nullptr, 10)) : std::time(nullptr);
    return fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(now));
}

struct Store::Inside {
    Inside(fs::path where, SQLite::Database&& database) : path(std::move(where)), db(std::move(database)) {}

    fs::path path;
    WriteLock lock;
    SQLite::Database db;
    FileIdentity identity;        ///< of the file as it was opened
    std::int64_t seen_writes = 0; ///< how often the file was written to, by what we know of
    std::string read_only_why, backup_trouble, log_set_aside;
    Project project;
    std::map<std::string, Id> numbers; ///< last one given out, by kind
    bool step_ended = true;

    void load() {
        project = read_records(db);
        SQLite::Statement rows(db, "SELECT kind, last FROM number");
        while (rows.executeStep())
            numbers[rows.getColumn(0).getString()] = rows.getColumn(1).getInt64();
    }
    void load_told() {
        try {
            load();
        } catch (const InputError& error) {
            throw error.in(shown_path(path));
        }
    }
    bool in_memory() const { return path == ":memory:"; }
    void remember_state() {
        seen_writes = about("writes");
        if (!in_memory())
            identity = identity_of(path);
    }
    // Whether what is in hand is still what the file holds: it may be gone, or somebody else may have written
    // to it past the lock. Asked within the transaction that is to write.
    void require_unchanged() {
        if (!in_memory() && identity_of(path) != identity)
            throw FileChanged(
                {shown_path(path), "",
                 identity_of(path) == FileIdentity{}
                     ? "is no longer there: it was deleted or moved while it was open, so this was not kept"
                     : "is another file now than the one that was opened, so this was not kept",
                 "save a copy of what is open here: File, Save a copy"});
        if (about("writes") != seen_writes)
            throw FileChanged({shown_path(path), "",
                               "was changed by another program meanwhile, so this was not kept",
                               "save a copy of what is open here, then open the project again"});
    }
    // A transaction that writes on what was read, or not at all. Counts itself in the file, where the next
    // writer looks.
    class Write {
      public:
        explicit Write(Inside& inside)
            : inside_(inside), all_(inside.db, SQLite::TransactionBehavior::IMMEDIATE) {
            inside.require_unchanged();
            inside.count("writes");
        }
        void commit() {
            all_.commit();
            ++inside_.seen_writes;
        }

      private:
        Inside& inside_;
        SQLite::Transaction all_;
    };
    void require_writable() const {
        if (!read_only_why.empty())
            throw InputError(
                {shown_path(path), "", read_only_why, "save a copy to work on, or close the other one"});
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
        SQLite::Statement put(db, fmt::format("UPDATE {} SET body = ? WHERE id = ?", table));
        put.bind(1, change.text);
        put.bind(2, change.id);
        if (put.exec() == 1)
            return;
        SQLite::Statement add(db, fmt::format("INSERT INTO {} (body, id) VALUES (?, ?)", table));
        add.bind(1, change.text);
        add.bind(2, change.id);
        add.exec();
    }
    void count(const char* what) {
        SQLite::Statement put(
            db, "INSERT INTO about (key, value) VALUES (?, '1') ON CONFLICT (key) DO UPDATE SET "
                "value = CAST(value AS INTEGER) + 1");
        put.bind(1, what);
        put.exec();
    }
    std::int64_t about(const char* key) {
        SQLite::Statement row(db, "SELECT value FROM about WHERE key = ?");
        row.bind(1, key);
        if (!row.executeStep())
            return 0;
        const std::string text = row.getColumn(0).getString();
        std::int64_t out = 0;
        std::from_chars(text.data(), text.data() + text.size(), out); // damaged: as if it were not there
        return out;
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
    // "" where there is none, or where it cannot be read: that is no reason to stop.
    std::string text_of_step(bool undone) {
        if (!read_only_why.empty())
            return {};
        try {
            return what_of(edit_at(undone));
        } catch (const SQLite::Exception&) {
            return {};
        }
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
            Write all(*this);
            if (undo)
                keep_for_redo(edit, changes);
            add_orphans(changes);
            for (const RecordChange& change : changes)
                write(change);
            SQLite::Statement mark(db, "UPDATE edit SET undone = ? WHERE id = ?");
            mark.bind(1, undo ? 1 : 0);
            mark.bind(2, edit);
            mark.exec();
            count("edits");
            all.commit();
            step_ended = true;
            apply(changes);
            return changes;
        });
    }
    // Keeps the last good copies, if there was any edit since the newest.
    void back_up() {
        const std::int64_t made = about("edits");
        if (in_memory() || made == about("backed_up") || made == 0)
            return;
        write_backup(db, path);
        SQLite::Statement mark(db, "INSERT OR REPLACE INTO about (key, value) VALUES ('backed_up', ?)");
        mark.bind(1, std::to_string(made));
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
        throw InputError({shown_path(path), "", "is there already", "choose another name, or open it"});
    return told(path, [&] {
        const fs::path where = memory ? fs::path(":memory:") : path;
        auto inside = std::make_unique<Inside>(
            where, SQLite::Database(where.string(), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE, kBusy_ms));
        const FolderOf folder = memory ? FolderOf::ThisMachine : folder_of(path);
        if (!memory)
            inside->lock = WriteLock(path, folder);
        set_up_for_writing(inside->db, folder);
        migrate(inside->db);
        if (!memory)
            inside->lock.lock_file_itself(path);
        inside->remember_state();
        return Store(std::move(inside));
    });
}

Store Store::open(const fs::path& path) {
    if (!fs::exists(path))
        throw InputError({shown_path(path), "", "is not there", "check the name; was it moved?"});
    return told(path, [&] {
        const FolderOf folder = folder_of(path);
        WriteLock lock(path, folder);
        if (lock.open_under_another_name())
            throw InputError({shown_path(path), "",
                              "is open elsewhere under another name of the same file (a hard link)",
                              "close it there, or open it by the name that it has there"});
        const bool several_names = has_several_names(path);
        const bool may_write = access(path.c_str(), W_OK) == 0 && !several_names;
        std::string log_set_aside = lock.held() ? set_foreign_log_aside(path) : std::string();
        if (lock.held() && may_write) {
            auto inside = std::make_unique<Inside>(
                path, SQLite::Database(path.string(), SQLite::OPEN_READWRITE, kBusy_ms));
            require_project(inside->db, path);
            set_up_for_writing(inside->db, folder);
            migrate(inside->db);
            require_tables(inside->db, path);
            inside->lock = std::move(lock);
            inside->log_set_aside = std::move(log_set_aside);
            remove_unfinished_copies(path);
            inside->load_told();
            try {
                inside->back_up();
            } catch (const std::exception& error) { // no reason not to open
                inside->backup_trouble = error.what();
            }
            inside->remember_state();
            return Store(std::move(inside));
        }
        auto inside = std::make_unique<Inside>(path, reader_of(path));
        const std::string holder = lock.holder();
        inside->lock = std::move(lock); // stays open as long as the file, see WriteLock
        inside->read_only_why =
            several_names    ? std::string("is open to read only, as the file has several names (hard "
                                              "links): writing to one would change the others")
            : holder.empty() ? std::string("is open to read only, as file or folder cannot be written")
                             : "is open to read only, as it is open elsewhere: " + holder;
        require_project(inside->db, path);
        require_tables(inside->db, path);
        inside->load_told();
        inside->remember_state();
        return Store(std::move(inside));
    });
}

const fs::path& Store::path() const {
    return in_->path;
}
const std::string& Store::read_only_why() const {
    return in_->read_only_why;
}
std::vector<std::string> Store::notes() const {
    std::vector<std::string> out;
    if (!in_->log_set_aside.empty())
        out.push_back(in_->log_set_aside);
    if (!in_->backup_trouble.empty())
        out.push_back("no copy could be kept beside it: " + in_->backup_trouble);
    return out;
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
        Inside::Write all(*in_);
        const Id edit = in_->edit_for(what, key);
        for (const RecordChange& change : changes) {
            in_->record_change(edit, change);
            in_->write(change);
        }
        in_->drop_if_empty(edit);
        in_->keep_numbers();
        in_->count("edits");
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
        Inside::Write all(*in_);
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
    return in_->text_of_step(false);
}
std::string Store::redo_text() const {
    return in_->text_of_step(true);
}
std::vector<RecordChange> Store::undo() {
    return in_->step(true);
}
std::vector<RecordChange> Store::redo() {
    return in_->step(false);
}
std::int64_t Store::edits() const {
    return told(in_->path, [&] { return in_->about("edits"); });
}

Id Store::add_trace(const PackedTrace& trace) {
    in_->require_writable();
    return told(in_->path, [&] {
        Inside::Write all(*in_);
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
            throw InputError({shown_path(in_->path), fmt::format("trace {}", id), "is not there",
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

std::string Store::add_file(std::string_view bytes) {
    in_->require_writable();
    if (bytes.size() > kMostKeptBytes)
        throw InputError({shown_path(in_->path), "file", "is larger than 32 MB", "make it smaller"});
    return told(in_->path, [&] {
        std::string hash = content_hash(bytes);
        Inside::Write all(*in_);
        SQLite::Statement put(in_->db, "INSERT OR IGNORE INTO file (hash, data) VALUES (?, ?)");
        put.bind(1, hash);
        put.bind(2, bytes.data(), static_cast<int>(bytes.size()));
        put.exec();
        all.commit();
        return hash;
    });
}

std::string Store::file(const std::string& hash) const {
    return told(in_->path, [&] {
        const InputError lost({shown_path(in_->path), "file " + hash, "is not there", "add it again"});
        if (!has_files(in_->db))
            throw lost;
        SQLite::Statement row(in_->db, "SELECT data FROM file WHERE hash = ?");
        row.bind(1, hash);
        if (!row.executeStep())
            throw lost;
        std::string out(static_cast<const char*>(row.getColumn(0).getBlob()),
                        static_cast<std::size_t>(row.getColumn(0).getBytes()));
        if (content_hash(out) != hash)
            throw InputError({shown_path(in_->path), "file " + hash, "is damaged", "add it again"});
        return out;
    });
}

std::vector<KeptFile> Store::files() const {
    return told(in_->path, [&] {
        std::vector<KeptFile> out;
        if (!has_files(in_->db))
            return out;
        SQLite::Statement rows(in_->db, "SELECT hash, length(data) FROM file ORDER BY hash");
        while (rows.executeStep())
            out.push_back({rows.getColumn(0).getString(), rows.getColumn(1).getInt64()});
        return out;
    });
}

void Store::save_copy(const fs::path& path) const {
    told(path, [&] {
        std::optional<WriteLock> target;
        if (fs::exists(path)) {
            target.emplace(path, folder_of(path));
            if (!target->held())
                throw InputError({shown_path(path), "", "is open elsewhere: " + target->holder(),
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
            throw InputError({shown_path(path), "",
                              fmt::format("cannot be written: {}", error.code().message()),
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

} // namespace bathmos::io
