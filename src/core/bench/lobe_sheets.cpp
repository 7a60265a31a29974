#include "core/bench/keyed_kinds.h"
#include "core/math/cubic_curve.h"
#include "core/train/train_figures.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <functional>

namespace bathmos::bench {

namespace {

constexpr double kYoung_Pa = 207e9, kPoisson = 0.3;
constexpr double kCardOff_rad = kPi / 180; // of the crank, beyond which a card is another lobe's
constexpr double kCardLiftOff_m = 0.1e-3;
constexpr double kHeights_m[] = {0.15e-3, 0.5e-3, 1.0e-3, 1.27e-3, 2.0e-3, 5.0e-3};
constexpr std::size_t kLeastReadings = 9;
constexpr int kHalvings = 50;

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

// A lobe as it was read: a smooth curve through the readings that bends nowhere else, and what one is off by.
struct ReadLobe {
    std::vector<WheelReading> readings;
    CubicCurve curve;
    double rise_sd_m = 0, angle_sd_rad = 0; ///< of the instruments; 0: not known
};

// Where it crosses a height beyond the peak, towards one end: step 1 or -1.
std::optional<Figure> crossing(const ReadLobe& lobe, std::size_t peak, double height_m, int step) {
    const auto last = static_cast<std::ptrdiff_t>(lobe.readings.size()) - 1;
    for (auto i = static_cast<std::ptrdiff_t>(peak); i + step >= 0 && i + step <= last; i += step) {
        const WheelReading &inner = lobe.readings[static_cast<std::size_t>(i)],
                           &outer = lobe.readings[static_cast<std::size_t>(i + step)];
        if (inner.rise_m < height_m || outer.rise_m >= height_m)
            continue;
        double high = inner.angle_rad, low = outer.angle_rad; // by its rise
        for (int halving = 0; halving < kHalvings; ++halving)
            (lobe.curve.value((high + low) / 2) >= height_m ? high : low) = (high + low) / 2;
        const double slope = std::abs(lobe.curve.slope(low));
        return Figure{low, std::hypot(slope > 0 ? lobe.rise_sd_m / slope : 0, lobe.angle_sd_rad)};
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
        const double spring_N = load_of(train->springs, train->installed_height_m - lift);
        const double valve_N = spring_N + figures.equivalent_mass_total_kg * turning * turning *
                                              rigid.acceleration_m_per_rad2(theta);
        return std::abs(rigid.map().ratio(curve.at(theta))) * valve_N;
    };
    const double idle_Pa =
        hertz_Pa(force_at(0, 0), width.value, contour_radius_m(train->lobe, curve, 0), train->lobe);
    KeyedAnswer out;
    out.lines.emplace_back("for steel on steel");
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

namespace {

ReadLobe read_lobe(const KeyedSheet& sheet) {
    ReadLobe out;
    std::vector<double> angle, rise;
    for (const KeyedSheet::Row& row : sheet.rows)
        if (const auto at = row.find("cam_deg"), risen = row.find("rise_mm"); at && risen) {
            out.readings.push_back({at->value, risen->value});
            angle.push_back(at->value);
            rise.push_back(risen->value);
        }
    if (angle.size() < kLeastReadings)
        refuse("rows", fmt::format("{} readings", angle.size()), "read a dozen or more round the lobe");
    for (std::size_t i = 1; i < angle.size(); ++i)
        if (!(angle[i] > angle[i - 1]))
            refuse("rows.cam_deg", fmt::format("reading {} does not go on", i + 1),
                   "turn one way only, as the engine does");
    require_between("rows.rise_mm", Quantity::Length, {*std::ranges::max_element(rise)}, 1e-3, 0.03);
    out.curve = CubicCurve::monotone(std::move(angle), std::move(rise));
    const auto own = [&](const char* key) { // of one reading, by the instrument's smallest step
        Readings instrument;
        instrument.resolution = sheet.find(key).value_or(Figure{}).value;
        return instrument.own_sd();
    };
    out.rise_sd_m = own("resolution_rise_mm");
    out.angle_sd_rad = own("resolution_cam_deg");
    return out;
}

// What the card says against what was read, at its own height alone.
void hold_against_card(const KeyedSheet& sheet, const Figure& lift,
                       const std::function<std::optional<Figure>(double)>& duration, KeyedAnswer& out) {
    const auto at = sheet.find("card_height_mm"), claim = sheet.find("card_duration_deg"),
               claimed_lift = sheet.find("card_lift_mm");
    if (claimed_lift && std::abs(claimed_lift->value - lift.value) > kCardLiftOff_m)
        out.told.push_back({"card_lift",
                            {"the card says {} of lift, the dial {}",
                             {{Quantity::Length, claimed_lift->value}, {Quantity::Length, lift.value}}}});
    if (!claim)
        return;
    if (!at) {
        out.told.push_back(
            {"not_comparable", MeasuredText("the card's duration has no height: it is not comparable")});
        return;
    }
    const auto measured = duration(at->value);
    if (!measured)
        return;
    const Figure off = minus(*measured, {claim->value, 0});
    out.values.push_back({"card_off_deg", "longer than its card says", off, Quantity::Angle});
    if (std::abs(off.value) > kCardOff_rad)
        out.told.push_back({"card_duration",
                            {"the card says {} at {}, the dial {}",
                             {{Quantity::Angle, claim->value},
                              {Quantity::Length, at->value},
                              {Quantity::Angle, measured->value}}}});
}

} // namespace

KeyedAnswer degree_wheel(const KeyedSheet& sheet, const Train*) {
    const ReadLobe lobe = read_lobe(sheet);
    const auto peak = static_cast<std::size_t>(
        std::ranges::max_element(lobe.readings, {}, &WheelReading::rise_m) - lobe.readings.begin());
    const WheelReading top = top_of(lobe.readings, peak);
    const Figure lift{top.rise_m, lobe.rise_sd_m};
    KeyedAnswer out;
    out.of_each = "durations";
    out.values = {
        {"lift_mm", "lift", lift, Quantity::Length},
        {"nose_deg", "nose at, on the wheel", Figure{top.angle_rad, lobe.angle_sd_rad}, Quantity::Angle}};
    const auto duration = [&](double height_m) -> std::optional<Figure> { // of the crank
        const auto closing = crossing(lobe, peak, height_m, 1), opening = crossing(lobe, peak, height_m, -1);
        return closing && opening ? std::optional(times(2, minus(*closing, *opening))) : std::nullopt;
    };
    for (const double height_m : kHeights_m)
        if (const auto long_rad = duration(height_m))
            out.items.push_back({fmt::format("at {:g} mm", 1e3 * height_m),
                                 {{"duration_deg", "crank", *long_rad, Quantity::Angle}}});
    hold_against_card(sheet, lift, duration, out);
    return out;
}

} // namespace bathmos::bench
