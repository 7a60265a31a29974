// Whether readings drift over time or use, beyond their noise (docs/life.md, Trends).
#pragma once

#include <optional>
#include <vector>

namespace bathmos::life {

struct Trend {
    double at_zero = 0, per_unit = 0;
    double sd_per_unit = 0; ///< one deviation, widened for the few readings (Student)
    double noise = 0;       ///< deviation of a reading about the line
    std::size_t readings = 0;
    bool drifts = false; ///< beyond two such deviations; never by two readings, which have no noise
    double value_at(double x) const { return at_zero + per_unit * x; }
    /// Where the line reaches a level; empty where it never does.
    std::optional<double> reaches(double level) const;
};

/// A straight line by least squares. `own_sd`: the least that a reading is off. At least two different x.
Trend trend_of(const std::vector<double>& x, const std::vector<double>& y, double own_sd = 0);

} // namespace bathmos::life
