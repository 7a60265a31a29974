// All dyno states of a build beside each other, and the story of each break, in words.
#pragma once

#include "core/dyno/state_series.h"
#include "session/dyno/pull_states.h"

namespace bathmos::session {

/// What one state shows, by itself and against a reference.
struct StateTold {
    std::optional<MissingPower> missing;
    std::optional<StateDifference>
        gain;                        ///< over the reference; empty for itself, or where they share no range
    std::vector<double> crosses_rpm; ///< where its curve crosses the reference's
};
/// One for each state. `reference`: a place in the list; -1 for none.
std::vector<StateTold> states_told(const std::vector<DynoState>& states, int reference);

/// "The break at 7700 rev/min appears with r2 winter and goes with r4 stiff rods.", a sentence for each;
/// those that are there from the first state and stay are left out.
std::vector<std::string> break_sentences(const std::vector<DynoState>& states);

} // namespace bathmos::session
