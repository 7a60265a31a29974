// Edits of records: shelf, engines, builds, sheets, runs, pulls, lobes, verdicts. The train's own edits and
// the file are in project_session.cpp.
#include "session/project/project_session.h"

#include <fmt/format.h>

namespace bathmos::session {

namespace {
using io::RecordKind;
} // namespace

std::string ProjectSession::add_file(std::string_view bytes) {
    require_store();
    return store_->add_file(bytes);
}

Id ProjectSession::add_part(const Part& part) {
    require_store();
    const Id id = store_->new_id(RecordKind::Part);
    commit_change("New part " + part.name, {}, {{RecordKind::Part, id}},
                  [&](Project& p) { p.parts[id] = part; });
    return id;
}

void ProjectSession::add_parts(const std::vector<Part>& parts) {
    require_store();
    Records records;
    for (std::size_t i = 0; i < parts.size(); ++i)
        records.emplace_back(RecordKind::Part, store_->new_id(RecordKind::Part));
    commit_change(fmt::format("{} parts imported", parts.size()), {}, records, [&](Project& p) {
        for (std::size_t i = 0; i < parts.size(); ++i)
            p.parts[records[i].second] = parts[i];
    });
}

void ProjectSession::take_answer(const Answer& answer, const Entry& note) {
    require_store();
    Records records;
    for (std::size_t i = 0; i < answer.parts.size(); ++i)
        records.emplace_back(RecordKind::Part, store_->new_id(RecordKind::Part));
    const Id line = store_->new_id(RecordKind::Log);
    records.emplace_back(RecordKind::Log, line);
    commit_change("Answer of a maker", {}, records, [&](Project& p) {
        for (std::size_t i = 0; i < answer.parts.size(); ++i)
            p.parts[records[i].second] = answer.parts[i];
        p.of(EntryKind::Log)[line] = note;
    });
}

void ProjectSession::set_part(Id id, const Part& part) {
    set_part(id, part, "Part " + part.name, fmt::format("part {}", id));
}

void ProjectSession::set_part(Id id, const Part& part, const std::string& what,
                              const std::string& merge_key) {
    if (!(project().parts.at(id) == part))
        commit_change(what, merge_key, {{RecordKind::Part, id}}, [&](Project& p) { p.parts[id] = part; });
}

void ProjectSession::remove_part(Id id) {
    const std::string& name = project().parts.at(id).name;
    for (const auto& [number, revision] : project().revisions)
        for (const auto& [kind, fitted] : revision.assembly.parts)
            if (fitted.part == id)
                throw InputError(
                    {"", "",
                     "The part was not taken off the shelf: " + project().revision_label(number) + " of " +
                         project().builds.at(revision.build).name +
                         " carries it, and records keep what was run",
                     "note on the part that it is gone"});
    commit_change("Part " + name + " taken off the shelf", {}, {{RecordKind::Part, id}},
                  [&](Project& p) { p.parts.erase(id); });
}

void ProjectSession::fit_part(Id id) {
    const Part& part = project().parts.at(id);
    edit(fitted(assembly_, id, part), fmt::format("{} fitted: {}", info(part.kind).label, part.name));
}

void ProjectSession::shelve_parts() {
    require_store();
    Assembly assembly = assembly_;
    std::map<Id, Part> parts;
    Records records;
    for (const PartKindInfo& kind : part_kinds()) {
        if (assembly.find(kind.kind))
            continue;
        std::optional<Part> part = part_from(assembly.train, kind.kind);
        if (!part)
            continue;
        if (part->name == kind.label)
            part->name = std::string(kind.label) + " of " + project().builds.at(build()).name;
        const Id id = store_->new_id(RecordKind::Part);
        parts[id] = *part;
        assembly.parts[kind.kind] = {id, part->name, "", true, {}};
        records.emplace_back(RecordKind::Part, id);
    }
    if (records.empty())
        throw InputError({"", "", "Every part of this train is on the shelf already", ""});
    const Id id = store_->new_id(RecordKind::Revision), of = build();
    records.emplace_back(RecordKind::Revision, id);
    records.emplace_back(RecordKind::Build, of);
    commit_change("Parts put on the shelf", {}, records, [&](Project& p) {
        p.parts = parts;
        p.revisions[id] = {of, shown_, "", "parts put on the shelf", io::now_text(), assembly};
        p.builds[of].head = id;
    });
}

Id ProjectSession::add_engine(const Engine& engine) {
    require_store();
    const Id id = store_->new_id(RecordKind::Engine);
    set_engine(id, engine);
    return id;
}

void ProjectSession::set_engine(Id id, const Engine& engine) {
    const auto at = project().engines.find(id);
    if (at != project().engines.end() && at->second == engine)
        return;
    const double target_before = at == project().engines.end() ? 0 : at->second.target_rpm;
    commit_change("Engine " + engine.name, fmt::format("engine {}", id), {{RecordKind::Engine, id}},
                  [&](Project& p) { p.engines[id] = engine; });
    if (id == engine_ && engine.target_rpm != target_before)
        follow_engine(true);
}

void ProjectSession::set_build(Id id, const Build& build) {
    if (!(project().builds.at(id) == build))
        commit_change("Build " + build.name, fmt::format("build {}", id), {{RecordKind::Build, id}},
                      [&](Project& p) { p.builds[id] = build; });
}

void ProjectSession::add_build(const Build& build, const Assembly& first) {
    require_store();
    const Id id = store_->new_id(RecordKind::Build), revision = store_->new_id(RecordKind::Revision);
    commit_change("New build " + build.name, {}, {{RecordKind::Build, id}, {RecordKind::Revision, revision}},
                  [&](Project& p) {
                      p.builds[id] = build;
                      p.builds[id].head = revision;
                      p.revisions[revision] = {id, 0, "", "new build", io::now_text(), first};
                  });
    show(revision);
}

void ProjectSession::name_revision(Id id, const std::string& name, const std::string& reason) {
    commit_change("Revision named", {}, {{RecordKind::Revision, id}}, [&](Project& p) {
        p.revisions[id].name = name;
        p.revisions[id].reason = reason;
    });
}

void ProjectSession::close_checks(EntryKind kind, const std::vector<std::string>& keys,
                                  const std::string& words, const std::map<std::string, double>& numbers,
                                  const std::string& who) {
    require_store();
    const RecordKind record = io::record_kind(kind);
    const Id id = store_->new_id(record);
    const std::string what = kind == EntryKind::Waiver ? "Waived" : "Checked";
    commit_change(what, {}, {{record, id}}, [&](Project& p) {
        p.of(kind)[id] = {what, shown_, io::now_text(), who, words, numbers, keys, {}};
    });
}

void ProjectSession::add_rig_run(const std::string& name, const io::PackedTrace& trace, bool reversed) {
    require_store();
    keep_rig_run(*store_, {name, shown_, reversed}, trace);
    after_commit();
}

void ProjectSession::add_pulls(const std::string& file, const std::vector<NotedPull>& pulls) {
    require_store();
    keep_pulls(*store_, file, pulls);
    after_commit();
}

Id ProjectSession::add_entry(EntryKind kind, const Entry& entry, const std::string& what) {
    return add_entries(kind, {entry}, what).front();
}

std::vector<Id> ProjectSession::add_entries(EntryKind kind, const std::vector<Entry>& entries,
                                            const std::string& what) {
    require_store();
    const RecordKind record = io::record_kind(kind);
    std::vector<Id> out;
    Records records;
    for (std::size_t i = 0; i < entries.size(); ++i) {
        out.push_back(store_->new_id(record));
        records.emplace_back(record, out.back());
    }
    commit_change(what, {}, records, [&](Project& p) {
        for (std::size_t i = 0; i < entries.size(); ++i)
            p.of(kind)[out[i]] = entries[i];
    });
    return out;
}

void ProjectSession::set_entry(EntryKind kind, Id id, const Entry& entry, const std::string& what) {
    if (project().of(kind).contains(id) && project().of(kind).at(id) != entry)
        commit_change(what, {}, {{io::record_kind(kind), id}}, [&](Project& p) { p.of(kind)[id] = entry; });
}

void ProjectSession::remove_entry(EntryKind kind, Id id, const std::string& what) {
    if (project().of(kind).contains(id))
        commit_change(what, {}, {{io::record_kind(kind), id}}, [&](Project& p) { p.of(kind).erase(id); });
}

void ProjectSession::decide(const Entry& verdict, const Assembly& next, const std::string& reason) {
    require_store();
    keep_with_revision(EntryKind::Verdict, store_->new_id(RecordKind::Verdict), verdict, next,
                       "Decided: " + verdict.name, reason);
}

void ProjectSession::settle_sheet(Id id, Entry sheet, const Assembly& next) {
    require_store();
    const std::string what = "Sheet taken over: " + sheet.name;
    if (next == assembly_)
        set_entry(EntryKind::Sheet, id, sheet, what);
    else
        keep_with_revision(EntryKind::Sheet, id, std::move(sheet), next, what, what);
}

void ProjectSession::keep_with_revision(EntryKind kind, Id record, Entry entry, const Assembly& next,
                                        const std::string& what, const std::string& reason) {
    store_->end_step();
    open_key_.clear();
    open_revision_ = 0;
    const Id of = build(), parent = shown_, id = store_->new_id(RecordKind::Revision);
    if (kind == EntryKind::Sheet) // it answers what the numbers that it brings ask for
        entry.revision = id;
    commit_change(what, {},
                  {{RecordKind::Revision, id}, {RecordKind::Build, of}, {io::record_kind(kind), record}},
                  [&](Project& p) {
                      p.builds[of].head = id;
                      p.revisions[id] = {of, parent, "", reason, io::now_text(), next};
                      p.of(kind)[record] = entry;
                  });
}

std::vector<Id> ProjectSession::add_lobes(const std::string& file, const std::vector<GaugedPart>& lobes) {
    require_store();
    std::vector<Id> parts;
    Records records;
    std::vector<Entry> entries;
    for (const GaugedPart& lobe : lobes) {
        parts.push_back(store_->new_id(RecordKind::Part));
        records.emplace_back(RecordKind::Part, parts.back());
        records.emplace_back(RecordKind::Lobe, store_->new_id(RecordKind::Lobe));
        Entry entry{lobe.part.name, 0, io::now_text(), "", "", lobe.numbers, {}, {}};
        entry.numbers["part"] = static_cast<double>(parts.back());
        entry.traces = {store_->add_trace(lobe.readings)};
        entries.push_back(std::move(entry));
    }
    commit_change("Lobes of " + file, {}, records, [&](Project& p) {
        for (std::size_t i = 0; i < lobes.size(); ++i) {
            p.parts[parts[i]] = lobes[i].part;
            p.of(EntryKind::Lobe)[records[2 * i + 1].second] = entries[i];
        }
    });
    return parts;
}

} // namespace bathmos::session
