#include "core/calibration/calibrated_limit.h"

#include "core/calibration/drawn_limits.h"
#include "core/problem/input_error.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace bathmos {

namespace {

std::vector<double> seen_speeds(const RigRun& run) {
    std::vector<double> out;
    for (const RigStep& step : run.steps)
        out.push_back(step.speed_rpm);
    return out;
}

OnsetResult onset_of(const MotionModel& model, const std::vector<double>& speeds_rpm, const CycleRule& rule,
                     std::size_t workers, const std::stop_token& stop) {
    std::map<double, Metrics> by_speed;
    const auto take = [&](Motion&& motion) {
        if (motion.finite)
            by_speed[motion.speed_rpm] = motion.metrics;
        return std::vector<double>{};
    };
    model.run_on(speeds_rpm, take, stop, rule, workers);
    std::vector<SpeedMetrics> rows;
    for (const auto& [speed_rpm, metrics] : by_speed)
        rows.push_back({speed_rpm, metrics});
    return find_onset(rows, {});
}

// What one draw comes to; a draw that makes no train that can be run says nothing.
struct DrawnLimit {
    bool ran = false;
    std::optional<double> limit_rpm, onset_rpm;
};

} // namespace

CalibratedLimit limit_of(const Calibration& calibration, const std::vector<const RigRun*>& runs,
                         const LimitsInForce& limits, const CalibrationWatch& watch) {
    CalibratedLimit out;
    const SpeedRange range = range_of_runs(runs);
    const Sweep whole = sweep(calibration.train, range, limits, {{}, {}, watch.stop, {}});
    out.limit = whole.summary.limit;
    const std::vector<double> seen = seen_speeds(*runs.front());
    out.onset = onset_of(MotionModel(calibration.train), seen, {}, 0, watch.stop);

    const QuickLimitQuery query = query_of_draws(range, limits, whole.summary);
    std::vector<DrawnLimit> drawn(calibration.draws.size());
    parallel_for(drawn.size(), [&](std::size_t i) {
        try {
            const MotionModel model(calibration.draws[i]);
            drawn[i].limit_rpm = limit_of_draw(model, query, watch.stop);
            drawn[i].onset_rpm = onset_of(model, seen, query.rule, 1, watch.stop).onset.speed_rpm;
            drawn[i].ran = true;
        } catch (const InputError&) { // numbers far out in the tail
        }
    });
    std::vector<double> limit_rpm, onset_rpm;
    std::size_t ran = 0;
    for (const DrawnLimit& one : drawn) {
        ran += one.ran;
        if (one.ran && one.limit_rpm)
            limit_rpm.push_back(*one.limit_rpm);
        if (one.ran && one.onset_rpm)
            onset_rpm.push_back(*one.onset_rpm);
    }
    const double model_sd = kModelLimit_sd * out.limit.speed_rpm.value_or(range.last_rpm);
    const DrawnBand limit = band_of(std::move(limit_rpm), ran, model_sd, 0);
    const DrawnBand onset = band_of(std::move(onset_rpm), ran, model_sd, out.onset.onset.half_step_rpm);
    out.p10_rpm = limit.p10;
    out.p50_rpm = limit.p50;
    out.p90_rpm = limit.p90;
    out.onset_p10_rpm = onset.p10;
    out.onset_p90_rpm = onset.p90;
    return out;
}

} // namespace bathmos
