#include "core/dynamics/lanes.h"

// Three instruction sets are enough: 8, 4 and 2 speeds at once.
#ifdef BATHMOS_FEWER_TARGETS
#define HWY_DISABLED_TARGETS (HWY_AVX3_DL | HWY_AVX3 | HWY_SSE4 | HWY_SSSE3)
#else
#define HWY_DISABLED_TARGETS (HWY_AVX3_DL | HWY_SSE4)
#endif
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/dynamics/lanes.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "core/dynamics/drive_oil-inl.h"
#include "core/dynamics/drive_solid-inl.h"
#include "core/dynamics/spring-inl.h"

#include "core/units/units.h"

#include <algorithm>

HWY_BEFORE_NAMESPACE();
namespace bathmos {
namespace HWY_NAMESPACE {

HWY_INLINE const CamBend& BendAt(const Chain& c, const CamRow& row) {
    return c.cam_table->bends[static_cast<size_t>(&row - c.cam_table->rows.data())];
}

// The cam's lift and slope at an angle that the camshaft's twist adds to the tabled one: a few hundredths of
// a radian at most, where the series to the third order is right to less than a nanometre.
template <class St>
HWY_INLINE ValueSlope TwistedCam(const Chain& c, const St& st, const CamRow& row) {
    const CamBend& bend = BendAt(c, row);
    const V phi = st.p(c.twist_dof), half = hn::Mul(phi, Const(0.5));
    const V slope_change = hn::MulAdd(half, Const(bend.m_per_rad3), Const(bend.m_per_rad2));
    const V third = hn::MulAdd(hn::Mul(phi, Const(1.0 / 3)), Const(bend.m_per_rad3), Const(bend.m_per_rad2));
    return {
        hn::MulAdd(hn::MulAdd(third, half, Const(row.cam_velocity_m_per_rad)), phi, Const(row.cam_lift_m)),
        hn::MulAdd(slope_change, phi, Const(row.cam_velocity_m_per_rad))};
}

// J phi'' = -kt phi - ct phi' - the torque of the cam's force.
template <bool kProbe, class St>
HWY_INLINE void Twist(const Chain& c, const St& st, V turning, V torque_N_m, Probe& probe) {
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

template <bool kProbe>
HWY_INLINE Seated StiffHead(const Chain& c, V y, V vy, double gas_N, Probe& probe) {
    const V seat_N = Contact<kProbe>(c.seat, hn::Neg(y), hn::Neg(vy), probe);
    if constexpr (kProbe)
        probe.power_in = hn::MulAdd(Const(gas_N), vy, probe.power_in);
    return {hn::Add(seat_N, Const(gas_N)), seat_N};
}

// A head of its own on the stem's spring; the stem end feels what that spring pulls.
template <bool kProbe, class St>
HWY_INLINE Seated ElasticHead(const Chain& c, const St& st, V y, V vy, double gas_N, Probe& probe) {
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
template <class Drive, bool kProbe, class St>
HWY_NOINLINE void Evaluate(const Chain& c, const St& st, const CamRow& cam, Probe& probe) {
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
        const ValueSlope cam_now = TwistedCam(c, st, cam);
        const V turning = hn::Mul(st.t.cam_rad_s, Const(BendAt(c, cam).turning));
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
    if (c.coulomb_N > 0) {
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

// The lift, which is the first channel, and how far it is from that of the cycle before.
HWY_INLINE void RecordLift(const Chain& c, LaneBlock& b, size_t point, const Stage<1>& st) {
    double* to = b.record.data() + point * hn::Lanes(D());
    double* change = b.change_m.data();
    const V lift = st.p(c.lift_dof()), worst = Load(change);
    // |lift - before| <= change or not a number: then the not-a-number must win
    const V now = hn::Abs(hn::Sub(lift, Load(to)));
    Store(hn::IfThenElse(hn::Le(now, worst), worst, now), change);
    Store(lift, to);
}

HWY_INLINE void RecordEnds(LaneBlock& b, size_t point, const Probe& p) {
    if (point == 0)
        Store(p.extension, b.first_extension_m.data());
    if (point == kGridSteps)
        Store(p.extension, b.last_extension_m.data());
}

HWY_INLINE void Record(const Chain& c, LaneBlock& b, size_t point, const Stage<1>& st, const Probe& p) {
    const size_t L = hn::Lanes(D());
    const auto put = [&](Channel channel, V v) {
        Store(v, b.record.data() + (static_cast<size_t>(channel) * kGridPoints + point) * L);
    };
    RecordLift(c, b, point, st);
    put(Channel::LiftRate, st.v(c.lift_dof()));
    put(Channel::CamPenetration, p.cam_p);
    put(Channel::TipPenetration, p.tip_p);
    put(Channel::LinkPenetration, p.link_p);
    put(Channel::CamForce, p.cam_N);
    put(Channel::LinkForce, p.link_N);
    put(Channel::TipForce, p.tip_N);
    put(Channel::SeatForce, p.seat_N);
    put(Channel::SpringForce, p.spring_N);
    put(Channel::Follower, p.follower);
    put(Channel::RockerIn, st.p(c.rocker_dof));
    put(Channel::Surge, p.surge);
    put(Channel::Clash, p.clash);
    put(Channel::Extension, p.extension);
    put(Channel::Pressure, p.pressure);
    put(Channel::PowerIn, p.power_in);
    put(Channel::Loss, p.loss);
    Store(hn::Max(Load(b.clash_m.data()), p.clash), b.clash_m.data());
    if (point % kCoilStride == 0) {
        const size_t first = c.valve_dof + 1, count = b.coil_count();
        double* to = b.coils.data() + point / kCoilStride * count * L;
        for (size_t i = 0; i < count; ++i)
            Store(st.p(first + i), to + i * L);
    }
}

// From one grid point to another; at kGridSteps the end of the cycle is recorded, too.
template <class Drive>
void Advance(const Chain& c, LaneBlock& b, size_t first, size_t last) {
    StepTime t;
    t.h = Load(b.step_s.data());
    t.half_h = hn::Mul(t.h, Const(0.5));
    t.sixth_h = hn::Mul(t.h, Const(1.0 / 6));
    t.sixth_h2 = hn::Mul(t.h, t.sixth_h);
    t.cam_rad_s = Load(b.cam_rad_s.data());
    double* state = b.state.data();
    const CamRow* cam = c.cam_rows().data() + 2 * first * c.substeps;
    Probe probe;
    const auto look = [&](size_t point) HWY_ATTR {
        const Stage<1> st{state, t};
        if (b.lift_only() && point > 0 && point < kGridSteps) {
            Evaluate<Drive, false>(c, st, cam[0], probe);
            return RecordLift(c, b, point, st);
        }
        Evaluate<Drive, true>(c, st, cam[0], probe);
        RecordEnds(b, point, probe);
        return b.lift_only() ? RecordLift(c, b, point, st) : Record(c, b, point, st, probe);
    };
    for (size_t point = first; point < last; ++point) {
        look(point);
        for (size_t step = 0; step < c.substeps; ++step, cam += 2) {
            if (step > 0)
                Evaluate<Drive, false>(c, Stage<1>{state, t}, cam[0], probe);
            Evaluate<Drive, false>(c, Stage<2>{state, t}, cam[1], probe);
            Evaluate<Drive, false>(c, Stage<3>{state, t}, cam[1], probe);
            Evaluate<Drive, false>(c, Stage<4>{state, t}, cam[2], probe);
        }
    }
    if (last == kGridSteps)
        look(kGridSteps);
}

void AdvanceBlock(const Chain& chain, LaneBlock& block, size_t first, size_t last) {
    switch (chain.drive) {
    case DriveKind::Pushrod:
        return Advance<PushrodDrive>(chain, block, first, last);
    case DriveKind::Direct:
        return Advance<DirectDrive>(chain, block, first, last);
    case DriveKind::HydraulicPushrod:
        return Advance<HydraulicPushrodDrive>(chain, block, first, last);
    case DriveKind::HydraulicBucket:
        return Advance<HydraulicBucketDrive>(chain, block, first, last);
    case DriveKind::PivotAdjuster:
        return Advance<PivotAdjusterDrive>(chain, block, first, last);
    }
}

size_t LaneCount() {
    return hn::Lanes(D());
}
const char* TargetName() {
    return hwy::TargetName(HWY_TARGET);
}

} // namespace HWY_NAMESPACE
} // namespace bathmos
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathmos {

HWY_EXPORT(AdvanceBlock);
HWY_EXPORT(LaneCount);
HWY_EXPORT(TargetName);

std::size_t lane_count() {
    return HWY_DYNAMIC_DISPATCH(LaneCount)();
}
const char* lane_target() {
    return HWY_DYNAMIC_DISPATCH(TargetName)();
}

void advance_cycle(const Chain& chain, LaneBlock& block, const std::stop_token& stop) {
    // pieces of at most some milliseconds, so that a stop is heard
    const std::size_t piece = std::max<std::size_t>(kGridSteps / 8 * kLeastSubsteps / chain.substeps, 30);
    std::fill(block.change_m.begin(), block.change_m.end(), 0.0);
    std::fill(block.clash_m.begin(), block.clash_m.end(), 0.0);
    for (std::size_t first = 0; first < kGridSteps; first += piece) {
        throw_if_stopped(stop);
        HWY_DYNAMIC_DISPATCH(AdvanceBlock)(chain, block, first, std::min(first + piece, kGridSteps));
    }
}

LaneBlock::LaneBlock(const Chain& chain, std::size_t lanes, const RestState& rest, Recorded recorded)
    : state(kSlots * chain.dof * lanes), step_s(lanes), cam_rad_s(lanes),
      record((recorded == Recorded::All ? kChannels : 1) * kGridPoints * lanes),
      coils(recorded == Recorded::All ? chain.coil_dofs * kCoilPoints * lanes : 0), change_m(lanes),
      clash_m(lanes), first_extension_m(lanes), last_extension_m(lanes), lanes_(lanes),
      coil_count_(chain.coil_dofs), steps_(chain.steps()), recorded_(recorded) {
    for (std::size_t lane = 0; lane < lanes; ++lane)
        start(lane, 6000, rest); // idle lanes stay at rest numbers that cannot overflow
}

void LaneBlock::start(std::size_t lane, double speed_rpm, const RestState& rest) {
    for (std::size_t i = 0; i < rest.position_m.size(); ++i) {
        state[(i * kSlots + kPositionSlot) * lanes_ + lane] = rest.position_m[i];
        state[(i * kSlots + kVelocitySlot) * lanes_ + lane] = rest.velocity_m_per_s[i];
    }
    cam_rad_s[lane] = cam_speed_rad_s(speed_rpm);
    step_s[lane] = 120 / speed_rpm / static_cast<double>(steps_);
}

} // namespace bathmos
#endif
