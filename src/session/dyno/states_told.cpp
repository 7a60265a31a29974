#include "session/dyno/states_told.h"

#include <fmt/format.h>

namespace bathmos::session {

std::vector<StateTold> states_told(const std::vector<DynoState>& states, int reference) {
    std::vector<StateTold> out;
    const DynoState* against = reference < 0 || reference >= static_cast<int>(states.size())
                                   ? nullptr
                                   : &states[static_cast<std::size_t>(reference)];
    for (const DynoState& state : states) {
        StateTold& one = out.emplace_back();
        if (state.curve)
            one.missing = missing_power(*state.curve, state.first_break);
        if (&state != against)
            one.gain = change_between(against, &state);
        if (one.gain)
            one.crosses_rpm = crossings(*one.gain, *against->curve);
    }
    return out;
}

std::vector<std::string> break_sentences(const std::vector<DynoState>& states) {
    std::vector<SeriesState> series;
    for (const DynoState& state : states) {
        std::vector<const PullAnalysis*> pulls;
        for (const auto& pull : state.pulls)
            pulls.push_back(&pull->analysis);
        series.push_back(series_state(pulls));
    }
    std::vector<std::string> out;
    for (const BreakStory& story : break_stories(series)) {
        std::string text = fmt::format("The break at {:.0f} rev/min", story.speed_rpm);
        if (story.without)
            text += fmt::format(" appears with {}", states[story.appears].label);
        if (story.goes)
            text += fmt::format("{} goes with {}", story.without ? " and" : "", states[*story.goes].label);
        if (story.without || story.goes)
            out.push_back(text + ".");
    }
    return out;
}

} // namespace bathmos::session
