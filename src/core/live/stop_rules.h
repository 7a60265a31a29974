// When a rig is asked to stop: each rule with its number and why (docs/rig-stream.md). A request, no safety
// device: guards and the rig's own interlock come first.
#pragma once

#include "core/motion/metrics.h"
#include "core/units/measured_text.h"

#include <deque>
#include <optional>
#include <string>
#include <vector>

namespace bathmos::live {

enum class StopRule { Bounce, Loft, Spread, Seating, Creep, Sensor, Temperature };

struct StopRuleInfo {
    StopRule rule;
    std::string_view key, label, why;
    Quantity quantity;
    double usual; ///< SI
};
/// All rules, in the order of StopRule.
const std::vector<StopRuleInfo>& stop_rules();
/// Its words and usual number.
const StopRuleInfo& info(StopRule rule);
/// By its key in files; empty where there is none.
std::optional<StopRule> find_stop_rule(std::string_view key);

/// A rule in force; `above` SI, Sensor: share of cycles that are bad.
struct StopLimit {
    StopRule rule = StopRule::Bounce;
    double above = 0;
    bool on = true;
    bool operator==(const StopLimit&) const = default;
};
/// All rules with their usual numbers, on.
std::vector<StopLimit> usual_stop_limits();

/// A cycle as the rules look at it.
struct SeenCycle {
    double speed_rpm = 0, time_s = 0;
    bool good = true;             ///< a whole cycle without a gap, as strong as the others
    Metrics metrics;              ///< empty of a bad one
    std::vector<double> lift_m{}; ///< kGridPoints, aligned; empty of a bad one
};

struct StopReason {
    StopRule rule;
    double value = 0, limit = 0; ///< SI
    MeasuredText told;           ///< "bounce 0.42 mm over 0.30 mm at 7400 rev/min"
};

/// Looks at cycles as they come. Spread and creep are those of one speed: another begins anew.
class StopWatch {
  public:
    explicit StopWatch(std::vector<StopLimit> limits) : limits_(std::move(limits)) {}
    /// The first rule that a cycle breaks. Spikes do not stop a rig: bounce, loft and seating count once
    /// three of the last five cycles are beyond.
    std::optional<StopReason> look(const SeenCycle& cycle);
    /// The same of the oil, degrees C.
    std::optional<StopReason> look_at_oil(double oil_C) const;

  private:
    const StopLimit* on(StopRule rule) const;
    std::optional<StopReason> beyond(StopRule rule, Metric metric) const;
    std::optional<StopReason> spread() const;
    std::optional<StopReason> creep() const;
    std::optional<StopReason> sensor() const;
    void keep(const SeenCycle& cycle);

    std::vector<StopLimit> limits_;
    std::deque<SeenCycle> recent_; ///< the last good ones, at whatever speed
    std::deque<SeenCycle> last_;   ///< the last good ones of this speed
    std::deque<bool> good_;
    std::vector<double> held_s_, held_m_; ///< largest lift since the speed was reached, thinned
    double held_rpm_ = 0;
    std::size_t seen_ = 0, stride_ = 1;
};

} // namespace bathmos::live
