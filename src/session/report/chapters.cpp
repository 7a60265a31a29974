#include "session/report/chapters.h"

#include "session/compare/revision_comparison.h"
#include "session/log/log_json.h"
#include "session/log/time_line.h"
#include "session/report/report_charts.h"
#include "session/results/predictions.h"

#include <algorithm>
#include <fmt/format.h>
#include <numeric>

namespace bathmos::session {

using paper::own_words;

namespace {

constexpr double kLeastProbability = 0.03; // of a cause that a report names
constexpr double kSeen = 0.5;
constexpr std::size_t kMostArguments = 3, kMostTrials = 3, kMostCharts = 3, kMostLines = 25;

std::string speed_text(const std::optional<double>& rpm) {
    return rpm ? fmt::format("{:.0f} rev/min", *rpm) : "none in the range";
}

// What each source says of the speed that can be used.
void add_claims(const ReportView& view, paper::Paper& out) {
    const CaseFile& file = view.facts.file;
    paper::Table table{
        "What each source says", {"source", "by what", "speed", "known to"}, {}, 2, {40, 20, 18, 22}};
    if (file.model) {
        const Prediction* made = newest_prediction(view.project(), view.input.of.revision);
        // A prediction knows nothing of the pressure that the pulls show on the head.
        const bool band =
            made && view.input.predicted_now && !file.model->head_Pa && made->low_rpm && made->high_rpm;
        table.rows.push_back(
            {file.model->head_Pa ? fmt::format("model, {} on the head as in the pulls",
                                               view.text(Quantity::Pressure, *file.model->head_Pa))
                                 : "model",
             file.model->limit_metric ? std::string(info(*file.model->limit_metric).label) : "limits",
             speed_text(file.model->limit_rpm),
             band ? fmt::format("{:.0f} to {:.0f} (8 of 10)", *made->low_rpm, *made->high_rpm)
                  : "no band was asked for"});
    }
    if (file.calibrated && file.calibrated->limit_rpm)
        table.rows.push_back({"model fitted to the run",
                              file.calibrated->limit_metric
                                  ? std::string(info(*file.calibrated->limit_metric).label)
                                  : "limits",
                              speed_text(file.calibrated->limit_rpm),
                              file.calibrated->p10_rpm && file.calibrated->p90_rpm
                                  ? fmt::format("{:.0f} to {:.0f} (8 of 10)", *file.calibrated->p10_rpm,
                                                *file.calibrated->p90_rpm)
                                  : ""});
    if (file.rig) {
        table.rows.push_back(
            {"rig: " + own_words(file.rig->name),
             file.rig->limit_metric ? std::string(info(*file.rig->limit_metric).label) : "limits",
             speed_text(file.rig->limit_rpm), ""});
        if (file.rig->onset_rpm)
            table.rows.push_back(
                {"rig, where the motion leaves its trend",
                 file.rig->onset_metric ? std::string(info(*file.rig->onset_metric).label) : "",
                 speed_text(file.rig->onset_rpm), fmt::format("± {:.0f}", file.rig->half_step_rpm)});
    }
    if (const auto seen = dyno_break(file))
        table.rows.push_back({"dyno", seen->growing ? "power falls behind the state before" : "power breaks",
                              fmt::format("{:.0f} rev/min", seen->speed_rpm),
                              seen->pulls > 1
                                  ? fmt::format("± {:.0f} over {} pulls", seen->scatter_rpm, seen->pulls)
                                  : "one pull"});
    if (!table.rows.empty())
        out.add(std::move(table));
}

void add_causes(const ReportView& view, paper::Paper& out) {
    const Verdict& verdict = view.facts.verdict;
    paper::Table table{"Causes weighed", {"cause", "speaks for it", "likelihood"}, {}, 2, {24, 62, 14}};
    for (const WeighedCause& one : verdict.weighing.causes) {
        if (one.probability < kLeastProbability)
            continue;
        std::string why;
        std::size_t told = 0;
        for (const Argument& argument : one.arguments)
            if (argument.weight > 0 && told++ < kMostArguments)
                why += (why.empty() ? "" : "; ") + view.text(verdict.evidence[argument.evidence].text);
        table.rows.push_back(
            {std::string(info(one.cause).label), why, fmt::format("{:.0f} %", 100 * one.probability)});
    }
    if (!table.rows.empty())
        out.add(std::move(table));
}

// Predicted and measured along the revisions that led here.
struct Step {
    Id revision = 0;
    std::optional<double> predicted, measured;
};
std::vector<Step> steps_to(const ReportView& view) {
    std::vector<Step> out;
    for (const Id id : view.project().line_to(view.input.of.revision)) {
        Step step{id, {}, {}};
        if (const auto limit = view.facts.limits_rpm.find(id); limit != view.facts.limits_rpm.end())
            step.predicted = limit->second;
        for (const ReducedRun& run : view.facts.runs)
            if (run.run && view.project().of(EntryKind::RigRun).at(run.id).revision == id)
                step.measured = run.run->limit.speed_rpm;
        out.push_back(step);
    }
    return out;
}

void add_steps_chart(const std::vector<Step>& steps, double target_rpm, paper::Paper& out) {
    paper::Chart chart{"Limit speed by revision", "revision", "limit speed, rev/min", {}};
    chart.whole_x = true;
    paper::Curve predicted{"computed", {}, {}, paper::Pen::Firm},
        measured{"measured on the rig", {}, {}, paper::Pen::Marks};
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const double place = static_cast<double>(i + 1);
        if (steps[i].predicted)
            predicted.x.push_back(place), predicted.y.push_back(*steps[i].predicted);
        if (steps[i].measured)
            measured.x.push_back(place), measured.y.push_back(*steps[i].measured);
    }
    if (predicted.x.size() + measured.x.size() < 2)
        return;
    for (paper::Curve& curve : std::vector{std::move(predicted), std::move(measured)})
        if (!curve.x.empty())
            chart.curves.push_back(curve);
    if (target_rpm > 0)
        chart.level.push_back({target_rpm, "wanted"});
    out.add(std::move(chart));
}

// A sheet's whole result is long; the beginning tells which it was.
std::string shortened(const std::string& text) {
    constexpr std::size_t kMost = 240;
    if (text.size() <= kMost)
        return text;
    const std::size_t end = text.rfind(' ', kMost);
    return text.substr(0, end == std::string::npos ? text.size() : end) + " …";
}

std::string severity_text(Severity severity) {
    return severity == Severity::Stop ? "STOP" : severity == Severity::Warn ? "warning" : "note";
}

} // namespace

void write_answer(const ReportView& view, paper::Paper& out) {
    const Verdict& verdict = view.facts.verdict;
    out.heading("Answer");
    out.words(verdict.answer, paper::Words::Role::Answer);
    if (!verdict.valve_answer.empty())
        out.words(verdict.valve_answer);
    add_claims(view, out);
    for (const Finding& finding : view.facts.file.findings)
        if (finding.severity == Severity::Stop)
            out.words("STOP: " + view.text(told(finding)), paper::Words::Role::Caution);
    add_causes(view, out);
    if (!verdict.missing.empty()) {
        out.words("Nobody has given:");
        out.add(paper::Points{verdict.missing});
    }
    if (!view.facts.file.unread.empty())
        out.add(paper::Points{view.facts.file.unread});
}

void write_evidence(const ReportView& view, paper::Paper& out) {
    const CaseFile& file = view.facts.file;
    const UnitChoice& units = view.asked.units;
    for (const Metric metric : telling_metrics(file, kMostCharts)) {
        paper::Chart chart = metric_chart(metric, rows_of(view.facts.swept->motions),
                                          file.rig ? &file.rig->rows : nullptr, view.input.of.limits,
                                          view.facts.swept->summary.low_speed_duration_change_deg, units);
        if (const auto limit = view.facts.swept->summary.limit.speed_rpm) // of the curve that stands there
            chart.upright.push_back({*limit, "computed limit"});
        if (file.rig && file.rig->limit_rpm)
            chart.upright.push_back({*file.rig->limit_rpm, "measured limit"});
        out.add(std::move(chart));
    }
    if (file.model && file.model->head_Pa)
        out.words(
            "Computed as a rig turns, without the pressure on the valve's head that the pulls show; the "
            "model's limit above is with it.");
    const RigRun* run = nullptr;
    for (const ReducedRun& one : view.facts.runs)
        if (one.id == view.input.of.rig_run)
            run = one.run.get();
    const QuestionSpeed at = question_speed(file);
    if (at.rpm && !view.facts.swept->motions.empty())
        out.add(lift_chart(*view.facts.swept, view.facts.rigid_m, run, *at.rpm, units));
    if (!file.pulls.empty())
        out.add(power_chart(file, units));
    paper::Points seen;
    for (const Evidence& one : view.facts.verdict.evidence)
        if (one.seen >= kSeen)
            seen.items.push_back(view.text(one.text));
    if (!seen.items.empty()) {
        out.words("What was seen:");
        out.add(std::move(seen));
    }
}

void write_train(const ReportView& view, paper::Paper& out) {
    const auto figures = figures_of_revision(view.revision());
    if (!figures)
        return;
    const auto row = [&](std::string what, Quantity quantity, double si) {
        return std::vector<std::string>{std::move(what), view.text(quantity, si)};
    };
    paper::Table table{"", {"at the valve", "value"}, {}, 1};
    table.rows = {row("moving mass", Quantity::Mass, figures->equivalent_mass_total_kg),
                  row("stiffness of the chain", Quantity::Stiffness, figures->stiffness_N_per_m),
                  row("valve against the train", Quantity::Frequency, figures->train_hz),
                  row("lift", Quantity::Length, figures->peak_lift_m),
                  row("seat load", Quantity::Force, figures->seat_load_N),
                  row("open load", Quantity::Force, figures->open_load_N),
                  row("bind margin", Quantity::Length, figures->bind_margin_m)};
    for (const Share& share : figures->equivalent_mass_kg)
        table.rows.push_back(row("mass: " + share.part, Quantity::Mass, share.value));
    out.add(std::move(table));
    paper::Table parts{"Parts fitted", {"kind", "part", "serial", "past"}, {}, 4};
    for (const auto& [kind, part] : view.revision().assembly.parts)
        parts.rows.push_back({std::string(info(kind).label), own_words(part.name), own_words(part.serial),
                              part.history_known ? "known" : "not known"});
    if (!parts.rows.empty())
        out.add(std::move(parts));
}

void write_changes(const ReportView& view, paper::Paper& out) {
    const std::vector<Step> steps = steps_to(view);
    if (steps.size() < 2)
        return;
    add_steps_chart(steps, view.facts.file.target_rpm, out);
    paper::Table table{
        "", {"revision", "why", "what changed", "computed", "measured"}, {}, 3, {16, 22, 38, 12, 12}};
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const Revision& revision = view.project().revisions.at(steps[i].revision);
        std::string changed;
        if (i > 0)
            for (const Difference& one :
                 differences(view.project().revisions.at(steps[i - 1].revision).assembly, revision.assembly))
                changed += (changed.empty() ? "" : "; ") + in_words(one, view.asked.units);
        table.rows.push_back({own_words(view.project().revision_label(steps[i].revision)),
                              own_words(revision.reason), changed,
                              steps[i].predicted ? fmt::format("{:.0f}", *steps[i].predicted) : "–",
                              steps[i].measured ? fmt::format("{:.0f}", *steps[i].measured) : "–"});
    }
    out.add(std::move(table));
    if (view.facts.file.changes && !view.facts.file.changes->changes.empty()) {
        paper::Table undone{fmt::format("Since {}: what undoing each change alone would gain, by the model",
                                        own_words(view.facts.file.changes->from)),
                            {"change", "rev/min"},
                            {},
                            1,
                            {85, 15}};
        for (const StateChange& one : view.facts.file.changes->changes)
            undone.rows.push_back({view.text(one.text),
                                   one.undone_gain_rpm ? fmt::format("{:+.0f}", *one.undone_gain_rpm) : "–"});
        out.add(std::move(undone));
    }
    if (const auto comparison = compared(view.facts.runs)) {
        paper::Points gains;
        for (const EdgeGain& gain : comparison->gains)
            if (gain.rpm)
                gains.items.push_back(fmt::format(
                    "{} to {}: {:+.0f} ± {:.0f} rev/min{}", own_words(view.facts.runs[gain.from].name),
                    own_words(view.facts.runs[gain.to].name), *gain.rpm, 2 * gain.sd_rpm,
                    gain.claimed ? "" : " – no more than runs differ by themselves"));
        if (!gains.items.empty()) {
            out.words("On the rig, each with twice its standard deviation:");
            out.add(std::move(gains));
        }
    }
}

void write_findings(const ReportView& view, paper::Paper& out) {
    paper::Table table{"", {"", "finding"}, {}, 2, {14, 86}};
    for (const Severity severity : {Severity::Stop, Severity::Warn, Severity::Note})
        for (const Finding& finding : view.facts.file.findings)
            if (finding.severity == severity)
                table.rows.push_back({severity_text(severity), view.text(told(finding))});
    if (!table.rows.empty())
        out.add(std::move(table));
    if (!view.facts.file.open.empty()) {
        out.words("To be checked again, as something changed that it depends on:");
        paper::Points open;
        for (const OpenCheck& check : view.facts.file.open)
            open.items.push_back(fmt::format("{}: {}", info(check.check).label, own_words(check.cause)));
        out.add(std::move(open));
    }
}

void write_life(const ReportView& view, paper::Paper& out) {
    const auto today = life::day_of(view.asked.date);
    if (!today)
        return;
    std::set<Id> fitted;
    for (const auto& [kind, part] : view.revision().assembly.parts)
        fitted.insert(part.part);
    paper::Table table{"", {"part", "by", "million cycles", "hours", "used"}, {}, 2, {36, 22, 16, 10, 16}};
    std::size_t unrated = 0;
    for (const AgedPart& part : part_ages(view.project(), *today).parts) {
        if (!fitted.contains(part.life.part))
            continue;
        if (part.life.claims.empty()) {
            ++unrated;
            continue;
        }
        const std::string warning = part.life.over() ? " (over)" : part.life.due() ? " (due)" : "";
        table.rows.push_back({own_words(part.name + (part.serial.empty() ? "" : " " + part.serial)),
                              std::string(name_of(part.life.claims.front().rule)),
                              fmt::format("{:.3f}", part.life.cycles * 1e-6),
                              fmt::format("{:.1f}", part.life.hours),
                              fmt::format("{:.0f} %{}", 100 * part.life.claims.front().used, warning)});
    }
    if (!table.rows.empty())
        out.add(std::move(table));
    if (unrated > 0)
        out.words(fmt::format("Of {} more fitted parts that ran nobody says how long they last.", unrated));
    if (!out.blocks.empty())
        out.words("By the record of use and what makers or the shop rate; the wires' own life by the model "
                  "stands in the program.",
                  paper::Words::Role::Small);
}

void write_record(const ReportView& view, paper::Paper& out) {
    const Id build = view.revision().build;
    paper::Table table{"", {"when", "what", "of", "words"}, {}, 4, {13, 20, 17, 50}};
    for (const LogLine& line : time_line(view.project())) {
        const bool told = line.kind == LineKind::Failure || line.kind == LineKind::Note ||
                          line.kind == LineKind::Verdict || line.kind == LineKind::Sheet ||
                          line.kind == LineKind::Waiver;
        if (told && line.build == build && table.rows.size() < kMostLines)
            table.rows.push_back({line.when.substr(0, 10), own_words(line.title), own_words(line.where),
                                  own_words(shortened(line.text))});
    }
    if (!table.rows.empty())
        out.add(std::move(table));
}

void write_next(const ReportView& view, paper::Paper& out) {
    const Entry* decided = nullptr;
    for (const auto& [id, entry] : view.project().of(EntryKind::Verdict))
        if (entry.revision == view.input.of.revision)
            decided = &entry;
    if (decided) {
        const auto decision = decided->words.find("decision");
        out.words(fmt::format("Decided on {}{}: {}{}{}", decided->when.substr(0, 10),
                              decided->who.empty() ? "" : " by " + own_words(decided->who),
                              decision == decided->words.end() ? own_words(decided->name) : decision->second,
                              decided->text.empty() ? "" : " – ", own_words(decided->text)));
    }
    const auto& next = view.facts.verdict.next;
    if (next.empty())
        return;
    paper::Table table{"Tests that would tell most for their time",
                       {"test", "how", "hours", "settles"},
                       {},
                       2,
                       {30, 50, 10, 10}};
    for (std::size_t i = 0; i < std::min(next.size(), kMostTrials); ++i)
        table.rows.push_back({std::string(next[i].trial->label), std::string(next[i].trial->how),
                              fmt::format("{:g}", next[i].trial->hours),
                              fmt::format("{:.0f} %", 100 * view.facts.verdict.weighing.share_settled_by(
                                                                next[i].information_bit))});
    out.add(std::move(table));
}

void write_cautions(paper::Paper& out) {
    out.heading("Take care");
    out.words(
        "These results are advice. Makers' instructions, local rules and competent people come first. Limits "
        "are computed and measured on the parts as they were entered; a part with an unknown past, another "
        "batch or another temperature is another case. Never near a running train; springs under load and "
        "parts that fail at speed injure.",
        paper::Words::Role::Caution);
}

} // namespace bathmos::session
