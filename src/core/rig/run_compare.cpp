#include "core/rig/run_compare.h"

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
