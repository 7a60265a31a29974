#include "session/compare/good_bad.h"

#include "core/life/part_life.h"
#include "core/problem/input_error.h"
#include "core/project/limit_sets.h"
#include "session/compare/revision_comparison.h"
#include "session/rig/rig_runs.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::session {

namespace {

void require_there(const Project& project, Id revision) {
    if (!project.revisions.contains(revision))
        throw InputError(
            {"", "revision", fmt::format("{} is not there", revision), "choose a revision of the project"});
}

void mark(SeenState& state, StateMark as, std::string why) {
    if (state.mark != StateMark::Bad) // what is bad once stays so
        state.mark = as;
    state.why.push_back(std::move(why));
}

void note_failures(const Project& project, std::map<Id, SeenState>& states) {
    for (const auto& [id, entry] : project.of(EntryKind::Log)) {
        const auto mode = entry.words.find("mode");
        const auto at = states.find(entry.revision);
        if (mode == entry.words.end() || at == states.end())
            continue;
        const auto part = project.parts.find(part_named(entry));
        mark(at->second, StateMark::Bad,
             fmt::format("{}: {}", part == project.parts.end() ? entry.name : part->second.name,
                         mode->second));
    }
}

void note_pulls(const SeenInput& input, std::map<Id, SeenState>& states, const std::stop_token& stop) {
    for (const DynoState& state : analyse_states(input.pulls, false, stop).states) {
        const auto at = states.find(state.revision);
        if (at == states.end())
            continue;
        const std::string with =
            state.label == at->second.label ? "" : state.label + ": "; // beside the train
        if (state.first_break)
            mark(at->second, StateMark::Bad,
                 fmt::format("{}power breaks at {:.0f} rev/min", with, state.first_break->speed_rpm));
        else if (state.curve && !state.curve->speed_rpm.empty())
            mark(at->second, StateMark::Good,
                 fmt::format("{}pulled to {:.0f} rev/min without a break", with,
                             state.curve->speed_rpm.back()));
    }
}

void note_runs(const SeenInput& input, const std::vector<ReducedRun>& runs, std::map<Id, SeenState>& states) {
    for (const ReducedRun& one : runs) {
        const auto at = states.find(input.project.of(EntryKind::RigRun).at(one.id).revision);
        if (at == states.end() || !one.run || one.run->steps.empty())
            continue;
        const auto& limit = one.run->limit.speed_rpm;
        const double highest = one.run->steps.back().speed_rpm;
        if (limit && *limit < input.target_rpm)
            mark(at->second, StateMark::Bad,
                 fmt::format("on the rig to {:.0f} rev/min, {:.0f} below what is wanted", *limit,
                             input.target_rpm - *limit));
        else if (input.target_rpm > 0 && limit.value_or(highest) >= input.target_rpm)
            mark(at->second, StateMark::Good,
                 fmt::format("on the rig to {:.0f} rev/min", limit.value_or(highest)));
        else
            at->second.why.push_back(limit
                                         ? fmt::format("on the rig to {:.0f} rev/min", *limit)
                                         : fmt::format("on the rig, no limit up to {:.0f} rev/min", highest));
    }
}

double cycles_in(const Project& project, Id revision) {
    double out = 0;
    for (const EntryKind kind : {EntryKind::Log, EntryKind::RigRun, EntryKind::DynoPull})
        for (const auto& [id, entry] : project.of(kind))
            if (entry.revision == revision)
                if (const auto use = life::use_in(entry))
                    out += use->use.cycles();
    return out;
}

} // namespace

SeenInput gather_seen(const Project& project, Id revision, const std::function<io::PackedTrace(Id)>& trace) {
    require_there(project, revision);
    SeenInput out;
    out.project = project;
    out.revision = revision;
    out.limits = in_force(limit_set_of(project));
    const Id build = project.revisions.at(revision).build;
    if (const auto engine = project.engines.find(project.builds.at(build).engine);
        engine != project.engines.end())
        out.target_rpm = engine->second.target_rpm;
    out.pulls = take_states(project, build, trace);
    for (const Id id : project.line_to(revision))
        if (const Id run_id = last_run_id(project, id)) {
            const Entry& run = project.of(EntryKind::RigRun).at(run_id);
            out.runs.push_back({run_id, run.name, project.revisions.at(id).assembly.train,
                                trace(run.traces.front()), run.numbers.contains("reversed")});
        }
    return out;
}

std::vector<SeenState> seen_states(const SeenInput& input, Results& results, const ProgressSink& progress,
                                   const std::stop_token& stop) {
    const std::vector<Id> line = input.project.line_to(input.revision);
    std::map<Id, SeenState> states;
    for (const Id id : line)
        states[id] = {id, input.project.revision_label(id), StateMark::Unknown, {}};
    note_failures(input.project, states);
    note_pulls(input, states, stop);
    note_runs(input, reduce_runs(input.runs, input.limits, results, progress, stop), states);
    std::vector<SeenState> out;
    for (const Id id : line)
        out.push_back(std::move(states.at(id)));
    return out;
}

GoodBad last_good_first_bad(const std::vector<SeenState>& states) {
    GoodBad out;
    Id good = 0;
    for (const SeenState& state : states) {
        if (state.mark == StateMark::Bad && good != 0) {
            out = {good, state.revision};
            good = 0; // the next turn needs a good one again
        }
        if (state.mark == StateMark::Good)
            good = state.revision;
    }
    return out;
}

BetweenStates study_between(const Project& project, const GoodBad& of, const SpeedRange& range,
                            const LimitsInForce& limits, Results& results, const ProgressSink& progress,
                            const std::stop_token& stop) {
    require_there(project, of.good);
    require_there(project, of.bad);
    if (of.good == of.bad)
        throw InputError({"", "revision", "good and bad are the same", "choose two revisions"});
    const Revision &good = project.revisions.at(of.good), &bad = project.revisions.at(of.bad);
    BetweenStates out{of, {}, {}, {}, {}, {}, cycles_in(project, of.good)};
    SweepWatch watch;
    watch.stop = stop;
    if (progress)
        watch.progress = [&](double share) { progress(0.4 * share); };
    const auto good_swept = results.sweep({good.assembly.train, range, limits}, watch);
    if (progress)
        watch.progress = [&](double share) { progress(0.4 + 0.4 * share); };
    const auto bad_swept = results.sweep({bad.assembly.train, range, limits}, watch);
    out.good_rpm = good_swept->summary.limit.speed_rpm;
    out.bad_rpm = bad_swept->summary.limit.speed_rpm;
    out.changes = change_facts(good.assembly, bad.assembly, out.bad_rpm, {range, limits, {}, stop});
    out.changes.from = project.revision_label(of.good);
    out.changes.to = project.revision_label(of.bad);
    const auto known = [](const Sweep& swept) {
        return LimitsKnown{swept.summary.limit.speed_rpm, contact_loss_rpm(swept.summary.limit),
                           swept.summary.onset.onset.speed_rpm};
    };
    const auto was = figures_of_revision(good), is = figures_of_revision(bad);
    if (was && is)
        out.effects = effects(*was, *is, known(*good_swept), known(*bad_swept));
    for (const LogLine& line : time_line(project))
        if (line.build == bad.build && line.when >= good.when &&
            (line.when <= bad.when || line.revision == of.bad))
            out.lines.push_back(line);
    if (progress)
        progress(1);
    return out;
}

} // namespace bathmos::session
