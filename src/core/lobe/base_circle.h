// What a gauge's readings say about the gauging itself: base circle, runout, single readings that stand out.
#pragma once

#include "core/lobe/lobe.h"

namespace bathmos {

/// The readings off the event: a height, and one wave a turn when the cam was held out of true.
struct BaseCircle {
    double zero_m = 0;        ///< mean height
    double cosine_m = 0;      ///< of the wave, over the table's own angle
    double sine_m = 0;        ///< of the wave
    double scatter_m = 0;     ///< robust standard deviation of what is left
    std::size_t readings = 0; ///< that it was read from; 0: too few, all other numbers are 0

    /// Height at an angle of the table, cam rad.
    double at(double angle_rad) const;
    /// Runout as a dial shows it, highest less lowest, m.
    double runout_m() const;
    /// Where it stands highest, cam rad of the table.
    double high_at_rad() const;
};

/// From the readings further than the ramps from the event, by least squares re-weighted against single bad
/// readings. Needs 12 readings over 90 cam degrees, else all 0.
BaseCircle base_circle_of(const LobeTable& table);

/// Readings that stand out from the cubic through their two neighbours on each side by more than six times
/// what such departures usually are, and at least 8 um. Places in the table, rising.
std::vector<std::size_t> outstanding_readings(const LobeTable& table);

} // namespace bathmos
