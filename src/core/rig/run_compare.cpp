#include "core/rig/run_compare.h"

#include "core/math/robust.h"
#include "core/problem/input_error.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr double kSure = 2;           // deviations that a gain must exceed
constexpr double kScaleApart = 0.01;  // of the lift
constexpr double kPhaseApart_deg = 1; // crank: the same mounting of the same encoder
constexpr double kLashApart_m = 0.03e-3, kNoiseTimes = 2;
constexpr double kOilApart_C = 5, kZeroApart_mm = 0.05; // a sensor's zero walks by microns within a run
constexpr double kSameSpeed = 0.02;

// What is found out with few degrees of freedom is not narrowed for it: runs are dear, and two are usual.
std::optional<double> scatter_of_repeats(const std::vector<RunOfTrain>& runs) {
    double squares = 0, freedom = 0;
    for (std::size_t i = 0; i < runs.size(); ++i) {
        double sum = 0, count = 0;
        bool first = true;
        for (std::size_t j = 0; j < runs.size(); ++j)
            if (*runs[j].train == *runs[i].train && runs[j].run->onset.onset.speed_rpm) {
                first = first && j >= i;
                sum += *runs[j].run->onset.onset.speed_rpm;
                ++count;
            }
        if (!first || count < 2)
            continue;
        for (const RunOfTrain& one : runs)
            if (*one.train == *runs[i].train && one.run->onset.onset.speed_rpm)
                squares += std::pow(*one.run->onset.onset.speed_rpm - sum / count, 2);
        freedom += count - 1;
    }
    return freedom > 0 ? std::optional(std::sqrt(squares / freedom)) : std::nullopt;
}

EdgeGain gain_of(const std::vector<RunOfTrain>& runs, std::size_t from, std::size_t to, double repeats_rpm) {
    EdgeGain out{from, to, {}, 0, false};
    const Onset &a = runs[from].run->onset.onset, &b = runs[to].run->onset.onset;
    out.sd_rpm = std::hypot(a.half_step_rpm, b.half_step_rpm, std::sqrt(2.0) * repeats_rpm);
    if (!a.speed_rpm || !b.speed_rpm)
        return out;
    out.rpm = *b.speed_rpm - *a.speed_rpm;
    out.claimed = std::abs(*out.rpm) > kSure * out.sd_rpm;
    return out;
}

double phase_apart_deg(double a, double b) {
    const double turn = std::fmod(std::abs(a - b), 720.0);
    return std::min(turn, 720 - turn);
}

// Steps at about the same speed, one of each.
std::vector<std::pair<const RigStep*, const RigStep*>> shared_steps(const RigRun& a, const RigRun& b) {
    std::vector<std::pair<const RigStep*, const RigStep*>> out;
    for (const RigStep& step : a.steps)
        if (!b.steps.empty())
            if (const RigStep& other = b.steps[b.nearest(step.speed_rpm)];
                std::abs(other.speed_rpm / step.speed_rpm - 1) < kSameSpeed)
                out.emplace_back(&step, &other);
    return out;
}

// Oil thins as it warms, and parts grow: lash and damping go with it. The widest difference is told.
void tell_of_oil(const RunOfTrain& a, const RunOfTrain& b, const std::string& both, std::vector<Told>& told) {
    std::pair<double, double> widest{};
    for (const auto& [one, other] : shared_steps(*a.run, *b.run))
        if (one->oil_C && other->oil_C &&
            std::abs(*one->oil_C - *other->oil_C) > std::abs(widest.first - widest.second))
            widest = {*one->oil_C, *other->oil_C};
    if (std::abs(widest.first - widest.second) > kOilApart_C)
        told.push_back({"oil", MeasuredText(both + fmt::format("the oil had {:.0f} and {:.0f} °C: lash and "
                                                               "damping go with it, run both as warm",
                                                               widest.first, widest.second))});
}

void tell_of_zero(const RunOfTrain& a, const RunOfTrain& b, const std::string& both,
                  std::vector<Told>& told) {
    std::vector<double> apart_mm;
    for (const auto& [one, other] : shared_steps(*a.run, *b.run))
        if (!one->zero_carried && !other->zero_carried)
            apart_mm.push_back(other->zero_mm - one->zero_mm);
    if (apart_mm.empty() || std::abs(median(apart_mm)) <= kZeroApart_mm)
        return;
    told.push_back(
        {"zero",
         MeasuredText(both) + MeasuredText("the sensor's zero stands {} apart: it was set anew or has moved, "
                                           "so its scale may have, too",
                                           {{Quantity::Length, 1e-3 * median(apart_mm)}})});
}

void tell_of_pair(const RunOfTrain& a, const RunOfTrain& b, std::vector<Told>& told) {
    const std::string both = a.name + " and " + b.name + ": ";
    if (std::abs(a.run->scale_ratio - b.run->scale_ratio) > kScaleApart)
        told.push_back(
            {"scale",
             MeasuredText(both +
                          fmt::format("the sensor's scale is {:.3f} and {:.3f} of the model's: calibrate "
                                      "it, or compare changes with speed only",
                                      a.run->scale_ratio, b.run->scale_ratio))});
    if (const double apart = phase_apart_deg(a.run->phase_deg, b.run->phase_deg); apart > kPhaseApart_deg)
        told.push_back(
            {"phase",
             MeasuredText(both +
                          fmt::format("the index stands {:.1f} crank degrees apart: encoder or cam was "
                                      "set anew",
                                      apart))});
    if (const double apart = b.train->effective_lash_m() - a.train->effective_lash_m();
        std::abs(apart) > kLashApart_m)
        told.push_back(
            {"lash", MeasuredText(both) + MeasuredText("lash differs by {}: part of the gain may be that",
                                                       {{Quantity::Length, apart}})});
    const double low = std::min(a.run->noise_m, b.run->noise_m),
                 high = std::max(a.run->noise_m, b.run->noise_m);
    if (low > 0 && high > kNoiseTimes * low)
        told.push_back(
            {"noise",
             MeasuredText(both) + MeasuredText("noise is {} and {}: the noisier one may show its edge late",
                                               {{Quantity::FineLength, a.run->noise_m},
                                                {Quantity::FineLength, b.run->noise_m}})});
    tell_of_oil(a, b, both, told);
    tell_of_zero(a, b, both, told);
    if (a.run->limits_name != b.run->limits_name)
        told.push_back({"limits", MeasuredText(both + "judged by different limits")});
}

void tell_of_missing(const RunOfTrain& one, std::vector<Told>& told) {
    if (!one.run->onset.onset.speed_rpm && !one.run->steps.empty())
        told.push_back(
            {"no_edge", MeasuredText(fmt::format(
                            "{}: no edge up to {:.0f} rev/min: its gain is not known, run it faster",
                            one.name, one.run->steps.back().speed_rpm))});
}

} // namespace

RunComparison compare_runs(const std::vector<RunOfTrain>& runs) {
    if (runs.size() < 2)
        throw InputError({"", "runs", "only one run", "give two or more"});
    RunComparison out;
    out.repeats_rpm = scatter_of_repeats(runs);
    for (std::size_t i = 0; i < runs.size(); ++i)
        for (std::size_t j = i + 1; j < runs.size(); ++j)
            if (!(*runs[i].train == *runs[j].train))
                out.gains.push_back(gain_of(runs, i, j, out.repeats_rpm.value_or(0)));
    for (std::size_t i = 1; i < runs.size(); ++i)
        tell_of_pair(runs[0], runs[i], out.told);
    for (const RunOfTrain& one : runs)
        tell_of_missing(one, out.told);
    return out;
}

} // namespace bathmos
