// What the laws need of a vector: one speed in each lane.
// Who includes it says what a lane holds: BATHMOS_REAL, double or float (BATHMOS_SINGLE 1), and a name for
// what is made of it, BATHMOS_PRECISION. Where a law asks for a number of the chain it calls Const, whether
// all lanes have one chain's or each its own. Included by lanes.cpp and lift_lanes.cpp once per instruction
// set.
#if defined(BATHMOS_VECTOR_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef BATHMOS_VECTOR_INL_H
#undef BATHMOS_VECTOR_INL_H
#else
#define BATHMOS_VECTOR_INL_H
#endif

#include "core/dynamics/lane_chain.h"

#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace bathmos {
namespace HWY_NAMESPACE {
inline namespace BATHMOS_PRECISION {

namespace hn = hwy::HWY_NAMESPACE;
using Real = BATHMOS_REAL;
using D = hn::ScalableTag<Real>;
using V = hn::Vec<D>;

HWY_INLINE V Const(double x) {
    return hn::Set(D(), static_cast<Real>(x));
}
#if BATHMOS_SINGLE
HWY_INLINE V Const(const PerLane& x) {
    return hn::Load(D(), x.of);
}
#endif
HWY_INLINE V Zero() {
    return hn::Zero(D());
}
HWY_INLINE V Load(const Real* HWY_RESTRICT from) {
    return hn::Load(D(), from);
}
HWY_INLINE void Store(V v, Real* HWY_RESTRICT to) {
    hn::Store(v, D(), to);
}
HWY_INLINE V Positive(V v) {
    return hn::Max(v, Zero());
}

// v / sqrt(v^2 + width^2), the smooth sign, by the processor's estimate of the root: relative error below
// 4e-4 (a Coulomb friction of 20 N over ten coils is off by less than 1 mN a coil).
HWY_INLINE V Sat(V v, double width) {
    const V square = hn::MulAdd(v, v, Const(width * width));
#if BATHMOS_SINGLE
    return hn::Mul(v, hn::ApproximateReciprocalSqrt(square));
#elif HWY_TARGET == HWY_AVX3
    return hn::Mul(v, V{_mm512_rsqrt14_pd(square.raw)}); // the library has it in single precision only
#elif HWY_TARGET == HWY_SCALAR || HWY_TARGET == HWY_EMU128
    return hn::Div(v, hn::Sqrt(square));
#else
    const hn::Rebind<float, D> single;
    const auto root = hn::ApproximateReciprocalSqrt(hn::DemoteTo(single, square));
    return hn::Mul(v, hn::PromoteTo(D(), root));
#endif
}

struct ValueSlope {
    V value, slope;
};

// Look-up of a binned cubic in every lane.
template <class Cubic>
HWY_INLINE ValueSlope LookUp(const Cubic& t, V x) {
    const V place = hn::Mul(hn::Sub(x, Const(t.start)), Const(t.per_bin));
    const V bin = hn::Floor(hn::Clamp(place, Zero(), Const(t.bins + 1.0)));
    const hn::RebindToSigned<D> di;
    const auto index = hn::ConvertTo(di, bin);
    const V u = hn::Sub(x, hn::MulAdd(bin, Const(1 / t.per_bin), Const(t.start)));
    const V c0 = hn::GatherIndex(D(), t.c[0].data(), index), c1 = hn::GatherIndex(D(), t.c[1].data(), index);
    const V c2 = hn::GatherIndex(D(), t.c[2].data(), index), c3 = hn::GatherIndex(D(), t.c[3].data(), index);
    return {hn::MulAdd(hn::MulAdd(hn::MulAdd(c3, u, c2), u, c1), u, c0),
            hn::MulAdd(hn::MulAdd(hn::Mul(c3, Const(3)), u, hn::Mul(c2, Const(2))), u, c1)};
}

// Value of a curve in straight pieces.
template <class Line>
HWY_INLINE V LookUpLine(const Line& t, V x) {
    const V place = hn::Mul(hn::Sub(x, Const(t.start)), Const(t.per_bin));
    const V bin = hn::Floor(hn::Clamp(place, Zero(), Const(t.bins - 1.0)));
    const hn::RebindToSigned<D> di;
    const auto index = hn::ShiftLeft<1>(hn::ConvertTo(di, bin));
    const V u = hn::Sub(x, hn::MulAdd(bin, Const(1 / t.per_bin), Const(t.start)));
    return hn::MulAdd(hn::GatherIndex(D(), t.value_slope.data() + 1, index), u,
                      hn::GatherIndex(D(), t.value_slope.data(), index));
}

// Place of a coil at rest for a lift, from a table of kStillSteps equal steps.
HWY_INLINE V Still(const Real* table, V place) {
    const V step = hn::Floor(hn::Clamp(place, Zero(), Const(kStillSteps - 1.0)));
    const hn::RebindToSigned<D> di;
    const auto index = hn::ConvertTo(di, step);
    const V here = hn::GatherIndex(D(), table, index), next = hn::GatherIndex(D(), table + 1, index);
    return hn::MulAdd(hn::Sub(next, here), hn::Sub(place, step), here);
}

// What is read off the chain at a grid point.
struct Probe {
    V follower, cam_p, tip_p, link_p, cam_N, link_N, tip_N, seat_N, spring_N;
    V surge, clash;        // m
    V extension, pressure; // of a hydraulic follower
    V power_in, loss;      // W: by the cam and the pressure on the head; turned into heat
};

// Hunt-Crossley contact force for penetration p and its rate; adds what it turns into heat.
template <bool kProbe, class Law>
HWY_INLINE V Contact(const Law& law, V p, V rate, Probe& probe) {
    const V k = Const(law.stiffness_N_per_m);
    const V depth = Positive(p);
    const V damped = hn::MulAdd(Const(law.damping_s_per_m), rate, Const(1.0));
    const V force = Positive(hn::Mul(hn::Mul(k, depth), damped));
    if constexpr (kProbe) // the elastic share comes back, the rest does not
        probe.loss = hn::MulAdd(hn::NegMulAdd(k, depth, force), rate, probe.loss);
    return force;
}

// Drag c v on a part.
template <bool kProbe, class Number>
HWY_INLINE V ViscousForce(const Number& c, V v, Probe& probe) {
    const V force = hn::Mul(Const(c), v);
    if constexpr (kProbe)
        probe.loss = hn::MulAdd(force, v, probe.loss);
    return force;
}

} // namespace BATHMOS_PRECISION
} // namespace HWY_NAMESPACE
} // namespace bathmos
HWY_AFTER_NAMESPACE();

#endif
