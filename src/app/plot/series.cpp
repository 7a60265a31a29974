#include "app/plot/series.h"

#include <limits>

#include <cmath>

namespace bathmos::app {

const QVector<double>& crank_grid() {
    static const QVector<double> grid = [] {
        QVector<double> out;
        for (std::size_t i = 0; i < kGridPoints; ++i)
            out.push_back(-360 + kGridStep_crank_deg * static_cast<double>(i));
        return out;
    }();
    return grid;
}

QVector<double> in_unit(const DisplayUnits& units, Quantity quantity, const std::vector<double>& si) {
    const double factor = 1 / units.unit(quantity).to_si;
    QVector<double> out;
    out.reserve(static_cast<qsizetype>(si.size()));
    for (double value : si)
        out.push_back(value * factor);
    return out;
}

QString derivative_unit(const DisplayUnits& units, int order) {
    constexpr const char* kPer[] = {"", "/°", "/°²", "/°³"};
    return units.unit_name(Quantity::Length) + QString::fromUtf8(kPer[order]);
}

double derivative_value(const DisplayUnits& units, int order, double si_per_rad) {
    return units.value(Quantity::Length, si_per_rad) * std::pow(kPi / 180, order);
}

MetricSeries metric_series(const DisplayUnits& units, Metric metric, const std::vector<SpeedMetrics>& rows) {
    MetricSeries out;
    for (const SpeedMetrics& row : rows) {
        out.rpm.push_back(row.speed_rpm);
        const auto& value = row.metrics[metric];
        out.value.push_back(value ? units.metric_value(metric, *value)
                                  : std::numeric_limits<double>::quiet_NaN());
    }
    return out;
}

ShownLimit shown_limit(const DisplayUnits& units, const LimitsInForce& limits, Metric metric,
                       double low_speed_value) {
    for (const Limit& limit : limits) {
        if (limit.metric != metric)
            continue;
        const double base = limit.from_low_speed ? low_speed_value : 0;
        const auto shown = [&](double in_file_unit) {
            return units.metric_value(metric, (in_file_unit + base) / info(metric).to_unit);
        };
        ShownLimit out;
        out.above = shown(limit.above);
        if (limit.below)
            out.below = shown(*limit.below);
        return out;
    }
    return {};
}

} // namespace bathmos::app
