#include "core/math/periodic_spline.h"

#include "core/units/units.h"

#include <cmath>

namespace bathmos {

namespace {

using Polynomial = std::array<double, 6>;

// The cardinal quintic M(x) = sum_k (-1)^k C(6,k) (x-k)_+^5 / 5!, cut into its six pieces. Piece j is the
// weight, within an interval, of the coefficient 3-j knots away (j = 0 is the newest spline).
std::array<Polynomial, 6> make_pieces() {
    constexpr double choose6[] = {1, 6, 15, 20, 15, 6, 1};
    constexpr double choose5[] = {1, 5, 10, 10, 5, 1};
    std::array<Polynomial, 6> pieces{};
    for (int j = 0; j < 6; ++j)
        for (int k = 0; k <= j; ++k) {
            const double sign = k % 2 ? -1 : 1, shift = j - k; // (t + shift)^5
            for (int power = 0; power <= 5; ++power)
                pieces[static_cast<std::size_t>(j)][static_cast<std::size_t>(power)] +=
                    sign * choose6[k] * choose5[power] * std::pow(shift, 5 - power) / 120;
        }
    return pieces;
}

constexpr std::size_t kOrders = 5;

// The pieces and their derivatives.
std::array<std::array<Polynomial, 6>, kOrders> make_derivatives() {
    std::array<std::array<Polynomial, 6>, kOrders> out{make_pieces()};
    for (std::size_t order = 1; order < kOrders; ++order)
        for (std::size_t j = 0; j < 6; ++j)
            for (std::size_t power = 1; power < 6; ++power)
                out[order][j][power - 1] = static_cast<double>(power) * out[order - 1][j][power];
    return out;
}

} // namespace

std::array<double, 6> quintic_weights(double t, int order) {
    static const auto derivatives = make_derivatives();
    std::array<double, 6> weights{};
    for (std::size_t j = 0; j < 6; ++j) {
        const Polynomial& c = derivatives[static_cast<std::size_t>(order)][j];
        // weights[0] belongs to the coefficient two knots before the interval
        weights[5 - j] = ((((c[5] * t + c[4]) * t + c[3]) * t + c[2]) * t + c[1]) * t + c[0];
    }
    return weights;
}

PeriodicSpline::PeriodicSpline(std::vector<double> coefficients) : coefficients_(std::move(coefficients)) {}

PeriodicSpline::Place PeriodicSpline::place(double angle_rad, std::size_t knots) {
    const double n = static_cast<double>(knots);
    double position = angle_rad / (2 * kPi) * n;
    position -= std::floor(position / n) * n;
    auto knot = static_cast<std::size_t>(position);
    if (knot >= knots)
        knot = knots - 1;
    return {knot, position - static_cast<double>(knot)};
}

std::size_t PeriodicSpline::wrap(std::size_t knot, int offset, std::size_t knots) {
    return (knot + knots + static_cast<std::size_t>(offset + static_cast<int>(knots))) % knots;
}

double PeriodicSpline::at(double angle_rad, int order) const {
    const Place p = place(angle_rad, size());
    const std::array<double, 6> w = quintic_weights(p.t, order);
    double sum = 0;
    if (p.knot >= 2 && p.knot + 3 < size()) { // all but those across the turn
        for (std::size_t j = 0; j < 6; ++j)
            sum += w[j] * coefficients_[p.knot + j - 2];
    } else {
        for (int j = 0; j < 6; ++j)
            sum += w[static_cast<std::size_t>(j)] * coefficients_[wrap(p.knot, j - 2, size())];
    }
    const double knots_per_rad = static_cast<double>(size()) / (2 * kPi);
    for (int d = 0; d < order; ++d)
        sum *= knots_per_rad;
    return sum;
}

} // namespace bathmos
