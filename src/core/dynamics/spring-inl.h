// The coils of one spring, from seat to retainer.
// Included by lanes.cpp and lift_lanes.cpp once per instruction set.
#if defined(BATHMOS_SPRING_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef BATHMOS_SPRING_INL_H
#undef BATHMOS_SPRING_INL_H
#else
#define BATHMOS_SPRING_INL_H
#endif

#include "core/dynamics/stage-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathmos {
namespace HWY_NAMESPACE {
inline namespace BATHMOS_PRECISION {

// Place of a coil at rest under a lift.
template <class Spring>
HWY_INLINE V StillPlace(const Spring& spring, size_t coil, V y) {
    const auto& row = spring.rows[coil + 1];
    if (spring.still_m.empty())
        return hn::MulAdd(Const(row.still_per_lift), y, Const(row.still_m));
    const V place = hn::Mul(y, Const(kStillSteps / spring.still_reach_m));
    return Still(spring.still_m.data() + coil * (kStillSteps + 1), place);
}

// Largest departure of a coil from its place at rest.
template <class Spring, class St>
HWY_INLINE V Surge(const Spring& spring, const St& st, V y) {
    V worst = Zero();
    for (size_t i = 0; i + 1 < spring.rows.size(); ++i)
        worst = hn::Max(worst, hn::Abs(hn::Sub(st.p(spring.first_dof + i), StillPlace(spring, i, y))));
    return worst;
}

// How the force of a segment comes about. Even: all segments are alike, so what the coils feel is the
// difference of two lengths, and the constants stay in registers.
enum class Law { Even, Uneven, Table };

// One number for each segment: the force; for even springs the length, stretched by damping, that stands for
// it.
template <Law kLaw, class Spring>
struct SegmentLaw {
    const Spring& spring;
    V damping, stiffness, free_N, coil_per_mass, rub_per_mass, whole;

    explicit HWY_INLINE SegmentLaw(const Spring& of) : spring(of) {
        const auto& r = of.rows.back();
        stiffness = Const(r.stiffness_N_per_m);
        free_N = Const(r.free_N);
        damping = Const(kLaw == Law::Even ? of.segments.damping_s : r.damping_N_s_per_m);
        coil_per_mass = Const(r.coil_per_mass);
        if constexpr (kLaw == Law::Even)
            coil_per_mass = hn::Mul(coil_per_mass, stiffness);
        rub_per_mass = Const(r.coil_rub_per_mass);
        whole = Const(static_cast<double>(of.rows.size()));
    }
    template <class Row>
    HWY_INLINE V Of(const Row& r, V length, V rate) const {
        if constexpr (kLaw == Law::Even)
            return hn::MulAdd(damping, rate, length);
        const V elastic = kLaw == Law::Table
                              ? LookUpLine(spring.table, hn::Mul(whole, length))
                              : hn::NegMulAdd(Const(r.stiffness_N_per_m), length, Const(r.free_N));
        return hn::NegMulAdd(Const(r.damping_N_s_per_m), rate, elastic);
    }
    // Adds a force that pushes the segment's ends apart.
    HWY_INLINE V Push(V one, V force) const {
        return kLaw == Law::Even ? hn::Sub(one, hn::Div(force, stiffness)) : hn::Add(one, force);
    }
    template <class Row>
    HWY_INLINE V Acceleration(const Row& r, V below, V above) const {
        if constexpr (kLaw == Law::Even)
            return hn::Mul(hn::Sub(above, below), coil_per_mass);
        return hn::Mul(hn::Sub(below, above), Const(r.coil_per_mass));
    }
    template <class Row>
    HWY_INLINE V RubPerMass(const Row& r) const {
        return kLaw == Law::Even ? rub_per_mass : Const(r.coil_rub_per_mass);
    }
    HWY_INLINE V Force(V one) const {
        return kLaw == Law::Even ? hn::NegMulAdd(stiffness, one, free_N) : one;
    }
};

// Hands on the coils' accelerations; returns the force on the retainer (closes the valve). With kClash off
// the caller must look at `shortest` and run again with it on where a segment is below solid.
template <class St, Law kLaw, bool kRub, bool kClash, bool kProbe, class C, class Spring>
HWY_INLINE V SpringChain(const C& c, const Spring& spring, const St& st, V y, V vy, V& shortest,
                         Probe& probe) {
    const auto& s = spring.segments;
    const SegmentLaw<kLaw, Spring> law(spring);
    const size_t coils = spring.rows.size() - 1;
    const auto* HWY_RESTRICT row = spring.rows.data();
    Real* HWY_RESTRICT coil = st.At(spring.first_dof);
    const V solid = Const(s.solid_m), ahead = st.Ahead(), sixth_h = st.t.sixth_h, sixth_h2 = st.t.sixth_h2;
    V nearest = Const(1e3), rubbed = Zero();
    const auto segment = [&](const auto& r, V length, V rate) HWY_ATTR {
        V one = law.Of(r, length, rate);
        nearest = hn::Min(nearest, length);
        if constexpr (kProbe)
            probe.loss = hn::MulAdd(hn::Mul(Const(r.damping_N_s_per_m), rate), rate, probe.loss);
        if constexpr (kClash)
            one = law.Push(one, Contact<kProbe>(ContactLaw{kClashStiffness_N_per_m, 1.0},
                                                hn::Sub(solid, length), hn::Neg(rate), probe));
        return one;
    };
    // one coil between the segments below and above it
    const auto put = [&](const auto& r, V v, V below, V above) HWY_ATTR {
        V k = law.Acceleration(r, below, above);
        if constexpr (kRub) {
            const V slip = hn::MulAdd(vy, Const(r.share), v), sat = Sat(slip, 0.02);
            k = hn::NegMulAdd(law.RubPerMass(r), sat, k);
            rubbed = hn::MulAdd(Const(r.share), sat, rubbed);
            if constexpr (kProbe)
                probe.loss = hn::MulAdd(hn::Mul(Const(spring.rub_per_coil_N), sat), slip, probe.loss);
        }
        St::Put(coil, v, k, ahead, sixth_h, sixth_h2);
    };
    V z = St::P(coil), v = St::Vel(coil);
    V one = segment(*row++, hn::Sub(z, Const(s.base_m)), v);
#pragma GCC unroll 2
    for (size_t i = 1; i < coils; ++i) {
        const Real* next = coil + St::Stride();
        const V z_next = St::P(next), v_next = St::Vel(next);
        const V one_next = segment(*row, hn::Sub(z_next, z), hn::Sub(v_next, v));
        put(*row, v, one, one_next);
        ++row;
        coil += St::Stride();
        z = z_next;
        v = v_next;
        one = one_next;
    }
    const V top = hn::Sub(Const(c.height_m), y);
    const V one_top = segment(*row, hn::Sub(top, z), hn::Neg(hn::Add(vy, v)));
    put(*row, v, one, one_top);
    shortest = nearest;
    const V f_top = law.Force(one_top);
    return kRub ? hn::MulAdd(Const(spring.rub_per_coil_N), rubbed, f_top) : f_top;
}

template <class St, Law kLaw, bool kRub, bool kProbe, class C, class Spring>
V SpringForce(const C& c, const Spring& spring, const St& st, V y, V vy, Probe& probe) {
    V shortest;
    const V loss = probe.loss;
    V force = SpringChain<St, kLaw, kRub, false, kProbe>(c, spring, st, y, vy, shortest, probe);
    const V solid = Const(spring.segments.solid_m);
    if (HWY_UNLIKELY(!hn::AllFalse(D(), hn::Lt(shortest, solid)))) {
        probe.loss = loss;
        force = SpringChain<St, kLaw, kRub, true, kProbe>(c, spring, st, y, vy, shortest, probe);
    }
    if constexpr (kProbe) {
        probe.surge = hn::Max(probe.surge, Surge(spring, st, y));
        probe.clash = hn::Max(probe.clash, hn::Sub(solid, shortest));
    }
    return force;
}

template <class St, Law kLaw, bool kProbe, class C, class Spring>
HWY_INLINE auto WithRub(const C&, const Spring& spring) {
    return spring.rubs() ? SpringForce<St, kLaw, true, kProbe, C, Spring>
                         : SpringForce<St, kLaw, false, kProbe, C, Spring>;
}

template <class St, bool kProbe, class C>
HWY_INLINE V AllSprings(const C& c, const St& st, V y, V vy, Probe& probe) {
    V sum = Zero();
    for (const auto& spring : c.springs) {
        const auto law = spring.segments.from_table ? WithRub<St, Law::Table, kProbe>(c, spring)
                         : spring.even              ? WithRub<St, Law::Even, kProbe>(c, spring)
                                                    : WithRub<St, Law::Uneven, kProbe>(c, spring);
        sum = hn::Add(sum, law(c, spring, st, y, vy, probe));
    }
    return sum;
}

} // namespace BATHMOS_PRECISION
} // namespace HWY_NAMESPACE
} // namespace bathmos
HWY_AFTER_NAMESPACE();

#endif
