#include "core/dynamics/lanes.h"

// Three instruction sets are enough: 8, 4 and 2 speeds at once.
#define HWY_DISABLED_TARGETS (HWY_AVX3_DL | HWY_SSE4)
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/dynamics/lanes.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "core/dynamics/laws-inl.h"

#include "core/units/units.h"

HWY_BEFORE_NAMESPACE();
namespace bathmos {
namespace HWY_NAMESPACE {

HWY_INLINE void Record(const Chain& c, LaneBlock& b, size_t point, const double* pos, const double* vel,
                       const Probe& p) {
    const size_t L = hn::Lanes(D());
    const auto put = [&](Channel channel, V v) {
        Store(v, b.record.data() + (static_cast<size_t>(channel) * kGridPoints + point) * L);
    };
    put(Channel::Lift, Load(pos + c.valve_dof * L));
    put(Channel::LiftRate, Load(vel + c.valve_dof * L));
    put(Channel::CamPenetration, p.cam_p);
    put(Channel::TipPenetration, p.tip_p);
    put(Channel::LinkPenetration, p.link_p);
    put(Channel::CamForce, p.cam_N);
    put(Channel::LinkForce, p.link_N);
    put(Channel::TipForce, p.tip_N);
    put(Channel::SeatForce, p.seat_N);
    put(Channel::SpringForce, p.spring_N);
    put(Channel::Follower, Load(pos));
    put(Channel::RockerIn, Load(pos + c.rocker_dof * L));
    put(Channel::Surge, p.surge);
    put(Channel::Clash, p.clash);
    if (point % kCoilStride == 0) {
        const size_t first = c.valve_dof + 1, count = b.coil_count();
        double* to = b.coils.data() + point / kCoilStride * count * L;
        for (size_t i = 0; i < count; ++i)
            Store(Load(pos + (first + i) * L), to + i * L);
    }
}

template <class Drive>
void Cycle(const Chain& c, LaneBlock& b) {
    const size_t L = hn::Lanes(D()), width = c.dof * L;
    double* pos = b.position.data();
    double* vel = b.velocity.data();
    double* p = b.work.data(); // stage position, stage velocity, acceleration, sums
    double *v = p + width, *a = v + width, *sum_p = a + width, *sum_v = sum_p + width;
    const double* inverse_mass = sum_v + width; // filled by LaneBlock
    const V h = Load(b.step_s.data()), w = Load(b.cam_rad_s.data());
    const V half_h = hn::Mul(h, Const(0.5)), sixth_h = hn::Mul(h, Const(1.0 / 6));
    const auto cam_at = [&](size_t half_step) {
        return CamState{Const(c.rise_m[half_step]), hn::Mul(Const(c.rise_slope[half_step]), w)};
    };
    const size_t steps = c.steps(), stride = 2 * c.refine;
    for (size_t step = 0; step < steps; ++step) {
        if (step % stride == 0) {
            Probe probe;
            Accelerate<Drive>(c, inverse_mass, pos, vel, cam_at(2 * step), a, &probe);
            Record(c, b, step / stride, pos, vel, probe);
        } else {
            Accelerate<Drive>(c, inverse_mass, pos, vel, cam_at(2 * step), a, nullptr);
        }
        for (size_t i = 0; i < width; i += L) {
            const V p0 = Load(pos + i), v0 = Load(vel + i), k = Load(a + i);
            Store(v0, sum_p + i);
            Store(k, sum_v + i);
            Store(hn::MulAdd(half_h, v0, p0), p + i);
            Store(hn::MulAdd(half_h, k, v0), v + i);
        }
        Accelerate<Drive>(c, inverse_mass, p, v, cam_at(2 * step + 1), a, nullptr);
        const auto middle = [&](V next) {
            for (size_t i = 0; i < width; i += L) {
                const V stage_v = Load(v + i), k = Load(a + i);
                Store(hn::MulAdd(Const(2), stage_v, Load(sum_p + i)), sum_p + i);
                Store(hn::MulAdd(Const(2), k, Load(sum_v + i)), sum_v + i);
                Store(hn::MulAdd(next, stage_v, Load(pos + i)), p + i);
                Store(hn::MulAdd(next, k, Load(vel + i)), v + i);
            }
        };
        middle(half_h);
        Accelerate<Drive>(c, inverse_mass, p, v, cam_at(2 * step + 1), a, nullptr);
        middle(h);
        Accelerate<Drive>(c, inverse_mass, p, v, cam_at(2 * step + 2), a, nullptr);
        for (size_t i = 0; i < width; i += L) {
            Store(hn::MulAdd(sixth_h, hn::Add(Load(sum_p + i), Load(v + i)), Load(pos + i)), pos + i);
            Store(hn::MulAdd(sixth_h, hn::Add(Load(sum_v + i), Load(a + i)), Load(vel + i)), vel + i);
        }
    }
    Probe probe;
    Accelerate<Drive>(c, inverse_mass, pos, vel, cam_at(2 * steps), a, &probe);
    Record(c, b, kGridSteps, pos, vel, probe);
}

void AdvanceCycle(const Chain& chain, LaneBlock& block) {
    switch (chain.layout) {
    case Layout::Pushrod:
        return Cycle<PushrodDrive>(chain, block);
    case Layout::Rocker:
    case Layout::Finger:
    case Layout::Bucket:
        return Cycle<DirectDrive>(chain, block);
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

HWY_EXPORT(AdvanceCycle);
HWY_EXPORT(LaneCount);
HWY_EXPORT(TargetName);

std::size_t lane_count() {
    return HWY_DYNAMIC_DISPATCH(LaneCount)();
}
const char* lane_target() {
    return HWY_DYNAMIC_DISPATCH(TargetName)();
}

void advance_cycle(const Chain& chain, LaneBlock& block) {
    block.previous_lift.assign(block.record.begin(), block.record.begin() + static_cast<std::ptrdiff_t>(
                                                                                kGridPoints * block.lanes()));
    HWY_DYNAMIC_DISPATCH(AdvanceCycle)(chain, block);
}

LaneBlock::LaneBlock(const Chain& chain, std::size_t lanes)
    : position(chain.dof * lanes), velocity(chain.dof * lanes), step_s(lanes), cam_rad_s(lanes),
      work(5 * chain.dof * lanes), record(kChannels * kGridPoints * lanes),
      coils((chain.dof - chain.valve_dof - 1) * kCoilPoints * lanes), previous_lift(kGridPoints * lanes),
      lanes_(lanes), coil_count_(chain.dof - chain.valve_dof - 1), steps_(chain.steps()) {
    for (double mass : chain.mass_kg)
        work.push_back(1 / mass);
    const std::vector<double> rest = rest_position_m(chain);
    for (std::size_t lane = 0; lane < lanes; ++lane)
        start(lane, 6000, rest); // idle lanes stay at rest numbers that cannot overflow
}

void LaneBlock::start(std::size_t lane, double speed_rpm, const std::vector<double>& rest_m) {
    for (std::size_t i = 0; i < rest_m.size(); ++i) {
        position[i * lanes_ + lane] = rest_m[i];
        velocity[i * lanes_ + lane] = 0;
    }
    cam_rad_s[lane] = cam_speed_rad_s(speed_rpm);
    step_s[lane] = 120 / speed_rpm / static_cast<double>(steps_);
}

} // namespace bathmos
#endif
