// A train and runs of it to the numbers that explain them (docs/calibration.md).
#pragma once

#include "core/calibration/free_numbers.h"
#include "core/rig/rig_run.h"
#include "core/tasks/tasks.h"

#include <functional>
#include <optional>
#include <set>
#include <stop_token>
#include <string>
#include <vector>

namespace bathmos {

/// What a run may say of a train: that it is as believed, or that what a cause names departs.
struct Hypothesis {
    std::string cause; ///< a key of the causes, or "as_believed"
    /// Where two trains are fitted together: the one that departs; empty for both.
    std::optional<std::size_t> only{};
    double log_evidence = 0; ///< over that of as_believed
    Train train;             ///< as it fits best under it
    Train put_back;          ///< the same with what departs as believed
    /// Where two depart at once: the other cause, and the train with that one's numbers as believed.
    std::string with{};
    Train with_put_back{};
};

/// One number after the fit.
struct FittedNumber {
    FreeNumber number;
    double believed = 0, value = 0; ///< SI; 1 and a factor for the loads of the springs
    double sd = 0;                  ///< SI, of the value
    double prior_sd = 0;            ///< SI, of the belief
    double departs_sigma = 0;       ///< offset from belief over the belief's own standard deviation
    bool told = true;               ///< false: the run leaves it nearly as uncertain as it was
    bool at_end = false;            ///< held at the end of what the number may be
};

/// Two numbers of which a run sees little but a combination.
struct Correlated {
    std::string a, b;
    double r;
};

/// How far the fitted model stays from what was seen at a speed.
struct SpeedResidual {
    double speed_rpm = 0;
    std::size_t run = 0;
    double rms_m = 0, believed_rms_m = 0;
    bool held_out = false;
    std::vector<double> crank_deg, difference_m, believed_difference_m; ///< model less run
};

struct Calibration {
    Train train; ///< with the run's options, the values fitted, and their tolerances
    std::vector<FittedNumber> numbers;
    std::vector<Correlated> correlations;     ///< over 0.8
    std::vector<SpeedResidual> residuals;     ///< rising speeds, run by run
    std::vector<Hypothesis> hypotheses;       ///< highest evidence first
    std::string chosen;                       ///< the hypothesis that `train` stands on
    std::optional<std::size_t> chosen_only{}; ///< the train that departs under it, as Hypothesis::only
    std::string chosen_with{};                ///< what departs beside it, as Hypothesis::with
    std::vector<Train> draws; ///< trains as likely as the run leaves them, for the band of a limit
    /// Of the other revision, where two are fitted together; draws one for one beside the above.
    std::optional<Train> other;
    std::vector<Train> other_draws;
    std::vector<std::string> warnings; ///< what stands against believing the fit, in words
    std::size_t trains_run = 0;        ///< trains that were run over the speeds, for reports
};

/// Another revision's train and its runs.
struct OtherRevision {
    Train believed;
    std::vector<const RigRun*> runs;
};

struct CalibrationQuery {
    Train believed;
    std::vector<const RigRun*> runs; ///< of this train
    std::vector<std::string> free{}; ///< keys of the numbers that may move; empty: the usual ones
    std::size_t draws = 24;
    unsigned seed = 1;
    /// Fitted together with it: what did not change between them is one number for both.
    std::optional<OtherRevision> other{};
};

struct CalibrationWatch {
    ProgressSink progress{};
    /// As believed, fitted: the first answer; then whatever explains the run better. One call at a time, from
    /// any thread.
    std::function<void(const Calibration&)> estimate{};
    std::stop_token stop{};
};

/// Evidence over as_believed that is asked for before another hypothesis is chosen.
inline constexpr double kLeastEvidence = 10;

/// Fits by Levenberg-Marquardt [Marquardt 1963] from several starts for each hypothesis; each hypothesis
/// widens the belief in what its cause names, and is weighed by Laplace's approximation of its evidence. Two
/// at once are looked for where one leaves the runs badly explained. Throws InputError where the runs say too
/// little, or Stopped.
Calibration calibrate(const CalibrationQuery& query, const CalibrationWatch& watch = {});

/// The believed train (of `query.believed`) with the model's options and just these of the numbers fitted,
/// their tolerances of source fitted. Throws InputError for a key that was not free.
Train accepted(const Calibration& calibration, const Train& believed, const std::set<std::string>& keys);

} // namespace bathmos
