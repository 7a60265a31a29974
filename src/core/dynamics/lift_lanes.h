// Integration of many trains of one form at once, in single precision: their lift and nothing else. For
// searches that ask for thousands of trains; a tenth of a micrometre of noise is left in a lift.
#pragma once

#include "core/dynamics/lane_chain.h"
#include "core/dynamics/lanes.h"

#include <cstddef>
#include <stop_token>
#include <vector>

namespace bathmos {

/// Lanes that this processor does at once.
std::size_t lift_lane_count();

/// State and last cycle's lift of all lanes.
class LiftLanes {
  public:
    /// All lanes idle: at rest on this chain.
    explicit LiftLanes(const Chain& form);

    /// Puts a train of the form into a lane at a speed; `ripple` as for LaneChain::put.
    void start(std::size_t lane, const Chain& chain, const DriveRipple& ripple, double speed_rpm,
               const RestState& from);
    /// Integrates all lanes over one cycle. Throws Stopped within some milliseconds of a stop; they are then
    /// of no further use.
    void advance_cycle(const std::stop_token& stop = {});

    /// Largest change of a lane's lift from the cycle before, m; nan if its numbers ran away.
    double change_m(std::size_t lane) const { return change_[lane]; }
    /// Lift at a grid point of the last cycle.
    double lift_m(std::size_t point, std::size_t lane) const { return lift_[point * lanes_ + lane]; }
    /// Where a lane's dofs stand now.
    RestState state(std::size_t lane) const;

    using Array = std::vector<float, VectorAllocator<float>>;
    /// What the integrator works on.
    struct Work {
        const LaneChain& chain;
        DriveKind drive;
        std::size_t lift_dof;
        const float *step_s, *cam_rad_s;
        float *state, *lift, *change;
    };

  private:
    LaneChain chain_;
    DriveKind drive_;
    std::size_t lanes_, dof_, lift_dof_, steps_;
    Array state_, step_s_, cam_rad_s_, lift_, change_;
};

} // namespace bathmos
