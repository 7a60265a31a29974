// A stand-in for a spin rig: a trace of readings of a *true* train's motion, as a position sensor with errors
// of its own would record it. For the tests; nothing here is known to the analysis.
#pragma once

#include "core/rig/rig_trace.h"
#include "core/train/train.h"

#include <vector>

namespace bathmos::standin {

/// What a sensor and its data system add to the lift.
struct SensorErrors {
    double gain = 0;           ///< share above 1
    double delay_s = 3.5e-6;   ///< of the electronics
    double phase_deg = 37;     ///< crank angle of the nose after the index pulse
    double noise_m = 2e-6;     ///< standard deviation of a reading
    double zero_walk_m = 4e-6; ///< standard deviation of the zero's step from speed to speed
};

struct SpinSetup {
    Train truth;
    std::vector<double> speeds_rpm; ///< rising
    std::size_t cycles = 16;        ///< at each speed
    std::size_t samples_per_turn = 720;
    SensorErrors sensor;
    unsigned seed = 1;
};

/// The trace, one turn a cycle; the same for the same setup. Where the motion does not repeat its cycles
/// follow one another as they came. Throws InputError for a train that cannot be run at one of the speeds.
RigTrace spin(const SpinSetup& setup);

} // namespace bathmos::standin
