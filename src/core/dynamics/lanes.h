// Integration of several speeds at once, one in each lane of the processor's vector registers.
//
// All lanes share the chain and its angle tables, as every speed takes the same angle steps; only the step in
// time differs. Method: classical fourth-order Runge-Kutta, equal angle steps, no event finding (physics.md
// 5, Numbers).
#pragma once

#include "core/dynamics/chain.h"

#include <cstddef>
#include <vector>

namespace bathmos {

/// What is recorded at each grid point of a cycle.
enum class Channel : std::size_t {
    Lift,
    LiftRate,       ///< m/s
    CamPenetration, ///< m; 0 or less: cam and follower apart
    TipPenetration,
    LinkPenetration, ///< m; 0 or less: link apart (pushrod only, else equal to the cam's)
    CamForce,
    LinkForce,
    TipForce,
    SeatForce,
    SpringForce,
    Follower, ///< m, position at the cam
    RockerIn, ///< m, position at the rocker's input
    Surge,    ///< m, largest departure of a coil from its quasi-static place
    Clash,    ///< m, deepest overlap of closing coils; 0: none touch
    Count
};
inline constexpr std::size_t kChannels = static_cast<std::size_t>(Channel::Count);
/// Coil positions are kept at every fourth grid point (2 crank degrees).
inline constexpr std::size_t kCoilStride = 4;
inline constexpr std::size_t kCoilPoints = kGridSteps / kCoilStride + 1;

/// State and last recorded cycle of all lanes. Arrays hold the lanes of one quantity side by side.
class LaneBlock {
  public:
    LaneBlock(const Chain& chain, std::size_t lanes);

    std::size_t lanes() const { return lanes_; }
    /// Puts a lane at rest on the base circle at a speed.
    void start(std::size_t lane, double speed_rpm, const std::vector<double>& rest_m);

    double at(Channel channel, std::size_t point, std::size_t lane) const {
        return record[(static_cast<std::size_t>(channel) * kGridPoints + point) * lanes_ + lane];
    }
    double coil_m(std::size_t point, std::size_t coil, std::size_t lane) const {
        return coils[(point * coil_count_ + coil) * lanes_ + lane];
    }
    std::size_t coil_count() const { return coil_count_; }

    std::vector<double> position, velocity; ///< dof x lanes
    std::vector<double> step_s, cam_rad_s;  ///< lanes
    std::vector<double> work;               ///< scratch of the integrator
    std::vector<double> record;             ///< channel x grid point x lanes
    std::vector<double> coils;              ///< coil point x free coil x lanes
    std::vector<double> previous_lift;      ///< grid point x lanes, of the cycle before

  private:
    std::size_t lanes_, coil_count_, steps_;
};

/// Lanes that this processor does at once.
std::size_t lane_count();

/// Name of the instruction set in use, for reports.
const char* lane_target();

/// Integrates all lanes over one cycle and records it. No allocation.
void advance_cycle(const Chain& chain, LaneBlock& block);

} // namespace bathmos
