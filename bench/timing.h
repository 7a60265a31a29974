// Wall-clock times for the benchmarks.
#pragma once

#include <algorithm>
#include <chrono>
#include <vector>

namespace bathmos::bench {

/// Seconds that one run takes.
template <class F>
double seconds_of(F run) {
    const auto start = std::chrono::steady_clock::now();
    run();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

/// Median of several runs, in ms.
template <class F>
double median_ms(int runs, F run) {
    std::vector<double> all;
    for (int i = 0; i < runs; ++i)
        all.push_back(1e3 * seconds_of(run));
    std::sort(all.begin(), all.end());
    return all[all.size() / 2];
}

} // namespace bathmos::bench
