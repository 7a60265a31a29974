// Finds the offsets that explain what was seen under a hypothesis, and says how likely that makes it
// (docs/calibration.md, Search and evidence).
#pragma once

#include "core/calibration/fit_model.h"

#include <deque>
#include <functional>
#include <limits>
#include <mutex>
#include <optional>
#include <vector>

namespace bathmos {

/// Belief under a hypothesis: standard deviations of all offsets, and where to start looking.
struct Belief {
    Eigen::VectorXd sd;
    /// One number and the offsets of it that are tried, the others following; place = size for none.
    std::size_t scanned = 0;
    std::vector<double> scan{};
    /// A number that starts further along as the scanned one goes, where the two depart together.
    struct Carried {
        std::size_t place;
        double per_offset;
    };
    std::optional<Carried> carried{};
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
    Search(const FitModel& model, std::stop_token stop, std::function<void(std::size_t trains)> step)
        : model_(model), stop_(std::move(stop)), step_(std::move(step)) {}

    /// A place looked at, not gone down from.
    struct Tried {
        Offsets x{};
        double cost = std::numeric_limits<double>::infinity();
    };
    /// The lowest places along each belief's scanned number, all scans side by side.
    std::vector<std::vector<Tried>> valleys(const Place& from,
                                            const std::vector<const Belief*>& beliefs) const;
    /// Goes downhill from the places tried, or from the start where there are none.
    Found find(const Belief& belief, const Place& start, const std::vector<Tried>& tried = {}) const;
    /// The better of what is known and what is found from another hypothesis' place, which is gone down from
    /// only where its own derivatives promise as much.
    Found found_from(const Place& other, const Belief& belief, Found known) const;
    /// The better of what is known and what lies round it: a train rings, so that each stiffness has more
    /// than one place where the ringing fits. Each number that the runs tell is held some way off, the others
    /// put right; from the lowest of these places downhill. Runs on all cores by itself.
    Found looked_round(Found known, const Belief& belief) const;
    /// The place with its derivatives.
    Place place_at(const Offsets& x) const;
    std::size_t trains_run() const { return trains_run_; }

  private:
    double cost(const Offsets& x, const Residuals& residuals, const Belief& belief) const;
    /// Along one number, which is held at one offset after the other, while the others are put right.
    struct Walk {
        const Belief* belief;
        std::size_t held;
        Offsets x;
        std::deque<double> offsets; ///< still to come
        Tried best{};               ///< at the one in hand
        std::vector<Tried> found{}; ///< the best at each
        int pass = 0;
        bool set_out(); ///< to the next offset; false: there is none
        bool arrive();  ///< keeps what was found, and sets out again
    };
    /// Puts the others right by the derivatives at `from` and what the trains then show, again and again, all
    /// walks side by side: some trains each instead of one for every number. An offset is given up where the
    /// first correction leaves the cost above `hopeless`.
    void walk(const Place& from, double hopeless, std::vector<Walk>& walks) const;
    std::vector<Walk> walks_round(const Found& known, const Belief& belief) const;
    static std::vector<Tried> lowest_along(std::size_t scanned, std::vector<Tried> all);
    /// The step that the derivatives at `from` ask for at `at`; `held` stays where it is (size for none).
    Offsets corrected(const Place& from, const Place& at, const Belief& belief, std::size_t held) const;
    /// As far down as the derivatives at the start lead, a train a step: less far is left for downhill(). The
    /// derivatives stay those of the start.
    Place eased(const Place& from, const Belief& belief) const;
    /// Downhill from there; empty where trains beside it cannot be run.
    std::optional<Found> descended(const Offsets& x, const Belief& belief) const;
    Found arrived(Place place, const Belief& belief) const;
    void ran(std::size_t trains) const;
    Place downhill(const Offsets& start, const Belief& belief) const;
    /// Curvature of the cost: of the runs, and with belief.
    Eigen::MatrixXd curvature(const Place& at) const;

    const FitModel& model_;
    std::stop_token stop_;
    std::function<void(std::size_t trains)> step_;
    mutable std::mutex mutex_;
    mutable std::size_t trains_run_ = 0;
};

} // namespace bathmos
