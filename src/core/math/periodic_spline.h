// A periodic spline of degree 5 with equally spaced knots, as used for lobes.
#pragma once

#include <array>
#include <vector>

namespace bathmos {

/// Weights of the six quintic B-splines that are not zero in a knot interval, and their derivatives.
/// Each weight is a polynomial in t = 0..1 across the interval; `order` 0..4 takes its derivative per knot.
std::array<double, 6> quintic_weights(double t, int order);

/// Periodic over one turn (2 pi rad); value type.
class PeriodicSpline {
  public:
    PeriodicSpline() = default;
    /// `coefficients`: one per knot, knot i at angle 2 pi i / size.
    explicit PeriodicSpline(std::vector<double> coefficients);

    /// Value (order 0) or derivative (1..4) per rad^order at an angle in rad, any turn.
    double at(double angle_rad, int order) const;

    std::size_t size() const { return coefficients_.size(); }

    struct Place {
        std::size_t knot; ///< interval; the six coefficients are knot-2 .. knot+3, periodic
        double t;         ///< 0..1 within it
    };
    /// Where an angle in rad, of any turn, falls among `knots` even ones.
    static Place place(double angle_rad, std::size_t knots);
    /// A knot so many further on, round the turn; `offset` within one turn.
    static std::size_t wrap(std::size_t knot, int offset, std::size_t knots);

  private:
    std::vector<double> coefficients_;
};

} // namespace bathmos
