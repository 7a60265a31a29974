#include "core/rocker/rocker_geometry.h"

#include "core/problem/input_error.h"

#include <cmath>
#include <fmt/format.h>

namespace bathmos {

RockerLinkage::RockerLinkage(const RockerGeometry& geometry, double cup_arm_m, double tip_arm_m,
                             double pushrod_m)
    : g_(geometry), cup_arm_m_(cup_arm_m), tip_arm_m_(tip_arm_m), pushrod_m_(pushrod_m) {
    // The tip arm lies on the side of the cup arm where the tip comes nearer to touching the stem.
    const auto miss = [&](double turn) {
        turn_rad_ = turn;
        return std::abs(gap_m());
    };
    const double left = miss(g_.arms_angle_rad), right = miss(-g_.arms_angle_rad);
    turn_rad_ = left < right ? g_.arms_angle_rad : -g_.arms_angle_rad;
}

RockerLinkage::Point RockerLinkage::seat(double rise_m) const {
    return {g_.lifter_x_m + rise_m * std::cos(g_.lifter_angle_rad),
            g_.lifter_y_m + rise_m * std::sin(g_.lifter_angle_rad)};
}

// Where the circle of the cup round the pivot meets that of the pushrod round its seat; of the two places the
// one away from the valve.
RockerLinkage::Point RockerLinkage::cup(double rise_m) const {
    const Point l = seat(rise_m);
    const double d = std::hypot(l.x, l.y);
    const double along = (cup_arm_m_ * cup_arm_m_ - pushrod_m_ * pushrod_m_ + d * d) / (2 * d);
    const double square = cup_arm_m_ * cup_arm_m_ - along * along;
    if (!(square >= 0))
        throw InputError({"", "rocker.geometry",
                          fmt::format("at a lifter lift of {:.2f} mm a pushrod of {:.2f} mm and a cup arm of "
                                      "{:.2f} mm cannot meet over {:.2f} mm",
                                      rise_m * 1e3, pushrod_m_ * 1e3, cup_arm_m_ * 1e3, d * 1e3),
                          "check pushrod length, arm and the lifter's place"});
    const double across = std::sqrt(square), ux = l.x / d, uy = l.y / d;
    const Point a{along * ux - across * uy, along * uy + across * ux};
    const Point b{along * ux + across * uy, along * uy - across * ux};
    const auto toward_valve = [&](const Point& p) { return p.x * g_.valve_x_m + p.y * g_.valve_y_m; };
    return toward_valve(a) < toward_valve(b) ? a : b;
}

RockerLinkage::Point RockerLinkage::tip(double rise_m) const {
    const Point c = cup(rise_m);
    const double angle = std::atan2(c.y, c.x) + turn_rad_;
    return {tip_arm_m_ * std::cos(angle), tip_arm_m_ * std::sin(angle)};
}

double RockerLinkage::gap_m() const {
    const Point t = tip(0);
    const double dx = std::cos(g_.valve_angle_rad), dy = std::sin(g_.valve_angle_rad);
    return (g_.valve_x_m - t.x) * dx + (g_.valve_y_m - t.y) * dy - g_.tip_radius_m;
}

RockerLinkage::Place RockerLinkage::at(double rise_m) const {
    const Point here = tip(rise_m), closed = tip(0), c = cup(rise_m), l = seat(rise_m);
    const double dx = std::cos(g_.valve_angle_rad), dy = std::sin(g_.valve_angle_rad);
    Place out{};
    out.travel_m = (here.x - closed.x) * dx + (here.y - closed.y) * dy;
    const double outward = -g_.valve_x_m * dy + g_.valve_y_m * dx >= 0 ? 1 : -1;
    out.contact_offset_m = outward * (-(here.x - g_.valve_x_m) * dy + (here.y - g_.valve_y_m) * dx);
    out.pushrod_rad =
        std::remainder(std::atan2(c.y - l.y, c.x - l.x) - g_.lifter_angle_rad, 2 * std::acos(-1.0));
    return out;
}

RockerMap map_of(const RockerLinkage& linkage, double lobe_lift_m) {
    constexpr int kPoints = 65;
    const double first = -0.05 * lobe_lift_m, last = 1.25 * lobe_lift_m;
    RatioTable table;
    for (int i = 0; i < kPoints; ++i) {
        const double rise = first + (last - first) * i / (kPoints - 1);
        table.input_m.push_back(rise);
        table.output_m.push_back(linkage.at(rise).travel_m);
    }
    return RockerMap(table);
}

} // namespace bathmos
