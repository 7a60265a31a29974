// Core results as plot points, in the units of the screen.
#pragma once

#include "app/text/display_units.h"
#include "core/motion/limits.h"
#include "core/motion/motion.h"

#include <QVector>

namespace bathmos::app {

/// Crank degrees of the motions' grid, -360..360.
const QVector<double>& crank_grid();

/// A grid of SI values in the unit in force.
QVector<double> in_unit(const DisplayUnits& units, Quantity quantity, const std::vector<double>& si);

/// Lobe derivatives are per cam degree on screen: "mm/°²" for order 2.
QString derivative_unit(const DisplayUnits& units, int order);
double derivative_value(const DisplayUnits& units, int order, double si_per_rad);

struct MetricSeries {
    QVector<double> rpm, value;
};
/// A metric over rows; speeds where it does not exist are gaps (NaN).
MetricSeries metric_series(const DisplayUnits& units, Metric metric, const std::vector<SpeedMetrics>& rows);

/// The allowed range of a metric on screen, if it has a limit.
struct ShownLimit {
    std::optional<double> above, below;
};
ShownLimit shown_limit(const DisplayUnits& units, const LimitsInForce& limits, Metric metric,
                       double low_speed_value);

} // namespace bathmos::app
