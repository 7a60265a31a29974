// One revision judged: problems, figures, findings with their waivers, open checks, clearances.
#pragma once

#include "core/fit/judgement.h"
#include "session/log/part_ages.h"

#include <memory>

namespace bathmos::session {

/// A finding of a train; one that was waived no longer marks predictions.
struct FoundFit {
    Finding finding;
    Id waiver = 0; ///< 0: stands
};

/// What follows from a train at once.
struct TrainFacts {
    std::vector<InputProblem> problems;
    std::optional<RigidMotion> rigid;    ///< empty while there are problems
    std::optional<TrainFigures> figures; ///< likewise
};
TrainFacts facts_of(const Train& train);

struct RevisionJudgement {
    std::vector<FoundFit> findings;
    std::vector<OpenCheck> open_checks;
    std::optional<Clearance> piston, other_valve;
    /// Rules of the findings that mark predictions: stops that stand, and unusual numbers that nobody
    /// confirmed.
    std::vector<std::string> stops() const;
};

/// `revision` must be one of the project's, `facts` its train's; `motion` null: standing still.
/// `asked`, if given, remembers what revisions ask for from call to call; `record`, if given, is what the
/// project says of the use of its parts, by which their age is judged.
RevisionJudgement judge_revision(const Project& project, Id revision, const TrainFacts& facts,
                                 const Motion* motion = nullptr, AskedChecks* asked = nullptr,
                                 const PartRecord* record = nullptr);

} // namespace bathmos::session
