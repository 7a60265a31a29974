#include "core/bench/straight_line.h"

#include <algorithm>
#include <cmath>

namespace bathmos::bench {

namespace {

double residual(double squares, double freedom, double own_sd) {
    return std::max(own_sd, freedom > 0 ? by_student(std::sqrt(squares / freedom), freedom) : 0.0);
}

} // namespace

StraightLine line_through(const std::vector<double>& x, const std::vector<double>& y, double own_sd) {
    const auto n = static_cast<double>(x.size());
    double mx = 0, my = 0, xx = 0, xy = 0, yy = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        mx += x[i] / n;
        my += y[i] / n;
    }
    for (std::size_t i = 0; i < x.size(); ++i) {
        xx += (x[i] - mx) * (x[i] - mx);
        xy += (x[i] - mx) * (y[i] - my);
        yy += (y[i] - my) * (y[i] - my);
    }
    StraightLine out;
    out.slope.value = xy / xx;
    out.at_zero.value = my - out.slope.value * mx;
    const double squares = std::max(0.0, yy - xy * xy / xx);
    out.residual_sd = residual(squares, n - 2, own_sd);
    out.slope.sd = out.residual_sd / std::sqrt(xx);
    out.at_zero.sd = out.residual_sd * std::sqrt(1 / n + mx * mx / xx);
    out.r_squared = yy > 0 ? 1 - squares / yy : 1;
    return out;
}

StraightLine line_from_origin(const std::vector<double>& x, const std::vector<double>& y, double own_sd) {
    double xx = 0, xy = 0, yy = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        xx += x[i] * x[i];
        xy += x[i] * y[i];
        yy += y[i] * y[i];
    }
    StraightLine out;
    out.slope.value = xy / xx;
    const double squares = std::max(0.0, yy - xy * xy / xx);
    out.residual_sd = residual(squares, static_cast<double>(x.size()) - 1, own_sd);
    out.slope.sd = out.residual_sd / std::sqrt(xx);
    out.r_squared = yy > 0 ? 1 - squares / yy : 1;
    return out;
}

} // namespace bathmos::bench
