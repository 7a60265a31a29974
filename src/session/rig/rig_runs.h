// Rig runs of a project, and the model put beside them.
#pragma once

#include "core/project/project.h"
#include "core/rig/rig_run.h"

namespace bathmos::session {

/// The last run that was made with a revision and has its trace; null for none.
const Entry* last_run(const Project& project, Id revision);
/// The same by its number; 0 for none.
Id last_run_id(const Project& project, Id revision);

/// The model's onset over the very speeds that a rig covered, so that the two can be compared: the trend, and
/// so the onset, depends on the range it is fitted in. `run` null or of fewer than two steps: over all rows,
/// which is `whole`.
OnsetResult onset_beside(const std::vector<SpeedMetrics>& rows, const OnsetResult& whole, const RigRun* run);

} // namespace bathmos::session
