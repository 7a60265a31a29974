#include "core/train/train.h"

#include <algorithm>

namespace bathmos {

RigidMotion::RigidMotion(const Train& train, LobeCurve curve)
    : curve_(std::move(curve)), map_(train.rocker_map()), lash_m_(train.effective_lash_m()) {}

double RigidMotion::lift_m(double theta_rad) const {
    return std::max(0.0, map_.travel(curve_.at(theta_rad)) - lash_m_);
}

double RigidMotion::slope(double theta_rad) const {
    const double s = curve_.at(theta_rad);
    return map_.travel(s) > lash_m_ ? map_.ratio(s) * curve_.at(theta_rad, 1) : 0.0;
}

double RigidMotion::curvature(double theta_rad) const {
    const double s = curve_.at(theta_rad);
    if (map_.travel(s) <= lash_m_)
        return 0;
    constexpr double step_m = 1e-6;
    const double ratio_slope = (map_.ratio(s + step_m) - map_.ratio(s - step_m)) / (2 * step_m);
    const double s1 = curve_.at(theta_rad, 1);
    return map_.ratio(s) * curve_.at(theta_rad, 2) + ratio_slope * s1 * s1;
}

} // namespace bathmos
