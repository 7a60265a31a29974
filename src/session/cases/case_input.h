// A project's records as the case file of one revision: pulls of this state and of the last good one, rig
// run, model, changes, findings.
#pragma once

#include "core/verdict/changes.h"
#include "core/verdict/verdict.h"
#include "io/project/trace.h"
#include "session/results/results.h"

#include <functional>
#include <map>
#include <string>

namespace bathmos::session {

/// Everything that a worker needs, taken out of the project at once.
struct CaseInput {
    Project project;
    Id revision = 0;
    Id before = 0; ///< last good state's revision; the same where only the surroundings changed; 0 for none
    std::vector<Id> pulls, pulls_before; ///< entries, this state's and the last good one's
    /// Entries of what came after: the nearest state with pulls on each branch.
    std::map<Id, std::vector<Id>> pulls_later{}; ///< by revision
    Id rig_run = 0;
    bool calibrate = false; ///< where no calibration of the run is kept
    std::map<Id, io::PackedTrace> traces;
    SpeedRange range;       ///< the one in force, as on the strip
    LimitsInForce limits{}; ///< likewise
};

/// States are told apart by revision and by what else a pull says was changed. This state is that of the
/// revision's latest pull; the last good one comes before it in the same revision, else in the nearest
/// ancestor that has pulls, else it is the parent without pulls. Range and limits are the usual range for the
/// train and the project's limits; a window puts its own. Throws InputError for an unknown revision or a
/// damaged trace.
CaseInput gather_case(const Project& project, Id revision, const std::function<io::PackedTrace(Id)>& trace);

/// Reads, analyses, sweeps and tries: seconds, less what `results` holds already. Throws InputError; Stopped.
CaseFile open_case(const CaseInput& input, Results& results, const ProgressSink& progress = {},
                   const std::stop_token& stop = {});

/// Whether two states of a project make the same verdict: predictions and verdicts are no evidence.
bool same_evidence(const Project& a, const Project& b);

/// A verdict as the record that keeps it. `decision` in words; `next` the change decided on, or null.
Entry verdict_record(const Verdict& verdict, Id revision, const std::string& decision,
                     const std::string& reason, const std::string& who, const ChangeOutcome* next);

} // namespace bathmos::session
