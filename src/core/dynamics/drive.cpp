#include "core/dynamics/drive.h"

#include "core/math/roots.h"
#include "core/problem/input_error.h"

#include <array>
#include <cmath>

namespace bathmos {

namespace {

double half_rod_kg(const Train& t) {
    return t.pushrod ? 0.5 * t.pushrod->mass_kg : 0.0;
}
double rocker_kg(const Train& t) {
    return t.rocker->inertia_kg_m2 / std::pow(t.rocker->input_arm_m, 2) + half_rod_kg(t);
}
void add_moving(Chain& chain, double mass_kg, const char* name) {
    chain.mass_kg.push_back(mass_kg);
    chain.part.emplace_back(name);
}
void add_rocker(const Train& t, Chain& chain) {
    chain.rocker_dof = chain.mass_kg.size();
    add_moving(chain, rocker_kg(t), t.layout == Layout::Finger ? "finger" : "rocker");
}
// Body and plunger of a hydraulic follower; the plunger carries the half pushrod.
void add_body_and_plunger(const Train& t, Chain& chain) {
    const HydraulicFollower& oil = *t.lifter->hydraulic;
    add_moving(chain, t.lifter->mass_kg - oil.plunger_mass_kg, "lifter body");
    add_moving(chain, oil.plunger_mass_kg + half_rod_kg(t), "plunger");
}
// The oil's dof: its velocity slot holds the absolute pressure, its position is not used.
void add_oil(Chain& chain) {
    add_moving(chain, 1.0, "oil in the chamber");
}

double on_base_circle(const Chain& c, double cam_N) {
    return c.cam_rows().front().cam_lift_m - cam_N / c.cam.stiffness_N_per_m;
}
double tip_depth(const Chain& c, double tip_N) {
    return tip_N / c.tip.stiffness_N_per_m;
}
double no_preload(const Chain&) {
    return 0;
}
double no_plunger(const std::vector<double>&) {
    return 0;
}
double oil_stiffness(const Chain& c) {
    return std::max(c.chamber.oil_stiffness_N_per_m(), kStopStiffness_N_per_m);
}
// Rocker input at which the tip stands at a travel.
double input_at_travel(const Chain& c, double travel_m) {
    const double reach = 1e-3 + 2 * std::abs(travel_m / c.rocker_ratio(0));
    return find_root([&](double q) { return c.rocker_travel_m(q) - travel_m; }, -reach, reach, 1e-15);
}

// ---- cam, follower, link, rocker

void pushrod_add(const Train& t, Chain& chain) {
    add_moving(chain, t.lifter->mass_kg + half_rod_kg(t), "lifter");
    add_rocker(t, chain);
}
std::vector<double> pushrod_rest(const Chain& c, double tip_N, double) {
    const double input_N = tip_N * c.rocker_ratio(0), x = on_base_circle(c, input_N);
    return {x, x - input_N / c.link_stiffness_N_per_m};
}
std::vector<double> pushrod_stiffness(const Chain& c, double input) {
    const double link = 2 * c.link_stiffness_N_per_m;
    return {c.cam.stiffness_N_per_m + link, link + input};
}

// ---- cam straight on rocker, finger or bucket

void direct_add(const Train& t, Chain& chain) {
    if (t.layout == Layout::Bucket) {
        chain.rocker_dof = 0;
        add_moving(chain, t.lifter->mass_kg, "bucket");
    } else {
        add_rocker(t, chain);
    }
}
std::vector<double> direct_rest(const Chain& c, double tip_N, double) {
    return {on_base_circle(c, tip_N * c.rocker_ratio(0))};
}
std::vector<double> direct_stiffness(const Chain& c, double input) {
    return {c.cam.stiffness_N_per_m + input};
}

// ---- cam, body, oil, plunger, link, rocker

void hydraulic_pushrod_add(const Train& t, Chain& chain) {
    add_body_and_plunger(t, chain);
    add_rocker(t, chain);
    add_oil(chain);
}
double hydraulic_pushrod_preload(const Chain& c) {
    return c.chamber.supply_force_N() / c.rocker_ratio(0);
}
std::vector<double> hydraulic_pushrod_rest(const Chain& c, double tip_N, double lift_m) {
    const double input_N = tip_N * c.rocker_ratio(0);
    const double q = input_at_travel(c, lift_m + c.lash_m + tip_depth(c, tip_N));
    return {on_base_circle(c, input_N), q + input_N / c.link_stiffness_N_per_m, q, 0};
}
std::vector<double> hydraulic_pushrod_stiffness(const Chain& c, double input) {
    const double link = 2 * c.link_stiffness_N_per_m, oil = 2 * oil_stiffness(c);
    return {c.cam.stiffness_N_per_m + oil, oil + link, link + input, 0};
}
double plunger_on_body(const std::vector<double>& p) {
    return p[1] - p[0];
}

// ---- cam, bucket body, oil, plunger

void hydraulic_bucket_add(const Train& t, Chain& chain) {
    add_body_and_plunger(t, chain);
    chain.rocker_dof = 1;
    add_oil(chain);
}
double hydraulic_bucket_preload(const Chain& c) {
    return c.chamber.supply_force_N();
}
std::vector<double> hydraulic_bucket_rest(const Chain& c, double tip_N, double lift_m) {
    return {on_base_circle(c, tip_N), lift_m + c.lash_m + tip_depth(c, tip_N), 0};
}
std::vector<double> hydraulic_bucket_stiffness(const Chain& c, double input) {
    const double oil = 2 * oil_stiffness(c);
    return {c.cam.stiffness_N_per_m + oil, oil + input, 0};
}

// ---- finger over an adjuster under its pivot: dofs finger (as input travel), plunger's rise, oil

void pivot_add(const Train& t, Chain& chain) {
    add_rocker(t, chain);
    add_moving(chain, t.lifter->hydraulic->plunger_mass_kg, "adjuster's plunger");
    add_oil(chain);
}
double pivot_preload(const Chain& c) {
    return c.chamber.supply_force_N() / (c.rocker_ratio(0) - 1);
}
std::vector<double> pivot_rest(const Chain& c, double tip_N, double lift_m) {
    // a - u touches the cam, g(a) - u the tip: the difference leaves a alone
    const double at_cam = on_base_circle(c, tip_N * c.rocker_ratio(0));
    const double wanted = lift_m + c.lash_m + tip_depth(c, tip_N) - at_cam;
    const double reach = 1e-3 + 4 * std::abs(wanted / (c.rocker_ratio(0) - 1));
    const double a =
        find_root([&](double q) { return c.rocker_travel_m(q) - q - wanted; }, -reach, reach, 1e-15);
    return {a, a - at_cam, 0};
}
std::vector<double> pivot_stiffness(const Chain& c, double input) {
    const double cam = 2 * c.cam.stiffness_N_per_m;
    return {cam + input, cam + oil_stiffness(c) + input, 0};
}
double plunger_on_pivot(const std::vector<double>& p) {
    return p[1];
}

const std::array kDrives = {
    DriveSetup{DriveKind::Pushrod, pushrod_add, no_preload, pushrod_rest, no_plunger, pushrod_stiffness},
    DriveSetup{DriveKind::Direct, direct_add, no_preload, direct_rest, no_plunger, direct_stiffness},
    DriveSetup{DriveKind::HydraulicPushrod, hydraulic_pushrod_add, hydraulic_pushrod_preload,
               hydraulic_pushrod_rest, plunger_on_body, hydraulic_pushrod_stiffness},
    DriveSetup{DriveKind::HydraulicBucket, hydraulic_bucket_add, hydraulic_bucket_preload,
               hydraulic_bucket_rest, plunger_on_body, hydraulic_bucket_stiffness},
    DriveSetup{DriveKind::PivotAdjuster, pivot_add, pivot_preload, pivot_rest, plunger_on_pivot,
               pivot_stiffness},
};

} // namespace

DriveKind drive_kind(const Train& train) {
    const bool oil = train.hydraulic();
    switch (train.layout) {
    case Layout::Pushrod:
        return oil ? DriveKind::HydraulicPushrod : DriveKind::Pushrod;
    case Layout::Bucket:
        return oil ? DriveKind::HydraulicBucket : DriveKind::Direct;
    case Layout::Finger:
        return oil ? DriveKind::PivotAdjuster : DriveKind::Direct;
    case Layout::Rocker:
        if (oil)
            throw InputError({"", "lifter.hydraulic", "a rocker layout has no place for a hydraulic follower",
                              "take it out, or choose another layout"});
        return DriveKind::Direct;
    }
    return DriveKind::Direct;
}

const DriveSetup& drive_setup(DriveKind kind) {
    return kDrives[static_cast<std::size_t>(kind)];
}

} // namespace bathmos
