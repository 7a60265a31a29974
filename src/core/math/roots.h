// Bracketed roots, by Boost.Math (Alefeld, Potra and Shi 1995): few calls, and never outside the bracket.
#pragma once

#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>
#include <cstdint>

namespace bathmos {

/// x in [lo, hi] with f(x) = 0, to a width of `tolerance`. Where f has the same sign at both ends, the end at
/// which it is nearer 0: a caller that may come so has asked for the best there is.
template <class F>
double find_root(F f, double lo, double hi, double tolerance) {
    const double at_lo = f(lo), at_hi = f(hi);
    if (at_lo == 0)
        return lo;
    if (at_hi == 0)
        return hi;
    if ((at_lo > 0) == (at_hi > 0))
        return std::abs(at_lo) <= std::abs(at_hi) ? lo : hi;
    std::uintmax_t calls = 200;
    const auto [a, b] = boost::math::tools::toms748_solve(
        f, lo, hi, at_lo, at_hi, [tolerance](double x, double y) { return std::abs(y - x) <= tolerance; },
        calls);
    return 0.5 * (a + b);
}

} // namespace bathmos
