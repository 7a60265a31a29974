#include "core/rig/height_losses.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

constexpr double kHeights_m[] = {0.1e-3, 0.3e-3, 1.0e-3, 1.27e-3, 3e-3, 6e-3, 9e-3};

double highest_m(const RigStep& step) {
    return *std::max_element(step.lift_m.begin(), step.lift_m.end());
}

// Where the lift crosses a height between two grid points, as a share of the way.
double crossing(double below_m, double above_m, double height_m) {
    return (height_m - below_m) / (above_m - below_m);
}

} // namespace

std::vector<double> loss_heights_m(const RigRun& run) {
    std::vector<double> out;
    if (run.steps.empty())
        return out;
    const double reached_m = 0.9 * highest_m(run.steps.front());
    for (const double height_m : kHeights_m)
        if (height_m < reached_m)
            out.push_back(height_m);
    return out;
}

std::optional<double> duration_above_deg(const std::vector<double>& lift_m, double height_m) {
    if (lift_m.size() < 3)
        return std::nullopt;
    // from the top outward, so that a bounce after closing is none of it
    const auto top =
        static_cast<std::size_t>(std::max_element(lift_m.begin(), lift_m.end()) - lift_m.begin());
    if (!(lift_m[top] > height_m))
        return std::nullopt;
    std::size_t first = top, last = top;
    while (first > 0 && lift_m[first] > height_m)
        --first;
    while (last + 1 < lift_m.size() && lift_m[last] > height_m)
        ++last;
    if (lift_m[first] > height_m || lift_m[last] > height_m)
        return std::nullopt;
    const double opens = static_cast<double>(first) + crossing(lift_m[first], lift_m[first + 1], height_m);
    const double closes = static_cast<double>(last) - crossing(lift_m[last], lift_m[last - 1], height_m);
    return (closes - opens) * 720.0 / static_cast<double>(lift_m.size() - 1);
}

std::vector<HeightLoss> height_losses(const RigRun& run, const std::vector<double>& heights_m) {
    std::vector<HeightLoss> out;
    for (const RigStep& step : run.steps) {
        HeightLoss one{step.speed_rpm, highest_m(run.steps.front()) - highest_m(step), {}};
        for (const double height_m : heights_m) {
            const auto slow = duration_above_deg(run.steps.front().lift_m, height_m),
                       here = duration_above_deg(step.lift_m, height_m);
            one.duration_deg.push_back(slow && here ? std::optional(*slow - *here) : std::nullopt);
        }
        out.push_back(std::move(one));
    }
    return out;
}

DurationsKept durations_kept(const LimitsInForce& limits) {
    DurationsKept out;
    out.from_m = limits.check_lift_m;
    if (const Limit* limit = limits.find(Metric::DurationChange)) {
        out.longer_deg = limit->above;
        if (limit->below)
            out.shorter_deg = -*limit->below;
    }
    return out;
}

std::optional<double> useful_rpm(const std::vector<HeightLoss>& losses, const std::vector<double>& heights_m,
                                 const DurationsKept& kept) {
    for (std::size_t i = 1; i < losses.size(); ++i) {
        std::optional<double> first;
        for (std::size_t h = 0; h < losses[i].duration_deg.size(); ++h) {
            const auto &here = losses[i].duration_deg[h], &before = losses[i - 1].duration_deg[h];
            if (heights_m[h] < kept.from_m ||
                (here && *here <= kept.shorter_deg && *here >= -kept.longer_deg))
                continue;
            double at = losses[i - 1].speed_rpm; // no crossing at all: it is over at once
            if (here && before) {
                const double bound = *here > 0 ? kept.shorter_deg : -kept.longer_deg;
                at +=
                    (losses[i].speed_rpm - at) * std::clamp((bound - *before) / (*here - *before), 0.0, 1.0);
            }
            first = first ? std::min(*first, at) : at;
        }
        if (first)
            return first;
    }
    return std::nullopt;
}

} // namespace bathmos
