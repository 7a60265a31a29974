// A rig trace reduced to cycles on an even angle grid, aligned with the model, with metrics and the onset
// (physics.md 7, 8).
#pragma once

#include "core/motion/limits.h"
#include "core/motion/motion.h"
#include "core/motion/onset.h"
#include "core/rig/rig_trace.h"
#include "core/tasks/tasks.h"
#include "core/train/train.h"
#include "core/units/measured_text.h"

#include <array>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

namespace bathmos {

/// Why a cycle was not used.
enum class BadCycle : std::size_t { Dropout, Spike, Stuck, Slipped, Short, Count };
inline constexpr std::size_t kBadCycles = static_cast<std::size_t>(BadCycle::Count);
/// In words, as warnings have it.
std::string_view name_of(BadCycle reason);
using BadCycleCounts = std::array<std::size_t, kBadCycles>;

/// All cycles at one speed. Grids as a Motion's: kGridPoints from -360 to 360 crank degrees, 0 at the nose.
struct RigStep {
    double speed_rpm = 0;
    std::size_t used = 0;
    BadCycleCounts dropped{};
    double zero_mm = 0;              ///< raw sensor level of the loaded seat
    bool zero_carried = false;       ///< from neighbouring speeds, as the valve does not seat here
    std::vector<double> lift_m;      ///< average, zero = first touch as in the model
    std::vector<double> deviation_m; ///< standard deviation over cycles
    Metrics metrics;                 ///< of the average; CycleVariation over the cycles
    Metrics repeat_deviation;        ///< standard deviation of each cycle's own metrics
    std::optional<double> oil_C;     ///< median over its cycles; empty where nobody has said it
};

struct RigRun {
    std::string source, valve;
    std::vector<RigStep> steps; ///< rising speeds
    double phase_deg = 0;   ///< crank angle of the nose after the index pulse, from the slowest step, 0..720
    double scale_ratio = 1; ///< rig lift over model lift at the slowest step; not applied
    double noise_m = 0;     ///< standard deviation of a single reading on the seat
    double seat_m = 0;      ///< how far the springs press the valve into its seat; subtracted
    BadCycleCounts dropped{};
    OnsetResult onset;
    LimitSpeed limit;
    std::string limits_name; ///< of the set that it was judged by
    double low_speed_duration_change_deg = 0;
    std::vector<MeasuredText> not_judged; ///< limits inside the noise floor
    std::vector<MeasuredText> warnings;   ///< in words, for the user

    /// Mean metrics of each step, rising speeds.
    std::vector<SpeedMetrics> rows() const;
    /// Index of the step nearest a speed. `steps` not empty.
    std::size_t nearest(double speed_rpm) const;
};

struct RigOptions {
    bool reversed = false; ///< the sensor's reading falls as the valve opens
    LimitsInForce limits{};
    ProgressSink progress{};
    std::stop_token stop{};
};

/// Reduces a trace against a valid train: the model at the slowest step gives phase and scale.
/// Throws InputError (source = the trace's) when there is nothing to reduce, the sensor reads backwards, or
/// the model of the train does not open its valve; Stopped.
RigRun reduce(const RigTrace& trace, const Train& train, const RigOptions& options = {});

} // namespace bathmos
