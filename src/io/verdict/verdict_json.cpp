#include "io/verdict/verdict_json.h"
#include "io/json/json.h"

#include <cmath>

namespace bathmos::io {

namespace {

Json round(std::optional<double> value, double scale) {
    return value ? Json(std::round(*value * scale) / scale) : Json();
}

Json of_outcome(const ChangeOutcome& o) {
    Json out = {{"label", o.label}, {"hours", o.hours}, {"cost", round(o.cost, 1)}};
    if (!o.trouble.empty()) {
        out["trouble"] = o.trouble;
        return out;
    }
    out["limit_rpm"] = round(o.limit_rpm, 1);
    out["limit_metric"] = o.limit_metric;
    out["gain_rpm"] = round(o.gain_rpm, 1);
    out["contact_loss_rpm"] = round(o.contact_loss_rpm, 1);
    out["contact_loss_gain_rpm"] = round(o.contact_loss_gain_rpm, 1);
    out["edge_rpm"] = round(o.onset_rpm, 1);
    out["edge_gain_rpm"] = round(o.onset_gain_rpm, 1);
    out["opposed"] = o.opposed();
    out["low_rpm"] = round(o.low_rpm, 1);
    out["high_rpm"] = round(o.high_rpm, 1);
    out["bind_margin_mm"] = round(1e3 * o.bind_margin_m, 100);
    out["seating_m_per_s"] = round(o.seating_m_per_s, 100);
    out["cam_N"] = round(o.cam_N, 1);
    out["stress_MPa"] = round(o.stress_Pa ? std::optional(*o.stress_Pa / 1e6) : std::nullopt, 1);
    out["piston_mm"] = round(o.piston_m ? std::optional(1e3 * *o.piston_m) : std::nullopt, 100);
    out["cost_per_100_rpm"] = round(o.cost_per_100_rpm(), 1);
    out["risk"] = o.risk();
    out["near"] = std::vector<std::string>(o.near.begin(), o.near.end());
    out["school"] = o.school;
    out["raised"] = Json::array();
    for (const Finding& f : o.raised)
        out["raised"].push_back(in_words(f));
    return out;
}

// What the calibrated run says by itself; null where there is none.
Json run_of(const CaseFile& file) {
    if (!file.calibrated)
        return {};
    const RunReading& reading = *file.calibrated;
    const RunShares shares = shares_of_run(file);
    Json out;
    out["chosen"] = reading.chosen;
    if (!reading.chosen_with.empty())
        out["chosen_with"] = reading.chosen_with;
    out["limit_rpm"] = round(reading.limit_rpm, 1);
    out["edge_rpm"] = round(reading.onset_rpm, 1);
    out["p10_rpm"] = round(reading.p10_rpm, 1);
    out["p90_rpm"] = round(reading.p90_rpm, 1);
    out["healthy"] = round(shares.healthy, 1e4);
    out["causes"] = Json::array();
    for (std::size_t i = 0; i < kCauses; ++i)
        if (shares.of[i] > 0)
            out["causes"].push_back(
                {{"key", info(static_cast<Cause>(i)).key}, {"share", round(shares.of[i], 1e4)}});
    out["departures"] = Json::array();
    for (const RunDeparture& one : reading.departures)
        out["departures"].push_back({{"key", one.cause},
                                     {"log_evidence", round(one.log_evidence, 100)},
                                     {"gain_rpm", round(one.gain_rpm, 1)}});
    out["mechanisms"] = Json::array();
    for (const RunMechanism& one : reading.mechanisms)
        out["mechanisms"].push_back(
            {{"key", one.cause}, {"label", one.label}, {"gain_rpm", round(one.gain_rpm, 1)}});
    return out;
}

Json of_verdict(const CaseFile& file, const Verdict& v) {
    Json out;
    out["limits"] = file.limits;
    out["question"] = v.question;
    out["answer"] = v.answer;
    out["valve_answer"] = v.valve_answer;
    out["speed_rpm"] = round(v.speed.rpm, 1);
    out["speed_from"] = v.speed.from;
    out["valve_train"] = round(v.weighing.valve_train, 1e3);
    out["model_limit_rpm"] = file.model ? round(file.model->limit_rpm, 1) : Json();
    out["model_contact_loss_rpm"] = file.model ? round(file.model->contact_loss_rpm, 1) : Json();
    out["model_edge_rpm"] = file.model ? round(file.model->onset_rpm, 1) : Json();
    out["rig_limit_rpm"] = file.rig ? round(file.rig->limit_rpm, 1) : Json();
    out["rig_edge_rpm"] = file.rig ? round(file.rig->onset_rpm, 1) : Json();
    out["run"] = run_of(file);
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
                 {"text", v.evidence[a.evidence].text.in_words()},
                 {"link", v.evidence[a.evidence].link},
                 {"weight", round(a.weight, 1e3)}});
        out["causes"].push_back(std::move(one));
    }
    out["together"] = Json::array();
    for (const WeighedPair& pair : v.weighing.pairs)
        out["together"].push_back({{"first", info(pair.first).key},
                                   {"second", info(pair.second).key},
                                   {"probability", round(pair.probability, 1e4)}});
    out["next"] = Json::array();
    for (const RankedTrial& t : v.next)
        out["next"].push_back({{"key", t.trial->key},
                               {"label", t.trial->label},
                               {"how", t.trial->how},
                               {"hours", t.trial->hours},
                               {"information_bit", round(t.information_bit, 1e4)}});
    out["missing"] = v.missing;
    out["advice"] = "Advice only: makers' instructions, local rules and a competent person come first.";
    return out;
}

} // namespace

std::string verdict_json(const CaseFile& file, const Verdict& verdict, const ChangeStudy* study) {
    Json out = of_verdict(file, verdict);
    if (!study)
        return json_text(out, 1) + "\n";
    out["would_help"] = Json::array();
    for (const ChangeOutcome& o : study->singles)
        out["would_help"].push_back(of_outcome(o));
    out["combinations"] = Json::array();
    for (const ChangeOutcome& o : study->combinations)
        out["combinations"].push_back(of_outcome(o));
    return json_text(out, 1) + "\n";
}

} // namespace bathmos::io
