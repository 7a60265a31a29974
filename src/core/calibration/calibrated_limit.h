// Where the calibrated train reaches its limit, how sure that is, and where a rig would see it.
#pragma once

#include "core/calibration/calibrate.h"
#include "core/motion/sweep.h"

namespace bathmos {

struct CalibratedLimit {
    LimitSpeed limit;
    LimitsInForce limits; ///< that it was judged by: the seating velocity as the runs have shown it
    std::optional<double> train_limit_rpm; ///< the limit of the fitted train alone, as a sweep of it has it
    OnsetResult onset;                     ///< over the speeds of the first run
    std::optional<double> p10_rpm, p50_rpm, p90_rpm; ///< of the limit; empty where too few draws reach one
    std::optional<double> onset_p10_rpm, onset_p90_rpm;
};

/// One standard deviation that the model itself adds to a calibrated limit, as found on engines of a richer
/// model.
inline constexpr double kModelLimit_sd = 0.02;

/// Whether what the runs have shown of the landing moves the limit from that of the fitted train by itself by
/// more than a percent; rev/min.
bool landing_moves_limit(std::optional<double> limit_rpm, std::optional<double> train_limit_rpm);

/// Sweeps the calibrated train over the range of its runs and a fifth above, and finds the limit of each
/// draw; all are judged by what the runs have shown of the landing (seating_seen.h). Throws Stopped, or
/// InputError where the valve does not open.
CalibratedLimit limit_of(const Calibration& calibration, const std::vector<const RigRun*>& runs,
                         const LimitsInForce& limits, const CalibrationWatch& watch = {});

} // namespace bathmos
