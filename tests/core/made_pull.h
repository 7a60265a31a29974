// Pulls of an engine whose power is known in closed form.
#pragma once

#include "core/dyno/pull.h"
#include "support.h"

#include <random>

namespace bathmos::test {

// An engine's power in closed form: torque falls off on either side of its peak, tuning waves on top.
struct Shape {
    double torque_Nm = 240, peak_rpm = 5600, width_rpm = 5200, wave = 0.006, wave_rpm = 1800, phase = 0.3;
    double torque(double rpm) const {
        const double u = (rpm - peak_rpm) / width_rpm;
        return torque_Nm * (1 / (1 + u * u) + wave * std::sin(2 * kPi * (rpm / wave_rpm + phase)));
    }
    double power(double rpm) const { return torque(rpm) * rpm * kPi / 30; }
};

struct Fall {
    double at_rpm = 0, over_rpm = 150, share = 0;
};

inline Pull make_pull(const Shape& shape, const std::vector<Fall>& falls, double noise, std::size_t rows,
                      unsigned seed, double first = 4000, double last = 8600) {
    std::mt19937_64 dice(seed);
    std::normal_distribution<double> normal;
    Pull out;
    out.name = "made";
    for (std::size_t i = 0; i < rows; ++i) {
        const double rpm = first + (last - first) * static_cast<double>(i) / static_cast<double>(rows - 1);
        double power = shape.power(rpm);
        for (const Fall& f : falls)
            power *= 1 - f.share * std::clamp((rpm - f.at_rpm) / f.over_rpm, 0.0, 1.0);
        out[PullChannel::Speed].push_back(rpm);
        out[PullChannel::Power].push_back(power * (1 + noise * normal(dice)));
    }
    complete(out);
    return out;
}

} // namespace bathmos::test
