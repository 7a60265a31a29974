#include "core/project/part.h"

#include "core/train/train_fields.h"
#include "core/uncertainty/uncertain_inputs.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos {

namespace {

using K = PartKind;
using Q = Quantity;

const std::vector<std::string_view> kMetals = {"steel", "titanium", "aluminium", "stainless"};
const std::vector<std::string_view> kYesNo = {"yes", "no"};

// clang-format off
const std::vector<PartKindInfo> kPartKindTable = {
    {K::Lobe, "lobe", "Lobe", "lobe"},
    {K::Lifter, "lifter", "Lifter", "lifter"},
    {K::Pushrod, "pushrod", "Pushrod", "pushrod"},
    {K::Rocker, "rocker", "Rocker", "rocker"},
    {K::Stand, "stand", "Stand", ""},
    {K::Valve, "valve", "Valve", "valve"},
    {K::Retainer, "retainer", "Retainer", "retainer"},
    {K::Locks, "locks", "Locks", "locks"},
    {K::Cap, "cap", "Lash cap", "cap"},
    {K::Spring, "spring", "Spring", "springs"},
    {K::Seat, "seat", "Spring seat", ""},
    {K::Seal, "seal", "Stem seal", ""},
    {K::Guide, "guide", "Guide", ""},
    {K::Shim, "shim", "Shim", ""},
};

const std::vector<PartFact> kOwnFacts = {
    {K::Lobe, "cut_for", "Cut for", Q::Count, 0, 0, {"flat", "roller"}, "The kind of follower that the lobe was ground for."},
    {K::Lobe, "advertised_crank_deg", "Advertised duration", Q::Angle, 20, 720, {}, "Crank degrees, as the maker's card says."},
    {K::Lobe, "advertised_at_mm", "at a cam lift of", Q::Length, 0.01, 5, {}, "Height that the card's duration was taken at; without it the duration cannot be compared."},
    {K::Lobe, "wheel_mm", "Grinding wheel's diameter", Q::Length, 1, 1000, {}, "Largest wheel that grinds it; a hollow flank needs a smaller one."},
    {K::Lifter, "face", "Face", Q::Count, 0, 0, {"flat", "roller"}, "What runs on the cam."},
    {K::Lifter, "rated_load_N", "Rated load", Q::Force, 1, 1e5, {}, "Largest open spring load that its maker allows, on the side named below."},
    {K::Lifter, "rated_load_side", "Rated load is meant", Q::Count, 0, 0, {"cam", "valve"}, "At the cam (unless noted) or at the valve: they differ by the ratio."},
    {K::Rocker, "rated_load_N", "Rated load", Q::Force, 1, 1e5, {}, "Largest open spring load that its maker allows, on the side named below."},
    {K::Rocker, "rated_load_side", "Rated load is meant", Q::Count, 0, 0, {"valve", "cam"}, "At the valve (unless noted) or at the cam: they differ by the ratio."},
    {K::Rocker, "rated_lift_mm", "Rated lift", Q::Length, 1, 50, {}, "Valve lift that slot, trunnion and tip were made for."},
    {K::Stand, "height_mm", "Height", Q::Length, 0, 500, {}, "Pivot above the head's face."},
    {K::Valve, "material", "Material", Q::Count, 0, 0, kMetals, "Titanium must not run on what galls or burns it."},
    {K::Valve, "length_mm", "Length", Q::Length, 10, 500, {}, "Head to tip."},
    {K::Valve, "tip_mm", "Tip diameter", Q::Length, 1, 50, {}, "The mark of the rocker must stay inside it."},
    {K::Valve, "mark_offset_mm", "Mark's offset", Q::Length, -25, 25, {}, "Middle of the witness mark from the stem's axis."},
    {K::Valve, "mark_width_mm", "Mark's width", Q::Length, 0, 25, {}, "Width of the witness mark over a whole lift."},
    {K::Retainer, "angle_deg", "Taper", Q::Angle, 1, 45, {}, "Angle of the taper that the locks sit in; must be the locks'."},
    {K::Retainer, "step_mm", "Spring step depth", Q::Length, -20, 30, {}, "From the retainer's face down to where the spring sits."},
    {K::Retainer, "seat_depth_mm", "Lock depth", Q::Length, -20, 30, {}, "How deep the locks sit below the retainer's face."},
    {K::Retainer, "locates_mm", "Locating diameters", Q::Length, 1, 100, {}, "Diameter of the step inside the (outer) spring."},
    {K::Retainer, "to_seal_mm", "Retainer to seal", Q::Length, 0, 50, {}, "Underside of the retainer to the top of the seal, valve closed, as assembled."},
    {K::Retainer, "to_rocker_mm", "Retainer to rocker", Q::Length, -5, 50, {}, "Smallest gap between retainer and rocker over the lift, as assembled."},
    {K::Spring, "inner_mm", "Inner diameter", Q::Length, 1, 100, {}, "Of the outer spring; else mean diameter less one wire."},
    {K::Spring, "outer_mm", "Outer diameter", Q::Length, 1, 150, {}, "Of the outer spring; else mean diameter plus one wire."},
    {K::Spring, "close_wound", "Close-wound end", Q::Count, 0, 0, {"none", "down", "up"}, "Where the close-wound end sits as assembled; it belongs down, on the head."},
    {K::Spring, "wire", "Wire", Q::Count, 0, 0, {"chrome_silicon", "chrome_vanadium", "music", "oil_tempered"}, "For its life by stress; chrome silicon where nothing is said."},
    {K::Seat, "locates_mm", "Locating diameter", Q::Length, 1, 150, {}, "Step inside the spring, or cup round it."},
    {K::Seat, "locates", "Locates the spring", Q::Count, 0, 0, {"inside", "outside"}, "A step inside the spring, or a cup outside it."},
    {K::Seat, "thickness_mm", "Thickness", Q::Length, 0, 20, {}, "Takes this much from the installed height."},
    {K::Seat, "material", "Material", Q::Count, 0, 0, kMetals, ""},
    {K::Seal, "spring_seat", "Spring seat", Q::Count, 0, 0, {"none", "combined"}, "A seal with a hard spring seat of its own: the spring stands on it."},
    {K::Seal, "thickness_mm", "Thickness of its seat", Q::Length, 0, 20, {}, "Of a combined spring seat; takes this much from the installed height."},
    {K::Seal, "titanium_fit", "Fit for titanium stems", Q::Count, 0, 0, kYesNo, "As its maker says."},
    {K::Guide, "material", "Material", Q::Count, 0, 0, {"bronze", "iron", "steel"}, "Titanium stems gall on iron and steel."},
    {K::Guide, "bore_mm", "Bore", Q::Length, 1, 50, {}, ""},
    {K::Shim, "thickness_mm", "Thickness", Q::Length, 0, 20, {}, "Takes this much from the installed height."},
};
// clang-format on

// Of all kinds that wear: how long they last, and what they had behind them before the record began.
// clang-format off
const std::vector<PartFact> kLifeFacts = {
    {K::Spring, "rated_cycles", "Rated life, million cycles", Q::Count, 0, 10000, {}, "Its maker's or the shop's figure; a cycle is two crank turns."},
    {K::Spring, "rated_hours", "Rated life, hours", Q::Count, 0, 100000, {}, "Its maker's or the shop's figure."},
    {K::Spring, "rated_runs", "Rated life, runs", Q::Count, 0, 100000, {}, "Starts to stops; its maker's or the shop's figure."},
    {K::Spring, "run_cycles", "Run before, million cycles", Q::Count, 0, 10000, {}, "Before this record began; what the record knows is added."},
    {K::Spring, "run_hours", "Run before, hours", Q::Count, 0, 100000, {}, "Before this record began."},
    {K::Spring, "run_runs", "Run before, runs", Q::Count, 0, 100000, {}, "Before this record began."},
};
// clang-format on

std::vector<PartFact> all_facts() {
    std::vector<PartFact> out = kOwnFacts;
    for (const K kind : {K::Lifter, K::Pushrod, K::Rocker, K::Valve, K::Retainer, K::Locks, K::Spring})
        for (PartFact fact : kLifeFacts) {
            fact.kind = kind;
            out.push_back(fact);
        }
    return out;
}
const std::vector<PartFact> kFacts = all_facts();

// Fields of the train file that belong to a kind.
bool owned(const PartKindInfo& kind, std::string_view key) {
    return !kind.section.empty() && key.starts_with(kind.section) && key.size() > kind.section.size() &&
           (key[kind.section.size()] == '.' || key[kind.section.size()] == '[');
}

void clear_tolerances(Train& train, const PartKindInfo& kind) {
    std::erase_if(train.tolerances, [&](const auto& entry) { return owned(kind, entry.first); });
}

// Copies what belongs to a kind from one train to another.
void copy_section(const Train& from, Train& to, PartKind kind) {
    switch (kind) {
    case K::Lobe:
        to.lobe = from.lobe;
        break;
    case K::Lifter:
        to.lifter = from.lifter;
        break;
    case K::Pushrod:
        to.pushrod = from.pushrod;
        break;
    case K::Rocker:
        to.rocker = from.rocker;
        break;
    case K::Valve: {
        const auto option = to.valve.elastic; // of the model: stays where the part says nothing of it
        to.valve = from.valve;
        if (!to.valve.elastic)
            to.valve.elastic = option;
        break;
    }
    case K::Retainer:
        to.retainer_mass_kg = from.retainer_mass_kg;
        break;
    case K::Locks:
        to.locks_mass_kg = from.locks_mass_kg;
        to.locks_angle_rad = from.locks_angle_rad;
        break;
    case K::Cap:
        to.cap_mass_kg = from.cap_mass_kg;
        break;
    case K::Spring:
        to.springs = from.springs;
        break;
    default:
        return; // no section
    }
    const PartKindInfo& whole = info(kind);
    clear_tolerances(to, whole);
    for (const auto& [key, tolerance] : from.tolerances)
        if (owned(whole, key))
            to.tolerances[key] = tolerance;
}

void add_section_values(const Part& part, std::vector<PartValue>& out) {
    const PartKindInfo& kind = info(part.kind);
    const auto tolerance = [&](const std::string& key) -> std::optional<Tolerance> {
        const auto at = part.piece.tolerances.find(key);
        return at == part.piece.tolerances.end() ? std::nullopt : std::optional(at->second);
    };
    for (const TrainField& field : train_fields())
        if (owned(kind, field.key) && field.at_const(part.piece)) {
            const std::string key(field.key);
            out.push_back(
                {key, std::string(field.label), field.quantity, *field.at_const(part.piece), tolerance(key)});
        }
    if (part.kind != K::Spring)
        return;
    for (std::size_t i = 0; i < part.piece.springs.size(); ++i)
        for (const SpringField& field : spring_fields())
            if (const double* value = field.at_const(part.piece.springs[i])) {
                const std::string key = fmt::format("springs[{}].{}", i, field.key);
                out.push_back({key, fmt::format("{}: {}", part.piece.springs[i].name, field.label),
                               field.quantity, *value, tolerance(key)});
            }
}

} // namespace

const std::vector<PartKindInfo>& part_kinds() {
    return kPartKindTable;
}
const PartKindInfo& info(PartKind kind) {
    return kPartKindTable[static_cast<std::size_t>(kind)];
}
std::optional<PartKind> find_part_kind(std::string_view key) {
    for (const PartKindInfo& kind : kPartKindTable)
        if (kind.key == key)
            return kind.kind;
    return std::nullopt;
}

const std::vector<PartFact>& part_facts() {
    return kFacts;
}
const PartFact* find_fact(PartKind kind, std::string_view key) {
    for (const PartFact& fact : kFacts)
        if (fact.kind == kind && fact.key == key)
            return &fact;
    return nullptr;
}

std::optional<double> Facts::number(std::string_view key) const {
    const auto at = numbers.find(std::string(key));
    return at == numbers.end() ? std::nullopt : std::optional(at->second);
}
std::string Facts::word(std::string_view key) const {
    const auto at = words.find(std::string(key));
    return at == words.end() ? std::string() : at->second;
}

std::vector<PartValue> values_of(const Part& part) {
    std::vector<PartValue> out;
    add_section_values(part, out);
    for (const PartFact& fact : kFacts)
        if (fact.kind == part.kind)
            if (const auto value = part.facts.number(fact.key))
                out.push_back({std::string(fact.key), std::string(fact.label), fact.quantity, *value, {}});
    return out;
}

bool takes(Layout layout, PartKind kind) {
    switch (kind) {
    case K::Lifter:
        return layout != Layout::Rocker;
    case K::Pushrod:
        return layout == Layout::Pushrod;
    case K::Rocker:
    case K::Stand:
        return layout != Layout::Bucket;
    default:
        return true;
    }
}

std::optional<Part> part_from(const Train& train, PartKind kind) {
    const PartKindInfo& whole = info(kind);
    const bool there = kind == K::Lifter    ? train.lifter.has_value()
                       : kind == K::Pushrod ? train.pushrod.has_value()
                       : kind == K::Rocker  ? train.rocker.has_value()
                       : kind == K::Cap     ? train.cap_mass_kg > 0
                                            : !whole.section.empty();
    if (!there || !takes(train.layout, kind))
        return std::nullopt;
    Part out;
    out.kind = kind;
    out.piece.layout = train.layout;
    copy_section(train, out.piece, kind);
    out.name = std::string(whole.label);
    if (kind == K::Lobe && !train.lobe.name.empty())
        out.name = train.lobe.name;
    return out;
}

void put_into(Train& train, const Part& part) {
    copy_section(part.piece, train, part.kind);
}

std::vector<InputProblem> check_part(const Part& part) {
    std::vector<InputProblem> out;
    const std::string source = part.name;
    if (part.name.empty())
        out.push_back({source, "name", "is empty", "give the part a name"});
    if (part.cost && !(*part.cost >= 0))
        out.push_back({source, "cost", "is below 0", "must be at least 0"});
    const PartKindInfo& kind = info(part.kind);
    for (const TrainField& field : train_fields())
        if (owned(kind, field.key) && field.at_const(part.piece))
            if (const std::string why = field.complaint(field.file_value(part.piece)); !why.empty())
                out.push_back({source, std::string(field.key),
                               fmt::format("is {:g}", field.file_value(part.piece)), why});
    for (std::size_t i = 0; i < part.piece.springs.size(); ++i)
        for (const SpringField& field : spring_fields())
            if (const Spring& spring = part.piece.springs[i]; field.at_const(spring))
                if (const std::string why = field.complaint(field.file_value(spring)); !why.empty())
                    out.push_back({source, fmt::format("springs[{}].{}", i, field.key),
                                   fmt::format("is {:g}", field.file_value(spring)), why});
    for (const auto& [key, value] : part.facts.numbers) {
        const PartFact* fact = find_fact(part.kind, key);
        if (!fact || !fact->choices.empty()) {
            out.push_back({source, key, "is no number of this kind of part", "take it out"});
            continue;
        }
        const double given = value / unit_of(fact->quantity).to_si;
        if (!(given >= fact->minimum && given <= fact->maximum))
            out.push_back({source, key, fmt::format("is {:g}", given),
                           fmt::format("must be {:g} to {:g}", fact->minimum, fact->maximum)});
    }
    for (const auto& [key, word] : part.facts.words) {
        const PartFact* fact = find_fact(part.kind, key);
        const bool known =
            fact && std::find(fact->choices.begin(), fact->choices.end(), word) != fact->choices.end();
        if (!known)
            out.push_back({source, key, fmt::format("is \"{}\"", word),
                           fact ? fmt::format("must be one of: {}", fmt::join(fact->choices, ", "))
                                : "is no word of this kind of part: take it out"});
    }
    return out;
}

} // namespace bathmos
