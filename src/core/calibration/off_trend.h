// What leaves the trend of the slower speeds where a run shows its onset (docs/calibration.md, The onset that
// is seen).
#pragma once

#include "core/calibration/observation.h"

#include <optional>
#include <vector>

namespace bathmos {

/// How far a motion is off its trend: root mean square over the angle of what flexes at one speed, less what
/// flexes at another times the square of the speeds' ratio, m. The lifts as a run has them, or as a sensor
/// would show those of a train, at the angles of the observations.
double off_trend_m(const ObservedSpeed& at, const Eigen::VectorXd& lift_m, const ObservedSpeed& trend,
                   const Eigen::VectorXd& trend_lift_m);

/// At one speed, from a run's onset on: how far the motion that was seen is off its trend, and how far a
/// train's.
struct OffTrend {
    double speed_rpm = 0;
    double seen_m = 0, shown_m = 0;
    std::size_t run = 0;
    /// What was seen over what is shown, by their logarithms: beyond its onset a motion grows by its own size
    /// within a step. In standard deviations of what a right model may be off; both with a share of noise.
    double deviations() const;
};

/// The worst of them where a train misses an onset: it leaves its trend by far less, or far more, than was
/// seen. Empty where it does not, or nothing is held against a trend.
std::optional<OffTrend> missed_onset(const std::vector<OffTrend>& all);

} // namespace bathmos
