#include "core/calibration/run_reading.h"

#include "core/lobe/lobe_events.h"
#include "core/problem/input_error.h"
#include "core/train/train_figures.h"
#include "core/whatif/handles.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>

namespace bathmos {

namespace {

constexpr double kLeastTold = 1; // evidence under that is not worth its computing
constexpr double kMoreDamping = 12, kLeastDamping = 0.1;
constexpr double kStiffer = 2;
// From round to full; higher ones are harsh.
constexpr std::array<std::array<double, 4>, 3> kSmoothPowers{
    {{4, 6, 8, 10}, {6, 9, 12, 15}, {7, 11, 15, 19}}};
constexpr double kRampHeight_m = 0.15e-3, kFlankHeight_m = 1.27e-3;

double lowest_but(const LimitSpeed& limit, std::initializer_list<Metric> without, double end_rpm) {
    double out = end_rpm;
    for (const Crossing& one : limit.crossings)
        if (one.speed_rpm && std::find(without.begin(), without.end(), one.limit.metric) == without.end())
            out = std::min(out, *one.speed_rpm);
    return out;
}

// A polynomial lobe of low powers with the lift, the duration at 1.27 mm and the ramp's velocity of the one
// there is: what its flanks ask is gone, how it sets the valve down stays. False where there is none.
bool smooth_the_lobe(Train& train, const std::array<double, 4>& powers) {
    const LobeCurve curve = curve_of(train.lobe);
    const auto low = crossings_at([&](double theta) { return curve.at(theta); }, kRampHeight_m);
    const auto high = crossings_at([&](double theta) { return curve.at(theta); }, kFlankHeight_m);
    if (!low || !high || curve.lift_m() < 2 * kFlankHeight_m)
        return false;
    AnalyticLobe smooth;
    smooth.lift_m = curve.lift_m() - 2 * kRampHeight_m;
    smooth.exponents = powers;
    smooth.ramp_height_m = 2 * kRampHeight_m;
    smooth.ramp_velocity_m_per_rad =
        0.5 * (std::abs(curve.at(low->opening_rad, 1)) + std::abs(curve.at(low->closing_rad, 1)));
    double narrow = 0.3 * kPi, wide = 0.8 * kPi; // cam rad
    for (int halving = 0; halving < 40; ++halving) {
        smooth.half_duration_rad = 0.5 * (narrow + wide);
        try {
            const LobeCurve tried = LobeCurve::of(smooth);
            const auto at = crossings_at([&](double theta) { return tried.at(theta); }, kFlankHeight_m);
            const bool too_wide = !at || at->duration_crank_deg() > high->duration_crank_deg();
            (too_wide ? wide : narrow) = smooth.half_duration_rad;
        } catch (const InputError&) { // its ramp does not fit in
            wide = smooth.half_duration_rad;
        }
    }
    smooth.half_duration_rad = narrow;
    train.lobe.shape = smooth;
    return true;
}

struct SwitchedOff {
    const char *cause, *label;
    std::function<bool(Train&)> apply; ///< false: cannot be done to this train
    bool off_the_seat = false;         ///< judged without the limits on how the valve lands
};

std::vector<SwitchedOff> switched_off(const Train& train) {
    std::vector<SwitchedOff> out = {{"surge", "springs damped twelve times as strongly", [](Train& t) {
                                         scale_spring_damping(t, kMoreDamping, kLeastDamping);
                                         return true;
                                     }}};
    out.push_back({"train_flexible", "a train twice as stiff at the same mass", [](Train& t) {
                       scale_stiffness(t, kStiffer);
                       return true;
                   }});
    for (const auto& powers : kSmoothPowers)
        out.push_back({"harsh_lobe", "a smooth lobe of the same lift, duration and ramp",
                       [&powers](Train& t) { return smooth_the_lobe(t, powers); }, true});
    if (train.back_pressure_Pa != 0 || train.pressure_table)
        out.push_back({"boost_on_head", "no pressure on the head", [](Train& t) {
                           take_pressure_off(t);
                           return true;
                       }});
    if (train.hydraulic())
        out.push_back({"pump_up", "a solid follower", [](Train& t) {
                           fit_solid_follower(t);
                           return true;
                       }});
    return out;
}

std::vector<RunMechanism> mechanisms_of(const Train& train, const LimitSpeed& limit,
                                        const LimitQuestion& question) {
    const double end = question.range.last_rpm, now = limit.speed_rpm.value_or(end);
    std::vector<RunMechanism> out = {{"hard_landing", "no limit on seating and bounce",
                                      lowest_but(limit, {Metric::Seating, Metric::Bounce}, end) - now}};
    LimitQuestion off_the_seat = question;
    std::erase_if(off_the_seat.limits.list, [](const Limit& one) {
        return one.metric == Metric::Seating || one.metric == Metric::Bounce;
    });
    const double now_off_the_seat = now + out.front().gain_rpm;
    const std::vector<SwitchedOff> trials = switched_off(train);
    std::vector<std::optional<double>> gains(trials.size());
    parallel_for(trials.size(), [&](std::size_t i) {
        Train without = train;
        if (trials[i].apply(without))
            gains[i] = trials[i].off_the_seat ? limit_gain(without, now_off_the_seat, off_the_seat)
                                              : limit_gain(without, limit.speed_rpm, question);
    });
    for (std::size_t i = 0; i < trials.size(); ++i) {
        if (!gains[i])
            continue;
        if (out.back().cause == trials[i].cause) // another way to the same
            out.back().gain_rpm = std::max(out.back().gain_rpm, *gains[i]);
        else
            out.push_back({trials[i].cause, trials[i].label, *gains[i]});
    }
    return out;
}

struct ToldDeparture {
    std::string cause;
    double log_evidence;
    const Train *train, *put_back;
};

// What the best explanation without a cause lacks of one with it: what that cause is worth beside the other.
double worth_of(const std::string& cause, const Hypothesis& two, const std::vector<Hypothesis>& all) {
    double without = 0; // as believed
    for (const Hypothesis& one : all)
        if (one.with.empty() && one.cause != cause)
            without = std::max(without, one.log_evidence);
    return two.log_evidence - without;
}

// Of this train, each cause by its likeliest hypothesis.
std::vector<ToldDeparture> told_of(const Calibration& calibration) {
    std::vector<ToldDeparture> out;
    const auto tell = [&](const std::string& cause, double log_evidence, const Train& train,
                          const Train& put_back) {
        if (cause != "as_believed" && std::ranges::find(out, cause, &ToldDeparture::cause) == out.end())
            out.push_back({cause, log_evidence, &train, &put_back});
    };
    for (const Hypothesis& one : calibration.hypotheses)
        if (!one.with.empty()) {
            tell(one.cause, worth_of(one.cause, one, calibration.hypotheses), one.train, one.put_back);
            tell(one.with, worth_of(one.with, one, calibration.hypotheses), one.train, one.with_put_back);
        }
    for (const Hypothesis& one : calibration.hypotheses)
        if (one.with.empty() && one.only.value_or(0) == 0)
            tell(one.cause, one.log_evidence, one.train, one.put_back);
    return out;
}

} // namespace

RunReading read_run(const Calibration& calibration, const CalibratedLimit& limit, LimitQuestion question,
                    const ProgressSink& progress) {
    question.limits = limit.limits;
    RunReading out;
    out.chosen = calibration.chosen_only.value_or(0) == 0 ? calibration.chosen : "as_believed";
    if (out.chosen == calibration.chosen)
        out.chosen_with = calibration.chosen_with;
    out.limit_rpm = limit.limit.speed_rpm;
    out.train_limit_rpm = limit.train_limit_rpm;
    out.p10_rpm = limit.p10_rpm;
    out.p50_rpm = limit.p50_rpm;
    out.p90_rpm = limit.p90_rpm;
    out.onset_rpm = limit.onset.onset.speed_rpm;
    out.onset_metric = limit.onset.onset.metric;
    if (limit.limit.first)
        out.limit_metric = limit.limit.first->metric;
    const Train& train = calibration.train;
    out.bind_margin_m = figures_of(train, RigidMotion(train, curve_of(train.lobe))).bind_margin_m;
    const std::vector<ToldDeparture> told = told_of(calibration);
    for (const ToldDeparture& one : told)
        out.departures.push_back({one.cause, one.log_evidence, std::nullopt});
    parallel_for(told.size(), [&](std::size_t i) {
        if (told[i].log_evidence > kLeastTold)
            if (const auto here = limit_within(*told[i].train, question, out.limit_rpm))
                out.departures[i].gain_rpm = limit_gain(*told[i].put_back, here, question);
    });
    if (progress)
        progress(0.5);
    out.mechanisms = mechanisms_of(train, limit.limit, question);
    if (progress)
        progress(1);
    return out;
}

} // namespace bathmos
