#include "session/bench/sheet_record.h"

#include "core/problem/input_error.h"
#include "core/uncertainty/uncertain_inputs.h"
#include "core/whatif/spring_need.h"
#include "io/project/store.h"
#include "io/sheet/sheet_draft.h"
#include "io/sheet/sheet_summary.h"
#include "session/project/revision_judgement.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::session {

namespace {

using bench::SheetDraft;
using bench::SheetEffect;

constexpr double kTiredShare = 0.05;
constexpr double kCloseMargin_m = 1.27e-3;                             // of the close school
constexpr const char *kReadings = "sheet", *kTakenOver = "taken_over"; // words of the record

std::size_t spring_place(const std::string& part, const Train& train) {
    for (std::size_t i = 0; i < train.springs.size(); ++i)
        if (part == fmt::format("springs[{}]", i))
            return i;
    return 0;
}

SheetEffect effect_on(const io::BenchSheet& sheet, const Train& train, const std::string& part) {
    if (const auto* one = std::get_if<bench::SpringSheet>(&sheet))
        return effect_of(*one, figures_of(*one), train, spring_place(part, train));
    if (const auto* one = std::get_if<bench::HeightSheet>(&sheet))
        return effect_of(figures_of(*one), train);
    if (const auto* one = std::get_if<bench::RatioSheet>(&sheet)) {
        SheetEffect out = effect_of(figures_of(*one), train);
        if (const auto fit = fit_geometry(*one, train))
            for (bench::SheetChange& change : effect_of(*fit, train).changes)
                out.changes.push_back(std::move(change));
        return out;
    }
    if (const auto* one = std::get_if<bench::StiffnessSheet>(&sheet))
        return effect_of(figures_of(*one), train, part.empty() ? "rocker.stiffness_N_per_mm" : part);
    if (const auto* one = std::get_if<bench::SwingSheet>(&sheet))
        return effect_of_inertia(inertia_kg_m2(*one), train);
    if (const auto* one = std::get_if<bench::KeyedSheet>(&sheet))
        return effect_of(answer_of(*one, &train), train);
    return {}; // a set says which spring goes where
}

std::optional<SheetPicture> picture_of(const bench::KeyedSheet& sheet) {
    const auto drawn = [&](const std::string& x, const std::string& y,
                           SheetPicture out) -> std::optional<SheetPicture> {
        for (const bench::KeyedSheet::Row& row : sheet.rows)
            if (const auto at = row.find(x), value = row.find(y); at && value) {
                out.read_x.push_back(at->value);
                out.read_y.push_back(value->value);
            }
        return out.read_x.empty() ? std::nullopt : std::optional(out);
    };
    if (sheet.kind == "degree_wheel")
        return drawn("cam_deg", "rise_mm",
                     {"wheel", "rise", Quantity::Angle, Quantity::Length, {}, {}, {}, {}});
    if (sheet.kind == "clearance")
        return drawn("crank_deg", "gap_mm",
                     {"crank", "to the piston", Quantity::Angle, Quantity::Length, {}, {}, {}, {}});
    return std::nullopt;
}

MeasuredText said_of(const bench::GeometryFit& fit) {
    return {"geometry: the rod {} longer than believed, or the stand lower by as much (± {}); readings then "
            "lie within {}, "
            "as believed within {}",
            {{Quantity::Length, fit.longer_m.value},
             {Quantity::Length, 2 * fit.longer_m.sd},
             {Quantity::FineLength, fit.after_m},
             {Quantity::FineLength, fit.before_m}}};
}

std::vector<double> values_of(const bench::Readings& readings) {
    std::vector<double> out;
    for (const bench::Figure& one : means_of(readings))
        out.push_back(one.value);
    return out;
}

std::optional<SheetPicture> picture_of(const io::BenchSheet& sheet) {
    if (const auto* one = std::get_if<bench::SpringSheet>(&sheet)) {
        const bench::SpringFigures f = figures_of(*one);
        return SheetPicture{"height",         "load",        Quantity::Length,
                            Quantity::Force,  one->height_m, values_of(one->load_N),
                            f.curve_height_m, f.curve_load_N};
    }
    if (const auto* one = std::get_if<bench::RatioSheet>(&sheet)) {
        const double peak_m = std::ranges::max(values_of(one->rise_m));
        return SheetPicture{"rise",
                            "lift",
                            Quantity::Length,
                            Quantity::Length,
                            values_of(one->rise_m),
                            values_of(one->lift_m),
                            {0, peak_m},
                            {0, peak_m * figures_of(*one).ratio.value}};
    }
    if (const auto* one = std::get_if<bench::KeyedSheet>(&sheet))
        return picture_of(*one);
    if (const auto* one = std::get_if<bench::StiffnessSheet>(&sheet)) {
        const bench::StiffnessFigures f = figures_of(*one);
        const std::vector<double> force = values_of(one->force_N), dial = values_of(one->dial_m);
        const double most_N = std::ranges::max(force), rest = dial.front() + f.slack_m.value;
        return SheetPicture{
            "force", "dial", Quantity::Force, Quantity::Length,
            force,   dial,   {0, most_N},     {rest, rest + most_N / f.stiffness_N_per_m.value}};
    }
    return std::nullopt;
}

void prefill_spring(const Train& train, const TrainFacts& facts, SheetDraft& out) {
    out.fields["installed_height_mm"] = {train.installed_height_m};
    if (facts.rigid)
        out.fields["valve_lift_mm"] = {facts.rigid->peak_m()};
}

void prefill_height(const Train& train, const TrainFacts& facts, SheetDraft& out) {
    out.fields["old_height_mm"] = {train.installed_height_m};
    out.fields["wanted_mm"] = {train.installed_height_m};
    for (const char* taper : {"old.taper_deg", "new.taper_deg", "lock_taper_deg"})
        if (train.locks_angle_rad > 0)
            out.fields[taper] = {train.locks_angle_rad};
    if (!facts.figures)
        return;
    const SpringPoint springs = spring_point(train);
    out.fields["seat_N"] = {springs.seat_N};
    out.fields["rate_N_per_mm"] = {springs.rate_N_per_m};
}

} // namespace

std::vector<SheetPart> parts_for_sheet(const std::string& kind, const Train& train) {
    std::vector<SheetPart> out;
    if (kind == "spring" && train.springs.size() > 1)
        for (std::size_t i = 0; i < train.springs.size(); ++i)
            out.push_back({fmt::format("springs[{}]", i), train.springs[i].name});
    if (kind == "stiffness")
        for (const auto& [key, label] : {std::pair{"rocker.stiffness_N_per_mm", "Rocker, at the valve"},
                                         {"pushrod.stiffness_N_per_mm", "Link"}})
            if (value_of(train, key))
                out.push_back({key, label});
    return out;
}

SheetDraft new_sheet(const std::string& kind, const Train& train) {
    SheetDraft out;
    out.kind = kind;
    const TrainFacts facts = facts_of(train);
    if (kind == "spring")
        prefill_spring(train, facts, out);
    if (kind == "height")
        prefill_height(train, facts, out);
    if (kind == "spring_set") {
        out.fields["seat_height_mm"] = {train.installed_height_m};
        if (facts.rigid)
            out.fields["open_height_mm"] = {train.installed_height_m - facts.rigid->peak_m()};
    }
    if (kind == "clearance" && facts.rigid)
        out.fields["lift_mm"] = {facts.rigid->peak_m()};
    if (kind == "head")
        out.fields["wanted_mm"] = {train.installed_height_m};
    if (kind == "near_solid")
        out.fields["margin_mm"] = {kCloseMargin_m};
    if (kind == "lash")
        out.fields["wanted_mm"] = {train.lash_m};
    if (kind == "rocker_scale" && train.rocker) {
        out.fields["output_arm_mm"] = {train.rocker->output_arm_m};
        out.fields["input_arm_mm"] = {train.rocker->input_arm_m};
    }
    if (kind == "mark")
        out.fields["tip_mm"] = {train.valve.stem_diameter_m};
    if (kind == "ratio")
        if (const auto ratio = value_of(train, "rocker.ratio"))
            out.fields["believed"] = {*ratio};
    return out;
}

JudgedSheet judged(const SheetDraft& draft, const Train& train, const std::string& part) {
    JudgedSheet out;
    try {
        const io::BenchSheet sheet = io::parse_sheet(io::draft_text(draft));
        io::SheetSummary summary = io::summary_of(sheet, &train);
        out.lines = std::move(summary.lines);
        out.told = std::move(summary.told);
        out.values = std::move(summary.values);
        if (const auto* spring = std::get_if<bench::SpringSheet>(&sheet); spring && !train.springs.empty())
            if (auto told = told_of_mass(*spring, train.springs[spring_place(part, train)]))
                out.told.push_back(std::move(*told));
        if (const auto* ratio = std::get_if<bench::RatioSheet>(&sheet))
            if (const auto fit = fit_geometry(*ratio, train))
                out.lines.push_back(said_of(*fit));
        out.effect = effect_on(sheet, train, part);
        out.picture = picture_of(sheet);
    } catch (const InputError& error) {
        out.problem = error.what();
    }
    return out;
}

std::vector<MeasuredText> against(const JudgedSheet& sheet, const JudgedSheet& other) {
    std::vector<MeasuredText> out;
    for (const bench::AnswerValue& now : sheet.values) {
        const auto then = std::ranges::find(other.values, now.key, &bench::AnswerValue::key);
        if (then == other.values.end() || !now.figure || !then->figure)
            continue;
        const bench::Figure gone = minus(*now.figure, *then->figure);
        std::string words = now.label + ": {} against it";
        if (then->figure->value != 0)
            words += fmt::format(", {:+.1f} %", 100 * gone.value / std::abs(then->figure->value));
        words += std::abs(gone.value) > 2 * gone.sd ? "" : "; no more than both are known to";
        out.push_back({words, {{now.quantity, gone.value}}});
        if (now.key == "seat_N" && gone.value < -kTiredShare * then->figure->value)
            out.emplace_back("tired: over 5 % of its seat load is gone");
    }
    return out;
}

Entry sheet_record(const SheetDraft& draft, const JudgedSheet& said, const std::string& name,
                   const std::string& part, Id revision) {
    Entry out;
    const bench::SheetKind* kind = bench::find_sheet_kind(draft.kind);
    out.name = name.empty() && kind ? std::string(kind->label) : name;
    out.revision = revision;
    out.when = io::now_text();
    for (const MeasuredText& line : said.lines)
        out.text += (out.text.empty() ? "" : "; ") + line.in_words();
    for (const bench::Told& one : said.told)
        out.text += fmt::format("; {}: {}", one.rule, one.text.in_words());
    for (const Check check : said.effect.closes)
        out.closes.emplace_back(info(check).key);
    out.words["kind"] = draft.kind;
    out.words[kReadings] = io::kept_text(draft);
    if (!part.empty())
        out.words["part"] = part;
    return out;
}

bool taken_over(const Entry& record) {
    return record.words.contains(kTakenOver);
}

void mark_taken_over(Entry& record) {
    record.words[kTakenOver] = io::now_text();
}

std::optional<SheetDraft> draft_of(const Entry& record) {
    const auto readings = record.words.find(kReadings);
    if (readings == record.words.end())
        return std::nullopt;
    try {
        return io::kept_draft(readings->second);
    } catch (const InputError& error) {
        throw error.in(record.name);
    }
}

std::vector<Id> sheets_of(const Project& project, Id build) {
    std::vector<Id> out;
    for (const auto& [id, entry] : project.of(EntryKind::Sheet)) {
        const auto made = project.revisions.find(entry.revision);
        if (entry.words.contains(kReadings) && made != project.revisions.end() && made->second.build == build)
            out.push_back(id);
    }
    return out;
}

} // namespace bathmos::session
