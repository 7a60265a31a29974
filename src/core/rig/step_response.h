// What a limit does as one number is stepped from run to run: unloading a spring, lightening a valve
// (docs/plan.md, Stepping one number).
#pragma once

#include "core/units/measured_text.h"

#include <optional>
#include <vector>

namespace bathmos {

/// One run: what was stepped, the limit or edge it gave, and how surely (one deviation).
struct SteppedRun {
    double at = 0, rpm = 0, sd_rpm = 0;
};

/// A parabola through three or more runs by weighted least squares.
struct StepResponse {
    double slope = 0, slope_sd = 0;         ///< rpm a unit, at the middle of what was run
    double curvature = 0, curvature_sd = 0; ///< rpm a unit squared
    bool known_slope = false;               ///< over two deviations
    std::optional<double> best_at; ///< only inside of what was run, with a curvature over two deviations
    double best_rpm = 0, best_at_sd = 0;
    double next_at = 0; ///< the step proposed: the optimum, else one more step up the slope, else in the gap
    std::string why;    ///< of that, in words
};

/// Throws InputError for fewer than three different steps, or a deviation that is not above 0.
StepResponse step_response(std::vector<SteppedRun> runs);

} // namespace bathmos
