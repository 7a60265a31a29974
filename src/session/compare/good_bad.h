// The last state of a build that was good, the first that was bad, and what lies between them: what changed,
// what each change does by the model, what was run and written down meanwhile (docs/report.md).
#pragma once

#include "core/verdict/case_file.h"
#include "session/dyno/pull_states.h"
#include "session/log/time_line.h"
#include "session/rig/run_set.h"

namespace bathmos::session {

enum class StateMark { Unknown, Good, Bad };

/// A revision that was run, pulled or failed.
struct SeenState {
    Id revision = 0;
    std::string label;
    StateMark mark = StateMark::Unknown;
    std::vector<std::string> why; ///< what tells, in words
};

/// What a worker needs to judge the states that lead to a revision.
struct SeenInput {
    Project project;
    Id revision = 0;
    double target_rpm = 0;
    TakenStates pulls;
    std::vector<RunInput> runs; ///< the last of each revision
    LimitsInForce limits{};
};
/// Throws InputError for a revision that is not there or a damaged trace.
SeenInput gather_seen(const Project& project, Id revision, const std::function<io::PackedTrace(Id)>& trace);

/// In the order in which they were made. Bad: something failed, its power breaks, or the rig's limit lies
/// below what is wanted. Good: it was run, and none of these. A run whose limit nobody wanted more of says
/// nothing. Throws Stopped.
std::vector<SeenState> seen_states(const SeenInput& input, Results& results,
                                   const ProgressSink& progress = {}, const std::stop_token& stop = {});

/// The first bad state after a good one, the last such turn; 0 where there is none.
struct GoodBad {
    Id good = 0, bad = 0;
};
GoodBad last_good_first_bad(const std::vector<SeenState>& states);

struct BetweenStates {
    GoodBad of;
    ChangeFacts changes;                     ///< what undoing each alone would gain at the bad one
    std::optional<double> good_rpm, bad_rpm; ///< limits by the model
    std::vector<Difference> effects;         ///< on mass, stiffness, loads ...
    std::vector<LogLine> lines; ///< of the build, from the good state to the bad one, newest first
    double cycles = 0;          ///< that were run with the good one
};
/// By the model, with the range and limits given: seconds. Throws InputError for revisions that are not
/// there, are the same or cannot be run; Stopped.
BetweenStates study_between(const Project& project, const GoodBad& of, const SpeedRange& range,
                            const LimitsInForce& limits, Results& results, const ProgressSink& progress = {},
                            const std::stop_token& stop = {});

} // namespace bathmos::session
