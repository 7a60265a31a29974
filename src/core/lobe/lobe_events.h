// What is read off a lobe: durations, peaks, textbook unit factors (physics.md 2).
#pragma once

#include "core/lobe/lobe.h"

#include <functional>
#include <optional>
#include <vector>

namespace bathmos {

/// Check heights in common use, m: 0.006, 0.020, 0.050, 0.053 in; 0.1, 0.3, 1.0, 1.2 mm.
const std::vector<double>& usual_check_heights_m();

/// Rising and falling crossing of a height.
struct Crossings {
    double opening_rad; ///< cam angle from the nose, negative
    double closing_rad;
    /// Twice the cam angle between the crossings.
    double duration_crank_deg() const;
};

/// Crossings nearest the nose of `motion(theta) = height`, by root finding; empty if the height is not
/// reached or never left. `motion` takes a cam angle in rad and gives m: lifter lift, or valve lift through
/// ratio and lash.
std::optional<Crossings> crossings_at(const std::function<double(double)>& motion, double height_m);

/// Height at which a motion has a duration, m, by root finding; empty where it never has.
std::optional<double> height_of_duration(const std::function<double(double)>& motion,
                                         double duration_crank_deg);

struct Peak {
    double value;      ///< in SI per rad^order
    double theta_rad;  ///< where
    double cam_lift_m; ///< at which cam lift
};

/// Extreme values of the curve over one turn.
struct LobePeaks {
    Peak opening_velocity, closing_velocity;         ///< order 1, m/rad
    Peak opening_acceleration, closing_acceleration; ///< largest positive, m/rad2
    Peak deceleration;                               ///< most negative, m/rad2
    Peak jerk;                                       ///< largest magnitude, m/rad3
    double lift_area_m_rad;                          ///< integral of cam lift over one turn
};
/// Largest values on a grid of 0.05 cam degrees.
LobePeaks peaks_of(const LobeCurve& curve);

} // namespace bathmos
