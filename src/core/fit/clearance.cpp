#include "core/fit/clearance.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace bathmos {

namespace {

constexpr double kStep_deg = 0.5, kOpen_m = 1e-6;

// Crank angle of a valve from its nose, for an angle from overlap's dead centre; in -360..360.
double from_nose_deg(const Build& build, double crank_deg) {
    const double line = degrees(build.centreline_rad);
    return std::remainder(build.side == ValveSide::Intake ? crank_deg - line : crank_deg + line, 720.0);
}

struct Point {
    double x, y;
};
struct Segment {
    Point a, b;
};

double distance(Point p, const Segment& s) {
    const double dx = s.b.x - s.a.x, dy = s.b.y - s.a.y;
    const double t = std::clamp(((p.x - s.a.x) * dx + (p.y - s.a.y) * dy) / (dx * dx + dy * dy), 0.0, 1.0);
    return std::hypot(p.x - s.a.x - t * dx, p.y - s.a.y - t * dy);
}

double side_of(const Segment& s, Point p) {
    return (s.b.x - s.a.x) * (p.y - s.a.y) - (s.b.y - s.a.y) * (p.x - s.a.x);
}

double distance(const Segment& s, const Segment& t) {
    const bool cross = side_of(s, t.a) * side_of(s, t.b) < 0 && side_of(t, s.a) * side_of(t, s.b) < 0;
    if (cross)
        return 0;
    return std::min({distance(s.a, t), distance(s.b, t), distance(t.a, s), distance(t.b, s)});
}

// A head seen edge on. It stands at x on the deck when closed and opens downward along its axis, leaning
// towards the other valve by its angle.
Segment head(double x, double toward, double angle_rad, double diameter_m, double lift_m) {
    const Point middle{x + toward * lift_m * std::sin(angle_rad), -lift_m * std::cos(angle_rad)};
    const double dx = 0.5 * diameter_m * std::cos(angle_rad), dy = 0.5 * diameter_m * std::sin(angle_rad);
    return {{middle.x - dx, middle.y - toward * dy}, {middle.x + dx, middle.y + toward * dy}};
}

template <class Gap>
Clearance least_over_a_cycle(Gap gap) {
    Clearance out{std::numeric_limits<double>::infinity(), 0};
    for (double crank = -360; crank < 360; crank += kStep_deg)
        if (const double g = gap(crank); g < out.least_m)
            out = {g, crank};
    return out;
}

} // namespace

LiftOf rigid_lift(const RigidMotion& rigid) {
    return [&rigid](double crank_deg) { return rigid.lift_m(radians(crank_deg / 2)); };
}

LiftOf computed_lift(const Motion& motion) {
    return [&motion](double crank_deg) {
        double lift = lift_at(motion, crank_deg);
        for (const std::vector<double>& cycle : motion.cloud_m)
            lift = std::max(lift, channel_at(cycle, crank_deg));
        return lift;
    };
}

double piston_drop_m(const Engine& engine, double crank_rad) {
    const double crank = engine.stroke_m / 2, rod = engine.rod_m, s = crank * std::sin(crank_rad);
    return crank + rod - crank * std::cos(crank_rad) - std::sqrt(rod * rod - s * s);
}

std::optional<Clearance> piston_clearance(const Engine& engine, const Build& build, const LiftOf& lift) {
    const bool intake = build.side == ValveSide::Intake;
    const double drop = intake ? engine.intake_drop_m : engine.exhaust_drop_m;
    const double angle = intake ? engine.intake_angle_rad : engine.exhaust_angle_rad;
    if (engine.stroke_m <= 0 || engine.rod_m <= engine.stroke_m / 2 || drop <= 0 || build.centreline_rad <= 0)
        return std::nullopt;
    return least_over_a_cycle([&](double crank_deg) {
        const double y = lift(from_nose_deg(build, crank_deg));
        if (y <= kOpen_m)
            return std::numeric_limits<double>::infinity();
        return drop + piston_drop_m(engine, radians(crank_deg)) * std::cos(angle) - y;
    });
}

std::optional<Clearance> valve_clearance(const Engine& engine, const Build& intake, double intake_head_m,
                                         const LiftOf& intake_lift, const Build& exhaust,
                                         double exhaust_head_m, const LiftOf& exhaust_lift) {
    if (engine.heads_apart_m <= 0 || intake.centreline_rad <= 0 || exhaust.centreline_rad <= 0)
        return std::nullopt;
    return least_over_a_cycle([&](double crank_deg) {
        const double in = std::max(0.0, intake_lift(from_nose_deg(intake, crank_deg)));
        const double ex = std::max(0.0, exhaust_lift(from_nose_deg(exhaust, crank_deg)));
        return distance(head(0, 1, engine.intake_angle_rad, intake_head_m, in),
                        head(engine.heads_apart_m, -1, engine.exhaust_angle_rad, exhaust_head_m, ex));
    });
}

} // namespace bathmos
