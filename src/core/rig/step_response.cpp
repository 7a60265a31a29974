#include "core/rig/step_response.h"

#include "core/problem/input_error.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <set>

namespace bathmos {

namespace {

constexpr double kStandsOut = 2; // deviations

// The middle of the widest gap between steps.
double widest_gap(const std::vector<SteppedRun>& runs) {
    double out = runs.front().at, widest = -1;
    for (std::size_t i = 1; i < runs.size(); ++i)
        if (const double gap = runs[i].at - runs[i - 1].at; gap > widest) {
            widest = gap;
            out = (runs[i].at + runs[i - 1].at) / 2;
        }
    return out;
}

} // namespace

StepResponse step_response(std::vector<SteppedRun> runs) {
    std::set<double> steps;
    for (const SteppedRun& run : runs) {
        steps.insert(run.at);
        if (!(run.sd_rpm > 0 && std::isfinite(run.rpm) && std::isfinite(run.at)))
            throw InputError(
                {"", "runs", "a limit is known to nothing", "give what it is known to, above 0"});
    }
    if (steps.size() < 3)
        throw InputError({"", "runs", "fewer than three different steps", "run a third one"});
    std::ranges::sort(runs, {}, &SteppedRun::at);
    const double low = runs.front().at, high = runs.back().at, middle = (low + high) / 2,
                 scale = (high - low) / 2;
    const auto n = static_cast<Eigen::Index>(runs.size());
    Eigen::MatrixXd rows(n, 3);
    Eigen::VectorXd values(n);
    for (Eigen::Index i = 0; i < n; ++i) {
        const SteppedRun& run = runs[static_cast<std::size_t>(i)];
        const double x = (run.at - middle) / scale;
        rows.row(i) << 1 / run.sd_rpm, x / run.sd_rpm, x * x / run.sd_rpm;
        values[i] = run.rpm / run.sd_rpm;
    }
    const Eigen::Matrix3d covariance = (rows.transpose() * rows).inverse();
    const Eigen::Vector3d fit = covariance * (rows.transpose() * values);
    StepResponse out;
    out.slope = fit[1] / scale;
    out.slope_sd = std::sqrt(covariance(1, 1)) / scale;
    out.curvature = 2 * fit[2] / (scale * scale);
    out.curvature_sd = 2 * std::sqrt(covariance(2, 2)) / (scale * scale);
    out.known_slope = std::abs(out.slope) > kStandsOut * out.slope_sd;
    const double best = fit[2] != 0 ? -fit[1] / (2 * fit[2]) : 2;
    if (fit[2] < 0 && -out.curvature > kStandsOut * out.curvature_sd && std::abs(best) <= 1) {
        out.best_at = middle + scale * best;
        out.best_rpm = fit[0] + fit[1] * best + fit[2] * best * best;
        const Eigen::Vector3d moves(0, -1 / (2 * fit[2]), fit[1] / (2 * fit[2] * fit[2]));
        out.best_at_sd = scale * std::sqrt(moves.dot(covariance * moves));
        out.next_at = *out.best_at;
        out.why = "an optimum inside of what was run: run it";
    } else if (out.known_slope) {
        const double step = (high - low) / static_cast<double>(steps.size() - 1);
        out.next_at = out.slope > 0 ? high + step : low - step;
        out.why = "it still rises there: one more step";
    } else {
        out.next_at = widest_gap(runs);
        out.why = "neither slope nor optimum stands out: repeat, or run between";
    }
    return out;
}

} // namespace bathmos
