// From raw turns to clean cycles on an even grid: pairing, resampling, grouping by speed, sorting out bad
// ones.
#pragma once

#include "core/rig/rig_run.h"

namespace bathmos::rig {

/// A cycle of 720 crank degrees on kGridSteps points from the index pulse, raw mm; the ring closes on itself.
using RawCycle = std::vector<double>;

/// Where the whole cycles near one speed stand in a trace.
struct CyclePlaces {
    double speed_rpm = 0; ///< mean
    std::vector<std::size_t>
        turns; ///< first turn of each; where pulses come once a crank turn the next belongs to it
};

struct SpeedGroup {
    double speed_rpm = 0; ///< mean of its cycles
    std::vector<RawCycle> cycles;
    BadCycleCounts dropped{};
    std::size_t passed_over = 0; ///< cycles beyond kMostCycles
};

/// Cycles of one speed that are looked at; of more, so many evenly spread ones: they say no more of the
/// motion.
inline constexpr std::size_t kMostCycles = 4000;

/// Pairs turns where the index comes once a crank turn, and groups cycles whose speeds lie within 1 %; turns
/// outside of the trace's readings and without a speed are passed over. Rising speeds.
std::vector<CyclePlaces> group_cycles(const RigTrace& trace);

/// A group's cycles, each resampled (cubic in angle). Cycles with gaps of 3 or more lost readings, or too
/// short, are counted and left out. Throws Stopped.
SpeedGroup read_group(const RigTrace& trace, const CyclePlaces& places, const RigOptions& options);

/// Leaves out, and counts, cycles that the sensor or encoder spoiled, judged against the median cycle of the
/// group (at least 3 cycles; fewer are left alone):
/// - slipped: the whole cycle fits the others once turned by 1.5 degrees or more (index pulse missed or
/// late);
/// - spike, stuck: for at most 8 degrees on end it is off by more than 0.05 mm and 6 robust standard
/// deviations of the others there. A longer departure is motion, not a glitch, and stays: beyond onset cycles
/// do differ.
void drop_bad(SpeedGroup& group);

/// Average of a group's cycles. Not empty.
RawCycle average(const std::vector<RawCycle>& cycles);

/// Value of a ring at any crank angle, cubic between points.
double ring_at(const RawCycle& ring, double crank_deg);

} // namespace bathmos::rig
