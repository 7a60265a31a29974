// What departs from belief where a cause is true, and where to look for it first (docs/calibration.md, Search
// and evidence).
#pragma once

#include "core/calibration/search.h"

#include <optional>
#include <string_view>
#include <vector>

namespace bathmos {

/// A number of which less is believed than its tolerance says.
struct Widened {
    std::string_view key;
    double sd; ///< in the offset's unit
};

/// A number that departs with the scanned one, by so much of its unit for one of that number's.
struct Carried {
    std::string_view key;
    double per_offset = 0;
};

/// One way in which a cause shows; a cause may have several, kinds of train another each.
struct Departure {
    std::string_view cause; ///< a key of the causes
    std::vector<Widened> widened;
    std::string_view scanned;
    std::vector<double> scan; ///< in the offset's unit
    Carried carried{};
};

/// All that are looked for.
const std::vector<Departure>& departures();

/// Nothing departs, and nothing is scanned.
Belief as_believed(const FitModel& model);

/// A departure of one train's number, or of one that all trains share, and the belief under it.
struct Suspected {
    std::optional<std::size_t> only;
    Belief belief;
};

/// None where the number to look along is not free: each kind of train has a row of its own.
std::vector<Suspected> suspected(const Departure& row, const FitModel& model);

} // namespace bathmos
