#include "core/dynamics/chain.h"

#include "core/problem/input_error.h"
#include "core/train/train_check.h"
#include "core/train/train_figures.h"
#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

void add_drive(const Train& train, Chain& chain) {
    const double half_rod = train.pushrod ? 0.5 * train.pushrod->mass_kg : 0.0;
    const bool has_follower = train.layout == Layout::Pushrod || train.layout == Layout::Bucket;
    if (has_follower)
        chain.mass_kg.push_back(train.lifter->mass_kg + half_rod);
    if (train.layout != Layout::Bucket)
        chain.mass_kg.push_back(train.rocker->inertia_kg_m2 / std::pow(train.rocker->input_arm_m, 2) +
                                half_rod);
    chain.valve_dof = chain.mass_kg.size();
    chain.rocker_dof = chain.valve_dof - 1;
}

void add_valve_and_springs(const Train& train, double peak_m, Chain& chain) {
    double mass = train.valve.mass_kg + train.retainer_mass_kg + train.locks_mass_kg + train.cap_mass_kg;
    for (const Spring& spring : train.springs) {
        ChainSpring part;
        part.segments = segments_of(spring, train.installed_height_m, peak_m);
        part.rub_per_coil_N = spring.friction_N / part.segments.count;
        if (part.segments.from_table)
            part.table = BinnedCubic::of(SpringStatics(spring).table());
        mass += part.segments.top_share_kg;
        chain.springs.push_back(std::move(part));
    }
    chain.mass_kg.push_back(mass);
    for (ChainSpring& part : chain.springs) {
        part.first_dof = chain.mass_kg.size();
        for (std::size_t j = 0; j + 1 < part.segments.mass_kg.size(); ++j)
            chain.mass_kg.push_back(0.5 * (part.segments.mass_kg[j] + part.segments.mass_kg[j + 1]));
    }
    chain.dof = chain.mass_kg.size();
}

void add_laws(const Train& train, Chain& chain) {
    const Contacts& c = train.contacts;
    const double tip =
        train.layout == Layout::Bucket ? c.tip_stiffness_N_per_m : train.rocker->stiffness_N_per_m;
    chain.cam = {c.cam_stiffness_N_per_m, c.cam_damping_s_per_m};
    chain.tip = {tip, c.tip_damping_s_per_m};
    chain.seat = {c.seat_stiffness_N_per_m, c.seat_damping_s_per_m};
    if (train.pushrod) {
        chain.link_stiffness_N_per_m = link_stiffness_N_per_m(*train.pushrod);
        chain.link_damping_s = train.pushrod->damping_s;
    }
    chain.follower_drag_N_s_per_m = train.friction.follower_N_s_per_m;
    chain.rocker_drag_N_s_per_m = train.friction.rocker_N_s_per_m;
    chain.valve_drag_N_s_per_m = train.friction.viscous_N_s_per_m;
    chain.coulomb_N = train.friction.coulomb_N;
    chain.gas_N = gas_force_N(train);
    chain.lash_m = train.effective_lash_m();
    chain.height_m = train.installed_height_m;
    const RockerMap map = train.rocker_map();
    chain.ratio = map.curve().empty() ? map.ratio(0) : 1.0;
    if (!map.curve().empty())
        chain.ratio_table = BinnedCubic::of(map.curve());
}

// Upper bound of the own frequencies (Gershgorin: twice the stiffness around a mass over the mass), rad/s.
double fastest_rad_s(const Chain& chain) {
    double ratio = chain.ratio;
    for (double slope : chain.ratio_table.c[1])
        ratio = std::max(ratio, std::abs(slope));
    const double link = chain.link_stiffness_N_per_m, tip = chain.tip.stiffness_N_per_m;
    double worst = 0;
    const auto bound = [&](double stiffness, double mass) { worst = std::max(worst, stiffness / mass); };
    bound(chain.cam.stiffness_N_per_m + 2 * link, chain.mass_kg[0]);
    bound(2 * link + ratio * (1 + ratio) * tip, chain.mass_kg[chain.rocker_dof]);
    bound(chain.seat.stiffness_N_per_m + (1 + ratio) * tip, chain.mass_kg[chain.valve_dof]);
    for (const ChainSpring& spring : chain.springs) {
        const auto& k = spring.segments.stiffness_N_per_m;
        for (std::size_t j = 0; j + 1 < k.size(); ++j)
            bound(2 * (k[j] + k[j + 1]), chain.mass_kg[spring.first_dof + j]);
    }
    return std::sqrt(worst);
}

void tabulate(const RigidMotion& rigid, Chain& chain) {
    const std::size_t half_steps = 2 * chain.steps();
    for (std::size_t i = 0; i <= half_steps; ++i) {
        const double theta = -kPi + 2 * kPi * static_cast<double>(i) / static_cast<double>(half_steps);
        chain.rise_m.push_back(rigid.lobe().at(theta));
        chain.rise_slope.push_back(rigid.lobe().at(theta, 1));
    }
    for (std::size_t i = 0; i < kGridPoints; ++i)
        chain.rigid_m.push_back(
            rigid.lift_m(-kPi + 2 * kPi * static_cast<double>(i) / static_cast<double>(kGridSteps)));
}

double travel(const Chain& chain, double q) {
    return chain.ratio_table.bins ? chain.ratio_table.value(q) : chain.ratio * q;
}

double spring_load(const Chain& chain, const ChainSpring& spring, double lift_m) {
    const SpringSegments& s = spring.segments;
    const double height = chain.height_m - lift_m;
    if (s.from_table)
        return spring.table.value(height);
    double compliance = 0;
    for (double k : s.stiffness_N_per_m)
        compliance += 1 / k;
    return (s.base_m + s.free_m * s.count - height) / compliance;
}

// Root of a falling function by bracketing outward from 0, then bisection to the last bit.
template <class F>
double falling_root(F f, double reach) {
    double lo = -reach, hi = reach;
    for (int i = 0; i < 60 && f(lo) < 0; ++i)
        lo *= 2;
    for (int i = 0; i < 60 && f(hi) > 0; ++i)
        hi *= 2;
    for (int i = 0; i < 200; ++i) {
        const double mid = 0.5 * (lo + hi);
        (f(mid) > 0 ? lo : hi) = mid;
    }
    return 0.5 * (lo + hi);
}

// Valve lift at rest under a tip force: the seat carries what the springs press.
double seated_lift(const Chain& chain, double tip_N) {
    return falling_root(
        [&](double y) {
            return tip_N + chain.gas_N - static_spring_N(chain, y) +
                   chain.seat.stiffness_N_per_m * std::max(0.0, -y);
        },
        1e-4);
}

// Follower and rocker-input positions on the base circle under a tip force.
std::vector<double> drive_at_rest(const Chain& chain, double tip_N) {
    const double rise = chain.rise_m.front();
    const double input_N = tip_N * (chain.ratio_table.bins ? chain.ratio_table.c[1][0] : chain.ratio);
    const double first = rise - input_N / chain.cam.stiffness_N_per_m;
    if (chain.layout != Layout::Pushrod)
        return {first};
    return {first, first - input_N / chain.link_stiffness_N_per_m};
}

} // namespace

double static_spring_N(const Chain& chain, double lift_m) {
    double sum = 0;
    for (const ChainSpring& spring : chain.springs)
        sum += spring_load(chain, spring, lift_m);
    return sum;
}

std::vector<double> static_coils_m(const Chain& chain, const ChainSpring& spring, double lift_m) {
    const SpringSegments& s = spring.segments;
    std::vector<double> out;
    const double height = chain.height_m - lift_m;
    const double load = s.from_table ? 0 : spring_load(chain, spring, lift_m);
    double z = s.base_m;
    for (int j = 0; j + 1 < s.count; ++j) {
        z += s.from_table ? (height - s.base_m) / s.count
                          : s.free_m - load / s.stiffness_N_per_m[static_cast<std::size_t>(j)];
        out.push_back(z);
    }
    return out;
}

std::vector<double> rest_position_m(const Chain& chain) {
    // With lash the tip is free; without it the tip force is where penetration and force agree.
    const auto tip_gap = [&](double tip_N) {
        return travel(chain, drive_at_rest(chain, tip_N).back()) - chain.lash_m - seated_lift(chain, tip_N);
    };
    double tip_N = 0;
    if (tip_gap(0) > 0)
        tip_N = falling_root([&](double f) { return tip_gap(f) - f / chain.tip.stiffness_N_per_m; }, 100.0);
    std::vector<double> out = drive_at_rest(chain, tip_N);
    const double lift = seated_lift(chain, tip_N);
    out.push_back(lift);
    for (const ChainSpring& spring : chain.springs)
        for (double z : static_coils_m(chain, spring, lift))
            out.push_back(z);
    return out;
}

Chain chain_of(const Train& train, const RigidMotion& rigid, std::size_t refine) {
    require_dynamics(train);
    Chain chain;
    chain.layout = train.layout;
    chain.refine = refine;
    add_drive(train, chain);
    add_valve_and_springs(train, rigid.peak_m(), chain);
    add_laws(train, chain);
    tabulate(rigid, chain);
    return chain;
}

std::size_t refine_for(const Chain& chain, double speed_rpm) {
    const double step_s = 120 / speed_rpm / static_cast<double>(kStepsPerCycle),
                 fastest = fastest_rad_s(chain);
    std::size_t refine = 1;
    while (static_cast<double>(refine) < fastest * step_s / kCloseStep && refine <= kMostRefine)
        refine *= 2;
    if (refine > kMostRefine)
        throw InputError(
            {"", "contacts and stiffnesses",
             fmt::format("the stiffest part swings at {:.0f} Hz, too fast to follow", fastest / (2 * kPi)),
             "lower the largest stiffness, or check for a mass that is far too small"});
    return refine;
}

} // namespace bathmos
