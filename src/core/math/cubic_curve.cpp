#include "core/math/cubic_curve.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

// One-sided three-point estimate at an end, kept from overshooting.
double end_slope(double h0, double h1, double d0, double d1) {
    const double slope = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1);
    if (slope * d0 <= 0)
        return 0;
    if (d0 * d1 < 0 && std::abs(slope) > 3 * std::abs(d0))
        return 3 * d0;
    return slope;
}

} // namespace

CubicCurve::CubicCurve(std::vector<double> x, std::vector<double> y, std::vector<double> slopes)
    : x_(std::move(x)), y_(std::move(y)), slope_(std::move(slopes)) {}

// Boost.Math has the same inner slopes, but asks for four points and has another rule at the ends; the
// reference cases, and anyone who computes them again, take these.
CubicCurve CubicCurve::monotone(std::vector<double> x, std::vector<double> y) {
    const std::size_t n = x.size();
    std::vector<double> h(n - 1), d(n - 1), slope(n);
    for (std::size_t i = 0; i + 1 < n; ++i) {
        h[i] = x[i + 1] - x[i];
        d[i] = (y[i + 1] - y[i]) / h[i];
    }
    if (n == 2) {
        slope[0] = slope[1] = d[0];
    } else {
        for (std::size_t i = 1; i + 1 < n; ++i) {
            if (d[i - 1] * d[i] <= 0)
                continue; // a turning point keeps slope 0
            const double w1 = 2 * h[i] + h[i - 1], w2 = h[i] + 2 * h[i - 1];
            slope[i] = (w1 + w2) / (w1 / d[i - 1] + w2 / d[i]);
        }
        slope[0] = end_slope(h[0], h[1], d[0], d[1]);
        slope[n - 1] = end_slope(h[n - 2], h[n - 3], d[n - 2], d[n - 3]);
    }
    return CubicCurve(std::move(x), std::move(y), std::move(slope));
}

CubicCurve CubicCurve::natural(std::vector<double> x, std::vector<double> y) {
    const std::size_t n = x.size();
    // Thomas algorithm for the slopes of a C2 cubic with zero curvature at both ends.
    std::vector<double> lower(n, 0.0), diag(n, 2.0), upper(n, 0.0), rhs(n, 0.0);
    for (std::size_t i = 0; i < n; ++i) {
        const double before = i > 0 ? 1 / (x[i] - x[i - 1]) : 0;
        const double after = i + 1 < n ? 1 / (x[i + 1] - x[i]) : 0;
        diag[i] = 2 * (before + after);
        lower[i] = before;
        upper[i] = after;
        if (i > 0)
            rhs[i] += 3 * (y[i] - y[i - 1]) * before * before;
        if (i + 1 < n)
            rhs[i] += 3 * (y[i + 1] - y[i]) * after * after;
    }
    for (std::size_t i = 1; i < n; ++i) {
        const double w = lower[i] / diag[i - 1];
        diag[i] -= w * upper[i - 1];
        rhs[i] -= w * rhs[i - 1];
    }
    std::vector<double> slope(n);
    for (std::size_t i = n; i-- > 0;)
        slope[i] = (rhs[i] - (i + 1 < n ? upper[i] * slope[i + 1] : 0)) / diag[i];
    return CubicCurve(std::move(x), std::move(y), std::move(slope));
}

std::size_t CubicCurve::interval(double x) const {
    const auto after = std::upper_bound(x_.begin() + 1, x_.end() - 1, x);
    return static_cast<std::size_t>(after - x_.begin()) - 1;
}

double CubicCurve::value(double x) const {
    if (x <= x_.front())
        return y_.front() + slope_.front() * (x - x_.front());
    if (x >= x_.back())
        return y_.back() + slope_.back() * (x - x_.back());
    const std::size_t i = interval(x);
    const double h = x_[i + 1] - x_[i], t = (x - x_[i]) / h, u = 1 - t;
    return u * u * ((1 + 2 * t) * y_[i] + t * h * slope_[i]) +
           t * t * ((1 + 2 * u) * y_[i + 1] - u * h * slope_[i + 1]);
}

double CubicCurve::slope(double x) const {
    if (x <= x_.front())
        return slope_.front();
    if (x >= x_.back())
        return slope_.back();
    const std::size_t i = interval(x);
    const double h = x_[i + 1] - x_[i], t = (x - x_[i]) / h, u = 1 - t;
    return 6 * t * u * (y_[i + 1] - y_[i]) / h + u * (1 - 3 * t) * slope_[i] +
           t * (3 * t - 2) * slope_[i + 1];
}

BinnedCubic BinnedCubic::of(const CubicCurve& curve, int bins) {
    BinnedCubic out;
    const double width = (curve.last() - curve.first()) / bins;
    out.bins = bins;
    out.per_bin = 1 / width;
    out.start = curve.first() - width; // bin 0 is the linear lower end
    for (auto& c : out.c)
        c.assign(static_cast<std::size_t>(bins) + 2, 0.0);
    for (int b = 0; b < bins + 2; ++b) {
        const double left = out.start + b * width;
        const auto at = static_cast<std::size_t>(b);
        if (b == 0 || b == bins + 1) {
            const double edge = b == 0 ? curve.first() : curve.last();
            out.c[1][at] = curve.slope(edge);
            out.c[0][at] = curve.value(edge) + out.c[1][at] * (left - edge);
            continue;
        }
        // A cubic is known from four values: take them well inside the bin and shift to its left edge.
        const double mid = left + width / 2, e = width / 4;
        const double f0 = curve.value(mid), fp = curve.value(mid + e), fm = curve.value(mid - e);
        const double sp = curve.slope(mid);
        const double quad = (fp + fm - 2 * f0) / (2 * e * e);
        const double cube = ((fp - fm) / (2 * e) - sp) / (e * e);
        const double back = left - mid;
        out.c[0][at] = f0 + back * (sp + back * (quad + back * cube));
        out.c[1][at] = sp + back * (2 * quad + back * 3 * cube);
        out.c[2][at] = quad + 3 * cube * back;
        out.c[3][at] = cube;
    }
    return out;
}

double BinnedCubic::value(double x) const {
    const double place = std::clamp((x - start) * per_bin, 0.0, bins + 1.0);
    const auto bin = static_cast<std::size_t>(place);
    const double t = x - start - static_cast<double>(bin) / per_bin;
    return c[0][bin] + t * (c[1][bin] + t * (c[2][bin] + t * c[3][bin]));
}

BinnedLine BinnedLine::of(const CubicCurve& curve, int bins) {
    BinnedLine out;
    const double width = (curve.last() - curve.first()) / bins;
    out.bins = bins;
    out.per_bin = 1 / width;
    out.start = curve.first();
    for (int b = 0; b < bins; ++b) {
        const double left = out.start + b * width, here = curve.value(left);
        const bool end = b == 0 || b == bins - 1; // the ends go on with the curve's own slope
        const double slope = end ? curve.slope(b == 0 ? curve.first() : curve.last())
                                 : (curve.value(left + width) - here) / width;
        out.value_slope.push_back(b == bins - 1 ? curve.value(curve.last()) - slope * width : here);
        out.value_slope.push_back(slope);
    }
    return out;
}

double BinnedLine::value(double x) const {
    const auto bin = static_cast<std::size_t>(std::clamp((x - start) * per_bin, 0.0, bins - 1.0));
    const double left = start + static_cast<double>(bin) / per_bin;
    return value_slope[2 * bin] + value_slope[2 * bin + 1] * (x - left);
}

} // namespace bathmos
