// A lobe that is not as its file: what of the fitted model's difference from the run stays at its angle at
// all slow speeds (docs/calibration.md, The lobe that is seen).
#pragma once

#include "core/calibration/calibrate.h"

#include <optional>
#include <string>
#include <vector>

namespace bathmos {

/// Difference of the lobe that was spun from the one on file, as far as the train's numbers do not explain
/// it.
struct LobeSeen {
    std::vector<double> cam_deg;      ///< from the nose, rising
    std::vector<double> difference_m; ///< spun less file, at the cam
    std::vector<double> sd_m;         ///< by the scatter from speed to speed
    std::size_t speeds = 0;           ///< slow ones that it is the mean of

    /// The largest stretch that stands out: its highest point, its ends, and the part of the lobe in words.
    struct Stretch {
        double cam_deg = 0, difference_m = 0, from_deg = 0, to_deg = 0;
        std::string part; ///< "closing ramp"
    };
    std::optional<Stretch> departs;
};

/// From one run's residuals under its fitted train. Empty where the run has fewer than three slow speeds.
std::optional<LobeSeen> lobe_seen(const Train& fitted, const std::vector<SpeedResidual>& residuals,
                                  std::size_t run = 0);

/// In a sentence, with what to do; `run` by its name.
std::string said_of(const LobeSeen::Stretch& departs, const std::string& run);

} // namespace bathmos
