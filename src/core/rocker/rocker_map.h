// How lifter-side travel becomes valve-tip travel: g(q) and its ratio R = dg/dq (physics.md 1, 5).
#pragma once

#include "core/math/cubic_curve.h"

#include <vector>

namespace bathmos {

/// Measured travel of both ends of a rocker; a natural cubic spline goes through it, linear outside.
struct RatioTable {
    std::vector<double> input_m;
    std::vector<double> output_m;
    bool operator==(const RatioTable&) const = default;
};

/// Value type; the identity unless made from a ratio or a table.
class RockerMap {
  public:
    RockerMap() = default;
    explicit RockerMap(double ratio) : ratio_(ratio) {}
    explicit RockerMap(const RatioTable& table)
        : curve_(CubicCurve::natural(table.input_m, table.output_m)) {}
    /// Travel of the output for one of the input, both m.
    double travel(double input_m) const { return curve_.empty() ? ratio_ * input_m : curve_.value(input_m); }
    /// Its derivative, output over input.
    double ratio(double input_m) const { return curve_.empty() ? ratio_ : curve_.slope(input_m); }
    const CubicCurve& curve() const { return curve_; } ///< empty for a fixed ratio

  private:
    double ratio_ = 1;
    CubicCurve curve_;
};

} // namespace bathmos
