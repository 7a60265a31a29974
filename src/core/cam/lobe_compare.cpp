#include "core/cam/lobe_compare.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr std::size_t kComparePoints = 3600; // a tenth of a cam degree
constexpr double kRampShare = 0.05;          // of the flank's peak acceleration: where the ramp ends
constexpr double kFlankShare = 0.25;         // of it: where the flank has surely begun
constexpr double kMattersShare = 0.1;        // of the lobe's largest figure of that order
constexpr double kMostFactor = 10;           // more is told as "over"
constexpr double kEventRise_m = 0.02e-3;     // under that is base circle and its noise

struct Kind {
    const char* key;
    const char* label;
    int order;
    double sign;   // of the derivative on the opening side; 0: either
    bool mirrored; // the sign turns on the closing side
};
constexpr Kind kComparedKinds[] = {{"velocity", "velocity", 1, 1, true},
                                   {"acceleration", "flank acceleration", 2, 1, false},
                                   {"deceleration", "nose deceleration", 2, -1, false},
                                   {"jerk", "jerk", 3, 0, false}};

LobeFigure peak(const LobeMotion& motion, const LobeSamples& s, const Kind& kind, bool closing, bool low) {
    LobeFigure out;
    out.key = fmt::format("{}_{}{}", closing ? "closing" : "opening", low ? "low_" : "", kind.key);
    out.label = fmt::format("{} {}{}", closing ? "Closing" : "Opening", kind.label, low ? ", low" : "");
    out.order = kind.order;
    out.closing = closing;
    const double sign = kind.sign * (closing && kind.mirrored ? -1 : 1);
    for (std::size_t i = 0; i < s.theta_rad.size(); ++i) {
        const double rise = s.value[0][i];
        if ((s.theta_rad[i] > 0) != closing || rise < kEventRise_m || (low && rise > kLowRise_m))
            continue;
        const double d = s.value[static_cast<std::size_t>(kind.order)][i];
        const double value = sign == 0 ? std::abs(d) : sign * d;
        if (value > out.value) {
            out.value = value;
            out.theta_rad = s.theta_rad[i];
            out.cam_lift_m = rise;
        }
    }
    if (out.value > 0)
        out.sd = motion.standard_deviation(out.theta_rad, kind.order);
    return out;
}

// The top of the ramp: coming in from the base circle, where the flank's acceleration has set in, and from
// there back out to where it had not.
void add_ramp(const LobeMotion& motion, bool closing, std::vector<LobeFigure>& out) {
    const std::string side = closing ? "closing" : "opening", label = closing ? "Closing" : "Opening";
    const auto flank = std::find_if(out.begin(), out.end(),
                                    [&](const LobeFigure& f) { return f.key == side + "_acceleration"; });
    const double outward = (closing ? 1 : -1) * radians(0.05);
    double theta = closing ? kPi : -kPi;
    while (std::abs(theta) > std::abs(flank->theta_rad) && motion.at(theta, 2) < kFlankShare * flank->value)
        theta -= outward;
    while (std::abs(theta) < kPi && motion.at(theta, 2) > kRampShare * flank->value)
        theta += outward;
    const double rise = motion.at(theta);
    out.push_back({side + "_ramp_height", label + " ramp height", 0, closing, rise, theta, rise, 0});
    out.push_back({side + "_ramp_velocity", label + " ramp velocity", 1, closing,
                   std::abs(motion.at(theta, 1)), theta, rise, motion.standard_deviation(theta, 1)});
}

// What the follower does there, as people say it: towards the seat, positive acceleration is braking.
const char* verb(const LobeFigure& figure) {
    if (figure.key.ends_with("deceleration"))
        return figure.closing ? "pulls away downward {} times as hard" : "decelerates {} times as hard";
    if (figure.key.ends_with("acceleration"))
        return figure.closing ? "decelerates {} times as hard" : "accelerates {} times as hard";
    if (figure.key.ends_with("ramp_velocity"))
        return "runs {} times as fast on its ramp,";
    if (figure.key.ends_with("ramp_height"))
        return "has {} times the ramp height,";
    if (figure.key.ends_with("velocity"))
        return "moves {} times as fast";
    return "has {} times the jerk";
}

std::string times(double factor) {
    return factor < kMostFactor ? fmt::format("{:.1f}", factor) : fmt::format("over {:.0f}", kMostFactor);
}

} // namespace

std::vector<LobeFigure> lobe_figures(const LobeMotion& motion) {
    const LobeSamples samples = samples_of(motion, kComparePoints, false);
    std::vector<LobeFigure> out;
    for (const bool closing : {false, true})
        for (const bool low : {false, true})
            for (const Kind& kind : kComparedKinds)
                out.push_back(peak(motion, samples, kind, closing, low));
    for (const bool closing : {false, true})
        add_ramp(motion, closing, out);
    LobeFigure area{"area", "Area under lift", 0, false, 0, 0, 0, 0};
    for (const double rise : samples.value[0])
        area.value += rise * 2 * kPi / static_cast<double>(kComparePoints);
    out.push_back(area);
    const auto value = [&](const char* key) {
        return std::find_if(out.begin(), out.end(), [&](const LobeFigure& f) { return f.key == key; })->value;
    };
    const double opening = value("opening_acceleration"), closing = value("closing_acceleration");
    out.push_back({"asymmetry", "Opening to closing acceleration", 0, false,
                   closing > 0 ? opening / closing : 0, 0, 0, 0});
    return out;
}

std::vector<LobeFlag> lobe_flags(const std::vector<std::vector<LobeFigure>>& figures) {
    std::vector<LobeFlag> out;
    std::vector<std::array<double, 4>> largest(figures.size());
    for (std::size_t l = 0; l < figures.size(); ++l)
        for (const LobeFigure& f : figures[l])
            if (f.order > 0)
                largest[l][static_cast<std::size_t>(f.order)] =
                    std::max(largest[l][static_cast<std::size_t>(f.order)], f.value);
    for (std::size_t a = 0; a < figures.size(); ++a)
        for (std::size_t b = 0; b < figures.size(); ++b)
            for (std::size_t i = 0; i < figures[a].size(); ++i) {
                const LobeFigure &hard = figures[a][i], &soft = figures[b][i];
                const bool height = hard.key.ends_with("ramp_height");
                if ((hard.order == 0 && !height) || !(hard.value > kFlagFactor * soft.value) ||
                    hard.value - soft.value < 2 * std::hypot(hard.sd, soft.sd))
                    continue;
                // A low figure that is the whole side's too is told once.
                const bool low = hard.key.find("_low_") != std::string::npos;
                if (low && i >= 4 && figures[a][i - 4].theta_rad == hard.theta_rad &&
                    figures[b][i - 4].theta_rad == soft.theta_rad)
                    continue;
                const double matter = largest[a][static_cast<std::size_t>(hard.order)] * kMattersShare;
                if (!hard.key.ends_with("ramp_velocity") && hard.value < matter)
                    continue;
                const double factor = hard.value / std::max(soft.value, hard.value / kMostFactor);
                LobeFlag flag{a, b, hard, factor, {}};
                flag.what = fmt::format(fmt::runtime(verb(hard)), times(factor)) + " at {} on the " +
                            (hard.closing ? "closing" : "opening") + " side";
                out.push_back(std::move(flag));
            }
    std::stable_sort(out.begin(), out.end(),
                     [](const LobeFlag& a, const LobeFlag& b) { return a.factor > b.factor; });
    return out;
}

double alignment_rad(const LobeMotion& motion, Alignment alignment, double height_m) {
    if (alignment == Alignment::Nose)
        return 0;
    const auto c = crossings_at([&](double theta) { return motion.at(theta); }, height_m);
    if (!c)
        return 0;
    return alignment == Alignment::Height ? c->opening_rad : 0.5 * (c->opening_rad + c->closing_rad);
}

} // namespace bathmos
