// A campaign planned: what is run in which order and when, what is left out and why, and where it stands
// after the runs that were made (docs/plan.md).
#pragma once

#include "core/plan/belief.h"
#include "core/plan/run_order.h"
#include "core/units/told.h"

namespace bathmos::plan {

/// What is expected of a run before it is made.
struct Expected {
    double limit_rpm = 0, low_rpm = 0, high_rpm = 0; ///< middle, 10 and 90 %
    bool in_range = true;                            ///< a limit was found within the range
    double chance_best = 0;                          ///< that no combination has a higher one
};

struct PlannedRun {
    Combination levels;
    bool baseline = false;
    double start_h = 0; ///< of the booked hours, when its change begins
    double hours = 0;   ///< change and run
    double change_h = 0;
    std::size_t day = 0; ///< the day that its run falls into
    std::string why;
    Expected expected;
};

struct LeftOut {
    Combination levels;
    std::string why;
    bool for_want_of_hours = false;
};

/// A run that was made beside what had been expected of it.
struct Compared {
    MeasuredRun run;
    Expected expected; ///< before it was made
    double off_rpm = 0, off_sigma = 0;
};

struct Plan {
    std::vector<PlannedRun> runs; ///< still to be made, in order
    std::vector<LeftOut> left_out;
    std::vector<Compared> made;
    double hours = 0; ///< to the end of the last run
    double booked_h = 0;
    bool exact = true;  ///< no order of these runs is less changing and running; nights aside
    double bound_h = 0; ///< and none less than that
    Combination best;   ///< by what is believed now
    Expected best_expected;
    double chance_better = 0; ///< that one that was not run lies over kMargin_rpm above the best that was
    bool settled = false;     ///< and whether that is little enough to stop
    std::vector<Combination> gone; ///< what falls out where half a day is lost
    std::vector<Expected>
        candidates;         ///< of all candidates, in their order; zeros for those that cannot be run
    std::vector<Told> told; ///< "baseline_moved", "off_the_model", "not_in_range", "hours_short"
};

struct PlanQuery {
    ForecastQuery forecast{};
    ProgressSink progress{};
    std::stop_token stop{};
};

inline constexpr double kMargin_rpm = 100; ///< what two combinations may differ by and be called alike
inline constexpr double kSettled = 0.08;   ///< chance of more than that left with what was not run
inline constexpr double kHalfDay_h = 4;

/// From forecasts of all candidates (in their order) and the runs that were made: those that lie two
/// deviations of the difference below the best are left out, and those that are less likely than one in a
/// hundred to be the best; the rest in the order of least rework, the baseline first, last and between,
/// within the booked hours; no run is begun that does not end on its day. Throws InputError, Stopped.
Plan plan_runs(const Campaign& campaign, const std::vector<Candidate>& candidates,
               const std::vector<Forecast>& forecasts, const std::stop_token& stop = {});

/// Forecast and plan in one.
Plan plan_campaign(const Campaign& campaign, const std::vector<Candidate>& candidates,
                   const PlanQuery& query = {});

} // namespace bathmos::plan
