#include "standin/rig/spin.h"

#include "core/calibration/observation.h"
#include "core/motion/motion.h"
#include "core/problem/input_error.h"

#include <fmt/format.h>
#include <random>

namespace bathmos::standin {

namespace {

// The law of a sensor (gain, delay, ripple of the drive) is the fit's own, read_lift; the numbers in it are
// not known to it. Readings of one cycle from index pulse to index pulse.
void record(const Eigen::VectorXd& lift_m, const std::vector<double>& from_nose_deg,
            const SensorErrors& sensor, double zero_m, std::mt19937_64& dice, RigTrace& trace) {
    std::normal_distribution<double> noise(0, sensor.noise_m);
    for (std::size_t i = 0; i < from_nose_deg.size(); ++i) {
        trace.crank_deg.push_back(static_cast<float>(from_nose_deg[i] + sensor.phase_deg));
        const double seen_m = zero_m + lift_m(static_cast<Eigen::Index>(i)) + noise(dice);
        trace.lift_mm.push_back(static_cast<float>(1e3 * seen_m));
    }
}

} // namespace

RigTrace spin(const SpinSetup& setup) {
    std::mt19937_64 dice(setup.seed);
    std::normal_distribution<double> normal;
    RigTrace out;
    out.source = "stand-in";
    ObservedSpeed at;
    const std::size_t samples = 2 * setup.samples_per_turn;
    for (std::size_t i = 0; i < samples; ++i)
        at.crank_deg.push_back(720.0 * static_cast<double>(i) / static_cast<double>(samples) -
                               setup.sensor.phase_deg);
    const DriveRipple ripple = setup.truth.drive_ripple.value_or(DriveRipple{});
    double zero_m = 0.2e-3;
    for (const Motion& motion : MotionModel(setup.truth).run(setup.speeds_rpm)) {
        if (!motion.finite)
            throw InputError({setup.truth.name, fmt::format("{:.0f} rev/min", motion.speed_rpm),
                              motion.trouble, "spin it at other speeds"});
        at.speed_rpm = motion.speed_rpm;
        zero_m += setup.sensor.zero_walk_m * normal(dice);
        std::vector<Eigen::VectorXd> seen;
        const auto read = [&](const std::vector<double>& lift_m) {
            seen.push_back(read_lift(lift_m, {setup.sensor.gain, 0, setup.sensor.delay_s, ripple}, at));
        };
        if (motion.cloud_m.empty())
            read(motion[Channel::Lift]);
        else
            for (const std::vector<double>& cycle : motion.cloud_m)
                read(cycle);
        for (std::size_t c = 0; c < setup.cycles; ++c) {
            out.turns.push_back({motion.speed_rpm, out.crank_deg.size(), samples, c > 0});
            record(seen[c % seen.size()], at.crank_deg, setup.sensor, zero_m, dice, out);
        }
    }
    return out;
}

} // namespace bathmos::standin
