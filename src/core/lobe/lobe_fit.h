// Smoothing a gauged profile by a periodic penalised B-spline [Eilers & Marx 1996; physics.md 2], with a
// penalty that follows what the readings show (docs/decisions/0011).
#pragma once

#include "core/lobe/lobe.h"

namespace bathmos {

inline constexpr std::size_t kLobeKnots = 360; ///< one a cam degree
inline constexpr std::size_t kLobeMinReadings = 24;

/// Readings in SI, ready to be smoothed.
struct LobeReadings {
    std::vector<double> angle_rad; ///< strictly increasing, less than a turn
    std::vector<double> cam_lift_m;
    std::vector<std::size_t> place; ///< of each in the table
    std::size_t measured = 0;       ///< the first ones; base circle filled in follows
};

/// The readings that count, with the table's steps done, and base circle where the turn is not complete.
/// Throws InputError (location "lobe.table...") for too few readings, angles that do not rise, or a lobe not
/// closed.
LobeReadings readings_of(const LobeTable& table);

/// Noise of a reading of a table, one standard deviation, from its base circle, m: robust scale of second
/// differences of neighbouring base-circle readings (so runout does not count), never below the rounding
/// (step / sqrt 12). Empty where there is too little base circle to tell.
std::optional<double> base_circle_noise_m(const LobeTable& table);

/// The finest step that all lifts of a table are multiples of, m: what its readings are rounded to.
double rounding_step_m(const LobeTable& table);

/// The degree-5 spline through the readings within their noise: stated in the table, else from the base
/// circle, else from the residual.
/// Local rule: fourth differences of the coefficients are taken as normal with a variance of their own at
/// each knot, alike over a score of degrees, and the variances are those under which the readings are
/// most likely (fixed point of the marginal likelihood). Even rule: one variance,
/// such that the RMS residual equals the noise. Throws InputError as readings_of does.
LobeCurve smooth_lobe(const LobeTable& table);

} // namespace bathmos
