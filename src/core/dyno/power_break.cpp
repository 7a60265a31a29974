#include "core/dyno/power_break.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

constexpr double kLength_rpm = 450, kHeight = 0.012; // of the smooth trend's wander
constexpr double kStep = 0.03;                       // one sigma of a break's depth, share of the peak
constexpr double kRamps_rpm[] = {80, 200, 450};
constexpr std::size_t kLeastBelow = 5, kLeastAbove = 2, kMostSteps = 4;
constexpr double kComesBack_rpm = 1000, kComesBack = 0.5; // a dip's rise, share of its fall
constexpr std::size_t kPlaces = 120;

using Vector = Eigen::VectorXd;
using Matrix = Eigen::MatrixXd;

// The curve in units of its peak, whitened by what the smooth trend and the noise leave open, with the steps that have
// been taken up.
class Model {
  public:
    explicit Model(const PowerCurve& c)
        : rpm_(c.speed_rpm), peak_(*std::max_element(c.power_W.begin(), c.power_W.end())) {
        const auto n = static_cast<Eigen::Index>(c.size());
        Matrix k(n, n);
        for (Eigen::Index i = 0; i < n; ++i)
            for (Eigen::Index j = 0; j <= i; ++j) {
                const double d = (speed(i) - speed(j)) / kLength_rpm;
                k(i, j) = k(j, i) = kHeight * kHeight * std::exp(-0.5 * d * d);
            }
        for (Eigen::Index i = 0; i < n; ++i)
            k(i, i) += std::pow(c.sigma_W[static_cast<std::size_t>(i)] / peak_, 2);
        root_.compute(k);
        y_ = root_.matrixL().solve(Eigen::Map<const Vector>(c.power_W.data(), n) / peak_);
        const double middle = 0.5 * (rpm_.front() + rpm_.back());
        for (int power = 0; power < 3; ++power)
            take_up(root_.matrixL().solve(
                Vector::NullaryExpr(n, [&](Eigen::Index i) { return std::pow((speed(i) - middle) / 1000, power); })));
        // Roughness that neighbours share is more than their differences tell.
        const Vector rest = residue();
        scale_ = std::max(1.0, rest.squaredNorm() / static_cast<double>(std::max<Eigen::Index>(1, n - 3)));
    }

    struct Step {
        double speed_rpm = 0, ramp_rpm = 0, depth = 0, sigma = 0, log_evidence = -1e300;
    };
    /// A step down that begins at a place, against the model as it stands.
    Step judge(double at, double ramp) const {
        const Vector u = without_taken(root_.matrixL().solve(shape(at, ramp)));
        const double square = u.squaredNorm() / scale_;
        if (!(square > 1e-12))
            return {at, ramp};
        const double best = -u.dot(residue()) / scale_ / square; // positive: down
        const double prior = kStep * kStep;
        // Shrunk towards nothing as the step's prior wants it.
        const double variance = 1 / (square + 1 / prior);
        return {at, ramp, best * square * variance, std::sqrt(variance),
                0.5 * best * best * square * square * variance - 0.5 * std::log(1 + prior * square)};
    }
    void take_step(const Step& step) { take_up(root_.matrixL().solve(shape(step.speed_rpm, step.ramp_rpm))); }
    const std::vector<double>& rpm() const { return rpm_; }
    double peak() const { return peak_; }

  private:
    double speed(Eigen::Index i) const { return rpm_[static_cast<std::size_t>(i)]; }
    Vector shape(double at, double ramp) const {
        return Vector::NullaryExpr(static_cast<Eigen::Index>(rpm_.size()), [&](Eigen::Index i) {
            return std::clamp((speed(i) - at) / ramp, 0.0, 1.0);
        });
    }
    Vector without_taken(Vector v) const {
        for (const Vector& q : taken_)
            v -= q.dot(v) * q;
        return v;
    }
    void take_up(const Vector& column) {
        const Vector v = without_taken(without_taken(column));
        if (v.norm() > 1e-9)
            taken_.push_back(v.normalized());
        residue_ = without_taken(y_);
    }
    const Vector& residue() const { return residue_; }

    std::vector<double> rpm_;
    double peak_, scale_ = 1;
    Eigen::LLT<Matrix> root_;
    Vector y_, residue_;
    std::vector<Vector> taken_;
};

// The likeliest next step, down or up, and how sure it is.
struct Found {
    PowerBreak step; // depth below 0: up
    Model::Step best;
};

Found next_step(const Model& model) {
    const std::vector<double>& rpm = model.rpm();
    std::vector<Model::Step> tried;
    const std::size_t stride = std::max<std::size_t>(1, rpm.size() / kPlaces);
    for (std::size_t i = kLeastBelow; i + kLeastAbove <= rpm.size(); i += stride) {
        const double at = 0.5 * (rpm[i - 1] + rpm[i]);
        if (at < rpm.front() + 250 || rpm.back() - at < kLeastBeyond_rpm)
            continue;
        for (double ramp : kRamps_rpm)
            tried.push_back(model.judge(at, ramp));
    }
    Found out;
    for (const Model::Step& s : tried)
        if (s.log_evidence > out.best.log_evidence)
            out.best = s;
    // Evidence averaged over places and ramps; the same weights give the place's mean and spread, of those that
    // lie about the best.
    double all = 0, weight = 0, mean = 0, square = 0;
    for (const Model::Step& s : tried) {
        const double w = std::exp(s.log_evidence - out.best.log_evidence);
        all += w;
        if (std::abs(s.speed_rpm - out.best.speed_rpm) > 500 || s.depth * out.best.depth < 0)
            continue;
        weight += w;
        mean += w * s.speed_rpm;
        square += w * s.speed_rpm * s.speed_rpm;
    }
    if (!(weight > 0))
        return out;
    mean /= weight;
    const double log_odds = out.best.log_evidence + std::log(all / static_cast<double>(tried.size()));
    const double step = (rpm.back() - rpm.front()) / static_cast<double>(rpm.size()) * static_cast<double>(stride);
    out.step = {mean,
                std::sqrt(std::max(0.0, square / weight - mean * mean) + step * step / 12),
                out.best.depth * model.peak(),
                out.best.sigma * model.peak(),
                std::min(0.995, 1 / (1 + std::exp(-log_odds))),
                out.best.ramp_rpm};
    return out;
}

// Falls that a rise soon makes good again are dips; they and the rises leave the list.
void take_out_dips(std::vector<PowerBreak>& steps, std::vector<PowerDip>& dips) {
    std::sort(steps.begin(), steps.end(),
              [](const PowerBreak& a, const PowerBreak& b) { return a.speed_rpm < b.speed_rpm; });
    for (std::size_t i = 0; i + 1 < steps.size(); ++i) {
        const PowerBreak &fall = steps[i], &rise = steps[i + 1];
        if (fall.depth_W > 0 && rise.depth_W < -kComesBack * fall.depth_W &&
            rise.speed_rpm - fall.speed_rpm < kComesBack_rpm) {
            dips.push_back({fall.speed_rpm, rise.speed_rpm + rise.over_rpm, fall.depth_W});
            steps.erase(steps.begin() + static_cast<std::ptrdiff_t>(i),
                        steps.begin() + static_cast<std::ptrdiff_t>(i) + 2);
            --i;
        }
    }
}

} // namespace

PowerBreaks find_breaks(const PowerCurve& curve) {
    PowerBreaks out;
    Model model(curve);
    std::vector<PowerBreak> steps;
    for (std::size_t k = 0; k < kMostSteps; ++k) {
        const Found found = next_step(model);
        const bool down = found.step.depth_W > 0;
        if (down)
            out.best_confidence = std::max(out.best_confidence, found.step.confidence);
        if (found.step.confidence < kBreakConfidence)
            break;
        steps.push_back(found.step);
        model.take_step(found.best);
    }
    take_out_dips(steps, out.dips);
    for (const PowerBreak& step : steps)
        if (step.depth_W > kLeastDepth * model.peak() && step.depth_W > 2.5 * step.sigma_W)
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
        for (; near.size() < 6 && reach < 1e5; reach *= 1.5) {
            near.clear();
            for (std::size_t k = 0; k < c.size(); ++k)
                if (std::abs(c.speed_rpm[k] - here) < reach && side(c.speed_rpm[k]) == side(here))
                    near.push_back(k);
            if (near.size() == c.size())
                break;
        }
        const auto n = static_cast<Eigen::Index>(near.size());
        const int degree = n >= 9 ? 2 : n >= 4 ? 1 : 0;
        Eigen::MatrixXd a(n, degree + 1);
        Eigen::VectorXd y(n);
        for (Eigen::Index k = 0; k < n; ++k) {
            const std::size_t j = near[static_cast<std::size_t>(k)];
            const double u = (c.speed_rpm[j] - here) / reach, weight = 1 - std::abs(u) * u * u;
            const double w = std::sqrt(std::max(1e-6, weight)) / c.sigma_W[j];
            for (int d = 0; d <= degree; ++d)
                a(k, d) = w * std::pow(u, d);
            y(k) = w * c.power_W[j];
        }
        out[i] = a.colPivHouseholderQr().solve(y)(0);
    }
    return out;
}

} // namespace bathmos
