#include "core/motion/onset.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

constexpr std::size_t kLeastRows = 5;
constexpr double kLeastLift_m = 0.05e-3, kLeastAngle_deg = 1.5, kNoiseFactor = 3, kTrendShare = 0.6;

struct Series {
    std::vector<double> rpm, departure; // beyond the threshold where positive
};

// Departure of a metric from its own trend, less the threshold; empty when there is no trend to fit.
std::optional<Series> departures(const std::vector<SpeedMetrics>& rows, Metric metric, double noise) {
    const auto line = elastic_trend(rows, metric);
    if (!line)
        return std::nullopt;
    const double least = metric == Metric::DurationChange ? kLeastAngle_deg : kLeastLift_m;
    const double threshold = std::max(least, kNoiseFactor * noise);
    Series out;
    for (const SpeedMetrics& row : rows)
        if (row.metrics[metric]) {
            const double away = *row.metrics[metric] - line->at(row.speed_rpm * row.speed_rpm);
            if (!std::isfinite(away))
                continue;
            out.rpm.push_back(row.speed_rpm);
            out.departure.push_back(std::abs(away) - threshold);
        }
    return out;
}

double crossing(const Series& s, std::size_t i) {
    if (i == 0)
        return s.rpm[0];
    const double a = s.departure[i - 1], b = s.departure[i];
    return s.rpm[i - 1] + (s.rpm[i] - s.rpm[i - 1]) * -a / (b - a);
}

void judge(const Series& s, Metric metric, OnsetResult& out) {
    std::size_t i = 0;
    while (i < s.rpm.size()) {
        if (!(s.departure[i] > 0)) { // no number is no departure
            ++i;
            continue;
        }
        std::size_t end = i;
        while (end < s.rpm.size() && s.departure[end] > 0)
            ++end;
        if (end < s.rpm.size()) {
            out.bands.push_back({metric, s.rpm[i], s.rpm[end - 1]});
        } else if (const double at = crossing(s, i); !out.onset.speed_rpm || at < *out.onset.speed_rpm) {
            out.onset.speed_rpm = at;
            out.onset.metric = metric;
            const double step = i > 0 ? s.rpm[i] - s.rpm[i - 1] : s.rpm.size() > 1 ? s.rpm[1] - s.rpm[0] : 0;
            out.onset.half_step_rpm = 0.5 * step;
        }
        i = end;
    }
}

} // namespace

std::optional<Line> elastic_trend(const std::vector<SpeedMetrics>& rows, Metric metric) {
    const double low = rows.front().speed_rpm, high = rows.back().speed_rpm;
    std::vector<double> n2, value;
    for (const SpeedMetrics& row : rows)
        if (row.metrics[metric] && row.speed_rpm <= low + kTrendShare * (high - low)) {
            n2.push_back(row.speed_rpm * row.speed_rpm);
            value.push_back(*row.metrics[metric]);
        }
    return robust_line(n2, value);
}

OnsetResult onset_beside(const std::vector<SpeedMetrics>& rows, const OnsetResult& whole,
                         const std::vector<SpeedMetrics>& measured) {
    constexpr double half_step_rpm = 50; // recorded speeds stand a little beside the set ones
    std::vector<SpeedMetrics> shared;
    for (const SpeedMetrics& row : rows)
        if (!measured.empty() && row.speed_rpm >= measured.front().speed_rpm - half_step_rpm &&
            row.speed_rpm <= measured.back().speed_rpm + half_step_rpm)
            shared.push_back(row);
    return shared.size() < kLeastRows ? whole : find_onset(shared, {});
}

OnsetResult find_onset(const std::vector<SpeedMetrics>& rows, const Metrics& noise) {
    OnsetResult out;
    if (rows.size() < kLeastRows)
        return out;
    for (const Metric metric :
         {Metric::LiftLoss, Metric::DurationChange, Metric::Loft, Metric::Bounce, Metric::CycleVariation})
        if (const auto series = departures(rows, metric, noise[metric].value_or(0)))
            judge(*series, metric, out);
    std::sort(out.bands.begin(), out.bands.end(),
              [](const Band& a, const Band& b) { return a.from_rpm < b.from_rpm; });
    return out;
}

} // namespace bathmos
