#include "core/bench/keyed_kinds.h"
#include "core/math/robust.h"
#include "core/train/train_figures.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::bench {

namespace {

constexpr double kOtherPart = 0.03; // off the set's middle: not the same part, or one that was lightened
constexpr double kEvenArms = 0.12;  // taken for what a rocker is off two even arms by, one deviation

struct Weighed {
    const char *key, *label, *train_key;
};
constexpr std::array kParts = {
    Weighed{"valve_g", "valve", "valve.mass_g"},    Weighed{"retainer_g", "retainer", "retainer.mass_g"},
    Weighed{"locks_g", "locks", "locks.mass_g"},    Weighed{"cap_g", "cap", "cap.mass_g"},
    Weighed{"lifter_g", "lifter", "lifter.mass_g"}, Weighed{"pushrod_g", "pushrod", "pushrod.mass_g"}};

// The scale's own zero and step, read once, count for all that lay on it.
Readings on_this_scale(const KeyedSheet& sheet, Readings readings) {
    const auto of_sheet = [&](const char* key) {
        const auto found = sheet.find(key);
        return found ? std::optional(found->value) : std::nullopt;
    };
    readings.resolution = of_sheet("resolution_mass_g").value_or(readings.resolution);
    readings.zero_before = of_sheet("zero_before_mass_g");
    readings.zero_after = of_sheet("zero_after_mass_g");
    return readings;
}

std::vector<Told> told_of_scale(const KeyedSheet& sheet, double size_kg) {
    Readings scale = readings_of({size_kg});
    return told_of_drift(on_this_scale(sheet, scale), "the scale", Quantity::Mass, size_kg, 0);
}

// Of each part, and of all that moves with the valve.
void add_energy(const KeyedSheet& sheet, const Train& train, double moving_kg, KeyedAnswer& out) {
    const auto speed = sheet.find("speed_rpm");
    if (!speed || !(speed->value > 0))
        return;
    const RigidMotion rigid(train, curve_of(train.lobe));
    double fastest = 0; // m/rad
    for (int i = -360; i <= 360; ++i)
        fastest = std::max(fastest, std::abs(rigid.velocity_m_per_rad(radians(0.5 * i))));
    const double velocity = fastest * cam_speed_rad_s(speed->value);
    const auto energy_J = [&](double mass_kg) { return 0.5 * mass_kg * velocity * velocity; };
    out.lines.push_back(fmt::format("at {:.0f} rev/min: {:.1f} openings a second, {:.2f} m/s at most, "
                                    "{:.2f} J in what moves with the valve",
                                    speed->value, speed->value / 120, velocity, energy_J(moving_kg)));
    std::string parts;
    for (const AnswerItem& item : out.items)
        if (item.name != "lifter" && item.name != "pushrod") // these are slower by the ratio
            parts += fmt::format("{}{} {:.2f} J", parts.empty() ? "" : ", ", item.name,
                                 energy_J(item.values.back().figure->value));
    out.lines.push_back("of which " + parts);
}

} // namespace

KeyedAnswer moving_mass(const KeyedSheet& sheet, const Train* train) {
    KeyedAnswer out;
    out.of_each = "parts";
    Figure moving;
    const bool zeroed = sheet.find("zero_before_mass_g") || sheet.find("zero_after_mass_g");
    // All rest on the same zeros: what these are off by adds up, and does not average out.
    const auto with = [&](const Figure& sum, const Figure& part) {
        Figure both = plus(sum, part);
        both.sd = zeroed ? sum.sd + part.sd : both.sd;
        return both;
    };
    double largest_kg = 0;
    for (const Weighed& part : kParts) {
        const auto at = sheet.fields.find(part.key);
        if (at == sheet.fields.end())
            continue;
        const Figure mass = means_of(on_this_scale(sheet, at->second)).front();
        require_between(part.key, Quantity::Mass, {mass.value}, 1e-5, 5);
        out.items.push_back({part.label, {{"mass_g", "mass", mass, Quantity::Mass}}});
        out.found.push_back({part.train_key, fmt::format("Mass of the {}", part.label), mass, Source::Scale});
        largest_kg = std::max(largest_kg, mass.value);
        if (std::string_view(part.key) != "lifter_g" && std::string_view(part.key) != "pushrod_g")
            moving = with(moving, mass);
    }
    if (out.items.empty())
        refuse("valve_g", "nothing was weighed", "weigh at least one part");
    if (const auto at = sheet.fields.find("spring_g"); at != sheet.fields.end()) {
        const Figure spring = means_of(on_this_scale(sheet, at->second)).front();
        require_between("spring_g", Quantity::Mass, {spring.value}, 1e-4, 5);
        double active = 1; // of its mass
        if (train && !train->springs.empty()) {
            const SpringStatics statics(train->springs.front());
            active = statics.active_mass_kg() / (statics.active_mass_kg() + statics.dead_mass_kg());
        }
        const double share = active / 3 + (1 - active) / 2; // rides with the retainer, physics.md 6
        out.items.push_back({"spring",
                             {{"mass_g", "mass", spring, Quantity::Mass},
                              {"moving_g", "of which moves", times(share, spring), Quantity::Mass}}});
        moving = with(moving, times(share, spring));
    }
    out.values.push_back({"moving_g", "moves with the valve", moving, Quantity::Mass});
    out.told = told_of_scale(sheet, largest_kg);
    if (train)
        add_energy(sheet, *train, moving.value, out);
    if (sheet.find("valve_g") && sheet.find("retainer_g") && sheet.find("locks_g"))
        out.closes.push_back(Check::Mass);
    return out;
}

KeyedAnswer mass_set(const KeyedSheet& sheet, const Train*) {
    if (sheet.rows.size() < 2)
        refuse("rows", "fewer than two parts", "weigh the set, one row a part");
    KeyedAnswer out;
    out.of_each = "parts";
    std::vector<Figure> masses;
    std::vector<double> values;
    for (const KeyedSheet::Row& row : sheet.rows) {
        const auto at = row.cells.find("mass_g");
        if (at == row.cells.end())
            refuse("rows.mass_g", fmt::format("is missing for \"{}\"", row.name), "weigh it");
        masses.push_back(means_of(on_this_scale(sheet, at->second)).front());
        values.push_back(masses.back().value);
    }
    require_between("rows.mass_g", Quantity::Mass, values, 1e-5, 5);
    const double middle = median(values);
    double lightest = std::numeric_limits<double>::infinity();
    for (const double value : values)
        if (std::abs(value / middle - 1) <= kOtherPart)
            lightest = std::min(lightest, value);
    const auto match = sheet.find("match_g");
    const double alike = match ? match->value : 0;
    for (std::size_t i = 0; i < values.size(); ++i) {
        const std::string& name = sheet.rows[i].name;
        const bool other = std::abs(values[i] / middle - 1) > kOtherPart;
        const double off = values[i] - lightest;
        AnswerItem item{name, {{"mass_g", "mass", masses[i], Quantity::Mass}}};
        if (other)
            out.told.push_back(
                {"other_part",
                 MeasuredText("part " + name) +
                     MeasuredText(fmt::format(" weighs {{}}, {:+.1f} % off the set's middle: another part, "
                                              "or one that was worked on; left out of the matching",
                                              100 * (values[i] / middle - 1)),
                                  {{Quantity::Mass, values[i]}})});
        else
            item.values.push_back({"take_off_g", "to take off",
                                   Figure{off > alike ? off : 0, masses[i].sd, masses[i].freedom},
                                   Quantity::Mass});
        out.items.push_back(std::move(item));
    }
    out.values.push_back({"lightest_g", "lightest",
                          Figure{lightest, masses.front().sd, masses.front().freedom}, Quantity::Mass});
    const auto more = told_of_scale(sheet, middle);
    out.told.insert(out.told.end(), more.begin(), more.end());
    return out;
}

// Two even arms that meet at the pivot, of masses that add up to the rocker's and put its centre of mass
// where the scale says: I = (m1 a1^2 + m2 a2^2) / 3.
KeyedAnswer rocker_on_scale(const KeyedSheet& sheet, const Train*) {
    const Figure mass = sheet.at("mass_g"), end = sheet.at("valve_end_g"),
                 out_arm = sheet.at("output_arm_mm"), in_arm = sheet.at("input_arm_mm");
    require_between("mass_g", Quantity::Mass, {mass.value}, 1e-3, 5);
    require_between("valve_end_g", Quantity::Mass, {end.value}, 0, mass.value);
    require_between("output_arm_mm", Quantity::Length, {out_arm.value}, 5e-3, 0.2);
    require_between("input_arm_mm", Quantity::Length, {in_arm.value}, 5e-3, 0.2);
    const double a = out_arm.value, b = in_arm.value, m = mass.value;
    const double centre = end.value * (a + b) / m - b; // from the pivot towards the valve
    const double valve_side = (2 * m * centre + m * b) / (a + b);
    if (!(valve_side > 0 && valve_side < m))
        refuse("valve_end_g", "puts the centre of mass where two arms cannot have it",
               "rest the rocker level on its two tips, and read the valve's");
    const double inertia = (valve_side * a * a + (m - valve_side) * b * b) / 3;
    KeyedAnswer out;
    const Figure found{inertia, kEvenArms * inertia};
    out.values = {{"inertia_kg_mm2", "inertia about the pivot", found, Quantity::Inertia},
                  {"centre_mm", "centre of mass from the pivot, to the valve",
                   Figure{centre, std::hypot(end.sd * (a + b) / m, mass.sd * end.value * (a + b) / m / m)},
                   Quantity::Length}};
    out.lines.emplace_back("worked out as for two even arms; ten swings tell it better");
    out.found.push_back({"rocker.inertia_kg_mm2", "Rocker inertia", found, Source::Estimate});
    return out;
}

} // namespace bathmos::bench
