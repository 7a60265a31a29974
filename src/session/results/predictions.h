// What the model said of a revision, as a record with the hash of all it came from.
#pragma once

#include "core/project/project.h"
#include "core/uncertainty/limit_uncertainty.h"
#include "session/results/input_hash.h"

namespace bathmos::session {

/// The record of a sweep; `uncertainty` may be null. `stops`: rules of stop findings that stand.
Prediction prediction_of(const SweepInputs& inputs, Id revision, const SweepSummary& summary,
                         const LimitUncertainty* uncertainty, std::vector<std::string> stops);

/// The newest prediction of a revision, or null; what changed since (another limit set or version) is told by
/// its hash.
const Prediction* newest_prediction(const Project& project, Id revision);

} // namespace bathmos::session
