#include "session/rig/rig_runs.h"

namespace bathmos::session {

Id last_run_id(const Project& project, Id revision) {
    Id out = 0;
    for (const auto& [id, run] : project.of(EntryKind::RigRun))
        if (run.revision == revision && !run.traces.empty())
            out = id;
    return out;
}

const Entry* last_run(const Project& project, Id revision) {
    const Id id = last_run_id(project, revision);
    return id ? &project.of(EntryKind::RigRun).at(id) : nullptr;
}

} // namespace bathmos::session
