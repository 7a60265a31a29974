// Smoothing a gauged profile by a periodic penalised B-spline [Eilers & Marx 1996; physics.md 2].
#pragma once

#include "core/lobe/lobe.h"

namespace bathmos {

inline constexpr std::size_t kLobeKnots = 360; ///< one a cam degree
inline constexpr std::size_t kLobeMinReadings = 24;

/// One-sigma reading noise of a table from its base circle, m: robust scale of second differences of
/// neighbouring base-circle readings (so runout does not count), never below the rounding (step / sqrt 12).
double estimate_noise_m(const LobeTable& table);

/// The degree-5 spline whose residual RMS over the readings equals the noise (discrepancy principle): stated
/// in the table, or estimated. Readings that do not go round the whole turn are completed by base circle.
/// Throws InputError (place "lobe.table...") for too few readings, angles that do not rise, or a lobe not
/// closed.
LobeCurve smooth_lobe(const LobeTable& table);

/// One-sigma of a derivative (order 0..3, per rad^order) of the smoothed curve at the given angles, from the
/// reading noise alone. `theta_rad` from the nose.
std::vector<double> derivative_sigma(const LobeTable& table, const SmoothingReport& report,
                                     const std::vector<double>& theta_rad, int order);

} // namespace bathmos
