// A straight line by least squares with what it is known to.
#pragma once

#include "core/bench/readings.h"

namespace bathmos::bench {

struct StraightLine {
    Figure at_zero, slope;
    double r_squared = 1;
    double residual_sd = 0; ///< of a reading about the line, by_student()
};

/// y over x, each reading alike; `own_sd` is the least that a reading is off. At least two different x; the
/// deviations are of `own_sd` alone where two readings leave no residual.
StraightLine line_through(const std::vector<double>& x, const std::vector<double>& y, double own_sd = 0);
/// The same through nothing at nothing: only the slope is free.
StraightLine line_from_origin(const std::vector<double>& x, const std::vector<double>& y, double own_sd = 0);

} // namespace bathmos::bench
