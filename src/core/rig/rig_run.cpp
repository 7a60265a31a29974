#include "core/rig/rig_run.h"

#include "core/math/robust.h"
#include "core/motion/sweep.h"
#include "core/problem/input_error.h"
#include "core/rig/cycle_measure.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace bathmos {

namespace {

using rig::RawCycle;
using rig::SpeedGroup;

constexpr double kSeatWindow_deg = 90; // half width, half a turn from the nose: the valve is seated if ever
constexpr double kZeroJump_mm = 0.1, kScaleWarn = 0.01, kLeastLift_mm = 0.5;
constexpr double kLeastHeld_mm = 0.05, kWalks = 8; // rise of the zero that no sensor's walk makes
constexpr double kSeatedScatter_mm = 0.1;          // more movement than this in the window: not seated

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
bool begins_half_a_cycle_later(const std::vector<double>& model_mm, double phase_deg, const RawCycle& mean) {
    double here, opposite;
    compare(mean, model_mm, phase_deg, &here);
    compare(mean, model_mm, phase_deg + 360, &opposite);
    return opposite < here;
}

void turn_by_half(RawCycle& cycle) {
    std::rotate(cycle.begin(), cycle.begin() + static_cast<std::ptrdiff_t>(kGridSteps / 2), cycle.end());
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
            if (is_reading(trace.lift_mm[i]))
                readings.push_back(trace.lift_mm[i]);
        const double level = median(readings);
        for (std::size_t i = turn.first + 1; i < turn.first + turn.count; ++i)
            if (std::abs(trace.lift_mm[i] - level) < near_mm &&
                std::abs(trace.lift_mm[i - 1] - level) < near_mm)
                differences.push_back(trace.lift_mm[i] - trace.lift_mm[i - 1]);
    }
    return differences.empty() ? 0 : robust_sd(differences) / std::sqrt(2.0);
}

// A sensor's zero walks by microns from speed to speed. A hydraulic follower that pumps up lifts the level of
// a quiet valve by far more than that, and upward: such a step does not seat, however still it is.
void find_held_open(const RigRun& run, std::vector<bool>& seated) {
    std::vector<double> walk;
    std::optional<double> last_mm;
    for (std::size_t i = 0; i < seated.size(); ++i) {
        if (!seated[i])
            continue;
        const double zero_mm = run.steps[i].zero_mm;
        const double most_mm = std::max(kLeastHeld_mm, walk.size() < 3 ? 0 : kWalks * robust_sd(walk));
        seated[i] = !last_mm || zero_mm - *last_mm < most_mm;
        if (!seated[i])
            continue;
        if (last_mm)
            walk.push_back(zero_mm - *last_mm);
        last_mm = zero_mm;
    }
}

// Zero of each step; where the valve does not seat, that of the nearest step that does.
void find_zeros(const std::vector<RawCycle>& averages, bool hydraulic, RigRun& run) {
    std::vector<bool> seated;
    for (std::size_t i = 0; i < averages.size(); ++i) {
        const std::vector<double> readings = seated_readings(averages[i], run.phase_deg);
        run.steps[i].zero_mm = median(readings);
        seated.push_back(robust_sd(readings) < kSeatedScatter_mm);
    }
    if (hydraulic)
        find_held_open(run, seated);
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

void measure_step(const SpeedGroup& group, const std::vector<double>& rigid_m, const RigRun& run,
                  double check_lift_m, RigStep& step) {
    const rig::CycleFrame frame{run.phase_deg, step.zero_mm, run.seat_m, run.noise_m, check_lift_m};
    std::vector<Metrics> each;
    std::vector<std::vector<double>> cycles_m;
    for (const RawCycle& cycle : group.cycles) {
        cycles_m.push_back(rig::aligned_m(cycle, frame));
        each.push_back(rig::metrics_of(cycles_m.back(), rigid_m, step.speed_rpm, frame));
    }
    step.lift_m.assign(kGridPoints, 0);
    step.deviation_m.assign(kGridPoints, 0);
    std::vector<double> here(cycles_m.size());
    for (std::size_t i = 0; i < kGridPoints; ++i) {
        for (std::size_t k = 0; k < here.size(); ++k)
            here[k] = cycles_m[k][i];
        const MeanDeviation s = mean_deviation(here);
        step.lift_m[i] = s.mean;
        step.deviation_m[i] = s.deviation;
    }
    step.metrics = rig::metrics_of(step.lift_m, rigid_m, step.speed_rpm, frame);
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

void tell_lost_readings(const RigTrace& trace, RigRun& run) {
    const auto odd = std::count_if(trace.lift_mm.begin(), trace.lift_mm.end(),
                                   [](float lift) { return !std::isnan(lift) && !is_reading(lift); });
    if (odd > 0)
        run.warnings.push_back(fmt::format(
            "{} readings lie beyond a metre or are no numbers: taken as lost; check sensor and unit", odd));
}

std::optional<double> oil_of(const RigTrace& trace, const rig::CyclePlaces& places) {
    std::vector<double> said_C;
    for (const std::size_t turn : places.turns)
        if (std::isfinite(trace.turns[turn].oil_C))
            said_C.push_back(trace.turns[turn].oil_C);
    return said_C.empty() ? std::nullopt : std::optional(median(said_C));
}

void leave_out_impossible_speeds(std::vector<rig::CyclePlaces>& groups, RigRun& run) {
    std::erase_if(groups, [&](const rig::CyclePlaces& group) {
        const bool possible = group.speed_rpm >= kLeastRig_rpm && group.speed_rpm <= kMostRig_rpm;
        if (!possible)
            run.warnings.push_back(
                fmt::format("a step of {:g} rev/min is left out: no rig turns so", group.speed_rpm));
        return !possible;
    });
}

// The good cycles near each speed. Those of a run of usual length are kept; of a long one they are read again
// when asked for, so that memory does not grow with the run.
class Groups {
  public:
    struct Group {
        rig::CyclePlaces places;
        SpeedGroup read; ///< without its cycles where they are not kept
        RawCycle average;
        std::size_t used = 0;
        bool later = false; ///< begins half a cycle later
    };

    Groups(const RigTrace& trace, const RigOptions& options, std::vector<rig::CyclePlaces> places)
        : trace_(trace), options_(options) {
        std::size_t cycles = 0;
        for (const rig::CyclePlaces& place : places)
            cycles += std::min(place.turns.size(), rig::kMostCycles);
        kept_ = cycles <= kKeptCycles;
        for (rig::CyclePlaces& place : places) {
            Group group{std::move(place), {}, {}, 0, false};
            group.read = good(group.places);
            group.used = group.read.cycles.size();
            if (group.used > 0)
                group.average = rig::average(group.read.cycles);
            if (!kept_)
                group.read.cycles = {};
            all.push_back(std::move(group));
        }
    }
    /// The cycles, as they are to be measured.
    SpeedGroup cycles_of(const Group& group) const {
        SpeedGroup out = kept_ ? group.read : good(group.places);
        if (group.later)
            std::for_each(out.cycles.begin(), out.cycles.end(), turn_by_half);
        return out;
    }

    std::vector<Group> all;

  private:
    static constexpr std::size_t kKeptCycles = 15000; // 170 MB
    SpeedGroup good(const rig::CyclePlaces& places) const {
        SpeedGroup out = rig::read_group(trace_, places, options_);
        throw_if_stopped(options_.stop);
        rig::drop_bad(out);
        return out;
    }
    const RigTrace& trace_;
    const RigOptions& options_;
    bool kept_ = true;
};

double stroke_mm(const RawCycle& cycle) {
    const auto [low, high] = std::minmax_element(cycle.begin(), cycle.end());
    return *high - *low;
}

// A sensor that is dead or slipped at one speed would make an onset there. The valve's stroke changes little
// from speed to speed, by loft; a step that shows another one does not tell the valve.
void leave_out_dead_steps(std::vector<Groups::Group>& groups, RigRun& run) {
    constexpr double dead = 0.5, less = 0.8, more = 1.35, wild = 3;
    std::vector<double> strokes;
    for (const Groups::Group& group : groups)
        strokes.push_back(stroke_mm(group.average));
    const double usual = median(strokes);
    if (groups.size() < 3 || !(usual > kLeastLift_mm))
        return; // nothing to compare with; check_direction tells a sensor that is dead throughout
    std::size_t at = 0;
    std::erase_if(groups, [&](const Groups::Group& group) {
        const double share = strokes[at++] / usual;
        if (share >= less && share <= more)
            return false;
        const bool out = share < dead || share > wild;
        run.warnings.push_back(fmt::format(
            "at {:.0f} rev/min the sensor shows {:.0f} % of the lift that it shows at other speeds: {}",
            group.read.speed_rpm, 100 * share,
            out ? "it does not tell the valve there, the step is left out; check sensor, target and wiring"
                : "check sensor, target and scale before believing that step"));
        return out;
    });
}

// A turn that shows the valve opening twice, half a cycle apart, holds two turns of the cam.
void refuse_two_openings(const RigTrace& trace, const RawCycle& slowest) {
    const std::size_t half = kGridSteps / 2;
    double apart = 0;
    for (std::size_t i = 0; i < half; ++i)
        apart = std::max(apart, std::abs(slowest[i] - slowest[i + half]));
    if (stroke_mm(slowest) > kLeastLift_mm && apart < 0.3 * stroke_mm(slowest))
        refuse(trace, "the valve opens twice in what is given as one cycle of 720 crank degrees",
               "is the angle in cam degrees? name its column cam_deg, or choose the unit when importing");
}

Groups clean_groups(const RigTrace& trace, const RigOptions& options, RigRun& run) {
    tell_lost_readings(trace, run);
    std::vector<rig::CyclePlaces> places = rig::group_cycles(trace);
    leave_out_impossible_speeds(places, run);
    Groups out(trace, options, std::move(places));
    for (const Groups::Group& group : out.all) {
        for (std::size_t r = 0; r < kBadCycles; ++r)
            run.dropped[r] += group.read.dropped[r];
        if (group.used == 0)
            run.warnings.push_back(
                fmt::format("no cycle near {:.0f} rev/min could be used", group.read.speed_rpm));
        if (group.read.passed_over > 0)
            run.warnings.push_back(
                fmt::format("at {:.0f} rev/min {} cycles evenly spread were looked at, of {}",
                            group.read.speed_rpm, rig::kMostCycles, group.places.turns.size()));
    }
    std::erase_if(out.all, [](const Groups::Group& g) { return g.used == 0; });
    if (out.all.empty())
        refuse(trace, "holds no whole cycle that can be used",
               "a run needs an index pulse (or crank_deg from 0 to 720) and readings without long gaps");
    leave_out_dead_steps(out.all, run);
    return out;
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
    Groups groups = clean_groups(trace, options, run);
    progress(0.4);

    const RawCycle& first = groups.all.front().average;
    check_direction(trace, first);
    refuse_two_openings(trace, first);

    const double slowest = groups.all.front().read.speed_rpm;
    const MotionModel mechanism(train);
    const Chain& chain = mechanism.chain();
    run.seat_m = -rest_of(chain).position_m[chain.lift_dof()];
    const Motion model = std::move(mechanism.run({slowest}, options.stop).front());
    if (!model.finite)
        throw InputError({"", "contacts and stiffnesses",
                          fmt::format("the model's motion runs away at {:.0f} rev/min", slowest),
                          "check the train for a stiffness and a mass that do not fit together"});
    require_opens(train, mechanism.rigid(), highest_lift_m(model));
    std::vector<double> model_mm = model[Channel::Lift];
    for (double& lift : model_mm)
        lift *= 1e3;
    const Alignment found = align(first, model_mm, 0, 720, 1);
    run.phase_deg = std::fmod(found.phase_deg + 720, 720);
    run.scale_ratio = found.gain;
    if (std::abs(run.scale_ratio - 1) > kScaleWarn)
        run.warnings.push_back(
            fmt::format("at {:.0f} rev/min the rig shows {:.1f} % {} lift than the model: check "
                        "scale, ratio and lash; nothing was rescaled",
                        slowest, 100 * std::abs(run.scale_ratio - 1), run.scale_ratio > 1 ? "more" : "less"));
    progress(0.6);

    std::vector<RawCycle> averages;
    for (Groups::Group& group : groups.all) {
        RigStep step;
        step.speed_rpm = group.read.speed_rpm;
        step.used = group.used;
        step.dropped = group.read.dropped;
        step.oil_C = oil_of(trace, group.places);
        run.steps.push_back(std::move(step));
        group.later = trace.once_per_crank_turn && !averages.empty() &&
                      begins_half_a_cycle_later(model_mm, run.phase_deg, group.average);
        averages.push_back(group.average);
        if (group.later)
            turn_by_half(averages.back());
    }
    run.noise_m = reading_noise_mm(trace) * 1e-3;
    find_zeros(averages, train.hydraulic(), run);
    for (std::size_t i = 0; i < groups.all.size(); ++i) {
        throw_if_stopped(options.stop);
        measure_step(groups.cycles_of(groups.all[i]), chain.rigid_m, run, options.limits.check_lift_m,
                     run.steps[i]);
        progress(0.6 + 0.4 * static_cast<double>(i + 1) / static_cast<double>(groups.all.size()));
    }
    judge(options, run);
    return run;
}

} // namespace bathmos
