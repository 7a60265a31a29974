#include "independent/random_train.h"

#include "core/train/train_check.h"
#include "core/train/train_starter.h"
#include "core/units/units.h"

#include <random>

namespace bathmos::independent {

namespace {

// Only the generator's raw output is used: the library's distributions differ between makers.
class Draw {
  public:
    explicit Draw(unsigned seed) : engine_(seed) {}
    double between(double low, double high) { return low + (high - low) * share(); }
    bool chance(double p) { return share() < p; }
    std::size_t one_of(std::size_t n) { return static_cast<std::size_t>(share() * static_cast<double>(n)); }

  private:
    double share() { return static_cast<double>(engine_() >> 11) / 9007199254740992.0; }
    std::mt19937_64 engine_;
};

HydraulicFollower draw_oil(Draw& d, bool adjuster) {
    HydraulicFollower f;
    f.plunger_diameter_m = adjuster ? d.between(10e-3, 12e-3) : d.between(14e-3, 17e-3);
    f.chamber_volume_m3 = (adjuster ? d.between(120, 300) : d.between(300, 900)) * 1e-9;
    f.travel_m = d.between(2e-3, 4e-3);
    f.preload_m = f.travel_m * d.between(0.3, 0.7);
    f.supply_Pa = adjuster ? d.between(150e3, 200e3) : d.between(300e3, 500e3);
    f.leak_m3_per_s_per_Pa = d.between(0.02, 0.05) * 1e-12;
    f.check_area_m2 = (adjuster ? d.between(1.5, 3) : d.between(5, 10)) * 1e-6;
    f.bulk_modulus_Pa = d.between(1.2e9, 1.8e9);
    f.air_fraction = d.between(0.01, 0.03);
    f.oil_density_kg_m3 = d.between(830, 880);
    f.plunger_mass_kg = adjuster ? d.between(0.012, 0.02) : d.between(0.018, 0.03);
    f.plunger_spring_N = adjuster ? d.between(10, 15) : d.between(25, 45);
    return f;
}

Spring draw_coil(Draw& d, const char* name, double load_N, double diameter_m, double height_m,
                 double lift_m) {
    CoilGeometry c;
    c.wire_m = diameter_m * d.between(0.12, 0.15);
    if (d.chance(0.2)) {
        c.wire_height_m = c.wire_m * d.between(0.8, 0.95);
    }
    c.active_coils = d.between(4, 6.5);
    c.dead_coils = d.between(1.5, 2);
    c.mean_diameter_m = {diameter_m};
    if (d.chance(0.25)) // conical over the last coils
        c.mean_diameter_m = {diameter_m, diameter_m, 0.95 * diameter_m, 0.85 * diameter_m};
    // wire is thinned until the coils have room at full lift
    const auto solid = [&] { return axial_wire_m(c) * (c.active_coils + c.dead_coils); };
    while (solid() > height_m - lift_m - 1.5e-3)
        c.active_coils -= 0.25;
    double compliance = 0;
    for (double m : c.mean_diameter_m)
        compliance +=
            coil_compliance_m_per_N(c, m) * c.active_coils / static_cast<double>(c.mean_diameter_m.size());
    c.free_length_m = height_m + load_N * compliance;
    if (d.chance(0.25)) { // pitch grows towards the retainer
        const double mean = (c.free_length_m - axial_wire_m(c) * c.dead_coils) / c.active_coils;
        const double swing = d.between(0.05, 0.2) * (mean - axial_wire_m(c));
        c.pitch_m = {mean - swing, mean, mean + swing};
    }
    Spring out;
    out.name = name;
    out.kind = c;
    out.damping_ratio = d.between(0.005, 0.03);
    out.friction_N = d.chance(0.6) ? d.between(2, 25) : 0;
    return out;
}

Spring as_table(const Spring& coil, double height_m, double lift_m) {
    const SpringStatics statics(coil);
    LoadTable table;
    for (int i = 0; i <= 8; ++i) {
        const double h = height_m + 2e-3 - (lift_m + 3e-3) * i / 8;
        table.height_m.push_back(h);
        table.load_N.push_back(statics.load_N(h));
    }
    table.moving_mass_kg = statics.active_mass_kg();
    table.solid_height_m = statics.solid_height_m();
    Spring out = coil;
    out.kind = table;
    return out;
}

void draw_lobe(Draw& d, double lift_m, Lobe& lobe) {
    AnalyticLobe a;
    a.half_duration_rad = radians(d.between(60, 76));
    a.lift_m = lift_m;
    a.ramp_height_m = d.between(0.2e-3, 0.3e-3);
    a.ramp_velocity_m_per_rad = d.between(0.010e-3, 0.016e-3) / radians(1);
    lobe.shape = a;
}

Train draw_train(Draw& d) {
    const Layout layout = static_cast<Layout>(d.one_of(4));
    Train t = with_layout(starter_train(), layout);
    const bool bucket = layout == Layout::Bucket, pushrod = layout == Layout::Pushrod;
    const double ratio = bucket ? 1.0 : d.between(1.4, 1.8), valve_lift = d.between(8e-3, 12e-3);
    draw_lobe(d, valve_lift / ratio, t.lobe);
    t.lash_m = d.between(0.15e-3, 0.35e-3);
    t.valve.mass_kg = d.between(0.045, 0.1);
    t.valve.head_diameter_m = d.between(28e-3, 46e-3);
    t.retainer_mass_kg = d.between(0.008, 0.02);
    t.locks_mass_kg = d.between(0.002, 0.005);
    if (t.rocker) {
        t.rocker->ratio = ratio;
        t.rocker->input_arm_m = d.between(20e-3, 28e-3);
        t.rocker->output_arm_m = ratio * t.rocker->input_arm_m;
        t.rocker->inertia_kg_m2 = d.between(0.03, 0.06) * t.rocker->input_arm_m * t.rocker->input_arm_m;
        t.rocker->stiffness_N_per_m = d.between(12e6, 22e6);
        if (d.chance(0.25)) {
            RatioTable table;
            for (int i = 0; i <= 4; ++i) {
                const double q = valve_lift / ratio * i / 4;
                table.input_m.push_back(q);
                table.output_m.push_back(ratio * q * (1 + 0.02 * std::sin(1.5 * i)));
            }
            t.rocker->ratio = table;
        }
    }
    if (t.pushrod) {
        t.pushrod->mass_kg = d.between(0.03, 0.07);
        t.pushrod->end_stiffness_N_per_m = d.between(60e6, 150e6);
    }
    if (bucket)
        t.contacts.tip_stiffness_N_per_m = d.between(15e6, 30e6);
    if (pushrod || bucket)
        t.lifter->mass_kg = d.between(0.06, 0.1);
    if (layout != Layout::Rocker && d.chance(0.3)) {
        if (!t.lifter)
            t.lifter = Lifter{};
        t.lifter->hydraulic = draw_oil(d, layout == Layout::Finger);
    }
    t.installed_height_m = d.between(38e-3, 46e-3);
    t.springs = {draw_coil(d, "outer", d.between(250, 450), d.between(26e-3, 32e-3), t.installed_height_m,
                           valve_lift)};
    if (d.chance(0.3))
        t.springs[0] = as_table(t.springs[0], t.installed_height_m, valve_lift);
    if (d.chance(0.5))
        t.springs.push_back(draw_coil(d, "inner", d.between(80, 160), d.between(17e-3, 20e-3),
                                      t.installed_height_m, valve_lift));
    t.contacts.cam_stiffness_N_per_m = d.between(30e6, 50e6);
    t.contacts.seat_damping_s_per_m = d.between(0.7, 1.5);
    t.friction = {d.between(1, 4), d.chance(0.3) ? d.between(2, 8) : 0, d.between(5, 15), d.between(5, 15)};
    if (d.chance(0.3)) {
        t.back_pressure_Pa = d.between(-20e3, 80e3);
    } else if (d.chance(0.3)) {
        PressureTable table;
        for (int i = 0; i < 8; ++i) {
            table.crank_rad.push_back(radians(-360 + 90.0 * i));
            table.pressure_Pa.push_back(d.between(-10e3, 60e3));
        }
        t.pressure_table = table;
    }
    return t;
}

void draw_options(Draw& d, Train& t) {
    if (d.chance(0.7))
        t.camshaft = CamshaftTorsion{d.between(4000, 12000), d.between(500, 1000), d.between(0.02, 0.1)};
    if (d.chance(0.7))
        t.valve.elastic = ElasticValve{d.between(25e6, 60e6), d.between(0.4, 0.6), d.between(0.005, 0.03)};
    if (d.chance(0.5))
        t.lash_at = LashAt::LoadedRest;
    if (d.chance(0.5))
        t.drive_ripple = DriveRipple{d.between(-0.004, 0.004), d.between(-0.004, 0.004),
                                     d.between(-0.003, 0.003), d.between(-0.003, 0.003)};
    for (Spring& spring : t.springs)
        if (auto* coil = std::get_if<CoilGeometry>(&spring.kind); coil && d.chance(0.5))
            coil->pitch_scatter = d.between(0.004, 0.02);
}

} // namespace

RandomCase random_case_with_options(unsigned number) {
    RandomCase out = random_case(number);
    Draw d(0x0B7 + 6007 * number);
    draw_options(d, out.train);
    return out;
}

RandomCase random_case(unsigned number) {
    Draw d(0xBA7 + 7919 * number);
    for (;;) {
        RandomCase out{draw_train(d), 0};
        // most below the edge, some beyond
        out.speed_rpm = 50 * std::floor(d.between(2500, 8000) / 50);
        if (check_train(out.train).empty())
            return out;
    }
}

} // namespace bathmos::independent
