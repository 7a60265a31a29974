#include "core/motion/quick_limit.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace bathmos {

namespace {

constexpr double kBelow_rpm = 600; // how far below near_rpm the estimate begins
constexpr std::size_t kQuickSpeeds = 8;
constexpr double kAssumedWithin_deg = 1.5; // of duration change at low speed, between trains much alike
// Of hundreds of trains:
constexpr double kRefinedTo_rpm = 100;  // linear between swept speeds: far below what tolerances do
constexpr std::size_t kMostCycles = 12; // of motion that does not settle; the whole sweep's 24 change little
constexpr double kRound_rpm = 350;      // eight speeds, 100 apart: one vector

// A run of equally spaced swept speeds that can be grown at both ends.
struct Window {
    std::vector<double> speeds; ///< all that there are
    std::size_t first, last;    ///< in use, last included

    std::vector<double> used() const {
        return {speeds.begin() + static_cast<std::ptrdiff_t>(first),
                speeds.begin() + static_cast<std::ptrdiff_t>(last) + 1};
    }
    bool down(std::size_t by) {
        const bool can = first > 0;
        first -= std::min(first, by);
        return can;
    }
    bool up(std::size_t by) {
        const bool can = last + 1 < speeds.size();
        last = std::min(last + by, speeds.size() - 1);
        return can;
    }
};

std::size_t index_near(const std::vector<double>& speeds, double rpm) {
    const auto at = std::lower_bound(speeds.begin(), speeds.end(), rpm);
    return std::min(static_cast<std::size_t>(at - speeds.begin()), speeds.size() - 1);
}

double middle_rpm(const SpeedRange& range) {
    return 0.5 * (range.first_rpm + range.last_rpm);
}

// Whether a crossing lies so high in the window that it is not seen to stay.
bool unsure(const Window& window, double limit_rpm) {
    return window.last + 1 < window.speeds.size() &&
           window.speeds[window.last + 1] <= limit_rpm + LimitOptions{}.stays_rpm;
}

// Runs what is not known yet, grows the window until the crossing lies inside it, and gives it.
template <class Run>
LimitSpeed grow(Window window, std::size_t by, Run run) {
    for (;;) {
        const LimitSpeed limit = run(window.used());
        bool moved = false;
        if (!limit.speed_rpm || unsure(window, *limit.speed_rpm))
            moved = window.up(by);
        if (limit.speed_rpm && *limit.speed_rpm <= window.used().front())
            moved = window.down(by) || moved;
        if (!moved)
            return limit;
    }
}

} // namespace

LimitSpeed estimate_limit(const MotionModel& model, const QuickLimitQuery& query,
                          const std::stop_token& stop) {
    const std::vector<double> all = query.range.speeds_rpm();
    std::vector<double> coarse;
    for (std::size_t i = 0; i < all.size(); i += 2)
        coarse.push_back(all[i]);
    const double near = query.near_rpm > 0 ? query.near_rpm : middle_rpm(query.range);
    Window window{coarse, index_near(coarse, near - kBelow_rpm), 0};
    window.last = std::min(window.first + kQuickSpeeds - 1, coarse.size() - 1);
    CycleRule rule;
    rule.most = rule.most_with_oil = 8;
    rule.averaged = 3;
    rule.check_lift_m = query.limits.check_lift_m;
    std::map<double, Metrics> known;
    return grow(window, kQuickSpeeds, [&](const std::vector<double>& speeds) {
        std::vector<double> missing;
        for (double rpm : speeds)
            if (!known.contains(rpm))
                missing.push_back(rpm);
        const auto keep = [&](Motion&& motion) {
            known[motion.speed_rpm] = motion.metrics;
            return std::vector<double>{};
        };
        model.run_on(missing, keep, stop, rule, query.workers);
        std::vector<SpeedMetrics> rows;
        for (double rpm : speeds)
            rows.push_back({rpm, known.at(rpm)});
        return limit_speed(rows, query.limits.list, query.low_speed_deg.value_or(0));
    });
}

QuickLimitQuery after_estimate(QuickLimitQuery query, const LimitSpeed& estimate) {
    query.near_rpm = estimate.speed_rpm.value_or(query.range.last_rpm);
    if (estimate.first && estimate.first->from_low_speed)
        query.low_speed_deg.reset(); // the answer will hang on it: run it along with the others
    return query;
}

QuickLimitQuery query_for_many(const Train& train, const MotionModel& model, QuickLimitQuery query,
                               const std::stop_token& stop) {
    query.bisect_to_rpm = kRefinedTo_rpm;
    query.rule.most = kMostCycles;
    query.rule.close_step = 2 * kCloseStep;
    query.rule.halve_at_clash = false; // moves a train's limit by far less than its tolerances do
    double low_speed_deg = 0;
    model.run(
        {kLowSpeed_rpm},
        [&](Motion&& m) {
            if (m.finite)
                require_opens(train, model.rigid(), highest_lift_m(m));
            low_speed_deg = m.metrics[Metric::DurationChange].value_or(0);
        },
        stop);
    if (query.near_rpm <= 0)
        query.near_rpm = refine_limit(model, query, stop).speed_rpm.value_or(0);
    query.low_speed_deg = low_speed_deg;
    query.round_rpm = kRound_rpm;
    query.workers = 1; // each worker has trains of its own
    return query;
}

LimitSpeed refine_limit(const MotionModel& model, const QuickLimitQuery& query, const std::stop_token& stop) {
    const std::vector<double> all = query.range.speeds_rpm();
    const double near = query.near_rpm > 0 ? query.near_rpm : middle_rpm(query.range);
    const Window window{all, index_near(all, near - query.round_rpm),
                        index_near(all, near + query.round_rpm)};
    std::map<double, Metrics> known;
    CycleRule rule = query.rule;
    rule.check_lift_m = query.limits.check_lift_m;
    LimitOptions options;
    options.bisect_to_rpm = query.bisect_to_rpm;
    options.at_once = lane_count() * (query.workers ? query.workers : worker_count());
    options.assumed_low_speed_deg = query.low_speed_deg;
    return grow(window, 4, [&](const std::vector<double>& speeds) {
        LimitSearch search(speeds, query.limits.list, options);
        std::vector<double> missing;
        const auto want = [&](double rpm) {
            if (const auto at = known.find(rpm); at != known.end())
                search.put(rpm, at->second);
            else
                missing.push_back(rpm);
        };
        const auto run = [&] {
            const auto keep = [&](Motion&& motion) {
                known[motion.speed_rpm] = motion.metrics;
                search.put(motion.speed_rpm, motion.metrics);
                return search.next();
            };
            model.run_on(std::exchange(missing, {}), keep, stop, rule, query.workers);
        };
        if (!query.low_speed_deg || known.contains(kLowSpeed_rpm))
            want(kLowSpeed_rpm);
        for (double rpm : speeds)
            want(rpm);
        if (known.empty())
            for (double rpm : search.ahead(near))
                want(rpm);
        run();
        if (!known.contains(kLowSpeed_rpm) && search.hangs_on_low_speed(kAssumedWithin_deg)) {
            want(kLowSpeed_rpm);
            run();
        }
        return search.result();
    });
}

} // namespace bathmos
