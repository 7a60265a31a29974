// The readings of a pull as one curve: by rising speed, without what is no reading, each with its own noise.
#pragma once

#include "core/dyno/pull.h"

namespace bathmos {

struct PowerCurve {
    std::vector<double> speed_rpm;    ///< rising, all different
    std::vector<double> power_W;      ///< means of what was read there
    std::vector<double> sd_W;         ///< standard deviation of each, from its neighbours
    std::vector<std::size_t> reading; ///< of the pull, the first of each
    std::size_t left_out = 0;         ///< dropouts, and what came after the run's end
    bool lifted = false;              ///< the recording goes on as speed falls back
    std::size_t rows = 0;             ///< of the pull, up to the run's end
    std::size_t size() const { return speed_rpm.size(); }
    double span_rpm() const { return speed_rpm.empty() ? 0 : speed_rpm.back() - speed_rpm.front(); }
};

/// Leaves out rows without speed or power, single rows below a fifth of their neighbours, and the way back
/// after the run's end; sorts by speed (a run downward counts like one upward); takes the mean of equal
/// speeds, and of bins where there are over `most` readings. Throws InputError without power above 0, with
/// under 8 readings or 300 rev/min.
PowerCurve power_curve(const Pull& pull, std::size_t most = 300);

/// Another channel's values at the curve's places, by the same bins; NaN where nothing was read. Empty when
/// the channel was not logged.
std::vector<double> channel_on(const Pull& pull, PullChannel channel, const PowerCurve& curve);

} // namespace bathmos
