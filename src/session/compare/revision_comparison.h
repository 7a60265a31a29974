// What differs between two revisions, and what that does.
#pragma once

#include "core/project/effects.h"
#include "core/project/project.h"

namespace bathmos::session {

struct RevisionComparison {
    std::vector<Difference> differences; ///< in the order of the train file, then parts and facts
    std::vector<Difference> effects;     ///< empty where either train cannot be computed
};
/// Limits come from the predictions that the project holds. Throws InputError for a revision that is not
/// there.
RevisionComparison compare_revisions(const Project& project, Id before, Id after);

/// Figures of a revision's train; empty while it has problems.
std::optional<TrainFigures> figures_of_revision(const Revision& revision);

/// What the one in hand is set against: the compared one, else its parent; 0 for none.
Id set_against(const Project& project, Id shown, Id compared);

} // namespace bathmos::session
