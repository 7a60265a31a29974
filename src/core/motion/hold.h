// A hold: the train run on for seconds at one speed, and how motion and loads develop.
#pragma once

#include "core/motion/motion.h"

namespace bathmos {

/// One cycle of a hold.
struct HoldPoint {
    double time_s = 0;                       ///< at the cycle's end
    Metrics metrics;                         ///< of this cycle alone
    double peak_m = 0;                       ///< largest lift
    double seat_load_N = 0, open_load_N = 0; ///< spring force half a turn from the nose, and its largest
    double cam_N = 0;                        ///< largest force at the cam
    double extension_m = 0;                  ///< of a hydraulic follower at the cycle's end
};

struct Hold {
    double speed_rpm = 0;
    std::vector<HoldPoint> points; ///< cycle after cycle
    Motion last;                   ///< the last cycle, with the last cycles as its cloud
};

/// Runs `seconds` at a speed from rest, at least one cycle. Throws Stopped, or InputError where the numbers
/// run away. `progress` is called each cycle.
Hold hold(const Train& train, double speed_rpm, double seconds, const ProgressSink& progress = {},
          const std::stop_token& stop = {});

} // namespace bathmos
