// Several pulls of one state as one curve with its scatter, and the difference of two states (physics.md 9).
#pragma once

#include "core/dyno/pull_analysis.h"

namespace bathmos {

/// Power of one state on an even grid of 25 rev/min, where every pull has readings.
struct StateCurve {
    bool corrected = false;
    std::vector<double> speed_rpm;
    std::vector<double> power_W; ///< mean of the pulls' trends
    std::vector<double>
        scatter_W; ///< standard deviation of a single pull, smoothed over 500 rev/min; empty for one pull
    std::vector<std::vector<double>> pulls_W; ///< each pull's trend
};
/// Throws InputError where the pulls share under 300 rev/min, or some are corrected and some are not.
StateCurve state_curve(const std::vector<const PullAnalysis*>& pulls);

struct RangeGain {
    double from_rpm = 0, to_rpm = 0;
    double gain_W = 0;                  ///< mean over the range, after less before
    std::optional<double> plus_minus_W; ///< 95 %; empty where neither state was repeated
};

struct StateDifference {
    std::vector<double> speed_rpm, gain_W;
    std::vector<double> band_W;    ///< 95 % half width at each speed; empty where neither state was repeated
    std::vector<RangeGain> ranges; ///< of 500 rev/min
    std::vector<RangeGain> thirds; ///< low, middle and top third of all speeds that both have
    RangeGain all;                 ///< over all speeds that both have: the area under the curve, per rev/min
    double area_W_rpm = 0;         ///< the same as an area
};

/// After less before, where both have readings. The band comes from the scatter of pulls within each state,
/// pooled, by Student's t. Throws InputError where they share under 300 rev/min, or only one is corrected.
StateDifference difference(const StateCurve& before, const StateCurve& after);

/// What the upper range lost against the state before beyond what the mid-range lost, so that a dyno's shift
/// from one day to the next does not count.
struct UpperLoss {
    double share = 0;               ///< of the power, over the top twelfth of the shared range
    std::optional<double> from_rpm; ///< from where on over 0.8 % are gone; empty where that is never so
};
/// Empty where the states share under 300 rev/min.
std::optional<UpperLoss> upper_loss(const std::vector<const PullAnalysis*>& before,
                                    const std::vector<const PullAnalysis*>& after);

/// The break of a state as its pulls show it, else as a loss that grows slowly from nothing and that only the
/// state before shows: what is lost follows a hinge (linear or quadratic from a speed on) beside a dyno's
/// steady shift and slope, by Bayes' information criterion [Schwarz 1978] with a reading each 150 rev/min;
/// its speed is where 0.8 % are gone and stay so. Empty where neither is there; `before` may be empty.
std::optional<StateBreak> break_against(const std::vector<const PullAnalysis*>& before,
                                        const std::vector<const PullAnalysis*>& after);

} // namespace bathmos
