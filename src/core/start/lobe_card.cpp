#include "core/start/lobe_card.h"

#include "core/lobe/lobe_events.h"
#include "core/problem/input_error.h"
#include "core/units/units.h"

#include <Eigen/Dense>

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

struct Claim {
    double cam_height_m, duration_rad;
};

// What is searched: half duration, fullness (a factor on the exponents), ramp velocity (a factor).
struct Shape {
    double half_rad, fullness = 1, ramp = 1;
    AnalyticLobe of(const AnalyticLobe& start) const {
        AnalyticLobe out = start;
        out.half_duration_rad = half_rad;
        for (double& exponent : out.exponents)
            exponent *= fullness;
        out.ramp_velocity_m_per_rad *= ramp;
        return out;
    }
};

constexpr double kLeastHalf_rad = 0.35, kMostHalf_rad = 2.6;

// Crank duration of the lobe at a height; 0 where it makes no lobe.
double duration_of(const AnalyticLobe& lobe, double height_m) {
    try {
        const AnalyticCurve curve(lobe);
        const auto crossings = crossings_at([&](double theta) { return curve.at(theta, 0); }, height_m);
        return crossings ? radians(crossings->duration_crank_deg()) : 0;
    } catch (const InputError&) {
        return 0;
    }
}

std::vector<Claim> claims_of(const LobeCard& card, const CardRatio& ratio, double lift_m) {
    std::vector<Claim> out;
    for (std::size_t i = 0; i < card.durations.size(); ++i) {
        const Claim claim{ratio.cam_height_m(card.durations[i]), card.durations[i].duration_crank_rad};
        const std::string where = fmt::format("card.durations[{}]", i);
        if (!(claim.cam_height_m > 0) || claim.cam_height_m >= 0.95 * lift_m)
            throw InputError({"", where, fmt::format("height {:.3f} mm at the cam", claim.cam_height_m * 1e3),
                              fmt::format("give one between 0 and {:.2f} mm, below the lobe's lift",
                                          0.95 * lift_m * 1e3)});
        if (!(claim.duration_rad > radians(60)) || !(claim.duration_rad < radians(500)))
            throw InputError({"", where, fmt::format("duration {:.1f} deg", degrees(claim.duration_rad)),
                              "give crank degrees between 60 and 500"});
        out.push_back(claim);
    }
    std::sort(out.begin(), out.end(),
              [](const Claim& a, const Claim& b) { return a.cam_height_m < b.cam_height_m; });
    for (std::size_t i = 1; i < out.size(); ++i)
        if (out[i].duration_rad >= out[i - 1].duration_rad)
            throw InputError(
                {"", "card.durations",
                 fmt::format("{:.1f} deg at {:.2f} mm is no shorter than {:.1f} deg at {:.2f} mm",
                             degrees(out[i].duration_rad), out[i].cam_height_m * 1e3,
                             degrees(out[i - 1].duration_rad), out[i - 1].cam_height_m * 1e3),
                 "a lobe is open for less at a greater height; look at the sides of the heights"});
    return out;
}

// Which numbers the claims settle, in the order of Shape. Two heights tell a slope, on the ramp as above it.
std::array<bool, 3> settled_by(const std::vector<Claim>& claims, double ramp_m) {
    const auto low = static_cast<std::size_t>(
        std::count_if(claims.begin(), claims.end(), [&](const Claim& c) { return c.cam_height_m < ramp_m; }));
    const std::size_t high = claims.size() - low;
    return {!claims.empty(), high > 1, low > 0 && claims.size() > 1};
}

double& number(Shape& shape, std::size_t index) {
    return index == 0 ? shape.half_rad : index == 1 ? shape.fullness : shape.ramp;
}

Shape bounded(Shape shape) {
    shape.half_rad = std::clamp(shape.half_rad, kLeastHalf_rad, kMostHalf_rad);
    shape.fullness = std::clamp(shape.fullness, 0.6, 3.0);
    shape.ramp = std::clamp(shape.ramp, 0.2, 5.0);
    return shape;
}

Eigen::VectorXd residuals(const Shape& shape, const AnalyticLobe& start, const std::vector<Claim>& claims) {
    Eigen::VectorXd out(static_cast<Eigen::Index>(claims.size()));
    const AnalyticLobe lobe = shape.of(start);
    for (std::size_t i = 0; i < claims.size(); ++i)
        out[static_cast<Eigen::Index>(i)] =
            duration_of(lobe, claims[i].cam_height_m) - claims[i].duration_rad;
    return out;
}

// Levenberg's damped steps; a step is taken only where it comes nearer.
Shape nearest(Shape shape, const AnalyticLobe& start, const std::vector<Claim>& claims,
              const std::vector<std::size_t>& free) {
    const auto n = static_cast<Eigen::Index>(free.size());
    Eigen::VectorXd r = residuals(shape, start, claims);
    double damping = 1e-3;
    for (int round = 0; round < 60 && r.lpNorm<Eigen::Infinity>() > 1e-9; ++round) {
        Eigen::MatrixXd slope(r.size(), n);
        for (Eigen::Index j = 0; j < n; ++j) {
            Shape aside = shape;
            double& value = number(aside, free[static_cast<std::size_t>(j)]);
            const double by = 1e-4 * value;
            value += by;
            slope.col(j) = (residuals(aside, start, claims) - r) / by;
        }
        const Eigen::MatrixXd normal = slope.transpose() * slope;
        Eigen::MatrixXd damped = normal;
        damped.diagonal() += damping * normal.diagonal() + Eigen::VectorXd::Constant(n, 1e-12);
        const Eigen::VectorXd step = damped.ldlt().solve(-slope.transpose() * r);
        Shape next = shape;
        for (Eigen::Index j = 0; j < n; ++j)
            number(next, free[static_cast<std::size_t>(j)]) += step[j];
        next = bounded(next);
        const Eigen::VectorXd there = residuals(next, start, claims);
        const bool nearer = there.squaredNorm() < r.squaredNorm();
        damping *= nearer ? 0.3 : 8;
        if (nearer) {
            shape = next;
            r = there;
        } else if (damping > 1e6) {
            break;
        }
    }
    return shape;
}

} // namespace

CardLobe lobe_of_card(const LobeCard& card, const CardRatio& ratio, const AnalyticLobe& start) {
    const std::vector<Claim> claims = claims_of(card, ratio, start.lift_m);
    CardLobe out{start};
    if (claims.empty())
        return out;
    const std::array<bool, 3> settled = settled_by(claims, start.ramp_height_m);
    std::vector<std::size_t> free;
    for (std::size_t i = 0; i < settled.size(); ++i)
        if (settled[i])
            free.push_back(i);
    Shape shape{claims.back().duration_rad / 4 + 0.25};
    shape = nearest(bounded(shape), start, claims, {0}); // from anywhere, then all that is settled together
    shape = nearest(shape, start, claims, free);
    out.lobe = shape.of(start);
    out.duration = settled[0];
    out.fullness = settled[1];
    out.ramp = settled[2];
    out.worst_crank_rad = residuals(shape, start, claims).lpNorm<Eigen::Infinity>();
    return out;
}

} // namespace bathmos
