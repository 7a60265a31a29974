#include "core/plan/belief.h"

#include <Eigen/Cholesky>
#include <cmath>
#include <random>

namespace bathmos::plan {

namespace {

constexpr Eigen::Index kDrawn = 2000;
constexpr double kTiny_rpm = 1e-3; // on the diagonal: a run twice as sure as its own repeats

} // namespace

Belief::Belief(const std::vector<Forecast>& forecasts) : place_(forecasts.size(), -1) {
    std::size_t draws = 0;
    for (std::size_t i = 0; i < forecasts.size(); ++i)
        if (forecasts[i].stopped.empty()) {
            place_[i] = static_cast<Eigen::Index>(candidate_.size());
            candidate_.push_back(i);
            draws = std::max(draws, forecasts[i].moved_rpm.size());
        }
    const auto n = static_cast<Eigen::Index>(candidate_.size());
    mean_.resize(n);
    Eigen::MatrixXd moved =
        Eigen::MatrixXd::Zero(n, static_cast<Eigen::Index>(std::max<std::size_t>(draws, 1)));
    Eigen::RowVectorXd usual = Eigen::RowVectorXd::Zero(moved.cols());
    double with_draws = 0;
    for (Eigen::Index i = 0; i < n; ++i) {
        const Forecast& one = forecasts[candidate_[static_cast<std::size_t>(i)]];
        mean_[i] = one.limit_rpm;
        if (one.moved_rpm.size() != draws || draws == 0)
            continue;
        moved.row(i) = Eigen::Map<const Eigen::RowVectorXd>(one.moved_rpm.data(), moved.cols());
        usual += moved.row(i);
        ++with_draws;
    }
    if (with_draws > 0)
        usual /= with_draws;
    for (Eigen::Index i = 0; i < n; ++i) // far from the best: moved as the others are
        if (forecasts[candidate_[static_cast<std::size_t>(i)]].moved_rpm.size() != draws)
            moved.row(i) = usual;
    covariance_ = moved * moved.transpose() / static_cast<double>(moved.cols());
    covariance_ += kCommonError * kCommonError * mean_ * mean_.transpose();
    covariance_.diagonal() += (kOwnError * mean_).cwiseAbs2();
}

void Belief::hear(std::size_t candidate, double limit_rpm, double sd_rpm) {
    const Eigen::Index i = at(candidate);
    const Eigen::VectorXd column = covariance_.col(i);
    const double variance = column[i] + sd_rpm * sd_rpm;
    mean_ += column * ((limit_rpm - mean_[i]) / variance);
    covariance_ -= column * column.transpose() / variance;
}

double Belief::mean_rpm(std::size_t candidate) const {
    return mean_[at(candidate)];
}

double Belief::sd_rpm(std::size_t candidate) const {
    return std::sqrt(std::max(0.0, covariance_(at(candidate), at(candidate))));
}

double Belief::sd_of_difference_rpm(std::size_t candidate, std::size_t other) const {
    const Eigen::Index i = at(candidate), j = at(other);
    return std::sqrt(std::max(0.0, covariance_(i, i) + covariance_(j, j) - 2 * covariance_(i, j)));
}

std::size_t Belief::best() const {
    Eigen::Index at = 0;
    mean_.maxCoeff(&at);
    return candidate_[static_cast<std::size_t>(at)];
}

// Columns are draws of all limits together.
Eigen::MatrixXd Belief::drawn(unsigned seed) const {
    const Eigen::Index n = mean_.size();
    const Eigen::LDLT<Eigen::MatrixXd> parts(covariance_ +
                                             kTiny_rpm * kTiny_rpm * Eigen::MatrixXd::Identity(n, n));
    const Eigen::VectorXd scale = parts.vectorD().cwiseMax(0.0).cwiseSqrt();
    std::mt19937_64 engine(seed);
    std::normal_distribution<double> normal;
    Eigen::MatrixXd z(n, kDrawn);
    for (double& one : z.reshaped())
        one = normal(engine);
    Eigen::MatrixXd out = parts.matrixL() * (scale.asDiagonal() * z);
    out = parts.transpositionsP().transpose() * out;
    return out.colwise() + mean_;
}

std::vector<double> Belief::chances(unsigned seed) const {
    std::vector<double> out(place_.size(), 0.0);
    const Eigen::MatrixXd draws = drawn(seed);
    for (Eigen::Index d = 0; d < draws.cols(); ++d) {
        Eigen::Index at = 0;
        draws.col(d).maxCoeff(&at);
        out[candidate_[static_cast<std::size_t>(at)]] += 1.0 / static_cast<double>(draws.cols());
    }
    return out;
}

double Belief::chance_beyond(std::size_t candidate, const std::vector<std::size_t>& others, double margin_rpm,
                             unsigned seed) const {
    const Eigen::MatrixXd draws = drawn(seed);
    double out = 0;
    for (Eigen::Index d = 0; d < draws.cols(); ++d) {
        bool beyond = false;
        for (const std::size_t other : others)
            beyond = beyond || draws(at(other), d) > draws(at(candidate), d) + margin_rpm;
        out += beyond ? 1.0 / static_cast<double>(draws.cols()) : 0;
    }
    return out;
}

} // namespace bathmos::plan
