#include "session/report/report_charts.h"

#include "core/motion/motion.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::session {

namespace {

constexpr double kTimesLimit = 4; // of a limit, where a chart's curves are cut off
constexpr std::size_t kEvery = 4; // grid point of a lift curve

// Values of a metric in SI (or degrees, or counts) to the unit that it is shown in.
struct MetricUnit {
    double to_unit = 1;
    std::string name;
};

MetricUnit unit_of_metric(Metric metric, const UnitChoice& units) {
    const Quantity quantity = quantity_of(metric);
    if (quantity == Quantity::Count)
        return {info(metric).to_unit, std::string(info(metric).unit)};
    const Unit unit = unit_of(quantity, units);
    return {1 / unit.to_si, std::string(unit.name)};
}

paper::Curve metric_curve(const std::vector<SpeedMetrics>& rows, Metric metric, double to_unit,
                          std::string name, paper::Pen pen) {
    paper::Curve out{std::move(name), {}, {}, pen};
    for (const SpeedMetrics& row : rows)
        if (const auto value = row.metrics[metric]) {
            out.x.push_back(row.speed_rpm);
            out.y.push_back(*value * to_unit);
        }
    return out;
}

std::string axis(std::string_view what, std::string_view unit) {
    return unit.empty() ? std::string(what) : fmt::format("{}, {}", what, paper::own_words(unit));
}

paper::Curve lift_curve(const std::vector<double>& lift_m, double to_unit, std::string name, paper::Pen pen) {
    paper::Curve out{std::move(name), {}, {}, pen};
    for (std::size_t i = 0; i < lift_m.size(); i += kEvery) {
        const double crank = -360.0 + 720.0 * static_cast<double>(i) / static_cast<double>(lift_m.size() - 1);
        if (std::abs(crank) <= 200) {
            out.x.push_back(crank);
            out.y.push_back(lift_m[i] * to_unit);
        }
    }
    return out;
}

void add_pulls(const std::vector<PullCase>& pulls, const std::string& of, paper::Pen pen, double to_unit,
               paper::Chart& out) {
    for (const PullCase& pull : pulls) {
        paper::Curve curve{
            fmt::format("{} ({})", paper::own_words(pull.name), of), pull.analysis.curve.speed_rpm, {}, pen};
        for (const double power : pull.analysis.trend_W)
            curve.y.push_back(power * to_unit);
        out.curves.push_back(std::move(curve));
    }
}

} // namespace

paper::Chart metric_chart(Metric metric, const std::vector<SpeedMetrics>& rows,
                          const std::vector<SpeedMetrics>* measured, const LimitsInForce& limits,
                          double low_speed_duration_change_deg, const UnitChoice& units) {
    const MetricUnit unit = unit_of_metric(metric, units);
    paper::Chart out{fmt::format("{} by speed", info(metric).label),
                     "crank speed, rev/min",
                     axis(info(metric).label, unit.name),
                     {}};
    out.curves.push_back(metric_curve(rows, metric, unit.to_unit, "computed", paper::Pen::Firm));
    if (measured)
        out.curves.push_back(metric_curve(*measured, metric, unit.to_unit, "measured", paper::Pen::Marks));
    const Limit* limit = limits.find(metric);
    if (!limit)
        return out;
    const double from = limit->from_low_speed ? low_speed_duration_change_deg : 0;
    const auto level = [&](double value) {
        return (value + from) / info(metric).to_unit * unit.to_unit; // limits stand in the metric's own unit
    };
    out.level.push_back({level(limit->above), "limit"});
    if (limit->below)
        out.level.push_back({level(*limit->below), "lower limit"});
    if (out.level.front().at > 0)
        out.most_y = kTimesLimit * out.level.front().at;
    return out;
}

paper::Chart lift_chart(const Sweep& swept, const std::vector<double>& rigid_m, const RigRun* run,
                        double speed_rpm, const UnitChoice& units) {
    const Unit unit = unit_of(Quantity::Length, units);
    paper::Chart out{"", "crank angle from the nose, deg", axis("lift", unit.name), {}};
    const auto nearest = std::ranges::min_element(
        swept.motions, {}, [&](const auto& motion) { return std::abs(motion->speed_rpm - speed_rpm); });
    out.curves.push_back(lift_curve(rigid_m, 1 / unit.to_si, "asked by the lobe", paper::Pen::Dotted));
    out.title = "Lift of the valve";
    if (nearest != swept.motions.end()) {
        out.title = fmt::format("Lift of the valve at {:.0f} rev/min", (*nearest)->speed_rpm);
        out.curves.push_back(
            lift_curve((**nearest)[Channel::Lift], 1 / unit.to_si, "computed", paper::Pen::Firm));
    }
    if (run && !run->steps.empty()) {
        const RigStep& step = run->steps[run->nearest(speed_rpm)];
        out.curves.push_back(lift_curve(step.lift_m, 1 / unit.to_si,
                                        fmt::format("measured, {:.0f} rev/min", step.speed_rpm),
                                        paper::Pen::Dashed));
    }
    return out;
}

paper::Chart power_chart(const CaseFile& file, const UnitChoice& units) {
    const Unit unit = unit_of(Quantity::Power, units);
    paper::Chart out{"Power on the dyno", "engine speed, rev/min", axis("power", unit.name), {}};
    add_pulls(file.pulls, paper::own_words(file.state), paper::Pen::Firm, 1 / unit.to_si, out);
    add_pulls(file.pulls_before, file.changes ? paper::own_words(file.changes->from) : "before",
              paper::Pen::Dashed, 1 / unit.to_si, out);
    if (const auto seen = dyno_break(file))
        out.upright.push_back({seen->speed_rpm, fmt::format("power breaks, {:.0f}", seen->speed_rpm)});
    return out;
}

std::vector<Metric> telling_metrics(const CaseFile& file, std::size_t most) {
    std::vector<Metric> out;
    const auto add = [&](const std::optional<Metric>& metric) {
        if (metric && out.size() < most && std::ranges::find(out, *metric) == out.end())
            out.push_back(*metric);
    };
    if (file.rig) {
        add(file.rig->limit_metric);
        add(file.rig->onset_metric);
    }
    if (file.model) {
        add(file.model->limit_metric);
        add(file.model->onset_metric);
    }
    add(Metric::Bounce);
    return out;
}

} // namespace bathmos::session
