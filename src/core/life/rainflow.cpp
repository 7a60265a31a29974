#include "core/life/rainflow.h"

#include <algorithm>
#include <cmath>

namespace bathmos::life {

namespace {

// Peaks and valleys, from the highest value round to it again.
std::vector<double> turning_points(const std::vector<double>& history) {
    const auto top = static_cast<std::size_t>(std::ranges::max_element(history) - history.begin());
    std::vector<double> out = {history[top]};
    for (std::size_t i = 1; i <= history.size(); ++i) {
        const double value = history[(top + i) % history.size()];
        const std::size_t n = out.size();
        if (value == out.back())
            continue;
        if (n > 1 && (out[n - 1] > out[n - 2]) == (value > out[n - 1]))
            out.back() = value;
        else
            out.push_back(value);
    }
    return out;
}

} // namespace

std::vector<LoadCycle> rainflow(const std::vector<double>& history, double least) {
    std::vector<LoadCycle> out;
    if (history.empty())
        return out;
    std::vector<double> open;
    for (const double value : turning_points(history)) {
        open.push_back(value);
        while (open.size() >= 3) {
            const std::size_t n = open.size();
            const double last = std::abs(open[n - 1] - open[n - 2]),
                         before = std::abs(open[n - 2] - open[n - 3]);
            if (last < before)
                break;
            if (before > least)
                out.push_back({std::min(open[n - 2], open[n - 3]), std::max(open[n - 2], open[n - 3]), 1});
            open.erase(open.end() - 3, open.end() - 1);
        }
    }
    return out;
}

} // namespace bathmos::life
