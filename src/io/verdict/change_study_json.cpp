#include "io/verdict/change_study_json.h"
#include "io/json/json.h"

#include <cmath>

namespace bathmos::io {

namespace {

constexpr std::size_t kUncertaintyTrains = 12;

Json of_outcome(const ChangeOutcome& o) {
    const auto round = [](std::optional<double> value, double scale) {
        return value ? Json(std::round(*value * scale) / scale) : Json();
    };
    Json out = {{"label", o.label}, {"hours", o.hours}, {"cost", round(o.cost, 1)}};
    if (!o.trouble.empty()) {
        out["trouble"] = o.trouble;
        return out;
    }
    out["limit_rpm"] = round(o.limit_rpm, 1);
    out["limit_metric"] = o.limit_metric;
    out["gain_rpm"] = round(o.gain_rpm, 1);
    out["low_rpm"] = round(o.low_rpm, 1);
    out["high_rpm"] = round(o.high_rpm, 1);
    out["bind_margin_mm"] = round(1e3 * o.bind_margin_m, 100);
    out["seating_m_per_s"] = round(o.seating_m_per_s, 100);
    out["cam_N"] = round(o.cam_N, 1);
    out["stress_MPa"] = round(o.stress_Pa ? std::optional(*o.stress_Pa / 1e6) : std::nullopt, 1);
    out["piston_mm"] = round(o.piston_m ? std::optional(1e3 * *o.piston_m) : std::nullopt, 100);
    out["cost_per_100_rpm"] = round(o.cost_per_100_rpm(), 1);
    out["risk"] = o.risk();
    out["near"] = o.near;
    out["school"] = o.school;
    out["raised"] = Json::array();
    for (const Finding& f : o.raised)
        out["raised"].push_back(in_words(f));
    return out;
}

} // namespace

ChangeStudyQuery change_study_query(const CaseInput& input, const CaseFile& file, const Verdict& verdict) {
    ChangeStudyQuery out;
    out.range = range_for(file.target_rpm);
    out.target_rpm = file.target_rpm > 0 ? file.target_rpm : out.range.last_rpm;
    out.limit_rpm = file.model ? file.model->limit_rpm.value_or(out.range.last_rpm) : 0;
    out.at_rpm = verdict.speed.rpm.value_or(out.limit_rpm);
    out.build = &input.project.builds.at(input.project.revisions.at(input.revision).build);
    if (const auto engine = input.project.engines.find(out.build->engine);
        engine != input.project.engines.end())
        out.engine = &engine->second;
    out.uncertainty_trains = kUncertaintyTrains;
    return out;
}

ChangeStudy study_changes(const CaseInput& input, const CaseFile& file, const Verdict& verdict,
                          const ProgressSink& progress, const std::stop_token& stop) {
    ChangeStudy out;
    const Assembly& assembly = input.project.revisions.at(input.revision).assembly;
    ChangeStudyQuery query = change_study_query(input, file, verdict);
    out.changes = possible_changes(input.project, assembly, query.build->side);
    query.stop = stop;
    query.progress = progress;
    out.singles = study_single_changes(assembly, out.changes, query);
    out.combinations = combinations_that_reach(assembly, out.changes, out.singles, query);
    return out;
}

std::string verdict_json(const CaseFile& file, const Verdict& verdict, const ChangeStudy* study) {
    const std::string plain = verdict_json(file, verdict);
    if (!study)
        return plain;
    Json out = Json::parse(plain);
    out["would_help"] = Json::array();
    for (const ChangeOutcome& o : study->singles)
        out["would_help"].push_back(of_outcome(o));
    out["combinations"] = Json::array();
    for (const ChangeOutcome& o : study->combinations)
        out["combinations"].push_back(of_outcome(o));
    return out.dump(1) + "\n";
}

} // namespace bathmos::io
