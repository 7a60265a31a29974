// A stand-in for an engine on a dyno: pulls from a power model, with the loss that the valve's motion causes
// taken from the dynamic model of a *true* train, with weather, noise, scatter between pulls, and faults that
// can be switched on. For the demo and the tests; nothing here is known to the analysis.
#pragma once

#include "core/dyno/confounders.h"
#include "core/dyno/pull.h"
#include "core/motion/limits.h"

#include <set>
#include <vector>

namespace bathmos::standin {

/// Brake torque of a healthy engine over speed: a hump, tuning waves, friction.
struct EngineModel {
    double torque_peak_Nm = 235, torque_peak_rpm = 5600;
    double hump_rpm = 5200;    ///< half width at which breathing has lost half
    double wave_share = 0.008; ///< of the torque: intake and exhaust tuning
    double wave_rpm = 1700, wave_phase = 0.4;
    bool charged = false;
    double boost_Pa = 60e3, blower_ratio = 2.4;
    double lambda = 0.87, oil_Pa = 450e3;
};

/// Share of the torque that is lost, and how unevenly, by speed.
struct MotionLoss {
    double speed_rpm = 0, lost = 0, rough = 0;
};
/// What a true train's motion costs: bounce, loft, late closing and valves held open let charge back out; a
/// motion that differs from cycle to cycle makes power rough.
std::vector<MotionLoss> motion_loss(const std::vector<SpeedMetrics>& rows);

/// One of the dyno's faults, where it begins and how strong it is (1: usual).
struct Fault {
    Confounder kind;
    double onset_rpm = 7000;
    double strength = 1;
};

struct PullSetup {
    EngineModel engine;
    std::vector<MotionLoss> loss; ///< rising speeds; empty: the valves do what the lobe asks
    std::vector<Fault> faults;
    double first_rpm = 4000, last_rpm = 8650;
    std::size_t rows = 235;
    double noise = 0.004;   ///< standard deviation of a reading, share of the power
    double scatter = 0.005; ///< from pull to pull, share of the power
    double weather_Pa = 101.3e3, weather_K = 292.6;
    std::set<PullChannel> logged; ///< beside speed, torque and power
    unsigned seed = 1;
};

/// One pull. The same for the same setup.
Pull run_pull(const PullSetup& setup);

/// Every channel that the stand-in can log on an engine like this.
std::set<PullChannel> all_channels(const EngineModel& engine);

} // namespace bathmos::standin
