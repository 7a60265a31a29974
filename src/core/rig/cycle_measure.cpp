#include "core/rig/cycle_measure.h"

#include "core/dynamics/chain.h"

#include <algorithm>

namespace bathmos::rig {

namespace {

constexpr double kLeastTouch_m = 0.02e-3;
constexpr double kApproach_crank_deg = 2.5; // slopes over both sides of the touch are off by a tenth

// Slope over +/- 1 degree, m/s.
std::vector<double> rates(const std::vector<double>& lift_m, double speed_rpm) {
    constexpr std::size_t reach = 2;
    const double seconds = 2 * reach * kGridStep_crank_deg / (6 * speed_rpm);
    std::vector<double> out(kGridPoints);
    for (std::size_t i = 0; i < kGridPoints; ++i) {
        const std::size_t ring = kGridSteps;
        out[i] = (lift_m[(i + reach) % ring] - lift_m[(i + ring - reach) % ring]) / seconds;
    }
    return out;
}

} // namespace

std::vector<double> aligned_m(const RawCycle& cycle, const CycleFrame& frame) {
    std::vector<double> out(kGridPoints);
    for (std::size_t i = 0; i < kGridPoints; ++i) {
        const double theta = -360 + kGridStep_crank_deg * static_cast<double>(i);
        out[i] = (ring_at(cycle, theta + frame.phase_deg) - frame.zero_mm) * 1e-3 - frame.seat_m;
    }
    return out;
}

Metrics metrics_of(const std::vector<double>& lift_m, const std::vector<double>& rigid_m, double speed_rpm,
                   const CycleFrame& frame) {
    const std::vector<double> rate = rates(lift_m, speed_rpm);
    CycleTrace trace;
    trace.speed_rpm = speed_rpm;
    trace.lift_m = lift_m;
    trace.rate_m_per_s = rate;
    trace.rigid_m = rigid_m;
    return measure(trace,
                   {frame.check_lift_m, std::max(3 * frame.noise_m, kLeastTouch_m), kApproach_crank_deg});
}

} // namespace bathmos::rig
