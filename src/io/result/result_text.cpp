#include "io/result/result_text.h"

#include "io/result/channel_columns.h"

#include "core/units/units.h"
#include "io/json/json.h"
#include "io/train/train_json.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

constexpr double kRepeats_m =
    0.10e-3; // a recorded motion counts as repeating below this variation (limit of physics.md 7)

void add_row(std::string& out, double speed_rpm, const Metrics& metrics, const std::vector<Metric>& columns) {
    out += fmt::format("{:g}", rounded(speed_rpm, 2));
    for (Metric m : columns) {
        const auto value = metrics.in_unit(m);
        out += value ? fmt::format(",{:.{}f}", rounded(*value, info(m).decimals), info(m).decimals) : ",";
    }
}

std::string heading(const std::vector<Metric>& columns) {
    std::string out = "rpm";
    for (Metric m : columns)
        out += fmt::format(",{}", info(m).column);
    return out;
}

Json crossings_json(const LimitSpeed& limit) {
    Json out = Json::object();
    for (const Crossing& crossing : limit.crossings)
        out[std::string(crossing.limit.key)] = maybe(crossing.speed_rpm, 1);
    return out;
}

void add_limit(Json& json, const LimitSpeed& limit) {
    json["limit_rpm"] = maybe(limit.speed_rpm, 1);
    json["limit_metric"] = limit.first ? Json(limit.first->key) : Json(nullptr);
    json["crossings_rpm"] = crossings_json(limit);
    json["free_again_rpm"] = nullptr;
    if (limit.free_again)
        json["free_again_rpm"] = {{"from", rounded(limit.free_again->from_rpm, 1)},
                                  {"to", rounded(limit.free_again->to_rpm, 1)}};
}

// The metric's column without its unit: "lift_loss_mm" -> "lift_loss".
Json metric_name(const std::optional<Metric>& metric) {
    if (!metric)
        return nullptr;
    const std::string_view column = info(*metric).column, unit = info(*metric).unit;
    const std::size_t tail = unit == "m/s" ? 8 : unit.empty() ? 0 : unit.size() + 1;
    return std::string(column.substr(0, column.size() - tail));
}

void add_onset(Json& json, const OnsetResult& result) {
    json["edge_rpm"] = maybe(result.onset.speed_rpm, 1);
    json["edge_metric"] = metric_name(result.onset.metric);
    json["edge_half_step_rpm"] = rounded(result.onset.half_step_rpm, 1);
    json["bands_rpm"] = Json::array();
    for (const Band& band : result.bands)
        json["bands_rpm"].push_back({{"metric", metric_name(band.metric)},
                                     {"from", rounded(band.from_rpm, 1)},
                                     {"to", rounded(band.to_rpm, 1)}});
}

} // namespace

const std::vector<Metric>& sweep_columns() {
    using enum Metric;
    static const std::vector<Metric> columns = {
        Loft,   LiftLoss,    ContactLoss, OpeningShift, ClosingShift, DurationChange, Seating,
        Bounce, BounceCount, HeldOpen,    SeatRipple,   Surge,        CycleVariation};
    return columns;
}

const std::vector<Metric>& rig_columns() {
    using enum Metric;
    static const std::vector<Metric> columns = {Loft,           LiftLoss,      OpeningShift, ClosingShift,
                                                DurationChange, Seating,       Bounce,       BounceCount,
                                                HeldOpen,       CycleVariation};
    return columns;
}

std::string motion_csv(const Motion& motion, const RigidMotion& rigid, double step_deg) {
    std::string out = "crank_deg,lift_mm,kinematic_mm,cam_N,tip_N,seat_N,spring_N\n";
    const auto rows = static_cast<int>(std::ceil(720 / step_deg - 1e-9));
    for (int i = 0; i <= rows; ++i) {
        const double crank = std::min(360.0, -360 + i * step_deg); // both ends, whatever the step
        out += fmt::format("{:g},{:.6f},{:.6f}", rounded(crank, 6), lift_at(motion, crank) * 1e3,
                           rigid.lift_m(radians(crank / 2)) * 1e3);
        for (Channel c : {Channel::CamForce, Channel::TipForce, Channel::SeatForce, Channel::SpringForce})
            out += fmt::format(",{:.3f}", channel_at(motion[c], crank));
        out += '\n';
    }
    return out;
}

const std::vector<ChannelColumn>& channel_columns() {
    using enum Channel;
    static const std::vector<ChannelColumn> columns = {{Lift, "lift_mm", 1e3},
                                                       {LiftRate, "lift_rate_m_per_s", 1},
                                                       {CamPenetration, "cam_depth_um", 1e6},
                                                       {LinkPenetration, "link_squeeze_um", 1e6},
                                                       {TipPenetration, "tip_depth_um", 1e6},
                                                       {CamForce, "cam_N", 1},
                                                       {LinkForce, "link_N", 1},
                                                       {TipForce, "tip_N", 1},
                                                       {SeatForce, "seat_N", 1},
                                                       {SpringForce, "spring_N", 1},
                                                       {Follower, "follower_mm", 1e3},
                                                       {RockerIn, "rocker_input_mm", 1e3},
                                                       {Surge, "surge_mm", 1e3},
                                                       {Clash, "clash_um", 1e6},
                                                       {Extension, "extension_mm", 1e3},
                                                       {Pressure, "oil_kPa_absolute", 1e-3},
                                                       {PowerIn, "power_in_W", 1},
                                                       {Loss, "loss_W", 1}};
    return columns;
}

std::string motion_table(const std::vector<std::shared_ptr<const Motion>>& motions,
                         const std::vector<double>& rigid_m, double speed_rpm) {
    const Motion* m = motions.front().get();
    for (const auto& motion : motions)
        if (std::abs(motion->speed_rpm - speed_rpm) < std::abs(m->speed_rpm - speed_rpm))
            m = motion.get();
    std::string out =
        fmt::format("# rpm: {:g}\n# periodic: {}\ncrank_deg,kinematic_mm", m->speed_rpm, m->periodic ? 1 : 0);
    for (const ChannelColumn& column : channel_columns())
        out += fmt::format(",{}", column.name);
    for (std::size_t c = 0; c < m->coil_count; ++c)
        out += fmt::format(",coil_{:02}_mm", c + 1);
    out += '\n';
    for (std::size_t i = 0; i < kGridPoints; ++i) {
        out +=
            fmt::format("{:g},{:.6f}", -360 + kGridStep_crank_deg * static_cast<double>(i), rigid_m[i] * 1e3);
        for (const ChannelColumn& column : channel_columns())
            out += fmt::format(",{:.6g}", (*m)[column.channel][i] * column.to_unit);
        for (std::size_t c = 0; c < m->coil_count; ++c)
            out += i % kCoilStride == 0
                       ? fmt::format(",{:.4f}", 1e3 * static_cast<double>(m->coil_m(i / kCoilStride, c)))
                       : ",";
        out += '\n';
    }
    return out;
}

std::string sweep_csv(const Sweep& sweep) {
    std::string out = heading(sweep_columns()) + ",cycles,periodic\n";
    for (const auto& motion : sweep.motions) {
        add_row(out, motion->speed_rpm, motion->metrics, sweep_columns());
        out += fmt::format(",{},{}\n", motion->cycles, motion->periodic ? 1 : 0);
    }
    return out;
}

std::string sweep_json(const SweepSummary& summary, const std::vector<Finding>& cautions) {
    Json json;
    add_limit(json, summary.limit);
    add_onset(json, summary.onset);
    const auto& s = summary.separation;
    json["separation_rpm"] = s ? Json(rounded(s->speed_rpm, 1)) : Json(nullptr);
    json["separation_deg"] = s ? Json(rounded(s->crank_deg, 1)) : Json(nullptr);
    json["low_speed_duration_change_deg"] = rounded(summary.low_speed_duration_change_deg, 4);
    json["limits"] = {{"name", summary.limits_name},
                      {"check_lift_mm", rounded(1e3 * summary.check_lift_m, 4)}};
    for (const Finding& finding : cautions)
        json["cautions"].push_back(
            {{"rule", finding.rule}, {"key", finding.part}, {"words", in_words(finding)}});
    return json_text(json, 2) + "\n";
}

std::string uncertainty_json(const LimitUncertainty& s, const std::string& limits_name) {
    const auto figure = [](const std::optional<double>& rpm, double error) {
        return rpm ? Json{{"rpm", rounded(*rpm, 1)}, {"error_rpm", rounded(error, 1)}} : Json(nullptr);
    };
    Json json;
    json["limits"] = limits_name;
    json["trains"] = s.trains;
    json["without_limit"] = s.without;
    json["refused"] = s.refused;
    json["p10"] = figure(s.low_rpm, s.low_error_rpm);
    json["p50"] = figure(s.middle_rpm, s.middle_error_rpm);
    json["p90"] = figure(s.high_rpm, s.high_error_rpm);
    json["explained"] = rounded(s.explained, 3);
    json["drivers"] = Json::array();
    for (const Driver& d : s.drivers)
        json["drivers"].push_back({{"key", d.input.key},
                                   {"source", source_name(d.input.tolerance.source)},
                                   {"share", rounded(d.share, 4)},
                                   {"share_error", rounded(d.share_error, 4)},
                                   {"rpm_per_tolerance", rounded(d.rpm_per_tolerance, 1)}});
    return json_text(json, 2) + "\n";
}

std::string stiffness_json(const StiffnessBudget& budget, const std::string& limits_name) {
    const auto speed = [](const std::optional<double>& rpm) {
        return rpm ? Json(rounded(*rpm, 1)) : Json(nullptr);
    };
    Json json;
    json["limits"] = limits_name;
    json["limit_rpm"] = speed(budget.limit_rpm);
    json["stiffer"] = kStiffer;
    json["links"] = Json::array();
    for (const StiffnessGain& link : budget.links)
        json["links"].push_back({{"part", link.part},
                                 {"share", rounded(link.share, 4)},
                                 {"same_mass_rpm", speed(link.same_mass_rpm)},
                                 {"true_mass_rpm", speed(link.true_mass_rpm)},
                                 {"added_g", rounded(link.added_kg * 1e3, 2)}});
    json["mend_first"] = budget.mend_first.empty() ? Json(nullptr) : Json(budget.mend_first);
    return json_text(json, 2) + "\n";
}

std::string hold_csv(const Hold& hold) {
    std::vector<Metric> columns = sweep_columns();
    std::erase(columns, Metric::CycleVariation); // of one cycle there is none
    std::string out = "time_s,peak_mm,seat_load_N,open_load_N,cam_N,extension_mm," + heading(columns) + "\n";
    for (const HoldPoint& p : hold.points) {
        out += fmt::format("{:.5f},{:.5f},{:.2f},{:.2f},{:.2f},{:.5f},", p.time_s, p.peak_m * 1e3,
                           p.seat_load_N, p.open_load_N, p.cam_N, p.extension_m * 1e3);
        add_row(out, hold.speed_rpm, p.metrics, columns);
        out += '\n';
    }
    return out;
}

std::string rig_csv(const RigRun& run) {
    std::vector<Metric> columns = sweep_columns();
    std::erase(columns, Metric::SeatRipple);
    std::string out = heading(columns) + ",cycles,periodic";
    for (std::size_t r = 0; r < kBadCycles; ++r)
        out += fmt::format(",dropped_{}", name_of(static_cast<BadCycle>(r)));
    out += ",zero_mm\n";
    for (const RigStep& step : run.steps) {
        add_row(out, step.speed_rpm, step.metrics, columns);
        out += fmt::format(",{},{}", step.used, *step.metrics[Metric::CycleVariation] < kRepeats_m ? 1 : 0);
        for (std::size_t count : step.dropped)
            out += fmt::format(",{}", count);
        out += fmt::format(",{:.4f}\n", step.zero_mm);
    }
    return out;
}

namespace {

Json rig_summary(const RigRun& run) {
    Json json;
    add_onset(json, run.onset);
    add_limit(json, run.limit);
    json["low_speed_duration_change_deg"] = rounded(run.low_speed_duration_change_deg, 4);
    json["phase_deg"] = rounded(run.phase_deg, 3);
    json["scale_ratio"] = rounded(run.scale_ratio, 5);
    json["noise_mm"] = rounded(run.noise_m * 1e3, 5);
    json["seat_mm"] = rounded(run.seat_m * 1e3, 5);
    json["dropped"] = Json::object();
    for (std::size_t r = 0; r < kBadCycles; ++r)
        json["dropped"][std::string(name_of(static_cast<BadCycle>(r)))] = run.dropped[r];
    json["limits"] = {{"name", run.limits_name}};
    json["not_judged"] = std::vector<std::string>(run.not_judged.begin(), run.not_judged.end());
    json["warnings"] = std::vector<std::string>(run.warnings.begin(), run.warnings.end());
    return json;
}

} // namespace

std::string rig_json(const RigRun& run) {
    return json_text(rig_summary(run), 2) + "\n";
}

std::string recorded_json(const RigRun& run, const RecordingCounts& counts) {
    Json json = rig_summary(run);
    json["samples"] = counts.samples;
    json["lost_samples"] = counts.lost;
    json["good_cycles"] = counts.good_cycles;
    json["bad_cycles"] = counts.bad_cycles;
    json["pieces"] = counts.pieces;
    json["stopped"] = counts.stopped.empty() ? Json() : Json(counts.stopped);
    return json_text(json, 2) + "\n";
}

namespace {

// Durations by height, those of the slowest step less those at each speed.
void put_losses(const RigRun& run, const DurationsKept& kept, Json& json) {
    const std::vector<double> heights_m = loss_heights_m(run);
    const std::vector<HeightLoss> losses = height_losses(run, heights_m);
    json["heights_mm"] = Json::array();
    for (const double height_m : heights_m)
        json["heights_mm"].push_back(rounded(height_m * 1e3, 3));
    json["losses"] = Json::array();
    for (const HeightLoss& one : losses) {
        Json row{{"rpm", rounded(one.speed_rpm, 1)}, {"lift_mm", rounded(one.lift_loss_m * 1e3, 4)}};
        row["duration_deg"] = Json::array();
        for (const auto& deg : one.duration_deg)
            row["duration_deg"].push_back(maybe(deg, 2));
        json["losses"].push_back(std::move(row));
    }
    json["useful_rpm"] = maybe(useful_rpm(losses, heights_m, kept), 1);
}

} // namespace

std::string compare_json(const std::vector<RunOfTrain>& runs, const RunComparison& comparison,
                         const DurationsKept& kept) {
    Json json;
    json["runs"] = Json::array();
    for (const RunOfTrain& one : runs) {
        Json run{{"name", one.name}};
        run["edge_rpm"] = maybe(one.run->onset.onset.speed_rpm, 1);
        run["edge_half_step_rpm"] = rounded(one.run->onset.onset.half_step_rpm, 1);
        run["edge_metric"] = metric_name(one.run->onset.onset.metric);
        run["limit_rpm"] = maybe(one.run->limit.speed_rpm, 1);
        run["scale_ratio"] = rounded(one.run->scale_ratio, 5);
        run["phase_deg"] = rounded(one.run->phase_deg, 3);
        run["noise_mm"] = rounded(one.run->noise_m * 1e3, 5);
        put_losses(*one.run, kept, run);
        json["runs"].push_back(std::move(run));
    }
    json["repeats_rpm"] = maybe(comparison.repeats_rpm, 1);
    json["gains"] = Json::array();
    for (const EdgeGain& one : comparison.gains)
        json["gains"].push_back({{"from", one.from},
                                 {"to", one.to},
                                 {"rpm", maybe(one.rpm, 1)},
                                 {"sd_rpm", rounded(one.sd_rpm, 1)},
                                 {"claimed", one.claimed}});
    json["told"] = Json::array();
    for (const Told& one : comparison.told)
        json["told"].push_back({{"rule", one.rule}, {"text", one.text.in_words()}});
    return json_text(json, 2) + "\n";
}

namespace {

// Whose a number or a departure is, where two revisions are fitted together.
std::string_view owner(const std::optional<std::size_t>& only) {
    return !only ? "both" : *only == 0 ? "this" : "other";
}

Json change_json(const ChangeEffect& change) {
    return {{"believed_gain_rpm", maybe(change.believed_gain_rpm, 1)},
            {"gain_rpm", maybe(change.gain_rpm, 1)},
            {"p10_rpm", maybe(change.p10_rpm, 1)},
            {"p50_rpm", maybe(change.p50_rpm, 1)},
            {"p90_rpm", maybe(change.p90_rpm, 1)},
            {"other_limit_rpm", maybe(change.other_rpm, 1)},
            {"in_words", said_of(change)}};
}

Json lobe_seen_json(const LobeSeen& lobe) {
    Json json = {{"speeds", lobe.speeds}, {"cam_deg", Json::array()}, {"difference_um", Json::array()}};
    for (std::size_t i = 0; i < lobe.cam_deg.size(); ++i) {
        json["cam_deg"].push_back(rounded(lobe.cam_deg[i], 2));
        json["difference_um"].push_back(rounded(lobe.difference_m[i] * 1e6, 2));
    }
    if (const auto& departs = lobe.departs)
        json["departs"] = {{"part", departs->part},
                           {"cam_deg", rounded(departs->cam_deg, 2)},
                           {"difference_um", rounded(departs->difference_m * 1e6, 1)},
                           {"from_cam_deg", rounded(departs->from_deg, 2)},
                           {"to_cam_deg", rounded(departs->to_deg, 2)}};
    return json;
}

} // namespace

std::string calibration_json(const Calibration& c, const CalibratedLimit& limit,
                             const std::string& limits_name, const ChangeEffect* change) {
    Json json;
    json["parameters"] = Json::array();
    json["not_told"] = Json::array();
    for (const FittedNumber& one : c.numbers) {
        const double unit = unit_of(one.number.quantity).to_si;
        json["parameters"].push_back({{"key", one.number.key},
                                      {"believed", number_json(one.believed / unit)},
                                      {"value", number_json(one.value / unit)},
                                      {"sd", number_json(one.sd / unit)},
                                      {"prior_sd", number_json(one.prior_sd / unit)},
                                      {"departs_sigma", rounded(one.departs_sigma, 3)}});
        if (c.other)
            json["parameters"].back()["of"] = owner(one.number.only);
        if (!one.told)
            json["not_told"].push_back(name_of(one.number));
    }
    json["correlations"] = Json::array();
    for (const Correlated& one : c.correlations)
        json["correlations"].push_back({{"a", one.a}, {"b", one.b}, {"r", rounded(one.r, 3)}});
    json["residual_mm"] = Json::array();
    for (const SpeedResidual& one : c.residuals)
        json["residual_mm"].push_back({{"rpm", rounded(one.speed_rpm, 1)},
                                       {"run", one.run + 1},
                                       {"rms", rounded(one.rms_m * 1e3, 5)},
                                       {"believed_rms", rounded(one.believed_rms_m * 1e3, 5)},
                                       {"held_out", one.held_out}});
    add_limit(json, limit.limit);
    json["train_limit_rpm"] = maybe(limit.train_limit_rpm, 1);
    add_onset(json, limit.onset);
    json["p10_rpm"] = maybe(limit.p10_rpm, 1);
    json["p50_rpm"] = maybe(limit.p50_rpm, 1);
    json["p90_rpm"] = maybe(limit.p90_rpm, 1);
    json["edge_p10_rpm"] = maybe(limit.onset_p10_rpm, 1);
    json["edge_p90_rpm"] = maybe(limit.onset_p90_rpm, 1);
    json["chosen"] = c.chosen;
    if (!c.chosen_with.empty())
        json["chosen_with"] = c.chosen_with;
    if (c.other)
        json["chosen_of"] = owner(c.chosen_only);
    json["causes"] = Json::array();
    for (const Hypothesis& one : c.hypotheses) {
        json["causes"].push_back({{"key", one.cause}, {"log_evidence", rounded(one.log_evidence, 2)}});
        if (c.other)
            json["causes"].back()["of"] = owner(one.only);
        if (!one.with.empty())
            json["causes"].back()["with"] = one.with;
    }
    if (change)
        json["change"] = change_json(*change);
    if (const auto lobe = lobe_seen(c.train, c.residuals))
        json["lobe_seen"] = lobe_seen_json(*lobe);
    json["limits"] = {{"name", limits_name}};
    json["warnings"] = c.warnings;
    return json_text(json, 2) + "\n";
}

} // namespace bathmos::io
