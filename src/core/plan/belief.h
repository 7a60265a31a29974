// What is believed of the limits of a campaign's candidates: the model's forecast, and what runs have said
// since (docs/plan.md).
#pragma once

#include "core/plan/forecast.h"

#include <Eigen/Core>

namespace bathmos::plan {

/// Normal beliefs about all candidates that can be run, together: what a run of one says, it says of those
/// that share parts with it, too.
class Belief {
  public:
    /// One standard deviation of what no tolerance accounts for, as shares of the limit: the model's own
    /// error, alike for all candidates, and different from one to the next (docs/plan.md).
    static constexpr double kCommonError = 0.03, kOwnError = 0.006;

    explicit Belief(const std::vector<Forecast>& forecasts);

    /// Hears of a run: Gaussian conditioning. `candidate` must be one that can be run.
    void hear(std::size_t candidate, double limit_rpm, double sd_rpm);

    bool known(std::size_t candidate) const { return place_[candidate] >= 0; }
    /// Of one that is known: middle and one deviation, rev/min.
    double mean_rpm(std::size_t candidate) const;
    /// See mean_rpm.
    double sd_rpm(std::size_t candidate) const;
    /// Of one candidate's limit less another's.
    double sd_of_difference_rpm(std::size_t candidate, std::size_t other) const;
    /// The candidate with the highest mean.
    std::size_t best() const;
    /// For each candidate the chance that its limit is the highest of all, from drawn beliefs; 0 for those
    /// that cannot be run.
    std::vector<double> chances(unsigned seed = 1) const;
    /// The chance that any of `others` lies more than `margin_rpm` above `candidate`.
    double chance_beyond(std::size_t candidate, const std::vector<std::size_t>& others, double margin_rpm,
                         unsigned seed = 1) const;

  private:
    Eigen::Index at(std::size_t candidate) const { return place_[candidate]; }
    Eigen::MatrixXd drawn(unsigned seed) const;

    std::vector<Eigen::Index> place_; ///< in mean and covariance; -1: cannot be run
    std::vector<std::size_t> candidate_;
    Eigen::VectorXd mean_;
    Eigen::MatrixXd covariance_;
};

} // namespace bathmos::plan
