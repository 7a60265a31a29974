// What a change really did: the limits of two revisions whose runs were fitted together, and their difference
// with its band (docs/calibration.md, Two revisions together).
#pragma once

#include "core/calibration/calibrated_limit.h"

namespace bathmos {

struct ChangeEffect {
    /// Limits, rev/min: of the other revision and of this one, each as believed and as fitted. Empty where it
    /// reaches none over the speeds of its runs and a fifth above.
    std::optional<double> believed_other_rpm, believed_rpm, other_rpm, this_rpm;
    /// What the limit gained from the other revision to this one; empty where a limit is.
    std::optional<double> believed_gain_rpm, gain_rpm;
    /// Of the gain, from draws of both at once; empty where more than a tenth of them lack a limit.
    std::optional<double> p10_rpm, p50_rpm, p90_rpm;
};

/// One standard deviation that the model adds to the difference of two limits, as a share of the limit: half
/// of what it adds to one, as most of its error is the same before and after (an assumption).
inline constexpr double kModelChange_sd = kModelLimit_sd / 2;

/// Of a calibration whose query had another revision. Throws Stopped, or InputError where a valve does not
/// open or there was no other revision.
ChangeEffect effect_of_change(const CalibrationQuery& query, const Calibration& calibration,
                              const LimitsInForce& limits, const std::stop_token& stop = {});

/// Plain sentence: what the change was believed to do, and what the runs say.
std::string said_of(const ChangeEffect& effect);

} // namespace bathmos
