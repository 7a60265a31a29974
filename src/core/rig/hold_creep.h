// Whether a hold at one speed creeps: motion that goes on changing while nothing is changed
// (docs/rig-stream.md, Holds).
#pragma once

#include "core/rig/rig_run.h"

namespace bathmos::rig {

inline constexpr std::size_t kLeastHeldCycles = 60;

/// A straight line through a hold's values over time.
struct Creep {
    double per_s = 0, sd_per_s = 0; ///< one deviation, with what neighbouring cycles share taken into account
    double over_hold = 0;           ///< slope times the hold's time
    double sigma = 0;               ///< that, in deviations
    bool creeps = false;            ///< beyond three deviations
};
/// Least squares; the deviation grows with the correlation of neighbouring residuals [Bartlett 1946]. At
/// least kLeastHeldCycles values, rising times.
Creep creep_of(const std::vector<double>& time_s, const std::vector<double>& values);

/// A speed that was held, by what creeps of it.
struct HeldSpeed {
    double speed_rpm = 0, seconds = 0;
    std::size_t cycles = 0;
    Creep peak_m, duration_deg, bounce_m, held_open_m;
    bool passes() const {
        return !peak_m.creeps && !duration_deg.creeps && !bounce_m.creeps && !held_open_m.creeps;
    }
};

/// The holds of a trace that was reduced to `run`: speeds with kLeastHeldCycles cycles on end that take
/// `least_s` or longer. `rigid_m`: the kinematic lift on the grid; `options` as it was reduced with. Throws
/// Stopped.
std::vector<HeldSpeed> holds_of(const RigTrace& trace, const RigRun& run, const std::vector<double>& rigid_m,
                                const RigOptions& options = {}, double least_s = 3);

} // namespace bathmos::rig
