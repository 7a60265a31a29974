#include "core/dynamics/lift_lanes.h"

// As many instruction sets as lanes.cpp has.
#ifdef BATHMOS_FEWER_TARGETS
#define HWY_DISABLED_TARGETS (HWY_AVX3_DL | HWY_AVX3 | HWY_SSE4 | HWY_SSSE3)
#else
#define HWY_DISABLED_TARGETS (HWY_AVX3_DL | HWY_SSE4)
#endif
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/dynamics/lift_lanes.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#define BATHMOS_REAL float
#define BATHMOS_SINGLE 1
#define BATHMOS_PRECISION in_single
#include "core/dynamics/chain-inl.h"

#include "core/units/units.h"

#include <algorithm>

HWY_BEFORE_NAMESPACE();
namespace bathmos {
namespace HWY_NAMESPACE {

HWY_INLINE void KeepLift(const LiftLanes::Work& w, size_t point, const Stage<1>& st) {
    float* to = w.lift + point * hn::Lanes(D());
    const V lift = st.p(w.lift_dof), worst = Load(w.change);
    // |lift - before| <= change or not a number: then the not-a-number must win
    const V now = hn::Abs(hn::Sub(lift, Load(to)));
    Store(hn::IfThenElse(hn::Le(now, worst), worst, now), w.change);
    Store(lift, to);
}

// From one grid point to another; at kGridSteps the end of the cycle is kept, too.
template <class Drive>
void AdvanceLift(const LiftLanes::Work& w, size_t first, size_t last) {
    StepTime t;
    t.h = Load(w.step_s);
    t.half_h = hn::Mul(t.h, Const(0.5));
    t.sixth_h = hn::Mul(t.h, Const(1.0 / 6));
    t.sixth_h2 = hn::Mul(t.h, t.sixth_h);
    t.cam_rad_s = Load(w.cam_rad_s);
    const LaneChain& c = w.chain;
    const CamRow* cam = c.cam_table->rows.data() + 2 * first * c.substeps;
    Probe probe;
    for (size_t point = first; point < last; ++point) {
        KeepLift(w, point, Stage<1>{w.state, t});
        for (size_t step = 0; step < c.substeps; ++step, cam += 2) {
            Evaluate<Drive, false>(c, Stage<1>{w.state, t}, cam[0], probe);
            Evaluate<Drive, false>(c, Stage<2>{w.state, t}, cam[1], probe);
            Evaluate<Drive, false>(c, Stage<3>{w.state, t}, cam[1], probe);
            Evaluate<Drive, false>(c, Stage<4>{w.state, t}, cam[2], probe);
        }
    }
    if (last == kGridSteps)
        KeepLift(w, kGridSteps, Stage<1>{w.state, t});
}

void AdvanceLiftLanes(const LiftLanes::Work& work, size_t first, size_t last) {
    switch (work.drive) {
    case DriveKind::Pushrod:
        return AdvanceLift<PushrodDrive>(work, first, last);
    case DriveKind::Direct:
        return AdvanceLift<DirectDrive>(work, first, last);
    case DriveKind::HydraulicPushrod:
        return AdvanceLift<HydraulicPushrodDrive>(work, first, last);
    case DriveKind::HydraulicBucket:
        return AdvanceLift<HydraulicBucketDrive>(work, first, last);
    case DriveKind::PivotAdjuster:
        return AdvanceLift<PivotAdjusterDrive>(work, first, last);
    }
}

size_t LiftLaneCount() {
    return hn::Lanes(D());
}

} // namespace HWY_NAMESPACE
} // namespace bathmos
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathmos {

HWY_EXPORT(AdvanceLiftLanes);
HWY_EXPORT(LiftLaneCount);

std::size_t lift_lane_count() {
    return HWY_DYNAMIC_DISPATCH(LiftLaneCount)();
}

LiftLanes::LiftLanes(const Chain& form)
    : chain_(form), drive_(form.drive), lanes_(lift_lane_count()), dof_(form.dof), lift_dof_(form.lift_dof()),
      steps_(form.steps()), state_(kSlots * form.dof * lanes_), step_s_(lanes_), cam_rad_s_(lanes_),
      lift_(kGridPoints * lanes_), change_(lanes_) {
    const RestState rest = rest_of(form);
    for (std::size_t lane = 0; lane < lanes_; ++lane)
        start(lane, form, {}, 6000, rest); // idle lanes stay at rest numbers that cannot overflow
}

void LiftLanes::start(std::size_t lane, const Chain& chain, const DriveRipple& ripple, double speed_rpm,
                      const RestState& from) {
    chain_.put(lane, chain, ripple);
    for (std::size_t point = 0; point < kGridPoints; ++point)
        lift_[point * lanes_ + lane] = 0; // what ran away in the lane before is no change of this train's
    for (std::size_t i = 0; i < dof_; ++i) {
        state_[(i * kSlots + kPositionSlot) * lanes_ + lane] = static_cast<float>(from.position_m[i]);
        state_[(i * kSlots + kVelocitySlot) * lanes_ + lane] = static_cast<float>(from.velocity_m_per_s[i]);
    }
    cam_rad_s_[lane] = static_cast<float>(cam_speed_rad_s(speed_rpm));
    step_s_[lane] = static_cast<float>(120 / speed_rpm / static_cast<double>(steps_));
}

void LiftLanes::advance_cycle(const std::stop_token& stop) {
    const Work work{chain_,        drive_,       lift_dof_,     step_s_.data(), cam_rad_s_.data(),
                    state_.data(), lift_.data(), change_.data()};
    // pieces of at most some milliseconds, so that a stop is heard
    const std::size_t piece = std::max<std::size_t>(kGridSteps / 8 * kLeastSubsteps / chain_.substeps, 30);
    std::fill(change_.begin(), change_.end(), 0.0F);
    for (std::size_t first = 0; first < kGridSteps; first += piece) {
        throw_if_stopped(stop);
        HWY_DYNAMIC_DISPATCH(AdvanceLiftLanes)(work, first, std::min(first + piece, kGridSteps));
    }
}

RestState LiftLanes::state(std::size_t lane) const {
    RestState out;
    for (std::size_t i = 0; i < dof_; ++i) {
        out.position_m.push_back(state_[(i * kSlots + kPositionSlot) * lanes_ + lane]);
        out.velocity_m_per_s.push_back(state_[(i * kSlots + kVelocitySlot) * lanes_ + lane]);
    }
    return out;
}

} // namespace bathmos
#endif
