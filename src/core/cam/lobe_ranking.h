// Which lobe is harder on the train in hand: each put into it and computed, not guessed from its peaks.
#pragma once

#include "core/motion/quick_limit.h"

#include <map>
#include <string>
#include <vector>

namespace bathmos {

/// A lobe in the train in hand.
struct RankedLobe {
    std::string name;
    std::string trouble; ///< why it could not be computed; all else is then empty
    std::optional<double> limit_rpm;
    std::string limit_metric;
    std::optional<double> separation_rpm;          ///< rigid screen
    std::optional<double> seating_m_per_s, loft_m; ///< at the speed asked for
    /// Spring force at the valve that holds the rigid train on the lobe at that speed, N, over crank degrees
    /// -360..360 from the nose, each degree; 0 where nothing needs holding.
    std::vector<double> needed_N;
    double most_needed_N = 0, most_needed_crank_deg = 0;
    /// Spring force there less what is needed there, smallest over the event, N.
    double least_margin_N = 0;
};

struct RankingQuery {
    QuickLimitQuery limit;
    double speed_rpm = 0; ///< for seating, loft and the force needed
};

/// Hardest first: lowest limit speed, then fastest seating; what could not be computed last. `progress` hears
/// each lobe as it is done. Throws Stopped.
std::vector<RankedLobe> rank_lobes(const Train& train, const std::vector<Lobe>& lobes,
                                   const RankingQuery& query, const ProgressSink& progress = {},
                                   const std::stop_token& stop = {});

} // namespace bathmos
