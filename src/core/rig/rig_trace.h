// What a spin rig recorded, as it came: turns of the cam with readings of a position sensor (physics.md 8).
#pragma once

#include <cmath>
#include <cstddef>
#include <limits>
#include <string>
#include <vector>

namespace bathmos {

/// One turn between two index pulses.
struct RigTurn {
    double speed_rpm = 0;  ///< crank speed: as recorded, or from the pulses
    std::size_t first = 0; ///< index of its first reading
    std::size_t count = 0;
    bool follows_on = true; ///< no pause or missing turn since the turn before
    double oil_C = std::numeric_limits<double>::quiet_NaN(); ///< NaN: not known
};

/// A reading of a position sensor: a number, and not a whole metre off. Anything else was lost.
inline bool is_reading(float lift_mm) {
    return std::isfinite(lift_mm) && std::abs(lift_mm) <= 1000.0f;
}
/// Crank speeds that a rig can have, rev/min.
inline constexpr double kLeastRig_rpm = 30, kMostRig_rpm = 40000;

/// Raw readings are never altered. Angles are crank degrees from the index pulse; lift is mm as the sensor
/// gave it, opening positive, NaN where a reading was lost.
struct RigTrace {
    std::string source; ///< file name, for messages
    std::string valve;  ///< which valve, if the file says so
    std::vector<float> crank_deg;
    std::vector<float> lift_mm;
    std::vector<RigTurn> turns;
    bool once_per_crank_turn = false; ///< index pulses: one a crank turn, so two turns make a cycle
};

} // namespace bathmos
