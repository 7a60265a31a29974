// A campaign: which parts could be tried, what it costs to change them, and the hours that are booked
// (docs/plan.md). Plain values.
#pragma once

#include "core/motion/sweep.h"

#include <string>
#include <vector>

namespace bathmos::plan {

/// What can be changed, with its levels from the shelf.
struct Factor {
    std::string name;
    double change_h = 0; ///< to change from one level to another
    std::vector<std::string> levels;
    std::vector<std::size_t> frees; ///< factors that cost nothing where this one is changed, too
    bool operator==(const Factor&) const = default;
};

/// One level of each factor, by number.
using Combination = std::vector<std::size_t>;

/// A run that was made.
struct MeasuredRun {
    Combination levels;
    double limit_rpm = 0, sd_rpm = 0;
    bool operator==(const MeasuredRun&) const = default;
};

struct Campaign {
    std::vector<Factor> factors;
    Combination mounted, baseline;
    std::vector<double> day_h; ///< hours booked, day by day
    double setup_h = 0;        ///< before the first run
    double run_h = 0.5;
    std::size_t baseline_every = 6; ///< runs between two of the baseline; 0: first and last only
    SpeedRange range;
    std::vector<MeasuredRun> measured; ///< in the order they were made; what is mounted now is the last one's
    bool operator==(const Campaign&) const = default;
};

inline constexpr std::size_t kMostCombinations = 5000;

/// Throws InputError for a campaign that cannot be: no factor, no level, hours or levels out of range, too
/// many combinations.
void check_campaign(const Campaign& campaign);
/// Every combination, the last factor's levels running fastest.
std::vector<Combination> all_combinations(const Campaign& campaign);
/// Hours to get from one combination to another: the sum over the factors that differ, less those that come
/// with one of them.
double change_hours(const Campaign& campaign, const Combination& from, const Combination& to);
/// Of all days together.
double booked_hours(const Campaign& campaign);
/// "lobe B, spring 2": what differs from the baseline; "baseline" where nothing does.
std::string name_of(const Campaign& campaign, const Combination& levels);

} // namespace bathmos::plan
