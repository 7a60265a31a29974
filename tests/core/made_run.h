// A rig run made from a train's own motion.
#pragma once

#include "core/motion/motion.h"
#include "core/rig/rig_run.h"

#include <cmath>
#include <random>

namespace bathmos::test {

/// A run as a train would give it, with a noise of readings and nothing else wrong.
inline RigRun run_of(const Train& train, const std::vector<double>& speeds_rpm, double noise_m = 2e-6) {
    RigRun out;
    out.source = "made.rig.csv";
    std::mt19937 random(3);
    std::normal_distribution<double> normal(0, noise_m / std::sqrt(40.0));
    for (Motion& motion : MotionModel(train).run(speeds_rpm)) {
        RigStep step;
        step.speed_rpm = motion.speed_rpm;
        step.used = 40;
        step.lift_m = motion[Channel::Lift];
        for (double& lift : step.lift_m)
            lift += normal(random);
        step.deviation_m.assign(kGridPoints, noise_m);
        out.steps.push_back(std::move(step));
    }
    return out;
}

} // namespace bathmos::test
