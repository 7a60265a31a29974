#include "core/cam/cutting.h"

#include "core/problem/input_error.h"
#include "core/units/units.h"

#include <cmath>
#include <limits>

namespace bathmos {

namespace {

constexpr int kCutPoints = 3600;
constexpr double kFaceEdge_m = 0.5e-3;        // of the face that should be left outside the contact
constexpr double kSharp_m = 2e-3;             // convex radius under which contact pressure wears the nose
constexpr double kSteep_rad = 30 * kPi / 180; // pressure angle over which a guided roller is pushed sideways

void keep_larger(Worst& worst, double value, double theta, double rise) {
    if (value > worst.value)
        worst = {value, theta, rise};
}
void keep_smaller(Worst& worst, double value, double theta, double rise) {
    if (value < worst.value)
        worst = {value, theta, rise};
}

} // namespace

Cutting cutting_of(const Lobe& lobe, const LobeCurve& curve) {
    if (!(lobe.base_radius_m > 0))
        throw InputError({"", "lobe.base_radius_mm", "the base radius is not known",
                          "measure the base circle and type half its diameter"});
    const bool roller = lobe.follower == FollowerKind::Roller;
    if (roller && !(lobe.follower_radius_m > 0))
        throw InputError({"", "lobe.follower.radius_mm", "the roller's radius is not known",
                          "measure the roller and type half its diameter"});
    Cutting out;
    out.follower = lobe.follower;
    out.least_convex_m.value = std::numeric_limits<double>::infinity();
    Worst concave{std::numeric_limits<double>::infinity(), 0, 0};
    for (int i = 0; i < kCutPoints; ++i) {
        const double theta = -kPi + 2 * kPi * i / kCutPoints;
        const double s = curve.at(theta), v = curve.at(theta, 1), a = curve.at(theta, 2);
        if (!roller) {
            keep_larger(out.opening_offset_m, v, theta, s);
            keep_larger(out.closing_offset_m, -v, theta, s);
            keep_smaller(out.least_convex_m, lobe.base_radius_m + s + a, theta, s);
            continue;
        }
        const double r = lobe.base_radius_m + lobe.follower_radius_m + s;
        const double angle = std::atan(v / r);
        keep_larger(out.opening_pressure_rad, angle, theta, s);
        keep_larger(out.closing_pressure_rad, -angle, theta, s);
        // radius of the path of the roller's centre; the contour lies a roller's radius inside it
        const double bend = r * r + 2 * v * v - r * a;
        const double pitch = std::pow(r * r + v * v, 1.5) / bend;
        if (bend > 0)
            keep_smaller(out.least_convex_m, pitch - lobe.follower_radius_m, theta, s);
        else if (bend < 0)
            keep_smaller(concave, -pitch + lobe.follower_radius_m, theta, s);
    }
    if (std::isfinite(concave.value))
        out.least_concave_m = concave;
    out.swept_width_m = out.opening_offset_m.value + out.closing_offset_m.value;
    return out;
}

std::vector<Finding> cutting_findings(const Lobe& lobe, const Cutting& cutting,
                                      std::optional<FollowerKind> cut_for, double wheel_m) {
    using S = Severity;
    std::vector<Finding> out;
    const auto add = [&](S severity, const char* part, const char* text, const char* reason,
                         Quantity quantity, double value, double limit) {
        out.push_back({severity, part, text, reason, quantity, value, limit, "cutting"});
    };
    if (cut_for && *cut_for != lobe.follower)
        add(S::Stop, "lobe",
            *cut_for == FollowerKind::Flat ? "cut for a flat follower, but a roller runs on it"
                                           : "cut for a roller, but a flat follower runs on it",
            "the motion is another one than gauged, and contact runs off the face or undercuts",
            Quantity::Count, 0, 0);
    const double radius = cutting.least_convex_m.value;
    if (radius <= 0)
        add(S::Stop, "lobe", "undercut: the least convex radius is {}",
            "no contour gives this motion under this follower [Norton]", Quantity::Length, radius, 0);
    else if (radius < kSharp_m)
        add(S::Warn, "lobe", "sharp: the least convex radius is {}",
            "under about {} contact pressure wears the nose (trade practice)", Quantity::Length, radius,
            kSharp_m);
    if (lobe.follower == FollowerKind::Flat) {
        const double offset = std::max(cutting.opening_offset_m.value, cutting.closing_offset_m.value);
        const double face = lobe.follower_radius_m;
        if (face > 0 && offset > face)
            add(S::Stop, "lobe.follower.radius_mm", "contact runs {} from the axis, off the face",
                "the face ends at {}; its edge then digs into the lobe", Quantity::Length, offset, face);
        else if (face > 0 && offset > face - kFaceEdge_m)
            add(S::Warn, "lobe.follower.radius_mm",
                "contact runs {} from the axis, near the edge of the face",
                "less than half a millimetre of the face's {} is left", Quantity::Length, offset, face);
        return out;
    }
    const double steep = std::max(cutting.opening_pressure_rad.value, cutting.closing_pressure_rad.value);
    if (steep > kSteep_rad)
        add(S::Warn, "lobe", "the pressure angle reaches {}",
            "over about {} the roller is pushed sideways in its bore (trade practice)", Quantity::Angle,
            steep, kSteep_rad);
    if (cutting.least_concave_m) {
        const double largest = 2 * cutting.least_concave_m->value;
        if (wheel_m > largest)
            add(S::Stop, "lobe", "the hollow flank takes a wheel of {} at most",
                "a wheel of {} cuts the flank away at both ends of the hollow", Quantity::Length, largest,
                wheel_m);
        else if (wheel_m <= 0)
            add(S::Note, "lobe", "the flank is hollow: a wheel of {} at most grinds it",
                "ask the grinder which wheel is fitted", Quantity::Length, largest, 0);
    }
    return out;
}

} // namespace bathmos
