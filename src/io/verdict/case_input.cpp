#include "io/verdict/case_input.h"

#include "core/math/robust.h"
#include "core/problem/input_error.h"
#include "io/dyno/pull_file.h"
#include "io/json/json.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

constexpr double kCharged_Pa = 110e3; // in the manifold, absolute: no engine draws that by itself

std::vector<PullCase> pull_cases(const CaseInput& input, const std::vector<Id>& ids,
                                 std::optional<bool>& charged, const std::stop_token& stop) {
    std::vector<PullCase> out;
    bool corrected_one = false, raw_one = false;
    for (Id id : ids) {
        const Entry& entry = input.project.of(EntryKind::DynoPull).at(id);
        const bool corrected = entry.numbers.contains("corrected");
        (corrected ? corrected_one : raw_one) = true;
        const Pull pull = pull_of(unpacked(input.traces.at(entry.traces.front())), corrected);
        PullCase one{entry.name, analyse(pull, stop), {}, "", std::nullopt};
        one.tests = test_confounders(pull, one.analysis);
        if (const auto fuel = entry.words.find("fuel"); fuel != entry.words.end())
            one.fuel = fuel->second;
        if (const auto boost = entry.numbers.find("boost_kPa"); boost != entry.numbers.end())
            one.boost_Pa = boost->second * 1e3;
        if (one.boost_Pa.value_or(0) > 0)
            charged = true;
        if (pull.has(PullChannel::Manifold)) {
            std::vector<double> map;
            for (double value : pull[PullChannel::Manifold])
                if (std::isfinite(value))
                    map.push_back(value);
            if (!map.empty())
                charged = charged.value_or(false) || median(map) > kCharged_Pa;
        }
        out.push_back(std::move(one));
    }
    if (corrected_one && raw_one)
        throw InputError({"", "pulls", "some pulls of this state are corrected and some are not",
                          "keep them apart: give the corrected ones a state of their own"});
    return out;
}

std::vector<Finding> findings_of(const CaseInput& input, const Assembly& assembly, const Build& build) {
    const RigidMotion rigid(assembly.train, curve_of(assembly.train.lobe));
    const TrainFigures figures = figures_of(assembly.train, rigid);
    FitInput fit{assembly, figures};
    fit.side = build.side;
    if (const auto engine = input.project.engines.find(build.engine); engine != input.project.engines.end())
        fit.engine = &engine->second;
    return fit_findings(fit);
}

} // namespace

std::vector<PullState> pull_states(const Project& project, Id revision) {
    std::vector<PullState> out;
    for (const auto& [id, entry] : project.of(EntryKind::DynoPull)) {
        if (entry.revision != revision || entry.traces.empty())
            continue;
        const auto word = entry.words.find("changed");
        const std::string changed = word == entry.words.end() ? "" : word->second;
        auto at =
            std::find_if(out.begin(), out.end(), [&](const PullState& s) { return s.changed == changed; });
        if (at == out.end())
            at = out.insert(out.end(), {revision, changed, {}});
        at->pulls.push_back(id);
    }
    return out;
}

SpeedRange range_for(double target_rpm) {
    if (!(target_rpm > 0))
        return {4000, 9600, 200};
    return {200 * std::round(0.45 * target_rpm / 200), 200 * std::ceil(1.15 * target_rpm / 200), 200};
}

CaseInput gather_case(const Project& project, Id revision, const std::function<PackedTrace(Id)>& trace) {
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
    for (const auto& [id, run] : project.of(EntryKind::RigRun))
        if (run.revision == revision && !run.traces.empty())
            out.rig_run = id;
    const auto take = [&](const Entry& entry) {
        out.traces.emplace(entry.traces.front(), trace(entry.traces.front()));
    };
    for (const auto* list : {&out.pulls, &out.pulls_before})
        for (Id id : *list)
            take(project.of(EntryKind::DynoPull).at(id));
    if (out.rig_run)
        take(project.of(EntryKind::RigRun).at(out.rig_run));
    return out;
}

CaseFile open_case(const CaseInput& input, FactsQuery query) {
    const Project& project = input.project;
    const Revision& revision = project.revisions.at(input.revision);
    const Build& build = project.builds.at(revision.build);
    const Train& train = revision.assembly.train;
    CaseFile out;
    out.build = build.name;
    out.state = project.revision_label(input.revision);
    out.valve = build.side == ValveSide::Intake ? "intake valve" : "exhaust valve";
    if (const auto engine = project.engines.find(build.engine); engine != project.engines.end())
        out.target_rpm = engine->second.target_rpm;
    query.range = range_for(out.target_rpm);
    out.hydraulic = train.hydraulic();
    if (train.back_pressure_Pa > 0 || train.pressure_table)
        out.charged = true;
    const ProgressSink whole = query.progress;
    const auto part = [&](double from, double to) -> ProgressSink {
        if (!whole)
            return {};
        return [whole, from, to](double share) { whole(from + (to - from) * share); };
    };
    out.pulls = pull_cases(input, input.pulls, out.charged, query.stop);
    out.pulls_before = pull_cases(input, input.pulls_before, out.charged, query.stop);
    out.findings = findings_of(input, revision.assembly, build);
    out.open = open_checks(project, input.revision);
    query.progress = part(0.05, 0.6);
    out.model = model_facts(train, query);
    if (input.before) {
        query.progress = {};
        const Assembly& before = project.revisions.at(input.before).assembly;
        out.changes = change_facts(before, revision.assembly, out.model->limit_rpm, query);
        out.changes->from = project.revision_label(input.before);
        out.changes->to = out.state;
    }
    if (whole)
        whole(0.7);
    if (input.rig_run) {
        const Entry& run = project.of(EntryKind::RigRun).at(input.rig_run);
        RigOptions options;
        options.reversed = run.numbers.contains("reversed");
        options.progress = part(0.7, 1);
        options.stop = query.stop;
        out.rig = rig_facts(reduce(rig_of(unpacked(input.traces.at(run.traces.front()))), train, options));
        out.rig->name = run.name;
    }
    if (whole)
        whole(1);
    return out;
}

std::string verdict_json(const CaseFile& file, const Verdict& v) {
    const auto round = [](double value, double scale) { return std::round(value * scale) / scale; };
    Json out;
    out["question"] = v.question;
    out["answer"] = v.answer;
    out["speed_rpm"] = v.speed.rpm ? Json(round(*v.speed.rpm, 1)) : Json();
    out["speed_from"] = v.speed.from;
    out["valve_train"] = round(v.weighing.valve_train, 1e3);
    out["model_limit_rpm"] =
        file.model && file.model->limit_rpm ? Json(round(*file.model->limit_rpm, 1)) : Json();
    out["rig_edge_rpm"] = file.rig && file.rig->onset_rpm ? Json(round(*file.rig->onset_rpm, 1)) : Json();
    out["break_rpm"] = v.dyno_break ? Json(round(v.dyno_break->speed_rpm, 1)) : Json();
    out["causes"] = Json::array();
    for (const WeighedCause& c : v.weighing.causes) {
        Json one = {{"key", info(c.cause).key},
                    {"label", info(c.cause).label},
                    {"valve_train", info(c.cause).valve_train},
                    {"probability", round(c.probability, 1e4)},
                    {"for", Json::array()},
                    {"against", Json::array()}};
        for (const Argument& a : c.arguments)
            one[a.weight > 0 ? "for" : "against"].push_back(
                {{"sign", info(v.evidence[a.evidence].symptom).key},
                 {"text", v.evidence[a.evidence].text},
                 {"link", v.evidence[a.evidence].link},
                 {"weight", round(a.weight, 1e3)}});
        out["causes"].push_back(std::move(one));
    }
    out["next"] = Json::array();
    for (const RankedTrial& t : v.next)
        out["next"].push_back({{"key", t.trial->key},
                               {"label", t.trial->label},
                               {"how", t.trial->how},
                               {"hours", t.trial->hours},
                               {"information_bit", round(t.information_bit, 1e4)}});
    out["missing"] = v.missing;
    out["advice"] = "Advice only: makers' instructions, local rules and a competent person come first.";
    return out.dump(1) + "\n";
}

} // namespace bathmos::io
