// Runs of a build beside each other: each reduced with its own revision's train, what was gained, what crept.
#pragma once

#include "core/project/project.h"
#include "core/rig/hold_creep.h"
#include "core/rig/run_compare.h"
#include "io/project/trace.h"
#include "session/results/results.h"

namespace bathmos::session {

/// Runs of a build, by number; those that were hidden too where asked for.
std::vector<Id> runs_of(const Project& project, Id build, bool hidden);
bool is_hidden(const Entry& run);

/// What a run is reduced from.
struct RunInput {
    Id id = 0;
    std::string name; ///< with its revision
    Train train;
    io::PackedTrace trace;
    bool reversed = false;
};
struct ReducedRun {
    Id id = 0;
    std::string name;
    Train train;
    std::shared_ptr<const RigRun> run; ///< null where it failed
    std::vector<rig::HeldSpeed> holds;
    std::string failure;
};
/// Each by what is kept of it, else anew. Throws Stopped.
std::vector<ReducedRun> reduce_runs(const std::vector<RunInput>& inputs, const LimitsInForce& limits,
                                    Results& results, const ProgressSink& progress = {},
                                    const std::stop_token& stop = {});
/// Of those that could be reduced; empty for fewer than two.
std::optional<RunComparison> compared(const std::vector<ReducedRun>& runs);

} // namespace bathmos::session
