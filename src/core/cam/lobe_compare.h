// Lobes beside each other: what each asks, side by side, and where one asks more than another, in words.
#pragma once

#include "core/cam/lobe_motion.h"
#include "core/lobe/lobe_events.h"
#include "core/units/units.h"

#include <string>
#include <vector>

namespace bathmos {

/// One thing that a lobe asks, with where.
struct LobeFigure {
    std::string key;       ///< "closing_low_deceleration"
    std::string label;     ///< on screen
    int order = 0;         ///< derivative, 0 for a height or an area
    bool closing = false;  ///< side
    double value = 0;      ///< magnitude in SI per rad^order; area in m rad
    double theta_rad = 0;  ///< where; 0 for an area
    double cam_lift_m = 0; ///< at which cam lift
    double sd = 0;         ///< of the value, from the gauge's noise
};

/// Rise under which a figure counts as low: below the usual check height of 0.050 in, where a card is silent.
inline constexpr double kLowRise_m = 0.050 * kInch_m;

/// Velocity, acceleration, deceleration and jerk of each side over the whole event and at low rise; ramp
/// height and velocity of each side (where acceleration falls to a twentieth of the flank's peak); area;
/// asymmetry of the flanks' accelerations. Always the same keys in the same order.
std::vector<LobeFigure> lobe_figures(const LobeMotion& motion);

/// Factor over which a difference between two lobes is flagged.
inline constexpr double kFlagFactor = 1.25;

/// Lobe `harder` of the compared ones asks `factor` times what `softer` asks.
struct LobeFlag {
    std::size_t harder = 0, softer = 0;
    LobeFigure figure; ///< of the harder one
    double factor = 1;
    std::string what; ///< "decelerates 1.9 times as hard at {} on the closing side"; {} stands for the rise
};

/// Differences of over kFlagFactor between any two that are not within their noise (two sd), largest
/// first. Figures too small to matter (under a tenth of the lobe's largest of that order) are left out.
std::vector<LobeFlag> lobe_flags(const std::vector<std::vector<LobeFigure>>& figures);

/// How lobes are laid over each other.
enum class Alignment { Nose, CentreLine, Height };

/// Cam angle of a lobe that is laid on zero, rad from its nose: 0; the middle between its crossings of the
/// height; its opening at the height. 0 where the height is not reached.
double alignment_rad(const LobeMotion& motion, Alignment alignment, double height_m);

} // namespace bathmos
