// Rig runs of a project.
#pragma once

#include "core/project/project.h"

namespace bathmos::session {

/// The last run that was made with a revision and has its trace; null for none.
const Entry* last_run(const Project& project, Id revision);
/// The same by its number; 0 for none.
Id last_run_id(const Project& project, Id revision);
/// The last run of each other revision of the same build, latest revision first, by number.
std::vector<Id> runs_beside(const Project& project, Id revision);

} // namespace bathmos::session
