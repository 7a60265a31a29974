// One raw cycle of a rig on the model's grid, and what is read off it: the same for a run that was reduced
// and for a turn that has just been made.
#pragma once

#include "core/motion/metrics.h"
#include "core/rig/cycles.h"

namespace bathmos::rig {

/// Where a raw cycle stands against the model, and how it is measured.
struct CycleFrame {
    double phase_deg = 0; ///< crank angle of the nose after the index pulse
    double zero_mm = 0;   ///< raw level of the loaded seat
    double seat_m = 0;    ///< how far the springs press the valve into its seat
    double noise_m = 0;   ///< of a reading
    double check_lift_m = kUsualCheckLift_m;
};

/// Lift at kGridPoints from -360 to 360 crank degrees, 0 at the nose; metres, zero at first touch.
std::vector<double> aligned_m(const RawCycle& cycle, const CycleFrame& frame);

/// Metrics of a cycle as aligned_m gives it. `rigid_m`: the kinematic lift on the same grid.
Metrics metrics_of(const std::vector<double>& lift_m, const std::vector<double>& rigid_m, double speed_rpm,
                   const CycleFrame& frame);

} // namespace bathmos::rig
