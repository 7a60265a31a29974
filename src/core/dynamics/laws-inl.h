// The laws of the chain, written once for any vector width. Included by lanes.cpp once per instruction set.
#if defined(BATHMOS_LAWS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef BATHMOS_LAWS_INL_H
#undef BATHMOS_LAWS_INL_H
#else
#define BATHMOS_LAWS_INL_H
#endif

#include "core/dynamics/chain.h"

#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace bathmos {
namespace HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;
using D = hn::ScalableTag<double>;
using V = hn::Vec<D>;

HWY_INLINE V Const(double x) {
    return hn::Set(D(), x);
}
HWY_INLINE V Load(const double* from) {
    return hn::LoadU(D(), from);
}
HWY_INLINE void Store(V v, double* to) {
    hn::StoreU(v, D(), to);
}
HWY_INLINE V Positive(V v) {
    return hn::Max(v, hn::Zero(D()));
}

// 1 / sqrt(x), x >= 1: hardware estimate in single precision and one Newton step, relative error below 3e-7
// (a rub of 30 N is off by 10 uN).
HWY_INLINE V ReciprocalRoot(V x) {
#if HWY_TARGET == HWY_SCALAR || HWY_TARGET == HWY_EMU128
    return hn::Div(Const(1.0), hn::Sqrt(x));
#else
    const hn::Rebind<float, D> single;
    const V r = hn::PromoteTo(D(), hn::ApproximateReciprocalSqrt(hn::DemoteTo(single, x)));
    return hn::Mul(r, hn::NegMulAdd(hn::Mul(hn::Mul(x, r), r), Const(0.5), Const(1.5)));
#endif
}

// Smooth sign: u / sqrt(1 + u^2).
HWY_INLINE V Sat(V u) {
    return hn::Mul(u, ReciprocalRoot(hn::MulAdd(u, u, Const(1.0))));
}

// Hunt-Crossley contact force for penetration p and its rate.
HWY_INLINE V Contact(const ContactLaw& law, V p, V rate) {
    const V damped = hn::MulAdd(Const(law.damping_s_per_m), rate, Const(1.0));
    return Positive(hn::Mul(hn::Mul(Const(law.stiffness_N_per_m), Positive(p)), damped));
}

struct ValueSlope {
    V value, slope;
};

// Look-up of a binned cubic in every lane.
HWY_INLINE ValueSlope LookUp(const BinnedCubic& t, V x) {
    const V place = hn::Mul(hn::Sub(x, Const(t.start)), Const(t.per_bin));
    const V bin = hn::Floor(hn::Clamp(place, hn::Zero(D()), Const(t.bins + 1.0)));
    const hn::RebindToSigned<D> di;
    const auto index = hn::ConvertTo(di, bin);
    const V u = hn::Sub(x, hn::MulAdd(bin, Const(1 / t.per_bin), Const(t.start)));
    const V c0 = hn::GatherIndex(D(), t.c[0].data(), index), c1 = hn::GatherIndex(D(), t.c[1].data(), index);
    const V c2 = hn::GatherIndex(D(), t.c[2].data(), index), c3 = hn::GatherIndex(D(), t.c[3].data(), index);
    return {hn::MulAdd(hn::MulAdd(hn::MulAdd(c3, u, c2), u, c1), u, c0),
            hn::MulAdd(hn::MulAdd(hn::Mul(c3, Const(3)), u, hn::Mul(c2, Const(2))), u, c1)};
}

// Where the drive, the tip and the valve write what a recorder wants to know.
struct Probe {
    V cam_p, tip_p, link_p, cam_N, link_N, tip_N, seat_N, spring_N, surge, clash;
};

// The cam at one instant: rise and its rate in every lane.
struct CamState {
    V rise, rate;
};

// ---- drives: from the cam to the rocker's input. Each writes the acceleration of its dofs, given the force
// that
// ---- the tip puts on the rocker's input.

// Cam, follower, link that cannot pull, rocker.
struct PushrodDrive {
    static HWY_INLINE void Run(const Chain& c, const double* pos, const double* vel, CamState cam, V input_N,
                               const double* inverse_mass, double* acc, Probe* probe) {
        const size_t L = hn::Lanes(D());
        const V x = Load(pos), q = Load(pos + L), vx = Load(vel), vq = Load(vel + L);
        const V p = hn::Sub(cam.rise, x);
        const V cam_N = Contact(c.cam, p, hn::Sub(cam.rate, vx));
        const V stretch = hn::Sub(x, q);
        const V link_N = Positive(hn::Mul(Const(c.link_stiffness_N_per_m),
                                          hn::MulAdd(Const(c.link_damping_s), hn::Sub(vx, vq), stretch)));
        const V x_N = hn::NegMulAdd(Const(c.follower_drag_N_s_per_m), vx, hn::Sub(cam_N, link_N));
        const V q_N = hn::NegMulAdd(Const(c.rocker_drag_N_s_per_m), vq, hn::Sub(link_N, input_N));
        Store(hn::Mul(x_N, Const(inverse_mass[0])), acc);
        Store(hn::Mul(q_N, Const(inverse_mass[1])), acc + L);
        if (probe) {
            probe->cam_p = p;
            probe->link_p = stretch;
            probe->cam_N = cam_N;
            probe->link_N = link_N;
        }
    }
};

// Cam straight on the one moving part before the tip: a rocker or finger (drag of the rocker), or a bucket.
struct DirectDrive {
    static HWY_INLINE void Run(const Chain& c, const double* pos, const double* vel, CamState cam, V input_N,
                               const double* inverse_mass, double* acc, Probe* probe) {
        const double drag = c.layout == Layout::Bucket ? c.follower_drag_N_s_per_m : c.rocker_drag_N_s_per_m;
        const V v = Load(vel), p = hn::Sub(cam.rise, Load(pos));
        const V cam_N = Contact(c.cam, p, hn::Sub(cam.rate, v));
        const V force = hn::NegMulAdd(Const(drag), v, hn::Sub(cam_N, input_N));
        Store(hn::Mul(force, Const(inverse_mass[0])), acc);
        if (probe) {
            probe->cam_p = probe->link_p = p;
            probe->cam_N = probe->link_N = cam_N;
        }
    }
};

// ---- springs

// Forces of one spring on its coils; returns the force on the retainer (closes the valve).
template <bool kTable>
HWY_INLINE V SpringForce(const Chain& c, const ChainSpring& spring, const double* pos, const double* vel, V y,
                         V vy, const double* inverse_mass, double* acc) {
    const size_t L = hn::Lanes(D());
    const SpringSegments& s = spring.segments;
    const size_t n = static_cast<size_t>(s.count);
    const V solid = Const(s.solid_m), free = Const(s.free_m), clash = Const(kClashStiffness_N_per_m);
    const V damping = Const(s.damping_s), whole = Const(static_cast<double>(s.count));
    const V rub = Const(spring.rub_per_coil_N);
    const V top_v = hn::Neg(vy), top = hn::Sub(Const(c.height_m), y);
    const double per_coil = 1.0 / s.count;
    V below = Const(s.base_m), below_v = hn::Zero(D());
    V f_below = hn::Zero(D()), reaction = hn::Zero(D());
    for (size_t j = 0; j < n; ++j) {
        const size_t dof = spring.first_dof + j;
        const bool last = j + 1 == n;
        const V z = last ? top : Load(pos + dof * L), v = last ? top_v : Load(vel + dof * L);
        const V length = hn::Sub(z, below), rate = hn::Sub(v, below_v);
        const V k = Const(s.stiffness_N_per_m[j]);
        V f;
        if (kTable)
            f = hn::NegMulAdd(hn::Mul(k, damping), rate, LookUp(spring.table, hn::Mul(whole, length)).value);
        else
            f = hn::Mul(k, hn::NegMulAdd(damping, rate, hn::Sub(free, length)));
        const V p = Positive(hn::Sub(solid, length));
        f = hn::Add(f, Positive(hn::Mul(hn::Mul(clash, p), hn::Sub(Const(1.0), rate))));
        if (j > 0) { // the coil between the segment below and this one
            const double share = static_cast<double>(j) * per_coil;
            const V slip = hn::NegMulAdd(top_v, Const(share), below_v);
            const V rub_N = hn::Neg(hn::Mul(rub, Sat(hn::Mul(slip, Const(1 / 0.02)))));
            reaction = hn::MulAdd(Const(share), rub_N, reaction);
            Store(hn::Mul(hn::Add(hn::Sub(f_below, f), rub_N), Const(inverse_mass[dof - 1])),
                  acc + (dof - 1) * L);
        }
        f_below = f;
        below = z;
        below_v = v;
    }
    return hn::Sub(f_below, reaction);
}

HWY_INLINE V AllSprings(const Chain& c, const double* pos, const double* vel, V y, V vy,
                        const double* inverse_mass, double* acc) {
    V sum = hn::Zero(D());
    for (const ChainSpring& spring : c.springs)
        sum = hn::Add(sum, spring.segments.from_table
                               ? SpringForce<true>(c, spring, pos, vel, y, vy, inverse_mass, acc)
                               : SpringForce<false>(c, spring, pos, vel, y, vy, inverse_mass, acc));
    return sum;
}

// Largest departure of a coil from its quasi-static place.
HWY_INLINE V Surge(const Chain& c, const double* pos, V y) {
    const size_t L = hn::Lanes(D());
    V worst = hn::Zero(D());
    for (const ChainSpring& spring : c.springs) {
        const SpringSegments& s = spring.segments;
        const V span = hn::Sub(hn::Sub(Const(c.height_m), y), Const(s.base_m));
        double compliance = 0;
        for (double k : s.stiffness_N_per_m)
            compliance += 1 / k;
        // what each segment gives is its share of the whole compliance
        const V squeeze = hn::Sub(Const(s.from_table ? 0.0 : s.free_m * s.count), span);
        double share = 0;
        for (size_t j = 0; j + 1 < static_cast<size_t>(s.count); ++j) {
            share += 1 / s.stiffness_N_per_m[j] / compliance;
            const double free = s.from_table ? 0.0 : s.free_m * static_cast<double>(j + 1);
            const V place = hn::NegMulAdd(squeeze, Const(share), Const(s.base_m + free));
            worst = hn::Max(worst, hn::Abs(hn::Sub(Load(pos + (spring.first_dof + j) * L), place)));
        }
    }
    return worst;
}

// Deepest overlap of a segment below its solid length.
HWY_INLINE V Clash(const Chain& c, const double* pos, V y) {
    const size_t L = hn::Lanes(D());
    V worst = hn::Zero(D());
    for (const ChainSpring& spring : c.springs) {
        const size_t n = static_cast<size_t>(spring.segments.count);
        V below = Const(spring.segments.base_m);
        for (size_t j = 0; j < n; ++j) {
            const V z = j + 1 == n ? hn::Sub(Const(c.height_m), y) : Load(pos + (spring.first_dof + j) * L);
            worst = hn::Max(worst, hn::Sub(Const(spring.segments.solid_m), hn::Sub(z, below)));
            below = z;
        }
    }
    return worst;
}

// ---- the chain: drive, tip contact, valve on its seat, springs

template <class Drive>
HWY_INLINE void Accelerate(const Chain& c, const double* inverse_mass, const double* pos, const double* vel,
                           CamState cam, double* acc, Probe* probe) {
    const size_t L = hn::Lanes(D());
    const V q = Load(pos + c.rocker_dof * L), vq = Load(vel + c.rocker_dof * L);
    const V y = Load(pos + c.valve_dof * L), vy = Load(vel + c.valve_dof * L);
    ValueSlope g{hn::Mul(Const(c.ratio), q), Const(c.ratio)};
    if (c.ratio_table.bins)
        g = LookUp(c.ratio_table, q);
    const V tip_p = hn::Sub(hn::Sub(g.value, Const(c.lash_m)), y);
    const V tip_N = Contact(c.tip, tip_p, hn::MulSub(g.slope, vq, vy));
    Drive::Run(c, pos, vel, cam, hn::Mul(g.slope, tip_N), inverse_mass, acc, probe);
    const V seat_N = Contact(c.seat, hn::Neg(y), hn::Neg(vy));
    const V spring_N = AllSprings(c, pos, vel, y, vy, inverse_mass, acc);
    V force = hn::Add(hn::Sub(hn::Add(tip_N, seat_N), spring_N), Const(c.gas_N));
    force = hn::NegMulAdd(Const(c.valve_drag_N_s_per_m), vy, force);
    if (c.coulomb_N > 0)
        force = hn::NegMulAdd(Const(c.coulomb_N), Sat(hn::Mul(vy, Const(1 / 0.01))), force);
    Store(hn::Mul(force, Const(inverse_mass[c.valve_dof])), acc + c.valve_dof * L);
    if (probe) {
        probe->tip_p = tip_p;
        probe->tip_N = tip_N;
        probe->seat_N = seat_N;
        probe->spring_N = spring_N;
        probe->surge = Surge(c, pos, y);
        probe->clash = Clash(c, pos, y);
    }
}

} // namespace HWY_NAMESPACE
} // namespace bathmos
HWY_AFTER_NAMESPACE();

#endif
