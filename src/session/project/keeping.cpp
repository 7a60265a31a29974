#include "session/project/keeping.h"

#include "session/bench/sheet_record.h"

#include "core/life/part_life.h"
#include "io/dyno/pull_file.h"
#include "io/life/use_file.h"

#include <fmt/format.h>

namespace bathmos::session {

namespace {

using io::RecordChange;
using io::RecordKind;

void require_revision(const io::Store& store, Id revision) {
    if (!store.project().revisions.contains(revision))
        throw InputError({store.path().string(), "revision", fmt::format("{} is not there", revision),
                          "give the number of a revision of the project"});
}

RecordChange change_of(RecordKind kind, Id id, EntryKind entry_kind, const Entry& entry) {
    Project one;
    one.of(entry_kind)[id] = entry;
    return {kind, id, io::record_text(one, kind, id)};
}

// The date that a person gave, or now.
std::string dated(const std::string& when) {
    if (!when.empty() && !life::day_of(when))
        throw InputError(
            {"", "when", fmt::format("\"{}\" is no date", when), "2026-02-27 or 2026-02-27T08:00:00Z"});
    return when.empty() ? io::now_text() : when;
}

// What the run cost the parts: time at each speed, by its turns.
life::EngineUse use_of_turns(const io::PackedTrace& trace) {
    life::EngineUse out;
    io::PackedTrace turns{trace.name, trace.kind, trace.valve, {}, {}};
    for (std::size_t i = 0; i < trace.columns.size(); ++i)
        if (const std::string& name = trace.columns[i].name;
            name == "turn_rpm" || name == "once_per_crank_turn") {
            for (io::PackedTrace::Piece piece : trace.pieces)
                if (piece.column == i) {
                    piece.column = turns.columns.size();
                    turns.pieces.push_back(std::move(piece));
                }
            turns.columns.push_back(trace.columns[i]);
        }
    if (turns.columns.size() != 2)
        return out;
    const io::Trace read = io::unpacked(turns);
    const bool half = !read.columns[1].numbers.empty() && read.columns[1].numbers.front() != 0;
    for (const double rpm : read.columns[0].numbers)
        if (rpm >= life::kStanding_rpm && rpm <= life::kMost_rpm)
            out.add(rpm, (half ? 60 : 120) / rpm);
    return out;
}

} // namespace

Id keep_rig_run(io::Store& store, const RigRunNote& note, const io::PackedTrace& trace) {
    require_revision(store, note.revision);
    Entry run;
    run.name = note.name;
    run.revision = note.revision;
    run.when = dated(note.when);
    if (note.reversed)
        run.numbers["reversed"] = 1;
    run.numbers.merge(life::as_numbers(use_of_turns(trace)));
    run.traces = {store.add_trace(trace)};
    const Id id = store.new_id(RecordKind::RigRun);
    store.commit("Rig run " + note.name, "", {change_of(RecordKind::RigRun, id, EntryKind::RigRun, run)});
    return id;
}

NotedPull noted(const Pull& pull, const PullNote& note) {
    NotedPull out;
    Entry& entry = out.entry;
    entry.name = pull.name;
    entry.revision = note.revision;
    entry.text = note.notes;
    entry.when = note.when;
    if (!note.changed.empty())
        entry.words["changed"] = note.changed;
    if (!note.fuel.empty())
        entry.words["fuel"] = note.fuel;
    if (note.boost_kPa)
        entry.numbers["boost_kPa"] = *note.boost_kPa;
    if (pull.corrected)
        entry.numbers["corrected"] = 1;
    out.readings = io::packed(io::trace_of(pull));
    return out;
}

void note_use(std::vector<NotedPull>& pulls, const std::filesystem::path& file, const std::stop_token& stop) {
    if (pulls.empty())
        return;
    try {
        const life::LoggedUse read = io::read_use(file, {}, stop);
        pulls.front().entry.numbers.merge(life::as_numbers(read.use));
        pulls.front().entry.numbers["runs"] = 0;
    } catch (const InputError&) { // no time in it: most dynos write speeds alone
    }
}

std::vector<Id> keep_pulls(io::Store& store, const std::string& file, const std::vector<NotedPull>& pulls) {
    for (const NotedPull& pull : pulls)
        require_revision(store, pull.entry.revision);
    std::vector<Id> out;
    std::vector<RecordChange> changes;
    for (const NotedPull& pull : pulls) {
        Entry entry = pull.entry;
        entry.when = dated(entry.when);
        entry.traces = {store.add_trace(pull.readings)};
        out.push_back(store.new_id(RecordKind::DynoPull));
        changes.push_back(change_of(RecordKind::DynoPull, out.back(), EntryKind::DynoPull, entry));
    }
    store.commit(fmt::format("{} pull{} of {}", pulls.size(), pulls.size() == 1 ? "" : "s", file), "",
                 changes);
    return out;
}

Id keep_sheet(io::Store& store, const std::string& name, const bench::SheetDraft& draft, Id revision,
              const std::string& when) {
    require_revision(store, revision);
    const Train& train = store.project().revisions.at(revision).assembly.train;
    Entry entry = sheet_record(draft, judged(draft, train), name, "", revision);
    entry.closes.clear(); // nobody has taken it over
    entry.when = dated(when);
    const Id id = store.new_id(RecordKind::Sheet);
    store.commit("Sheet " + name, "", {change_of(RecordKind::Sheet, id, EntryKind::Sheet, entry)});
    return id;
}

Id keep_log_entry(io::Store& store, const Entry& entry) {
    if (entry.revision != 0)
        require_revision(store, entry.revision);
    const Id id = store.new_id(RecordKind::Log);
    store.commit("Log " + entry.name, "", {change_of(RecordKind::Log, id, EntryKind::Log, entry)});
    return id;
}

} // namespace bathmos::session
