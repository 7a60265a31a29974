// Drives without oil: cam to rocker input through solid parts.
// Included by lanes.cpp and lift_lanes.cpp once per instruction set.
#if defined(BATHMOS_DRIVE_SOLID_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef BATHMOS_DRIVE_SOLID_INL_H
#undef BATHMOS_DRIVE_SOLID_INL_H
#else
#define BATHMOS_DRIVE_SOLID_INL_H
#endif

#include "core/dynamics/stage-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathmos {
namespace HWY_NAMESPACE {
inline namespace BATHMOS_PRECISION {

// The cam at one instant, and what the tip puts on a drive.
struct DriveInput {
    V cam_lift, rate;  // cam
    V tip_N, rocker_N; // at the tip, and as felt at the rocker's input: R(q) tip_N
};

template <class C>
HWY_INLINE V PerMass(const C& c, V force, size_t dof) {
    return hn::Mul(force, Const(c.per_mass[dof]));
}

// Cam contact of a part at x; fills the cam's part of the probe.
template <bool kProbe, class C>
HWY_INLINE V CamForce(const C& c, const DriveInput& in, V x, V vx, Probe& probe) {
    const V p = hn::Sub(in.cam_lift, x);
    const V force = Contact<kProbe>(c.cam, p, hn::Sub(in.rate, vx), probe);
    if constexpr (kProbe) {
        probe.follower = x;
        probe.cam_p = probe.link_p = p;
        probe.cam_N = probe.link_N = force;
        probe.power_in = hn::MulAdd(force, in.rate, probe.power_in);
    }
    return force;
}

// Pushrod between x and q; it cannot pull.
template <bool kProbe, class C>
HWY_INLINE V LinkForce(const C& c, V x, V vx, V q, V vq, Probe& probe) {
    const V k = Const(c.link_stiffness_N_per_m), stretch = hn::Sub(x, q), rate = hn::Sub(vx, vq);
    const V force = Positive(hn::Mul(k, hn::MulAdd(Const(c.link_damping_s), rate, stretch)));
    if constexpr (kProbe) {
        probe.link_p = stretch;
        probe.link_N = force;
        probe.loss = hn::MulAdd(hn::NegMulAdd(k, Positive(stretch), force), rate, probe.loss);
    }
    return force;
}

// Cam, follower, link, rocker.
struct PushrodDrive {
    template <class St>
    static HWY_INLINE ValueSlope Pivot(const St&) {
        return {Zero(), Zero()};
    }

    template <bool kProbe, class C, class St>
    static HWY_INLINE V Run(const C& c, const St& st, const DriveInput& in, Probe& probe) {
        const V x = st.p(0), vx = st.v(0), vq = st.v(1);
        const V cam_N = CamForce<kProbe>(c, in, x, vx, probe);
        const V link_N = LinkForce<kProbe>(c, x, vx, st.p(1), vq, probe);
        const V x_N =
            hn::Sub(hn::Sub(cam_N, link_N), ViscousForce<kProbe>(c.follower_viscous_N_s_per_m, vx, probe));
        const V q_N = hn::Sub(hn::Sub(link_N, in.rocker_N),
                              ViscousForce<kProbe>(c.rocker_viscous_N_s_per_m, vq, probe));
        st.Put(0, vx, PerMass(c, x_N, 0));
        st.Put(1, vq, PerMass(c, q_N, 1));
        return cam_N;
    }
};

// Cam straight on the one part before the tip: a rocker or finger (viscous friction of the rocker), or a
// bucket.
struct DirectDrive {
    template <class St>
    static HWY_INLINE ValueSlope Pivot(const St&) {
        return {Zero(), Zero()};
    }

    template <bool kProbe, class C, class St>
    static HWY_INLINE V Run(const C& c, const St& st, const DriveInput& in, Probe& probe) {
        const auto& viscous =
            c.layout == Layout::Bucket ? c.follower_viscous_N_s_per_m : c.rocker_viscous_N_s_per_m;
        const V v = st.v(0), cam_N = CamForce<kProbe>(c, in, st.p(0), v, probe);
        const V force = hn::Sub(hn::Sub(cam_N, in.rocker_N), ViscousForce<kProbe>(viscous, v, probe));
        st.Put(0, v, PerMass(c, force, 0));
        return cam_N;
    }
};

} // namespace BATHMOS_PRECISION
} // namespace HWY_NAMESPACE
} // namespace bathmos
HWY_AFTER_NAMESPACE();

#endif
