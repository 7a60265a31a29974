// Smooth curves through measured points: monotone cubic (load tables) and natural cubic spline (ratio
// tables).
#pragma once

#include <vector>

namespace bathmos {

/// A piecewise cubic through points, linear outside them. Immutable once made.
class CubicCurve {
  public:
    CubicCurve() = default;

    /// Monotone interpolation (PCHIP: Fritsch-Butland slopes, three-point ends). `x` strictly increasing,
    /// same length as `y`, at least 2 points.
    static CubicCurve monotone(std::vector<double> x, std::vector<double> y);

    /// Natural cubic spline (second derivative 0 at both ends). Same requirements as monotone().
    static CubicCurve natural(std::vector<double> x, std::vector<double> y);

    /// At x; the end slopes go on outside. `empty()` must be false.
    double value(double x) const;
    double slope(double x) const; ///< derivative of the same

    double first() const { return x_.front(); }
    double last() const { return x_.back(); }
    bool empty() const { return x_.empty(); }

  private:
    CubicCurve(std::vector<double> x, std::vector<double> y, std::vector<double> slopes);
    std::size_t interval(double x) const;

    std::vector<double> x_, y_, slope_; // Hermite form: value and slope at each point
};

/// The same curve cut into equal bins, each holding the cubic of the interval at its middle: a look-up
/// without a search, used by the integrator. Outside the table it is linear. Differs from the curve only
/// within half a bin of a point, by less than half the jump in curvature times (bin/2)^2.
struct BinnedCubic {
    double start = 0;         ///< x of the first bin's left edge
    double per_bin = 1;       ///< bins per unit of x
    std::vector<double> c[4]; ///< value = c0 + t (c1 + t (c2 + t c3)), t = x - left edge of the bin
    int bins = 0;             ///< inner bins; bin 0 and bin bins+1 are the linear ends

    /// From a curve that is not empty; `bins` at least 1.
    static BinnedCubic of(const CubicCurve& curve, int bins = 1024);
    double value(double x) const; ///< at x, of any size
};

/// The same curve as straight pieces over equal bins, value and slope side by side: half the look-ups of
/// BinnedCubic. Off by less than an eighth of the curvature times the bin's width squared. Linear outside.
struct BinnedLine {
    double start = 0, per_bin = 1;
    int bins = 0;
    std::vector<double> value_slope; ///< of each bin: value at its left edge, slope

    /// From a curve that is not empty; `bins` at least 1.
    static BinnedLine of(const CubicCurve& curve, int bins = 8192);
    double value(double x) const; ///< at x, of any size
};

} // namespace bathmos
