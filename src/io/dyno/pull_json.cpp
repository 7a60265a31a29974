#include "io/dyno/pull_json.h"

#include "core/problem/input_error.h"
#include "io/json/json.h"

#include <cmath>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

Json findings(const std::vector<ConfounderTest>& tests) {
    Json out = Json::array();
    for (const ConfounderTest& t : tests) {
        Json one = {{"key", info(t.kind).key}, {"label", info(t.kind).label}, {"text", t.text.in_words()}};
        one["status"] = t.status == TestStatus::Seen    ? "seen"
                        : t.status == TestStatus::Clear ? "clear"
                                                        : "not logged";
        if (t.status == TestStatus::NotLogged) {
            one["settle"] = info(t.kind).settle;
        } else {
            one["confidence"] = rounded(t.status == TestStatus::Seen ? t.seen : 1 - t.seen, 2);
            one["from_rpm"] = maybe(t.from_rpm);
        }
        out.push_back(std::move(one));
    }
    return out;
}

Json of_pull(const PullReport& report) {
    const PullAnalysis& a = report.analysis;
    const PowerBreak* first = a.first_break();
    Json out;
    out["name"] = report.name;
    out["peak_rpm"] = rounded(a.peak_rpm, 0);
    out["peak_kW"] = rounded(a.peak_W / 1e3);
    out["torque_peak_rpm"] = rounded(a.torque_peak_rpm, 0);
    out["torque_peak_Nm"] = rounded(a.torque_peak_Nm);
    out["break_rpm"] = first ? Json(rounded(first->speed_rpm, 0)) : Json();
    out["break_sd_rpm"] = first ? Json(rounded(first->sd_rpm, 0)) : Json();
    out["break_confidence"] = rounded(first ? first->confidence : a.breaks.best_confidence);
    out["break_depth_kW"] = first ? Json(rounded(first->depth_W / 1e3)) : Json();
    out["breaks"] = Json::array();
    for (const PowerBreak& b : a.breaks.breaks)
        out["breaks"].push_back({{"rpm", rounded(b.speed_rpm, 0)},
                                 {"depth_kW", rounded(b.depth_W / 1e3)},
                                 {"confidence", rounded(b.confidence)}});
    out["dips"] = Json::array();
    for (const PowerDip& d : a.breaks.dips)
        out["dips"].push_back({{"from_rpm", rounded(d.from_rpm, 0)},
                               {"to_rpm", rounded(d.to_rpm, 0)},
                               {"depth_kW", rounded(d.depth_W / 1e3)}});
    out["roughness"] = Json::array();
    for (const Roughness& r : a.roughness)
        out["roughness"].push_back({{"rpm", rounded(r.middle_rpm, 0)},
                                    {"kW", rounded(r.rms_W / 1e3, 4)},
                                    {"over_mid_range", rounded(r.over_mid_range, 2)}});
    out["rough_from_rpm"] = maybe(a.rough_from_rpm);
    out["cut_rpm"] = a.cut ? Json(rounded(a.cut->speed_rpm, 0)) : Json();
    out["left_out"] = a.curve.left_out;
    if (!report.pull.cannot_be.empty())
        out["cannot_be"] = report.pull.cannot_be;
    if (report.correction) {
        out["correction"] = {{"standard", "SAE J1349"},
                             {"factor", rounded(report.correction->factor, 5)},
                             {"dry_kPa", rounded(report.correction->dry_Pa / 1e3)},
                             {"air_C", rounded(report.correction->air_K - 273.15, 2)},
                             {"vapour_known", report.correction->vapour_known}};
        if (!report.correction->caution.empty())
            out["correction"]["caution"] = report.correction->caution;
    } else {
        out["correction"] = "as recorded";
    }
    out["findings"] = findings(report.tests);
    return out;
}

Json of_range(const RangeGain& r) {
    return {{"from_rpm", r.from_rpm},
            {"to_rpm", r.to_rpm},
            {"gain_kW", rounded(r.gain_W / 1e3)},
            {"plus_minus_kW", r.plus_minus_W ? Json(rounded(*r.plus_minus_W / 1e3)) : Json()}};
}

} // namespace

std::string pull_json(const std::vector<PullReport>& reports,
                      const std::optional<StateDifference>& difference,
                      const std::optional<StateBreak>& against) {
    Json out = of_pull(reports.front());
    if (against && against->growing) { // which its own curve alone does not show
        out["break_rpm"] = rounded(against->speed_rpm, 0);
        out["break_confidence"] = rounded(against->confidence);
        out["break_depth_kW"] = rounded(against->depth_W / 1e3);
        out["break_from"] = "the state before";
    }
    if (reports.size() > 1) {
        std::vector<const PullAnalysis*> analyses;
        for (const PullReport& r : reports) {
            out["pulls"].push_back(of_pull(r));
            analyses.push_back(&r.analysis);
        }
        if (const auto b = break_of_state(analyses))
            out["state_break"] = {{"rpm", rounded(b->speed_rpm, 0)},
                                  {"scatter_rpm", rounded(b->scatter_rpm, 0)},
                                  {"depth_kW", rounded(b->depth_W / 1e3)},
                                  {"pulls", b->pulls},
                                  {"of", b->of}};
    }
    if (difference) {
        Json& d = out["difference"];
        d["all"] = of_range(difference->all);
        d["area_kW_rpm"] = rounded(difference->area_W_rpm / 1e3, 0);
        for (const RangeGain& r : difference->ranges)
            d["ranges"].push_back(of_range(r));
    }
    return json_text(out, 1) + "\n";
}

} // namespace bathmos::io
