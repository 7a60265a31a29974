// Sheets on whether parts fit each other: gaps between what moves, and springs on the retainer's steps.
#include "core/bench/keyed_kinds.h"

#include <fmt/format.h>

namespace bathmos::bench {

namespace {

constexpr double kPiston_m = 2e-3;     // least to the piston where its maker says nothing, as the fit rules
constexpr double kOtherValve_m = 1e-3; // least between two valves, trade practice
constexpr double kSealLeast_m = 1.3e-3, kRockerLeast_m = 1.0e-3; // trade practice, as the fit rules
constexpr double kLoose_m = 0.4e-3; // of a spring on its step, on the diameter (docs/bench.md)
constexpr double kMostGap_m = 0.05;

// A gap that is read once.
struct Gap {
    const char *key, *label, *rule, *mend;
    double least_m;
    Check check;
    bool with_lift; ///< read with the valve closed: the lift is taken off
};
constexpr Gap kGaps[] = {
    {"to_seal_mm", "retainer to seal", "seal_too_close", "another seal, a shorter guide, or less lift",
     kSealLeast_m, Check::RetainerToSeal, true},
    {"to_rocker_mm", "retainer to rocker", "rocker_too_close",
     "relieve the rocker with a generous radius: a sharp edge starts a crack", kRockerLeast_m,
     Check::RetainerToRocker, false},
};

// A gap that is read at crank angles round the overlap.
struct SweptGap {
    const char *cell, *label, *key, *where, *least_key, *rule;
    double least_m;
    Check check;
};
constexpr SweptGap kSwept[] = {
    {"gap_mm", "valve to piston", "piston_mm", "piston_at_deg", "piston_least_mm", "piston_too_close",
     kPiston_m, Check::PistonToValve},
    {"other_mm", "valve to valve", "other_valve_mm", "other_valve_at_deg", "other_least_mm",
     "valves_too_close", kOtherValve_m, Check::ValveToValve},
};

void judge(const Gap& gap, const KeyedSheet& sheet, const Figure& lift, double beyond_m, KeyedAnswer& out) {
    const auto read = sheet.find(gap.key);
    if (!read)
        return;
    require_between(gap.key, Quantity::Length, {read->value}, 0, kMostGap_m);
    const Figure left = gap.with_lift ? minus(minus(*read, lift), {beyond_m, 0}) : *read;
    out.values.push_back(
        {std::string(gap.key) + "_left", std::string(gap.label) + ", least", left, Quantity::Length});
    if (left.value < gap.least_m)
        out.told.push_back({gap.rule,
                            {std::string(gap.label) + ": {} left, {} is the least; " + gap.mend,
                             {{Quantity::Length, left.value}, {Quantity::Length, gap.least_m}}}});
    else
        out.closes.push_back(gap.check);
}

void judge(const SweptGap& gap, const KeyedSheet& sheet, double beyond_m, KeyedAnswer& out) {
    const KeyedSheet::Row *worst = nullptr, *first = nullptr, *last = nullptr;
    Figure smallest{1, 0};
    for (const KeyedSheet::Row& row : sheet.rows) {
        const auto read = row.find(gap.cell);
        if (!read)
            continue;
        require_between(std::string("rows.") + gap.cell, Quantity::Length, {read->value}, 0, kMostGap_m);
        first = first ? first : &row;
        last = &row;
        if (read->value < smallest.value) {
            smallest = *read;
            worst = &row;
        }
    }
    if (!worst)
        return;
    const auto asked = sheet.find(gap.least_key);
    const double wanted_m = asked ? asked->value : gap.least_m;
    const Figure left = minus(smallest, {beyond_m, 0});
    out.values.push_back({gap.key, std::string(gap.label) + ", least", left, Quantity::Length});
    out.values.push_back({gap.where, "where", worst->find("crank_deg"), Quantity::Angle});
    if (left.value < wanted_m)
        out.told.push_back({gap.rule,
                            {std::string(gap.label) + ": {} left with what the motion adds, {} is wanted",
                             {{Quantity::Length, left.value}, {Quantity::Length, wanted_m}}}});
    if (worst == first || worst == last)
        out.told.push_back(
            {"range_too_short", MeasuredText(std::string(gap.label) +
                                             ": the least gap is the first or the last that was read: read "
                                             "further round the overlap")});
    else if (left.value >= wanted_m)
        out.closes.push_back(gap.check);
}

} // namespace

KeyedAnswer clearances(const KeyedSheet& sheet, const Train*) {
    const Figure lift = sheet.at("lift_mm");
    require_between("lift_mm", Quantity::Length, {lift.value}, 1e-3, 0.03);
    const auto loft = sheet.find("loft_mm");
    if (loft)
        require_between("loft_mm", Quantity::Length, {loft->value}, 0, 0.01);
    const double beyond_m = loft ? loft->value : 0;
    KeyedAnswer out;
    for (const Gap& gap : kGaps)
        judge(gap, sheet, lift, beyond_m, out);
    for (const SweptGap& gap : kSwept)
        judge(gap, sheet, beyond_m, out);
    if (out.values.empty())
        refuse("to_seal_mm", "no gap was read", "read at least one");
    return out;
}

KeyedAnswer springs_on_steps(const KeyedSheet& sheet, const Train*) {
    if (sheet.rows.empty())
        refuse("rows", "no spring", "one row a spring, the outer first");
    const auto height = sheet.find("height_mm"), first = sheet.rows.front().find("step_mm");
    if (height)
        require_between("height_mm", Quantity::Length, {height->value}, 1e-3, 0.5);
    KeyedAnswer out;
    out.of_each = "springs";
    for (const KeyedSheet::Row& row : sheet.rows) {
        const auto step = row.find("step_diameter_mm"), inside = row.find("inside_mm"),
                   outside = row.find("outside_mm"), depth = row.find("step_mm");
        if (!step || (!inside && !outside))
            refuse(
                step ? "rows.inside_mm" : "rows.step_diameter_mm",
                fmt::format("is missing for \"{}\"", row.name),
                "measure the step's diameter, and the spring's inside or outside, where the step holds it");
        for (const auto& [key, read] :
             {std::pair{"step_diameter_mm", step}, {"inside_mm", inside}, {"outside_mm", outside}})
            if (read)
                require_between(std::string("rows.") + key, Quantity::Length, {read->value}, 3e-3, 0.1);
        const Figure room = inside ? minus(*inside, *step) : minus(*step, *outside);
        AnswerItem item{row.name, {{"room_mm", "room on the diameter", room, Quantity::Length}}};
        if (height && first && depth) {
            require_between("rows.step_mm", Quantity::Length, {depth->value}, 0, kMostGap_m);
            item.values.push_back(
                {"height_mm", "its own height", plus(*height, minus(*first, *depth)), Quantity::Length});
        }
        out.items.push_back(std::move(item));
        if (room.value < 0)
            out.told.push_back({"tight", MeasuredText(row.name + ": ") +
                                             MeasuredText("{} tighter than its step: it does not sit flat",
                                                          {{Quantity::Length, -room.value}})});
        else if (room.value > kLoose_m)
            out.told.push_back(
                {"loose", MeasuredText(row.name + ": ") +
                              MeasuredText("{} of room on its step, {} is the most: it walks, "
                                           "and wears step and wire",
                                           {{Quantity::Length, room.value}, {Quantity::Length, kLoose_m}})});
    }
    if (out.told.empty())
        out.closes.push_back(Check::SpringFit);
    return out;
}

} // namespace bathmos::bench
