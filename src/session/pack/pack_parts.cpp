// What goes into a pack beside its page: numbers, traces, the form for the answer.
#include "core/spring/spring.h"
#include "io/json/json.h"
#include "io/project/parts_csv.h"
#include "session/compare/revision_comparison.h"
#include "session/pack/pack_view.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::session {

namespace {

using io::Json;
using io::rounded;

constexpr std::size_t kEveryPoint = 2;   // grid point of a trace that goes out
constexpr double kLoadStep_m = 0.5e-3;   // of the table of loads
constexpr std::size_t kMostMotions = 12; // in full, a quarter of a megabyte each
constexpr std::size_t kEverySpeed = 4;   // computed one, where nothing was measured

Json maybe_speed(const std::optional<double>& rpm) {
    return io::maybe(rpm, 0);
}

// All springs together by height, from the installed one to the first that is solid.
Json loads_of(const Train& train) {
    std::vector<SpringStatics> springs;
    double solid_m = 0;
    for (const Spring& spring : train.springs) {
        springs.emplace_back(spring);
        solid_m = std::max(solid_m, springs.back().solid_height_m());
    }
    Json out = Json::array();
    for (double height = train.installed_height_m; height > solid_m && !springs.empty();
         height -= kLoadStep_m) {
        double load_N = 0;
        for (const SpringStatics& spring : springs)
            load_N += spring.load_N(height);
        out.push_back({rounded(height * 1e3), rounded(load_N, 1)});
    }
    return out;
}

// The audience's own parts as they are fitted: each number with what it is known to.
Json own_parts(const PackView& view) {
    Json out = Json::array();
    for (const auto& [kind, fitted] : view.revision().assembly.parts) {
        if (!view.audience.own.contains(kind))
            continue;
        Json one = {{"kind", info(kind).key}, {"name", fitted.name}, {"serial", fitted.serial}};
        if (const auto part = part_from(view.revision().assembly.train, kind))
            for (const PartValue& value : values_of(*part)) {
                const Unit unit = unit_of(value.quantity);
                Json number = {{"value", value.value / unit.to_si}, {"unit", unit.name}};
                if (value.tolerance)
                    number["plus_minus"] = value.tolerance->plus_minus / unit.to_si;
                one["values"][value.key] = std::move(number);
            }
        out.push_back(std::move(one));
    }
    return out;
}

std::shared_ptr<const Motion> motion_at(const PackView& view, double speed_rpm) {
    const auto& motions = view.facts.swept->motions;
    const auto at = std::ranges::min_element(
        motions, {}, [&](const auto& motion) { return std::abs(motion->speed_rpm - speed_rpm); });
    const bool near =
        at != motions.end() && std::abs((*at)->speed_rpm - speed_rpm) <= view.input.of.range.step_rpm / 2;
    return near ? *at : nullptr;
}

} // namespace

PackView::PackView(const ReportInput& report, const ReportFacts& known, const PackAsked& wanted)
    : input(report), facts(known), asked(wanted),
      audience(audiences()[static_cast<std::size_t>(wanted.audience)]),
      others(report.of.project, audience.own,
             wanted.language.translate ? wanted.language.translate(OtherMakers::kInstead)
                                       : std::string(OtherMakers::kInstead)) {}

const ReducedRun* PackView::run() const {
    for (const ReducedRun& one : facts.runs)
        if (one.id == input.of.rig_run && one.run)
            return &one;
    return nullptr;
}

std::vector<std::string> PackView::stops() const {
    std::vector<std::string> out;
    for (const Finding& finding : facts.file.findings)
        if (finding.severity == Severity::Stop)
            out.push_back(open(told(finding).in_words(asked.units)));
    return out;
}

std::vector<double> PackView::speeds_rpm() const {
    std::vector<double> out;
    if (const ReducedRun* measured = run())
        for (const RigStep& step : measured->run->steps)
            out.push_back(step.speed_rpm);
    else
        for (std::size_t i = 0; i < facts.swept->motions.size(); i += kEverySpeed)
            out.push_back(facts.swept->motions[i]->speed_rpm);
    return out;
}

std::vector<std::string> open_changes(const PackView& view, Id before, Id after) {
    std::vector<std::string> out;
    std::set<PartKind> others;
    for (const Difference& one : differences(view.project().revisions.at(before).assembly,
                                             view.project().revisions.at(after).assembly)) {
        const auto kind = kind_of(one);
        if (!kind || view.audience.own.contains(*kind))
            out.push_back(view.open(in_words(one, view.asked.units)));
        else if (others.insert(*kind).second)
            out.push_back(fmt::format("{} changed", info(*kind).label));
    }
    return out;
}

std::string open_reason(const PackView& view, Id before, Id after) {
    const Revision& revision = view.project().revisions.at(after);
    std::string out = revision.reason;
    if (before != 0)
        for (const Difference& one :
             differences(view.project().revisions.at(before).assembly, revision.assembly))
            if (const auto kind = kind_of(one); kind && !view.audience.own.contains(*kind))
                if (const std::string said = in_words(one); out.find(said) != std::string::npos)
                    out.replace(out.find(said), said.size(), fmt::format("{} changed", info(*kind).label));
    return view.open(out);
}

std::string pack_numbers(const PackView& view) {
    const CaseFile& file = view.facts.file;
    Json out = {{"format", "bathmos-pack-numbers"},    {"version", 1},
                {"audience", view.audience.key},       {"question", view.open(view.asked.question)},
                {"limits", view.input.of.limits.name}, {"wanted_rpm", rounded(file.target_rpm, 0)}};
    Json speeds = Json::object();
    if (file.model)
        speeds["computed"] = maybe_speed(file.model->limit_rpm);
    if (file.model && file.model->head_Pa) // traces are without it, as a rig turns
        out["computed_with_head_kPa"] = rounded(*file.model->head_Pa * 1e-3, 1);
    if (file.rig) {
        speeds["measured"] = maybe_speed(file.rig->limit_rpm);
        speeds["measured_onset"] = maybe_speed(file.rig->onset_rpm);
    }
    if (file.calibrated) {
        speeds["fitted"] = maybe_speed(file.calibrated->limit_rpm);
        speeds["fitted_p10"] = maybe_speed(file.calibrated->p10_rpm);
        speeds["fitted_p90"] = maybe_speed(file.calibrated->p90_rpm);
    }
    out["limit_rpm"] = std::move(speeds);
    if (const auto figures = figures_of_revision(view.revision())) {
        out["at_valve"] = {{"lift_mm", rounded(figures->peak_lift_m * 1e3)},
                           {"mass_g", rounded(figures->equivalent_mass_total_kg * 1e3, 1)},
                           {"stiffness_N_per_mm", rounded(figures->stiffness_N_per_m * 1e-3, 0)},
                           {"seat_load_N", rounded(figures->seat_load_N, 0)},
                           {"open_load_N", rounded(figures->open_load_N, 0)}};
        for (const Share& share : figures->equivalent_mass_kg)
            out["mass_g"][view.open(share.part)] = rounded(share.value * 1e3, 2);
        for (const Share& share : figures->compliance_m_per_N)
            if (share.value > 0)
                out["stiffness_N_per_mm"][view.open(share.part)] = rounded(1e-3 / share.value, 0);
        out["spring_loads_mm_N"] = loads_of(view.revision().assembly.train);
    }
    out["parts"] = own_parts(view);
    return io::json_text(out, 1) + "\n";
}

std::string pack_traces(const PackView& view) {
    const ReducedRun* measured = view.run();
    std::string out = "speed_rpm,crank_deg,asked_mm,computed_mm,measured_mm,measured_sd_mm\n";
    for (const double speed : view.speeds_rpm()) {
        const std::shared_ptr<const Motion> motion = motion_at(view, speed);
        const std::vector<double>* computed = motion ? &(*motion)[Channel::Lift] : nullptr;
        const RigStep* step = measured ? &measured->run->steps[measured->run->nearest(speed)] : nullptr;
        for (std::size_t i = 0; i < view.facts.rigid_m.size(); i += kEveryPoint) {
            out += fmt::format("{:.0f},{:.1f},{:.4f},", speed,
                               -360 + 720.0 * static_cast<double>(i) /
                                          static_cast<double>(view.facts.rigid_m.size() - 1),
                               view.facts.rigid_m[i] * 1e3);
            out += computed ? fmt::format("{:.4f},", (*computed)[i] * 1e3) : ",";
            out += step ? fmt::format("{:.4f},{:.4f}\n", step->lift_m[i] * 1e3, step->deviation_m[i] * 1e3)
                        : ",\n";
        }
    }
    return out;
}

std::vector<std::shared_ptr<const Motion>> pack_motions(const PackView& view) {
    const std::vector<double> speeds = view.speeds_rpm();
    std::vector<std::shared_ptr<const Motion>> out;
    const std::size_t every = (speeds.size() + kMostMotions - 1) / kMostMotions;
    for (std::size_t i = 0; i < speeds.size(); i += std::max<std::size_t>(every, 1))
        if (const auto motion = motion_at(view, speeds[i]))
            out.push_back(motion);
    return out;
}

std::string pack_answer_form(const PackView& view) {
    std::vector<Part> parts;
    for (const PartKind kind : view.audience.own) {
        auto part = part_from(view.revision().assembly.train, kind);
        if (!part)
            continue;
        if (const FittedPart* fitted = view.revision().assembly.find(kind)) {
            part->name = fitted->name;
            part->facts = fitted->facts;
            std::erase_if(part->facts.numbers, [](const auto& fact) { // how long it ran is the shop's
                return fact.first.starts_with("run_") || fact.first.starts_with("rated_");
            });
        }
        part->name += " (answer)";
        parts.push_back(std::move(*part)); // without cost, notes and serial: those are the shop's
    }
    return io::parts_csv(parts);
}

} // namespace bathmos::session
