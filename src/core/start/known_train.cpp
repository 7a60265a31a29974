#include "core/start/known_train.h"

#include "core/train/train_fields.h"

#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

using Q = Quantity;

// clang-format off
constexpr StartField kValve[] = {
    {"valve.head_diameter_mm", "valve", "Head diameter", Q::Length, "Other numbers of the valve are guessed from it."},
    {"valve.stem_diameter_mm", "valve", "Stem diameter", Q::Length, ""},
    {"valve.mass_g", "valve", "Valve mass", Q::Mass, "On a kitchen scale is far better than assumed."},
    {"retainer.mass_g", "valve", "Retainer mass", Q::Mass, ""},
    {"locks.mass_g", "valve", "Locks mass, both halves", Q::Mass, ""},
};
constexpr StartField kSpring[] = {
    {"installed_height_mm", "spring", "Installed height", Q::Length, "With the valve closed."},
    {"spring.seat_load_N", "spring", "Seat load", Q::Force, "All springs of the valve together, at the installed height."},
    {"spring.open_load_N", "spring", "Load at full lift", Q::Force, "All springs together, with the valve fully open."},
    {"spring.rate_N_per_mm", "spring", "Rate", Q::Stiffness, "In place of the load at full lift."},
    {"spring.solid_height_mm", "spring", "Solid height", Q::Length, "Of the spring that goes solid first."},
    {"spring.mass_g", "spring", "Springs' mass", Q::Mass, "All springs of the valve together on the scale."},
    {"spring.wire_mm", "spring", "Wire", Q::Length, "One round-wire spring only: with the outer diameter it gives the spring's own motion."},
    {"spring.outer_diameter_mm", "spring", "Outer diameter", Q::Length, "One round-wire spring only."},
};
constexpr StartField kEngine[] = {
    {"engine.target_rpm", "engine", "Target speed", Q::Count, "The speed that the engine shall reach, rev/min."},
};
constexpr StartField kRatio = {"rocker.ratio", "drive", "Rocker ratio", Q::Count, "Valve-tip travel per lifter-side travel."};
constexpr StartField kInputArm = {"rocker.input_arm_mm", "drive", "Input arm", Q::Length, "Pivot to cup, or to the cam's contact."};
constexpr StartField kInertia = {"rocker.inertia_kg_mm2", "drive", "Rocker inertia", Q::Inertia, "About its pivot."};
constexpr StartField kLifter = {"lifter.mass_g", "drive", "Lifter mass", Q::Mass, "Lifter or bucket."};
constexpr StartField kRod[] = {
    {"pushrod.length_mm", "drive", "Pushrod length", Q::Length, ""},
    {"pushrod.outer_diameter_mm", "drive", "Pushrod diameter", Q::Length, ""},
    {"pushrod.wall_mm", "drive", "Pushrod wall", Q::Length, ""},
    {"pushrod.mass_g", "drive", "Pushrod mass", Q::Mass, ""},
};
constexpr StartField kLash = {"lash_mm", "drive", "Lash", Q::Length, "At the valve tip, cold."};
constexpr StartField kBase = {"lobe.base_radius_mm", "lobe", "Base circle radius", Q::Length, ""};
constexpr StartField kFollower = {"lobe.follower.radius_mm", "lobe", "Follower radius", Q::Length, "Of the roller, or of a flat face."};

struct OwnRange { std::string_view key; double maximum; };
constexpr OwnRange kOwn[] = {
    {"spring.seat_load_N", 1e4}, {"spring.open_load_N", 2e4}, {"spring.rate_N_per_mm", 1000},
    {"spring.solid_height_mm", 300}, {"spring.mass_g", 5000}, {"spring.wire_mm", 30},
    {"spring.outer_diameter_mm", 200}, {"engine.target_rpm", 30000},
};
// clang-format on

} // namespace

std::optional<double> KnownTrain::number(std::string_view key) const {
    const auto at = numbers.find(key);
    return at == numbers.end() ? std::nullopt : std::optional(at->second);
}

std::vector<StartField> start_fields(Layout layout, bool hydraulic) {
    std::vector<StartField> out(std::begin(kValve), std::end(kValve));
    out.insert(out.end(), std::begin(kSpring), std::end(kSpring));
    out.insert(out.end(), {kBase, kFollower});
    if (layout == Layout::Pushrod || layout == Layout::Bucket)
        out.push_back(kLifter);
    if (layout == Layout::Pushrod)
        out.insert(out.end(), std::begin(kRod), std::end(kRod));
    if (layout != Layout::Bucket)
        out.insert(out.end(), {kRatio, kInputArm, kInertia});
    if (!hydraulic)
        out.push_back(kLash);
    out.insert(out.end(), std::begin(kEngine), std::end(kEngine));
    return out;
}

std::string start_complaint(std::string_view key, double value) {
    if (const TrainField* field = find_train_field(key))
        return field->complaint(value);
    for (const OwnRange& own : kOwn)
        if (own.key == key) {
            if (!std::isfinite(value) || !(value > 0))
                return "must be above 0";
            return value > own.maximum ? fmt::format("must be at most {:g}", own.maximum) : std::string();
        }
    return "is no number that this page asks for";
}

} // namespace bathmos
