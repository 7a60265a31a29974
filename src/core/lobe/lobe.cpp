#include "core/lobe/lobe.h"

#include "core/lobe/lobe_fit.h"
#include "core/problem/input_error.h"
#include "core/units/units.h"

#include <Eigen/Dense>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

// x^p at x >= 0; by squaring where p is a whole number from 0 on, as it is in most lobes: a curve is asked
// for some ten thousand times at each key.
double power(double x, double p) {
    if (!(p >= 0 && p <= 256 && p == std::floor(p)))
        return std::pow(x, p);
    double out = 1, square = x;
    for (auto n = static_cast<unsigned>(p); n != 0; n >>= 1, square *= square)
        if (n & 1)
            out *= square;
    return out;
}

// k-th derivative of x^p at x >= 0.
double power_derivative(double x, double p, int k) {
    double factor = 1;
    for (int i = 0; i < k; ++i)
        factor *= p - i;
    if (factor == 0)
        return 0;
    return factor * power(x, p - k);
}

} // namespace

AnalyticCurve::AnalyticCurve(const AnalyticLobe& lobe) : lobe_(lobe) {
    exponent_ = {2, lobe.exponents[0], lobe.exponents[1], lobe.exponents[2], lobe.exponents[3]};
    const double b = lobe.half_duration_rad, hr = lobe.ramp_height_m, vr = lobe.ramp_velocity_m_per_rad;
    Eigen::Matrix<double, 5, 5> m;
    Eigen::Matrix<double, 5, 1> rhs;
    for (int k = 0; k < 5; ++k)
        for (int j = 0; j < 5; ++j)
            m(k, j) = power_derivative(1.0, exponent_[static_cast<std::size_t>(j)], k);
    rhs << hr / lobe.lift_m - 1, -vr * b / lobe.lift_m, 0, 0, 0;
    const Eigen::FullPivLU<Eigen::Matrix<double, 5, 5>> lu(m);
    if (!lu.isInvertible())
        throw InputError({"", "lobe.analytic.exponents", "two exponents are equal",
                          "give four different exponents above 2, such as 6, 10, 14, 18"});
    const Eigen::Matrix<double, 5, 1> c = lu.solve(rhs);
    for (int j = 0; j < 5; ++j)
        coefficient_[static_cast<std::size_t>(j)] = c(j);
    ramp_end_rad_ = b + 0.6 * hr / vr;
    foot_rad_ = ramp_end_rad_ + 0.8 * hr / vr;
    if (!(foot_rad_ < kPi))
        throw InputError({"", "lobe.analytic",
                          fmt::format("lobe and ramps need {:.1f} cam degrees a side", degrees(foot_rad_)),
                          "shorten the half duration or the ramp so that a side stays below 180"});
}

double AnalyticCurve::at(double theta_rad, int order) const {
    double theta = std::remainder(theta_rad, 2 * kPi);
    const double sign = theta < 0 && order % 2 ? -1.0 : 1.0;
    theta = std::abs(theta);
    const double b = lobe_.half_duration_rad, hr = lobe_.ramp_height_m, vr = lobe_.ramp_velocity_m_per_rad;
    if (theta <= b) {
        double sum = order == 0 ? 1.0 : 0.0;
        for (std::size_t j = 0; j < 5; ++j)
            sum += coefficient_[j] * power_derivative(theta / b, exponent_[j], order);
        return sign * lobe_.lift_m * sum / power(b, order);
    }
    if (theta <= ramp_end_rad_)
        return sign * (order == 0 ? hr - vr * (theta - b) : order == 1 ? -vr : 0.0);
    if (theta >= foot_rad_)
        return 0;
    // velocity falls as vr (1 - 3u^2 + 2u^3), u from 0 to 1 over the foot
    const double span = foot_rad_ - ramp_end_rad_, u = (theta - ramp_end_rad_) / span;
    switch (order) {
    case 0:
        return 0.4 * hr - vr * span * (u - u * u * u + 0.5 * u * u * u * u);
    case 1:
        return sign * -vr * (1 - 3 * u * u + 2 * u * u * u);
    case 2:
        return sign * -vr * (-6 * u + 6 * u * u) / span;
    case 3:
        return sign * -vr * (-6 + 12 * u) / (span * span);
    default:
        return sign * -vr * 12 / (span * span * span);
    }
}

double LobeCurve::at(double theta_rad, int order) const {
    if (const auto* spline = std::get_if<PeriodicSpline>(&curve_))
        return spline->at(theta_rad + nose_rad_, order);
    return std::get<AnalyticCurve>(curve_).at(theta_rad, order);
}

LobeCurve LobeCurve::of(const AnalyticLobe& lobe) {
    LobeCurve out;
    out.curve_ = AnalyticCurve(lobe);
    return out;
}

double LobeCurve::standard_deviation(double theta_rad, int order) const {
    if (!covariance_)
        return 0;
    const std::size_t knots = covariance_->size();
    const PeriodicSpline::Place p = PeriodicSpline::place(theta_rad + nose_rad_, knots);
    const auto weights = quintic_weights(p.t, order);
    const double scale = std::pow(static_cast<double>(knots) / (2 * kPi), order);
    const double variance =
        covariance_->form(PeriodicSpline::wrap(p.knot, -2, knots), weights.data(), weights.size());
    return scale * std::sqrt(std::max(0.0, variance));
}

LobeCurve LobeCurve::of(PeriodicSpline spline, double nose_rad, SmoothingReport report,
                        std::shared_ptr<const PeriodicBand> covariance) {
    LobeCurve out;
    out.curve_ = std::move(spline);
    out.nose_rad_ = nose_rad;
    out.smoothing_ = std::move(report);
    out.covariance_ = std::move(covariance);
    return out;
}

LobeCurve curve_of(const Lobe& lobe) {
    if (const auto* analytic = std::get_if<AnalyticLobe>(&lobe.shape))
        return LobeCurve::of(*analytic);
    return smooth_lobe(std::get<LobeTable>(lobe.shape));
}

} // namespace bathmos
