// The break: the speed at which power leaves its own smooth trend downward and stays below (physics.md 9).
// Not the peak, and no proof of valve float.
#pragma once

#include "core/dyno/power_curve.h"

namespace bathmos {

struct PowerBreak {
    double speed_rpm = 0;
    double sd_rpm = 0;     ///< one standard deviation of the speed
    double depth_W = 0;    ///< of the fall below the smooth trend
    double sd_W = 0;       ///< one standard deviation of the depth
    double confidence = 0; ///< 0..1 that a smooth trend alone would not do
    double over_rpm = 0;   ///< within which power falls
};

/// Power that dips below its trend and comes back: no break.
struct PowerDip {
    double from_rpm = 0, to_rpm = 0, depth_W = 0;
};

struct PowerBreaks {
    std::vector<PowerBreak> breaks; ///< rising speed, those with at least kBreakConfidence
    std::vector<PowerDip> dips;
    double best_confidence = 0; ///< of the likeliest place, claimed or not
};

/// Below this no break is claimed.
inline constexpr double kBreakConfidence = 0.8;
/// A break is at least this deep, as a share of the peak power.
inline constexpr double kLeastDepth = 0.008;
/// A pull must go on so far, rev/min, above a break for it to be told.
inline constexpr double kLeastBeyond_rpm = 90;

/// Change point by Bayesian model comparison. The smooth trend is a Gaussian process on top of a cubic
/// [Rasmussen & Williams 2006, 2.7], squared exponential, 450 rev/min long and 0.6 or 1.2 % of the peak high:
/// it follows breathing, tuning and a rollover, however it bends. A break is a ramp of 80 to 1300 rev/min
/// down to a lasting step, 3 % deep give or take; its evidence against the trend alone, averaged over all
/// places and ramps, makes the confidence: at even odds beforehand, four to one where the readings turn 1.6
/// times as rough there. Steps are taken up one by one, further ones at 0.95; one that a rise follows within
/// 1000 rev/min is a dip.
PowerBreaks find_breaks(const PowerCurve& curve);

/// The curve's smooth trend: square fits of 400 rev/min to either side, weighed by distance, without what
/// lies above a break for places below it, and the reverse.
std::vector<double> trend_of(const PowerCurve& curve, const PowerBreaks& breaks);

} // namespace bathmos
