// What would help: the changes of shelf and usual steps for a case, studied by the full model.
#pragma once

#include "session/cases/case_input.h"

namespace bathmos::session {

/// The query for a case: its range, limits, target, engine. The pointers in it are into `input`.
ChangeStudyQuery change_study_query(const CaseInput& input, const CaseFile& file, const Verdict& verdict);

/// Singles with their uncertainty, then combinations that reach the target, as they are found: `single` and
/// `combination` hear each. Minutes. Throws Stopped.
struct StudyWatch {
    std::function<void(const ChangeOutcome&)> single{}, combination{};
    ProgressSink progress{};
    std::stop_token stop{};
};
ChangeStudy study_changes(const CaseInput& input, const CaseFile& file, const Verdict& verdict,
                          const std::vector<TrainChange>& changes, const StudyWatch& watch);
/// The changes that can be made of a case's train.
std::vector<TrainChange> changes_of_case(const CaseInput& input);

} // namespace bathmos::session
