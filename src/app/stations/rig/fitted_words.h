// How fitted numbers are written.
#pragma once

#include "app/text/words.h"
#include <algorithm>
#include <cmath>

namespace bathmos::app {

/// Digits that the uncertainty deserves.
inline QString with_digits(double value, double sd) {
    const int digits = sd > 0 ? std::clamp(1 - static_cast<int>(std::floor(std::log10(sd))), 0, 6) : 3;
    return fixed(value, digits);
}

} // namespace bathmos::app
