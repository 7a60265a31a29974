#include "core/fit/fit_rules.h"

#include "core/life/part_life.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

using K = PartKind;
using Q = Quantity;

// Bounds of trade practice; makers' figures come first where a part has them.
constexpr double kAngle_rad = 0.25 * kPi / 180;
constexpr double kFlatLoad_N = 1600; // open spring load at the valve, as the trade states it; no rating
constexpr double kLoose_m = 1.0e-3;  // step to spring, on diameter
constexpr double kSealStop_m = 0.8e-3, kSealWarn_m = 1.3e-3;
constexpr double kRockerStop_m = 0.5e-3, kRockerWarn_m = 1.0e-3;
constexpr double kPistonIntake_m = 2.0e-3, kPistonExhaust_m = 2.5e-3;
constexpr double kValvesStop_m = 0.8e-3, kValvesWarn_m = 1.5e-3;
constexpr double kMarkEdge_m = 0.75e-3; // physics.md 4

void add(std::vector<Finding>& out, Severity severity, const char* part, std::string text, std::string reason,
         Q quantity = Q::Count, double value = 0, double limit = 0) {
    out.push_back({severity, part, std::move(text), std::move(reason), quantity, value, limit, ""});
}

void lock_angle(const FitInput& in, std::vector<Finding>& out) {
    const auto taper = in.assembly.number(K::Retainer, "angle_deg");
    const double locks = in.assembly.train.locks_angle_rad;
    if (taper && locks > 0 && std::abs(*taper - locks) > kAngle_rad)
        add(out, Severity::Stop, "parts.locks", "the retainer's taper is {}",
            "the locks are cut for {}: they hold on an edge and pull through", Q::Angle, *taper, locks);
}

void follower_kind(const FitInput& in, std::vector<Finding>& out) {
    const std::string cut = in.assembly.word(K::Lobe, "cut_for");
    std::string face = in.assembly.word(K::Lifter, "face");
    if (face.empty())
        face = in.assembly.train.lobe.follower == FollowerKind::Flat ? "flat" : "roller";
    if (!cut.empty() && cut != face)
        add(out, Severity::Stop, "parts.lobe",
            "the lobe is cut for a " + cut + " follower and runs under a " + face,
            "contact runs off the face or its curve undercuts: lobe and follower are scuffed within minutes");
}

// The side that a maker's rated load is meant on: as noted, else as makers of that part usually state it.
std::string rated_side(const FitInput& in, K kind, const char* usual) {
    const std::string side = in.assembly.word(kind, "rated_load_side");
    return side.empty() ? usual : side;
}
std::string side_words(const FitInput& in, K kind, const char* usual) {
    return rated_side(in, kind, usual) == "cam" ? "at the cam" : "at the valve";
}
// Open spring load on that side: at the valve as it is, at the cam times the ratio.
double load_on_side(const FitInput& in, K kind, const char* usual) {
    const Train& train = in.assembly.train;
    const double ratio = train.rocker ? std::abs(train.rocker_map().ratio(0)) : 1.0;
    return rated_side(in, kind, usual) == "cam" ? in.figures.open_load_N * ratio : in.figures.open_load_N;
}

void follower_load(const FitInput& in, std::vector<Finding>& out) {
    const bool flat = in.assembly.train.lobe.follower == FollowerKind::Flat;
    const auto rated = in.assembly.number(K::Lifter, "rated_load_N");
    const double load = load_on_side(in, K::Lifter, "cam");
    if (rated && load > *rated)
        add(out, Severity::Stop, "parts.lifter",
            "the open spring load " + side_words(in, K::Lifter, "cam") + " is {}",
            "the follower's maker allows {} there", Q::Force, load, *rated);
    else if (!rated && flat && in.figures.open_load_N > kFlatLoad_N)
        add(out, Severity::Warn, "parts.lifter",
            "the open spring load at the valve is {}, on a flat follower",
            "over about {} at the valve a flat face wears off lobe and follower; see what its maker allows",
            Q::Force, in.figures.open_load_N, kFlatLoad_N);
}

void rocker_load(const FitInput& in, std::vector<Finding>& out) {
    const auto rated = in.assembly.number(K::Rocker, "rated_load_N");
    const double load = load_on_side(in, K::Rocker, "valve");
    if (rated && load > *rated)
        add(out, Severity::Stop, "parts.rocker",
            "the open spring load " + side_words(in, K::Rocker, "valve") + " is {}",
            "the rocker's maker allows {} there, and at speed it bears more", Q::Force, load, *rated);
}

// Diameters of the outermost spring.
std::optional<double> spring_diameter(const FitInput& in, bool inner) {
    if (const auto given = in.assembly.number(K::Spring, inner ? "inner_mm" : "outer_mm"))
        return given;
    std::optional<double> out;
    for (const Spring& spring : in.assembly.train.springs)
        if (const auto* coil = std::get_if<CoilGeometry>(&spring.kind)) {
            const double mean = coil->mean_diameter_m.front();
            const double d = inner ? mean - coil->wire_m : mean + coil->wire_m;
            out = std::max(out.value_or(0), d);
        }
    return out;
}

void step_fit(const FitInput& in, K kind, bool inside, double step_m, std::vector<Finding>& out) {
    const auto spring = spring_diameter(in, inside);
    if (!spring)
        return;
    const double play = inside ? *spring - step_m : step_m - *spring;
    const char* part = kind == K::Seat ? "parts.seat" : "parts.retainer";
    const std::string name = kind == K::Seat ? "spring seat" : "retainer";
    if (play < 0)
        add(out, Severity::Stop, part, "the " + name + "'s step is {} across",
            inside ? "the spring is {} inside: it cannot sit flat and its end coil is pried open"
                   : "the spring is {} outside: it does not go into the cup",
            Q::Length, step_m, *spring);
    else if (play > kLoose_m)
        add(out, Severity::Warn, part, "the " + name + "'s step leaves the spring {} of play",
            "over {} it walks, rubs the guide or the head and loads its wire unevenly", Q::Length, play,
            kLoose_m);
}

void seat_step(const FitInput& in, std::vector<Finding>& out) {
    if (const auto step = in.assembly.number(K::Seat, "locates_mm"))
        step_fit(in, K::Seat, in.assembly.word(K::Seat, "locates") != "outside", *step, out);
}
void retainer_step(const FitInput& in, std::vector<Finding>& out) {
    if (const auto step = in.assembly.number(K::Retainer, "locates_mm"))
        step_fit(in, K::Retainer, true, *step, out);
}

void close_wound(const FitInput& in, std::vector<Finding>& out) {
    if (in.assembly.word(K::Spring, "close_wound") == "up")
        add(out, Severity::Warn, "parts.spring", "the close-wound end of the spring is up",
            "it belongs on the head: at the retainer its dead coils are mass that the valve must carry");
}

void bare_head(const FitInput& in, std::vector<Finding>& out) {
    if (in.engine && in.engine->head_material == "aluminium" && in.assembly.find(K::Spring) &&
        !in.assembly.find(K::Seat) && in.assembly.word(K::Seal, "spring_seat") != "combined")
        add(out, Severity::Stop, "parts.seat", "the spring stands on bare aluminium",
            "it digs in, the installed height grows and chips go into the oil: put a hard seat under it");
}

void gap(std::optional<double> gap_m, const char* what, const char* part, double stop_m, double warn_m,
         std::vector<Finding>& out) {

    if (!gap_m || *gap_m >= warn_m)
        return;
    const bool stop = *gap_m < stop_m;
    add(out, stop ? Severity::Stop : Severity::Warn, part, std::string(what) + " {}",
        stop ? "below {} they meet when the valve lofts or the train flexes"
             : "below {} little is left for loft",
        Q::Length, *gap_m, stop ? stop_m : warn_m);
}

void retainer_seal(const FitInput& in, std::vector<Finding>& out) {
    const auto closed = in.assembly.number(K::Retainer, "to_seal_mm");
    const double lift = std::max(in.figures.peak_lift_m, in.peak_lift_m.value_or(0));
    if (closed)
        gap(*closed - lift, "retainer to seal at full lift", "parts.retainer", kSealStop_m, kSealWarn_m, out);
}
void retainer_rocker(const FitInput& in, std::vector<Finding>& out) {
    gap(in.assembly.number(K::Retainer, "to_rocker_mm"), "retainer to rocker", "parts.retainer",
        kRockerStop_m, kRockerWarn_m, out);
}

// Contact at rest stops (figures_of); clash with the motion at speed warns: the coils themselves end the lift
// there.
void bind_at_speed(const FitInput& in, std::vector<Finding>& out) {
    if (!in.peak_lift_m)
        return;
    const double margin = in.figures.bind_margin_m - (*in.peak_lift_m - in.figures.peak_lift_m);
    if (in.figures.bind_margin_m <= 0 || (margin > 0 && !in.clashes_at_rpm))
        return;
    const std::string where = in.clashes_at_rpm
                                  ? fmt::format("coils meet at {:.0f} rev/min", *in.clashes_at_rpm)
                                  : "coils meet at speed";
    if (margin > 0)
        add(out, Severity::Warn, "installed_height_mm",
            where + " by surge, though {} are left to solid at peak lift there",
            "waves close single coils before the spring is solid: a damper, another natural frequency or "
            "less room for the coils to swing; or accept and recheck",
            Q::Length, margin, 0);
    else
        add(out, Severity::Warn, "installed_height_mm", where + ", bind margin there {}",
            "loft takes what is left at rest: more height, less lift, or accept and recheck", Q::Length,
            margin, 0);
}

void piston(const FitInput& in, std::vector<Finding>& out) {
    const double warn = in.side == ValveSide::Intake ? kPistonIntake_m : kPistonExhaust_m;
    if (in.piston)
        gap(in.piston->least_m, "valve to piston", "parts.valve", 0.5 * warn, warn, out);
}
void valves(const FitInput& in, std::vector<Finding>& out) {
    if (in.other_valve)
        gap(in.other_valve->least_m, "valve to valve", "parts.valve", kValvesStop_m, kValvesWarn_m, out);
}

bool titanium(const FitInput& in) {
    return in.assembly.word(K::Valve, "material") == "titanium";
}
void titanium_guide(const FitInput& in, std::vector<Finding>& out) {
    const std::string guide = in.assembly.word(K::Guide, "material");
    if (titanium(in) && (guide == "iron" || guide == "steel"))
        add(out, Severity::Stop, "parts.guide", "a titanium stem runs in a guide of " + guide,
            "it galls and sticks: bronze, or a coated stem that its maker allows");
}
void titanium_seal(const FitInput& in, std::vector<Finding>& out) {
    if (titanium(in) && in.assembly.word(K::Seal, "titanium_fit") == "no")
        add(out, Severity::Stop, "parts.seal", "the stem seal is not for titanium stems",
            "its lip wears the stem's coating off");
}
void titanium_seat(const FitInput& in, std::vector<Finding>& out) {
    const std::string seat = in.engine ? in.engine->valve_seat_material : std::string();
    if (titanium(in) && (seat == "iron" || seat == "steel"))
        add(out, Severity::Stop, "parts.valve", "a titanium valve closes on a seat of " + seat,
            "hard seats pound its face and keep its heat in: use the copper alloy that its maker names");
}

// A part by the record of its use.
void add_age(const FitInput& in, K kind, std::vector<Finding>& out) {
    const auto age = in.ages.find(kind);
    if (age == in.ages.end() || age->second.used < life::kLifeWarning)
        return;
    const bool over = age->second.used >= 1;
    add(out, over ? Severity::Stop : Severity::Warn, ("parts." + std::string(info(kind).key)).c_str(),
        fmt::format("{} are behind the {}", age->second.told, info(kind).key),
        over ? "its life is over: replace it, by its maker's instructions"
             : "four fifths of its life are over: plan the next one");
}

void part_life(const FitInput& in, std::vector<Finding>& out) {
    for (const auto& [kind, age] : in.ages)
        if (kind != K::Spring)
            add_age(in, kind, out);
}

void spring_life(const FitInput& in, std::vector<Finding>& out) {
    if (in.ages.contains(K::Spring))
        return add_age(in, K::Spring, out);
    const auto rated = in.assembly.number(K::Spring, "rated_cycles"),
               run = in.assembly.number(K::Spring, "run_cycles");
    if (!rated || !run || *rated <= 0 || *run < life::kLifeWarning * *rated)
        return;
    const bool over = *run >= *rated;
    add(out, over ? Severity::Stop : Severity::Warn, "parts.spring",
        fmt::format("the spring has run {:g} million cycles", *run),
        fmt::format("its maker rates it for {:g} million: {}", *rated,
                    over ? "replace it" : "plan the next set"));
}

void tip_mark(const FitInput& in, std::vector<Finding>& out) {
    const auto tip = in.assembly.number(K::Valve, "tip_mm"),
               middle = in.assembly.number(K::Valve, "mark_offset_mm"),
               width = in.assembly.number(K::Valve, "mark_width_mm");
    if (!tip || !middle || in.assembly.find(K::Cap))
        return; // a cap widens the tip
    const double edge = 0.5 * *tip - std::abs(*middle) - 0.5 * width.value_or(0);
    if (edge < kMarkEdge_m)
        add(out, edge < 0 ? Severity::Stop : Severity::Warn, "parts.valve",
            "the witness mark comes within {} of the tip's edge",
            "below {} the rocker rolls off the tip and bends the stem: correct pushrod length or stand",
            Q::Length, edge, kMarkEdge_m);
}

void rated_lift(const FitInput& in, std::vector<Finding>& out) {
    const auto rated = in.assembly.number(K::Rocker, "rated_lift_mm");
    if (rated && in.figures.peak_lift_m > *rated)
        add(out, Severity::Stop, "parts.rocker", "the valve lifts {}",
            "the rocker was made for {}: its slot or trunnion meets the stud", Q::Length,
            in.figures.peak_lift_m, *rated);
}

void history(const FitInput& in, std::vector<Finding>& out) {
    for (const auto& [kind, part] : in.assembly.parts)
        if (!part.history_known)
            out.push_back({Severity::Warn, "parts." + std::string(info(kind).key),
                           std::string(info(kind).label) + " \"" + part.name + "\" has an unknown past",
                           "cracks and lost tension do not show: inspect, test, or leave it out", Q::Count, 0,
                           0, ""});
}

void unchecked(const FitInput& in, std::vector<Finding>& out) {
    if (in.open.empty())
        return;
    std::string names;
    for (const OpenCheck& open : in.open)
        names += (names.empty() ? "" : ", ") + std::string(info(open.check).label);
    add(out, Severity::Warn, "checks", fmt::format("{} open check(s) since a change", in.open.size()),
        "not looked at since: " + names);
}

const char* const kTrade = "trade practice; the maker's instructions come first";
const char* const kMakers = "the maker's figure on the part's sheet";

// clang-format off
const std::vector<FitRule> kRules = {
    {"rocker_arms", "Rocker arms", {K::Rocker}, "arithmetic", nullptr},
    {"geometry_gap", "Rocker geometry", {K::Rocker, K::Pushrod, K::Stand, K::Valve}, "arithmetic", nullptr},
    {"coil_bind", "Coil bind", {K::Spring, K::Retainer, K::Locks, K::Shim, K::Seat, K::Lobe, K::Rocker}, "physics.md 3; rig practice", nullptr},
    {"unusual", "Unusual numbers", {}, "a table of wide ranges, docs/physics.md", nullptr},
    {"assumed", "Assumed numbers", {}, "rules of estimation, docs/start.md", nullptr},
    {"blown_open", "Blown open", {K::Spring, K::Valve}, "arithmetic", nullptr},
    {"lock_angle", "Lock angle", {K::Locks, K::Retainer}, kTrade, lock_angle},
    {"follower_kind", "Lobe and follower", {K::Lobe, K::Lifter}, kTrade, follower_kind},
    {"follower_load", "Load on the follower", {K::Lifter, K::Spring, K::Rocker}, "the maker's figure; for flat followers else trade practice", follower_load},
    {"rocker_load", "Load on the rocker", {K::Rocker, K::Spring}, kMakers, rocker_load},
    {"seat_step", "Spring seat's step", {K::Seat, K::Spring}, kTrade, seat_step},
    {"retainer_step", "Retainer's step", {K::Retainer, K::Spring}, kTrade, retainer_step},
    {"close_wound", "Close-wound end", {K::Spring}, kTrade, close_wound},
    {"bare_head", "Bare aluminium", {K::Seat, K::Spring}, kTrade, bare_head},
    {"retainer_seal", "Retainer to seal", {K::Retainer, K::Seal, K::Locks, K::Lobe, K::Rocker}, kTrade, retainer_seal},
    {"retainer_rocker", "Retainer to rocker", {K::Retainer, K::Rocker}, kTrade, retainer_rocker},
    {"bind_at_speed", "Coil bind at speed", {K::Spring, K::Retainer, K::Locks, K::Shim, K::Seat, K::Lobe, K::Rocker}, "physics.md 3, with the computed lift", bind_at_speed},
    {"piston", "Valve to piston", {K::Valve, K::Lobe, K::Rocker}, kTrade, piston},
    {"valves", "Valve to valve", {K::Valve, K::Lobe, K::Rocker}, kTrade, valves},
    {"titanium_guide", "Titanium in its guide", {K::Valve, K::Guide}, kTrade, titanium_guide},
    {"titanium_seal", "Titanium under its seal", {K::Valve, K::Seal}, kMakers, titanium_seal},
    {"titanium_seat", "Titanium on its seat", {K::Valve}, kTrade, titanium_seat},
    {"spring_life", "Spring life", {K::Spring}, kMakers, spring_life},
    {"part_life", "Life of a part", {K::Lifter, K::Pushrod, K::Rocker, K::Valve, K::Retainer, K::Locks}, kMakers, part_life},
    {"tip_mark", "Witness mark", {K::Valve, K::Pushrod, K::Stand, K::Rocker}, "physics.md 4", tip_mark},
    {"rated_lift", "Lift on the rocker", {K::Rocker, K::Lobe}, kMakers, rated_lift},
    {"history", "Unknown past", {}, "shop practice", history},
    {"unchecked", "Open checks", {}, "this program's list of what depends on what", unchecked},
};
// clang-format on

// Whether any of a rule's parts changed between two revisions; the installed height belongs to the spring. A
// rule about no part in particular is touched by any change.
bool touched(const Assembly& before, const Assembly& after, const FitRule& rule) {
    const auto about = [&](PartKind kind) {
        return std::find(rule.parts.begin(), rule.parts.end(), kind) != rule.parts.end();
    };
    for (const Difference& difference : differences(before, after)) {
        const auto kind = kind_of(difference);
        if (rule.parts.empty() || (kind && about(*kind)) ||
            (difference.key == "installed_height_mm" && about(K::Spring)))
            return true;
    }
    return false;
}

} // namespace

const std::vector<FitRule>& fit_rules() {
    return kRules;
}
const FitRule* find_fit_rule(std::string_view key) {
    for (const FitRule& rule : kRules)
        if (rule.key == key)
            return &rule;
    return nullptr;
}

std::vector<Finding> fit_findings(const FitInput& input) {
    std::vector<Finding> out = input.figures.findings;
    for (const FitRule& rule : kRules) {
        if (!rule.look)
            continue;
        const std::size_t before = out.size();
        rule.look(input, out);
        for (std::size_t i = before; i < out.size(); ++i)
            out[i].rule = rule.key;
    }
    return out;
}

std::string waiver_key(const FitRule& rule) {
    return "finding:" + std::string(rule.key);
}

Id waiver_of(const Project& project, Id revision, const FitRule& rule) {
    const std::string key = waiver_key(rule);
    const auto& waivers = project.of(EntryKind::Waiver);
    if (std::none_of(waivers.begin(), waivers.end(), [&](const auto& entry) {
            return std::find(entry.second.closes.begin(), entry.second.closes.end(), key) !=
                   entry.second.closes.end();
        }))
        return 0; // the usual case, and comparing revisions costs
    const std::vector<Id> line = project.line_to(revision);
    for (std::size_t i = line.size(); i-- > 0;) {
        for (const auto& [id, entry] : project.of(EntryKind::Waiver))
            if (entry.revision == line[i] &&
                std::find(entry.closes.begin(), entry.closes.end(), key) != entry.closes.end())
                return id;
        if (i > 0 &&
            touched(project.revisions.at(line[i - 1]).assembly, project.revisions.at(line[i]).assembly, rule))
            return 0;
    }
    return 0;
}

} // namespace bathmos
