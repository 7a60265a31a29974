// A project's records as the case file of one revision: pulls of this state and of the last good one, rig
// run, model, changes, findings.
#pragma once

#include "core/verdict/verdict.h"
#include "io/project/trace.h"

#include <functional>
#include <map>
#include <string>

namespace bathmos::io {

/// Everything that a worker needs, taken out of the project at once.
struct CaseInput {
    Project project;
    Id revision = 0;
    Id before = 0; ///< last good state's revision; the same where only the surroundings changed; 0 for none
    std::vector<Id> pulls, pulls_before; ///< entries, this state's and the last good one's
    Id rig_run = 0;
    std::map<Id, PackedTrace> traces;
};

/// States are told apart by revision and by what else a pull says was changed. This state is that of the
/// revision's latest pull; the last good one comes before it in the same revision, else in the nearest
/// ancestor that has pulls, else it is the parent without pulls. Throws InputError for an unknown revision or
/// a damaged trace.
CaseInput gather_case(const Project& project, Id revision, const std::function<PackedTrace(Id)>& trace);

/// Reads, analyses, sweeps and tries: seconds. Throws InputError; Stopped.
CaseFile open_case(const CaseInput& input, FactsQuery query);

/// Speeds to sweep for an engine: from under half its target to 15 % past it.
SpeedRange range_for(double target_rpm);

/// Pulls of one revision with the same surroundings, in the order they were kept.
struct PullState {
    Id revision = 0;
    std::string changed; ///< what else was changed, as the pulls say
    std::vector<Id> pulls;
};
/// All states of a revision, the latest last.
std::vector<PullState> pull_states(const Project& project, Id revision);

std::string verdict_json(const CaseFile& file, const Verdict& verdict);

} // namespace bathmos::io
