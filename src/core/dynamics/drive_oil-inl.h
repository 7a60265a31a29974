// Drives with oil under a plunger: in the lifter, in the bucket, or under the pivot of a finger.
// Included by lanes.cpp and lift_lanes.cpp once per instruction set.
#if defined(BATHMOS_DRIVE_OIL_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef BATHMOS_DRIVE_OIL_INL_H
#undef BATHMOS_DRIVE_OIL_INL_H
#else
#define BATHMOS_DRIVE_OIL_INL_H
#endif

#include "core/dynamics/drive_solid-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathmos {
namespace HWY_NAMESPACE {
inline namespace BATHMOS_PRECISION {

// Force between the plunger's ends at an extension e and its rate; hands on the pressure's own rate.
template <bool kProbe, class C, class St>
HWY_INLINE V OilForce(const C& c, const St& st, size_t oil_dof, V e, V rate, Probe& probe) {
    const auto& o = c.chamber;
    const V pressure = st.v(oil_dof), area = Const(o.area_m2);
    const V volume = hn::MulAdd(area, Positive(e), Const(o.least_volume_m3));
    const V compliance = hn::Add(Const(o.oil_per_Pa), hn::Div(Const(o.air_Pa), hn::Mul(pressure, pressure)));
    const V per_volume = hn::Div(Const(1.0), hn::Mul(compliance, volume)); // B / V
    const V drop = Positive(hn::Sub(Const(o.supply_Pa), pressure));
    const V law =
        hn::Div(hn::Mul(Const(o.flow_m3_per_s), drop), hn::Sqrt(hn::Add(drop, Const(kCheckSmooth_Pa))));
    const V followed = hn::Div(hn::Mul(Const(kCheckStep), drop), hn::Mul(per_volume, st.t.h));
    const V in = hn::Min(law, followed);
    const V leak = hn::Mul(Const(o.leak_m3_per_s_per_Pa), hn::Sub(pressure, Const(o.supply_Pa)));
    const V flow = hn::NegMulAdd(area, rate, hn::Sub(in, leak));
    st.Put(oil_dof, pressure, hn::Mul(per_volume, flow));

    const V oil_N = hn::MulAdd(hn::Sub(pressure, Const(kAmbient_Pa)), area, Const(o.spring_N));
    if constexpr (kProbe) {
        probe.extension = e;
        probe.pressure = pressure;
        probe.loss = hn::NegMulAdd(oil_N, rate, probe.loss); // the chamber as a whole: what it takes in
    }
    const ContactLaw stop{kStopStiffness_N_per_m, kStopDamping_s_per_m};
    const V low = Contact<kProbe>(stop, hn::Neg(e), hn::Neg(rate), probe);
    const V high = Contact<kProbe>(stop, hn::Sub(e, Const(o.travel_m)), rate, probe);
    return hn::Add(oil_N, hn::Sub(low, high));
}

// Cam, body, oil, plunger, link, rocker.
struct HydraulicPushrodDrive {
    template <class St>
    static HWY_INLINE ValueSlope Pivot(const St&) {
        return {Zero(), Zero()};
    }

    template <bool kProbe, class C, class St>
    static HWY_INLINE V Run(const C& c, const St& st, const DriveInput& in, Probe& probe) {
        const V x = st.p(0), vx = st.v(0), u = st.p(1), vu = st.v(1), vq = st.v(2);
        const V cam_N = CamForce<kProbe>(c, in, x, vx, probe);
        const V e = hn::Add(hn::Sub(u, x), Const(c.chamber.offset_m));
        const V oil_N = OilForce<kProbe>(c, st, 3, e, hn::Sub(vu, vx), probe);
        const V link_N = LinkForce<kProbe>(c, u, vu, st.p(2), vq, probe);
        const V x_N =
            hn::Sub(hn::Sub(cam_N, oil_N), ViscousForce<kProbe>(c.follower_viscous_N_s_per_m, vx, probe));
        const V q_N = hn::Sub(hn::Sub(link_N, in.rocker_N),
                              ViscousForce<kProbe>(c.rocker_viscous_N_s_per_m, vq, probe));
        st.Put(0, vx, PerMass(c, x_N, 0));
        st.Put(1, vu, PerMass(c, hn::Sub(oil_N, link_N), 1));
        st.Put(2, vq, PerMass(c, q_N, 2));
        return cam_N;
    }
};

// Cam, bucket body, oil, plunger on the tip.
struct HydraulicBucketDrive {
    template <class St>
    static HWY_INLINE ValueSlope Pivot(const St&) {
        return {Zero(), Zero()};
    }

    template <bool kProbe, class C, class St>
    static HWY_INLINE V Run(const C& c, const St& st, const DriveInput& in, Probe& probe) {
        const V x = st.p(0), vx = st.v(0), vu = st.v(1);
        const V cam_N = CamForce<kProbe>(c, in, x, vx, probe);
        const V e = hn::Add(hn::Sub(st.p(1), x), Const(c.chamber.offset_m));
        const V oil_N = OilForce<kProbe>(c, st, 2, e, hn::Sub(vu, vx), probe);
        const V x_N =
            hn::Sub(hn::Sub(cam_N, oil_N), ViscousForce<kProbe>(c.follower_viscous_N_s_per_m, vx, probe));
        st.Put(0, vx, PerMass(c, x_N, 0));
        st.Put(1, vu, PerMass(c, hn::Sub(oil_N, in.rocker_N), 1));
        return cam_N;
    }
};

// Cam on a finger, whose pivot stands on the adjuster's plunger: it gives way to both ends.
struct PivotAdjusterDrive {
    template <class St>
    static HWY_INLINE ValueSlope Pivot(const St& st) {
        return {st.p(1), st.v(1)};
    }

    template <bool kProbe, class C, class St>
    static HWY_INLINE V Run(const C& c, const St& st, const DriveInput& in, Probe& probe) {
        const V a = st.p(0), va = st.v(0), u = st.p(1), vu = st.v(1);
        const V cam_N = CamForce<kProbe>(c, in, hn::Sub(a, u), hn::Sub(va, vu), probe);
        const V oil_N = OilForce<kProbe>(c, st, 2, hn::Add(u, Const(c.chamber.offset_m)), vu, probe);
        const V a_N =
            hn::Sub(hn::Sub(cam_N, in.rocker_N), ViscousForce<kProbe>(c.rocker_viscous_N_s_per_m, va, probe));
        const V u_N = hn::Add(hn::Sub(oil_N, cam_N), in.tip_N);
        st.Put(0, va, PerMass(c, a_N, 0));
        st.Put(1, vu, PerMass(c, u_N, 1));
        return cam_N;
    }
};

} // namespace BATHMOS_PRECISION
} // namespace HWY_NAMESPACE
} // namespace bathmos
HWY_AFTER_NAMESPACE();

#endif
