// What bathmos-cli says of dyno pulls, as JSON (formats.md).
#pragma once

#include "core/dyno/confounders.h"
#include "core/dyno/pull_compare.h"

#include <optional>
#include <string>

namespace bathmos::io {

struct PullReport {
    std::string name;
    PullAnalysis analysis;
    std::vector<ConfounderTest> tests;
    std::optional<Correction> correction; ///< that was applied
};
/// Analyses a pull, corrected by [J] if asked for. Throws InputError where its inputs were not logged.
PullReport report_on(const Pull& pull, bool correct);

/// `reports` not empty: the first one's keys on top, all in "pulls" where there are several.
std::string pull_json(const std::vector<PullReport>& reports,
                      const std::optional<StateDifference>& difference);

} // namespace bathmos::io
