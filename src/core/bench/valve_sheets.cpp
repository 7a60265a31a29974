#include "core/bench/keyed_kinds.h"
#include "core/rocker/rocker_geometry.h"
#include "core/train/train_figures.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::bench {

namespace {

constexpr double kMostLash_m = 3e-3;     // that a feeler reads
constexpr double kLashAlike_m = 0.03e-3; // feeler gauges do not tell less
constexpr double kFeeler_m = 0.015e-3;   // a hand's feel, one deviation
constexpr double kNarrowMark_m = 1.5e-3, kEdge_m = 0.75e-3, kMarkOff_m = 0.5e-3; // physics.md 4
constexpr double kRodStep_m = 1.27e-3;                                           // rods come in such steps
constexpr int kRodSteps = 2;
constexpr double kClose_m = 1.27e-3, kRoomy_m = 2.54e-3; // the two schools of margin

// A name is any text: what it holds is no pattern.
MeasuredText valve(const std::string& name) {
    return MeasuredText("valve " + name + ": ");
}

Told told_of_off(const std::string& name, double lash_m, double wanted_m) {
    return {"off", valve(name) + MeasuredText("{} where {} is wanted",
                                              {{Quantity::Length, lash_m}, {Quantity::Length, wanted_m}})};
}

// Of the cold lash since the last sheet: what wears, by the way it goes.
Told told_of_wear(const std::string& name, double moved_m) {
    return {moved_m > 0 ? "opens" : "closes",
            valve(name) + MeasuredText(moved_m > 0
                                           ? "lash has grown by {} since the last sheet: tip, wheel, lobe or "
                                             "adjuster wears"
                                           : "lash has shrunk by {} since the last sheet: seat or valve face "
                                             "wears",
                                       {{Quantity::Length, std::abs(moved_m)}})};
}

// Where the contact wanders over the tip with a rod of a length, and what that length does to the lift.
struct TipPath {
    double middle_m = 0, width_m = 0, peak_m = 0, low_ratio = 0, nose_ratio = 0;
};

TipPath path_with(const Train& train, double rod_m) {
    constexpr int kPlaces = 40;
    const RockerLinkage linkage(std::get<RockerGeometry>(train.rocker->ratio), train.rocker->input_arm_m,
                                train.rocker->output_arm_m, rod_m);
    const double rise_m = curve_of(train.lobe).at(0), step_m = rise_m / kPlaces;
    double low = 1, high = -1;
    for (int i = 0; i <= kPlaces; ++i) {
        const double at = linkage.at(step_m * i).contact_offset_m;
        low = std::min(low, at);
        high = std::max(high, at);
    }
    const double peak_m = linkage.at(rise_m).travel_m;
    return {(low + high) / 2, high - low, peak_m, linkage.at(step_m).travel_m / step_m,
            (peak_m - linkage.at(rise_m - step_m).travel_m) / step_m};
}

// The computed path beside the mark, and what other rods would make of it, in steps of 1.27 mm.
void compare_with_path(const Figure& offset, const Train& train, KeyedAnswer& out) {
    const double rod_m = train.pushrod->length_m;
    const TipPath now = path_with(train, rod_m);
    out.values.push_back(
        {"computed_offset_mm", "middle of the computed path", Figure{now.middle_m, 0}, Quantity::Length});
    out.values.push_back(
        {"computed_width_mm", "width of the computed path", Figure{now.width_m, 0}, Quantity::Length});
    if (const double apart = offset.value - now.middle_m; std::abs(apart) > kMarkOff_m)
        out.told.push_back({"not_as_computed",
                            {"the mark lies {} from the computed path: the geometry is not as "
                             "believed (stand, rod, stem)",
                             {{Quantity::Length, apart}}}});
    out.of_each = "rods";
    for (int step = -kRodSteps; step <= kRodSteps; ++step)
        try {
            const TipPath path = path_with(train, rod_m + step * kRodStep_m);
            out.items.push_back(
                {fmt::format("rod {:+.2f} mm", step * kRodStep_m * 1e3),
                 {{"offset_mm", "path's middle", Figure{path.middle_m, 0}, Quantity::Length},
                  {"width_mm", "its width", Figure{path.width_m, 0}, Quantity::Length},
                  {"peak_lift_mm", "peak lift", Figure{path.peak_m, 0}, Quantity::Length},
                  {"low_ratio", "ratio low down", Figure{path.low_ratio, 0}, Quantity::Count},
                  {"nose_ratio", "at the nose", Figure{path.nose_ratio, 0}, Quantity::Count}}});
        } catch (const InputError&) {
            continue; // no rocker closes with a rod of that length
        }
}

} // namespace

KeyedAnswer lash_of_valves(const KeyedSheet& sheet, const Train*) {
    if (sheet.rows.empty())
        refuse("rows", "no valve", "one row a valve");
    KeyedAnswer out;
    out.of_each = "valves";
    const auto wanted = sheet.find("wanted_mm");
    Figure sum;
    int counted = 0;
    for (const KeyedSheet::Row& row : sheet.rows) {
        const auto cold = row.find("cold_mm"), hot = row.find("hot_mm"), before = row.find("before_mm");
        if (!cold && !hot)
            refuse("rows.cold_mm", fmt::format("nothing was read at valve \"{}\"", row.name),
                   "read it cold or hot");
        for (const char* key : {"cold_mm", "hot_mm", "before_mm"})
            if (const auto one = row.find(key))
                require_between(std::string("rows.") + key, Quantity::Length, {one->value}, 0, kMostLash_m);
        const Figure now{(hot ? hot : cold)->value, std::max((hot ? hot : cold)->sd, kFeeler_m)};
        AnswerItem item{row.name, {}};
        if (cold && hot)
            item.values.push_back(
                {"grows_mm", "grows from cold to hot", minus(*hot, *cold), Quantity::Length});
        if (wanted) {
            const double off = now.value - wanted->value;
            item.values.push_back({"to_turn_mm", "to take up", Figure{off, now.sd}, Quantity::Length});
            if (std::abs(off) > kLashAlike_m)
                out.told.push_back(told_of_off(row.name, now.value, wanted->value));
        }
        if (before) {
            const Figure same = cold ? *cold : now; // an earlier sheet is cold
            const double moved = same.value - before->value;
            item.values.push_back({"moved_mm", "since the last sheet",
                                   Figure{moved, std::sqrt(2.0) * kFeeler_m}, Quantity::Length});
            if (std::abs(moved) > 3 * std::sqrt(2.0) * kFeeler_m)
                out.told.push_back(told_of_wear(row.name, moved));
        }
        out.items.push_back(std::move(item));
        sum = {sum.value + now.value, std::hypot(sum.sd, now.sd)};
        ++counted;
    }
    const Figure mean{sum.value / counted, std::max(sum.sd / counted, kFeeler_m)};
    out.values.push_back({"lash_mm", "mean lash", mean, Quantity::Length});
    out.found.push_back({"lash_mm", "Lash", mean, Source::Gauge});
    if (out.told.empty())
        out.closes.push_back(Check::Lash);
    return out;
}

KeyedAnswer witness_mark(const KeyedSheet& sheet, const Train* train) {
    const Figure width = sheet.at("width_mm"), offset = sheet.at("offset_mm"), tip = sheet.at("tip_mm");
    require_between("width_mm", Quantity::Length, {width.value}, 1e-5, 0.03);
    require_between("tip_mm", Quantity::Length, {tip.value}, 2e-3, 0.05);
    require_between("offset_mm", Quantity::Length, {offset.value}, -0.02, 0.02);
    const auto cap = sheet.find("cap_mm");
    const Figure face = cap && cap->value > tip.value ? *cap : tip;
    const Figure edge =
        minus(times(0.5, face), plus({std::abs(offset.value), offset.sd, offset.freedom}, times(0.5, width)));
    KeyedAnswer out;
    out.values = {{"edge_mm", "mark's edge to the tip's edge", edge, Quantity::Length},
                  {"off_centre_mm", "off the middle, away from the pivot", offset, Quantity::Length}};
    if (edge.value < kEdge_m)
        out.told.push_back({"near_edge",
                            {"the mark ends {} from the tip's edge, {} is the least: another rod length, a "
                             "stand's shim, or a cap",
                             {{Quantity::Length, edge.value}, {Quantity::Length, kEdge_m}}}});
    if (width.value > kNarrowMark_m)
        out.told.push_back(
            {"wide",
             {"the mark is {} wide, about 1 mm is narrow: the tip travels too far over the stem",
              {{Quantity::Length, width.value}}}});
    out.lines.push_back(
        std::abs(offset.value) < width.value / 2
            ? MeasuredText("centred school: the mark covers the middle")
            : MeasuredText("centred school: off the middle by {}", {{Quantity::Length, offset.value}}));
    out.lines.push_back(offset.value >= 0 && offset.value <= 1e-3
                            ? MeasuredText("outside school: slightly outside, as it wants")
                            : MeasuredText("outside school: wants up to 1 mm away from the pivot, not {}",
                                           {{Quantity::Length, offset.value}}));
    if (train && train->rocker && train->pushrod &&
        std::holds_alternative<RockerGeometry>(train->rocker->ratio))
        compare_with_path(offset, *train, out);
    if (out.told.empty())
        out.closes.push_back(Check::WitnessMark);
    return out;
}

KeyedAnswer near_solid(const KeyedSheet& sheet, const Train* train) {
    if (!train || train->springs.empty())
        refuse("kind", "needs a train with springs", "open the build, or name the train (--train)");
    const Figure margin = sheet.at("margin_mm");
    require_between("margin_mm", Quantity::Length, {margin.value}, 0, 0.02);
    const auto loft = sheet.find("loft_mm");
    const double beyond = loft ? loft->value : 0;
    require_between("loft_mm", Quantity::Length, {beyond}, 0, 0.01);
    const double lift = RigidMotion(*train, curve_of(train->lobe)).peak_m();
    KeyedAnswer out;
    out.of_each = "springs";
    double tallest = 0;
    for (const Spring& spring : train->springs) {
        const SpringStatics statics(spring);
        tallest = std::max(tallest, statics.solid_height_m() + lift + beyond + margin.value);
    }
    double seat_N = 0, open_N = 0;
    for (const Spring& spring : train->springs) {
        const SpringStatics statics(spring);
        const double own = statics.solid_height_m() + lift + beyond + margin.value;
        seat_N += statics.load_N(tallest);
        open_N += statics.load_N(tallest - lift);
        const double left = tallest - lift - statics.solid_height_m();
        AnswerItem item{
            spring.name,
            {{"height_mm", "height for that margin", Figure{own, margin.sd}, Quantity::Length},
             {"margin_mm", "margin at rest, all at the tallest", Figure{left, margin.sd}, Quantity::Length}}};
        if (const auto stress = statics.stress_Pa(tallest - lift))
            item.values.push_back({"stress_MPa", "stress open", Figure{*stress, 0}, Quantity::Stress});
        out.items.push_back(std::move(item));
        if (left < 0)
            out.told.push_back({"solid", MeasuredText(spring.name + ": coils touch at full lift")});
        else if (left < kClose_m)
            out.told.push_back(
                {"under_close",
                 MeasuredText(spring.name + ": ") +
                     MeasuredText("{} to solid at rest, under the {} that even the close school keeps; "
                                  "measure the solid height, and again",
                                  {{Quantity::Length, left}, {Quantity::Length, kClose_m}})});
    }
    out.values = {
        {"height_mm", "installed height", Figure{tallest, margin.sd}, Quantity::Length},
        {"shim_mm", "shim against now", Figure{train->installed_height_m - tallest, 0}, Quantity::Length},
        {"seat_N", "seat load there", Figure{seat_N, 0}, Quantity::Force},
        {"open_N", "open load there", Figure{open_N, 0}, Quantity::Force}};
    out.lines.emplace_back(
        margin.value <= kRoomy_m
            ? "close school: little room to surge, the coils stop it themselves; asks for a measured "
              "solid height and checks again and again"
            : "roomy school: forgives mistakes; surge has room, watch its orders on the rig");
    if (train->installed_height_m < tallest - 1e-5)
        out.lines.emplace_back(
            "the height now is shorter than that: no shim helps, another retainer, seat or spring does");
    out.found.push_back({"installed_height_mm", "Installed height", Figure{tallest, 0},
                         Source::Gauge}); // wanted, not yet measured
    return out;
}

} // namespace bathmos::bench
