#include "session/dyno/pull_states.h"

#include "core/problem/input_error.h"
#include "io/dyno/pull_file.h"

#include <algorithm>

namespace bathmos::session {

namespace {

std::string word_of(const Entry& entry, const char* key) {
    const auto at = entry.words.find(key);
    return at == entry.words.end() ? std::string() : at->second;
}

std::shared_ptr<const ShownPull> shown_pull(const TakenPull& taken, bool correct, const std::stop_token& stop,
                                            std::string& trouble) {
    const bool already = taken.record.numbers.contains("corrected");
    if (!correct && already) {
        trouble += taken.record.name + " was corrected by the dyno: shown with the corrected ones only. ";
        return nullptr;
    }
    try {
        Pull pull = io::pull_of(io::unpacked(taken.readings), already);
        pull.name = taken.record.name;
        if (correct && !already && !j1349(pull)) {
            trouble +=
                taken.record.name + " cannot be corrected: air temperature or barometer were not logged. ";
            return nullptr;
        }
        auto out = std::make_shared<ShownPull>();
        static_cast<PullReport&>(*out) = report_on(pull, correct && !already, stop);
        out->entry = taken.entry;
        return out;
    } catch (const InputError& error) {
        trouble += std::string(error.in(taken.record.name).what()) + " ";
        return nullptr;
    }
}

void finish(DynoState& state) {
    std::vector<const PullAnalysis*> pulls;
    for (const auto& pull : state.pulls)
        pulls.push_back(&pull->analysis);
    state.first_break = break_of_state(pulls);
    try {
        state.curve = state_curve(pulls);
    } catch (const InputError&) {
        state.curve.reset();
    }
}

} // namespace

std::vector<PullState> pull_states(const Project& project, Id revision) {
    std::vector<PullState> out;
    for (const auto& [id, entry] : project.of(EntryKind::DynoPull)) {
        if (entry.revision != revision || entry.traces.empty())
            continue;
        const std::string changed = word_of(entry, "changed");
        auto at =
            std::find_if(out.begin(), out.end(), [&](const PullState& s) { return s.changed == changed; });
        if (at == out.end())
            at = out.insert(out.end(), {revision, changed, {}});
        at->pulls.push_back(id);
    }
    return out;
}

std::map<Id, Entry> pulls_of_build(const Project& project, Id build) {
    std::map<Id, Entry> out;
    for (const auto& [id, entry] : project.of(EntryKind::DynoPull)) {
        const auto made = project.revisions.find(entry.revision);
        if (!entry.traces.empty() && made != project.revisions.end() && made->second.build == build)
            out[id] = entry;
    }
    return out;
}

std::string state_label(const Project& project, const Entry& pull) {
    const std::string changed = word_of(pull, "changed");
    return project.revision_label(pull.revision) + (changed.empty() ? "" : " · " + changed);
}

TakenStates take_states(const Project& project, Id build, const std::function<io::PackedTrace(Id)>& trace) {
    TakenStates out;
    for (const Id made : project.revisions_of(build))
        for (const PullState& state : pull_states(project, made)) {
            const auto& pulls = project.of(EntryKind::DynoPull);
            out.states.push_back({made, state_label(project, pulls.at(state.pulls.front())), {}, {}, {}});
            for (const Id id : state.pulls)
                try {
                    out.pulls.push_back({id, pulls.at(id), out.states.size() - 1,
                                         pulls.at(id).traces.empty() ? io::PackedTrace{}
                                                                     : trace(pulls.at(id).traces.front())});
                } catch (const InputError& error) {
                    out.trouble += std::string(error.what()) + " ";
                }
        }
    return out;
}

AnalysedStates analyse_states(TakenStates taken, bool correct, const std::stop_token& stop) {
    AnalysedStates out{std::move(taken.states), std::move(taken.trouble)};
    for (const TakenPull& one : taken.pulls)
        if (const auto pull = shown_pull(one, correct, stop, out.trouble))
            out.states[one.state].pulls.push_back(pull);
    std::erase_if(out.states, [](const DynoState& state) { return state.pulls.empty(); });
    for (DynoState& state : out.states)
        finish(state);
    return out;
}

StateChoice usual_choice(const std::vector<DynoState>& states, const Project& project, Id revision) {
    StateChoice out;
    std::vector<Id> line;
    if (project.revisions.contains(revision))
        line = project.line_to(revision);
    const auto rank = [&](const DynoState& s) {
        return std::find(line.begin(), line.end(), s.revision) - line.begin();
    };
    const auto at = [&](int i) -> const DynoState& { return states[static_cast<std::size_t>(i)]; };
    for (int i = 0; i < static_cast<int>(states.size()); ++i) {
        const auto here = rank(at(i));
        if (here >= static_cast<std::ptrdiff_t>(line.size()))
            continue; // of another branch
        if (out.state < 0 || here >= rank(at(out.state))) {
            out.against = out.state;
            out.state = i;
        } else if (out.against < 0 || here >= rank(at(out.against))) {
            out.against = i;
        }
    }
    if (out.state < 0 && !states.empty())
        out.state = static_cast<int>(states.size()) - 1;
    return out;
}

std::optional<StateDifference> change_between(const DynoState* before, const DynoState* after) {
    if (!before || !after || !before->curve || !after->curve)
        return std::nullopt;
    try {
        return difference(*before->curve, *after->curve);
    } catch (const InputError&) {
        return std::nullopt;
    }
}

} // namespace bathmos::session
