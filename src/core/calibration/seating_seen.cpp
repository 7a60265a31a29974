#include "core/calibration/seating_seen.h"

#include <Eigen/Cholesky>
#include <Eigen/Core>
#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace bathmos {

namespace {

// Of ln(run over model), settled on drawn engines (docs/calibration.md): how far the model is off, over what
// share of the speed that stays alike, and what one step is worth at best.
constexpr double kModel_sd = 0.1, kAlike = 0.15, kReading_sd = 0.05;
constexpr double kReading_m_per_s = 0.05; // ... and at slow landings
constexpr double kLeast_m_per_s = 0.1;    // below it a slope is noise
constexpr double kStep = 0.01, kBeyond = 3 * kAlike;
// The last degree: before it a ramp's bends, and a valve that comes down on its ramp, have their say.
constexpr double kTouch_m = 10e-6, kNoises = 3, kLast_crank_deg = 1;

struct Landing {
    double ln_speed, ln_ratio, sd;
};

double covariance(double a, double b) {
    return kModel_sd * kModel_sd * std::exp(-0.5 * std::pow((a - b) / kAlike, 2));
}

void read_landings(const RigRun& run, const std::vector<ModelLift>& model, const std::vector<double>& rigid_m,
                   std::vector<Landing>& out) {
    for (const RigStep& step : run.steps) {
        if (run.onset.onset.speed_rpm && step.speed_rpm >= *run.onset.onset.speed_rpm)
            break;
        const auto at = std::ranges::find(model, step.speed_rpm, &ModelLift::speed_rpm);
        if (at == model.end())
            continue;
        const double noise_m = run.noise_m / std::sqrt(std::max<double>(1, static_cast<double>(step.used)));
        const MetricOptions options{.touch_m = std::max(kTouch_m, kNoises * noise_m),
                                    .approach_deg = kLast_crank_deg};
        const auto landing = [&](const std::vector<double>& lift_m) {
            return approach_velocity(lift_m, rigid_m, step.speed_rpm, options).value_or(0);
        };
        const double measured = landing(step.lift_m), shown = landing(at->lift_m);
        if (measured < kLeast_m_per_s || shown < kLeast_m_per_s)
            continue;
        const double of_noise = noise_m / kLast_crank_deg * 6 * step.speed_rpm * std::sqrt(2.0);
        out.push_back({std::log(step.speed_rpm), std::log(measured / shown),
                       std::hypot(kReading_sd, std::hypot(kReading_m_per_s, of_noise) / measured)});
    }
}

} // namespace

std::vector<SpeedFactor> seating_seen(const std::vector<ModelLift>& model, const std::vector<double>& rigid_m,
                                      const std::vector<const RigRun*>& runs) {
    std::vector<Landing> readings;
    for (const RigRun* run : runs)
        read_landings(*run, model, rigid_m, readings);
    if (readings.empty())
        return {};
    const auto n = static_cast<Eigen::Index>(readings.size());
    Eigen::MatrixXd k(n, n);
    Eigen::VectorXd seen(n);
    const auto at = [&](Eigen::Index i) -> const Landing& { return readings[static_cast<std::size_t>(i)]; };
    for (Eigen::Index i = 0; i < n; ++i) {
        seen[i] = at(i).ln_ratio;
        for (Eigen::Index j = 0; j < n; ++j)
            k(i, j) = covariance(at(i).ln_speed, at(j).ln_speed) + (i == j ? at(i).sd * at(i).sd : 0);
    }
    const Eigen::VectorXd weight = k.ldlt().solve(seen);
    const auto [first, last] = std::ranges::minmax(readings, {}, &Landing::ln_speed);
    std::vector<SpeedFactor> out;
    for (double ln_speed = first.ln_speed - kBeyond; ln_speed < last.ln_speed + kBeyond + kStep;
         ln_speed += kStep) {
        double ln_factor = 0;
        for (Eigen::Index i = 0; i < n; ++i)
            ln_factor += weight[i] * covariance(ln_speed, at(i).ln_speed);
        out.push_back({std::exp(ln_speed), std::exp(ln_factor)});
    }
    return out;
}

AtRuns at_runs(const MotionModel& model, const std::vector<const RigRun*>& runs, const LimitsInForce& limits,
               const CycleRule& rule, std::size_t workers, const std::stop_token& stop) {
    std::set<double> speeds_rpm;
    for (const RigRun* run : runs)
        for (const RigStep& step : run->steps)
            speeds_rpm.insert(step.speed_rpm);
    std::map<double, Metrics> by_speed;
    std::vector<ModelLift> lifts;
    const auto take = [&](Motion&& motion) {
        if (motion.finite) {
            by_speed[motion.speed_rpm] = motion.metrics;
            lifts.push_back(
                {motion.speed_rpm, std::move(motion.channel[static_cast<std::size_t>(Channel::Lift)])});
        }
        return std::vector<double>{};
    };
    model.run_on({speeds_rpm.begin(), speeds_rpm.end()}, take, stop, rule, workers);
    std::vector<SpeedMetrics> of_first;
    for (const RigStep& step : runs.front()->steps)
        if (const auto at = by_speed.find(step.speed_rpm); at != by_speed.end())
            of_first.push_back({at->first, at->second});
    AtRuns out{find_onset(of_first, {}), limits};
    const std::vector<SpeedFactor> seating = seating_seen(lifts, model.chain().rigid_m, runs);
    for (Limit& limit : out.limits.list)
        if (limit.metric == Metric::Seating)
            limit.seen = seating;
    return out;
}

} // namespace bathmos
