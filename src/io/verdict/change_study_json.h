// What would study, for a project's revision, and as JSON.
#pragma once

#include "core/verdict/changes.h"
#include "io/verdict/case_input.h"

namespace bathmos::io {

struct ChangeStudy {
    std::vector<TrainChange> changes;
    std::vector<ChangeOutcome> singles, combinations;
};

/// The query for a case: ranges, target, engine. The pointers in it are into `input`.
ChangeStudyQuery change_study_query(const CaseInput& input, const CaseFile& file, const Verdict& verdict);

/// Singles with their spread, then combinations that reach the target. Minutes. Throws Stopped.
ChangeStudy study_changes(const CaseInput& input, const CaseFile& file, const Verdict& verdict,
                          const ProgressSink& progress, const std::stop_token& stop);

/// With `help`, "would_help" and "combinations" too.
std::string verdict_json(const CaseFile& file, const Verdict& verdict, const ChangeStudy* study);

} // namespace bathmos::io
