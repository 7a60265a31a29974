// Limits on metrics, and the speed at which each is crossed (physics.md 7, Limit speed).
#pragma once

#include "core/motion/metrics.h"

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace bathmos {

/// A metric with its allowed range, in the units of info(metric). `key` names it in files.
struct Limit {
    Metric metric;
    std::string_view key;
    double above;                  ///< crossed when the value is above this
    std::optional<double> below{}; ///< ... or below this
    bool from_low_speed = false;   ///< judged as change from the value at kLowSpeed_rpm
};

inline constexpr double kLowSpeed_rpm = 1500;

/// The limits of physics.md 7; a plain list that the user may change.
std::vector<Limit> usual_limits();

/// How far a metric is beyond its limit, in its unit; positive = crossed, empty = no value there.
/// `low_speed_value` is the metric at kLowSpeed_rpm in its unit.
std::optional<double> excess(const Limit& limit, const Metrics& metrics, double low_speed_value);

struct SpeedMetrics {
    double speed_rpm;
    Metrics metrics;
};

struct Crossing {
    Limit limit;
    std::optional<double> speed_rpm;
};

struct LimitSpeed {
    std::vector<Crossing> crossings; ///< of every limit
    std::optional<double> speed_rpm; ///< the lowest of them
    std::optional<Limit> first;      ///< which one that is
};

/// Gives metrics at further speeds, in the order asked.
using MetricsAt = std::function<std::vector<Metrics>(const std::vector<double>& speeds_rpm)>;

struct LimitOptions {
    double stays_rpm = 150;   ///< a crossing must hold at every swept speed this far above
    double bisect_to_rpm = 4; ///< width to which brackets are halved; then linear in the metric
    std::size_t at_once = 16; ///< speeds worth asking for together: more halvings at once while they fit
};

/// Crossings from swept rows (rising speeds). Where `refine` is given, each bracket is halved to
/// options.bisect_to_rpm by computing in between, up to three halvings at once, which asks for more speeds
/// but fewer times and ends at the same place; otherwise the crossing is linear between rows.
LimitSpeed limit_speed(const std::vector<SpeedMetrics>& rows, const std::vector<Limit>& limits,
                       double low_speed_duration_change_deg, const MetricsAt& refine = {},
                       const LimitOptions& options = {});

} // namespace bathmos
