#include "core/bench/stiffness_sheet.h"

#include "core/bench/straight_line.h"
#include "core/units/units.h"

#include <Eigen/Cholesky>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::bench {

namespace {

constexpr double kLeastForce = 0.1; // share of the largest
constexpr double kLeastR2 = 0.99, kCurved = 0.03, kSure = 3;
constexpr double kGravity_m_per_s2 = 9.80665;

// By how much the slope changes along the line, as a share of it, with its deviation.
Figure curvature_of(const std::vector<double>& x, const std::vector<double>& y) {
    const auto n = static_cast<Eigen::Index>(x.size());
    const double low = *std::ranges::min_element(x), high = *std::ranges::max_element(x);
    Eigen::MatrixXd design(n, 3);
    Eigen::VectorXd seen(n);
    for (Eigen::Index i = 0; i < n; ++i) {
        const double t = (2 * x[static_cast<std::size_t>(i)] - low - high) / (high - low);
        design.row(i) << 1, t, t * t;
        seen(i) = y[static_cast<std::size_t>(i)];
    }
    const Eigen::Matrix3d normal = design.transpose() * design;
    const Eigen::Matrix3d inverse = normal.ldlt().solve(Eigen::Matrix3d::Identity());
    const Eigen::Vector3d c = inverse * design.transpose() * seen;
    const double variance =
        (seen - design * c).squaredNorm() / std::max<double>(1, static_cast<double>(n) - 3);
    const double scale = 4 / c(1); // slope goes from c1 - 2 c2 to c1 + 2 c2
    return {scale * c(2), std::abs(scale) * std::sqrt(variance * inverse(2, 2))};
}

} // namespace

StiffnessFigures figures_of(const StiffnessSheet& sheet) {
    require_between("force_N", Quantity::Force, all_of(sheet.force_N), -100, 1e6);
    require_between("dial_mm", Quantity::Length, all_of(sheet.dial_m), -0.1, 0.1);
    const std::vector<Figure> force = means_of(sheet.force_N), dial = means_of(sheet.dial_m);
    if (force.size() != dial.size())
        refuse("dial_mm", fmt::format("{} forces and {} dial readings", force.size(), dial.size()),
               "give one dial reading for each force");
    double largest = 0, unloaded = 0, none = 0;
    for (const Figure& one : force)
        largest = std::max(largest, one.value);
    std::vector<double> x, y;
    for (std::size_t i = 0; i < force.size(); ++i) {
        if (std::abs(force[i].value) < kLeastForce * kLeastForce * largest)
            unloaded += (dial[i].value - unloaded) / ++none;
        if (force[i].value >= kLeastForce * largest) {
            x.push_back(force[i].value);
            y.push_back(dial[i].value);
        }
    }
    if (x.size() < 3 || std::ranges::max(x) == std::ranges::min(x))
        refuse("force_N", fmt::format("{} loads above a tenth of the largest", x.size()),
               "load the part in three steps or more");
    const StraightLine line = line_through(x, y, sheet.dial_m.own_sd());
    if (!(line.slope.value > 0))
        refuse("dial_mm", "goes back as the load grows", "turn the dial's sign, or its place, round");
    StiffnessFigures out;
    const double softness = line.slope.value;
    const double force_share = sheet.force_N.own_sd() / largest;
    out.stiffness_N_per_m = {1 / softness, std::hypot(line.slope.sd / softness, force_share) / softness};
    out.r_squared = line.r_squared;
    out.slack_m = {line.at_zero.value - unloaded, line.at_zero.sd};
    const Figure bent = x.size() > 3 ? curvature_of(x, y) : Figure{};
    if (out.r_squared < kLeastR2 ||
        (std::abs(bent.value) > kCurved && std::abs(bent.value) > kSure * bent.sd))
        out.told.push_back(
            {"not_straight", fmt::format("the dial does not follow the load on a straight line (r "
                                         "squared {:.4f}, its slope changes by {:.0f} %): slack, "
                                         "a part that settles, or a dial that tilts",
                                         out.r_squared, 100 * std::abs(bent.value))});
    const auto drift = told_of_drift(sheet.dial_m, "the dial", Quantity::Length,
                                     *std::ranges::max_element(y) - unloaded, line.residual_sd, 0.02);
    out.told.insert(out.told.end(), drift.begin(), drift.end());
    return out;
}

Figure inertia_kg_m2(const SwingSheet& sheet) {
    require_between("swing_s", Quantity::Time, all_of(sheet.ten_swings_s), 0, 60);
    require_between("mass_g", Quantity::Mass, {sheet.mass_kg.value}, 0, 10);
    require_between("pivot_to_centre_mm", Quantity::Length, {sheet.pivot_to_centre_m.value}, 0, 1);
    const Figure ten = means_of(sheet.ten_swings_s).front();
    const double mass = sheet.mass_kg.value, arm = sheet.pivot_to_centre_m.value, period = ten.value / 10;
    for (const auto& [key, value] :
         {std::pair{"swing_s", period}, {"mass_g", mass}, {"pivot_to_centre_mm", arm}})
        if (!(value > 0))
            refuse(key, fmt::format("is {:g}", value), "must be above 0");
    const double inertia = mass * kGravity_m_per_s2 * arm * std::pow(period / (2 * kPi), 2);
    if (inertia <= mass * arm * arm)
        refuse("swing_s",
               fmt::format("{:.2f} s for ten swings is too quick for a centre {:.1f} mm from the pivot",
                           ten.value, 1e3 * arm),
               "count a swing as there and back, ten of them");
    const Figure share = plus({0, 2 * ten.sd / ten.value, ten.freedom},
                              plus({0, sheet.mass_kg.sd / mass, sheet.mass_kg.freedom},
                                   {0, sheet.pivot_to_centre_m.sd / arm, sheet.pivot_to_centre_m.freedom}));
    return {inertia, inertia * stated(share).sd};
}

} // namespace bathmos::bench
