// The onset: the speed at which a motion leaves its own elastic trend, told without a force (physics.md 7,
// Onset). Computed the same way on model and rig, so that the two may be compared.
#pragma once

#include "core/math/robust.h"
#include "core/motion/limits.h"

#include <optional>
#include <vector>

namespace bathmos {

struct Onset {
    std::optional<double> speed_rpm; ///< lowest departure that stays to the end of the range
    std::optional<Metric> metric;    ///< which metric departs there
    double half_step_rpm = 0;        ///< the answer is known to +/- this
};

/// A range in which a metric departs from its trend and comes back.
struct Band {
    Metric metric;
    double from_rpm, to_rpm;
};

struct OnsetResult {
    Onset onset;
    std::vector<Band> bands;
};

/// The elastic trend a + b n^2 of a metric (n in rev/min), fitted robustly below n_min + 0.6 (n_max - n_min);
/// empty with fewer than 3 values there. `rows`: rising speeds.
std::optional<Line> elastic_trend(const std::vector<SpeedMetrics>& rows, Metric metric);

/// `rows`: rising speeds, at least 5 (fewer: no onset). `noise`: standard deviation of one speed's repeats
/// for each metric, in SI or degrees; empty where unknown or none (model). Lift loss, duration change, loft,
/// bounce and cycle-to-cycle variation are each compared with a + b n^2, fitted robustly below n_min + 0.6
/// (n_max - n_min); a departure is over three times the noise and at least 0.05 mm or 1.5 deg.
OnsetResult find_onset(const std::vector<SpeedMetrics>& rows, const Metrics& noise);

/// The model's onset over the very speeds that a rig covered, so that the two can be compared: the trend, and
/// so the onset, depends on the range it is fitted in. The one onset of the model wherever a run stands
/// beside it. `rows` of the model and `measured` of the run, both rising; `whole`, the onset over all rows,
/// where nothing is measured or the two share fewer than 5 speeds, which would show none.
OnsetResult onset_beside(const std::vector<SpeedMetrics>& rows, const OnsetResult& whole,
                         const std::vector<SpeedMetrics>& measured);

} // namespace bathmos
