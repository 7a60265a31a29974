#include "core/train/train_starter.h"

#include "core/units/units.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

Spring starter_spring() {
    Spring spring;
    spring.name = "single";
    CoilGeometry coil;
    coil.wire_m = 4.6e-3;
    coil.mean_diameter_m = {31e-3};
    coil.active_coils = 4.2;
    coil.dead_coils = 2;
    coil.free_length_m = 56e-3;
    spring.kind = coil;
    return spring;
}

Spring starter_table_spring(double installed_height_m) {
    Spring spring;
    spring.name = "measured";
    LoadTable table;
    const double h = installed_height_m;
    table.height_m = {h - 14e-3, h - 7e-3, h, h + 3e-3};
    table.load_N = {960, 680, 400, 280};
    table.moving_mass_kg = 0.06;
    table.solid_height_m = h - 16e-3;
    spring.kind = table;
    return spring;
}

Train starter_train() {
    Train t;
    t.name = "New train";
    t.lobe.name = "New lobe";
    t.lobe.base_radius_m = 17e-3;
    t.lobe.follower_radius_m = 9.5e-3;
    AnalyticLobe lobe;
    lobe.half_duration_rad = radians(80);
    lobe.lift_m = 8e-3;
    lobe.ramp_height_m = 0.3e-3;
    lobe.ramp_velocity_m_per_rad = 0.012e-3 / radians(1);
    t.lobe.shape = lobe;
    t.lash_m = 0.3e-3;
    t.valve = {0.09, 42e-3, 7e-3};
    t.retainer_mass_kg = 0.018;
    t.locks_mass_kg = 0.004;
    t.locks_angle_rad = radians(7);
    t.springs = {starter_spring()};
    t.installed_height_m = 43e-3;
    return with_layout(t, Layout::Pushrod);
}

Train with_layout(Train t, Layout layout) {
    t.layout = layout;
    const bool pushrod = layout == Layout::Pushrod, bucket = layout == Layout::Bucket;
    if (pushrod || bucket) {
        if (!t.lifter)
            t.lifter = Lifter{bucket ? 0.05 : 0.09, std::nullopt};
    } else {
        t.lifter.reset();
    }
    if (!pushrod)
        t.pushrod.reset();
    else if (!t.pushrod)
        t.pushrod = Pushrod{0.055, 0.2, 9.5e-3, 1.2e-3, 205e9, 100e6, 1e-5, std::nullopt};
    if (bucket)
        t.rocker.reset();
    else if (!t.rocker)
        t.rocker = Rocker{1.5, 60e-6, 24e-3, 36e-3, 18e6};
    if (!pushrod && t.rocker && std::holds_alternative<RockerGeometry>(t.rocker->ratio))
        t.rocker->ratio = t.rocker->output_arm_m / t.rocker->input_arm_m; // a geometry needs a pushrod
    if (bucket && !(t.contacts.tip_stiffness_N_per_m > 0))
        t.contacts.tip_stiffness_N_per_m = 60e6;
    return t;
}

HydraulicFollower usual_hydraulic(Layout layout) {
    const bool adjuster = layout == Layout::Finger;
    HydraulicFollower h;
    h.plunger_diameter_m = adjuster ? 11e-3 : 16e-3;
    h.chamber_volume_m3 = adjuster ? 180e-9 : 1000e-9;
    h.travel_m = adjuster ? 3e-3 : 4e-3;
    h.preload_m = 0.5 * h.travel_m;
    h.supply_Pa = adjuster ? 180e3 : 400e3;
    h.leak_m3_per_s_per_Pa = 0.03e-12;
    h.check_area_m2 = adjuster ? 2e-6 : 8e-6;
    h.bulk_modulus_Pa = 1.5e9;
    h.air_fraction = 0.02;
    h.oil_density_kg_m3 = 850;
    h.plunger_mass_kg = adjuster ? 0.012 : 0.02;
    h.plunger_spring_N = adjuster ? 12 : 30;
    return h;
}

RockerGeometry usual_geometry(const Train& train) {
    constexpr double kTipRadius_m = 6e-3, kHalfLift_m = 4e-3;
    const double cup = train.rocker->input_arm_m, tip = train.rocker->output_arm_m;
    const double turn = std::asin(std::min(0.5, kHalfLift_m / cup)); // up at the valve, closed
    RockerGeometry g;
    g.arms_angle_rad = kPi;
    g.tip_radius_m = kTipRadius_m;
    g.lifter_x_m = -cup * std::cos(turn);
    g.lifter_y_m = -cup * std::sin(turn) - train.pushrod->length_m;
    g.lifter_angle_rad = kPi / 2;
    g.valve_x_m = tip * std::cos(turn);
    g.valve_y_m = tip * std::sin(turn) - kTipRadius_m - train.effective_lash_m();
    g.valve_angle_rad = -kPi / 2;
    return g;
}

std::vector<double> usual_pitches(const CoilGeometry& coil) {
    const double wire = axial_wire_m(coil);
    const double mean = (coil.free_length_m - wire * coil.dead_coils) / coil.active_coils;
    const double swing = 0.2 * (mean - wire);
    return {mean - swing, mean, mean + swing};
}

} // namespace bathmos
