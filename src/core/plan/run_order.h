// In which order runs cost the least rework: exactly for a few, by a local search with a stated bound for
// many.
#pragma once

#include "core/plan/campaign.h"

#include <stop_token>

namespace bathmos::plan {

/// What is to be ordered.
struct OrderQuestion {
    const Campaign* campaign = nullptr;
    std::vector<Combination> runs; ///< beside the baseline, each once
    std::vector<double> worth;     ///< of each run: its chance to be the best
    Combination from;              ///< mounted before
    bool baseline_first = true;
    std::size_t since_baseline = 0; ///< runs made since the last one of it, where it is not run first
    double hours = 0;               ///< that there are for it all
};

struct RunOrder {
    std::vector<std::size_t> order; ///< of OrderQuestion::runs; those that do not fit are not among them
    double hours = 0;               ///< with the baseline's runs
    bool exact = true;
    double bound_h = 0; ///< no order of these runs is less changing and running
};

inline constexpr std::size_t kMostExact = 13; ///< runs that are ordered exactly

/// One after another as they are run.
struct OrderedRun {
    const Combination* levels = nullptr;
    bool baseline = false;
    double change_h = 0; ///< before it
};
/// The runs of an order with the baseline's: first where asked for, after every so many, last.
std::vector<OrderedRun> with_baselines(const OrderQuestion& question, const std::vector<std::size_t>& order);
/// Hours of an order with its changes and the baseline's runs.
double hours_of(const OrderQuestion& question, const std::vector<std::size_t>& order);

/// Up to kMostExact runs: dynamic programming over subsets [Held & Karp 1962], all that fit into the hours by
/// their worth, then fewest hours, then the worthiest early. More: exchange and insertion from several
/// starts, the least worthy left out until it fits; the bound is a least spanning tree of the changes. Throws
/// Stopped.
RunOrder least_rework(const OrderQuestion& question, const std::stop_token& stop = {});

} // namespace bathmos::plan
