// What a reduced run says at its speeds, weighed by how far a right model may still be off
// (docs/calibration.md, Data and weights).
#pragma once

#include "core/rig/rig_run.h"

#include <Eigen/Core>
#include <cstddef>
#include <vector>

namespace bathmos {

/// The mean curve at one speed in a window from before opening to after closing, with its errors.
struct ObservedSpeed {
    double speed_rpm = 0;
    std::size_t run = 0, step = 0; ///< which run, and which of its steps
    bool held_out = false;         ///< kept back to see how well the fit foretells it
    std::vector<double> crank_deg; ///< every 2 degrees
    Eigen::VectorXd lift_m;        ///< mean over good cycles
    Eigen::MatrixXd spread;        ///< Cholesky factor L of the errors' covariance, m
    Eigen::VectorXd rigid_m{};     ///< kinematic lift
    /// From the last fitted speed before the run's onset on: how many observations back the speed stands that
    /// its trend is taken from. 0: none.
    std::size_t trend_back = 0;
};

/// Speeds that a calibration needs, fitted.
inline constexpr std::ptrdiff_t kLeastSpeeds = 3;

/// The speeds of a run that are fitted: all in the upper 45 % of its range, every second one below; the
/// others are held out, unless fewer than kLeastSpeeds would be left. `rigid_m`: the kinematic lift on a
/// Motion's grid. Steps with one used cycle are left out. Where the run shows its onset, the last fitted
/// speed before it is held against the trend of the one before, those beyond it against the trend of that
/// one.
std::vector<ObservedSpeed> observe(const RigRun& run, std::size_t number, const std::vector<double>& rigid_m);

/// How a sensor shows a lift: gain, phase, delay; and the drive's ripple, which the angle of an even turning
/// does not know.
struct Reading {
    double gain = 0;      ///< share above 1
    double phase_deg = 0; ///< crank
    double delay_s = 0;
    DriveRipple ripple{};
};

/// What a sensor shows of a lift over a Motion's grid at a speed, at the angles of an observation, m.
Eigen::VectorXd read_lift(const std::vector<double>& lift_m, const Reading& reading, const ObservedSpeed& at);

} // namespace bathmos
