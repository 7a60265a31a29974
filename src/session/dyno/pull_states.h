// A build's dyno pulls by state, each analysed, corrected or as recorded.
#pragma once

#include "core/dyno/pull_compare.h"
#include "core/dyno/pull_report.h"
#include "core/project/project.h"
#include "io/project/trace.h"

#include <functional>
#include <memory>

namespace bathmos::session {

/// Pulls of one revision with the same surroundings, in the order they were kept.
struct PullState {
    Id revision = 0;
    std::string changed; ///< what else was changed, as the pulls say
    std::vector<Id> pulls;
};
/// All states of a revision, the latest last.
std::vector<PullState> pull_states(const Project& project, Id revision);

/// All pulls of a build.
std::map<Id, Entry> pulls_of_build(const Project& project, Id build);
/// "r2 winter · smaller pulley"
std::string state_label(const Project& project, const Entry& pull);

/// One pull as it is shown.
struct ShownPull : PullReport {
    Id entry = 0;
};

/// One state with its analysed pulls.
struct DynoState {
    Id revision = 0;
    std::string label;
    std::vector<std::shared_ptr<const ShownPull>> pulls;
    std::optional<StateBreak> first_break;
    std::optional<StateCurve> curve; ///< empty where the pulls share no range
};

/// A pull taken out of the project, so that a worker needs nothing else; `state` counts in the list of
/// states.
struct TakenPull {
    Id entry = 0;
    Entry record;
    std::size_t state = 0;
    io::PackedTrace readings;
};
/// What a build's pulls are analysed from.
struct TakenStates {
    std::vector<DynoState> states; ///< without pulls yet
    std::vector<TakenPull> pulls;
    std::string trouble; ///< pulls whose readings cannot be read, in words
};
TakenStates take_states(const Project& project, Id build, const std::function<io::PackedTrace(Id)>& trace);

struct AnalysedStates {
    std::vector<DynoState> states; ///< those that have a pull that can be shown
    std::string trouble;           ///< which are not, and why
};
/// Analyses every pull; with `correct` by SAE J1349. Slow. Throws Stopped.
AnalysedStates analyse_states(TakenStates taken, bool correct, const std::stop_token& stop = {});

/// Which states are looked at unless others are chosen: the latest along the line to a revision, and the one
/// before it; -1 for none.
struct StateChoice {
    int state = -1, against = -1;
};
StateChoice usual_choice(const std::vector<DynoState>& states, const Project& project, Id revision);

/// What the second gains over the first; empty where they share no range.
std::optional<StateDifference> change_between(const DynoState* before, const DynoState* after);

} // namespace bathmos::session
