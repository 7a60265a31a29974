#include "core/verdict/later_state.h"

#include "core/fit/recheck.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr double kStays_rpm = 100;  // a break that close is where it was
constexpr double kStaysTells = 0.5; // a change may have been too small to move it
constexpr double kSeen = 0.95, kNotSeen = 0.03;
constexpr double kUnmoved = 0.15; // a change of the train moves what is wrong with another part of it
constexpr std::size_t kTold = 3;  // differences named in a sentence

std::optional<TrainGroup> group_of(PartKind kind) {
    switch (kind) {
    case PartKind::Spring:
    case PartKind::Shim:
    case PartKind::Seat:
        return TrainGroup::Spring;
    case PartKind::Pushrod:
    case PartKind::Rocker:
    case PartKind::Stand:
        return TrainGroup::Link;
    case PartKind::Valve:
    case PartKind::Retainer:
    case PartKind::Locks:
    case PartKind::Cap:
        return TrainGroup::Mass;
    case PartKind::Lobe:
        return TrainGroup::Lobe;
    case PartKind::Lifter:
        return TrainGroup::Follower;
    default:
        return std::nullopt;
    }
}

std::optional<TrainGroup> group_of(const Difference& difference) {
    if (const auto kind = kind_of(difference))
        return group_of(*kind);
    if (difference.key == "installed_height_mm")
        return TrainGroup::Spring;
    if (difference.key == "lash_mm")
        return TrainGroup::Lobe;
    return std::nullopt;
}

// Names, options of the model and numbers that were fitted to a run: the engine is as it was.
bool is_of_the_model(const Difference& difference, const Train& train) {
    const auto known = train.tolerances.find(difference.key);
    return difference.key == "name" || difference.key.find("elastic") != std::string::npos ||
           (known != train.tolerances.end() && known->second.source == Source::Fitted);
}

// How often a change of a group moves a break that a cause makes; by what each works on.
double moved_by(TrainGroup group, Cause cause) {
    using enum Cause;
    struct Row {
        TrainGroup group;
        Cause cause;
        double often;
    };
    static constexpr Row kRows[] = {
        {TrainGroup::Spring, SpringWeak, 0.90},
        {TrainGroup::Spring, SpringNotAsBelieved, 0.90},
        {TrainGroup::Spring, Surge, 0.80},
        {TrainGroup::Spring, CoilBind, 0.70},
        {TrainGroup::Spring, BoostOnHead, 0.80},
        {TrainGroup::Spring, TrainFlexible, 0.45},
        {TrainGroup::Spring, HarshLobe, 0.60},
        {TrainGroup::Spring, HardLanding, 0.50},
        {TrainGroup::Link, TrainFlexible, 0.90},
        {TrainGroup::Link, HarshLobe, 0.30},
        {TrainGroup::Link, SpringWeak, 0.25},
        {TrainGroup::Link, HardLanding, 0.40},
        {TrainGroup::Link, Surge, 0.30},
        {TrainGroup::Mass, SpringWeak, 0.70},
        {TrainGroup::Mass, SpringNotAsBelieved, 0.50},
        {TrainGroup::Mass, HarshLobe, 0.50},
        {TrainGroup::Mass, BoostOnHead, 0.50},
        {TrainGroup::Mass, TrainFlexible, 0.40},
        {TrainGroup::Lobe, HarshLobe, 0.90},
        {TrainGroup::Lobe, HardLanding, 0.85},
        {TrainGroup::Lobe, SpringWeak, 0.50},
        {TrainGroup::Lobe, Surge, 0.50},
        {TrainGroup::Lobe, TrainFlexible, 0.50},
        {TrainGroup::Lobe, BoostOnHead, 0.40},
        {TrainGroup::Follower, PumpUp, 0.95},
    };
    for (const Row& row : kRows)
        if (row.group == group && row.cause == cause)
            return row.often;
    return info(cause).valve_train ? kUnmoved : likelihood(Symptom::MovesWithTrain, cause);
}

} // namespace

LaterState later_state(const Assembly& here, const Assembly& later) {
    LaterState out;
    std::size_t told_of = 0;
    for (const Difference& one : differences(here, later)) {
        const auto group = group_of(one);
        const bool around = one.key.starts_with("back_pressure");
        if (is_of_the_model(one, later.train) || (!group && !around))
            continue;
        if (group)
            out.groups.insert(*group);
        out.around = out.around || around;
        if (++told_of <= kTold)
            out.changed += MeasuredText(out.changed.empty() ? "" : ", ") + told(one);
    }
    return out;
}

std::optional<Evidence> said_by(const LaterState& later, double break_rpm) {
    const bool goes = runs_past(later.run, break_rpm);
    const bool stays =
        later.run.first_break && std::abs(later.run.first_break->speed_rpm - break_rpm) < kStays_rpm;
    if ((!goes && !stays) || later.groups.empty() == !later.around)
        return std::nullopt;
    MeasuredText text(fmt::format("the break {} with {}", goes ? "goes" : "stays", later.label));
    if (!later.changed.empty())
        text += MeasuredText(" (") + later.changed + MeasuredText(")");
    if (later.groups.empty()) // what was changed beside the train
        return Evidence{Symptom::StaysWithBoost, stays ? kSeen : kNotSeen, text, "dyno/states"};
    Evidence out{Symptom::MovesWithTrain, goes ? kSeen : kNotSeen, text, "dyno/states",
                 goes ? 1 : kStaysTells};
    for (std::size_t i = 0; i < kCauses; ++i) {
        double most = 0;
        for (const TrainGroup group : later.groups)
            most = std::max(most, moved_by(group, static_cast<Cause>(i)));
        out.under.push_back(most);
    }
    return out;
}

} // namespace bathmos
