#include "core/motion/quick_limit.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

constexpr double kBelow_rpm = 600, kRound_rpm = 250; // how far round near_rpm is looked first
constexpr std::size_t kQuickSpeeds = 8;

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

double middle(const SpeedRange& range) {
    return 0.5 * (range.first_rpm + range.last_rpm);
}

// Runs what is not known yet, grows the window until the crossing lies inside it, and gives it.
template <class Run>
LimitSpeed grow(Window window, std::size_t by, Run run) {
    for (;;) {
        const LimitSpeed limit = run(window.used());
        const bool below = limit.speed_rpm && *limit.speed_rpm <= window.used().front();
        const bool moved = limit.speed_rpm ? below && window.down(by) : window.up(by);
        if (!moved)
            return limit;
    }
}

} // namespace

LimitSpeed estimate_limit(const MotionModel& model, const QuickLimitQuery& query,
                          double low_speed_duration_change_deg, const std::stop_token& stop) {
    const std::vector<double> all = query.range.speeds_rpm();
    std::vector<double> coarse;
    for (std::size_t i = 0; i < all.size(); i += 2)
        coarse.push_back(all[i]);
    const double near = query.near_rpm > 0 ? query.near_rpm : middle(query.range);
    Window window{coarse, index_near(coarse, near - kBelow_rpm), 0};
    window.last = std::min(window.first + kQuickSpeeds - 1, coarse.size() - 1);
    CycleRule rule;
    rule.most = rule.most_with_oil = 8;
    rule.averaged = 3;
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
        return limit_speed(rows, query.limits, low_speed_duration_change_deg);
    });
}

LimitSpeed refine_limit(const MotionModel& model, const QuickLimitQuery& query, const std::stop_token& stop) {
    const std::vector<double> all = query.range.speeds_rpm();
    const double near = query.near_rpm > 0 ? query.near_rpm : middle(query.range);
    const Window window{all, index_near(all, near - kRound_rpm), index_near(all, near + kRound_rpm)};
    std::map<double, Metrics> known;
    LimitOptions options;
    options.bisect_to_rpm = query.bisect_to_rpm;
    options.at_once = lane_count() * (query.workers ? query.workers : worker_count());
    return grow(window, 4, [&](const std::vector<double>& speeds) {
        LimitSearch search(speeds, query.limits, options);
        std::vector<double> missing;
        const auto want = [&](double rpm) {
            if (const auto at = known.find(rpm); at != known.end())
                search.put(rpm, at->second);
            else
                missing.push_back(rpm);
        };
        want(kLowSpeed_rpm);
        for (double rpm : speeds)
            want(rpm);
        if (known.empty())
            for (double rpm : search.ahead(near))
                want(rpm);
        const auto keep = [&](Motion&& motion) {
            known[motion.speed_rpm] = motion.metrics;
            search.put(motion.speed_rpm, motion.metrics);
            return search.next();
        };
        model.run_on(missing, keep, stop, query.rule, query.workers);
        return search.result();
    });
}

} // namespace bathmos
