#include "session/rig/rig_runs.h"

namespace bathmos::session {

Id last_run_id(const Project& project, Id revision) {
    Id out = 0;
    for (const auto& [id, run] : project.of(EntryKind::RigRun))
        if (run.revision == revision && !run.traces.empty())
            out = id;
    return out;
}

std::vector<Id> runs_beside(const Project& project, Id revision) {
    std::vector<Id> out;
    const auto here = project.revisions.find(revision);
    if (here == project.revisions.end())
        return out;
    for (auto other = project.revisions.rbegin(); other != project.revisions.rend(); ++other)
        if (other->first != revision && other->second.build == here->second.build)
            if (const Id run = last_run_id(project, other->first))
                out.push_back(run);
    return out;
}

const Entry* last_run(const Project& project, Id revision) {
    const Id id = last_run_id(project, revision);
    return id ? &project.of(EntryKind::RigRun).at(id) : nullptr;
}

} // namespace bathmos::session
