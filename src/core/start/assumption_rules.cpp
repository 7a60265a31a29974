#include "core/start/assumption_rules.h"

#include <algorithm>
#include <iterator>

namespace bathmos {

namespace {

struct Rule {
    std::string_view key, words, act;
};

// clang-format off
constexpr Rule kRules[] = {
    {"valve.head_diameter_mm", "four times the valve's lift, where it flows its best, else usual for the layout", "measure the valve"},
    {"valve.stem_diameter_mm", "0.165 of the head's diameter; exhaust 0.19", "measure the valve"},
    {"valve.mass_g", "0.0065 g for each mm3 of head diameter squared times stem diameter, a solid steel valve; exhaust 0.008; titanium 0.6 of it", "weigh the valve"},
    {"retainer.mass_g", "0.2 of the valve's mass, as in steel", "weigh the retainer"},
    {"locks.mass_g", "0.045 of the valve's mass", "weigh the locks"},
    {"installed_height_mm", "25 mm and 0.35 of the head's diameter; loads are taken at this height, whatever it is", "measure the installed height"},
    {"springs[0].load_table", "seat load 0.28 N for each mm2 of the head, load at full lift 2.5 times as high", "press the springs at two heights"},
    {"springs[0].moving_mass_g", "the wire that stores the springs' work at a stress of 900 MPa with the valve open, or 0.68 of their mass", "weigh the springs"},
    {"springs[0].dead_mass_g", "0.32 of the springs' mass", "weigh the springs"},
    {"springs[0].solid_height_mm", "2 mm under the height at full lift", "press the springs solid"},
    {"springs[0].friction_N", "springs in each other rub with 0.04 of the seat load", "press the springs up and down"},
    {"springs[0].active_coils", "from rate, wire and diameter, with the modulus of spring steel", "press the springs at two heights"},
    {"springs[0].free_length_mm", "from seat load and rate", "press the springs at two heights"},
    {"springs[0].dead_coils", "two, as most springs have", "press the springs solid"},
    {"lobe.base_radius_mm", "16 mm", "measure the base circle"},
    {"lobe.follower.radius_mm", "usual for the layout; a flat face so large that the contact stays on it", "measure the follower"},
    {"lobe.analytic.lift_mm", "a valve lift of 0.25 of the head's diameter", "gauge the lobe"},
    {"lobe.analytic.half_duration_cam_deg", "a lobe open for 250 degrees of crank at 1.27 mm of cam lift", "gauge the lobe"},
    {"lobe.analytic.exponents.0", "a usual fullness: 6, 10, 14, 18", "gauge the lobe"},
    {"lobe.analytic.ramp_height_mm", "0.3 mm; 0.2 mm under a hydraulic follower", "gauge the lobe"},
    {"lobe.analytic.ramp_velocity_mm_per_deg", "0.012 mm a cam degree; 0.009 under a hydraulic follower", "gauge the lobe"},
    {"lifter.mass_g", "pushrod: 1.0 of a steel valve's mass; bucket: 0.8 of it", "weigh the lifter"},
    {"pushrod.length_mm", "200 mm", "measure the pushrod"},
    {"pushrod.outer_diameter_mm", "8.7 mm", "measure the pushrod"},
    {"pushrod.wall_mm", "what its mass makes it, else 1.4 mm", "measure the pushrod"},
    {"pushrod.mass_g", "a steel tube and 8 g of ends", "weigh the pushrod"},
    {"rocker.ratio", "pushrod 1.5, rocker 1.25, finger 1.6", "read the ratio with two dials"},
    {"rocker.input_arm_mm", "pushrod 24 mm, rocker 27 mm, finger 21 mm", "measure the rocker's arms"},
    {"rocker.output_arm_mm", "input arm times ratio", "measure the rocker's arms"},
    {"rocker.inertia_kg_mm2", "0.001 of the output arm cubed (mm), a finger 0.0004 of it", "time the rocker's swing, or weigh its ends"},
    {"rocker.stiffness_N_per_mm", "16 000 N/mm at the valve tip", "load the train with a dial at each part"},
    {"lash_mm", "0.25 mm; a bucket or rocker on the cam 0.15 mm", "set the lash"},
    // Estimated in every train: no rule of this page, but something to do.
    {"contacts.cam.stiffness_N_per_mm", "", "load the train with a dial at each part"},
    {"contacts.tip.stiffness_N_per_mm", "", "load the train with a dial at each part"},
    {"pushrod.end_stiffness_N_per_mm", "", "load the train with a dial at each part"},
    {"contacts.cam.damping_s_per_m", "", "fit the damping to a rig run"},
    {"contacts.tip.damping_s_per_m", "", "fit the damping to a rig run"},
    {"pushrod.damping_s", "", "fit the damping to a rig run"},
    {"friction.viscous_N_s_per_m", "", "fit the damping to a rig run"},
    {"friction.follower_N_s_per_m", "", "fit the damping to a rig run"},
    {"friction.rocker_N_s_per_m", "", "fit the damping to a rig run"},
    {"springs[0].damping_ratio", "", "fit the springs' damping to a rig run"},
};
// clang-format on

const Rule* find_rule(std::string_view key) {
    const auto* rule =
        std::find_if(std::begin(kRules), std::end(kRules), [&](const Rule& r) { return r.key == key; });
    return rule == std::end(kRules) ? nullptr : rule;
}

} // namespace

std::string_view rule_of(std::string_view key) {
    const Rule* rule = find_rule(key);
    return rule ? rule->words : std::string_view();
}

std::string_view act_of(std::string_view key) {
    const Rule* rule = find_rule(key);
    return rule ? rule->act : std::string_view();
}

} // namespace bathmos
