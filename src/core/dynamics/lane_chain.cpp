#include "core/dynamics/lane_chain.h"

#include <algorithm>

namespace bathmos {

namespace {

std::vector<float> in_single(const std::vector<double>& of) {
    return {of.begin(), of.end()};
}

bool same(const BinnedLine& a, const BinnedLine& b) {
    return a.start == b.start && a.per_bin == b.per_bin && a.value_slope == b.value_slope;
}

bool same(const BinnedCubic& a, const BinnedCubic& b) {
    return a.start == b.start && a.per_bin == b.per_bin && std::equal(a.c, a.c + 4, b.c);
}

bool of_one_form(const ChainSpring& a, const ChainSpring& b) {
    return a.rows.size() == b.rows.size() && a.even == b.even && a.rubs() == b.rubs() &&
           a.segments.from_table == b.segments.from_table &&
           (!a.segments.from_table || same(a.table, b.table));
}

} // namespace

bool of_one_form(const Chain& a, const Chain& b) {
    return a.drive == b.drive && a.layout == b.layout && a.dof == b.dof && a.substeps == b.substeps &&
           a.cam_table == b.cam_table && a.twist_dof == b.twist_dof && a.head_dof == b.head_dof &&
           a.rubs_in_guide() == b.rubs_in_guide() && a.springs.size() == b.springs.size() &&
           std::equal(a.springs.begin(), a.springs.end(), b.springs.begin(),
                      [](const ChainSpring& x, const ChainSpring& y) { return of_one_form(x, y); }) &&
           same(a.ratio_table, b.ratio_table);
}

LaneChain::LaneChain(const Chain& all)
    : layout(all.layout), valve_dof(all.valve_dof), rocker_dof(all.rocker_dof), twist_dof(all.twist_dof),
      head_dof(all.head_dof), substeps(all.substeps), cam_table(all.cam_table), per_mass(all.dof),
      ratio_table{all.ratio_table.start, all.ratio_table.per_bin, {}, all.ratio_table.bins},
      springs(all.springs.size()), rubs_in_guide_(all.rubs_in_guide()) {
    for (std::size_t i = 0; i < 4; ++i)
        ratio_table.c[i] = in_single(all.ratio_table.c[i]);
    for (std::size_t i = 0; i < springs.size(); ++i) {
        const ChainSpring& from = all.springs[i];
        Spring& to = springs[i];
        to.segments.from_table = from.segments.from_table;
        to.rows.resize(from.rows.size());
        to.even = from.even;
        to.table = {from.table.start, from.table.per_bin, from.table.bins, in_single(from.table.value_slope)};
        to.first_dof = from.first_dof;
        to.rubs_ = from.rubs();
    }
    for (std::size_t lane = 0; lane < kMostLiftLanes; ++lane)
        put(lane, all);
}

void LaneChain::put(std::size_t lane, const Chain& c, const DriveRipple& ripple) {
    const auto set = [lane](PerLane& to, double x) { to.of[lane] = static_cast<float>(x); };
    const auto contact = [&](Contact& to, const ContactLaw& law) {
        set(to.stiffness_N_per_m, law.stiffness_N_per_m);
        set(to.damping_s_per_m, law.damping_s_per_m);
    };
    contact(cam, c.cam);
    contact(tip, c.tip);
    contact(seat, c.seat);
    for (std::size_t i = 0; i < c.dof; ++i)
        set(per_mass[i], c.per_mass[i]);
    set(link_stiffness_N_per_m, c.link_stiffness_N_per_m);
    set(link_damping_s, c.link_damping_s);
    set(chamber.area_m2, c.chamber.area_m2);
    set(chamber.least_volume_m3, c.chamber.least_volume_m3);
    set(chamber.oil_per_Pa, c.chamber.oil_per_Pa);
    set(chamber.air_Pa, c.chamber.air_Pa);
    set(chamber.supply_Pa, c.chamber.supply_Pa);
    set(chamber.flow_m3_per_s, c.chamber.flow_m3_per_s);
    set(chamber.leak_m3_per_s_per_Pa, c.chamber.leak_m3_per_s_per_Pa);
    set(chamber.spring_N, c.chamber.spring_N);
    set(chamber.travel_m, c.chamber.travel_m);
    set(chamber.offset_m, c.chamber.offset_m);
    set(follower_viscous_N_s_per_m, c.follower_viscous_N_s_per_m);
    set(rocker_viscous_N_s_per_m, c.rocker_viscous_N_s_per_m);
    set(valve_viscous_N_s_per_m, c.valve_viscous_N_s_per_m);
    set(coulomb_N, c.coulomb_N);
    set(ratio, c.ratio);
    set(ripple_second_cos, ripple.second_cos);
    set(ripple_second_sin, ripple.second_sin);
    set(ripple_third_cos, ripple.third_cos);
    set(ripple_third_sin, ripple.third_sin);
    ripples = ripples || !(ripple == DriveRipple{});
    set(lash_m, c.lash_m);
    set(height_m, c.height_m);
    set(twist_N_m_per_rad, c.twist_N_m_per_rad);
    set(twist_damping_N_m_s, c.twist_damping_N_m_s);
    set(stem_N_per_m, c.stem_N_per_m);
    set(stem_damping_N_s_per_m, c.stem_damping_N_s_per_m);
    for (std::size_t i = 0; i < springs.size(); ++i) {
        Spring& to = springs[i];
        const ChainSpring& from = c.springs[i];
        set(to.segments.damping_s, from.segments.damping_s);
        set(to.segments.solid_m, from.segments.solid_m);
        set(to.segments.base_m, from.segments.base_m);
        set(to.rub_per_coil_N, from.rub_per_coil_N);
        for (std::size_t j = 0; j < from.rows.size(); ++j) {
            const SegmentRow& row = from.rows[j];
            set(to.rows[j].stiffness_N_per_m, row.stiffness_N_per_m);
            set(to.rows[j].free_N, row.free_N);
            set(to.rows[j].damping_N_s_per_m, row.damping_N_s_per_m);
            set(to.rows[j].share, row.share);
            set(to.rows[j].coil_per_mass, row.coil_per_mass);
            set(to.rows[j].coil_rub_per_mass, row.coil_rub_per_mass);
        }
    }
}

} // namespace bathmos
