// The page of a pack, for a person who makes one kind of part.
#include "session/compare/revision_comparison.h"
#include "session/log/time_line.h"
#include "session/pack/pack_view.h"
#include "session/report/report_charts.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::session {

using paper::own_words;

namespace {

constexpr std::size_t kPackCharts = 2;

std::string speed_words(const std::optional<double>& rpm) {
    return rpm ? fmt::format("{:.0f} rev/min", *rpm) : "none in the range";
}

void add_speeds(const PackView& view, paper::Paper& out) {
    const CaseFile& file = view.facts.file;
    paper::Table table{"Speed that can be used", {"by", "what sets it", "speed"}, {}, 2};
    const auto metric = [](const std::optional<Metric>& one) {
        return one ? std::string(info(*one).label) : std::string("–");
    };
    if (file.target_rpm > 0)
        table.rows.push_back({"wanted", "", speed_words(file.target_rpm)});
    if (file.model)
        table.rows.push_back({file.model->head_Pa
                                  ? fmt::format("model, with {} on the valve's head",
                                                view.text(Quantity::Pressure, *file.model->head_Pa))
                                  : "model",
                              metric(file.model->limit_metric), speed_words(file.model->limit_rpm)});
    if (file.calibrated)
        table.rows.push_back({file.calibrated->p10_rpm && file.calibrated->p90_rpm
                                  ? fmt::format("model fitted to the run, 8 of 10 in {:.0f} to {:.0f}",
                                                *file.calibrated->p10_rpm, *file.calibrated->p90_rpm)
                                  : "model fitted to the run",
                              metric(file.calibrated->limit_metric),
                              speed_words(file.calibrated->limit_rpm)});
    if (file.rig)
        table.rows.push_back({fmt::format("rig, ± {:.0f} rev/min", file.rig->half_step_rpm),
                              metric(file.rig->first_metric()), speed_words(file.rig->first_rpm())});
    out.add(std::move(table));
}

void add_pictures(const PackView& view, paper::Paper& out) {
    const CaseFile& file = view.facts.file;
    for (const Metric metric : telling_metrics(file, kPackCharts))
        out.add(metric_chart(metric, rows_of(view.facts.swept->motions), file.rig ? &file.rig->rows : nullptr,
                             view.input.of.limits, view.facts.swept->summary.low_speed_duration_change_deg,
                             view.asked.units));
    const ReducedRun* run = view.run();
    const QuestionSpeed at = question_speed(file);
    const double speed = at.rpm ? *at.rpm : view.facts.swept->summary.limit.speed_rpm.value_or(0);
    if (speed > 0 && !view.facts.swept->motions.empty())
        out.add(lift_chart(*view.facts.swept, view.facts.rigid_m, run ? run->run.get() : nullptr, speed,
                           view.asked.units));
}

void add_loads(const PackView& view, paper::Paper& out) {
    const auto figures = figures_of_revision(view.revision());
    if (!figures)
        return;
    paper::Table at{"At the valve", {"what", "value"}, {}, 1};
    at.rows = {{"lift", view.text(Quantity::Length, figures->peak_lift_m)},
               {"moving mass", view.text(Quantity::Mass, figures->equivalent_mass_total_kg)},
               {"stiffness of the chain", view.text(Quantity::Stiffness, figures->stiffness_N_per_m)},
               {"seat load", view.text(Quantity::Force, figures->seat_load_N)},
               {"open load", view.text(Quantity::Force, figures->open_load_N)},
               {"bind margin", view.text(Quantity::Length, figures->bind_margin_m)}};
    out.add(std::move(at));
    paper::Table parts{"By part, seen from the valve", {"part", "mass", "stiffness"}, {}, 1};
    std::map<std::string, std::array<std::string, 2>> by_part;
    for (const Share& share : figures->equivalent_mass_kg)
        by_part[view.open(share.part)][0] = view.text(Quantity::Mass, share.value);
    for (const Share& share : figures->compliance_m_per_N)
        if (share.value > 0)
            by_part[view.open(share.part)][1] = view.text(Quantity::Stiffness, 1 / share.value);
    for (const auto& [part, values] : by_part)
        parts.rows.push_back(
            {part, values[0].empty() ? "–" : values[0], values[1].empty() ? "–" : values[1]});
    out.add(std::move(parts));
}

// The audience's own parts with what each number is known to: two standard deviations.
void add_own_parts(const PackView& view, paper::Paper& out) {
    for (const PartKind kind : view.audience.own) {
        const auto part = part_from(view.revision().assembly.train, kind);
        if (!part)
            continue;
        const FittedPart* fitted = view.revision().assembly.find(kind);
        paper::Table table{
            fitted ? fmt::format("Your part: {} {}", own_words(fitted->name), own_words(fitted->serial))
                   : fmt::format("Your part: {}", info(kind).label),
            {"number", "value", "±"},
            {},
            1};
        for (const PartValue& value : values_of(*part))
            table.rows.push_back(
                {value.label, view.text(value.quantity, value.value),
                 value.tolerance ? view.text(value.quantity, value.tolerance->plus_minus) : "not known"});
        if (!table.rows.empty())
            out.add(std::move(table));
    }
}

void add_tried(const PackView& view, paper::Paper& out) {
    paper::Table table{"", {"state", "why", "what changed", "measured, rev/min"}, {}, 3};
    const std::vector<Id> line = view.project().line_to(view.input.of.revision);
    for (std::size_t i = 0; i < line.size(); ++i) {
        std::string changed, measured = "–";
        if (i > 0)
            for (const std::string& one : open_changes(view, line[i - 1], line[i]))
                changed += (changed.empty() ? "" : "; ") + one;
        for (const ReducedRun& run : view.facts.runs)
            if (run.run && view.project().of(EntryKind::RigRun).at(run.id).revision == line[i])
                measured = run.run->limit.speed_rpm ? fmt::format("{:.0f}", *run.run->limit.speed_rpm)
                                                    : "none in its range";
        table.rows.push_back({own_words(view.open(view.project().revision_label(line[i]))),
                              own_words(open_reason(view, i > 0 ? line[i - 1] : 0, line[i])), changed,
                              measured});
    }
    out.heading("What was tried");
    out.add(std::move(table));
}

// Of other makers' parts their kind and how they failed.
void add_failures(const PackView& view, paper::Paper& out) {
    const std::vector<Id> line = view.project().line_to(view.input.of.revision);
    paper::Points points;
    for (const auto& [id, entry] : view.project().of(EntryKind::Log)) {
        const auto mode = entry.words.find("mode");
        const auto part = view.project().parts.find(part_named(entry));
        if (mode == entry.words.end() || part == view.project().parts.end() ||
            std::ranges::find(line, entry.revision) == line.end())
            continue;
        const bool own = view.audience.own.contains(part->second.kind);
        const auto place = entry.words.find("place");
        points.items.push_back(view.open(fmt::format(
            "{}: {} {}{}{}", entry.when.substr(0, 10),
            own ? own_words(part->second.name) : std::string(info(part->second.kind).label), mode->second,
            place == entry.words.end() ? "" : ", ", place == entry.words.end() ? "" : place->second)));
    }
    if (points.items.empty())
        return;
    out.heading("What failed");
    out.add(std::move(points));
}

void add_files(const PackView& view, paper::Paper& out) {
    out.heading("The files of this pack");
    out.add(paper::Table{
        "",
        {"file", "what is in it"},
        {{"numbers.json", "every number of this page and the spring loads by height, units in their names"},
         {"lift.csv", "lift asked by the lobe, computed, measured with its standard deviation, over the "
                      "crank angle from the nose, at each speed"},
         {"motions.h5", "everything that was computed: lift, forces, coils (HDF5)"},
         {"answer.csv", "your part as a table"},
         {"manifest.json", "what the pack was made from, and a check of each file"}},
        2});
    out.heading("How to answer");
    out.words(fmt::format("Change the values in answer.csv to what you would make, add a row block with "
                          "another number in the column \"part\" for each further proposal, and send it "
                          "back to {}. Keys and units stay as they are.",
                          view.asked.who.empty() ? "the sender" : own_words(view.open(view.asked.who))));
}

} // namespace

paper::Paper pack_page(const PackView& view) {
    paper::Paper out;
    out.title = fmt::format("To the {}", view.audience.label);
    out.line = fmt::format(
        "{} {} · {}{}{} · limits \"{}\" · Bathmos {}", own_words(view.open(view.facts.file.build)),
        own_words(view.open(view.facts.file.state)), view.asked.date, view.asked.who.empty() ? "" : " · ",
        own_words(view.open(view.asked.who)), own_words(view.input.of.limits.name), program_version());
    out.heading("What is asked");
    out.words(own_words(view.open(view.asked.question)), paper::Words::Role::Answer);
    for (const std::string& stop : view.stops())
        out.words("STOP stands for this train as it is: " + stop, paper::Words::Role::Caution);
    add_speeds(view, out);
    add_pictures(view, out);
    out.heading("Loads, masses, stiffness");
    add_loads(view, out);
    add_own_parts(view, out);
    add_tried(view, out);
    add_failures(view, out);
    add_files(view, out);
    out.heading("Take care");
    out.words(
        "These are numbers of one shop's parts and model, not a specification. The maker's own rules and "
        "tests, local rules and competent people come first.",
        paper::Words::Role::Caution);
    return paper::spoken(std::move(out), view.asked.language);
}

} // namespace bathmos::session
