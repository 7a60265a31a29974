// The coils of one spring, from seat to retainer.
// Included by lanes.cpp once per instruction set.
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

// Place of a coil at rest under a lift.
HWY_INLINE V StillPlace(const ChainSpring& spring, size_t coil, V y) {
    const SegmentRow& row = spring.rows[coil + 1];
    if (spring.still_m.empty())
        return hn::MulAdd(Const(row.still_per_lift), y, Const(row.still_m));
    const V place = hn::Mul(y, Const(kStillSteps / spring.still_reach_m));
    return Still(spring.still_m.data() + coil * (kStillSteps + 1), place);
}

// Largest departure of a coil from its place at rest.
template <class St>
HWY_INLINE V Surge(const ChainSpring& spring, const St& st, V y) {
    V worst = Zero();
    for (size_t i = 0; i + 1 < spring.rows.size(); ++i)
        worst = hn::Max(worst, hn::Abs(hn::Sub(st.p(spring.first_dof + i), StillPlace(spring, i, y))));
    return worst;
}

// Hands on the coils' accelerations; returns the force on the retainer (closes the valve). With kClash off
// the caller must look at `shortest` and run again with it on where a segment is below solid.
template <class St, bool kTable, bool kRub, bool kClash, bool kProbe>
HWY_INLINE V SpringChain(const Chain& c, const ChainSpring& spring, const St& st, V y, V vy, V& shortest,
                         Probe& probe) {
    const SpringSegments& s = spring.segments;
    const size_t coils = spring.rows.size() - 1;
    const SegmentRow* HWY_RESTRICT row = spring.rows.data();
    double* HWY_RESTRICT coil = st.At(spring.first_dof);
    const V whole = Const(static_cast<double>(coils + 1)), solid = Const(s.solid_m);
    const V ahead = st.Ahead(), sixth_h = st.t.sixth_h, sixth_h2 = st.t.sixth_h2;
    V nearest = Const(1e3), rubbed = Zero();
    // force of the segment with this row between two ends
    const auto segment = [&](const SegmentRow& r, V length, V rate) HWY_ATTR {
        V f = kTable ? LookUp(spring.table, hn::Mul(whole, length))
                     : hn::NegMulAdd(Const(r.stiffness_N_per_m), length, Const(r.free_N));
        f = hn::NegMulAdd(Const(r.damping_N_s_per_m), rate, f);
        nearest = hn::Min(nearest, length);
        if constexpr (kProbe)
            probe.loss = hn::MulAdd(hn::Mul(Const(r.damping_N_s_per_m), rate), rate, probe.loss);
        if constexpr (kClash)
            f = hn::Add(f, Contact<kProbe>({kClashStiffness_N_per_m, 1.0}, hn::Sub(solid, length),
                                           hn::Neg(rate), probe));
        return f;
    };
    // one coil between the forces below and above it
    const auto put = [&](const SegmentRow& r, V v, V f_below, V f_above) HWY_ATTR {
        V k = hn::Mul(hn::Sub(f_below, f_above), Const(r.coil_per_mass));
        if constexpr (kRub) {
            const V share = Const(r.share), slip = hn::MulAdd(vy, share, v), sat = Sat(slip, 0.02F);
            k = hn::NegMulAdd(Const(r.coil_rub_per_mass), sat, k);
            rubbed = hn::MulAdd(share, sat, rubbed);
            if constexpr (kProbe)
                probe.loss = hn::MulAdd(hn::Mul(Const(spring.rub_per_coil_N), sat), slip, probe.loss);
        }
        St::Put(coil, v, k, ahead, sixth_h, sixth_h2);
    };
    V z = St::P(coil), v = St::Vel(coil);
    V f = segment(*row++, hn::Sub(z, Const(s.base_m)), v);
    for (size_t i = 1; i < coils; ++i) {
        const double* next = coil + St::Stride();
        const V z_next = St::P(next), v_next = St::Vel(next);
        const V f_next = segment(*row, hn::Sub(z_next, z), hn::Sub(v_next, v));
        put(*row, v, f, f_next);
        ++row;
        coil += St::Stride();
        z = z_next;
        v = v_next;
        f = f_next;
    }
    const V top = hn::Sub(Const(c.height_m), y);
    const V f_top = segment(*row, hn::Sub(top, z), hn::Neg(hn::Add(vy, v)));
    put(*row, v, f, f_top);
    shortest = nearest;
    return kRub ? hn::MulAdd(Const(spring.rub_per_coil_N), rubbed, f_top) : f_top;
}

template <class St, bool kTable, bool kRub, bool kProbe>
V SpringForce(const Chain& c, const ChainSpring& spring, const St& st, V y, V vy, Probe& probe) {
    V shortest;
    const V loss = probe.loss;
    V force = SpringChain<St, kTable, kRub, false, kProbe>(c, spring, st, y, vy, shortest, probe);
    const V solid = Const(spring.segments.solid_m);
    if (HWY_UNLIKELY(!hn::AllFalse(D(), hn::Lt(shortest, solid)))) {
        probe.loss = loss;
        force = SpringChain<St, kTable, kRub, true, kProbe>(c, spring, st, y, vy, shortest, probe);
    }
    if constexpr (kProbe) {
        probe.surge = hn::Max(probe.surge, Surge(spring, st, y));
        probe.clash = hn::Max(probe.clash, hn::Sub(solid, shortest));
    }
    return force;
}

template <class St, bool kProbe>
HWY_INLINE V AllSprings(const Chain& c, const St& st, V y, V vy, Probe& probe) {
    V sum = Zero();
    for (const ChainSpring& spring : c.springs) {
        const bool table = spring.segments.from_table, rub = spring.rub_per_coil_N > 0;
        const auto law = table ? rub ? SpringForce<St, true, true, kProbe> : SpringForce<St, true, false, kProbe>
                         : rub ? SpringForce<St, false, true, kProbe>
                               : SpringForce<St, false, false, kProbe>;
        sum = hn::Add(sum, law(c, spring, st, y, vy, probe));
    }
    return sum;
}

} // namespace HWY_NAMESPACE
} // namespace bathmos
HWY_AFTER_NAMESPACE();

#endif
