// Cycles hidden in a load that comes again and again.
#pragma once

#include <vector>

namespace bathmos::life {

/// From `low` to `high` and back, so many times in one turn of the history.
struct LoadCycle {
    double low = 0, high = 0, count = 1;
};

/// Whole cycles of a history that repeats, by the rainflow method [ASTM E1049-85, 5.4.5; Matsuishi and Endo
/// 1968]: begun at its highest value, so that no half cycle is left. Ranges at or below `least` are passed
/// over. Empty where nothing moves.
std::vector<LoadCycle> rainflow(const std::vector<double>& history, double least = 0);

} // namespace bathmos::life
