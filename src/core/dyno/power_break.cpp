#include "core/dyno/power_break.h"

#include "core/math/robust.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

constexpr double kLength_rpm = 450;           // of the smooth trend's wander
constexpr double kHeights[] = {0.006, 0.012}; // standard deviation of it, share of the peak: each as likely
constexpr double kStep = 0.03;                // standard deviation of a break's depth, share of the peak
constexpr double kRamps_rpm[] = {80, 130, 200, 300, 450, 800, 1300};
constexpr std::size_t kLeastBelow = 5, kLeastAbove = 2, kMostSteps = 4;
constexpr double kOneFall_rpm = 200;                      // falls nearer than that are one
constexpr double kComesBack_rpm = 1000, kComesBack = 0.5; // a dip's rise, share of its fall
constexpr double kFurtherConfidence = 0.95;               // of a second step and all after it
constexpr double kRougher = 1.6, kRougherOdds = 4;        // readings that turn rough there speak for a break
constexpr double kRoughBelow_rpm = 1500, kRoughAbove_rpm = 800;
constexpr std::size_t kPlaces = 120;
constexpr int kMeanPowers = 4; // of the cubic under the wander

using Vector = Eigen::VectorXd;
using Matrix = Eigen::MatrixXd;

// A step down that begins at a place, against a model as it stands.
struct StepTried {
    double speed_rpm = 0, ramp_rpm = 0, depth = 0, sd = 0, log_evidence = -1e300;
    std::size_t candidate = 0;
};

bool less_likely(const StepTried& a, const StepTried& b) {
    return a.log_evidence < b.log_evidence;
}

// The curve in units of its peak and every step that might be in it, whitened by what the smooth trend and
// the noise leave open, without the numbers that have been taken up.
class Model {
  public:
    Model(const PowerCurve& c, double height)
        : rpm_(c.speed_rpm), peak_(*std::max_element(c.power_W.begin(), c.power_W.end())) {
        const auto n = static_cast<Eigen::Index>(c.size());
        Matrix k(n, n);
        for (Eigen::Index i = 0; i < n; ++i)
            for (Eigen::Index j = 0; j <= i; ++j) {
                const double d = (speed(i) - speed(j)) / kLength_rpm;
                k(i, j) = k(j, i) = height * height * std::exp(-0.5 * d * d);
            }
        for (Eigen::Index i = 0; i < n; ++i)
            k(i, i) += std::pow(c.sd_W[static_cast<std::size_t>(i)] / peak_, 2);
        const Eigen::LLT<Matrix> root(k);
        for (Eigen::Index i = 0; i < n; ++i)
            log_size_ += std::log(root.matrixLLT()(i, i));
        residue_ = root.matrixL().solve(Eigen::Map<const Vector>(c.power_W.data(), n) / peak_);
        list_candidates();
        steps_.resize(n, static_cast<Eigen::Index>(candidates_.size()));
        for (Eigen::Index s = 0; s < steps_.cols(); ++s)
            for (Eigen::Index i = 0; i < n; ++i) {
                const StepTried& step = candidates_[static_cast<std::size_t>(s)];
                steps_(i, s) = std::clamp((speed(i) - step.speed_rpm) / step.ramp_rpm, 0.0, 1.0);
            }
        if (steps_.cols() > 0) // a short pull has no place for a step
            root.matrixL().solveInPlace(steps_);
        const double middle = 0.5 * (rpm_.front() + rpm_.back());
        for (int power = 0; power < kMeanPowers; ++power) {
            Vector column(n);
            for (Eigen::Index i = 0; i < n; ++i)
                column(i) = std::pow((speed(i) - middle) / 1000, power);
            take_up(root.matrixL().solve(column));
        }
    }

    /// Every step against the model as it stands; the likeliest one's remainder tells how much rougher
    /// readings are than their neighbours say, and counts as noise.
    std::vector<StepTried> judge_all() {
        const Vector square = steps_.colwise().squaredNorm(), along = steps_.transpose() * residue_;
        std::vector<StepTried> out = judged(square, along, 1);
        if (out.empty())
            return out;
        const auto best =
            static_cast<Eigen::Index>(std::max_element(out.begin(), out.end(), less_likely) - out.begin());
        const double left =
            residue_.squaredNorm() - along(best) * along(best) / std::max(1e-12, square(best));
        const double free = static_cast<double>(residue_.size()) - static_cast<double>(taken_.size()) - 2;
        scale_ = std::max(1.0, left / std::max(1.0, free));
        return judged(square, along, scale_);
    }
    void take_step(const StepTried& step) { take_up(steps_.col(static_cast<Eigen::Index>(step.candidate))); }
    /// Log evidence of the model as it stands, numbers of the cubic and of steps taken being free.
    double log_evidence() const { return -0.5 * residue_.squaredNorm() / scale_ - log_size_; }
    const std::vector<double>& rpm() const { return rpm_; }
    double peak() const { return peak_; }

  private:
    double speed(Eigen::Index i) const { return rpm_[static_cast<std::size_t>(i)]; }
    // Every place with every ramp.
    void list_candidates() {
        const std::size_t stride = std::max<std::size_t>(1, rpm_.size() / kPlaces);
        for (std::size_t i = kLeastBelow; i + kLeastAbove <= rpm_.size(); i += stride) {
            const double at = 0.5 * (rpm_[i - 1] + rpm_[i]);
            if (at < rpm_.front() + 250 || rpm_.back() - at < kLeastBeyond_rpm)
                continue;
            for (double ramp : kRamps_rpm)
                candidates_.push_back({at, ramp, 0, 0, -1e300, candidates_.size()});
        }
    }
    std::vector<StepTried> judged(const Vector& square, const Vector& along, double scale) const {
        std::vector<StepTried> out = candidates_;
        for (StepTried& step : out) {
            const auto s = static_cast<Eigen::Index>(step.candidate);
            const double weight = square(s) / scale, prior = kStep * kStep;
            if (!(weight > 1e-12))
                continue;
            const double best = -along(s) / square(s); // positive: down
            // Shrunk towards nothing as the step's prior wants it.
            const double variance = 1 / (weight + 1 / prior);
            step.depth = best * weight * variance;
            step.sd = std::sqrt(variance);
            step.log_evidence =
                0.5 * best * best * weight * weight * variance - 0.5 * std::log(1 + prior * weight);
        }
        return out;
    }
    void take_up(const Vector& column) {
        Vector v = column;
        for (int round = 0; round < 2; ++round) // twice, against rounding
            for (const Vector& q : taken_)
                v -= q.dot(v) * q;
        const double size = v.norm();
        if (!(size > 1e-9))
            return;
        log_size_ += std::log(size);
        v /= size;
        residue_ -= v.dot(residue_) * v;
        steps_ -= v * (v.transpose() * steps_);
        taken_.push_back(std::move(v));
    }

    std::vector<double> rpm_;
    double peak_, scale_ = 1, log_size_ = 0;
    std::vector<StepTried> candidates_;
    Vector residue_;
    Matrix steps_;
    std::vector<Vector> taken_;
};

// The likeliest next step, down or up, and how sure it is.
struct Found {
    PowerBreak step; // depth below 0: up
    StepTried best;
};

double noise_near(const PowerCurve& c, double from_rpm, double to_rpm) {
    std::vector<double> out;
    for (std::size_t i = 0; i < c.size(); ++i)
        if (c.speed_rpm[i] > from_rpm && c.speed_rpm[i] < to_rpm)
            out.push_back(c.sd_W[i]);
    return out.empty() ? 0 : median(out);
}

// Evidence of all steps over that of none, over all heights of the wander; the same weights give the place's
// mean and standard deviation, of those that lie about the best.
Found next_step(std::vector<Model>& models, const PowerCurve& curve) {
    Found out;
    std::vector<StepTried> tried; // log_evidence whole: with what the model has without the step
    std::vector<double> alone;
    for (Model& model : models) {
        const std::vector<StepTried> steps = model.judge_all();
        if (steps.empty())
            return out;
        alone.push_back(model.log_evidence());
        for (StepTried step : steps) {
            step.log_evidence += alone.back();
            tried.push_back(step);
        }
    }
    out.best = *std::max_element(tried.begin(), tried.end(), less_likely);
    double all = 0, none = 0, weight = 0, mean = 0, square = 0;
    for (double a : alone)
        none += std::exp(a - out.best.log_evidence);
    for (const StepTried& s : tried) {
        const double w = std::exp(s.log_evidence - out.best.log_evidence);
        all += w / static_cast<double>(tried.size() / models.size());
        if (std::abs(s.speed_rpm - out.best.speed_rpm) > 500 || s.depth * out.best.depth < 0)
            continue;
        weight += w;
        mean += w * s.speed_rpm;
        square += w * s.speed_rpm * s.speed_rpm;
    }
    mean /= weight;
    const std::vector<double>& rpm = models.front().rpm();
    const double apart = std::max((rpm.back() - rpm.front()) / static_cast<double>(rpm.size()),
                                  (rpm.back() - rpm.front()) / kPlaces);
    const double peak = models.front().peak();
    if (out.best.depth > 0 && noise_near(curve, mean, mean + kRoughAbove_rpm) >
                                  kRougher * noise_near(curve, mean - kRoughBelow_rpm, mean - 100))
        all *= kRougherOdds;
    out.step = {mean,
                std::sqrt(std::max(0.0, square / weight - mean * mean) + apart * apart / 12),
                out.best.depth * peak,
                out.best.sd * peak,
                std::min(0.995, all / (all + none)),
                out.best.ramp_rpm};
    return out;
}

// Falls that rises soon make good again are dips; they and the rises leave the list.
void take_out_dips(std::vector<PowerBreak>& steps, std::vector<PowerDip>& dips) {
    std::sort(steps.begin(), steps.end(),
              [](const PowerBreak& a, const PowerBreak& b) { return a.speed_rpm < b.speed_rpm; });
    for (std::size_t i = 0; i < steps.size(); ++i) {
        double level = steps[i].depth_W, deepest = level;
        for (std::size_t j = i + 1;
             level > 0 && j < steps.size() && steps[j].speed_rpm - steps[i].speed_rpm < kComesBack_rpm; ++j) {
            level += steps[j].depth_W;
            deepest = std::max(deepest, level);
            if (level > (1 - kComesBack) * deepest)
                continue;
            dips.push_back({steps[i].speed_rpm, steps[j].speed_rpm + steps[j].over_rpm, deepest});
            steps.erase(steps.begin() + static_cast<std::ptrdiff_t>(i),
                        steps.begin() + static_cast<std::ptrdiff_t>(j) + 1);
            --i;
            break;
        }
    }
}

// Falls that follow each other at once are one.
void join_neighbours(std::vector<PowerBreak>& steps) {
    for (std::size_t i = 0; i + 1 < steps.size();) {
        PowerBreak& a = steps[i];
        const PowerBreak& b = steps[i + 1];
        if (a.depth_W <= 0 || b.depth_W <= 0 || b.speed_rpm - a.speed_rpm > kOneFall_rpm) {
            ++i;
            continue;
        }
        const double share = b.depth_W / (a.depth_W + b.depth_W);
        a.over_rpm = b.speed_rpm + b.over_rpm - a.speed_rpm;
        a.speed_rpm += share * (b.speed_rpm - a.speed_rpm);
        a.depth_W += b.depth_W;
        a.sd_W = std::hypot(a.sd_W, b.sd_W);
        a.confidence = std::max(a.confidence, b.confidence);
        steps.erase(steps.begin() + static_cast<std::ptrdiff_t>(i) + 1);
    }
}

} // namespace

PowerBreaks find_breaks(const PowerCurve& curve) {
    PowerBreaks out;
    std::vector<Model> models;
    for (double height : kHeights)
        models.emplace_back(curve, height);
    std::vector<PowerBreak> steps;
    for (std::size_t k = 0; k < kMostSteps; ++k) {
        const Found found = next_step(models, curve);
        if (found.step.depth_W > 0)
            out.best_confidence = std::max(out.best_confidence, found.step.confidence);
        if (found.step.confidence < (k == 0 ? kBreakConfidence : kFurtherConfidence))
            break;
        steps.push_back(found.step);
        for (Model& model : models)
            model.take_step(found.best);
    }
    take_out_dips(steps, out.dips);
    join_neighbours(steps);
    for (const PowerBreak& step : steps)
        if (step.depth_W > kLeastDepth * models.front().peak() && step.depth_W > 2.5 * step.sd_W)
            out.breaks.push_back(step);
    return out;
}

std::vector<double> trend_of(const PowerCurve& c, const PowerBreaks& breaks) {
    std::vector<double> out(c.size());
    const auto side = [&](double rpm) {
        return std::count_if(breaks.breaks.begin(), breaks.breaks.end(),
                             [&](const PowerBreak& b) { return b.speed_rpm < rpm; });
    };
    for (std::size_t i = 0; i < c.size(); ++i) {
        const double here = c.speed_rpm[i];
        double reach = 400;
        std::vector<std::size_t> near;
        for (;; reach *= 1.5) {
            near.clear();
            for (std::size_t k = 0; k < c.size(); ++k)
                if (std::abs(c.speed_rpm[k] - here) < reach && side(c.speed_rpm[k]) == side(here))
                    near.push_back(k);
            if (near.size() >= 6 || reach > c.span_rpm())
                break;
        }
        const auto n = static_cast<Eigen::Index>(near.size());
        const int degree = n >= 9 ? 2 : n >= 4 ? 1 : 0;
        Eigen::MatrixXd a(n, degree + 1);
        Eigen::VectorXd y(n);
        for (Eigen::Index k = 0; k < n; ++k) {
            const std::size_t j = near[static_cast<std::size_t>(k)];
            const double u = (c.speed_rpm[j] - here) / reach, weight = 1 - std::abs(u) * u * u;
            const double w = std::sqrt(std::max(1e-6, weight)) / c.sd_W[j];
            for (int d = 0; d <= degree; ++d)
                a(k, d) = w * std::pow(u, d);
            y(k) = w * c.power_W[j];
        }
        out[i] = a.colPivHouseholderQr().solve(y)(0);
    }
    return out;
}

} // namespace bathmos
