// Two troubles at once: which of them is first, and how much of a loss a drift explains (docs/verdict.md).
#pragma once

#include "core/verdict/verdict.h"

namespace bathmos {

/// Whether a drift begins more than two sigma above the break, so that it cannot have been the first trouble.
bool begins_too_late(const ConfounderTest& drift, const std::optional<StateBreak>& dyno_break);

/// Whether somebody worked on this engine since the state before.
bool just_changed(const CaseFile& file);

/// Power that is missing at the top, as shares of the power there.
struct LostPower {
    double share = 0;     ///< of the break below the trend, or against the state before
    double explained = 0; ///< what the drifts that are seen take, by their own size
    /// Whether more is missing than the drifts take, by more than the rules of thumb are good for.
    bool unexplained() const;
};
/// Empty where no power is known to be lost, no drift is seen, or one of them does not tell what it takes.
std::optional<LostPower> lost_power(const CaseFile& file, const std::vector<ConfounderTest>& drifts);

/// Where a cause begins, rev/min: an outer one where its drift does, one of the train where rig or model show
/// it first; empty where nothing tells.
std::optional<double> begins_at(Cause cause, const CaseFile& file, const std::vector<ConfounderTest>& drifts);

} // namespace bathmos
