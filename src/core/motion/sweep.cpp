#include "core/motion/sweep.h"

#include "core/problem/input_error.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

std::vector<double> SpeedRange::speeds_rpm() const {
    std::vector<double> out;
    const auto steps = static_cast<int>(std::floor((last_rpm - first_rpm) / step_rpm + 1e-6));
    for (int i = 0; i <= steps; ++i)
        out.push_back(first_rpm + i * step_rpm);
    return out;
}

std::vector<double> coarse_then_down(std::vector<double> rising) {
    constexpr std::size_t kPieces = 8;
    std::vector<double> out;
    std::vector<bool> taken(rising.size(), false);
    const auto take = [&](std::size_t i) {
        if (!taken[i])
            out.push_back(rising[i]);
        taken[i] = true;
    };
    for (std::size_t pieces = 1; pieces <= kPieces; pieces *= 2)
        for (std::size_t k = 0; k <= pieces; ++k)
            take(k * (rising.size() - 1) / pieces);
    for (std::size_t i = rising.size(); i-- > 0;)
        take(i);
    return out;
}

std::vector<SpeedMetrics> rows_of(const std::vector<std::shared_ptr<const Motion>>& motions) {
    std::vector<SpeedMetrics> rows;
    for (const auto& motion : motions)
        rows.push_back({motion->speed_rpm, motion->metrics});
    return rows;
}

void require_opens(const Train& train, const RigidMotion& rigid, double highest_m) {
    if (highest_m >= kOpensShare * rigid.peak_m())
        return;
    const TrainFigures figures = figures_of(train, rigid);
    const auto largest = [](const std::vector<Share>& shares) {
        return std::max_element(shares.begin(), shares.end(),
                                [](const Share& a, const Share& b) { return a.value < b.value; })
            ->part;
    };
    throw InputError(
        {"", "the valve",
         fmt::format("does not open: it lifts {:.3g} mm at most where the cam asks for {:.3g} mm",
                     highest_m * 1e3, rigid.peak_m() * 1e3),
         fmt::format(
             "check what is asked back, and the numbers of the softest part ({}) and of the heaviest ({})",
             largest(figures.compliance_m_per_N), largest(figures.equivalent_mass_kg))});
}

Sweep sweep(const Train& train, const SpeedRange& range, const LimitsInForce& limits,
            const SweepWatch& watch) {
    const std::vector<double> speeds = range.speeds_rpm();
    if (speeds.empty() || !(range.first_rpm > 0))
        throw InputError(
            {"", "speed range", "holds no speed", "give FIRST:LAST:STEP in rev/min, first above 0"});
    Sweep out;
    SweepSummary& s = out.summary;
    const MotionModel model(train);
    s.separation = figures_of(train, model.rigid()).separation;
    s.limits_name = limits.name;
    s.check_lift_m = limits.check_lift_m;
    LimitSearch search(speeds, limits.list);
    const auto summarise = [&] {
        s.low_speed_duration_change_deg = search.low_speed_duration_change_deg();
        s.onset = find_onset(search.rows(), {});
        s.limit = search.result();
    };
    bool estimated = false;
    const auto keep = [&](Motion&& motion) {
        if (!motion.finite)
            throw InputError({"", fmt::format("{:g} rev/min", motion.speed_rpm), motion.trouble,
                              "correct that part's numbers"});
        search.put(motion.speed_rpm, motion.metrics);
        if (std::binary_search(speeds.begin(), speeds.end(), motion.speed_rpm)) {
            auto shared = std::make_shared<const Motion>(std::move(motion));
            out.motions.push_back(shared);
            if (watch.motion)
                watch.motion(shared);
            if (watch.progress)
                watch.progress(static_cast<double>(out.motions.size()) / static_cast<double>(speeds.size()));
        }
        if (!estimated && watch.estimate && search.swept()) {
            estimated = true;
            summarise();
            watch.estimate(s);
        }
        return search.next();
    };
    std::vector<double> order = coarse_then_down(speeds);
    if (!std::binary_search(speeds.begin(), speeds.end(), kLowSpeed_rpm))
        order.push_back(kLowSpeed_rpm);
    CycleRule rule;
    rule.check_lift_m = limits.check_lift_m;
    model.run_on(order, keep, watch.stop, rule);
    std::sort(out.motions.begin(), out.motions.end(),
              [](const auto& a, const auto& b) { return a->speed_rpm < b->speed_rpm; });
    double highest_m = 0;
    for (const auto& motion : out.motions)
        highest_m = std::max(highest_m, highest_lift_m(*motion));
    require_opens(train, model.rigid(), highest_m);
    summarise();
    return out;
}

Motion simulate_one(const Train& train, double speed_rpm, std::stop_token stop) {
    return std::move(MotionModel(train).run({speed_rpm}, stop).front());
}

} // namespace bathmos
