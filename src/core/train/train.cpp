#include "core/train/train.h"

#include <algorithm>

#include "core/units/units.h"

#include <cmath>

namespace bathmos {

namespace {

// Largest cam lift as given, before any smoothing.
double stated_lift_m(const Lobe& lobe) {
    if (const auto* analytic = std::get_if<AnalyticLobe>(&lobe.shape))
        return analytic->lift_m;
    const auto& table = std::get<LobeTable>(lobe.shape);
    const double unit = table.lift_unit == LiftUnit::Inch ? 25.4e-3 : 1e-3;
    return table.lift.empty() ? 0 : unit * *std::max_element(table.lift.begin(), table.lift.end());
}

} // namespace

// A crank angle is two cam angles; orders 2 and 3 of the crank are 4 and 6 of the cam.
double DriveRipple::ahead_rad(double cam_rad) const {
    return (second_cos * std::sin(4 * cam_rad) - second_sin * std::cos(4 * cam_rad)) / 4 +
           (third_cos * std::sin(6 * cam_rad) - third_sin * std::cos(6 * cam_rad)) / 6;
}

double DriveRipple::ahead_slope(double cam_rad) const {
    return second_cos * std::cos(4 * cam_rad) + second_sin * std::sin(4 * cam_rad) +
           third_cos * std::cos(6 * cam_rad) + third_sin * std::sin(6 * cam_rad);
}

RockerMap Train::rocker_map() const {
    if (!rocker)
        return RockerMap();
    if (const auto* ratio = std::get_if<double>(&rocker->ratio))
        return RockerMap(*ratio);
    if (const auto* table = std::get_if<RatioTable>(&rocker->ratio))
        return RockerMap(*table);
    return map_of(RockerLinkage(std::get<RockerGeometry>(rocker->ratio), rocker->input_arm_m,
                                rocker->output_arm_m, pushrod ? pushrod->length_m : 0),
                  stated_lift_m(lobe));
}

double PressureTable::at(double rad) const {
    const double turn = 4 * kPi, first = crank_rad.front();
    const double x = first + std::fmod(std::fmod(rad - first, turn) + turn, turn);
    const auto after = std::upper_bound(crank_rad.begin(), crank_rad.end(), x);
    const auto i = static_cast<std::size_t>(after - crank_rad.begin());
    const bool wraps = after == crank_rad.end();
    const double x0 = crank_rad[i - 1], x1 = wraps ? first + turn : crank_rad[i];
    const double p0 = pressure_Pa[i - 1], p1 = pressure_Pa[wraps ? 0 : i];
    return p0 + (p1 - p0) * (x - x0) / (x1 - x0);
}

RigidMotion::RigidMotion(const Train& train, LobeCurve curve)
    : curve_(std::move(curve)), map_(train.rocker_map()), lash_m_(train.effective_lash_m()) {}

double RigidMotion::lift_m(double theta_rad) const {
    return std::max(0.0, map_.travel(curve_.at(theta_rad)) - lash_m_);
}

double RigidMotion::velocity_m_per_rad(double theta_rad) const {
    const double s = curve_.at(theta_rad);
    return map_.travel(s) > lash_m_ ? map_.ratio(s) * curve_.at(theta_rad, 1) : 0.0;
}

double RigidMotion::acceleration_m_per_rad2(double theta_rad) const {
    const double s = curve_.at(theta_rad);
    if (map_.travel(s) <= lash_m_)
        return 0;
    constexpr double step_m = 1e-6;
    const double ratio_slope = (map_.ratio(s + step_m) - map_.ratio(s - step_m)) / (2 * step_m);
    const double s1 = curve_.at(theta_rad, 1);
    return map_.ratio(s) * curve_.at(theta_rad, 2) + ratio_slope * s1 * s1;
}

} // namespace bathmos
