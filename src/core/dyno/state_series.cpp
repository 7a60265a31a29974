#include "core/dyno/state_series.h"

#include <Eigen/QR>
#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

constexpr double kTrendFrom_rpm = 1200, kLeastTrend_rpm = 600, kFurthest_rpm = 800;
constexpr double kCrossedBy = 0.005;  // share of the power, where pulls were not repeated
constexpr double kRunsPast_rpm = 250; // how far a state must run past a break to be without it
constexpr double kSame_rpm = 250;     // within which two breaks are one

} // namespace

std::optional<MissingPower> missing_power(const StateCurve& curve, const std::optional<StateBreak>& at) {
    const std::vector<double>& rpm = curve.speed_rpm;
    if (!at || rpm.empty() || at->speed_rpm - rpm.front() < kLeastTrend_rpm || rpm.back() <= at->speed_rpm)
        return std::nullopt;
    std::vector<std::size_t> below;
    for (std::size_t i = 0; i < rpm.size(); ++i)
        if (rpm[i] <= at->speed_rpm && rpm[i] >= at->speed_rpm - kTrendFrom_rpm)
            below.push_back(i);
    const auto place = [&](double speed_rpm) { return (speed_rpm - at->speed_rpm) / kTrendFrom_rpm; };
    Eigen::MatrixXd x(static_cast<Eigen::Index>(below.size()), 3);
    Eigen::VectorXd y(x.rows());
    for (Eigen::Index i = 0; i < x.rows(); ++i) {
        const std::size_t k = below[static_cast<std::size_t>(i)];
        x.row(i) << 1, place(rpm[k]), std::pow(place(rpm[k]), 2);
        y(i) = curve.power_W[k];
    }
    const Eigen::Vector3d trend = x.colPivHouseholderQr().solve(y);
    const double end = std::min(rpm.back(), at->speed_rpm + kFurthest_rpm);
    const auto last =
        static_cast<std::size_t>(std::upper_bound(rpm.begin(), rpm.end(), end) - rpm.begin()) - 1;
    const double t = place(rpm[last]), continued = trend(0) + trend(1) * t + trend(2) * t * t;
    return MissingPower{rpm[last], continued - curve.power_W[last],
                        (continued - curve.power_W[last]) / continued};
}

std::vector<double> crossings(const StateDifference& change, const StateCurve& reference) {
    std::vector<double> out;
    int side = 0;
    std::optional<double> turned; // where the sign changed last, not yet for good
    for (std::size_t i = 0; i < change.speed_rpm.size(); ++i) {
        const double gain = change.gain_W[i];
        const auto at = static_cast<std::size_t>(
            std::lower_bound(reference.speed_rpm.begin(), reference.speed_rpm.end(), change.speed_rpm[i]) -
            reference.speed_rpm.begin());
        const double clear = change.band_W.empty()
                                 ? kCrossedBy * reference.power_W[std::min(at, reference.power_W.size() - 1)]
                                 : change.band_W[i];
        if (i > 0 && (gain > 0) != (change.gain_W[i - 1] > 0)) {
            const double before = change.gain_W[i - 1], share = before / (before - gain);
            turned = change.speed_rpm[i - 1] + share * (change.speed_rpm[i] - change.speed_rpm[i - 1]);
        }
        if (std::abs(gain) <= clear)
            continue;
        const int here = gain > 0 ? 1 : -1;
        if (side != 0 && here != side && turned)
            out.push_back(*turned);
        side = here;
    }
    return out;
}

SeriesState series_state(const std::vector<const PullAnalysis*>& pulls) {
    SeriesState out{break_of_state(pulls)};
    for (const PullAnalysis* one : pulls)
        out.runs_to_rpm = std::max(out.runs_to_rpm, one->curve.speed_rpm.back());
    return out;
}

bool runs_past(const SeriesState& state, double break_rpm) {
    const double clean_rpm = state.first_break ? state.first_break->speed_rpm : state.runs_to_rpm;
    return clean_rpm > break_rpm + kRunsPast_rpm;
}

std::vector<BreakStory> break_stories(const std::vector<SeriesState>& series) {
    std::vector<BreakStory> out;
    std::optional<BreakStory> open;
    for (std::size_t i = 0; i < series.size(); ++i) {
        const auto& here = series[i].first_break;
        if (open && runs_past(series[i], open->speed_rpm)) {
            open->goes = i;
            out.push_back(*open);
            open.reset();
        }
        if (!here)
            continue;
        if (open && std::abs(here->speed_rpm - open->speed_rpm) <= kSame_rpm) {
            open->last = i;
            continue;
        }
        if (open) // it moved down: another break begins
            out.push_back(*open);
        open = BreakStory{here->speed_rpm, std::nullopt, i, i, std::nullopt};
        for (std::size_t k = i; k-- > 0 && !open->without;)
            if (runs_past(series[k], here->speed_rpm))
                open->without = k;
    }
    if (open)
        out.push_back(*open);
    return out;
}

} // namespace bathmos
