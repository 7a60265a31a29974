// Rocker ratio by two dials: at lobe or lifter and at the valve, up and back down, with the checking spring
// and with the working one (docs/bench.md, Ratio).
#pragma once

#include "core/bench/readings.h"
#include "core/rocker/rocker_map.h"

#include <optional>

namespace bathmos::bench {

enum class Turn { Up, Down }; ///< towards the nose, and away

/// Lifts at the same rises under the working spring, and its force there, SI.
struct WorkingLifts {
    std::vector<double> rise_m, lift_m, force_N;
};

/// SI; `turn` is as long as the readings, or empty: all up.
struct RatioSheet {
    Readings rise_m, lift_m;
    std::vector<Turn> turn;
    std::optional<WorkingLifts> working{};
    std::optional<double> believed{};
};

struct LocalRatio {
    double rise_m = 0;
    Figure ratio;
};

struct RatioFigures {
    Figure ratio;                            ///< peak lift over peak rise
    std::vector<LocalRatio> local;           ///< slope over three neighbours, at the middle one
    std::optional<Figure> stiffness_N_per_m; ///< of the train, at the valve
    /// The lift at each rise, from nothing at nothing; empty where the ratio is one along the lift.
    std::optional<RatioTable> table;
    std::vector<Told> told; ///< "not_as_believed", "up_down_differ", "dial_moved", "drift"
};

/// A reading's deviation is the larger of the instruments' own and what readings scatter about parabolas
/// through four neighbours and between up and down. Up and down apart by over 0.03 mm: the dial has moved
/// where that is so at the lowest rise that both have, else lash, a bent part or friction. Stiffness: force
/// over what the working spring takes from the lift, through nothing at nothing unless the readings refuse
/// that. Throws InputError for under three rises, and for readings that do not belong together.
RatioFigures figures_of(const RatioSheet& sheet);

} // namespace bathmos::bench
