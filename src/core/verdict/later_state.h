// What later states of the same engine say of a break: it goes with a change, or it stays (docs/verdict.md).
#pragma once

#include "core/dyno/state_series.h"
#include "core/project/assembly.h"
#include "core/verdict/weighing.h"

#include <set>

namespace bathmos {

/// Parts that are changed for one and the same reason.
enum class TrainGroup { Spring, Link, Mass, Lobe, Follower };

struct LaterState {
    std::string label;
    MeasuredText changed;        ///< what differs from the state in question; empty: nothing
    std::set<TrainGroup> groups; ///< of the train, so far as the engine itself was changed
    bool around = false;         ///< something was changed beside the train
    SeriesState run;
};

/// What was changed from one assembly to a later one; numbers that were only fitted to a run are no change.
LaterState later_state(const Assembly& here, const Assembly& later);

/// What it says of a break at that speed; empty where it was not run far enough, or where both the train and
/// something beside it were changed.
std::optional<Evidence> said_by(const LaterState& later, double break_rpm);

} // namespace bathmos
