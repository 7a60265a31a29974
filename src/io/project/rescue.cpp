#include "io/project/rescue.h"

#include "core/problem/input_error.h"
#include "core/tasks/tasks.h"
#include "io/project/schema.h"
#include "io/project/store.h"
#include "io/project/trace_rows.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

// Highest number that may be there: what the file says, else far beyond what anybody has.
Id highest(SQLite::Database& db, std::string_view table) {
    constexpr Id kFar = 20000;
    for (const std::string& query : {fmt::format("SELECT max(id) FROM {}", table),
                                     fmt::format("SELECT last FROM number WHERE kind = '{}'", table)})
        try {
            return db.execAndGet(query).getInt64();
        } catch (const SQLite::Exception&) { // try the other way
        }
    return kFar;
}

// Numbers of a table one by one, so that a damaged page costs what is on it and no more.
template <class Read>
void each_row(SQLite::Database& db, std::string_view table, RescueReport& report, const std::stop_token& stop,
              Read read) {
    for (Id id = 1, last = highest(db, table); id <= last; ++id) {
        throw_if_stopped(stop);
        try {
            read(id);
        } catch (const SQLite::Exception& error) {
            report.lost.push_back(fmt::format("{} {}: {}", table, id, error.what()));
        } catch (const InputError& error) {
            report.lost.push_back(fmt::format("{} {}: {}", table, id, error.problem().what));
        }
    }
}

Project readable_records(SQLite::Database& db, RescueReport& report, const std::stop_token& stop) {
    Project out;
    for (std::size_t kind = 0; kind < kRecordKinds; ++kind)
        each_row(db, kRecordNames[kind], report, stop, [&](Id id) {
            SQLite::Statement row(db, fmt::format("SELECT body FROM {} WHERE id = ?", kRecordNames[kind]));
            row.bind(1, id);
            if (row.executeStep())
                put_record(out, static_cast<RecordKind>(kind), id, row.getColumn(0).getString());
        });
    return out;
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

} // namespace

RescueReport rescue(const std::filesystem::path& damaged, const std::filesystem::path& to,
                    const std::stop_token& stop) {
    RescueReport report;
    return told(damaged, [&] {
        SQLite::Database db(damaged.string(), SQLite::OPEN_READONLY);
        db.execAndGet("SELECT count(*) FROM sqlite_master");
        Project project = readable_records(db, report, stop);
        mend_references(project, report.lost);
        const std::vector<RecordChange> changes = all_of(project);
        report.records = changes.size();
        if (changes.empty())
            throw InputError(
                {damaged.string(), "", "nothing in it can be read", "open a copy beside it (.backup-1)"});
        Store store = Store::create(to);
        std::map<Id, Id> moved; // traces get new numbers
        try {
            each_row(db, "trace", report, stop, [&](Id id) {
                const PackedTrace trace = read_trace_rows(db, id);
                if (trace.name.empty() && trace.columns.empty())
                    return;      // no such number
                unpacked(trace); // throws for what is damaged
                moved[id] = store.add_trace(trace);
                ++report.traces;
            });
        } catch (const Stopped&) {
            { const Store gone = std::move(store); }
            remove_side_files(to);
            std::filesystem::remove(to);
            throw;
        }
        for (auto& kind : project.entries)
            for (auto& [id, entry] : kind) {
                std::vector<Id> kept;
                for (const Id trace : entry.traces)
                    if (moved.contains(trace))
                        kept.push_back(moved.at(trace));
                entry.traces = kept;
            }
        store.note(all_of(project)); // what it begins with is no edit
        return report;
    });
}

} // namespace bathmos::io
