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

OnsetResult onset_beside(const std::vector<SpeedMetrics>& rows, const OnsetResult& whole, const RigRun* run) {
    if (!run || run->steps.size() < 2)
        return whole;
    constexpr double half_step_rpm = 50; // recorded speeds stand a little beside the set ones
    return find_onset(rows_within(rows, run->steps.front().speed_rpm - half_step_rpm,
                                  run->steps.back().speed_rpm + half_step_rpm),
                      {});
}

} // namespace bathmos::session
