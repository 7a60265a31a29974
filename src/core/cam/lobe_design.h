// A new lobe from goals, by linear programming on its spline: symmetric, smooth to the fourth derivative.
//
// With the profile as a B-spline, cam lift, velocity, acceleration, jerk and a flat follower's radius of
// curvature are all linear in its coefficients, so that the best lobe under all limits, or the proof that
// there is none, comes from one linear programme.
#pragma once

#include "core/lobe/lobe.h"

#include <stop_token>
#include <string>
#include <vector>

namespace bathmos {

enum class DesignAim { MostArea, LeastDeceleration, LeastJerk };

/// At the lifter; SI per cam rad. A limit of 0 is not asked for.
struct LobeGoals {
    double lift_m = 8.6e-3;
    double low_height_m = 0.15e-3, low_duration_crank_rad = 0; ///< the ramp lies outside
    double high_height_m = 1.27e-3, high_duration_crank_rad = 0;
    double most_acceleration_m_per_rad2 = 0; ///< on the flanks
    double most_deceleration_m_per_rad2 = 0; ///< over the nose
    double most_jerk_m_per_rad3 = 0;
    double ramp_velocity_m_per_rad = 0; ///< at and outside the low height
    double least_radius_m = 0;          ///< flat follower: of curvature
    double base_radius_m = 0;           ///< with it
    DesignAim aim = DesignAim::MostArea;
    bool operator==(const LobeGoals&) const = default;
};

/// One limit against what the lobe needs or uses.
struct DesignLimit {
    std::string key, label;
    int order = 2;      ///< of the derivative; 0 for a radius
    double limit = 0;   ///< as asked for; 0: none
    double value = 0;   ///< what the lobe has
    bool binds = false; ///< it is at the limit
};

struct LobeDesign {
    LobeTable table;                 ///< each half cam degree over the turn, exact
    std::vector<DesignLimit> limits; ///< always acceleration, deceleration, jerk, ramp velocity, radius
    double area_m_rad = 0;
};

/// Throws InputError: location "goals.<key>" for a goal that is no number or contradicts another; "goals"
/// where no lobe meets them all, with the limit that binds and what it would have to be.
LobeDesign design_lobe(const LobeGoals& goals, const std::stop_token& stop = {});

/// Lobes of the same goals with the limit on deceleration loosened from what is least possible to what leaves
/// it slack, so that area can be weighed against it. Rising deceleration; throws as design_lobe.
struct TradePoint {
    double deceleration_m_per_rad2, area_m_rad, acceleration_m_per_rad2, jerk_m_per_rad3;
};
/// `points` of that curve, at least 2.
std::vector<TradePoint> trade_of(const LobeGoals& goals, std::size_t points = 7,
                                 const std::stop_token& stop = {});

} // namespace bathmos
