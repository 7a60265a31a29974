#include "core/calibration/calibrated_limit.h"

#include "core/calibration/drawn_limits.h"
#include "core/calibration/seating_seen.h"
#include "core/problem/input_error.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

// What one draw comes to; a draw that makes no train that can be run says nothing.
struct DrawnLimit {
    bool ran = false;
    std::optional<double> limit_rpm, onset_rpm;
};

} // namespace

bool landing_moves_limit(std::optional<double> limit_rpm, std::optional<double> train_limit_rpm) {
    constexpr double kTold = 0.01;
    return limit_rpm && train_limit_rpm && std::abs(*limit_rpm - *train_limit_rpm) > kTold * *train_limit_rpm;
}

CalibratedLimit limit_of(const Calibration& calibration, const std::vector<const RigRun*>& runs,
                         const LimitsInForce& limits, const CalibrationWatch& watch) {
    CalibratedLimit out;
    const SpeedRange range = range_of_runs(runs);
    const AtRuns seen = at_runs(MotionModel(calibration.train), runs, limits, {}, 0, watch.stop);
    out.limits = seen.limits;
    out.onset = seen.onset;
    const Sweep whole = sweep(calibration.train, range, out.limits, {{}, {}, watch.stop, {}});
    out.limit = whole.summary.limit;
    out.train_limit_rpm =
        limit_speed(rows_of(whole.motions), limits.list, whole.summary.low_speed_duration_change_deg)
            .speed_rpm;

    const QuickLimitQuery query = query_of_draws(range, limits, whole.summary);
    std::vector<DrawnLimit> drawn(calibration.draws.size());
    parallel_for(drawn.size(), [&](std::size_t i) {
        try {
            const MotionModel model(calibration.draws[i]);
            const AtRuns at = at_runs(model, runs, limits, query.rule, 1, watch.stop);
            QuickLimitQuery of_draw = query;
            of_draw.limits = at.limits;
            drawn[i].limit_rpm = limit_of_draw(model, of_draw, watch.stop);
            drawn[i].onset_rpm = at.onset.onset.speed_rpm;
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
