#include "core/bench/sheet_effect.h"

#include "core/uncertainty/uncertain_inputs.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::bench {

namespace {

constexpr double kSigmas = 2;       // of a tolerance
constexpr double kOtherMass = 0.05; // wires of one number weigh alike within that

bool tells(const std::vector<Told>& told, std::initializer_list<std::string_view> rules) {
    return std::ranges::any_of(
        told, [&](const Told& one) { return std::ranges::find(rules, one.rule) != rules.end(); });
}

std::optional<SheetChange> change_of(const Train& train, const std::string& key, const std::string& label,
                                     const Figure& found, Source source) {
    const auto now = value_of(train, key);
    if (!now)
        return std::nullopt;
    return SheetChange{key,  label,       quantity_of_value(train, key),
                       *now, found.value, {source, kSigmas * found.sd}};
}

// The spring as the tester has it.
Spring as_tested(const SpringSheet& sheet, const SpringFigures& figures, const Spring& before) {
    const SpringStatics known(before);
    LoadTable table;
    table.height_m = figures.curve_height_m;
    table.load_N = figures.curve_load_N;
    table.solid_height_m = figures.solid_m ? figures.solid_m->value : known.solid_height_m();
    table.moving_mass_kg = known.active_mass_kg();
    table.dead_mass_kg = known.dead_mass_kg();
    if (sheet.mass_kg && known.dead_mass_kg() > 0) { // what was weighed is shared as in the train's spring
        const double total = known.active_mass_kg() + known.dead_mass_kg();
        table.moving_mass_kg *= *sheet.mass_kg / total;
        table.dead_mass_kg *= *sheet.mass_kg / total;
    }
    Spring out = before;
    out.kind = table;
    if (figures.friction_N)
        out.friction_N = std::max(0.0, figures.friction_N->value);
    return out;
}

} // namespace

SheetEffect effect_of(const SpringSheet& sheet, const SpringFigures& figures, const Train& train,
                      std::size_t spring) {
    SheetEffect out;
    if (spring >= train.springs.size() || !figures.seat_N ||
        tells(figures.told, {"entry", "not_as_claimed", "beyond_readings"}))
        return out;
    const Spring& before = train.springs[spring];
    const double was_N = SpringStatics(before).load_N(*sheet.installed_height_m);
    out.changes.push_back({fmt::format("springs[{}].load_table", spring),
                           before.name + ", seat load",
                           Quantity::Force,
                           was_N,
                           figures.seat_N->value,
                           {Source::Tester, kSigmas * figures.seat_N->sd / figures.seat_N->value},
                           as_tested(sheet, figures, before)});
    out.closes.push_back(Check::SeatLoad);
    if (figures.margin_m)
        out.closes.push_back(Check::BindMargin);
    return out;
}

std::optional<Told> told_of_mass(const SpringSheet& sheet, const Spring& spring) {
    const SpringStatics known(spring);
    const double believed = known.active_mass_kg() + known.dead_mass_kg();
    if (!sheet.mass_kg || !(known.dead_mass_kg() > 0) || // a table may say nothing of its ends
        std::abs(*sheet.mass_kg / believed - 1) <= kOtherMass)
        return std::nullopt;
    return Told{"not_as_believed",
                {"weighs {}, the train's spring {}: another spring, another wire, or a set on the scale",
                 {{Quantity::Mass, *sheet.mass_kg}, {Quantity::Mass, believed}}}};
}

SheetEffect effect_of(const HeightFigures& figures, const Train& train) {
    SheetEffect out;
    if (!figures.height_m || tells(figures.told, {"disagrees", "out_of_reach"}))
        return out;
    if (auto change = change_of(train, "installed_height_mm", "Installed height",
                                {figures.shimmed_m, figures.height_m->sd}, Source::Gauge))
        out.changes.push_back(std::move(*change));
    out.closes.push_back(Check::InstalledHeight);
    return out;
}

SheetEffect effect_of(const RatioFigures& figures, const Train& train) {
    SheetEffect out;
    if (tells(figures.told, {"dial_moved"}) || !train.rocker)
        return out;
    if (figures.table && !std::holds_alternative<RockerGeometry>(train.rocker->ratio))
        out.changes.push_back({"rocker.ratio_table",
                               fmt::format("Ratio along the lift, {} rises", figures.table->input_m.size()),
                               Quantity::Count,
                               train.rocker_map().ratio(figures.table->input_m.back() / 2),
                               RockerMap(*figures.table).ratio(figures.table->input_m.back() / 2),
                               {Source::Gauge, 0},
                               {},
                               figures.table});
    else if (auto change = change_of(train, "rocker.ratio", "Rocker ratio", figures.ratio, Source::Gauge))
        out.changes.push_back(std::move(*change));
    out.closes.push_back(Check::Ratio);
    return out;
}

SheetEffect effect_of(const GeometryFit& fit, const Train& train) {
    SheetEffect out;
    if (std::abs(fit.longer_m.value) <= kSigmas * fit.longer_m.sd || !train.pushrod)
        return out;
    const Figure length{train.pushrod->length_m + fit.longer_m.value, fit.longer_m.sd};
    if (auto change =
            change_of(train, "pushrod.length_mm", "Pushrod length, over the stand", length, Source::Gauge))
        out.changes.push_back(std::move(*change));
    return out;
}

SheetEffect effect_of(const StiffnessFigures& figures, const Train& train, const std::string& key) {
    SheetEffect out;
    if (tells(figures.told, {"not_straight"}))
        return out;
    if (auto change = change_of(train, key, key.starts_with("rocker") ? "Rocker stiffness" : "Link stiffness",
                                figures.stiffness_N_per_m, Source::Gauge))
        out.changes.push_back(std::move(*change));
    return out;
}

SheetEffect effect_of_inertia(const Figure& inertia_kg_m2, const Train& train) {
    SheetEffect out;
    if (auto change =
            change_of(train, "rocker.inertia_kg_mm2", "Rocker inertia", inertia_kg_m2, Source::Scale))
        out.changes.push_back(std::move(*change));
    return out;
}

SheetEffect effect_of(const KeyedAnswer& answer, const Train& train) {
    SheetEffect out;
    for (const FoundNumber& one : answer.found)
        if (auto change = change_of(train, one.key, one.label, one.figure, one.source))
            out.changes.push_back(std::move(*change));
    out.closes = answer.closes;
    return out;
}

Train with_changes(Train train, const SheetEffect& effect, const std::set<std::string>& taken) {
    for (const SheetChange& one : effect.changes) {
        if (!taken.contains(one.key))
            continue;
        if (one.spring) {
            const std::size_t place = one.key[std::string_view("springs[").size()] - '0';
            const std::string of_this = fmt::format("springs[{}].", place);
            std::erase_if(train.tolerances,
                          [&](const auto& known) { return known.first.starts_with(of_this); });
            train.springs[place] = *one.spring;
        } else if (one.table) {
            train.rocker->ratio = *one.table;
            train.tolerances.erase("rocker.ratio");
        } else {
            set_value(train, one.key, one.after);
        }
        if (one.tolerance.plus_minus > 0)
            train.tolerances[one.key] = one.tolerance;
    }
    return train;
}

} // namespace bathmos::bench
