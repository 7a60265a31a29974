// What a calibrated run says of why the valve leaves the lobe: numbers that depart from belief, each with
// what it costs, and mechanisms of the calibrated model, each switched off in turn (docs/calibration.md, From
// evidence to cause).
#pragma once

#include "core/calibration/calibrated_limit.h"
#include "core/motion/limit_gain.h"

namespace bathmos {

/// A cause whose numbers depart from belief.
struct RunDeparture {
    std::string cause;
    double log_evidence = 0;        ///< over as_believed; of two at once, over the best without this one
    std::optional<double> gain_rpm; ///< what the limit gains when just these numbers are as believed
};

/// Something that the calibrated model can do without: what its limit gains then.
struct RunMechanism {
    std::string cause, label; ///< "spring damping twelve times as strong"
    double gain_rpm = 0;
};

struct RunReading {
    std::string chosen;        ///< hypothesis that the calibrated train stands on
    std::string chosen_with{}; ///< what departs beside it, where two do at once
    std::optional<double> limit_rpm, p10_rpm, p50_rpm, p90_rpm, onset_rpm; ///< of the calibrated train
    /// The limit of that train by itself, without what the run has shown of its landing (seating_seen.h).
    std::optional<double> train_limit_rpm{};
    std::optional<Metric> limit_metric, onset_metric;
    std::vector<RunDeparture> departures; ///< likeliest first
    std::vector<RunMechanism> mechanisms;
    double bind_margin_m = 0; ///< of the calibrated train at peak lift
};

/// Tries each departure and each mechanism by the limit's gain, judged by the limits that `limit` was. Throws
/// InputError; Stopped.
RunReading read_run(const Calibration& calibration, const CalibratedLimit& limit, LimitQuestion question,
                    const ProgressSink& progress = {});

} // namespace bathmos
