// A train over a range of speeds: motions, metrics, limit speed, onset and rigid screen together.
#pragma once

#include "core/motion/limits.h"
#include "core/motion/motion.h"
#include "core/motion/onset.h"
#include "core/train/train_figures.h"

#include <memory>
#include <optional>
#include <vector>

namespace bathmos {

struct SpeedRange {
    double first_rpm = 3000, last_rpm = 9000, step_rpm = 100;
    bool operator==(const SpeedRange&) const = default;
    /// All speeds of the range, both ends, rising.
    std::vector<double> speeds_rpm() const;
};

/// The same speeds in the order to run them: ends, middle, quarters and eighths, so that a picture stands
/// early; then from the fastest down, as fast speeds take the most cycles and hold the answer.
std::vector<double> coarse_then_down(std::vector<double> rising);

struct SweepSummary {
    LimitSpeed limit;
    OnsetResult onset;
    std::optional<Separation> separation;
    double low_speed_duration_change_deg = 0;
    std::string limits_name;                 ///< of the set that it was judged by
    double check_lift_m = kUsualCheckLift_m; ///< of that set
};

struct Sweep {
    std::vector<std::shared_ptr<const Motion>> motions; ///< rising speeds
    SweepSummary summary;
};

/// What the caller hears while a sweep runs. Calls come one at a time, from worker threads.
struct SweepWatch {
    std::function<void(std::shared_ptr<const Motion>)>
        motion{}; ///< each speed as it is done, see coarse_then_down
    ProgressSink progress{};
    std::stop_token stop{};
    /// Once all speeds are done, with crossings linear between them; the refined summary is what sweep()
    /// returns.
    std::function<void(const SweepSummary&)> estimate{};
};

/// The share of the kinematic lift under which a train does not open its valve: no limit can be told then.
inline constexpr double kOpensShare = 0.5;
/// Throws InputError where the highest lift that was computed, m, is under kOpensShare of the kinematic one,
/// naming the softest and the heaviest part. What a result is judged by must have opened.
void require_opens(const Train& train, const RigidMotion& rigid, double highest_m);

/// Sweeps a valid train. Throws Stopped, or InputError where the numbers run away, a part is too stiff to
/// follow, or the valve does not open.
Sweep sweep(const Train& train, const SpeedRange& range, const LimitsInForce& limits = {},
            const SweepWatch& watch = {});

/// The rows of a sweep, for limits and tables.
std::vector<SpeedMetrics> rows_of(const std::vector<std::shared_ptr<const Motion>>& motions);

/// One reported cycle at one speed.
Motion simulate_one(const Train& train, double speed_rpm, std::stop_token stop = {});

} // namespace bathmos
