// What would help: changes that can really be made, from the shelf and from usual steps, each run through the
// full dynamic model; and combinations that together reach the target, found by search (physics.md 10).
#pragma once

#include "core/motion/quick_limit.h"
#include "core/project/project.h"
#include "core/train/train_figures.h"

#include <functional>

namespace bathmos {

/// One change. `location` says what it takes up: two changes of one location exclude each other.
struct TrainChange {
    std::string label;
    std::string location;
    Id part = 0; ///< of the shelf; 0 for a usual step
    std::optional<double> cost;
    double hours = 0;
    std::string school; ///< the trade that practitioners differ about; "" where they do not
    std::function<Assembly(const Assembly&)> apply;
};

/// Every part of the shelf that fits in the place of another (lobes, valves and what is made for them not
/// from builds of the other side), and the usual steps that the train has a place for: a shim more and less,
/// more and less spring, grams off the valve side, a stiffer link, ratio, lash, pressure, duration.
std::vector<TrainChange> possible_changes(const Project& project, const Assembly& assembly, ValveSide side);

/// Whether a change moves the limit by force and the onset in opposite directions, each by more than they are
/// known to.
bool opposite_moves(double contact_loss_gain_rpm, double onset_gain_rpm);

struct ChangeOutcome {
    std::vector<std::size_t> changes; ///< indices into the list asked for; one or more
    std::string label;
    std::string trouble; ///< why it could not be computed; all else is then empty
    std::optional<double> limit_rpm;
    std::string limit_metric;
    /// The limit by force and the onset that a rig could see, and what each gains; empty where either is not
    /// in the range.
    std::optional<double> contact_loss_rpm, onset_rpm, contact_loss_gain_rpm, onset_gain_rpm;
    /// Whether the change moves them in opposite directions, each by more than the limit is known to.
    bool opposed() const;
    double gain_rpm = 0; ///< at least, where the limit is beyond the range
    bool beyond_range = false;
    std::optional<double> low_rpm, high_rpm; ///< 10 and 90 % of the limit over the tolerances
    double bind_margin_m = 0, bind_before_m = 0;
    std::optional<double> seating_m_per_s, loft_m, cam_N; ///< at the speed asked for
    std::optional<double> stress_Pa;                      ///< highest of the springs, open
    std::optional<double> piston_m; ///< least gap of valve and piston with the motion at that speed
    std::vector<MeasuredText> near; ///< metrics that come near their limits, in words
    std::vector<Finding> raised;    ///< findings that the present train does not have
    std::optional<double> cost;
    double hours = 0;
    std::string school;
    /// Cost for each 100 rev/min gained; empty without a cost, or with a gain of under 5 rev/min.
    std::optional<double> cost_per_100_rpm() const;
    /// Whether the limit is at the target or above; never for what could not be computed.
    bool reaches(double target_rpm) const;
    /// Stops count 10, warnings 3, near metrics 1.
    double risk() const;
};

struct ChangeStudyQuery {
    SpeedRange range{4000, 9600, 200};
    LimitsInForce limits{};
    double limit_rpm = 0;                                  ///< of the train as it is
    std::optional<double> contact_loss_rpm{}, onset_rpm{}; ///< of the train as it is
    std::vector<SpeedMetrics> measured{}; ///< a rig run's rows, beside which `onset_rpm` was found
    double target_rpm = 0;
    double at_rpm = 0; ///< speed for seating, loft and forces
    /// Pressure on the head that the trains do not say, gauge: see under_pressure().
    std::optional<double> head_Pa{};
    const Engine* engine = nullptr;
    const Build* build = nullptr;       ///< for clearances
    std::size_t uncertainty_trains = 0; ///< 0: without uncertainty
    std::size_t most_combinations = 30;
    ProgressSink progress{};
    std::stop_token stop{};
    std::function<void(const ChangeOutcome&)> found{}; ///< each as it is done
};

/// Applies and computes some changes together. Never throws but Stopped: what cannot be is told as trouble.
ChangeOutcome try_changes(const Assembly& assembly, const std::vector<TrainChange>& all,
                          const std::vector<std::size_t>& chosen, const ChangeStudyQuery& query);
/// Each change alone, largest gain first. Throws Stopped.
std::vector<ChangeOutcome> study_single_changes(const Assembly& assembly, const std::vector<TrainChange>& all,
                                                const ChangeStudyQuery& query);
/// Pairs and threes of different locations that together reach the target: tried in the order of what their
/// single gains add up to, at most `most_combinations` of them, and nothing that holds a smaller one which
/// reaches it already. Cheapest in hours first. Throws Stopped.
std::vector<ChangeOutcome> combinations_that_reach(const Assembly& assembly,
                                                   const std::vector<TrainChange>& all,
                                                   const std::vector<ChangeOutcome>& singles,
                                                   const ChangeStudyQuery& query);

/// Everything that was studied of one train.
struct ChangeStudy {
    std::vector<TrainChange> changes;
    std::vector<ChangeOutcome> singles, combinations;
};

enum class ChangeOrder { Gain, CostPerSpeed, Risk };
/// Best first; what could not be computed stands last.
void sort_outcomes(std::vector<ChangeOutcome>& outcomes, ChangeOrder order);

} // namespace bathmos
