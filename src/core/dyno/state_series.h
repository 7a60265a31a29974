// Any number of dyno states beside each other: what each gains, where curves cross, what is missing against a
// state's own trend, and with which state a break comes and goes (docs/verdict.md).
#pragma once

#include "core/dyno/pull_compare.h"

#include <cstddef>

namespace bathmos {

/// Power that is missing above a break against the trend below it, continued.
struct MissingPower {
    double at_rpm = 0; ///< how far it was continued: the end of the pulls, or 800 rev/min past the break
    double power_W = 0;
    double share = 0; ///< of the continued trend
};
/// The trend is a parabola through the 1200 rev/min below the break. Empty without a break, or with less than
/// 600 rev/min below it.
std::optional<MissingPower> missing_power(const StateCurve& curve, const std::optional<StateBreak>& at);

/// Speeds where the gain changes its sign for good: on both sides it goes beyond the 95 % band, or beyond
/// 0.5 % of the reference's power where there is none, before it turns again.
std::vector<double> crossings(const StateDifference& change, const StateCurve& reference);

/// One state in a series, as it was run.
struct SeriesState {
    std::optional<StateBreak> first_break;
    double runs_to_rpm = 0; ///< the highest speed of its pulls
};
/// That state with its pulls, without null.
SeriesState series_state(const std::vector<const PullAnalysis*>& pulls);

/// Whether a state has no break where another has: it runs 250 rev/min past it, and breaks, if at all, only
/// beyond that.
bool runs_past(const SeriesState& state, double break_rpm);

/// A break through a series of states, by their places in it.
struct BreakStory {
    double speed_rpm = 0; ///< where it shows first
    std::optional<std::size_t>
        without;                       ///< the last state before that ran past it; empty: it was always there
    std::size_t appears = 0, last = 0; ///< the first and the last state that have it
    std::optional<std::size_t> goes;   ///< the first after it that runs past; empty: it stays
};
/// In the order of the series. A state that was not run far enough past a break tells nothing of it. A break
/// that comes back tells another story.
std::vector<BreakStory> break_stories(const std::vector<SeriesState>& series);

} // namespace bathmos
