#include "core/calibration/drawn_limits.h"

#include "core/calibration/seating_seen.h"
#include "core/problem/input_error.h"
#include "core/tasks/tasks.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

CycleRule rule_of_draws() {
    CycleRule rule;
    rule.close_step = 1;
    rule.least_substeps = 1;
    rule.most = 12;
    rule.averaged = 4;
    return rule;
}

} // namespace

SpeedRange range_of_runs(const std::vector<const RigRun*>& runs) {
    double first = 1e9, last = 0;
    for (const RigRun* run : runs)
        for (const RigStep& step : run->steps) {
            first = std::min(first, step.speed_rpm);
            last = std::max(last, step.speed_rpm);
        }
    constexpr double step = 100;
    return {step * std::floor(first / step), step * std::ceil(1.2 * last / step), step};
}

DrawnBand band_of(std::vector<double> values, std::size_t draws, double model_sd, double half_step) {
    constexpr double kTenth = 1.2816; // standard deviations of a normal distribution to its 10 % point
    std::sort(values.begin(), values.end());
    const auto at = [&](double share) {
        const auto place = static_cast<std::size_t>(share * static_cast<double>(draws));
        return place < values.size() ? std::optional(values[place]) : std::nullopt;
    };
    DrawnBand out{at(0.1), at(0.5), at(0.9)};
    if (!out.p50)
        return {};
    const auto away = [&](double distance) { return std::hypot(distance, kTenth * model_sd) + half_step; };
    out.p10 = *out.p50 - away(*out.p50 - *out.p10);
    if (out.p90)
        out.p90 = *out.p50 + away(*out.p90 - *out.p50);
    return out;
}

QuickLimitQuery query_of_draws(const SpeedRange& range, const LimitsInForce& limits,
                               const SweepSummary& whole) {
    QuickLimitQuery out;
    out.range = range;
    out.limits = limits;
    out.near_rpm = whole.limit.speed_rpm.value_or(0);
    out.workers = 1;
    out.bisect_to_rpm = 15;
    out.low_speed_deg = whole.low_speed_duration_change_deg;
    out.rule = rule_of_draws();
    return out;
}

std::optional<double> limit_of_draw(const MotionModel& model, const QuickLimitQuery& query,
                                    const std::stop_token& stop) {
    const LimitSpeed first = estimate_limit(model, query, stop);
    return refine_limit(model, after_estimate(query, first), stop).speed_rpm;
}

std::vector<std::optional<double>> limits_of_draws(const std::vector<Train>& draws,
                                                   const std::vector<const RigRun*>& runs,
                                                   const LimitsInForce& limits, const SweepSummary& middle,
                                                   const std::stop_token& stop) {
    const QuickLimitQuery query = query_of_draws(range_of_runs(runs), limits, middle);
    std::vector<std::optional<double>> out(draws.size());
    parallel_for(out.size(), [&](std::size_t i) {
        try {
            const MotionModel model(draws[i]);
            QuickLimitQuery of_draw = query;
            of_draw.limits = at_runs(model, runs, limits, query.rule, 1, stop).limits;
            out[i] = limit_of_draw(model, of_draw, stop);
        } catch (const InputError&) { // numbers far out in the tail
        }
    });
    return out;
}

} // namespace bathmos
