#include "core/lobe/gauge.h"

#include "core/math/robust.h"
#include "core/problem/input_error.h"
#include "core/units/units.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

constexpr double kSameAngle = 1e-6; // of a turn

// Into -half .. half a turn, so that a lobe over the origin stays in one piece and one turn is one turn.
double within_turn(double angle, double turn, double start) {
    const double from = std::fmod(angle - start, turn);
    return start + (from < -kSameAngle * turn ? from + turn : from);
}

} // namespace

std::vector<GaugePass> split_passes(const std::vector<double>& angle, const std::vector<double>& lift,
                                    AngleUnit unit) {
    const double turn = unit == AngleUnit::CamDegree ? 360 : 720;
    std::vector<GaugePass> out;
    double direction = 0;
    for (std::size_t i = 0; i < std::min(angle.size(), lift.size()); ++i) {
        const bool lost = !std::isfinite(angle[i]) || !std::isfinite(lift[i]);
        if (lost)
            continue;
        bool begins = out.empty();
        if (!begins && !out.back().angle.empty()) {
            const double step = angle[i] - out.back().angle.back();
            begins = (direction != 0 && step * direction <= 0) ||
                     std::abs(angle[i] - out.back().angle.front()) > turn * (1 + kSameAngle);
            if (direction == 0 && step != 0)
                direction = step;
        }
        if (begins) {
            out.emplace_back();
            direction = 0;
        }
        out.back().angle.push_back(angle[i]);
        out.back().lift.push_back(lift[i]);
    }
    return out;
}

CombinedPasses combine(const std::vector<GaugePass>& passes, AngleUnit angle_unit, LiftUnit lift_unit,
                       bool mirrored) {
    const double turn = angle_unit == AngleUnit::CamDegree ? 360 : 720;
    const double per_lift = lift_unit == LiftUnit::Millimetre ? 1e-3 : kInch_m;
    struct Reading {
        double angle, lift;
    };
    std::vector<Reading> all;
    double start = 0;
    std::size_t used = 0;
    for (const GaugePass& pass : passes) {
        if (pass.angle.empty())
            continue;
        const double sign = mirrored ? -1 : 1;
        if (used++ == 0)
            start = sign * (mirrored == (pass.angle.front() < pass.angle.back()) ? pass.angle.back()
                                                                                 : pass.angle.front());
        for (std::size_t i = 0; i < pass.angle.size(); ++i)
            all.push_back({sign * pass.angle[i], pass.lift[i]});
    }
    if (all.empty())
        throw InputError({"", "lobe.table", "there is no reading", "give angles and cam lifts"});
    // A single pass keeps the angles it has, and the end that repeats its start.
    if (used > 1)
        for (Reading& r : all)
            r.angle = within_turn(r.angle, turn, start);
    std::stable_sort(all.begin(), all.end(),
                     [](const Reading& a, const Reading& b) { return a.angle < b.angle; });
    CombinedPasses out;
    out.table.angle_unit = angle_unit;
    out.table.lift_unit = lift_unit;
    out.repeatability.passes = used;
    std::vector<double> departures; // from the mean, scaled to those from the truth
    for (std::size_t i = 0; i < all.size();) {
        std::size_t end = i;
        double sum = 0;
        while (end < all.size() && all[end].angle - all[i].angle <= kSameAngle * turn)
            sum += all[end++].lift;
        const double mean = sum / static_cast<double>(end - i);
        for (std::size_t j = i; j < end; ++j) {
            const double off = std::abs(all[j].lift - mean) * per_lift;
            if (end - i > 1)
                departures.push_back(
                    (all[j].lift - mean) * per_lift *
                    std::sqrt(static_cast<double>(end - i) / static_cast<double>(end - i - 1)));
            if (off > out.repeatability.largest_m) {
                out.repeatability.largest_m = off;
                out.repeatability.largest_at = all[i].angle;
            }
        }
        out.table.angle.push_back(all[i].angle);
        out.table.lift.push_back(mean);
        i = end;
    }
    if (departures.size() >= 20) {
        out.repeatability.sd_m = robust_sd(departures); // one bad reading does not spoil it
        const double each = static_cast<double>(all.size()) / static_cast<double>(out.table.angle.size());
        out.table.noise_m = std::max(out.repeatability.sd_m / std::sqrt(each), 0.1e-6);
    }
    return out;
}

} // namespace bathmos
