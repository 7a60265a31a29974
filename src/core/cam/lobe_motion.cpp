#include "core/cam/lobe_motion.h"

#include "core/units/units.h"

#include <cmath>

namespace bathmos {

double LobeMotion::at(double theta_rad, int order) const {
    if (!valve_)
        return curve_.at(theta_rad, order);
    constexpr double h = 0.05 * kPi / 180;
    switch (order) {
    case 0:
        return valve_->lift_m(theta_rad);
    case 1:
        return valve_->velocity_m_per_rad(theta_rad);
    case 2:
        return valve_->acceleration_m_per_rad2(theta_rad);
    default:
        if (!(valve_->lift_m(theta_rad - h) > 0 && valve_->lift_m(theta_rad + h) > 0))
            return 0; // the step off the seat is no jerk of the lobe's
        return (valve_->acceleration_m_per_rad2(theta_rad + h) -
                valve_->acceleration_m_per_rad2(theta_rad - h)) /
               (2 * h);
    }
}

double LobeMotion::standard_deviation(double theta_rad, int order) const {
    if (!valve_)
        return curve_.standard_deviation(theta_rad, order);
    if (!(valve_->lift_m(theta_rad) > 0))
        return 0;
    return valve_->map().ratio(curve_.at(theta_rad)) * curve_.standard_deviation(theta_rad, order);
}

LobeSamples samples_of(const LobeMotion& motion, std::size_t points, bool with_sd) {
    LobeSamples out;
    const double step = 2 * kPi / static_cast<double>(points);
    const bool banded = with_sd && motion.curve().smoothing().has_value();
    for (std::size_t i = 0; i < points; ++i)
        out.theta_rad.push_back(-kPi + step * static_cast<double>(i));
    for (int order = 0; order <= 3; ++order) {
        const auto o = static_cast<std::size_t>(order);
        out.value[o].reserve(points);
        for (const double theta : out.theta_rad)
            out.value[o].push_back(motion.at(theta, order));
        if (banded && order > 0)
            for (const double theta : out.theta_rad)
                out.sd[o].push_back(motion.standard_deviation(theta, order));
    }
    return out;
}

} // namespace bathmos
