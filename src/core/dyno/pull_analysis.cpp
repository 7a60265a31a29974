#include "core/dyno/pull_analysis.h"

#include "core/math/robust.h"
#include "core/units/units.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

constexpr double kRough = 1.6;
constexpr double kCutShare = 0.15, kCutWithin_rpm = 120;

void add_peaks(PullAnalysis& out) {
    for (std::size_t i = 0; i < out.curve.size(); ++i) {
        const double torque = out.trend_W[i] / (out.curve.speed_rpm[i] * kPi / 30);
        if (i == 0 || out.trend_W[i] > out.peak_W) {
            out.peak_W = out.trend_W[i];
            out.peak_rpm = out.curve.speed_rpm[i];
        }
        if (i == 0 || torque > out.torque_peak_Nm) {
            out.torque_peak_Nm = torque;
            out.torque_peak_rpm = out.curve.speed_rpm[i];
        }
    }
}

// Readings in the ramp of a break are no roughness: the trend has a corner there.
bool at_a_corner(const PowerBreaks& breaks, double rpm) {
    return std::any_of(breaks.breaks.begin(), breaks.breaks.end(),
                       [&](const PowerBreak& b) { return std::abs(rpm - b.speed_rpm) < 40; });
}

void add_roughness(PullAnalysis& out) {
    const PowerCurve& c = out.curve;
    for (std::size_t i = 0; i < c.size();) {
        const double from = kRoughBand_rpm * std::floor(c.speed_rpm[i] / kRoughBand_rpm);
        double sum = 0, speed = 0;
        std::size_t n = 0, k = i;
        for (; k < c.size() && c.speed_rpm[k] < from + kRoughBand_rpm; ++k) {
            if (at_a_corner(out.breaks, c.speed_rpm[k]))
                continue;
            sum += std::pow(c.power_W[k] - out.trend_W[k], 2);
            speed += c.speed_rpm[k];
            ++n;
        }
        if (n >= 3)
            out.roughness.push_back(
                {from, speed / static_cast<double>(n), std::sqrt(sum / static_cast<double>(n)), 0});
        i = k;
    }
}

void judge_roughness(PullAnalysis& out) {
    const double low = out.curve.speed_rpm.front(), span = out.curve.span_rpm();
    const PowerBreak* first = out.first_break();
    const double top = std::min(low + 0.7 * span, first ? first->speed_rpm - kRoughBand_rpm : 1e9);
    std::vector<double> mid;
    for (const Roughness& r : out.roughness)
        if (r.middle_rpm > low + 0.25 * span && r.middle_rpm < top)
            mid.push_back(r.rms_W);
    if (mid.empty())
        for (const Roughness& r : out.roughness)
            mid.push_back(r.rms_W);
    if (mid.empty())
        return;
    out.mid_range_rms_W = std::max(median(mid), 1e-5 * out.peak_W);
    for (Roughness& r : out.roughness)
        r.over_mid_range = r.rms_W / out.mid_range_rms_W;
    const std::vector<Roughness>& bands = out.roughness;
    for (std::size_t i = 0; i < bands.size(); ++i) {
        const std::size_t last = std::min(bands.size(), i + 3);
        const bool rough = std::all_of(bands.begin() + static_cast<std::ptrdiff_t>(i),
                                       bands.begin() + static_cast<std::ptrdiff_t>(last),
                                       [](const Roughness& r) { return r.over_mid_range > kRough; });
        std::vector<double> rest;
        for (std::size_t k = i; k < bands.size(); ++k)
            rest.push_back(bands[k].over_mid_range);
        if (rough && bands.size() > i + 1 && median(rest) > kRough &&
            bands[i].middle_rpm > low + 0.25 * span) {
            out.rough_from_rpm = bands[i].from_rpm;
            break;
        }
    }
    std::vector<double> above;
    const double from = first ? first->speed_rpm : low + 0.75 * span;
    for (const Roughness& r : bands)
        if (r.middle_rpm > from)
            above.push_back(r.over_mid_range);
    if (!above.empty())
        out.rough_top = median(above);
}

void find_cut(PullAnalysis& out) {
    const PowerCurve& c = out.curve;
    for (std::size_t i = 5; i < c.size(); ++i) {
        if (c.speed_rpm[i] < c.speed_rpm.front() + 0.4 * c.span_rpm())
            continue;
        std::vector<double> before;
        for (std::size_t k = i; k-- > 0 && (c.speed_rpm[i] - c.speed_rpm[k] < 250 || before.size() < 4);)
            if (c.speed_rpm[i] - c.speed_rpm[k] > 5)
                before.push_back(c.power_W[k]);
        const double held = median(before);
        // Deep, soon, and to the end: power does not come back to nine tenths over a stretch.
        double lowest = c.power_W[i];
        std::size_t under = 0, all = 0;
        for (std::size_t k = i; k < c.size(); ++k) {
            if (c.speed_rpm[k] - c.speed_rpm[i] < kCutWithin_rpm)
                lowest = std::min(lowest, c.power_W[k]);
            ++all;
            under += c.power_W[k] < (1 - 0.6 * kCutShare) * held ? 1U : 0U;
        }
        const bool starts = c.power_W[i] < (1 - 0.4 * kCutShare) * held && c.power_W[i - 1] > 0.92 * held;
        if (starts && lowest < (1 - kCutShare) * held && 2 * under >= all) {
            out.cut = PowerCut{c.speed_rpm[i], 1 - lowest / held};
            return;
        }
    }
}

} // namespace

PullAnalysis analyse(const Pull& pull, const std::stop_token& stop) {
    PullAnalysis out;
    out.corrected = pull.corrected;
    out.curve = power_curve(pull);
    throw_if_stopped(stop);
    out.breaks = find_breaks(out.curve);
    throw_if_stopped(stop);
    out.trend_W = trend_of(out.curve, out.breaks);
    add_peaks(out);
    add_roughness(out);
    judge_roughness(out);
    find_cut(out);
    return out;
}

std::optional<StateBreak> break_of_state(const std::vector<const PullAnalysis*>& pulls) {
    std::vector<double> speeds;
    for (const PullAnalysis* p : pulls)
        if (p->first_break())
            speeds.push_back(p->first_break()->speed_rpm);
    if (speeds.empty() || 2 * speeds.size() < pulls.size())
        return std::nullopt;
    const double middle = median(speeds);
    StateBreak out;
    out.of = pulls.size();
    double weight = 0, square = 0;
    for (const PullAnalysis* p : pulls)
        for (const PowerBreak& b : p->breaks.breaks)
            if (std::abs(b.speed_rpm - middle) < 600) {
                weight += b.confidence;
                out.speed_rpm += b.confidence * b.speed_rpm;
                square += b.confidence * b.speed_rpm * b.speed_rpm;
                out.depth_W += b.confidence * b.depth_W;
                out.confidence = std::max(out.confidence, b.confidence);
                ++out.pulls;
                break; // the lowest that counts
            }
    if (!(weight > 0))
        return std::nullopt;
    out.speed_rpm /= weight;
    out.depth_W /= weight;
    out.scatter_rpm = std::sqrt(std::max(0.0, square / weight - out.speed_rpm * out.speed_rpm));
    return out;
}

} // namespace bathmos
