// A place found by the search in words of the train: values, deviations, what was not told, what warns.
#pragma once

#include "core/calibration/calibrate.h"
#include "core/calibration/search.h"

#include <stop_token>
#include <string>
#include <vector>

namespace bathmos {

/// Of one query and its model, which must outlive it.
class FitReport {
  public:
    FitReport(const CalibrationQuery& query, const FitModel& model) : query_(query), model_(model) {}

    /// All of a calibration but its hypotheses. `believed_lift_m`: what the trains as believed show at each
    /// observation. Throws Stopped.
    Calibration of(const Found& found, const std::vector<std::vector<double>>& believed_lift_m,
                   const std::stop_token& stop) const;
    /// Warns of an onset that nothing which was tried explains.
    void warn_of_onset(const OffTrend& missed, Calibration& out) const;

  private:
    void add_numbers(const Found& found, Calibration& out) const;
    void add_correlations(const Found& found, Calibration& out) const;
    void add_residuals(const Offsets& x, const std::vector<std::vector<double>>& believed_lift_m,
                       const std::stop_token& stop, Calibration& out) const;
    void add_draws(const Found& found, Calibration& out) const;
    void warn_of_run(std::size_t run, Calibration& out) const;
    void warn(Calibration& out) const;
    std::string name_of_run(std::size_t run) const;

    const CalibrationQuery& query_;
    const FitModel& model_;
};

} // namespace bathmos
