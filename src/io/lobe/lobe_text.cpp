#include "io/lobe/lobe_text.h"

#include "core/lobe/reconcile.h"

#include "core/lobe/base_circle.h"
#include "core/units/units.h"
#include "io/json/json.h"

#include <cmath>
#include <fmt/format.h>
#include <functional>

namespace bathmos::io {

namespace {

constexpr const char* kUnits[] = {"mm", "mm_per_deg", "mm_per_deg2", "mm_per_deg3"};

double per_degree(double value, int order) {
    return value * std::pow(kPi / 180, order) * 1e3;
}

Json location_json(double theta_rad, double cam_lift_m) {
    return {{"cam_deg", rounded(degrees(theta_rad), 2)}, {"rise_mm", rounded(cam_lift_m * 1e3, 4)}};
}

Json peak_json(const Peak& peak, int order) {
    Json out = {{kUnits[order], rounded(per_degree(peak.value, order), 6)}};
    out.update(location_json(peak.theta_rad, peak.cam_lift_m));
    return out;
}

Json event_json(const std::function<double(double)>& motion, double height_m) {
    const auto crossings = crossings_at(motion, height_m);
    Json out = {{"height_mm", rounded(height_m * 1e3, 4)}};
    const auto maybe = [&](const char* key, auto value) {
        out[key] = crossings ? Json(rounded(value(*crossings), 3)) : Json(nullptr);
    };
    maybe("duration_crank_deg", [](const Crossings& c) { return c.duration_crank_deg(); });
    maybe("opening_crank_deg", [](const Crossings& c) { return 2 * degrees(c.opening_rad); });
    maybe("closing_crank_deg", [](const Crossings& c) { return 2 * degrees(c.closing_rad); });
    return out;
}

void add_figures(Json& json, const std::vector<LobeFigure>& figures) {
    Json& out = json["figures"] = Json::object();
    for (const LobeFigure& f : figures) {
        if (f.key == "area" || f.key == "asymmetry")
            continue;
        Json figure = {{kUnits[f.order], rounded(per_degree(f.value, f.order), 6)}};
        if (f.sd > 0)
            figure["sd"] = rounded(per_degree(f.sd, f.order), 7);
        figure.update(location_json(f.theta_rad, f.cam_lift_m));
        out[f.key] = std::move(figure);
    }
    json["opening_to_closing_acceleration"] = rounded(figures.back().value, 4);
}

void add_smoothing(Json& json, const Lobe& lobe, const LobeCurve& curve) {
    const auto& s = curve.smoothing();
    if (!s)
        return;
    const auto& table = std::get<LobeTable>(lobe.shape);
    json["smoothing"] = {{"rule", table.smoothing.rule == SmoothingRule::Local ? "local" : "even"},
                         {"strength", table.smoothing.strength},
                         {"noise_um", rounded(s->noise_m * 1e6, 4)},
                         {"noise_estimated", s->estimated},
                         {"residual_rms_um", rounded(s->residual_rms_m * 1e6, 4)},
                         {"parameters", rounded(s->parameters, 2)},
                         {"nose_in_table_cam_deg", rounded(degrees(s->nose_in_table_rad), 4)}};
    const BaseCircle base = base_circle_of(table);
    Json& gauge = json["gauge"] = Json::object();
    gauge["base_circle_readings"] = base.readings;
    gauge["base_circle_um"] = rounded(base.zero_m * 1e6, 2);
    gauge["runout_um"] = rounded(base.runout_m() * 1e6, 2);
    gauge["runout_high_at_cam_deg"] = rounded(degrees(base.high_at_rad()), 1);
    Json outliers = Json::array();
    for (const std::size_t place : outstanding_readings(table))
        outliers.push_back(
            {{"reading", place + 1}, {"angle", table.angle[place]}, {"lift", table.lift[place]}});
    gauge["outstanding"] = std::move(outliers);
}

void add_cutting(Json& json, const Lobe& lobe, const LobeCurve& curve) {
    const bool roller = lobe.follower == FollowerKind::Roller;
    if (!(lobe.base_radius_m > 0) || (roller && !(lobe.follower_radius_m > 0))) {
        json["cutting"] = nullptr;
        return;
    }
    const Cutting cutting = cutting_of(lobe, curve);
    Json& out = json["cutting"] = Json::object();
    const auto length = [&](const char* key, const Worst& worst) {
        out[key] = {{"mm", rounded(worst.value * 1e3, 4)}};
        out[key].update(location_json(worst.theta_rad, worst.cam_lift_m));
    };
    out["follower"] = roller ? "roller" : "flat";
    length("least_convex_radius", cutting.least_convex_m);
    if (roller) {
        out["pressure_angle_opening_deg"] = rounded(degrees(cutting.opening_pressure_rad.value), 3);
        out["pressure_angle_closing_deg"] = rounded(degrees(cutting.closing_pressure_rad.value), 3);
        if (cutting.least_concave_m)
            length("least_concave_radius", *cutting.least_concave_m);
        out["largest_wheel_diameter_mm"] =
            cutting.least_concave_m ? Json(rounded(2e3 * cutting.least_concave_m->value, 3)) : Json(nullptr);
    } else {
        length("contact_offset_opening", cutting.opening_offset_m);
        length("contact_offset_closing", cutting.closing_offset_m);
        out["swept_width_mm"] = rounded(cutting.swept_width_m * 1e3, 4);
    }
    Json findings = Json::array();
    for (const Finding& finding : cutting_findings(lobe, cutting, std::nullopt, 0))
        findings.push_back(in_words(finding));
    out["findings"] = std::move(findings);
}

// Two machines over one lobe.
void add_reconciled(Json& json, const Lobe& lobe, const Lobe& other) {
    const Reconciled found = reconcile(lobe, other);
    const auto number = [](const FoundNumber& n, double unit, int decimals) {
        return Json{{"value", rounded(n.value / unit, decimals)}, {"sd", rounded(n.sd / unit, decimals + 1)}};
    };
    Json told = Json::array();
    for (const MeasuredText& text : found.told)
        told.push_back(text.in_words());
    json["same_as"] = {{"name", other.name},
                       {"agree", found.agree},
                       {"mirrored", found.mirrored},
                       {"shift_cam_deg", number(found.shift_rad, radians(1), 4)},
                       {"scale", number(found.scale, 1, 5)},
                       {"offset_um", number(found.offset_m, 1e-6, 2)},
                       {"runout_um", number(found.runout_m, 1e-6, 2)},
                       {"left_um", rounded(found.left_m * 1e6, 2)},
                       {"expected_um", rounded(found.expected_m * 1e6, 2)},
                       {"worst_um", rounded(found.worst_m * 1e6, 2)},
                       {"worst_crank_deg", rounded(2 * degrees(found.worst_rad), 1)},
                       {"told", std::move(told)}};
}

void add_flags(Json& json, const Lobe& lobe, const LobeCurve& curve, const Lobe& against) {
    const std::vector<LobeFlag> flags =
        lobe_flags({lobe_figures(LobeMotion(curve)), lobe_figures(LobeMotion(curve_of(against)))});
    Json out = Json::array();
    for (const LobeFlag& flag : flags) {
        Json row = {{"harder", flag.harder == 0 ? lobe.name : against.name},
                    {"figure", flag.figure.key},
                    {"factor", rounded(flag.factor, 3)},
                    {"words", fmt::format(fmt::runtime(flag.what),
                                          fmt::format("{:.2f} mm", flag.figure.cam_lift_m * 1e3))}};
        row.update(location_json(flag.figure.theta_rad, flag.figure.cam_lift_m));
        out.push_back(std::move(row));
    }
    json["against"] = {{"name", against.name}, {"flags", std::move(out)}};
}

} // namespace

std::string lobe_json(const Lobe& lobe, const LobeCurve& curve, const LobeSummaryOptions& options) {
    Json json;
    json["name"] = lobe.name;
    json["lift_mm"] = rounded(curve.lift_m() * 1e3, 5);
    Json& events = json["events"] = Json::object();
    const auto ladder = [&](const std::function<double(double)>& motion) {
        Json rungs = Json::array();
        for (double height : options.heights_m)
            rungs.push_back(event_json(motion, height));
        return rungs;
    };
    const auto at_lifter = [&](double theta) { return curve.at(theta); };
    events["lifter"] = ladder(at_lifter);
    if (options.valve)
        events["valve"] = ladder([&](double theta) { return options.valve->lift_m(theta); });
    const LobePeaks peaks = peaks_of(curve);
    json["peaks"] = {{"opening_velocity", peak_json(peaks.opening_velocity, 1)},
                     {"closing_velocity", peak_json(peaks.closing_velocity, 1)},
                     {"opening_acceleration", peak_json(peaks.opening_acceleration, 2)},
                     {"closing_acceleration", peak_json(peaks.closing_acceleration, 2)},
                     {"deceleration", peak_json(peaks.deceleration, 2)},
                     {"jerk", peak_json(peaks.jerk, 3)}};
    json["lift_area_mm_cam_deg"] = rounded(degrees(peaks.lift_area_m_rad) * 1e3, 3);
    add_figures(json, lobe_figures(LobeMotion(curve)));
    if (options.advertised_rad) {
        const auto height = height_of_duration(at_lifter, degrees(*options.advertised_rad));
        json["advertised"] = {{"crank_deg", rounded(degrees(*options.advertised_rad), 3)},
                              {"would_be_at_mm", height ? Json(rounded(*height * 1e3, 4)) : Json(nullptr)}};
    }
    add_smoothing(json, lobe, curve);
    if (options.repeatability && options.repeatability->passes > 1)
        json["gauge"]["repeatability"] = {{"passes", options.repeatability->passes},
                                          {"sd_um", rounded(options.repeatability->sd_m * 1e6, 3)},
                                          {"largest_um", rounded(options.repeatability->largest_m * 1e6, 3)},
                                          {"largest_at", options.repeatability->largest_at}};
    add_cutting(json, lobe, curve);
    if (options.against)
        add_flags(json, lobe, curve, *options.against);
    if (options.same_as)
        add_reconciled(json, lobe, *options.same_as);
    return json_text(json, 2) + "\n";
}

std::string pair_json(const PlacedLobe& intake, const PlacedLobe& exhaust,
                      const std::vector<double>& heights_m, double moved_rad, const Engine& engine) {
    const auto events = [&](double height, double moved) {
        const PairEvents e = events_of(intake, exhaust, height, moved, engine);
        const auto valve = [](const std::optional<ValveEvents>& v, const char* opens, const char* closes) {
            return v ? Json{{opens, rounded(degrees(v->opens_before_rad), 3)},
                            {closes, rounded(degrees(v->closes_after_rad), 3)},
                            {"duration_crank_deg", rounded(degrees(v->duration_rad), 3)},
                            {"lift_at_dead_centre_mm", rounded(v->lift_at_dead_centre_m * 1e3, 4)}}
                     : Json(nullptr);
        };
        const auto ratio = [](const std::optional<double>& r) {
            return r ? Json(rounded(*r, 4)) : Json(nullptr);
        };
        return Json{{"intake", valve(e.intake, "opens_before_top_deg", "closes_after_bottom_deg")},
                    {"exhaust", valve(e.exhaust, "opens_before_bottom_deg", "closes_after_top_deg")},
                    {"overlap_crank_deg", rounded(degrees(e.overlap_rad), 3)},
                    {"overlap_area_mm_crank_deg", rounded(degrees(e.overlap_area_m_rad) * 1e3, 3)},
                    {"dynamic_compression_ratio", ratio(e.dynamic_ratio)},
                    {"nearly_shut_compression_ratio", ratio(e.shut_ratio)}};
    };
    const CamTiming place = timing_of(intake.centreline_rad, exhaust.centreline_rad);
    Json json = {{"intake_centreline_crank_deg", rounded(degrees(intake.centreline_rad), 3)},
                 {"exhaust_centreline_crank_deg", rounded(degrees(exhaust.centreline_rad), 3)},
                 {"separation_cam_deg", rounded(degrees(place.separation_cam_rad), 3)},
                 {"advance_crank_deg", rounded(degrees(place.advance_crank_rad), 3)},
                 {"moved_crank_deg", rounded(degrees(moved_rad), 3)}};
    Json& rows = json["heights"] = Json::array();
    for (const double height : heights_m)
        rows.push_back({{"height_mm", rounded(height * 1e3, 4)},
                        {"as_installed", events(height, 0)},
                        {"as_moved", events(height, moved_rad)}});
    const double usual = heights_m.empty() ? kLowRise_m : heights_m.front();
    const PairEvents after = events_of(intake, exhaust, usual, moved_rad, engine);
    json["reading"] = reading_of(events_of(intake, exhaust, usual, 0, engine), after);
    json["cautions"] = cautions_of(after, engine);
    return json_text(json, 2) + "\n";
}

std::string lobe_csv(const LobeCurve& curve) {
    std::string out = "cam_deg,rise_mm,velocity_mm_per_deg,acceleration_mm_per_deg2,jerk_mm_per_deg3,"
                      "velocity_sd_mm_per_deg,acceleration_sd_mm_per_deg2,jerk_sd_mm_per_deg3\n";
    for (int i = -360; i < 360; ++i) {
        const double theta = radians(0.5 * i);
        out += fmt::format("{:g}", 0.5 * i);
        for (int order = 0; order <= 3; ++order)
            out += fmt::format(",{:.8f}", per_degree(curve.at(theta, order), order));
        for (int order = 1; order <= 3; ++order)
            out += curve.smoothing()
                       ? fmt::format(",{:.8f}", per_degree(curve.standard_deviation(theta, order), order))
                       : ",";
        out += "\n";
    }
    return out;
}

std::string lobes_csv(const std::vector<std::string>& names, const std::vector<LobeMotion>& motions,
                      const std::vector<double>& shift_rad) {
    constexpr const char* kColumns[] = {"rise_mm", "velocity_mm_per_deg", "acceleration_mm_per_deg2",
                                        "jerk_mm_per_deg3"};
    std::string out = "cam_deg";
    for (std::string name : names) {
        for (char& c : name)
            if (c == ',' || c == '"' || c == '\n')
                c = ' ';
        for (const char* column : kColumns)
            out += fmt::format(",{} {}", name, column);
    }
    out += "\n";
    for (int i = -360; i < 360; ++i) {
        out += fmt::format("{:g}", 0.5 * i);
        for (std::size_t l = 0; l < motions.size(); ++l)
            for (int order = 0; order <= 3; ++order)
                out += fmt::format(",{:.8f}",
                                   per_degree(motions[l].at(radians(0.5 * i) + shift_rad[l], order), order));
        out += "\n";
    }
    return out;
}

} // namespace bathmos::io
