#include "core/bench/keyed_kinds.h"
#include "core/train/train_figures.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::bench {

namespace {

constexpr double kYoung_Pa = 207e9, kPoisson = 0.3;
constexpr double kCardOff_deg = 1; // crank, beyond which a card is another lobe's

// Of the contour where the follower touches, m; a roller's by its pitch curve [Norton].
double contour_radius_m(const Lobe& lobe, const LobeCurve& curve, double theta_rad) {
    const double s = curve.at(theta_rad), v = curve.at(theta_rad, 1), a = curve.at(theta_rad, 2);
    if (lobe.follower == FollowerKind::Flat)
        return lobe.base_radius_m + s + a;
    const double r = lobe.base_radius_m + lobe.follower_radius_m + s;
    const double pitch = std::pow(r * r + v * v, 1.5) / (r * r + 2 * v * v - r * a);
    return pitch - lobe.follower_radius_m;
}

// Line contact of two steel cylinders [Johnson 1985, 4.3]; a hollow contour has a negative radius.
double hertz_Pa(double force_N, double length_m, double contour_m, const Lobe& lobe) {
    const double curved =
        1 / contour_m + (lobe.follower == FollowerKind::Flat ? 0 : 1 / lobe.follower_radius_m);
    const double modulus = kYoung_Pa / (2 * (1 - kPoisson * kPoisson));
    return curved > 0 && force_N > 0 ? std::sqrt(force_N * modulus * curved / (kPi * length_m)) : 0;
}

struct WheelReading {
    double angle_rad, rise_m;
};

// Where the readings cross a height on one side of the peak, straight between two of them.
std::optional<double> crossing(const std::vector<WheelReading>& readings, std::size_t peak, double height_m,
                               int step) {
    for (std::size_t i = peak; i + static_cast<std::size_t>(step) < readings.size();
         i += static_cast<std::size_t>(step)) {
        const WheelReading &inner = readings[i], &outer = readings[i + static_cast<std::size_t>(step)];
        if (inner.rise_m >= height_m && outer.rise_m < height_m)
            return inner.angle_rad + (outer.angle_rad - inner.angle_rad) * (inner.rise_m - height_m) /
                                         (inner.rise_m - outer.rise_m);
    }
    return std::nullopt;
}

// Top of the parabola through the peak reading and its neighbours.
WheelReading top_of(const std::vector<WheelReading>& readings, std::size_t peak) {
    if (peak == 0 || peak + 1 == readings.size())
        return readings[peak];
    const WheelReading &a = readings[peak - 1], &b = readings[peak], &c = readings[peak + 1];
    const double left = (b.rise_m - a.rise_m) / (b.angle_rad - a.angle_rad),
                 right = (c.rise_m - b.rise_m) / (c.angle_rad - b.angle_rad);
    const double bend = (right - left) / (c.angle_rad - a.angle_rad);
    if (!(bend < 0))
        return b;
    const double at = (a.angle_rad + b.angle_rad) / 2 - left / (2 * bend);
    const double rise = b.rise_m + left * (at - b.angle_rad) + bend * (at - a.angle_rad) * (at - b.angle_rad);
    return {at, rise};
}

} // namespace

KeyedAnswer contact_stress(const KeyedSheet& sheet, const Train* train) {
    if (!train)
        refuse("kind", "needs a train", "open the build, or name the train (--train)");
    if (!(train->lobe.base_radius_m > 0) ||
        (train->lobe.follower == FollowerKind::Roller && !(train->lobe.follower_radius_m > 0)))
        refuse("lobe.base_radius_mm", "base radius or the roller's is not known", "give them with the lobe");
    const Figure width = sheet.at("width_mm");
    require_between("width_mm", Quantity::Length, {width.value}, 1e-3, 0.05);
    const LobeCurve curve = curve_of(train->lobe);
    const RigidMotion rigid(*train, curve);
    const TrainFigures figures = figures_of(*train, rigid);
    const auto speed = sheet.find("speed_rpm");
    const double omega = speed ? cam_speed_rad_s(speed->value) : 0;
    const auto force_at = [&](double theta, double turning) {
        const double lift = rigid.lift_m(theta);
        double spring_N = 0;
        for (const Spring& spring : train->springs)
            spring_N += SpringStatics(spring).load_N(train->installed_height_m - lift);
        const double valve_N = spring_N + figures.equivalent_mass_total_kg * turning * turning *
                                              rigid.acceleration_m_per_rad2(theta);
        return std::abs(rigid.map().ratio(curve.at(theta))) * valve_N;
    };
    const double idle_Pa =
        hertz_Pa(force_at(0, 0), width.value, contour_radius_m(train->lobe, curve, 0), train->lobe);
    KeyedAnswer out;
    const auto figure = [&](double stress_Pa) {
        return Figure{stress_Pa, 0.5 * stress_Pa * width.sd / width.value};
    };
    out.values = {{"nose_N", "force on the nose at idle", Figure{force_at(0, 0), 0}, Quantity::Force},
                  {"nose_MPa", "contact stress there", figure(idle_Pa), Quantity::Stress}};
    double worst_Pa = idle_Pa;
    if (speed && speed->value > 0) {
        double at = 0, most = 0;
        for (int i = -180; i <= 180; ++i) {
            const double theta = radians(0.5 * i);
            if (rigid.lift_m(theta) <= 0)
                continue;
            const double stress = hertz_Pa(force_at(theta, omega), width.value,
                                           contour_radius_m(train->lobe, curve, theta), train->lobe);
            if (stress > most) {
                most = stress;
                at = theta;
            }
        }
        out.values.push_back({"flank_MPa", "most at speed", figure(most), Quantity::Stress});
        out.values.push_back({"flank_deg", "cam angle from the nose", Figure{at, 0}, Quantity::Angle});
        out.lines.emplace_back(
            "at speed as if the train were rigid: ringing adds to it, on the rig and in Motion");
        worst_Pa = std::max(worst_Pa, most);
    }
    if (const auto allowed = sheet.find("allowed_MPa"); allowed && worst_Pa > allowed->value)
        out.told.push_back(
            {"over",
             {"{} on the lobe, {} is allowed: less load, a wider or larger wheel, another material",
              {{Quantity::Stress, worst_Pa}, {Quantity::Stress, allowed->value}}}});
    const auto axle = sheet.find("axle_mm"), axle_width = sheet.find("axle_width_mm");
    if (axle && axle_width) {
        require_between("axle_mm", Quantity::Length, {axle->value}, 1e-3, 0.05);
        require_between("axle_width_mm", Quantity::Length, {axle_width->value}, 1e-3, 0.05);
        out.values.push_back({"axle_MPa", "on the wheel's axle, projected, at idle",
                              Figure{force_at(0, 0) / (axle->value * axle_width->value), 0},
                              Quantity::Stress});
    }
    return out;
}

KeyedAnswer degree_wheel(const KeyedSheet& sheet, const Train*) {
    std::vector<WheelReading> readings;
    for (const KeyedSheet::Row& row : sheet.rows)
        if (const auto angle = row.find("cam_deg"), rise = row.find("rise_mm"); angle && rise)
            readings.push_back({angle->value, rise->value});
    if (readings.size() < 9)
        refuse("rows", fmt::format("{} readings", readings.size()), "read a dozen or more round the lobe");
    for (std::size_t i = 1; i < readings.size(); ++i)
        if (!(readings[i].angle_rad > readings[i - 1].angle_rad))
            refuse("rows.cam_deg", fmt::format("reading {} does not go on", i + 1),
                   "turn one way only, as the engine does");
    const auto peak = static_cast<std::size_t>(std::ranges::max_element(readings, {}, &WheelReading::rise_m) -
                                               readings.begin());
    require_between("rows.rise_mm", Quantity::Length, {readings[peak].rise_m}, 1e-3, 0.03);
    const WheelReading top = top_of(readings, peak);
    KeyedAnswer out;
    out.of_each = "durations";
    out.values = {{"lift_mm", "lift", Figure{top.rise_m, 2e-6}, Quantity::Length},
                  {"nose_deg", "nose at, on the wheel", Figure{top.angle_rad, 0}, Quantity::Angle}};
    // The way down again has the same readings in turn.
    std::vector<WheelReading> back(readings.rbegin(), readings.rend());
    const auto duration = [&](double height_m) -> std::optional<double> {
        const auto closing = crossing(readings, peak, height_m, 1),
                   opening = crossing(back, readings.size() - 1 - peak, height_m, 1);
        return closing && opening ? std::optional(2 * (*closing - *opening)) : std::nullopt; // crank
    };
    for (const double height_mm : {0.15, 0.5, 1.0, 1.27, 2.0, 5.0})
        if (const auto long_rad = duration(height_mm * 1e-3))
            out.items.push_back({fmt::format("at {:g} mm", height_mm),
                                 {{"duration_deg", "crank", Figure{*long_rad, 0}, Quantity::Angle}}});
    const auto at = sheet.find("card_height_mm"), claim = sheet.find("card_duration_deg"),
               lift = sheet.find("card_lift_mm");
    if (lift && std::abs(lift->value - top.rise_m) > 0.1e-3)
        out.told.push_back({"card_lift",
                            {"the card says {} of lift, the dial {}",
                             {{Quantity::Length, lift->value}, {Quantity::Length, top.rise_m}}}});
    if (claim && !at)
        out.told.push_back(
            {"not_comparable", MeasuredText("the card's duration has no height: it is not comparable")});
    else if (claim)
        if (const auto measured = duration(at->value)) {
            const double off = degrees(*measured - claim->value);
            out.values.push_back(
                {"card_off_deg", "longer than its card says", Figure{radians(off), 0}, Quantity::Angle});
            if (std::abs(off) > kCardOff_deg)
                out.told.push_back({"card_duration",
                                    {"the card says {} at {}, the dial {}",
                                     {{Quantity::Angle, claim->value},
                                      {Quantity::Length, at->value},
                                      {Quantity::Angle, *measured}}}});
        }
    return out;
}

} // namespace bathmos::bench
