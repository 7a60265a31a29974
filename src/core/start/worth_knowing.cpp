#include "core/start/worth_knowing.h"

#include "core/start/assumption_rules.h"
#include "core/uncertainty/uncertain_inputs.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace bathmos {

namespace {

constexpr double kLeastShare = 0.04; // what chance alone may make of some hundred draws
constexpr std::size_t kGroups = 5, kFewestDraws = 40;

// Limits in the order of one number's draws, most extreme ones drawn in: the band does not feel them either.
std::vector<double> limits_by(const LimitUncertainty& drawn, std::size_t input) {
    std::vector<std::pair<double, double>> pairs;
    for (std::size_t i = 0; i < drawn.limit_rpm.size(); ++i)
        if (std::isfinite(drawn.limit_rpm[i]))
            pairs.emplace_back(drawn.off[i][input], drawn.limit_rpm[i]);
    std::sort(pairs.begin(), pairs.end());
    const double reach = *drawn.high_rpm - *drawn.low_rpm;
    std::vector<double> out;
    for (const auto& [off, limit] : pairs)
        out.push_back(std::clamp(limit, *drawn.middle_rpm - reach, *drawn.middle_rpm + reach));
    return out;
}

// Share of the variance that lies between groups of draws of one number (correlation ratio, freed of what
// groups by chance differ by).
double share_between(const std::vector<double>& limits) {
    const auto n = static_cast<double>(limits.size());
    const double mean = std::accumulate(limits.begin(), limits.end(), 0.0) / n;
    double whole = 0, between = 0;
    for (const double limit : limits)
        whole += (limit - mean) * (limit - mean);
    for (std::size_t g = 0; g < kGroups; ++g) {
        const auto from = static_cast<std::ptrdiff_t>(g * limits.size() / kGroups),
                   to = static_cast<std::ptrdiff_t>((g + 1) * limits.size() / kGroups);
        const double off = std::accumulate(limits.begin() + from, limits.begin() + to, 0.0) /
                               static_cast<double>(to - from) -
                           mean;
        between += static_cast<double>(to - from) * off * off;
    }
    const double within = (whole - between) / (n - kGroups);
    return whole > 0 ? std::max(0.0, (between - (kGroups - 1) * within) / (whole + within)) : 0;
}

} // namespace

std::vector<WorthKnowing> worth_knowing(const LimitUncertainty& drawn) {
    std::vector<WorthKnowing> out;
    if (!drawn.low_rpm || !drawn.middle_rpm || !drawn.high_rpm || drawn.trains - drawn.without < kFewestDraws)
        return out;
    for (std::size_t i = 0; i < drawn.inputs.size(); ++i) {
        const UncertainInput& input = drawn.inputs[i];
        const std::string_view act = act_of(input.key);
        const double share = share_between(limits_by(drawn, i));
        if (act.empty() || input.tolerance.source != Source::Estimate || share < kLeastShare)
            continue;
        auto at = std::find_if(out.begin(), out.end(), [&](const WorthKnowing& w) { return w.act == act; });
        if (at == out.end())
            at = out.insert(out.end(), {act, {}});
        at->keys.push_back(input.key);
        at->share = std::min(1.0, at->share + share);
    }
    std::stable_sort(out.begin(), out.end(),
                     [](const WorthKnowing& a, const WorthKnowing& b) { return a.share > b.share; });
    for (WorthKnowing& one : out)
        one.width_rpm = (*drawn.high_rpm - *drawn.low_rpm) * std::sqrt(1 - one.share);
    return out;
}

} // namespace bathmos
