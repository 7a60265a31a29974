#include "core/life/trend.h"

#include "core/bench/straight_line.h"

#include <cmath>

namespace bathmos::life {

namespace {

constexpr double kSigmas = 2;
constexpr std::size_t kLeastReadings = 3;

} // namespace

std::optional<double> Trend::reaches(double level) const {
    const double x = (level - at_zero) / per_unit;
    return per_unit != 0 && std::isfinite(x) ? std::optional(x) : std::nullopt;
}

Trend trend_of(const std::vector<double>& x, const std::vector<double>& y, double own_sd) {
    const bench::StraightLine line = bench::line_through(x, y, own_sd);
    Trend out;
    out.at_zero = line.at_zero.value;
    out.per_unit = line.slope.value;
    out.sd_per_unit = line.slope.sd;
    out.noise = line.residual_sd;
    out.readings = x.size();
    out.drifts = x.size() >= kLeastReadings && std::abs(out.per_unit) > kSigmas * out.sd_per_unit;
    return out;
}

} // namespace bathmos::life
