// What one pull says: peaks, trend, break, roughness (physics.md 9).
#pragma once

#include "core/dyno/power_break.h"
#include "core/tasks/tasks.h"

namespace bathmos {

inline constexpr double kRoughBand_rpm = 250;

struct Roughness {
    double from_rpm = 0, middle_rpm = 0; ///< of a band of 250 rev/min; the middle of what was read in it
    double rms_W = 0;                    ///< of the power less its trend
    double over_mid_range = 0;           ///< times the pull's own mid-range
};

/// Power that is cut off: limiter, lifted foot, nothing that a valve does.
struct PowerCut {
    double speed_rpm = 0;
    double share = 0; ///< of the power that is gone
};

struct PullAnalysis {
    bool corrected = false; ///< as the pull was
    PowerCurve curve;
    std::vector<double> trend_W; ///< at the curve's places
    PowerBreaks breaks;
    double peak_rpm = 0, peak_W = 0;                ///< of the trend
    double torque_peak_rpm = 0, torque_peak_Nm = 0; ///< of the trend
    std::vector<Roughness> roughness;
    double mid_range_rms_W = 0; ///< median band between 25 and 70 % of the range and below the first break
    /// Where the upper range turns rough and stays so: three bands in a row, or all to the end, over 1.6
    /// times the mid-range.
    std::optional<double> rough_from_rpm;
    double rough_top =
        1; ///< median of the bands above the break, else of the top quarter, over the mid-range
    std::optional<PowerCut> cut;
    /// The first break; null where none is claimed.
    const PowerBreak* first_break() const { return breaks.breaks.empty() ? nullptr : &breaks.breaks.front(); }
};

/// Throws InputError for too few readings (power_curve); Stopped.
PullAnalysis analyse(const Pull& pull, const std::stop_token& stop = {});

/// Mean break of several pulls of one state: weighed by confidence, with the scatter of their speeds; empty
/// where under half of them break. Places more than 600 rev/min from their median do not count.
struct StateBreak {
    double speed_rpm = 0, scatter_rpm = 0, depth_W = 0, confidence = 0;
    std::size_t pulls = 0, of = 0;
    bool growing = false; ///< a loss that grows from nothing, seen against the state before alone
};
/// `pulls` without null. The confidence is the largest among those that count.
std::optional<StateBreak> break_of_state(const std::vector<const PullAnalysis*>& pulls);

} // namespace bathmos
