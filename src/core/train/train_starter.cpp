#include "core/train/train_starter.h"

#include "core/units/units.h"

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
    if (bucket && !(t.contacts.tip_stiffness_N_per_m > 0))
        t.contacts.tip_stiffness_N_per_m = 60e6;
    return t;
}

} // namespace bathmos
