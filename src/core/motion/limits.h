// Limits on metrics, and the speed at which each is crossed (physics.md 7, Limit speed).
#pragma once

#include "core/motion/metrics.h"

#include <map>
#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <vector>

namespace bathmos {

/// How many times as large a metric is at a speed as the model has it.
struct SpeedFactor {
    double speed_rpm, factor;
};

/// A metric with its allowed range, in the units of info(metric). `key` names it in files.
struct Limit {
    Metric metric;
    std::string_view key;
    double above;                  ///< crossed when the value is above this
    std::optional<double> below{}; ///< ... or below this
    bool from_low_speed = false;   ///< judged as change from the value at kLowSpeed_rpm
    /// Rising speeds, linear between them, the ends held: the model's value is judged times this. Empty: as
    /// it is. Belongs to one train and its runs (calibration/seating_seen.h), to no file.
    std::vector<SpeedFactor> seen{};
};

inline constexpr double kLowSpeed_rpm = 1500;

/// The limits of physics.md 7; a plain list that the user may change.
std::vector<Limit> usual_limits();

/// The check lift of shifts and duration unless a set says another, m at the valve (0.050 in).
inline constexpr double kUsualCheckLift_m = 1.27e-3;

/// Limits as results are judged by them: the list, by name, with the lift at which duration is checked. Every
/// result names its set.
struct LimitsInForce {
    std::string name = "usual";
    std::vector<Limit> list = usual_limits();
    double check_lift_m = kUsualCheckLift_m;

    LimitsInForce() = default;
    LimitsInForce(std::vector<Limit> limits) : name("as given"), list(std::move(limits)) {}
    const Limit* find(std::string_view key) const; ///< null where the set leaves it out
    const Limit* find(Metric metric) const;        ///< the same by metric
    auto begin() const { return list.begin(); }
    auto end() const { return list.end(); }
};

struct LimitSpeed;
/// Crank speed, rev/min, at which contact loss alone crosses its limit: the limit by force, which no position
/// sensor sees (physics.md 7). Empty where it does not, or the set leaves contact loss out.
std::optional<double> contact_loss_rpm(const LimitSpeed& limit);

struct SpeedMetrics {
    double speed_rpm;
    Metrics metrics;
};

/// How far a metric is beyond its limit, in its unit; positive = crossed, empty = no value there.
/// `low_speed_value` is the metric at kLowSpeed_rpm in its unit.
std::optional<double> excess(const Limit& limit, const SpeedMetrics& row, double low_speed_value);

struct Crossing {
    Limit limit;
    std::optional<double> speed_rpm;
};

/// Swept speeds above the limit at which nothing is over a limit any more: what crosses it there, as a surge,
/// goes by.
struct FreeAgain {
    double from_rpm, to_rpm;
};

struct LimitSpeed {
    std::vector<Crossing> crossings; ///< of every limit
    std::optional<double> speed_rpm; ///< the lowest of them
    std::optional<Limit> first;      ///< which one that is
    /// The lowest such stretch that is as long as a crossing must stay; empty where there is none, or while
    /// speeds are still to come in.
    std::optional<FreeAgain> free_again{};
};

struct LimitOptions {
    double stays_rpm = 150;   ///< a crossing must hold at every swept speed this far above
    double bisect_to_rpm = 4; ///< width to which brackets are halved; then linear in the metric
    std::size_t at_once = 16; ///< speeds that can be computed together
    /// Duration change at kLowSpeed_rpm to judge by, deg crank, until that speed is put in; empty: wait for
    /// it.
    std::optional<double> assumed_low_speed_deg{};
};

/// Crossings from swept rows (rising speeds), linear between rows.
LimitSpeed limit_speed(const std::vector<SpeedMetrics>& rows, const std::vector<Limit>& limits,
                       double low_speed_duration_change_deg, const LimitOptions& options = {});

/// Finds the crossings of a sweep by bisection while its speeds come in, in any order. Asks for several
/// halvings of a bracket ahead, along the way to where a straight line puts the crossing, and beside it where
/// there is room: a wrong guess costs a speed, never the result, which is that of plain bisection.
class LimitSearch {
  public:
    /// `swept_rpm` rising: the speeds that will be put in.
    LimitSearch(std::vector<double> swept_rpm, std::vector<Limit> limits, LimitOptions options = {});

    /// Metrics at kLowSpeed_rpm are put in like any other and set what duration is judged from.
    void put(double speed_rpm, const Metrics& metrics);
    /// Speeds worth computing next, none twice. Brackets count as soon as every swept speed up to them is in.
    std::vector<double> next();
    /// Speeds that will be asked for if the crossing lies near this speed: to be run with the swept ones.
    std::vector<double> ahead(double rpm);
    /// All swept speeds are in.
    bool swept() const;
    /// By all that is in so far: bisected as far as that goes, linear from there.
    LimitSpeed result() const;
    /// Whether the limit speed would be another one (or come from another limit) if the duration change at
    /// kLowSpeed_rpm were off by this much, deg crank, either way.
    bool hangs_on_low_speed(double by_deg) const;
    double low_speed_duration_change_deg() const { return low_speed_; }
    std::vector<SpeedMetrics> rows() const; ///< swept speeds that are in, rising

  private:
    struct Bracket;
    std::optional<Bracket> bracket_of(const Limit& limit, double low_speed) const;
    void walk(Bracket& bracket, const Limit& limit, double low_speed) const;
    LimitSpeed result_if(double low_speed) const;
    std::optional<FreeAgain> free_above(double limit_rpm, double low_speed) const;

    std::vector<double> swept_;
    std::vector<Limit> limits_;
    LimitOptions options_;
    std::map<double, Metrics> known_;
    std::set<double> asked_; ///< swept ones, too
    double low_speed_ = 0;
};

} // namespace bathmos
