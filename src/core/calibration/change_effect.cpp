#include "core/calibration/change_effect.h"

#include "core/calibration/drawn_limits.h"
#include "core/calibration/seating_seen.h"
#include "core/problem/input_error.h"

#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr double kLeastDrawn = 0.9; // of the draws must have both limits

std::optional<double> difference(std::optional<double> after, std::optional<double> before) {
    return after && before ? std::optional(*after - *before) : std::nullopt;
}

std::string signed_rpm(double value) {
    return fmt::format("{:+.0f}", value);
}

} // namespace

ChangeEffect effect_of_change(const CalibrationQuery& query, const Calibration& calibration,
                              const LimitsInForce& limits, const std::stop_token& stop) {
    if (!query.other || !calibration.other)
        throw InputError({"", "calibration", "was of one revision alone",
                          "calibrate it together with a run of the other revision"});
    const auto& there = query.other->runs;
    const auto believed = [&](const Train& train, const std::vector<const RigRun*>& runs) {
        return sweep(with_run_options(train), range_of_runs(runs), limits, {{}, {}, stop, {}})
            .summary.limit.speed_rpm;
    };
    const auto fitted = [&](const Train& train, const std::vector<const RigRun*>& runs) {
        const LimitsInForce seen = at_runs(MotionModel(train), runs, limits, {}, 0, stop).limits;
        return sweep(train, range_of_runs(runs), seen, {{}, {}, stop, {}}).summary;
    };
    ChangeEffect out;
    out.believed_rpm = believed(query.believed, query.runs);
    out.believed_other_rpm = believed(query.other->believed, there);
    const SweepSummary now = fitted(calibration.train, query.runs),
                       before = fitted(*calibration.other, there);
    out.this_rpm = now.limit.speed_rpm;
    out.other_rpm = before.limit.speed_rpm;
    out.believed_gain_rpm = difference(out.believed_rpm, out.believed_other_rpm);
    out.gain_rpm = difference(out.this_rpm, out.other_rpm);
    if (!out.gain_rpm)
        return out;
    const auto now_drawn = limits_of_draws(calibration.draws, query.runs, limits, now, stop);
    const auto before_drawn = limits_of_draws(calibration.other_draws, there, limits, before, stop);
    std::vector<double> gains;
    for (std::size_t i = 0; i < now_drawn.size(); ++i)
        if (const auto gain = difference(now_drawn[i], before_drawn[i]))
            gains.push_back(*gain);
    const std::size_t drawn = gains.size();
    if (static_cast<double>(drawn) < kLeastDrawn * static_cast<double>(now_drawn.size()))
        return out; // those without a limit would be gains or losses of no known size
    const DrawnBand band = band_of(std::move(gains), drawn, kModelChange_sd * *out.this_rpm, 0);
    out.p10_rpm = band.p10;
    out.p50_rpm = band.p50;
    out.p90_rpm = band.p90;
    return out;
}

std::string said_of(const ChangeEffect& effect) {
    std::string out;
    if (effect.believed_gain_rpm)
        out = fmt::format("The change was believed to move the limit by {} rev/min. ",
                          signed_rpm(*effect.believed_gain_rpm));
    if (!effect.gain_rpm)
        return out + "The runs do not tell what it did: one of the two reaches no limit.";
    out += fmt::format("The runs say {}", signed_rpm(*effect.gain_rpm));
    if (!effect.p10_rpm || !effect.p90_rpm)
        return out + " rev/min, how surely is not told: many trains that the runs leave possible reach no "
                     "limit.";
    out += fmt::format(" rev/min, 10 to 90 % {} ... {}.", signed_rpm(*effect.p10_rpm),
                       signed_rpm(*effect.p90_rpm));
    if (*effect.p10_rpm < 0 && *effect.p90_rpm > 0)
        return out + " Whether it moved the limit at all is not told.";
    const bool as_believed = effect.believed_gain_rpm && *effect.believed_gain_rpm > *effect.p10_rpm &&
                             *effect.believed_gain_rpm < *effect.p90_rpm;
    return out + (as_believed ? " It did what was believed." : " It did something else than was believed.");
}

} // namespace bathmos
