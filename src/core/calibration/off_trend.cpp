#include "core/calibration/off_trend.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

// The fits of engines whose truth is known stay within 0.13 of the logarithm where they are right; those that
// miss an onset are off by 0.9 and more.
constexpr double kRightWithin = 0.2, kMissed = 2.5;
constexpr double kNoise_m = 15e-6;

} // namespace

double off_trend_m(const ObservedSpeed& at, const Eigen::VectorXd& lift_m, const ObservedSpeed& trend,
                   const Eigen::VectorXd& trend_lift_m) {
    const double faster = at.speed_rpm / trend.speed_rpm;
    const Eigen::VectorXd off = (lift_m - at.rigid_m) - faster * faster * (trend_lift_m - trend.rigid_m);
    return std::sqrt(off.squaredNorm() / static_cast<double>(off.size()));
}

double OffTrend::deviations() const {
    return std::log((seen_m + kNoise_m) / (shown_m + kNoise_m)) / kRightWithin;
}

std::optional<OffTrend> missed_onset(const std::vector<OffTrend>& all) {
    const auto worst =
        std::ranges::max_element(all, {}, [](const OffTrend& one) { return std::abs(one.deviations()); });
    return worst != all.end() && std::abs(worst->deviations()) > kMissed ? std::optional(*worst)
                                                                         : std::nullopt;
}

} // namespace bathmos
