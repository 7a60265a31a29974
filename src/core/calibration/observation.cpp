#include "core/calibration/observation.h"

#include "core/units/units.h"

#include <Eigen/Cholesky>
#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

namespace bathmos {

namespace {

constexpr double kGrid_deg = 2, kBefore_deg = 10, kAfter_deg = 90;
// Errors of the model itself: smooth over the angle, larger round closing, growing with what flexes.
// A train rings after it opens, some 25 degrees a wave, and no model has its phase and size just right: that
// error reaches less far.
constexpr double kModel_m = 3e-6, kModelClosing_m = 7.5e-6, kModelShare = 0.015, kModelReach_deg = 8;
constexpr double kRing_m = 3e-6, kRingReach_deg = 3;
constexpr double kAngle_deg = 0.015, kZero_m = 0.1e-3, kReading_m = 1e-6;

struct SeenWindow {
    double open_deg, close_deg;
};
SeenWindow window_of(const std::vector<double>& rigid_m) {
    std::size_t first = 0, last = rigid_m.size() - 1;
    while (first < last && rigid_m[first] <= 0)
        ++first;
    while (last > first && rigid_m[last] <= 0)
        --last;
    return {-360 + kGridStep_crank_deg * static_cast<double>(first),
            -360 + kGridStep_crank_deg * static_cast<double>(last)};
}

// A ring of kGridPoints at any crank angle, cubic between four points.
double ring_value(const std::vector<double>& ring, double crank_deg) {
    const double turn = crank_deg + 360, place = (turn - 720 * std::floor(turn / 720)) / kGridStep_crank_deg;
    const auto i = static_cast<std::ptrdiff_t>(place);
    const double t = place - static_cast<double>(i);
    const auto at = [&](std::ptrdiff_t k) {
        const auto n = static_cast<std::ptrdiff_t>(kGridSteps);
        return ring[static_cast<std::size_t>(((i + k) % n + n) % n)];
    };
    const double a = at(-1), b = at(0), c = at(1), d = at(2);
    return b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)));
}

Eigen::MatrixXd spread_of(const RigStep& step, const std::vector<double>& rigid_m, const SeenWindow& window,
                          const ObservedSpeed& out) {
    const auto n = static_cast<Eigen::Index>(out.crank_deg.size());
    Eigen::VectorXd model(n), slope(n), noise(n);
    for (Eigen::Index i = 0; i < n; ++i) {
        const double at = out.crank_deg[static_cast<std::size_t>(i)];
        const double base = at > window.close_deg - 10 ? kModelClosing_m : kModel_m;
        model(i) = std::hypot(base, kModelShare * (out.lift_m(i) - ring_value(rigid_m, at)));
        slope(i) = (ring_value(step.lift_m, at + 1) - ring_value(step.lift_m, at - 1)) / 2;
        noise(i) = std::pow(ring_value(step.deviation_m, at), 2) / static_cast<double>(step.used) +
                   kReading_m * kReading_m;
    }
    Eigen::MatrixXd c = kAngle_deg * kAngle_deg * slope * slope.transpose();
    c.array() += kZero_m * kZero_m;
    for (Eigen::Index i = 0; i < n; ++i)
        for (Eigen::Index k = 0; k < n; ++k) {
            const double apart = kGrid_deg * static_cast<double>(i - k) / kModelReach_deg;
            c(i, k) += model(i) * model(k) * std::exp(-apart * apart / 2);
            const double near = kGrid_deg * static_cast<double>(i - k) / kRingReach_deg;
            c(i, k) += kRing_m * kRing_m * std::exp(-near * near / 2);
        }
    c.diagonal() += noise;
    return c.llt().matrixL();
}

void note_trend(const std::optional<double>& onset_rpm, std::vector<ObservedSpeed>& all) {
    std::optional<std::size_t> before, last;
    for (std::size_t i = 0; onset_rpm && i < all.size(); ++i)
        if (!all[i].held_out && all[i].speed_rpm < *onset_rpm)
            before = std::exchange(last, i);
    if (!last)
        return;
    if (before)
        all[*last].trend_back = *last - *before;
    for (std::size_t i = *last + 1; i < all.size(); ++i)
        if (!all[i].held_out)
            all[i].trend_back = i - *last;
}

} // namespace

std::vector<ObservedSpeed> observe(const RigRun& run, std::size_t number,
                                   const std::vector<double>& rigid_m) {
    const SeenWindow window = window_of(rigid_m);
    std::vector<ObservedSpeed> out;
    if (run.steps.empty())
        return out;
    const double first = run.steps.front().speed_rpm, last = run.steps.back().speed_rpm;
    for (std::size_t s = 0; s < run.steps.size(); ++s) {
        const RigStep& step = run.steps[s];
        if (step.used < 2)
            continue;
        ObservedSpeed one;
        one.speed_rpm = step.speed_rpm;
        one.run = number;
        one.step = s;
        one.held_out = step.speed_rpm < last - 0.45 * (last - first) && s % 2 == 1;
        for (double at = window.open_deg - kBefore_deg; at <= window.close_deg + kAfter_deg; at += kGrid_deg)
            one.crank_deg.push_back(at);
        one.lift_m.resize(static_cast<Eigen::Index>(one.crank_deg.size()));
        one.rigid_m.resize(one.lift_m.size());
        for (std::size_t i = 0; i < one.crank_deg.size(); ++i) {
            one.lift_m(static_cast<Eigen::Index>(i)) = ring_value(step.lift_m, one.crank_deg[i]);
            one.rigid_m(static_cast<Eigen::Index>(i)) = ring_value(rigid_m, one.crank_deg[i]);
        }
        one.spread = spread_of(step, rigid_m, window, one);
        out.push_back(std::move(one));
    }
    const auto fitted = std::count_if(out.begin(), out.end(), [](const auto& one) { return !one.held_out; });
    if (fitted < kLeastSpeeds) // too few to spare any
        for (ObservedSpeed& one : out)
            one.held_out = false;
    note_trend(run.onset.onset.speed_rpm, out);
    return out;
}

Eigen::VectorXd read_lift(const std::vector<double>& lift_m, const Reading& reading,
                          const ObservedSpeed& at) {
    Eigen::VectorXd out(static_cast<Eigen::Index>(at.crank_deg.size()));
    const double late_deg = reading.phase_deg + 6 * at.speed_rpm * reading.delay_s;
    for (std::size_t i = 0; i < at.crank_deg.size(); ++i) {
        double angle = at.crank_deg[i] - late_deg;
        angle -= 2 * degrees(reading.ripple.ahead_rad(radians(angle / 2)));
        out(static_cast<Eigen::Index>(i)) = (1 + reading.gain) * ring_value(lift_m, angle);
    }
    return out;
}

} // namespace bathmos
