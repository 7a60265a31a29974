// A train with free numbers, and what sensors would show of it at the speeds observed: values and
// derivatives, many trains at once.
#pragma once

#include "core/calibration/free_numbers.h"
#include "core/calibration/off_trend.h"
#include "core/motion/lift_batch.h"
#include "core/problem/input_error.h"
#include "core/tasks/tasks.h"

#include <Eigen/Core>
#include <memory>
#include <optional>
#include <stop_token>
#include <vector>

namespace bathmos {

/// Offsets of all numbers: first those of the train, then gain, phase and delay of each run's sensor.
using Offsets = Eigen::VectorXd;

/// Which observations are run: those that are fitted, or those held out, too.
enum class Which { Fitted, All };

/// Residuals of each observation, whitened: observed less shown, in standard deviations; empty for those held
/// out. Behind them, where the model heeds it, one number each: how far the motion is off its trend.
struct Residuals {
    std::vector<Eigen::VectorXd> of;
    std::vector<Eigen::MatrixXd> by_offset; ///< derivatives; empty unless asked for
};

class FitModel {
  public:
    /// One train, or two that are fitted together; `train_of_run` says for each run which of them was spun.
    /// Throws InputError for parts that the model does not know.
    FitModel(const std::vector<Train>& believed, std::vector<FreeNumber> numbers,
             std::vector<ObservedSpeed> observed, std::vector<std::size_t> train_of_run);

    std::size_t size() const { return numbers_.size() + kSensor * train_of_run_.size(); }
    std::size_t trains() const { return spun_.size(); }
    std::size_t runs() const { return train_of_run_.size(); }
    const Train& believed(std::size_t train) const { return spun_[train].believed; }
    const std::vector<FreeNumber>& numbers() const { return numbers_; }
    const std::vector<ObservedSpeed>& observed() const { return observed_; }
    /// The same model which counts, too, how far the motion is off its trend from the onset on that a run
    /// shows: as many residuals more as there are speeds held against a trend.
    FitModel heeding_trend() const;
    std::size_t residual_count() const { return observed_.size() + (heeds_trend_ ? on_trend_.size() : 0); }
    /// Whether a residual is of a trend, and whether it is fitted.
    bool of_trend(std::size_t residual) const { return residual >= observed_.size(); }
    bool fits(std::size_t residual) const { return of_trend(residual) || !observed_[residual].held_out; }
    /// Standard deviations of belief, in the offsets' units.
    const Eigen::VectorXd& prior_sd() const { return prior_sd_; }
    /// Where the number of a train stands among the offsets; size() where it is not free.
    std::size_t place_of(std::string_view key, std::size_t train) const;

    /// The believed train with its numbers moved by the offsets.
    Train train_at(const Offsets& x, std::size_t train) const;
    /// Mean lift at each observation, over a Motion's grid, m; empty for those that are not run.
    /// Throws Stopped.
    std::vector<std::vector<double>> lifts(const Offsets& x, Which which, const std::stop_token& stop,
                                           std::size_t workers = 1) const;
    /// Shortens the steps of the derivatives by what they do at the offsets: a train rings after it opens,
    /// and a number that moves its pitch bends the residuals soon. Until then all are long. Throws likewise.
    void fit_steps(const Offsets& x, const std::stop_token& stop);
    /// Whether the number's step was shortened: there may be more than one place where it fits.
    bool bends_soon(std::size_t number) const;
    /// Of many places, side by side, on all cores; empty where a train's numbers run away. Throws Stopped.
    std::vector<std::optional<Residuals>> residuals_at(const std::vector<Offsets>& places,
                                                       const std::stop_token& stop) const;
    /// Throws Stopped, or InputError where a train's numbers run away.
    Residuals residuals(const Offsets& x, bool derivatives, const std::stop_token& stop) const;
    /// The same from lifts that are known already.
    Residuals residuals_of(const Offsets& x, const std::vector<std::vector<double>>& lift_m) const;
    /// What the sensor shows at an observation less what was seen, m.
    Eigen::VectorXd difference_m(const Offsets& x, const std::vector<double>& lift_m, std::size_t at) const;

    /// How far each speed that is held against a trend is off it, heeded or not, from the lifts there.
    std::vector<OffTrend> off_trends(const Offsets& x, const std::vector<std::vector<double>>& lift_m) const;

    /// Numbers of each run's sensor.
    static constexpr std::size_t kSensor = 3;

  private:
    Reading reading_at(const Offsets& x, std::size_t run) const;
    Eigen::VectorXd whitened(const Offsets& x, const std::vector<double>& lift_m, std::size_t at) const;
    OffTrend off_trend(const Offsets& x, const std::vector<std::vector<double>>& lift_m,
                       std::size_t at) const;
    /// One of all, empty for what is held out.
    Eigen::VectorXd residual(const Offsets& x, const std::vector<std::vector<double>>& lift_m,
                             std::size_t which) const;
    /// A train as it was spun in its runs.
    struct Spun {
        Train believed;
        std::shared_ptr<CamTables> tables; ///< its lobe is no number
        std::vector<double> speeds_rpm; ///< of all its observations, each once, those that are fitted first
        std::size_t fitted = 0;         ///< how many these are
    };
    /// Mean lifts at each observation, and where the dofs stand at the end of each speed of each train.
    struct Run {
        std::vector<std::vector<double>> lift_m;
        std::vector<std::vector<RestState>> end;
        std::optional<InputError> failure{}; ///< of a train that could not be run: nothing else is meaningful
    };
    /// Offsets to be run, of all trains or of those that one number moves; the others' lifts stay empty.
    struct Variant {
        Offsets x;
        const FreeNumber* number = nullptr;
    };
    /// All variants side by side, from rest or from where those near them ended, which takes fewer cycles.
    /// Throws only Stopped.
    std::vector<Run> run(const std::vector<Variant>& variants, Which which, const Run* near,
                         std::size_t workers, const std::stop_token& stop) const;
    struct Spin;
    std::vector<Spin> spins_of(const std::vector<Variant>& variants, Which which,
                               std::vector<Run>& out) const;
    static Run&& ran(Run&& run); ///< throws its failure
    /// Once more in shorter steps what ran away, as often as that may help.
    void halve_runaways(std::vector<Spin>& spins, const CycleRule& rule, std::vector<LiftTask>& tasks,
                        std::vector<LiftOfTask>& lifts, const std::stop_token& stop) const;
    void take(const Spin& spin, const std::vector<LiftOfTask>& lifts, Run& out) const;
    std::size_t train_of(const ObservedSpeed& seen) const { return train_of_run_[seen.run]; }
    void derive_by_sensor(const Offsets& x, const std::vector<std::vector<double>>& lift_m,
                          Residuals& out) const;

    std::vector<Spun> spun_;
    std::vector<FreeNumber> numbers_;
    std::vector<ObservedSpeed> observed_;
    std::vector<std::size_t> on_trend_; ///< the observations that are held against a trend
    bool heeds_trend_ = false;
    std::vector<std::size_t> train_of_run_;
    Eigen::VectorXd prior_sd_;
    std::vector<double> step_; ///< of each number's derivative, in its offset's unit
};

} // namespace bathmos
