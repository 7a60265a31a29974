#include "core/live/stop_rules.h"

#include "core/math/robust.h"
#include "core/rig/hold_creep.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::live {

namespace {

constexpr std::size_t kLast = 8, kSameOf = 5, kSame = 3, kSensorOf = 50, kLeastSensor = 20;
constexpr std::size_t kMostHeld = 4000; // points of a hold: every second one is left out beyond
constexpr double kHeldSpeed = 0.01, kLeastHold_s = 3;

// clang-format off
const std::vector<StopRuleInfo> kRules = {
    {StopRule::Bounce, "bounce", "Bounce", "a seat and a head that are hammered break", Quantity::Length, 0.5e-3},
    {StopRule::Loft, "loft", "Loft", "a valve that flies meets piston and spring at full stroke", Quantity::Length, 1.0e-3},
    {StopRule::Spread, "spread", "Cycle spread", "what no longer repeats may be anything next", Quantity::Length, 0.4e-3},
    {StopRule::Seating, "seating", "Seating speed", "heads and locks are pulled off by hard landings", Quantity::Velocity, 3.0},
    {StopRule::Creep, "creep", "Creep of a hold", "a follower that pumps up holds the valve open; a part that goes, goes on", Quantity::Length, 0.1e-3},
    {StopRule::Sensor, "sensor", "Bad cycles", "a sensor that lies tells of nothing", Quantity::Count, 0.2},
    {StopRule::Temperature, "temperature", "Oil, degrees C", "oil that is too hot carries no load", Quantity::Count, 130},
};
// clang-format on

StopReason reason(StopRule rule, double value, double limit, double speed_rpm) {
    const StopRuleInfo& of = info(rule);
    const std::string at = speed_rpm > 0 ? fmt::format(" at {:.0f} rev/min", speed_rpm) : "";
    const MeasuredText numbers =
        of.quantity == Quantity::Count
            ? MeasuredText(fmt::format("{:.3g} over {:.3g}", value, limit))
            : MeasuredText("{} over {}", {{of.quantity, value}, {of.quantity, limit}});
    return {rule, value, limit, MeasuredText(std::string(of.label) + " ") + numbers + MeasuredText(at)};
}

} // namespace

const std::vector<StopRuleInfo>& stop_rules() {
    return kRules;
}

const StopRuleInfo& info(StopRule rule) {
    return kRules[static_cast<std::size_t>(rule)];
}

std::optional<StopRule> find_stop_rule(std::string_view key) {
    const auto at = std::ranges::find(kRules, key, &StopRuleInfo::key);
    return at == kRules.end() ? std::nullopt : std::optional(at->rule);
}

std::vector<StopLimit> usual_stop_limits() {
    std::vector<StopLimit> out;
    for (const StopRuleInfo& rule : kRules)
        out.push_back({rule.rule, rule.usual, true});
    return out;
}

const StopLimit* StopWatch::on(StopRule rule) const {
    const auto at =
        std::ranges::find_if(limits_, [&](const StopLimit& one) { return one.rule == rule && one.on; });
    return at == limits_.end() ? nullptr : &*at;
}

// Spikes do not stop a rig: three of the last five cycles do.
std::optional<StopReason> StopWatch::beyond(StopRule rule, Metric metric) const {
    const StopLimit* limit = on(rule);
    if (!limit)
        return std::nullopt;
    std::vector<double> over;
    for (const SeenCycle& cycle : recent_)
        if (const auto& value = cycle.metrics[metric]; value && *value > limit->above)
            over.push_back(*value);
    if (over.size() < kSame)
        return std::nullopt;
    return reason(rule, median(over), limit->above, recent_.back().speed_rpm);
}

std::optional<StopReason> StopWatch::spread() const {
    const StopLimit* limit = on(StopRule::Spread);
    if (!limit || last_.size() < kLast)
        return std::nullopt;
    double most = 0;
    std::vector<double> here(last_.size());
    for (std::size_t i = 0; i < last_.front().lift_m.size(); ++i) {
        for (std::size_t k = 0; k < last_.size(); ++k)
            here[k] = last_[k].lift_m[i];
        most = std::max(most, mean_deviation(here).deviation);
    }
    if (most <= limit->above)
        return std::nullopt;
    return reason(StopRule::Spread, most, limit->above, last_.back().speed_rpm);
}

std::optional<StopReason> StopWatch::creep() const {
    const StopLimit* limit = on(StopRule::Creep);
    if (!limit || held_s_.size() < rig::kLeastHeldCycles || held_s_.back() - held_s_.front() < kLeastHold_s)
        return std::nullopt;
    const rig::Creep creep = rig::creep_of(held_s_, held_m_);
    if (!creep.creeps || std::abs(creep.over_hold) <= limit->above)
        return std::nullopt;
    return reason(StopRule::Creep, std::abs(creep.over_hold), limit->above, last_.back().speed_rpm);
}

std::optional<StopReason> StopWatch::sensor() const {
    const StopLimit* limit = on(StopRule::Sensor);
    if (!limit || good_.size() < kLeastSensor)
        return std::nullopt;
    const double bad =
        static_cast<double>(std::ranges::count(good_, false)) / static_cast<double>(good_.size());
    if (bad <= limit->above)
        return std::nullopt;
    return reason(StopRule::Sensor, bad, limit->above, 0);
}

void StopWatch::keep(const SeenCycle& cycle) {
    recent_.push_back(cycle);
    if (recent_.size() > kSameOf)
        recent_.pop_front();
    if (std::abs(cycle.speed_rpm - held_rpm_) > kHeldSpeed * held_rpm_) {
        held_rpm_ = cycle.speed_rpm;
        held_s_.clear();
        held_m_.clear();
        last_.clear();
        seen_ = 0;
        stride_ = 1;
    }
    last_.push_back(cycle);
    if (last_.size() > kLast)
        last_.pop_front();
    if (seen_++ % stride_ == 0) {
        held_s_.push_back(cycle.time_s);
        held_m_.push_back(*std::ranges::max_element(cycle.lift_m));
    }
    if (held_s_.size() > kMostHeld) {
        for (std::vector<double>* one : {&held_s_, &held_m_}) {
            for (std::size_t i = 0; 2 * i < one->size(); ++i)
                (*one)[i] = (*one)[2 * i];
            one->resize((one->size() + 1) / 2);
        }
        stride_ *= 2;
    }
}

std::optional<StopReason> StopWatch::look(const SeenCycle& cycle) {
    good_.push_back(cycle.good);
    if (good_.size() > kSensorOf)
        good_.pop_front();
    if (const auto lies = sensor())
        return lies;
    if (!cycle.good || cycle.lift_m.empty())
        return std::nullopt;
    keep(cycle);
    for (const auto& [rule, metric] : {std::pair{StopRule::Loft, Metric::Loft},
                                       {StopRule::Bounce, Metric::Bounce},
                                       {StopRule::Seating, Metric::Seating}})
        if (auto found = beyond(rule, metric))
            return found;
    if (auto found = spread())
        return found;
    return creep();
}

std::optional<StopReason> StopWatch::look_at_oil(double oil_C) const {
    const StopLimit* limit = on(StopRule::Temperature);
    return limit && oil_C > limit->above
               ? std::optional(reason(StopRule::Temperature, oil_C, limit->above, 0))
               : std::nullopt;
}

} // namespace bathmos::live
