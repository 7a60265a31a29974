#include "core/lobe/base_circle.h"

#include "core/math/robust.h"
#include "core/units/units.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

constexpr std::size_t kLeastOnBase = 12;
constexpr double kLeastSpan_rad = kPi / 2;
constexpr double kOffBase_m = 0.06e-3;           // cam lift that is surely ramp or lobe
constexpr double kRampFoot_rad = 14 * kPi / 180; // what a slow ramp takes below that
constexpr double kOutstandingSigmas = 6, kOutstandingLeast_m = 8e-6;

struct Si {
    std::vector<double> angle_rad, cam_lift_m;
};

Si si_of(const LobeTable& table) {
    const double per_angle = radians(table.angle_unit == AngleUnit::CamDegree ? 1.0 : 0.5);
    const double per_lift = table.lift_unit == LiftUnit::Millimetre ? 1e-3 : kInch_m;
    Si out;
    for (std::size_t i = 0; i < std::min(table.angle.size(), table.lift.size()); ++i) {
        out.angle_rad.push_back(table.angle[i] * per_angle);
        out.cam_lift_m.push_back(table.lift[i] * per_lift);
    }
    return out;
}

// Places of the readings off the event: everything further than a ramp's foot from any reading that stands
// clear of the base.
std::vector<std::size_t> off_the_event(const Si& si) {
    std::vector<double> low = si.cam_lift_m;
    std::sort(low.begin(), low.end());
    low.resize(std::max<std::size_t>(1, low.size() / 3));
    const double limit = median(low) + kOffBase_m;
    const std::size_t nose = static_cast<std::size_t>(
        std::max_element(si.cam_lift_m.begin(), si.cam_lift_m.end()) - si.cam_lift_m.begin());
    double before = 0, after = 0; // how far the event reaches either side of the nose
    for (std::size_t i = 0; i < si.cam_lift_m.size(); ++i) {
        const double from_nose = std::remainder(si.angle_rad[i] - si.angle_rad[nose], 2 * kPi);
        if (si.cam_lift_m[i] > limit) {
            before = std::min(before, from_nose);
            after = std::max(after, from_nose);
        }
    }
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < si.cam_lift_m.size(); ++i) {
        const double from_nose = std::remainder(si.angle_rad[i] - si.angle_rad[nose], 2 * kPi);
        if (from_nose < before - kRampFoot_rad || from_nose > after + kRampFoot_rad)
            out.push_back(i);
    }
    return out;
}

} // namespace

double BaseCircle::at(double angle_rad) const {
    return zero_m + cosine_m * std::cos(angle_rad) + sine_m * std::sin(angle_rad);
}

double BaseCircle::runout_m() const {
    return 2 * std::hypot(cosine_m, sine_m);
}

double BaseCircle::high_at_rad() const {
    const double at = std::atan2(sine_m, cosine_m);
    return at < 0 ? at + 2 * kPi : at;
}

BaseCircle base_circle_of(const LobeTable& table) {
    const Si si = si_of(table);
    if (si.cam_lift_m.size() < kLeastOnBase)
        return {};
    const std::vector<std::size_t> places = off_the_event(si);
    const auto n = static_cast<int>(places.size());
    if (places.size() < kLeastOnBase || si.angle_rad[places[1]] - si.angle_rad[places[0]] <= 0 ||
        static_cast<double>(places.size()) * median([&] {
            std::vector<double> steps;
            for (std::size_t i = 1; i < si.angle_rad.size(); ++i)
                steps.push_back(si.angle_rad[i] - si.angle_rad[i - 1]);
            return steps;
        }()) <
            kLeastSpan_rad)
        return {};
    Eigen::MatrixXd rows(n, 3);
    Eigen::VectorXd rise(n), weight = Eigen::VectorXd::Ones(n);
    for (int i = 0; i < n; ++i) {
        const double angle = si.angle_rad[places[static_cast<std::size_t>(i)]];
        rows.row(i) << 1, std::cos(angle), std::sin(angle);
        rise(i) = si.cam_lift_m[places[static_cast<std::size_t>(i)]];
    }
    Eigen::Vector3d c;
    BaseCircle out;
    for (int round = 0; round < 8; ++round) { // Tukey's biweight
        const Eigen::MatrixXd weighted = weight.asDiagonal() * rows;
        c = (rows.transpose() * weighted).ldlt().solve(weighted.transpose() * rise);
        const Eigen::VectorXd residual = rise - rows * c;
        out.scatter_m = robust_sd({residual.data(), residual.data() + n});
        const double reach = std::max(4.685 * out.scatter_m, 1e-9);
        for (int i = 0; i < n; ++i) {
            const double u = residual(i) / reach;
            weight(i) = std::abs(u) < 1 ? std::pow(1 - u * u, 2) : 0;
        }
    }
    out.zero_m = c(0);
    out.cosine_m = c(1);
    out.sine_m = c(2);
    out.readings = places.size();
    return out;
}

std::vector<std::size_t> outstanding_readings(const LobeTable& table) {
    const Si si = si_of(table);
    std::vector<double> departure(si.cam_lift_m.size(), 0.0), inner;
    for (std::size_t i = 2; i + 2 < si.cam_lift_m.size(); ++i) {
        double value = 0; // Lagrange's cubic through the neighbours, at this angle
        for (const std::size_t a : {i - 2, i - 1, i + 1, i + 2}) {
            double weight = 1;
            for (const std::size_t b : {i - 2, i - 1, i + 1, i + 2})
                if (b != a)
                    weight *= (si.angle_rad[i] - si.angle_rad[b]) / (si.angle_rad[a] - si.angle_rad[b]);
            value += weight * si.cam_lift_m[a];
        }
        departure[i] = std::abs(si.cam_lift_m[i] - value);
        inner.push_back(si.cam_lift_m[i] - value);
    }
    std::vector<std::size_t> out;
    if (inner.size() < kLeastOnBase)
        return out;
    const double bound = std::max(kOutstandingSigmas * robust_sd(inner), kOutstandingLeast_m);
    for (std::size_t i = 2; i + 2 < si.cam_lift_m.size(); ++i)
        // A bad reading spoils its neighbours' cubics too, by two thirds of itself: the largest is the one.
        if (departure[i] > bound &&
            departure[i] >= *std::max_element(departure.begin() + static_cast<std::ptrdiff_t>(i) - 2,
                                              departure.begin() + static_cast<std::ptrdiff_t>(i) + 3))
            out.push_back(i);
    return out;
}

} // namespace bathmos
