// From what a profile gauge or a degree wheel gave, pass by pass, to one table of readings.
#pragma once

#include "core/lobe/lobe.h"

namespace bathmos {

/// One pass round the lobe, or over its event; angles in any order, in the table's units.
struct GaugePass {
    std::vector<double> angle, lift;
};

/// How well passes agree where they meet.
struct Repeatability {
    std::size_t passes = 1;
    double sd_m = 0;       ///< robust, of one reading, from the differences between passes; 0 for one pass
    double largest_m = 0;  ///< largest difference from the mean
    double largest_at = 0; ///< where, in the table's angle unit
};

struct GaugedLobe {
    std::string name;
    std::vector<GaugePass> passes;
};

struct CombinedPasses {
    LobeTable table; ///< rising angles over one turn at most; noise stated where passes tell it
    Repeatability repeatability;
};

/// Cuts readings that go on over more than a turn, or begin again, into passes.
std::vector<GaugePass> split_passes(const std::vector<double>& angle, const std::vector<double>& lift,
                                    AngleUnit unit);

/// One table from passes: readings at the same angle are averaged, others stand beside each other.
/// `mirrored`: gauged against the cam's rotation. Throws InputError (location "lobe.table") without readings.
CombinedPasses combine(const std::vector<GaugePass>& passes, AngleUnit angle_unit, LiftUnit lift_unit,
                       bool mirrored);

} // namespace bathmos
