// One pull analysed with everything that is said of it.
#pragma once

#include "core/dyno/confounders.h"

#include <optional>
#include <stop_token>
#include <string>

namespace bathmos {

struct PullReport {
    std::string name;
    Pull pull; ///< corrected, if that was asked for
    PullAnalysis analysis;
    std::vector<ConfounderTest> tests;
    std::optional<Correction> correction; ///< that was applied
};

/// Analyses a pull, corrected by [J] if asked for. Throws InputError where it is corrected already or its
/// inputs were not logged; Stopped.
PullReport report_on(const Pull& pull, bool correct, const std::stop_token& stop = {});

} // namespace bathmos
