// Which speeds are worth looking at for a train: the one choice for strip, rig, verdict and command line.
#pragma once

#include "core/motion/sweep.h"

namespace bathmos::session {

/// From 3000 rev/min to a little below the rigid separation speed, which lies above every computed limit,
/// within 5000 to 15000, and past the target; every 100 rev/min. `figures` null: to 9000. A target of 0 is
/// none.
SpeedRange usual_range(const TrainFigures* figures, double target_rpm);

} // namespace bathmos::session
