#include "core/project/project.h"

#include "core/train/train_check.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos {

namespace {

class References {
  public:
    References(std::string kind, Id id, std::vector<InputProblem>& out)
        : place_(fmt::format("{} {}", kind, id)), out_(out) {}

    template <class Map>
    void needs(const Map& map, Id id, const char* what) {
        if (!map.contains(id))
            out_.push_back({"", place_, fmt::format("{} {} is not there", what, id),
                            "restore that record, or take this one out"});
    }
    template <class Map>
    void may_have(const Map& map, Id id, const char* what) {
        if (id != 0)
            needs(map, id, what);
    }

  private:
    std::string place_;
    std::vector<InputProblem>& out_;
};

} // namespace

Id part_named(const Entry& entry) {
    constexpr double kMostId = 1e15;
    const auto at = entry.numbers.find("part");
    return at != entry.numbers.end() && at->second >= 1 && at->second <= kMostId ? static_cast<Id>(at->second)
                                                                                 : 0;
}

bool Project::frozen(Id revision) const {
    for (const EntryKind kind : {EntryKind::RigRun, EntryKind::DynoPull})
        for (const auto& [id, entry] : of(kind))
            if (entry.revision == revision)
                return true;
    return false;
}

std::set<Id> Project::frozen_revisions() const {
    std::set<Id> out;
    for (const EntryKind kind : {EntryKind::RigRun, EntryKind::DynoPull})
        for (const auto& [id, entry] : of(kind))
            out.insert(entry.revision);
    return out;
}

std::vector<Id> Project::children(Id revision) const {
    std::vector<Id> out; // of higher numbers than their parent
    for (auto at = revisions.upper_bound(revision); at != revisions.end(); ++at)
        if (at->second.parent == revision)
            out.push_back(at->first);
    return out;
}

std::vector<Id> Project::line_to(Id revision) const {
    std::vector<Id> out;
    for (Id id = revision; id != 0 && revisions.contains(id) && out.size() <= revisions.size();
         id = revisions.at(id).parent)
        out.push_back(id);
    std::reverse(out.begin(), out.end());
    return out;
}

std::vector<Id> Project::revisions_of(Id build) const {
    std::vector<Id> out; // numbers grow, so parents come first
    for (const auto& [id, r] : revisions)
        if (r.build == build)
            out.push_back(id);
    return out;
}

std::string Project::revision_label(Id revision) const {
    const auto at = revisions.find(revision);
    if (at == revisions.end())
        return "–";
    const auto place = 1 + std::count_if(revisions.begin(), at, [&](const auto& one) {
                           return one.second.build == at->second.build;
                       });
    return label_at(static_cast<std::size_t>(place), at->second);
}

std::string Project::label_at(std::size_t place, const Revision& revision) {
    return fmt::format("r{}{}{}", place, revision.name.empty() ? "" : " ", revision.name);
}

std::vector<Id> Project::users_of(Id part) const {
    std::vector<Id> out;
    for (const auto& [id, build] : builds) {
        const auto head = revisions.find(build.head);
        if (head == revisions.end())
            continue;
        for (const auto& [kind, fitted] : head->second.assembly.parts)
            if (fitted.part == part)
                out.push_back(id);
    }
    return out;
}

std::vector<InputProblem> check_project(const Project& p) {
    std::vector<InputProblem> out;
    for (const auto& [id, part] : p.parts)
        for (InputProblem problem : check_part(part)) {
            problem.location = fmt::format("part {}: {}", id, problem.location);
            out.push_back(std::move(problem));
        }
    for (const auto& [id, build] : p.builds) {
        References refs("build", id, out);
        refs.needs(p.engines, build.engine, "engine");
        refs.needs(p.revisions, build.head, "revision");
    }
    for (const auto& [id, revision] : p.revisions) {
        References refs("revision", id, out);
        refs.needs(p.builds, revision.build, "build");
        refs.may_have(p.revisions, revision.parent, "parent revision");
        if (revision.parent >= id)
            out.push_back({"", fmt::format("revision {}", id), "its parent is younger than itself",
                           "number revisions in the order that they were made"});
        for (const auto& [kind, fitted] : revision.assembly.parts)
            refs.needs(p.parts, fitted.part, "part");
    }
    for (const auto& [id, prediction] : p.predictions)
        References("prediction", id, out).needs(p.revisions, prediction.revision, "revision");
    constexpr const char* kNames[] = {"sheet",   "lobe", "rig run", "dyno pull",  "plan",
                                      "verdict", "log",  "waiver",  "calibration"};
    for (std::size_t kind = 0; kind < kEntryKinds; ++kind)
        for (const auto& [id, entry] : p.entries[kind])
            References(kNames[kind], id, out).may_have(p.revisions, entry.revision, "revision");
    return out;
}

} // namespace bathmos
