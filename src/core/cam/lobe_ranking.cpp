#include "core/cam/lobe_ranking.h"

#include "core/problem/input_error.h"
#include "core/spring/spring.h"
#include "core/train/train_check.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

// Force that the springs must give at each crank degree so that the rigid train stays on the lobe.
void add_needed_force(const Train& train, const RigidMotion& rigid, double speed_rpm, RankedLobe& out) {
    const TrainFigures figures = figures_of(train, rigid);
    const double w2 = std::pow(cam_speed_rad_s(speed_rpm), 2);
    std::vector<SpringStatics> springs(train.springs.begin(), train.springs.end());
    bool first = true;
    for (int degree = -360; degree <= 360; ++degree) {
        const double theta = radians(degree / 2.0);
        const double lift = rigid.lift_m(theta), acceleration = rigid.acceleration_m_per_rad2(theta);
        double needed = 0;
        if (lift > 0.1 * rigid.peak_m() && acceleration < 0) {
            needed = std::max(0.0, gas_force_N(train, radians(degree)) -
                                       figures.equivalent_mass_total_kg * w2 * acceleration);
            double there = 0;
            for (const SpringStatics& spring : springs)
                there += spring.load_N(train.installed_height_m - lift);
            if (first || there - needed < out.least_margin_N)
                out.least_margin_N = there - needed;
            first = false;
        }
        out.needed_N.push_back(needed);
        if (needed > out.most_needed_N) {
            out.most_needed_N = needed;
            out.most_needed_crank_deg = degree;
        }
    }
    if (figures.separation)
        out.separation_rpm = figures.separation->speed_rpm;
}

RankedLobe ranked(Train train, const Lobe& lobe, const RankingQuery& query, const std::stop_token& stop) {
    RankedLobe out;
    out.name = lobe.name;
    train.lobe = lobe;
    try {
        if (const auto problems = check_train(train); !problems.empty())
            throw InputError(problems.front());
        const MotionModel model(train);
        add_needed_force(train, model.rigid(), query.speed_rpm, out);
        const LimitSpeed estimate = estimate_limit(model, query.limit, stop);
        const LimitSpeed limit = refine_limit(model, after_estimate(query.limit, estimate), stop);
        out.limit_rpm = limit.speed_rpm;
        if (limit.first)
            out.limit_metric = limit.first->key;
        const Motion motion = simulate_one(train, query.speed_rpm, stop);
        if (motion.finite) {
            out.seating_m_per_s = motion.metrics[Metric::Seating];
            out.loft_m = motion.metrics[Metric::Loft];
        }
    } catch (const InputError& error) {
        out = {};
        out.name = lobe.name;
        out.trouble = error.what();
    }
    return out;
}

} // namespace

std::vector<RankedLobe> rank_lobes(const Train& train, const std::vector<Lobe>& lobes,
                                   const RankingQuery& query, const ProgressSink& progress,
                                   const std::stop_token& stop) {
    std::vector<RankedLobe> out;
    for (const Lobe& lobe : lobes) {
        out.push_back(ranked(train, lobe, query, stop));
        if (progress)
            progress(static_cast<double>(out.size()) / static_cast<double>(lobes.size()));
    }
    std::stable_sort(out.begin(), out.end(), [](const RankedLobe& a, const RankedLobe& b) {
        if (a.trouble.empty() != b.trouble.empty())
            return a.trouble.empty();
        const double la = a.limit_rpm.value_or(1e9), lb = b.limit_rpm.value_or(1e9);
        return la != lb ? la < lb : a.seating_m_per_s.value_or(0) > b.seating_m_per_s.value_or(0);
    });
    return out;
}

} // namespace bathmos
