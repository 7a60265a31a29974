// The whole chain at one stage of a step: drive, tip, valve, seat, springs, and the camshaft's twist.
// Included by lanes.cpp and lift_lanes.cpp once per instruction set.
#if defined(BATHMOS_CHAIN_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef BATHMOS_CHAIN_INL_H
#undef BATHMOS_CHAIN_INL_H
#else
#define BATHMOS_CHAIN_INL_H
#endif

#include "core/dynamics/drive_oil-inl.h"
#include "core/dynamics/drive_solid-inl.h"
#include "core/dynamics/spring-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathmos {
namespace HWY_NAMESPACE {
inline namespace BATHMOS_PRECISION {

template <class C>
HWY_INLINE const CamBend& BendAt(const C& c, const CamRow& row) {
    return c.cam_table->bends[static_cast<size_t>(&row - c.cam_table->rows.data())];
}

// A drive's speed over its mean, and how far it is ahead of an even turning, where the table does not hold
// that.
struct DriveTurn {
    V ahead_rad, share;
};

HWY_INLINE DriveTurn TurnAt(const Chain& c, const CamRow& row) {
    return {Zero(), Const(BendAt(c, row).turning)};
}

#if BATHMOS_SINGLE
HWY_INLINE DriveTurn TurnAt(const LaneChain& c, const CamRow& row) {
    const V share = Const(BendAt(c, row).turning);
    if (!c.ripples)
        return {Zero(), share};
    const DriveWaves& w = c.cam_table->waves[static_cast<size_t>(&row - c.cam_table->rows.data())];
    const V c2 = Const(c.ripple_second_cos), s2 = Const(c.ripple_second_sin);
    const V c3 = Const(c.ripple_third_cos), s3 = Const(c.ripple_third_sin);
    const V second = hn::MulSub(c2, Const(w.second_sin / 4), hn::Mul(s2, Const(w.second_cos / 4)));
    const V third = hn::MulSub(c3, Const(w.third_sin / 6), hn::Mul(s3, Const(w.third_cos / 6)));
    const V slope_second = hn::MulAdd(c2, Const(w.second_cos), hn::Mul(s2, Const(w.second_sin)));
    const V slope_third = hn::MulAdd(c3, Const(w.third_cos), hn::Mul(s3, Const(w.third_sin)));
    return {hn::Add(second, third), hn::Add(share, hn::Add(slope_second, slope_third))};
}
#endif

// The cam's lift and slope at an angle that the camshaft's twist adds to the tabled one: a few hundredths of
// a radian at most, where the series to the third order is right to less than a nanometre.
template <class C>
HWY_INLINE ValueSlope TwistedCam(const C& c, V phi, const CamRow& row) {
    const CamBend& bend = BendAt(c, row);
    const V half = hn::Mul(phi, Const(0.5));
    const V slope_change = hn::MulAdd(half, Const(bend.m_per_rad3), Const(bend.m_per_rad2));
    const V third = hn::MulAdd(hn::Mul(phi, Const(1.0 / 3)), Const(bend.m_per_rad3), Const(bend.m_per_rad2));
    return {
        hn::MulAdd(hn::MulAdd(third, half, Const(row.cam_velocity_m_per_rad)), phi, Const(row.cam_lift_m)),
        hn::MulAdd(slope_change, phi, Const(row.cam_velocity_m_per_rad))};
}

// J phi'' = -kt phi - ct phi' - the torque of the cam's force.
template <bool kProbe, class C, class St>
HWY_INLINE void Twist(const C& c, const St& st, V turning, V torque_N_m, Probe& probe) {
    const V phi = st.p(c.twist_dof), rate = st.v(c.twist_dof);
    const V damped = hn::Mul(Const(c.twist_damping_N_m_s), rate);
    const V back = hn::MulAdd(Const(c.twist_N_m_per_rad), phi, damped);
    if constexpr (kProbe) { // the drive's power in place of the lobe's, which was taken at the contact
        probe.loss = hn::MulAdd(damped, rate, probe.loss);
        probe.power_in = hn::NegMulAdd(torque_N_m, hn::Add(turning, rate), probe.power_in);
        probe.power_in = hn::NegMulAdd(back, turning, probe.power_in);
    }
    st.Put(c.twist_dof, rate, PerMass(c, hn::Neg(hn::Add(back, torque_N_m)), c.twist_dof));
}

// What seat and pressure put on the mass that springs and tip act on.
struct Seated {
    V on_stem_N, seat_N;
};

template <bool kProbe, class C>
HWY_INLINE Seated StiffHead(const C& c, V y, V vy, double gas_N, Probe& probe) {
    const V seat_N = Contact<kProbe>(c.seat, hn::Neg(y), hn::Neg(vy), probe);
    if constexpr (kProbe)
        probe.power_in = hn::MulAdd(Const(gas_N), vy, probe.power_in);
    return {hn::Add(seat_N, Const(gas_N)), seat_N};
}

// A head of its own on the stem's spring; the stem end feels what that spring pulls.
template <bool kProbe, class C, class St>
HWY_INLINE Seated ElasticHead(const C& c, const St& st, V y, V vy, double gas_N, Probe& probe) {
    const V head = st.p(c.head_dof), rate = st.v(c.head_dof), slip = hn::Sub(rate, vy);
    const V seat_N = Contact<kProbe>(c.seat, hn::Neg(head), hn::Neg(rate), probe);
    const V damped = hn::Mul(Const(c.stem_damping_N_s_per_m), slip);
    const V pull = hn::MulAdd(Const(c.stem_N_per_m), hn::Sub(head, y), damped);
    st.Put(c.head_dof, rate, PerMass(c, hn::Sub(hn::Add(seat_N, Const(gas_N)), pull), c.head_dof));
    if constexpr (kProbe) {
        probe.power_in = hn::MulAdd(Const(gas_N), rate, probe.power_in);
        probe.loss = hn::MulAdd(damped, slip, probe.loss);
    }
    return {pull, seat_N};
}

// The chain at one stage: drive, tip contact, valve on its seat, springs.
// Not inlined: four stages of five drives in one function would take minutes to compile, for nothing.
template <class Drive, bool kProbe, class C, class St>
HWY_NOINLINE void Evaluate(const C& c, const St& st, const CamRow& cam, Probe& probe) {
    const V q = st.p(c.rocker_dof), vq = st.v(c.rocker_dof);
    const V y = st.p(c.valve_dof), vy = st.v(c.valve_dof);
    if constexpr (kProbe)
        probe.loss = probe.power_in = probe.surge = probe.clash = probe.extension = probe.pressure = Zero();
    ValueSlope g{hn::Mul(Const(c.ratio), q), Const(c.ratio)};
    if (c.ratio_table.bins)
        g = LookUp(c.ratio_table, q);
    const ValueSlope pivot = Drive::Pivot(st);
    const V tip_p = hn::Sub(hn::Sub(g.value, pivot.value), hn::Add(y, Const(c.lash_m)));
    const V tip_rate = hn::Sub(hn::MulSub(g.slope, vq, pivot.slope), vy);
    const V tip_N = Contact<kProbe>(c.tip, tip_p, tip_rate, probe);
    const V tip_at_input_N = hn::Mul(g.slope, tip_N);
    if (c.twist_dof) {
        const DriveTurn turn = TurnAt(c, cam);
        const ValueSlope cam_now = TwistedCam(c, hn::Add(st.p(c.twist_dof), turn.ahead_rad), cam);
        const V turning = hn::Mul(st.t.cam_rad_s, turn.share);
        const V rate = hn::Mul(cam_now.slope, hn::Add(turning, st.v(c.twist_dof)));
        const V cam_N =
            Drive::template Run<kProbe>(c, st, {cam_now.value, rate, tip_N, tip_at_input_N}, probe);
        Twist<kProbe>(c, st, turning, hn::Mul(cam_N, cam_now.slope), probe);
    } else {
        const V rate = hn::Mul(Const(cam.cam_velocity_m_per_rad), st.t.cam_rad_s);
        Drive::template Run<kProbe>(c, st, {Const(cam.cam_lift_m), rate, tip_N, tip_at_input_N}, probe);
    }
    const V spring_N = AllSprings<St, kProbe>(c, st, y, vy, probe);
    const Seated seated = c.head_dof ? ElasticHead<kProbe>(c, st, y, vy, cam.gas_N, probe)
                                     : StiffHead<kProbe>(c, y, vy, cam.gas_N, probe);
    V force = hn::Add(hn::Sub(tip_N, spring_N), seated.on_stem_N);
    force = hn::Sub(force, ViscousForce<kProbe>(c.valve_viscous_N_s_per_m, vy, probe));
    if (c.rubs_in_guide()) {
        const V coulomb_friction_N = hn::Mul(Const(c.coulomb_N), Sat(vy, 0.01));
        force = hn::Sub(force, coulomb_friction_N);
        if constexpr (kProbe)
            probe.loss = hn::MulAdd(coulomb_friction_N, vy, probe.loss);
    }
    st.Put(c.valve_dof, vy, PerMass(c, force, c.valve_dof));
    if constexpr (kProbe) {
        probe.tip_p = tip_p;
        probe.tip_N = tip_N;
        probe.seat_N = seated.seat_N;
        probe.spring_N = spring_N;
    }
}

} // namespace BATHMOS_PRECISION
} // namespace HWY_NAMESPACE
} // namespace bathmos
HWY_AFTER_NAMESPACE();

#endif
