// The lift of many trains at many speeds, those of one form side by side (lift_lanes.h).
#pragma once

#include "core/motion/motion.h"

#include <memory>
#include <stop_token>
#include <vector>

namespace bathmos {

/// A train at a speed. `ripple`: what its chain's table does not hold of the drive's (LaneChain::put).
struct LiftTask {
    std::shared_ptr<const Chain> chain;
    DriveRipple ripple{};
    double speed_rpm = 0;
    const RestState* start = nullptr; ///< where it starts; null: at rest
};

/// A train of which tasks are made. Its drive's ripple is kept apart from the chain where it can be, so that
/// trains that differ in it are of one form.
class LiftModel {
  public:
    /// Throws InputError for parts that the model does not know.
    LiftModel(const Train& train, std::shared_ptr<CamTables> tables);
    /// In the steps that the rule asks for, halved so often. Throws InputError for parts too stiff to follow.
    LiftTask task(double speed_rpm, const CycleRule& rule, const RestState* start = nullptr,
                  std::size_t halvings = 0);
    /// The part that sets its steps.
    const StiffestPart& stiffest() const { return stiffest_; }

  private:
    Train even_; ///< without the ripple that is kept apart
    DriveRipple ripple_;
    std::shared_ptr<CamTables> tables_;
    std::shared_ptr<const Chain> first_; ///< one step between grid points
    StiffestPart stiffest_;
    std::vector<std::shared_ptr<const Chain>> others_;
};

struct LiftOfTask {
    bool finite = true;         ///< false: the numbers ran away, nothing else is meaningful
    std::vector<double> lift_m; ///< kGridPoints; mean over the last cycles where the motion does not repeat
    RestState end;
};

/// Runs each task by the rule's numbers of cycles, in the steps of its chain, on at most `workers` workers
/// (0: all). The rule's halving and check lift are not asked. Results in the order of the tasks.
/// Throws Stopped.
std::vector<LiftOfTask> run_lifts(const std::vector<LiftTask>& tasks, const CycleRule& rule,
                                  const std::stop_token& stop, std::size_t workers = 0);

} // namespace bathmos
