#include "core/dynamics/chain.h"

#include "core/dynamics/drive.h"
#include "core/problem/input_error.h"
#include "core/train/train_figures.h"
#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

SegmentRow row_of(const ChainSpring& spring, std::size_t j) {
    const SpringSegments& s = spring.segments;
    SegmentRow row{};
    row.stiffness_N_per_m = s.stiffness_N_per_m[j];
    row.free_N = s.from_table ? 0 : s.stiffness_N_per_m[j] * s.free_m[j];
    row.damping_N_s_per_m = s.damping_s * s.stiffness_N_per_m[j];
    row.share = static_cast<double>(j) / s.count;
    if (j > 0) {
        row.coil_per_mass = 1 / (0.5 * (s.mass_kg[j - 1] + s.mass_kg[j]));
        row.coil_rub_per_mass = spring.rub_per_coil_N * row.coil_per_mass;
    }
    return row;
}

bool all_alike(const SpringSegments& s) {
    const auto alike = [](const std::vector<double>& list) {
        return std::all_of(list.begin(), list.end(),
                           [&](double x) { return std::abs(x / list.front() - 1) < 1e-12; });
    };
    return !s.from_table && alike(s.stiffness_N_per_m) && alike(s.mass_kg) && alike(s.free_m);
}

double spring_load(const Chain& chain, const ChainSpring& spring, double lift_m) {
    const double height = chain.height_m - lift_m;
    return spring.segments.from_table ? spring.table.value(height)
                                      : balance_of(spring.segments, height).load_N;
}

// Static places of the free coils for a valve lift, m, seat to retainer.
std::vector<double> static_coils_m(const Chain& chain, const ChainSpring& spring, double lift_m) {
    const SpringSegments& s = spring.segments;
    const double height = chain.height_m - lift_m;
    const SegmentBalance balance = s.from_table ? SegmentBalance{} : balance_of(s, height);
    std::vector<double> out;
    double z = s.base_m;
    for (std::size_t j = 0; j + 1 < static_cast<std::size_t>(s.count); ++j) {
        z += s.from_table ? (height - s.base_m) / s.count : balance.length_m[j];
        out.push_back(z);
    }
    return out;
}

// Places at rest over lift, for measuring surge against them: straight lines, but where coils close.
void tabulate_still(const Chain& chain, double peak_m, bool bends, ChainSpring& spring) {
    const auto coils = static_cast<std::size_t>(spring.segments.count - 1);
    const std::vector<double> closed = static_coils_m(chain, spring, 0),
                              near = static_coils_m(chain, spring, 1e-4);
    for (std::size_t i = 0; i < coils; ++i) {
        spring.rows[i + 1].still_m = closed[i];
        spring.rows[i + 1].still_per_lift = (near[i] - closed[i]) / 1e-4;
    }
    if (!bends)
        return;
    spring.still_reach_m = 1.5 * peak_m;
    spring.still_m.assign(coils * (kStillSteps + 1), 0.0);
    for (std::size_t step = 0; step <= kStillSteps; ++step) {
        const double lift = spring.still_reach_m * static_cast<double>(step) / kStillSteps;
        const std::vector<double> at = static_coils_m(chain, spring, lift);
        for (std::size_t i = 0; i < coils; ++i)
            spring.still_m[i * (kStillSteps + 1) + step] = at[i];
    }
}

void add_part(Chain& chain, double mass_kg, std::string name) {
    chain.mass_kg.push_back(mass_kg);
    chain.part.push_back(std::move(name));
}

// Camshaft's twist: its mass is an inertia, kg m2. The valve's head on its stem: damping of the two against
// each other.
void add_options(const Train& train, double head_kg, Chain& chain) {
    if (const auto& shaft = train.camshaft) {
        const double rad_per_s = 2 * kPi * shaft->frequency_Hz;
        chain.twist_N_m_per_rad = shaft->stiffness_N_m_per_rad;
        chain.twist_damping_N_m_s = 2 * shaft->damping_ratio * shaft->stiffness_N_m_per_rad / rad_per_s;
        chain.twist_dof = chain.mass_kg.size();
        add_part(chain, shaft->stiffness_N_m_per_rad / (rad_per_s * rad_per_s), "camshaft");
    }
    if (const auto& elastic = train.valve.elastic) {
        const double end_kg = chain.mass_kg[chain.valve_dof];
        chain.stem_N_per_m = elastic->stiffness_N_per_m;
        chain.stem_damping_N_s_per_m =
            2 * elastic->damping_ratio *
            std::sqrt(elastic->stiffness_N_per_m * head_kg * end_kg / (head_kg + end_kg));
        chain.head_dof = chain.mass_kg.size();
        add_part(chain, head_kg, "valve's head");
    }
}

void add_valve_and_springs(const Train& train, double peak_m, Chain& chain) {
    const double head = train.valve.elastic ? train.valve.elastic->head_share * train.valve.mass_kg : 0;
    double mass =
        train.valve.mass_kg - head + train.retainer_mass_kg + train.locks_mass_kg + train.cap_mass_kg;
    for (const Spring& spring : train.springs) {
        ChainSpring part;
        part.segments = segments_of(spring, train.installed_height_m, peak_m);
        part.rub_per_coil_N = spring.friction_N / part.segments.count;
        if (part.segments.from_table)
            part.table = BinnedLine::of(SpringStatics(spring).table());
        mass += part.segments.top_share_kg;
        for (std::size_t j = 0; j < part.segments.stiffness_N_per_m.size(); ++j)
            part.rows.push_back(row_of(part, j));
        part.even = all_alike(part.segments);
        chain.springs.push_back(std::move(part));
    }
    chain.height_m = train.installed_height_m;
    add_part(chain, mass, head > 0 ? "valve's stem end" : "valve");
    for (std::size_t i = 0; i < chain.springs.size(); ++i) {
        ChainSpring& part = chain.springs[i];
        part.first_dof = chain.mass_kg.size();
        for (std::size_t j = 1; j < part.rows.size(); ++j)
            add_part(chain, 1 / part.rows[j].coil_per_mass, "coils of spring " + train.springs[i].name);
        const auto* coil = std::get_if<CoilGeometry>(&train.springs[i].kind);
        tabulate_still(chain, peak_m, coil && uneven_pitch(*coil), part);
    }
    chain.coil_dofs = chain.mass_kg.size() - chain.valve_dof - 1;
    add_options(train, head, chain);
    chain.dof = chain.mass_kg.size();
    for (double mass_kg : chain.mass_kg)
        chain.per_mass.push_back(1 / mass_kg);
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
    if (train.hydraulic())
        chain.chamber = chamber_of(*train.lifter->hydraulic);
    chain.follower_viscous_N_s_per_m = train.friction.follower_N_s_per_m;
    chain.rocker_viscous_N_s_per_m = train.friction.rocker_N_s_per_m;
    chain.valve_viscous_N_s_per_m = train.friction.viscous_N_s_per_m;
    chain.coulomb_N = train.friction.coulomb_N;
    chain.lash_m = train.effective_lash_m();
    const RockerMap map = train.rocker_map();
    chain.ratio = map.curve().empty() ? map.ratio(0) : 1.0;
    if (!map.curve().empty())
        chain.ratio_table = BinnedCubic::of(map.curve());
}

// The same angles, fewer of them.
CamTable every(std::size_t stride, const CamTable& fine) {
    CamTable out;
    for (std::size_t i = 0; i < fine.rows.size(); i += stride)
        out.rows.push_back(fine.rows[i]);
    for (std::size_t i = 0; i < fine.bends.size(); i += stride) {
        out.bends.push_back(fine.bends[i]);
        out.waves.push_back(fine.waves[i]);
    }
    return out;
}

CamTable cam_table_of(const Train& train, const LobeCurve& lobe, std::size_t substeps) {
    CamTable out;
    const std::size_t half_steps = 2 * kGridSteps * substeps;
    out.rows.reserve(half_steps + 1);
    for (std::size_t i = 0; i <= half_steps; ++i) {
        const double even = -kPi + 2 * kPi * static_cast<double>(i) / static_cast<double>(half_steps);
        const double theta = train.drive_ripple ? even + train.drive_ripple->ahead_rad(even) : even;
        const double turning = train.drive_ripple ? 1 + train.drive_ripple->ahead_slope(even) : 1;
        const double slope = lobe.at(theta, 1) * (train.camshaft ? 1 : turning);
        out.rows.push_back({lobe.at(theta), slope, gas_force_N(train, 2 * theta)});
        if (train.camshaft) {
            out.bends.push_back({lobe.at(theta, 2), lobe.at(theta, 3), turning});
            out.waves.push_back(
                {std::cos(4 * even), std::sin(4 * even), std::cos(6 * even), std::sin(6 * even)});
        }
    }
    return out;
}

std::vector<double> rigid_on_grid(const RigidMotion& rigid) {
    std::vector<double> out;
    for (std::size_t i = 0; i < kGridPoints; ++i)
        out.push_back(
            rigid.lift_m(-kPi + 2 * kPi * static_cast<double>(i) / static_cast<double>(kGridSteps)));
    return out;
}

// Root of a falling function by bracketing outward from 0, then bisection to the last bit: rest must be the
// same to the bit however the caller came here, and the function has kinks and jumps that a quicker method
// would trip over.
template <class F>
double falling_root(F f, double reach) {
    double lo = -reach, hi = reach;
    for (int i = 0; i < 60 && f(lo) < 0; ++i)
        lo *= 2;
    for (int i = 0; i < 60 && f(hi) > 0; ++i)
        hi *= 2;
    for (int i = 0; i < 200; ++i) {
        const double mid = 0.5 * (lo + hi);
        if (mid == lo || mid == hi)
            break;
        (f(mid) > 0 ? lo : hi) = mid;
    }
    return 0.5 * (lo + hi);
}

// How far the head stands below the stem end, which the springs pull up against a tip force.
double stretch_m(const Chain& chain, double tip_N, double end_lift_m) {
    return chain.head_dof ? (static_spring_N(chain, end_lift_m) - tip_N) / chain.stem_N_per_m : 0;
}

// Lift of the stem end at rest under a tip force: the seat carries what the springs press.
double seated_lift(const Chain& chain, double tip_N) {
    return falling_root(
        [&](double y) {
            return tip_N + chain.cam_rows().front().gas_N - static_spring_N(chain, y) +
                   chain.seat.stiffness_N_per_m * std::max(0.0, -y - stretch_m(chain, tip_N, y));
        },
        1e-4);
}

// Force at the tip at rest: what oil under pressure presses; else with lash the tip is free, and without it
// the force is where penetration and force agree.
double tip_at_rest(const Chain& chain) {
    const DriveSetup& drive = drive_setup(chain.drive);
    if (chain.hydraulic())
        return drive.preload_N(chain);
    const auto gap = [&](double tip_N) {
        const double lift = seated_lift(chain, tip_N);
        return chain.rocker_travel_m(drive.rest_m(chain, tip_N, lift)[chain.rocker_dof]) - chain.lash_m -
               lift;
    };
    if (gap(0) <= 0)
        return 0;
    return falling_root([&](double f) { return gap(f) - f / chain.tip.stiffness_N_per_m; }, 100.0);
}

std::vector<double> rest_position_m(const Chain& chain) {
    const double tip_N = tip_at_rest(chain), lift = seated_lift(chain, tip_N);
    std::vector<double> out = drive_setup(chain.drive).rest_m(chain, tip_N, lift);
    out.push_back(lift);
    for (const ChainSpring& spring : chain.springs)
        for (double z : static_coils_m(chain, spring, lift))
            out.push_back(z);
    if (chain.twist_dof)
        out.push_back(0); // the base circle pushes through the axis
    if (chain.head_dof)
        out.push_back(lift + stretch_m(chain, tip_N, lift));
    return out;
}

// A feeler gauge counts from the rest, which lies deeper than the first touch.
void count_lash_from_rest(Chain& chain) {
    chain.lash_m -= std::min(0.0, seated_lift(chain, 0));
}

} // namespace

double Chain::rocker_travel_m(double input_m) const {
    return ratio_table.bins ? ratio_table.value(input_m) : ratio * input_m;
}

double Chain::rocker_ratio(double input_m) const {
    if (!ratio_table.bins)
        return ratio;
    const double e = 1e-6;
    return (ratio_table.value(input_m + e) - ratio_table.value(input_m - e)) / (2 * e);
}

double static_spring_N(const Chain& chain, double lift_m) {
    double sum = 0;
    for (const ChainSpring& spring : chain.springs)
        sum += spring_load(chain, spring, lift_m);
    return sum;
}

RestState rest_of(const Chain& chain) {
    RestState out{rest_position_m(chain), std::vector<double>(chain.dof, 0.0)};
    if (chain.hydraulic())
        out.velocity_m_per_s[chain.valve_dof - 1] = chain.chamber.supply_Pa;
    return out;
}

std::shared_ptr<const CamTable> CamTables::of(const Train& train, std::size_t substeps) {
    Key key{substeps,
            train.camshaft.has_value(),
            train.drive_ripple,
            train.valve.head_diameter_m,
            train.back_pressure_Pa,
            train.pressure_table};
    std::shared_ptr<const CamTable> finer;
    std::size_t stride = 1;
    {
        const std::scoped_lock lock(mutex_);
        for (const Made& one : made_) {
            if (one.key == key)
                return one.table;
            Key coarser = one.key;
            coarser.substeps = substeps;
            if (coarser == key && one.key.substeps % substeps == 0) {
                finer = one.table;
                stride = one.key.substeps / substeps;
            }
        }
    }
    auto table = std::make_shared<const CamTable>(finer ? every(stride, *finer)
                                                        : cam_table_of(train, lobe_, substeps));
    constexpr std::size_t kKept = 12;
    const std::scoped_lock lock(mutex_);
    made_.push_back({std::move(key), table});
    if (made_.size() > kKept)
        made_.pop_front();
    return table;
}

Chain in_steps(Chain chain, std::size_t substeps, std::shared_ptr<const CamTable> table) {
    chain.substeps = substeps;
    chain.cam_table = std::move(table);
    return chain;
}

Chain chain_of(const Train& train, const RigidMotion& rigid, std::size_t substeps) {
    CamTables own(rigid.lobe());
    return chain_of(train, rigid, substeps, own);
}

Chain chain_of(const Train& train, const RigidMotion& rigid, std::size_t substeps, CamTables& tables) {
    Chain chain;
    chain.layout = train.layout;
    chain.drive = drive_kind(train);
    chain.substeps = substeps;
    drive_setup(chain.drive).add(train, chain);
    chain.valve_dof = chain.mass_kg.size();
    add_valve_and_springs(train, rigid.peak_m(), chain);
    add_laws(train, chain);
    chain.cam_table = tables.of(train, substeps);
    chain.rigid_m = rigid_on_grid(rigid);
    if (train.lash_at == LashAt::LoadedRest && !chain.hydraulic())
        count_lash_from_rest(chain);
    if (chain.hydraulic())
        chain.chamber.offset_m =
            chain.chamber.start_m - drive_setup(chain.drive).plunger_m(rest_position_m(chain));
    return chain;
}

namespace {

// What a camshaft that gives adds to the bound of the part on the cam, N/m: the geometric mean of the two, as
// in the matrix made symmetric by the masses. The shaft itself is far too heavy to be the quickest.
double felt_of_twist(const Chain& chain) {
    if (!chain.twist_dof)
        return 0;
    double slope = 0;
    for (const CamRow& row : chain.cam_rows())
        slope = std::max(slope, std::abs(row.cam_velocity_m_per_rad));
    return chain.cam.stiffness_N_per_m * slope *
           std::sqrt(chain.mass_kg.front() / chain.mass_kg[chain.twist_dof]);
}

} // namespace

StiffestPart stiffest_part(const Chain& chain) {
    double ratio = chain.ratio;
    for (double slope : chain.ratio_table.c[1])
        ratio = std::max(ratio, std::abs(slope));
    StiffestPart worst{0, ""};
    const auto bound = [&](double stiffness, std::size_t dof) {
        const double rate = std::sqrt(stiffness / chain.mass_kg[dof]);
        if (rate > worst.rad_per_s)
            worst = {rate, chain.part[dof]};
    };
    const double tip = chain.tip.stiffness_N_per_m;
    const std::vector<double> drive =
        drive_setup(chain.drive).stiffness_N_per_m(chain, ratio * (1 + ratio) * tip);
    for (std::size_t i = 0; i < drive.size(); ++i)
        bound(drive[i] + (i == 0 ? felt_of_twist(chain) : 0), i);
    if (chain.head_dof) {
        bound(2 * chain.stem_N_per_m + (1 + ratio) * tip, chain.valve_dof);
        bound(2 * chain.stem_N_per_m + chain.seat.stiffness_N_per_m, chain.head_dof);
    } else {
        bound(chain.seat.stiffness_N_per_m + (1 + ratio) * tip, chain.valve_dof);
    }
    for (const ChainSpring& spring : chain.springs) {
        const auto& k = spring.segments.stiffness_N_per_m;
        for (std::size_t j = 0; j + 1 < k.size(); ++j)
            bound(2 * (k[j] + k[j + 1]), spring.first_dof + j);
    }
    return worst;
}

std::size_t substeps_for(const StiffestPart& stiffest, double speed_rpm, double close_step,
                         std::size_t least) {
    const double wanted =
        stiffest.rad_per_s * (120 / speed_rpm / static_cast<double>(kGridSteps)) / close_step;
    std::size_t substeps = least; // 2, 4, 6, 8, 12, 16, 24 ...
    while (static_cast<double>(substeps) < wanted && substeps <= kMostSubsteps)
        substeps = substeps <= 2                      ? 2 * substeps
                   : (substeps & (substeps - 1)) == 0 ? substeps / 2 * 3
                                                      : substeps / 3 * 4;
    if (substeps > kMostSubsteps)
        throw InputError({"", stiffest.part,
                          fmt::format("it could swing at {:.0f} Hz, too fast to follow at {:.0f} rev/min",
                                      stiffest.rad_per_s / (2 * kPi), speed_rpm),
                          "check its mass, which may be far too small, and the stiffnesses beside it"});
    return substeps;
}

} // namespace bathmos
