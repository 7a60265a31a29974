// What a run loses as it goes faster, height by height: duration and lift, and up to where it stays useful.
#pragma once

#include "core/rig/rig_run.h"

#include <optional>
#include <vector>

namespace bathmos {

/// Heights at the valve at which durations are compared, m (docs/physics.md, Lobe): those that the lift of a
/// run's slowest step reaches nine tenths of.
std::vector<double> loss_heights_m(const RigRun& run);

/// A speed's losses against the run's slowest step, which has lost nothing yet.
struct HeightLoss {
    double speed_rpm = 0;
    double lift_loss_m = 0; ///< of the highest lift
    /// Crank degrees lost at each height; negative: gained, as a valve that lofts or bounces stays open
    /// longer. Empty where the lift does not cross it.
    std::vector<std::optional<double>> duration_deg;
};

/// Crank degrees for which a lift on a Motion's grid stays above a height, between the outermost crossings of
/// the main event; linear between grid points. Empty where it does not cross it on both sides.
std::optional<double> duration_above_deg(const std::vector<double>& lift_m, double height_m);

/// Of each step of a run, rising speeds. Empty for a run of no steps.
std::vector<HeightLoss> height_losses(const RigRun& run, const std::vector<double>& heights_m);

/// How far durations may change, crank degrees, at the height that limits check and above it: below, on the
/// ramps, every train that gives way loses more than that.
struct DurationsKept {
    double shorter_deg = 10, longer_deg = 4, from_m = kUsualCheckLift_m;
};
/// As the limits in force have it; the usual ones where they say nothing of it.
DurationsKept durations_kept(const LimitsInForce& limits);

/// The highest speed up to which every such height keeps its duration, rev/min: linear between the steps on
/// either side. Empty where that is so in the whole run. `heights_m` as the losses were taken at.
std::optional<double> useful_rpm(const std::vector<HeightLoss>& losses, const std::vector<double>& heights_m,
                                 const DurationsKept& kept);

} // namespace bathmos
