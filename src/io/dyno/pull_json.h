// What bathmos-cli says of dyno pulls, as JSON (formats.md).
#pragma once

#include "core/dyno/pull_compare.h"
#include "core/dyno/pull_report.h"

#include <optional>
#include <string>

namespace bathmos::io {

/// `reports` not empty: the first one's keys on top, all in "pulls" where there are several.
std::string pull_json(const std::vector<PullReport>& reports,
                      const std::optional<StateDifference>& difference,
                      const std::optional<StateBreak>& against);

} // namespace bathmos::io
