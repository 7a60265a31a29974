#include "core/rig/rig_run.h"

#include "core/math/robust.h"
#include "core/motion/sweep.h"
#include "core/problem/input_error.h"
#include "core/rig/cycles.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace bathmos {

namespace {

using rig::RawCycle;
using rig::SpeedGroup;

constexpr double kSeatWindow_deg = 90; // half width, half a turn from the nose: the valve is seated if ever
constexpr double kZeroJump_mm = 0.1, kScaleWarn = 0.01, kLeastTouch_m = 0.02e-3, kLeastLift_mm = 0.5;
constexpr double kSeatedScatter_mm = 0.1; // more movement than this in the window: not seated

[[noreturn]] void refuse(const RigTrace& trace, std::string what, std::string mend) {
    throw InputError({trace.source, "", std::move(what), std::move(mend)});
}

// The valve is shut for more than half of a cycle, so the level most readings share is the seat.
void check_direction(const RigTrace& trace, const RawCycle& slowest) {
    const auto [low, high] = std::minmax_element(slowest.begin(), slowest.end());
    if (*high - *low < kLeastLift_mm)
        refuse(trace, fmt::format("the trace moves by only {:.3f} mm", *high - *low),
               "check the unit of lift, and that the sensor sits on a valve that opens");
    const double level = median(slowest);
    if (*high - level < level - *low)
        refuse(trace, "the sensor reads backwards: the reading falls as the valve opens",
               "import it with the sign of lift reversed");
}

struct Alignment {
    double phase_deg, gain;
};

// Residual of the trace, turned by `phase`, against the model's lift with free gain and zero.
Alignment compare(const RawCycle& cycle, const std::vector<double>& model_mm, double phase,
                  double* residual) {
    double n = 0, sx = 0, sy = 0, sxx = 0, sxy = 0, syy = 0;
    for (std::size_t i = 0; i < kGridSteps; i += 2) {
        const double theta = -360 + kGridStep_crank_deg * static_cast<double>(i);
        const double x = model_mm[i], y = rig::ring_at(cycle, theta + phase);
        n += 1;
        sx += x;
        sy += y;
        sxx += x * x;
        sxy += x * y;
        syy += y * y;
    }
    const double cxx = sxx - sx * sx / n, cxy = sxy - sx * sy / n, cyy = syy - sy * sy / n;
    const double gain = cxy / cxx;
    *residual = gain > 0 ? cyy - gain * cxy : cyy;
    return {phase, gain};
}

// Phase of least residual within [low, high], to 1e-4 degree.
Alignment align(const RawCycle& cycle, const std::vector<double>& model_mm, double low, double high,
                double step) {
    double best = std::numeric_limits<double>::infinity(), at = low;
    for (double phase = low; phase < high; phase += step) {
        double residual;
        compare(cycle, model_mm, phase, &residual);
        if (residual < best) {
            best = residual;
            at = phase;
        }
    }
    if (step > 1e-4)
        return align(cycle, model_mm, at - step, at + step, std::max(1e-4, step / 10));
    double residual;
    return compare(cycle, model_mm, at, &residual);
}

// With an index once a crank turn, which of the two turns holds the nose may differ from step to step.
void match_half(const std::vector<double>& model_mm, double phase_deg, RawCycle& mean,
                std::vector<RawCycle>& cycles) {
    double here, opposite;
    compare(mean, model_mm, phase_deg, &here);
    compare(mean, model_mm, phase_deg + 360, &opposite);
    if (opposite >= here)
        return;
    const auto half = static_cast<std::ptrdiff_t>(kGridSteps / 2);
    std::rotate(mean.begin(), mean.begin() + half, mean.end());
    for (RawCycle& cycle : cycles)
        std::rotate(cycle.begin(), cycle.begin() + half, cycle.end());
}

std::vector<double> seated_readings(const RawCycle& cycle, double phase_deg) {
    std::vector<double> out;
    for (double theta = 360 - kSeatWindow_deg; theta <= 360 + kSeatWindow_deg; theta += kGridStep_crank_deg)
        out.push_back(rig::ring_at(cycle, theta + phase_deg));
    return out;
}

// Noise of a reading, one standard deviation: differences of neighbouring readings near the level that a turn
// mostly has (the seat) hold little else. Needs no phase, so it also serves an index that comes once a crank
// turn.
double reading_noise_mm(const RigTrace& trace) {
    constexpr double near_mm = 0.1;
    constexpr std::size_t enough = 200000;
    std::vector<double> differences, readings;
    for (const RigTurn& turn : trace.turns) {
        if (differences.size() > enough)
            break;
        readings.clear();
        for (std::size_t i = turn.first; i < turn.first + turn.count; ++i)
            if (!std::isnan(trace.lift_mm[i]))
                readings.push_back(trace.lift_mm[i]);
        const double level = median(readings);
        for (std::size_t i = turn.first + 1; i < turn.first + turn.count; ++i)
            if (std::abs(trace.lift_mm[i] - level) < near_mm &&
                std::abs(trace.lift_mm[i - 1] - level) < near_mm)
                differences.push_back(trace.lift_mm[i] - trace.lift_mm[i - 1]);
    }
    return differences.empty() ? 0 : robust_sd(differences) / std::sqrt(2.0);
}

// Zero of each step; where the valve does not seat, that of the nearest step that does.
void find_zeros(const std::vector<RawCycle>& averages, RigRun& run) {
    std::vector<bool> seated;
    for (std::size_t i = 0; i < averages.size(); ++i) {
        const std::vector<double> readings = seated_readings(averages[i], run.phase_deg);
        run.steps[i].zero_mm = median(readings);
        seated.push_back(robust_sd(readings) < kSeatedScatter_mm);
    }
    if (std::none_of(seated.begin(), seated.end(), [](bool s) { return s; }))
        run.warnings.push_back(
            "the valve seats at no speed of this run: the zero is the middle of its motion "
            "where it should be shut, so lift is not to be trusted");
    for (std::size_t i = 0; i < averages.size(); ++i) {
        for (std::size_t away = 1; !seated[i] && away < averages.size() && !run.steps[i].zero_carried; ++away)
            for (const std::ptrdiff_t side : {-1, 1}) {
                const auto j = static_cast<std::ptrdiff_t>(i) + side * static_cast<std::ptrdiff_t>(away);
                if (j < 0 || j >= static_cast<std::ptrdiff_t>(averages.size()) ||
                    !seated[static_cast<std::size_t>(j)])
                    continue;
                run.steps[i].zero_mm = run.steps[static_cast<std::size_t>(j)].zero_mm;
                run.steps[i].zero_carried = true;
                break;
            }
        if (run.steps[i].zero_carried)
            run.warnings.push_back(
                fmt::format("at {:.0f} rev/min the valve does not seat: zero carried from a "
                            "neighbouring speed",
                            run.steps[i].speed_rpm));
        if (i > 0 && std::abs(run.steps[i].zero_mm - run.steps[i - 1].zero_mm) > kZeroJump_mm)
            run.warnings.push_back(
                {fmt::format("the zero jumps by {{}} between {:.0f} and {:.0f} rev/min",
                             run.steps[i - 1].speed_rpm, run.steps[i].speed_rpm),
                 {{Quantity::Length, (run.steps[i].zero_mm - run.steps[i - 1].zero_mm) * 1e-3}}});
    }
}

// A raw cycle on the model's grid: nose at 0, metres, zero at first touch.
std::vector<double> aligned_m(const RawCycle& cycle, double phase_deg, double zero_mm, double seat_m) {
    std::vector<double> out(kGridPoints);
    for (std::size_t i = 0; i < kGridPoints; ++i) {
        const double theta = -360 + kGridStep_crank_deg * static_cast<double>(i);
        out[i] = (rig::ring_at(cycle, theta + phase_deg) - zero_mm) * 1e-3 - seat_m;
    }
    return out;
}

// Slope over +/- 1 degree, m/s.
std::vector<double> rates(const std::vector<double>& lift_m, double speed_rpm) {
    constexpr std::size_t reach = 2;
    const double seconds = 2 * reach * kGridStep_crank_deg / (6 * speed_rpm);
    std::vector<double> out(kGridPoints);
    for (std::size_t i = 0; i < kGridPoints; ++i) {
        const std::size_t ring = kGridSteps;
        out[i] = (lift_m[(i + reach) % ring] - lift_m[(i + ring - reach) % ring]) / seconds;
    }
    return out;
}

Metrics metrics_of(const std::vector<double>& lift_m, const std::vector<double>& rigid_m, double speed_rpm,
                   const MetricOptions& options) {
    const std::vector<double> rate = rates(lift_m, speed_rpm);
    CycleTrace trace;
    trace.speed_rpm = speed_rpm;
    trace.lift_m = lift_m;
    trace.rate_m_per_s = rate;
    trace.rigid_m = rigid_m;
    return measure(trace, options);
}

void measure_step(const SpeedGroup& group, const std::vector<double>& rigid_m, const RigRun& run,
                  double check_lift_m, RigStep& step) {
    const MetricOptions how{check_lift_m, std::max(3 * run.noise_m, kLeastTouch_m)};
    std::vector<Metrics> each;
    for (const RawCycle& cycle : group.cycles) {
        step.cycles_m.push_back(aligned_m(cycle, run.phase_deg, step.zero_mm, run.seat_m));
        each.push_back(metrics_of(step.cycles_m.back(), rigid_m, step.speed_rpm, how));
    }
    step.lift_m.assign(kGridPoints, 0);
    step.deviation_m.assign(kGridPoints, 0);
    std::vector<double> here(step.cycles_m.size());
    for (std::size_t i = 0; i < kGridPoints; ++i) {
        for (std::size_t k = 0; k < here.size(); ++k)
            here[k] = step.cycles_m[k][i];
        const MeanDeviation s = mean_deviation(here);
        step.lift_m[i] = s.mean;
        step.deviation_m[i] = s.deviation;
    }
    step.metrics = metrics_of(step.lift_m, rigid_m, step.speed_rpm, how);
    step.metrics[Metric::CycleVariation] =
        *std::max_element(step.deviation_m.begin(), step.deviation_m.end());
    mean_of(each, &step.repeat_deviation);
}

// Typical repeat scatter of each metric: the median over speeds.
Metrics noise_of(const std::vector<RigStep>& steps) {
    Metrics out;
    for (std::size_t m = 0; m < kMetrics; ++m) {
        std::vector<double> values;
        for (const RigStep& step : steps)
            if (const auto& v = step.repeat_deviation[static_cast<Metric>(m)])
                values.push_back(*v);
        if (!values.empty())
            out[static_cast<Metric>(m)] = median(values);
    }
    return out;
}

// The duration change this run would show at kLowSpeed_rpm, by its own elastic trend a + b n^2.
double low_speed_duration(const std::vector<SpeedMetrics>& rows) {
    if (const auto line = elastic_trend(rows, Metric::DurationChange))
        return line->at(kLowSpeed_rpm * kLowSpeed_rpm);
    return rows.front().metrics[Metric::DurationChange].value_or(0);
}

MeasuredText inside_the_floor(const Limit& limit, double floor) {
    const MetricInfo& metric = info(limit.metric);
    const Quantity quantity = quantity_of(limit.metric);
    if (quantity == Quantity::Count)
        return fmt::format("{}: the limit of {:g} {} lies inside the noise floor of {:.3f}", metric.label,
                           limit.above, metric.unit, floor);
    return {std::string(metric.label) + ": the limit of {} lies inside the noise floor of {}",
            {{quantity, limit.above / metric.to_unit}, {quantity, floor / metric.to_unit}}};
}

void judge(const RigOptions& options, RigRun& run) {
    const std::vector<SpeedMetrics> rows = run.rows();
    const Metrics noise = noise_of(run.steps);
    run.onset = find_onset(rows, noise);
    run.low_speed_duration_change_deg = low_speed_duration(rows);
    run.limits_name = options.limits.name;
    std::vector<Limit> judged;
    for (const Limit& limit : options.limits) {
        const double floor = 3 * noise.in_unit(limit.metric).value_or(0);
        if (limit.metric != Metric::ContactLoss && limit.above < floor)
            run.not_judged.push_back(inside_the_floor(limit, floor));
        else
            judged.push_back(limit);
    }
    run.limit = limit_speed(rows, judged, run.low_speed_duration_change_deg);
}

std::vector<SpeedGroup> clean_groups(const RigTrace& trace, const RigOptions& options, RigRun& run) {
    std::vector<SpeedGroup> groups = rig::group_cycles(trace, options);
    for (SpeedGroup& group : groups) {
        throw_if_stopped(options.stop);
        rig::drop_bad(group);
        for (std::size_t r = 0; r < kBadCycles; ++r)
            run.dropped[r] += group.dropped[r];
        if (group.cycles.empty())
            run.warnings.push_back(
                fmt::format("no cycle near {:.0f} rev/min could be used", group.speed_rpm));
    }
    std::erase_if(groups, [](const SpeedGroup& g) { return g.cycles.empty(); });
    if (groups.empty())
        refuse(trace, "holds no whole cycle that can be used",
               "a run needs an index pulse (or crank_deg from 0 to 720) and readings without long gaps");
    return groups;
}

} // namespace

std::string_view name_of(BadCycle reason) {
    constexpr std::string_view names[] = {"dropout", "spike", "stuck", "slipped", "short"};
    return names[static_cast<std::size_t>(reason)];
}

std::vector<SpeedMetrics> RigRun::rows() const {
    std::vector<SpeedMetrics> out;
    for (const RigStep& step : steps)
        out.push_back({step.speed_rpm, step.metrics});
    return out;
}

std::size_t RigRun::nearest(double speed_rpm) const {
    const auto best = std::min_element(steps.begin(), steps.end(), [&](const RigStep& a, const RigStep& b) {
        return std::abs(a.speed_rpm - speed_rpm) < std::abs(b.speed_rpm - speed_rpm);
    });
    return static_cast<std::size_t>(best - steps.begin());
}

RigRun reduce(const RigTrace& trace, const Train& train, const RigOptions& options) {
    const auto progress = [&](double share) {
        if (options.progress)
            options.progress(share);
    };
    RigRun run;
    run.source = trace.source;
    run.valve = trace.valve;
    std::vector<SpeedGroup> groups = clean_groups(trace, options, run);
    progress(0.4);

    std::vector<RawCycle> averages;
    for (const SpeedGroup& group : groups)
        averages.push_back(rig::average(group.cycles));
    check_direction(trace, averages.front());

    const double slowest = groups.front().speed_rpm;
    const MotionModel mechanism(train);
    const Chain& chain = mechanism.chain();
    run.seat_m = -rest_of(chain).position_m[chain.valve_dof];
    const Motion model = std::move(mechanism.run({slowest}, options.stop).front());
    if (!model.finite)
        throw InputError({"", "contacts and stiffnesses",
                          fmt::format("the model's motion runs away at {:.0f} rev/min", slowest),
                          "check the train for a stiffness and a mass that do not fit together"});
    std::vector<double> model_mm = model[Channel::Lift];
    for (double& lift : model_mm)
        lift *= 1e3;
    const Alignment found = align(averages.front(), model_mm, 0, 720, 1);
    run.phase_deg = std::fmod(found.phase_deg + 720, 720);
    run.scale_ratio = found.gain;
    if (std::abs(run.scale_ratio - 1) > kScaleWarn)
        run.warnings.push_back(
            fmt::format("at {:.0f} rev/min the rig shows {:.1f} % {} lift than the model: check "
                        "scale, ratio and lash; nothing was rescaled",
                        slowest, 100 * std::abs(run.scale_ratio - 1), run.scale_ratio > 1 ? "more" : "less"));
    progress(0.6);

    for (std::size_t i = 0; i < groups.size(); ++i) {
        RigStep step;
        step.speed_rpm = groups[i].speed_rpm;
        step.used = groups[i].cycles.size();
        step.dropped = groups[i].dropped;
        run.steps.push_back(std::move(step));
        if (trace.once_per_crank_turn && i > 0)
            match_half(model_mm, run.phase_deg, averages[i], groups[i].cycles);
    }
    run.noise_m = reading_noise_mm(trace) * 1e-3;
    find_zeros(averages, run);
    for (std::size_t i = 0; i < groups.size(); ++i) {
        throw_if_stopped(options.stop);
        measure_step(groups[i], chain.rigid_m, run, options.limits.check_lift_m, run.steps[i]);
        progress(0.6 + 0.4 * static_cast<double>(i + 1) / static_cast<double>(groups.size()));
    }
    judge(options, run);
    return run;
}

} // namespace bathmos
