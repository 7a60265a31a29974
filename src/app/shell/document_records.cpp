// Edits of records: shelf, engines, builds, sheets, runs, pulls, lobes, verdicts. The train's own edits and
// the file are in document.cpp.
#include "app/shell/document.h"

#include "app/text/words.h"

#include <algorithm>

namespace bathmos::app {

namespace {

using io::RecordKind;

} // namespace

Id Document::add_part(const Part& part) {
    const Id id = store_->new_id(RecordKind::Part);
    const bool kept = commit_change(tr("New part %1").arg(words(part.name)), {}, {{RecordKind::Part, id}},
                                    [&](Project& p) { p.parts[id] = part; });
    return kept ? id : 0;
}

void Document::add_parts(const std::vector<Part>& parts) {
    std::vector<std::pair<RecordKind, Id>> records;
    for (std::size_t i = 0; i < parts.size(); ++i)
        records.emplace_back(RecordKind::Part, store_->new_id(RecordKind::Part));
    commit_change(tr("%1 parts imported").arg(parts.size()), {}, records, [&](Project& p) {
        for (std::size_t i = 0; i < parts.size(); ++i)
            p.parts[records[i].second] = parts[i];
    });
}

void Document::set_part(Id id, const Part& part) {
    set_part(id, part, tr("Part %1").arg(words(part.name)), QStringLiteral("part %1").arg(id));
}

void Document::set_part(Id id, const Part& part, const QString& what, const QString& merge_key) {
    if (!(project().parts.at(id) == part))
        commit_change(what, merge_key, {{RecordKind::Part, id}}, [&](Project& p) { p.parts[id] = part; });
}

bool Document::remove_part(Id id) {
    for (const auto& [number, revision] : project().revisions)
        for (const auto& [kind, fitted] : revision.assembly.parts)
            if (fitted.part == id) {
                emit refused(tr("The part was not taken off the shelf: %1 of %2 carries it, and records keep "
                                "what was run. Note on the part that it is gone.")
                                 .arg(words(project().revision_label(number)),
                                      words(project().builds.at(revision.build).name)));
                return false;
            }
    return commit_change(tr("Part %1 taken off the shelf").arg(words(project().parts.at(id).name)), {},
                         {{RecordKind::Part, id}}, [&](Project& p) { p.parts.erase(id); });
}

void Document::fit_part(Id id) {
    const Part& part = project().parts.at(id);
    try {
        edit(fitted(assembly_, id, part),
             tr("%1 fitted: %2").arg(words(std::string(info(part.kind).label)), words(part.name)));
    } catch (const InputError& error) {
        emit refused(words(error.what()));
    }
}

void Document::shelve_parts() {
    Project next = project();
    Assembly assembly = assembly_;
    std::vector<std::pair<RecordKind, Id>> records;
    for (const PartKindInfo& kind : part_kinds()) {
        if (assembly.find(kind.kind))
            continue;
        std::optional<Part> part = part_from(assembly.train, kind.kind);
        if (!part)
            continue;
        if (part->name == kind.label)
            part->name = std::string(kind.label) + " of " + project().builds.at(build()).name;
        const Id id = store_->new_id(RecordKind::Part);
        next.parts[id] = *part;
        assembly.parts[kind.kind] = {id, part->name, "", true, {}};
        records.emplace_back(RecordKind::Part, id);
    }
    if (records.empty())
        return emit refused(tr("Every part of this train is on the shelf already."));
    const Id id = store_->new_id(RecordKind::Revision), of = build();
    next.revisions[id] = {of, shown_, "", "parts put on the shelf", io::now_text(), assembly};
    next.builds[of].head = id;
    records.emplace_back(RecordKind::Revision, id);
    records.emplace_back(RecordKind::Build, of);
    commit_change(tr("Parts put on the shelf"), {}, records, [&](Project& p) { p = next; });
}

Id Document::add_engine(const Engine& engine) {
    const Id id = store_->new_id(RecordKind::Engine);
    set_engine(id, engine);
    return id;
}

void Document::set_engine(Id id, const Engine& engine) {
    const auto at = project().engines.find(id);
    if (at == project().engines.end() || !(at->second == engine))
        commit_change(tr("Engine %1").arg(words(engine.name)), QStringLiteral("engine %1").arg(id),
                      {{RecordKind::Engine, id}}, [&](Project& p) { p.engines[id] = engine; });
}

void Document::set_build(Id id, const Build& build) {
    if (!(project().builds.at(id) == build))
        commit_change(tr("Build %1").arg(words(build.name)), QStringLiteral("build %1").arg(id),
                      {{RecordKind::Build, id}}, [&](Project& p) { p.builds[id] = build; });
}

void Document::add_build(const Build& build, const Assembly& first) {
    const Id id = store_->new_id(RecordKind::Build), revision = store_->new_id(RecordKind::Revision);
    const bool kept =
        commit_change(tr("New build %1").arg(words(build.name)), {},
                      {{RecordKind::Build, id}, {RecordKind::Revision, revision}}, [&](Project& p) {
                          p.builds[id] = build;
                          p.builds[id].head = revision;
                          p.revisions[revision] = {id, 0, "", "new build", io::now_text(), first};
                      });
    if (kept)
        show(revision);
}

void Document::name_revision(Id id, const QString& name, const QString& reason) {
    commit_change(tr("Revision named"), {}, {{RecordKind::Revision, id}}, [&](Project& p) {
        p.revisions[id].name = name.toStdString();
        p.revisions[id].reason = reason.toStdString();
    });
}

void Document::close_checks(EntryKind kind, const std::vector<std::string>& keys, const QString& text,
                            const std::map<std::string, double>& numbers) {
    const RecordKind record = io::record_kind(kind);
    const Id id = store_->new_id(record);
    const QString what = kind == EntryKind::Waiver ? tr("Waived") : tr("Checked");
    commit_change(what, {}, {{record, id}}, [&](Project& p) {
        p.of(kind)[id] = {
            what.toStdString(), shown_,  io::now_text(), qEnvironmentVariable("USER").toStdString(),
            text.toStdString(), numbers, keys,           {}};
    });
}

void Document::add_rig_run(const QString& name, const io::PackedTrace& trace, bool reversed) {
    if (!store_ || !read_only_why().isEmpty())
        return;
    try {
        const Id stored = store_->add_trace(trace), id = store_->new_id(RecordKind::RigRun);
        std::map<std::string, double> numbers;
        if (reversed)
            numbers["reversed"] = 1;
        commit_change(tr("Rig run %1").arg(name), {}, {{RecordKind::RigRun, id}}, [&](Project& p) {
            p.of(EntryKind::RigRun)[id] = {
                name.toStdString(), shown_, io::now_text(), "", "", numbers, {}, {stored}};
        });
    } catch (const InputError& error) {
        emit refused(tr("The run was read but not kept. %1").arg(words(error.what())));
    }
}

bool Document::add_pulls(const QString& file, const std::vector<std::pair<Entry, io::PackedTrace>>& pulls) {
    if (!store_ || !read_only_why().isEmpty()) {
        emit refused(tr("The pulls were not kept: %1").arg(read_only_why()));
        return false;
    }
    try {
        std::vector<std::pair<RecordKind, Id>> records;
        std::vector<Entry> entries;
        for (const auto& [entry, readings] : pulls) {
            records.emplace_back(RecordKind::DynoPull, store_->new_id(RecordKind::DynoPull));
            entries.push_back(entry);
            entries.back().when = io::now_text();
            entries.back().traces = {store_->add_trace(readings)};
        }
        return commit_change(tr("%n pull(s) of %1", nullptr, static_cast<int>(pulls.size())).arg(file), {},
                             records, [&](Project& p) {
                                 for (std::size_t i = 0; i < records.size(); ++i)
                                     p.of(EntryKind::DynoPull)[records[i].second] = entries[i];
                             });
    } catch (const InputError& error) {
        emit refused(tr("The pulls were read but not kept. %1").arg(words(error.what())));
        return false;
    }
}

Id Document::add_entry(EntryKind kind, const Entry& entry, const QString& what) {
    if (!store_)
        return 0;
    const RecordKind record = io::record_kind(kind);
    const Id id = store_->new_id(record);
    return commit_change(what, {}, {{record, id}}, [&](Project& p) { p.of(kind)[id] = entry; }) ? id : 0;
}

void Document::decide(const Entry& verdict, const Assembly& next, const QString& reason) {
    if (!store_)
        return;
    store_->end_step();
    open_key_.clear();
    open_revision_ = 0;
    const Id of = build(), parent = shown_;
    const Id id = store_->new_id(RecordKind::Revision), record = store_->new_id(RecordKind::Verdict);
    const Assembly kept = as_kept(next);
    commit_change(tr("Decided: %1").arg(words(verdict.name)), {},
                  {{RecordKind::Revision, id}, {RecordKind::Build, of}, {RecordKind::Verdict, record}},
                  [&](Project& p) {
                      p.builds[of].head = id;
                      p.revisions[id] = {of, parent, "", reason.toStdString(), io::now_text(), kept};
                      p.of(EntryKind::Verdict)[record] = verdict;
                  });
}

void Document::set_entry(EntryKind kind, Id id, const Entry& entry, const QString& what) {
    if (project().of(kind).contains(id) && project().of(kind).at(id) != entry)
        commit_change(what, {}, {{io::record_kind(kind), id}}, [&](Project& p) { p.of(kind)[id] = entry; });
}

void Document::remove_entry(EntryKind kind, Id id, const QString& what) {
    if (project().of(kind).contains(id))
        commit_change(what, {}, {{io::record_kind(kind), id}}, [&](Project& p) { p.of(kind).erase(id); });
}

std::vector<Id> Document::add_lobes(const QString& file, const std::vector<GaugedPart>& lobes) {
    if (!store_ || !read_only_why().isEmpty()) {
        emit refused(tr("The lobes were not kept: %1").arg(read_only_why()));
        return {};
    }
    try {
        std::vector<Id> parts;
        std::vector<std::pair<RecordKind, Id>> records;
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
        const bool kept = commit_change(tr("Lobes of %1").arg(file), {}, records, [&](Project& p) {
            for (std::size_t i = 0; i < lobes.size(); ++i) {
                p.parts[parts[i]] = lobes[i].part;
                p.of(EntryKind::Lobe)[records[2 * i + 1].second] = entries[i];
            }
        });
        return kept ? parts : std::vector<Id>{};
    } catch (const InputError& error) {
        emit refused(tr("The lobes were read but not kept. %1").arg(words(error.what())));
        return {};
    }
}

} // namespace bathmos::app
