#include "session/cases/case_input.h"

#include "core/math/robust.h"
#include "core/problem/input_error.h"
#include "core/project/limit_sets.h"
#include "io/dyno/pull_file.h"
#include "io/project/store.h"
#include "session/dyno/pull_states.h"
#include "session/project/revision_judgement.h"
#include "session/results/sweep_range.h"
#include "session/rig/rig_runs.h"
#include "session/rig/run_record.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::session {

namespace {

constexpr double kLeastHead_Pa = 10e3; // that is worth a thought
constexpr std::size_t kMostLater = 4;
constexpr double kCharged_Pa = 110e3; // in the manifold, absolute: no engine draws that by itself

// Reads a kept run or pull. One that is damaged or lost leaves the others: it is told among what is missing.
template <class Read>
void read_kept(const CaseInput& input, const Entry& entry, std::vector<std::string>& unread,
               const std::stop_token& stop, Read read) {
    try {
        if (entry.traces.empty() || !input.traces.contains(entry.traces.front()))
            throw InputError({"", "", "its readings are not in the project", "import its file again"});
        read(io::unpacked(input.traces.at(entry.traces.front()), stop));
    } catch (const InputError& error) {
        unread.push_back(fmt::format("{} cannot be used: {}", entry.name, error.problem().what));
    }
}

PullCase pull_case(const Pull& pull, const Entry& entry, std::optional<bool>& charged,
                   const std::stop_token& stop) {
    PullCase one{entry.name, analyse(pull, stop), {}, "", std::nullopt};
    one.tests = test_confounders(pull, one.analysis);
    if (const auto fuel = entry.words.find("fuel"); fuel != entry.words.end())
        one.fuel = fuel->second;
    if (const auto boost = entry.numbers.find("boost_kPa"); boost != entry.numbers.end())
        one.boost_Pa = boost->second * 1e3;
    read_pressures(pull, one);
    if (one.boost_Pa.value_or(0) > 0)
        charged = true;
    std::vector<double> map;
    for (const double value : pull[PullChannel::Manifold])
        if (std::isfinite(value))
            map.push_back(value);
    if (!map.empty())
        charged = charged.value_or(false) || median(map) > kCharged_Pa;
    return one;
}

std::vector<PullCase> pull_cases(const CaseInput& input, const std::vector<Id>& ids,
                                 std::optional<bool>& charged, std::vector<std::string>& unread,
                                 const std::stop_token& stop) {
    std::vector<PullCase> out;
    bool corrected_one = false, raw_one = false;
    for (Id id : ids) {
        const Entry& entry = input.project.of(EntryKind::DynoPull).at(id);
        const bool corrected = entry.numbers.contains("corrected");
        (corrected ? corrected_one : raw_one) = true;
        read_kept(input, entry, unread, stop, [&](const io::Trace& readings) {
            out.push_back(pull_case(io::pull_of(readings, corrected), entry, charged, stop));
        });
    }
    if (corrected_one && raw_one)
        throw InputError({"", "pulls", "some pulls of this state are corrected and some are not",
                          "keep them apart: give the corrected ones a state of their own"});
    return out;
}

RunReading reading_by_calibration(const CaseInput& input, const RigRun& run, const ProgressSink& progress,
                                  const std::stop_token& stop) {
    const std::vector<const RigRun*> runs = {&run};
    const CalibrationWatch watch{progress, {}, stop};
    const Calibration found =
        calibrate({input.project.revisions.at(input.revision).assembly.train, runs}, watch);
    return read_run(found, limit_of(found, runs, input.limits, {{}, {}, stop}),
                    {input.range, input.limits, stop});
}

std::vector<Finding> findings_of(const CaseInput& input) {
    const TrainFacts facts = facts_of(input.project.revisions.at(input.revision).assembly.train);
    std::vector<Finding> out;
    const PartRecord record = part_record(input.project);
    for (FoundFit& found :
         judge_revision(input.project, input.revision, facts, nullptr, nullptr, &record).findings)
        out.push_back(std::move(found.finding));
    return out;
}

// What failed in this revision, or in one between it and the last good state; alike ones together.
std::vector<FailureSeen> failures_of(const CaseInput& input) {
    const std::vector<Id> line = input.project.line_to(input.revision);
    auto since = std::find(line.begin(), line.end(), input.before);
    since = since == line.end() ? line.begin() : input.before == input.revision ? since : since + 1;
    std::vector<FailureSeen> out;
    for (const auto& [id, entry] : input.project.of(EntryKind::Log)) {
        const auto mode = entry.words.find("mode"), place = entry.words.find("place");
        const auto part = input.project.parts.find(part_named(entry));
        if (mode == entry.words.end() || part == input.project.parts.end() ||
            std::find(since, line.end(), entry.revision) == line.end())
            continue;
        const auto alike = std::ranges::find_if(out, [&](const FailureSeen& one) {
            return one.part == part->second.kind && one.mode == mode->second;
        });
        if (alike != out.end())
            ++alike->times;
        else
            out.push_back({part->second.kind, part->second.name, mode->second,
                           place == entry.words.end() ? "" : place->second, 1});
    }
    return out;
}

bool is_failure(const Entry& entry) {
    return entry.words.contains("mode");
}

// The same failures on record.
bool same_failures(const Project& a, const Project& b) {
    const auto of = [](const Project& project) {
        std::vector<const Entry*> out;
        for (const auto& [id, entry] : project.of(EntryKind::Log))
            if (is_failure(entry))
                out.push_back(&entry);
        return out;
    };
    return std::ranges::equal(of(a), of(b), [](const Entry* x, const Entry* y) { return *x == *y; });
}

// What people wrote beside the pulls of this state, each once.
std::string notes_of(const CaseInput& input) {
    std::vector<std::string> all;
    for (const Id id : input.pulls) {
        const Entry& entry = input.project.of(EntryKind::DynoPull).at(id);
        if (const auto changed = entry.words.find("changed");
            changed != entry.words.end() && std::find(all.begin(), all.end(), changed->second) == all.end())
            all.push_back(changed->second);
    }
    return fmt::format("{}", fmt::join(all, "; "));
}

// The nearest revisions after this one that have pulls, with those of their latest state.
void gather_later(const Project& project, Id revision, std::map<Id, std::vector<Id>>& out) {
    for (const Id child : project.children(revision)) {
        const std::vector<PullState> states = pull_states(project, child);
        if (states.empty())
            gather_later(project, child, out);
        else if (out.size() < kMostLater)
            out.emplace(child, states.back().pulls);
    }
}

std::vector<LaterState> later_states(const CaseInput& input, std::optional<bool>& charged,
                                     std::vector<std::string>& unread, const std::stop_token& stop) {
    const Project& project = input.project;
    const auto changed_around = [&](const std::vector<Id>& pulls) {
        const auto& words = project.of(EntryKind::DynoPull).at(pulls.front()).words;
        const auto at = words.find("changed");
        return at == words.end() ? std::string() : at->second;
    };
    const std::string here = input.pulls.empty() ? "" : changed_around(input.pulls);
    std::vector<LaterState> out;
    for (const auto& [revision, pulls] : input.pulls_later) {
        const std::vector<PullCase> cases = pull_cases(input, pulls, charged, unread, stop);
        std::vector<const PullAnalysis*> analyses;
        for (const PullCase& one : cases)
            analyses.push_back(&one.analysis);
        if (analyses.empty())
            continue;
        LaterState one = later_state(project.revisions.at(input.revision).assembly,
                                     project.revisions.at(revision).assembly);
        const std::string around = changed_around(pulls);
        if (around != here) {
            one.around = true;
            one.changed += MeasuredText((one.changed.empty() ? "" : ", ") + around);
        }
        one.label = project.revision_label(revision);
        one.run = series_state(analyses);
        out.push_back(std::move(one));
    }
    return out;
}

// A rig turns without boost, so that a calibrated limit is one without it: what the pulls' pressure takes off
// is told by the model.
void put_under_pressure(const CaseInput& input, const Train& train, CaseFile& file,
                        const std::stop_token& stop) {
    const LimitQuestion question{input.range, input.limits, stop};
    const auto without = limit_within(train, question, file.model->limit_rpm);
    if (!without || !file.model->limit_rpm)
        return;
    RunReading& reading = *file.calibrated;
    const double costs_rpm = *without - *file.model->limit_rpm;
    reading.mechanisms.push_back({"boost_on_head", "no pressure on the head", costs_rpm});
    for (auto* rpm : {&reading.limit_rpm, &reading.p10_rpm, &reading.p50_rpm, &reading.p90_rpm})
        if (*rpm)
            **rpm -= costs_rpm;
}

} // namespace

CaseInput gather_case(const Project& project, Id revision, const std::function<io::PackedTrace(Id)>& trace) {
    if (!project.revisions.contains(revision))
        throw InputError(
            {"", "revision", fmt::format("{} is not there", revision), "choose a revision of the project"});
    CaseInput out;
    out.project = project;
    out.revision = revision;
    const std::vector<PullState> here = pull_states(project, revision);
    if (!here.empty())
        out.pulls = here.back().pulls;
    out.before = project.revisions.at(revision).parent;
    if (here.size() > 1) {
        out.before = revision;
        out.pulls_before = here[here.size() - 2].pulls;
    } else {
        const std::vector<Id> line = project.line_to(revision);
        for (std::size_t i = line.size(); i-- > 0;) {
            if (line[i] == revision)
                continue;
            if (const auto states = pull_states(project, line[i]); !states.empty()) {
                out.before = line[i];
                out.pulls_before = states.back().pulls;
                break;
            }
        }
    }
    gather_later(project, revision, out.pulls_later);
    out.rig_run = last_run_id(project, revision);
    const TrainFacts facts = facts_of(project.revisions.at(revision).assembly.train);
    const auto& build = project.builds.at(project.revisions.at(revision).build);
    const auto engine = project.engines.find(build.engine);
    out.range = usual_range(facts.figures ? &*facts.figures : nullptr,
                            engine == project.engines.end() ? 0 : engine->second.target_rpm);
    out.limits = in_force(limit_set_of(project));
    const auto take = [&](const Entry& entry) {
        try {
            if (!entry.traces.empty())
                out.traces.emplace(entry.traces.front(), trace(entry.traces.front()));
        } catch (const InputError&) { // told when the case is opened
        }
    };
    for (const auto* list : {&out.pulls, &out.pulls_before})
        for (Id id : *list)
            take(project.of(EntryKind::DynoPull).at(id));
    for (const auto& [later, pulls] : out.pulls_later)
        for (const Id id : pulls)
            take(project.of(EntryKind::DynoPull).at(id));
    if (out.rig_run)
        take(project.of(EntryKind::RigRun).at(out.rig_run));
    return out;
}

CaseFile open_case(const CaseInput& input, Results& results, const ProgressSink& progress,
                   const std::stop_token& stop) {
    const Project& project = input.project;
    const Revision& revision = project.revisions.at(input.revision);
    const Build& build = project.builds.at(revision.build);
    const Train& train = revision.assembly.train;
    CaseFile out;
    out.limits = input.limits.name;
    out.build = build.name;
    out.state = project.revision_label(input.revision);
    out.valve = build.side == ValveSide::Intake ? "intake valve" : "exhaust valve";
    if (const auto engine = project.engines.find(build.engine); engine != project.engines.end())
        out.target_rpm = engine->second.target_rpm;
    out.hydraulic = train.hydraulic();
    if (train.back_pressure_Pa > 0 || train.pressure_table)
        out.charged = true;
    const auto part = [&](double from, double to) -> ProgressSink {
        if (!progress)
            return {};
        return [progress, from, to](double share) { progress(from + (to - from) * share); };
    };
    out.pulls = pull_cases(input, input.pulls, out.charged, out.unread, stop);
    out.pulls_before = pull_cases(input, input.pulls_before, out.charged, out.unread, stop);
    out.later = later_states(input, out.charged, out.unread, stop);
    out.findings = findings_of(input);
    out.open = open_checks(project, input.revision);
    out.failures = failures_of(input);
    auto head_Pa = median_of(out.pulls, &PullCase::head_Pa);
    if (head_Pa.value_or(0) < kLeastHead_Pa ||
        build.side == ValveSide::Exhaust) // the manifold's is the intake's
        head_Pa.reset();
    const Train judged = under_pressure(train, head_Pa);
    const bool pressed = !(judged == train);
    SweepWatch watch;
    watch.stop = stop;
    watch.progress = part(0.05, 0.4);
    const auto swept = results.sweep({judged, input.range, input.limits}, watch);
    FactsQuery query;
    query.range = input.range;
    query.limits = input.limits;
    query.stop = stop;
    query.progress = part(0.4, 0.6);
    out.model = model_facts(judged, *swept, query);
    if (pressed)
        out.model->head_Pa = head_Pa;
    if (input.before) {
        query.progress = {};
        const auto pressed_as = [&](Assembly assembly) {
            assembly.train = under_pressure(std::move(assembly.train), head_Pa);
            return assembly;
        };
        out.changes = change_facts(pressed_as(project.revisions.at(input.before).assembly),
                                   pressed_as(revision.assembly), out.model->limit_rpm, query);
        out.changes->from = project.revision_label(input.before);
        out.changes->to = out.state;
        note_pressures(out, notes_of(input));
    }
    if (progress)
        progress(0.7);
    if (input.rig_run) {
        const Entry& run = project.of(EntryKind::RigRun).at(input.rig_run);
        RigOptions options;
        options.reversed = run.numbers.contains("reversed");
        options.limits = input.limits;
        options.stop = stop;
        if (const Entry* kept = calibration_of(project, input.rig_run, input.revision, input.limits.name))
            out.calibrated = reading_of(*kept);
        const bool calibrate = input.calibrate && !out.calibrated;
        options.progress = part(0.7, calibrate ? 0.72 : 1);
        read_kept(input, run, out.unread, stop, [&](io::Trace readings) {
            const RigTrace trace = io::rig_of(std::move(readings));
            const auto reduced = results.reduction(trace, train, options);
            out.rig = rig_facts(*reduced);
            const auto held = [](const RigStep& step) { return step.used >= rig::kLeastHeldCycles; };
            if (std::ranges::any_of(reduced->steps, held))
                out.rig->holds = rig::holds_of(trace, *reduced, MotionModel(train).chain().rigid_m, options);
            if (calibrate)
                try {
                    out.calibrated = reading_by_calibration(input, *reduced, part(0.72, 1), stop);
                } catch (const InputError& error) { // the run still says what it shows
                    out.unread.push_back(
                        fmt::format("{} cannot be calibrated: {}", run.name, error.problem().what));
                }
        });
        if (pressed && out.calibrated)
            put_under_pressure(input, train, out, stop);
        if (out.rig) {
            out.rig->name = run.name;
            const Onset model = onset_beside(out.model->rows, swept->summary.onset, out.rig->rows).onset;
            out.model->onset_rpm = model.speed_rpm;
            out.model->onset_metric = model.metric;
        }
    }
    if (progress)
        progress(1);
    return out;
}

bool same_evidence(const Project& a, const Project& b) {
    const auto alike = [&](EntryKind kind) { return a.of(kind) == b.of(kind); };
    return a.revisions == b.revisions && a.builds == b.builds && a.engines == b.engines &&
           a.parts == b.parts && a.limits == b.limits && alike(EntryKind::DynoPull) &&
           alike(EntryKind::RigRun) && alike(EntryKind::Sheet) && alike(EntryKind::Calibration) &&
           alike(EntryKind::Waiver) && same_failures(a, b);
}

Entry verdict_record(const Verdict& verdict, Id revision, const std::string& decision,
                     const std::string& reason, const std::string& who, const ChangeOutcome* next) {
    const CauseInfo& first = info(verdict.weighing.causes.front().cause);
    Entry out;
    out.name = std::string(first.label);
    out.revision = revision;
    out.when = io::now_text();
    out.who = who;
    out.text = reason;
    out.words["cause"] = std::string(first.key);
    out.words["answer"] = verdict.answer;
    out.words["decision"] = decision;
    out.words["limits"] = verdict.limits;
    if (!verdict.next.empty())
        out.words["next"] = std::string(verdict.next.front().trial->label);
    for (const WeighedCause& c : verdict.weighing.causes)
        if (c.probability > 0.01)
            out.numbers["p_" + std::string(info(c.cause).key)] = c.probability;
    if (verdict.speed.rpm)
        out.numbers["speed_rpm"] = *verdict.speed.rpm;
    if (next && next->limit_rpm)
        out.numbers["expected_limit_rpm"] = *next->limit_rpm;
    return out;
}

} // namespace bathmos::session
