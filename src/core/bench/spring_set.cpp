#include "core/bench/spring_set.h"

#include "core/math/robust.h"
#include "core/problem/input_error.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numeric>
#include <optional>
#include <set>

namespace bathmos::bench {

namespace {

constexpr double kOut = 0.03, kTired = 0.05; // share of the load
constexpr double kSame_m = 5e-6;

// The load at a height between two that were read; empty beyond them.
std::optional<double> load_at(const std::vector<double>& height_m, const std::vector<double>& load_N,
                              double at_m) {
    std::optional<double> above, below;
    double above_m = 0, below_m = 0;
    for (std::size_t i = 0; i < height_m.size(); ++i) {
        if (std::abs(height_m[i] - at_m) < kSame_m)
            return load_N[i];
        if (height_m[i] > at_m && (!above || height_m[i] < above_m)) {
            above = load_N[i];
            above_m = height_m[i];
        }
        if (height_m[i] < at_m && (!below || height_m[i] > below_m)) {
            below = load_N[i];
            below_m = height_m[i];
        }
    }
    if (!above || !below)
        return std::nullopt;
    const double t = (at_m - below_m) / (above_m - below_m);
    return *below + t * (*above - *below);
}

void check(const SpringSet& set) {
    std::set<std::string> seen;
    for (const SetSpring& spring : set.springs) {
        const std::string place = "springs." + spring.serial;
        if (!seen.insert(spring.serial).second)
            throw InputError({"", place, "stands twice", "give each spring a serial of its own"});
        if (spring.height_m.empty() || spring.height_m.size() != spring.load_N.size() ||
            spring.old_height_m.size() != spring.old_load_N.size())
            throw InputError({"", place, "has not as many loads as heights", "give a load for each height"});
        for (const auto* heights : {&spring.height_m, &spring.old_height_m})
            require_between(place + ".height_mm", Quantity::Length, *heights, 1e-3, 0.5);
        for (const auto* loads : {&spring.load_N, &spring.old_load_N})
            require_between(place + ".load_N", Quantity::Force, *loads, 1, 1e5);
    }
    if (set.springs.size() < 2)
        throw InputError({"", "springs", fmt::format("{} in the set", set.springs.size()),
                          "a set has two springs or more; one alone has a sheet of its own"});
}

// Heights of the first spring that all others reach, tallest first.
std::vector<double> shared_heights(const SpringSet& set) {
    std::vector<double> out;
    for (const double height : set.springs.front().height_m)
        if (std::ranges::all_of(set.springs, [&](const SetSpring& one) {
                return load_at(one.height_m, one.load_N, height).has_value();
            }))
            out.push_back(height);
    if (out.empty())
        throw InputError({"", "springs", "no height that all of them were read at",
                          "read the whole set at the same heights"});
    std::ranges::sort(out, std::greater());
    return out;
}

// Share of its own earlier load that a spring has lost, at most over the heights of both.
double lost_share(const SetSpring& spring) {
    double out = std::numeric_limits<double>::quiet_NaN();
    for (std::size_t i = 0; i < spring.old_height_m.size(); ++i)
        if (const auto now = load_at(spring.height_m, spring.load_N, spring.old_height_m[i]);
            now && spring.old_load_N[i] > 0)
            out = std::fmax(out, 1 - *now / spring.old_load_N[i]);
    return out;
}

// Neighbours by load on neighbouring valves; of too many springs, the stretch whose pairs differ least.
std::vector<PlacedSpring> placed(const SpringSet& set, const std::vector<std::size_t>& good,
                                 const std::vector<double>& load_N) {
    std::vector<std::size_t> order = good;
    std::ranges::stable_sort(order, {}, [&](std::size_t i) { return load_N[i]; });
    const std::size_t count = std::min(order.size(), set.valves.size());
    std::size_t best = 0;
    double least = std::numeric_limits<double>::infinity();
    for (std::size_t first = 0; first + count <= order.size() && count > 0; ++first)
        if (const double range = load_N[order[first + count - 1]] - load_N[order[first]]; range < least) {
            least = range;
            best = first;
        }
    std::vector<PlacedSpring> out;
    for (std::size_t i = 0; i < count; ++i)
        out.push_back({set.valves[i], set.springs[order[best + i]].serial});
    return out;
}

} // namespace

SpringSetFigures figures_of(const SpringSet& set) {
    check(set);
    const std::vector<double> heights = shared_heights(set);
    SpringSetFigures out;
    out.height_m = heights.front();
    out.off.assign(set.springs.size(), 0.0);
    for (const double height : heights) {
        std::vector<double> loads;
        for (const SetSpring& one : set.springs)
            loads.push_back(*load_at(one.height_m, one.load_N, height));
        const double middle = median(loads);
        for (std::size_t i = 0; i < loads.size(); ++i)
            if (std::abs(loads[i] / middle - 1) > std::abs(out.off[i]))
                out.off[i] = loads[i] / middle - 1;
        if (height == heights.front())
            out.load_N = loads;
    }
    out.mean_N =
        std::accumulate(out.load_N.begin(), out.load_N.end(), 0.0) / static_cast<double>(out.load_N.size());
    std::vector<std::size_t> good;
    for (std::size_t i = 0; i < set.springs.size(); ++i) {
        out.lost.push_back(lost_share(set.springs[i]));
        const bool tired = out.lost.back() > kTired, off = std::abs(out.off[i]) > kOut;
        if (tired)
            out.tired.push_back(set.springs[i].serial);
        if (off)
            out.reject.push_back(set.springs[i].serial);
        if (!tired && !off)
            good.push_back(i);
    }
    out.pairs = placed(set, good, out.load_N);
    if (good.size() < set.valves.size())
        out.told.push_back(
            {"too_few", fmt::format("{} good springs for {} valves", good.size(), set.valves.size())});
    return out;
}

} // namespace bathmos::bench
