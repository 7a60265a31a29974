#include "core/rig/hold_creep.h"

#include "core/dynamics/chain.h"
#include "core/rig/cycle_measure.h"

#include <algorithm>
#include <cmath>

namespace bathmos::rig {

namespace {

constexpr double kSigmas = 3, kMostCorrelation = 0.98;
constexpr double kSameSpeed_share = 0.01;
constexpr double kLeastDrift = 1e-9;    // m, degrees: less is rounding
constexpr std::size_t kMostHeld = 3000; // cycles that are measured of a hold: evenly spread ones of more

struct Line {
    double slope = 0, middle_s = 0, squares_s = 0, mean = 0;
};

Line line_through(const std::vector<double>& time_s, const std::vector<double>& values) {
    Line out;
    const auto n = static_cast<double>(time_s.size());
    for (std::size_t i = 0; i < time_s.size(); ++i) {
        out.middle_s += time_s[i] / n;
        out.mean += values[i] / n;
    }
    double product = 0;
    for (std::size_t i = 0; i < time_s.size(); ++i) {
        out.squares_s += (time_s[i] - out.middle_s) * (time_s[i] - out.middle_s);
        product += (time_s[i] - out.middle_s) * (values[i] - out.mean);
    }
    out.slope = out.squares_s > 0 ? product / out.squares_s : 0;
    return out;
}

// What a hold's cycles show, one after another.
struct Series {
    std::vector<double> time_s, peak_m, duration_deg, bounce_m, held_open_m;
};

Series series_of(const SpeedGroup& group, const RigStep& step, const RigRun& run,
                 const std::vector<double>& rigid_m) {
    Series out;
    const CycleFrame frame{run.phase_deg, step.zero_mm, run.seat_m, run.noise_m, kUsualCheckLift_m};
    const double cycle_s = 120 / group.speed_rpm;
    const std::size_t stride = 1 + group.cycles.size() / kMostHeld;
    for (std::size_t i = 0; i < group.cycles.size(); i += stride) {
        const std::vector<double> lift_m = aligned_m(group.cycles[i], frame);
        const Metrics metrics = metrics_of(lift_m, rigid_m, group.speed_rpm, frame);
        out.time_s.push_back(cycle_s * static_cast<double>(i));
        out.peak_m.push_back(*std::ranges::max_element(lift_m));
        out.duration_deg.push_back(metrics[Metric::DurationChange].value_or(0));
        out.bounce_m.push_back(metrics[Metric::Bounce].value_or(0));
        out.held_open_m.push_back(metrics[Metric::HeldOpen].value_or(0));
    }
    return out;
}

// Cycles of one speed on end: a speed that was visited twice was held twice.
std::vector<CyclePlaces> stretches(const RigTrace& trace, const CyclePlaces& places) {
    const std::size_t apart = trace.once_per_crank_turn ? 2 : 1;
    std::vector<CyclePlaces> out;
    for (const std::size_t turn : places.turns) {
        const bool goes_on =
            !out.empty() && turn == out.back().turns.back() + apart && trace.turns[turn].follows_on;
        if (!goes_on)
            out.push_back({places.speed_rpm, {}});
        out.back().turns.push_back(turn);
    }
    return out;
}

} // namespace

Creep creep_of(const std::vector<double>& time_s, const std::vector<double>& values) {
    Creep out;
    const Line line = line_through(time_s, values);
    const std::size_t n = time_s.size();
    if (n < 3 || !(line.squares_s > 0))
        return out;
    double squares = 0, neighbours = 0, before = 0;
    for (std::size_t i = 0; i < n; ++i) {
        const double left = values[i] - line.mean - line.slope * (time_s[i] - line.middle_s);
        squares += left * left;
        neighbours += i > 0 ? left * before : 0;
        before = left;
    }
    const double share = squares > 0 ? std::clamp(neighbours / squares, 0.0, kMostCorrelation) : 0;
    const double variance = squares / static_cast<double>(n - 2) * (1 + share) / (1 - share);
    out.per_s = line.slope;
    out.sd_per_s = std::sqrt(variance / line.squares_s);
    out.over_hold = line.slope * (time_s.back() - time_s.front());
    out.sigma = out.sd_per_s > 0 ? std::abs(line.slope) / out.sd_per_s : 0;
    out.creeps = out.sigma > kSigmas && std::abs(out.over_hold) > kLeastDrift;
    return out;
}

std::vector<HeldSpeed> holds_of(const RigTrace& trace, const RigRun& run, const std::vector<double>& rigid_m,
                                const RigOptions& options, double least_s) {
    std::vector<HeldSpeed> out;
    for (const CyclePlaces& places : group_cycles(trace)) {
        if (run.steps.empty())
            break;
        const RigStep& step = run.steps[run.nearest(places.speed_rpm)];
        if (std::abs(step.speed_rpm / places.speed_rpm - 1) > kSameSpeed_share)
            continue; // left out of the run
        for (const CyclePlaces& held : stretches(trace, places)) {
            throw_if_stopped(options.stop);
            const double seconds = 120 / held.speed_rpm * static_cast<double>(held.turns.size());
            if (held.turns.size() < kLeastHeldCycles || seconds < least_s)
                continue;
            SpeedGroup group = read_group(trace, held, options);
            drop_bad(group);
            if (group.cycles.size() < kLeastHeldCycles)
                continue;
            const Series series = series_of(group, step, run, rigid_m);
            out.push_back(
                {group.speed_rpm, seconds, group.cycles.size(), creep_of(series.time_s, series.peak_m),
                 creep_of(series.time_s, series.duration_deg), creep_of(series.time_s, series.bounce_m),
                 creep_of(series.time_s, series.held_open_m)});
        }
    }
    return out;
}

} // namespace bathmos::rig
