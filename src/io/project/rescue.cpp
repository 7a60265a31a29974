#include "io/project/rescue.h"
#include "io/file/content_hash.h"

#include "core/problem/input_error.h"
#include "core/tasks/tasks.h"
#include "io/project/page_scan.h"
#include "io/project/project_opening.h"
#include "io/project/schema.h"
#include "io/project/store.h"
#include "io/project/trace_rows.h"
#include "io/text/encoding.h"

#include <algorithm>
#include <fmt/format.h>
#include <map>
#include <set>

namespace bathmos::io {

namespace {

// What was found, whichever way.
struct Found {
    Project project;
    std::map<Id, PackedTrace> traces;
    std::map<std::string, std::string> files; ///< by hash
    std::vector<std::string> lost;
    bool whole = true; ///< the library found no fault
};

template <class Work>
bool reads(Found& found, const std::string& what, Work work) {
    try {
        work();
        return true;
    } catch (const SQLite::Exception& error) {
        found.lost.push_back(fmt::format("{}: {}", what, error.what()));
    } catch (const InputError& error) {
        found.lost.push_back(fmt::format("{}: {}", what, error.problem().what));
    }
    found.whole = false;
    return false;
}

// Numbers of a table from both ends, as far as its pages lead.
std::set<Id> numbers_of(SQLite::Database& db, std::string_view table, Found& found) {
    std::set<Id> out;
    for (const char* way : {"", " DESC"})
        try {
            SQLite::Statement rows(db, fmt::format("SELECT id FROM {} ORDER BY id{}", table, way));
            while (rows.executeStep())
                out.insert(rows.getColumn(0).getInt64());
            break;
        } catch (const SQLite::Exception&) { // from the other end, then by page
            found.whole = false;
        }
    return out;
}

// Those that still are what their hash says.
void read_files(SQLite::Database& db, Found& found, const std::stop_token& stop) {
    for (const Id id : numbers_of(db, "file", found)) {
        throw_if_stopped(stop);
        reads(found, fmt::format("file {}", id), [&] {
            SQLite::Statement row(db, "SELECT hash, data FROM file WHERE id = ?");
            row.bind(1, id);
            if (!row.executeStep())
                return;
            std::string bytes(static_cast<const char*>(row.getColumn(1).getBlob()),
                              static_cast<std::size_t>(row.getColumn(1).getBytes()));
            if (content_hash(bytes) != row.getColumn(0).getString())
                throw InputError({"", "", "is damaged", ""});
            found.files[row.getColumn(0).getString()] = std::move(bytes);
        });
    }
}

void read_by_number(SQLite::Database& db, Found& found, const std::stop_token& stop) {
    for (std::size_t kind = 0; kind < kinds_in(db); ++kind)
        for (const Id id : numbers_of(db, kRecordNames[kind], found)) {
            throw_if_stopped(stop);
            reads(found, fmt::format("{} {}", kRecordNames[kind], id), [&] {
                SQLite::Statement row(db,
                                      fmt::format("SELECT body FROM {} WHERE id = ?", kRecordNames[kind]));
                row.bind(1, id);
                if (row.executeStep())
                    put_record(found.project, static_cast<RecordKind>(kind), id,
                               row.getColumn(0).getString());
            });
        }
    for (const Id id : numbers_of(db, "trace", found)) {
        throw_if_stopped(stop);
        reads(found, fmt::format("trace {}", id), [&] {
            PackedTrace trace = read_trace_rows(db, id);
            unpacked(trace, stop); // throws for what is damaged
            found.traces[id] = std::move(trace);
        });
    }
    if (has_files(db))
        read_files(db, found, stop);
}

// The first version's tables begin where a new file has them; those made later stand anywhere, and are left
// out.
std::map<std::string, std::uint32_t> usual_roots() {
    SQLite::Database fresh(":memory:", SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
    migrate(fresh);
    std::map<std::string, std::uint32_t> out;
    SQLite::Statement rows(fresh, "SELECT name, rootpage FROM sqlite_master WHERE type = 'table'");
    while (rows.executeStep())
        out[rows.getColumn(0).getString()] = rows.getColumn(1).getUInt();
    for (std::size_t kind = kFirstKinds; kind < kRecordKinds; ++kind)
        out.erase(std::string(kRecordNames[kind]));
    out.erase("file");
    return out;
}

bool has_record(const Project& project, RecordKind kind, Id id) {
    return !record_text(project, kind, id).empty();
}

// A record's text found on some page: under its own table, or the first kind that takes it.
bool keep_text(Project& project, std::size_t first, std::size_t last, Id id, const std::string& text) {
    for (std::size_t kind = first; kind < last; ++kind) {
        const auto k = static_cast<RecordKind>(kind);
        if (has_record(project, k, id))
            return true;
        try {
            put_record(project, k, id, text);
            return true;
        } catch (const InputError&) { // another kind's, or damaged
        }
    }
    return false;
}

// By what no other entry has: no page leads to a table that was made later.
bool is_calibration(const std::string& text) {
    return text.find("\"chosen\"") != std::string::npos && text.find("\"evidence_") != std::string::npos;
}

void keep_scanned_records(const std::vector<ScannedRow>& rows,
                          const std::map<std::string, std::uint32_t>& roots, Found& found) {
    std::size_t astray = 0;
    for (const bool led_to : {true, false}) // what its table leads to first
        for (const ScannedRow& row : rows) {
            if (row.id < 1 || row.texts.size() != 2 || !row.texts[1].starts_with('{') ||
                (row.root != 0) != led_to)
                continue;
            if (!led_to) {
                constexpr auto calibration = static_cast<std::size_t>(RecordKind::Calibration);
                const std::size_t first = is_calibration(row.texts[1]) ? calibration : 0;
                astray += keep_text(found.project, first, kRecordKinds, row.id, row.texts[1]);
                continue;
            }
            for (std::size_t kind = 0; kind < kFirstKinds; ++kind)
                if (roots.at(std::string(kRecordNames[kind])) == row.root)
                    keep_text(found.project, kind, kind + 1, row.id, row.texts[1]);
        }
    if (astray > 0)
        found.lost.push_back(
            fmt::format("the order of {} records: read from pages that nothing led to", astray));
}

void keep_scanned_traces(const std::vector<ScannedRow>& rows,
                         const std::map<std::string, std::uint32_t>& roots, Found& found) {
    std::map<Id, PackedTrace> traces;
    for (const ScannedRow& row : rows)
        if (row.root == roots.at("trace") && row.texts.size() == 5 && !found.traces.contains(row.id))
            traces[row.id] = {row.texts[1], row.texts[2], row.texts[3], {}, {}};
    for (const ScannedRow& row : rows) {
        const bool column = row.root == roots.at("trace_column") && row.texts.size() == 5 && row.id == 0,
                   piece = row.root == roots.at("trace_piece") && row.texts.size() == 6;
        if (!column && !piece)
            continue;
        const auto at = traces.find(row.numbers[column ? 0 : 1]);
        if (at == traces.end())
            continue;
        const auto count = [&](std::size_t i) {
            return static_cast<std::size_t>(std::max<std::int64_t>(0, row.numbers[i]));
        };
        if (piece)
            at->second.pieces.push_back({count(2), count(3), count(4), row.texts[5]});
        else if (row.numbers[1] >= 0 && row.numbers[1] < 64) {
            at->second.columns.resize(std::max(at->second.columns.size(), count(1) + 1));
            at->second.columns[count(1)] = {row.texts[2], row.numbers[3] == 4, count(4)};
        }
    }
    for (auto& [id, trace] : traces) {
        std::sort(trace.pieces.begin(), trace.pieces.end(), [](const auto& a, const auto& b) {
            return std::pair(a.column, a.piece) < std::pair(b.column, b.piece);
        });
        reads(found, fmt::format("trace {}", id), [&, &trace = trace, id = id] {
            if (trace.columns.empty())
                throw InputError({"", "", "its columns cannot be read", ""});
            unpacked(trace);
            found.traces[id] = std::move(trace);
        });
    }
}

Found find_all(const std::filesystem::path& damaged, const std::stop_token& stop) {
    Found found;
    reads(found, "the file", [&] {
        SQLite::Database db = reader_of(damaged);
        found.whole = db.execAndGet("PRAGMA quick_check(1)").getString() == "ok";
        read_by_number(db, found, stop);
    });
    if (found.whole)
        return found;
    const std::map<std::string, std::uint32_t> roots = usual_roots();
    std::vector<std::uint32_t> pages;
    for (const auto& [name, root] : roots)
        pages.push_back(root);
    const std::vector<ScannedRow> rows = scan_pages(damaged, pages, stop);
    keep_scanned_records(rows, roots, found);
    keep_scanned_traces(rows, roots, found);
    return found;
}

void mend_revisions(Project& p, std::vector<std::string>& lost) {
    for (auto& [id, revision] : p.revisions) {
        if (revision.parent && !p.revisions.contains(revision.parent)) {
            lost.push_back(fmt::format("revision {}: the one before it; it begins the build now", id));
            revision.parent = 0;
        }
        std::erase_if(revision.assembly.parts, [&, id = id](const auto& fitted) {
            const bool gone = !p.parts.contains(fitted.second.part);
            if (gone)
                lost.push_back(fmt::format("revision {}: its link to part {}; the numbers are kept", id,
                                           fitted.second.name));
            return gone;
        });
    }
}

void mend_builds(Project& p, std::vector<std::string>& lost) {
    for (const auto& [id, revision] : p.revisions)
        if (Build& build = p.builds[revision.build]; build.head == 0) {
            build.name = revision.assembly.train.name;
            build.head = id;
            lost.push_back(fmt::format("build {}: made anew from its revisions", revision.build));
        }
    for (auto& [id, build] : p.builds) {
        const std::vector<Id> own = p.revisions_of(id);
        if (own.empty())
            lost.push_back(fmt::format("build {}: none of its revisions is readable", build.name));
        else if (std::find(own.begin(), own.end(), build.head) == own.end())
            build.head = own.back();
        if (p.engines.contains(build.engine))
            continue;
        build.engine = build.engine ? build.engine : 1;
        p.engines[build.engine].name = "engine, lost";
        lost.push_back(fmt::format("engine of build {}", build.name));
    }
    std::erase_if(p.builds, [&](const auto& entry) { return !p.revisions.contains(entry.second.head); });
}

// Takes out or mends what refers to records that are gone.
void mend_references(Project& p, std::vector<std::string>& lost) {
    mend_revisions(p, lost);
    mend_builds(p, lost);
    std::erase_if(p.predictions,
                  [&](const auto& entry) { return !p.revisions.contains(entry.second.revision); });
    for (auto& kind : p.entries)
        for (auto& [id, entry] : kind)
            if (entry.revision && !p.revisions.contains(entry.revision)) {
                lost.push_back(fmt::format("{}: the revision it belongs to", entry.name));
                entry.revision = 0;
            }
}

std::vector<RecordChange> all_of(const Project& p) {
    std::vector<RecordChange> out;
    for (std::size_t kind = 0; kind < kRecordKinds; ++kind)
        for (const Id id : record_ids(p, static_cast<RecordKind>(kind)))
            out.push_back(
                {static_cast<RecordKind>(kind), id, record_text(p, static_cast<RecordKind>(kind), id)});
    return out;
}

// Writes what was found; nothing is left of it when that fails.
void write_all(Found& found, const std::filesystem::path& to, RescueReport& report,
               const std::stop_token& stop) {
    try {
        Store store = Store::create(to);
        std::map<Id, Id> moved; // traces get new numbers
        for (const auto& [id, trace] : found.traces) {
            throw_if_stopped(stop);
            moved[id] = store.add_trace(trace);
            ++report.traces;
        }
        for (const auto& [hash, bytes] : found.files)
            store.add_file(bytes);
        for (auto& kind : found.project.entries)
            for (auto& [id, entry] : kind) {
                std::vector<Id> kept;
                for (const Id trace : entry.traces)
                    if (moved.contains(trace))
                        kept.push_back(moved.at(trace));
                entry.traces = kept;
            }
        store.note(all_of(found.project)); // what it begins with is no edit
    } catch (...) {
        remove_side_files(to);
        std::error_code none;
        std::filesystem::remove(to, none);
        throw;
    }
}

} // namespace

RescueReport rescue(const std::filesystem::path& damaged, const std::filesystem::path& to,
                    const std::stop_token& stop) {
    if (std::filesystem::exists(to))
        throw InputError({shown_path(to), "", "is there already", "choose another name"});
    Found found = find_all(damaged, stop);
    mend_references(found.project, found.lost);
    RescueReport report;
    report.records = all_of(found.project).size();
    if (report.records == 0 && found.traces.empty())
        throw InputError(
            {shown_path(damaged), "", "nothing in it can be read", "open a copy beside it (.backup-1)"});
    write_all(found, to, report, stop);
    report.lost = std::move(found.lost);
    return report;
}

} // namespace bathmos::io
