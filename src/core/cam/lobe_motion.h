// What a lobe asks, at the lifter or at the valve: one motion with its derivatives, and its samples.
#pragma once

#include "core/train/train.h"

#include <array>
#include <optional>
#include <vector>

namespace bathmos {

/// A lobe's motion at the lifter, or rigidly at the valve through ratio or geometry and lash. Value type.
class LobeMotion {
  public:
    LobeMotion() = default;
    explicit LobeMotion(LobeCurve curve) : curve_(std::move(curve)) {}
    explicit LobeMotion(RigidMotion valve) : curve_(valve.lobe()), valve_(std::move(valve)) {}

    /// Rise or valve lift (order 0), or its derivative (1..3) per rad^order at theta in rad from the nose. At
    /// the valve 0 while it is shut; its third derivative is a central difference.
    double at(double theta_rad, int order = 0) const;
    /// Standard deviation of it, by the ratio where it is read; 0 for a formula.
    double standard_deviation(double theta_rad, int order) const;
    double lift_m() const { return at(0); }
    bool at_valve() const { return valve_.has_value(); }
    const LobeCurve& curve() const { return curve_; }

  private:
    LobeCurve curve_;
    std::optional<RigidMotion> valve_;
};

/// A motion on an even grid over one turn, -pi to just under pi.
struct LobeSamples {
    std::vector<double> theta_rad;
    std::array<std::vector<double>, 4> value; ///< by order, per rad^order
    std::array<std::vector<double>, 4> sd;    ///< by order; empty for a formula, and for order 0
};
/// `points` even samples of a motion and its first three derivatives, with their standard deviations where
/// asked for: those cost as much again.
LobeSamples samples_of(const LobeMotion& motion, std::size_t points = 1440, bool with_sd = true);

} // namespace bathmos
