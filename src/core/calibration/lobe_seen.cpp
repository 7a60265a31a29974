#include "core/calibration/lobe_seen.h"

#include "core/lobe/lobe.h"
#include "core/math/robust.h"
#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

// Slow: what a train does by itself grows with speed squared, what its lobe does stays.
constexpr double kSlowShare = 0.5; // of the run's range, from its slowest speed
constexpr std::size_t kLeastSlow = 3;
// What stands out: more than a good model leaves at the valve (docs/calibration.md, Data and weights), more
// than the scatter, and over some degrees.
constexpr double kLeast_m = 16e-6, kSigmas = 4, kLeastWidth_cam_deg = 3;
constexpr double kAfterClosing_cam_deg = 15; // a valve has come to rest by then
constexpr double kRamp_m = 0.35e-3;          // of cam lift: below it a ramp

std::vector<const SpeedResidual*> slow_ones(const std::vector<SpeedResidual>& residuals, std::size_t run) {
    double first = 0, last = 0;
    for (const SpeedResidual& one : residuals)
        if (one.run == run) {
            first = first == 0 ? one.speed_rpm : std::min(first, one.speed_rpm);
            last = std::max(last, one.speed_rpm);
        }
    std::vector<const SpeedResidual*> out;
    for (const SpeedResidual& one : residuals)
        if (one.run == run && one.speed_rpm <= first + kSlowShare * (last - first))
            out.push_back(&one);
    return out;
}

// Each speed has its own zero: that of the seated valve.
double seated_level(const SpeedResidual& one, double closed_crank_deg) {
    std::vector<double> seated;
    for (std::size_t i = 0; i < one.crank_deg.size(); ++i)
        if (one.crank_deg[i] > closed_crank_deg + 2 * kAfterClosing_cam_deg)
            seated.push_back(one.difference_m[i]);
    return seated.empty() ? 0 : median(seated);
}

std::string part_at(const LobeCurve& lobe, double cam_deg) {
    const double theta = radians(cam_deg);
    if (lobe.at(theta) < kRamp_m)
        return cam_deg < 0 ? "opening ramp" : "closing ramp";
    if (lobe.at(theta, 2) <= 0)
        return "nose";
    return cam_deg < 0 ? "opening flank" : "closing flank";
}

void find_stretch(const LobeCurve& lobe, double ratio, LobeSeen& out) {
    const auto stands = [&](std::size_t i, double sign) {
        return sign * out.difference_m[i] > std::max(kLeast_m / ratio, kSigmas * out.sd_m[i]);
    };
    const std::size_t n = out.cam_deg.size();
    for (const double sign : {1.0, -1.0})
        for (std::size_t i = 0; i < n; ++i) {
            if (!stands(i, sign))
                continue;
            std::size_t last = i, most = i;
            for (; last + 1 < n && stands(last + 1, sign); ++last)
                if (sign * out.difference_m[last + 1] > sign * out.difference_m[most])
                    most = last + 1;
            const bool wide = out.cam_deg[last] - out.cam_deg[i] >= kLeastWidth_cam_deg;
            if (wide &&
                (!out.departs || std::abs(out.difference_m[most]) > std::abs(out.departs->difference_m)))
                out.departs = {out.cam_deg[most], out.difference_m[most], out.cam_deg[i], out.cam_deg[last],
                               part_at(lobe, out.cam_deg[most])};
            i = last;
        }
}

} // namespace

std::optional<LobeSeen> lobe_seen(const Train& fitted, const std::vector<SpeedResidual>& residuals,
                                  std::size_t run) {
    const std::vector<const SpeedResidual*> slow = slow_ones(residuals, run);
    if (slow.size() < kLeastSlow)
        return std::nullopt;
    const RigidMotion rigid(fitted, curve_of(fitted.lobe));
    const std::vector<double>& grid = slow.front()->crank_deg;
    double closed_crank_deg = 0;
    for (const double crank_deg : grid)
        if (rigid.lift_m(radians(crank_deg / 2)) > 0)
            closed_crank_deg = crank_deg;
    LobeSeen out;
    out.speeds = slow.size();
    std::vector<double> levels;
    for (const SpeedResidual* one : slow)
        levels.push_back(seated_level(*one, closed_crank_deg));
    for (std::size_t i = 0; i < grid.size(); ++i) {
        if (rigid.lift_m(radians(grid[i] / 2)) <= 0)
            continue; // a lobe that does not move the valve is not seen
        std::vector<double> at;
        for (std::size_t k = 0; k < slow.size(); ++k)
            at.push_back(levels[k] - slow[k]->difference_m[i]); // run less model; a run has one grid
        const double ratio = rigid.map().ratio(rigid.lobe().at(radians(grid[i] / 2)));
        out.cam_deg.push_back(grid[i] / 2);
        const MeanDeviation over_speeds = mean_deviation(at);
        out.difference_m.push_back(over_speeds.mean / ratio);
        out.sd_m.push_back(over_speeds.deviation / std::sqrt(static_cast<double>(at.size() - 1)) / ratio);
    }
    find_stretch(rigid.lobe(), rigid.map().ratio(0), out);
    return out;
}

std::string said_of(const LobeSeen::Stretch& departs, const std::string& run) {
    const double um = departs.difference_m * 1e6, off_deg = std::abs(departs.cam_deg);
    return departs.cam_deg < 0
               ? fmt::format("at slow speeds {} shows another lobe than its file: {} {:+.0f} um at the cam, "
                             "{:.0f} cam degrees before the nose; gauge the lobe that is in it, or its ratio",
                             run, departs.part, um, off_deg)
               : fmt::format("at slow speeds {} shows another lobe than its file: {} {:+.0f} um at the cam, "
                             "{:.0f} cam degrees after the nose; gauge the lobe that is in it, or its ratio",
                             run, departs.part, um, off_deg);
}

} // namespace bathmos
