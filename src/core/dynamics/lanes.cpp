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

#define BATHMOS_REAL double
#define BATHMOS_SINGLE 0
#define BATHMOS_PRECISION in_double
#include "core/dynamics/chain-inl.h"

#include "core/units/units.h"

#include <algorithm>

HWY_BEFORE_NAMESPACE();
namespace bathmos {
namespace HWY_NAMESPACE {

HWY_INLINE void Record(const Chain& c, LaneBlock& b, size_t point, const Stage<1>& st, const Probe& p) {
    const size_t L = hn::Lanes(D());
    const auto put = [&](Channel channel, V v) {
        Store(v, b.record.data() + (static_cast<size_t>(channel) * kGridPoints + point) * L);
    };
    const V lift = st.p(c.lift_dof());
    double* change = b.change_m.data();
    const V before = Load(b.record.data() + point * L); // of the cycle before
    // |lift - before| <= change or not a number: then the not-a-number must win
    const V now = hn::Abs(hn::Sub(lift, before));
    const V worst = Load(change);
    Store(hn::IfThenElse(hn::Le(now, worst), worst, now), change);
    put(Channel::Lift, lift);
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
    for (size_t point = first; point < last; ++point) {
        Evaluate<Drive, true>(c, Stage<1>{state, t}, cam[0], probe);
        Record(c, b, point, Stage<1>{state, t}, probe);
        for (size_t step = 0; step < c.substeps; ++step, cam += 2) {
            if (step > 0)
                Evaluate<Drive, false>(c, Stage<1>{state, t}, cam[0], probe);
            Evaluate<Drive, false>(c, Stage<2>{state, t}, cam[1], probe);
            Evaluate<Drive, false>(c, Stage<3>{state, t}, cam[1], probe);
            Evaluate<Drive, false>(c, Stage<4>{state, t}, cam[2], probe);
        }
    }
    if (last == kGridSteps) {
        Evaluate<Drive, true>(c, Stage<1>{state, t}, cam[0], probe);
        Record(c, b, kGridSteps, Stage<1>{state, t}, probe);
    }
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

LaneBlock::LaneBlock(const Chain& chain, std::size_t lanes, const RestState& rest)
    : state(kSlots * chain.dof * lanes), step_s(lanes), cam_rad_s(lanes),
      record(kChannels * kGridPoints * lanes), coils(chain.coil_dofs * kCoilPoints * lanes), change_m(lanes),
      clash_m(lanes), lanes_(lanes), coil_count_(chain.coil_dofs), steps_(chain.steps()) {
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
