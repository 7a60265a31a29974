// Finds the offsets that explain what was seen under a hypothesis, and says how likely that makes it
// (docs/calibration.md, Search and evidence).
#pragma once

#include "core/calibration/fit_model.h"

#include <functional>
#include <limits>
#include <mutex>
#include <vector>

namespace bathmos {

/// Belief under a hypothesis: standard deviations of all offsets, and where to start looking.
struct Belief {
    Eigen::VectorXd sd;
    /// One number and the offsets of it that are tried, the others following; place = size for none.
    std::size_t scanned = 0;
    std::vector<double> scan{};
};

/// A place in the search with all that is known there.
struct Place {
    Offsets x;
    Residuals residuals; ///< with derivatives
};

/// Of a hypothesis: the best place found.
struct Found {
    Place place;
    double cost = 0, log_evidence = 0;
    Eigen::MatrixXd
        covariance; ///< of the offsets, with the allowance for errors that repeat from speed to speed
};

/// Its places may be looked for from several threads at once; `step` is called one at a time.
class Search {
  public:
    Search(const FitModel& model, std::stop_token stop, std::function<void()> step)
        : model_(model), stop_(std::move(stop)), step_(std::move(step)) {}

    /// Goes downhill from the lowest of the places scanned, or from the start where there are none.
    Found find(const Belief& belief, const Place& start) const;
    /// The better of what is known and what is found from another hypothesis' place, which is gone down from
    /// only where its own derivatives promise as much.
    Found found_from(const Place& other, const Belief& belief, Found known) const;
    /// The better of what is known and what lies round it: a train rings, so that each stiffness has more
    /// than one place where the ringing fits. Each number that bends the residuals soon is held some way off,
    /// the others put right; from the lowest of these places downhill. Runs on all cores by itself.
    Found looked_round(Found known, const Belief& belief) const;
    /// The place with its derivatives.
    Place place_at(const Offsets& x) const;
    std::size_t trains_run() const { return trains_run_; }

  private:
    double cost(const Offsets& x, const Residuals& residuals, const Belief& belief) const;
    /// A place looked at, not gone down from.
    struct Tried {
        Offsets x{};
        double cost = std::numeric_limits<double>::infinity();
    };
    /// One number held at an offset, the others put right by the derivatives at `from` and what the train
    /// then shows, again and again: some trains instead of one for every number. Given up where the first
    /// correction leaves the cost above `hopeless`.
    Tried with_held(const Place& from, Offsets x, const Belief& belief, std::size_t held, double offset,
                    double hopeless = std::numeric_limits<double>::infinity()) const;
    /// The lowest places along the scanned number.
    std::vector<Tried> valleys(const Place& from, const Belief& belief) const;
    /// The step that the derivatives at `from` ask for at `at`; `held` stays where it is (size for none).
    Offsets corrected(const Place& from, const Place& at, const Belief& belief, std::size_t held) const;
    /// As far down as the derivatives at the start lead, a train a step: less far is left for downhill(). The
    /// derivatives stay those of the start.
    Place eased(const Place& from, const Belief& belief) const;
    Found arrived(Place place, const Belief& belief) const;
    void ran(std::size_t trains) const;
    Place downhill(const Offsets& start, const Belief& belief) const;
    /// Curvature of the cost: of the runs, and with belief.
    Eigen::MatrixXd curvature(const Place& at) const;

    const FitModel& model_;
    std::stop_token stop_;
    std::function<void()> step_;
    mutable std::mutex mutex_;
    mutable std::size_t trains_run_ = 0;
};

} // namespace bathmos
