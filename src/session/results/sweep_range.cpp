#include "session/results/sweep_range.h"

#include <algorithm>
#include <cmath>

namespace bathmos::session {

namespace {
constexpr double kFirst_rpm = 3000, kLast_rpm = 9000, kStep_rpm = 100;
constexpr double kLeastLast_rpm = 5000, kMostLast_rpm = 15000;
constexpr double kBelowSeparation = 0.95, kPastTarget_rpm = 300;
} // namespace

SpeedRange usual_range(const TrainFigures* figures, double target_rpm) {
    SpeedRange out{kFirst_rpm, kLast_rpm, kStep_rpm};
    if (figures && figures->separation)
        out.last_rpm =
            std::clamp(std::round(kBelowSeparation * figures->separation->speed_rpm / kStep_rpm) * kStep_rpm,
                       kLeastLast_rpm, kMostLast_rpm);
    out.last_rpm = std::max(out.last_rpm, target_rpm + kPastTarget_rpm);
    return out;
}

} // namespace bathmos::session
