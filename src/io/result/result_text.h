// Results as CSV and JSON text, columns and keys as in formats.md.
#pragma once

#include "core/calibration/change_effect.h"
#include "core/calibration/lobe_seen.h"
#include "core/motion/hold.h"
#include "core/motion/sweep.h"
#include "core/rig/height_losses.h"
#include "core/rig/rig_run.h"
#include "core/rig/run_compare.h"
#include "core/uncertainty/limit_uncertainty.h"
#include "core/whatif/stiffness_gain.h"

#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace bathmos::io {

/// One cycle: crank_deg, lift_mm, kinematic_mm and forces, every `step_deg` from -360 to 360.
std::string motion_csv(const Motion& motion, const RigidMotion& rigid, double step_deg);

/// The motion nearest a speed with everything that was recorded of it: crank_deg, kinematic_mm, each channel,
/// and at every fourth point the place of each coil (coil_01_mm ...).
std::string motion_table(const std::vector<std::shared_ptr<const Motion>>& motions,
                         const std::vector<double>& rigid_m, double speed_rpm);

std::string sweep_csv(const Sweep& sweep);
std::string sweep_json(const SweepSummary& summary, const std::vector<Finding>& cautions = {});

/// Columns as a sweep's without forces (empty where a sensor cannot see them), then why cycles were left out,
/// and the zero.
std::string rig_csv(const RigRun& run);
std::string rig_json(const RigRun& run);
/// What a recording heard beside its turns.
struct RecordingCounts {
    std::uint64_t samples = 0, lost = 0, good_cycles = 0, bad_cycles = 0;
    std::size_t pieces = 0;
    std::string stopped; ///< the stop rule that ended it; ""
};
/// A rig's summary with what its recording heard.
std::string recorded_json(const RigRun& run, const RecordingCounts& counts);
/// Runs against each other: each run's edge, scale, noise and losses by height, useful while every
/// duration is kept; what was gained, what was told.
std::string compare_json(const std::vector<RunOfTrain>& runs, const RunComparison& comparison,
                         const DurationsKept& kept);

/// Of the command "stiffness" (docs/format.md).
std::string stiffness_json(const StiffnessBudget& budget, const std::string& limits_name);
/// Percentiles with their errors, and each input's share of the variance.
std::string uncertainty_json(const LimitUncertainty& uncertainty, const std::string& limits_name);
/// One row a cycle: time, lift, loads, and the metrics of a sweep.
std::string hold_csv(const Hold& hold);

/// Columns of a sweep row in the order of the file.
const std::vector<Metric>& sweep_columns();
/// Of these, what a rig can see.
const std::vector<Metric>& rig_columns();

/// A calibration and the limit it gives, numbers in the units of the train file (docs/format.md,
/// bathmos-cli); with the effect of the change where two revisions were fitted together, null for one.
std::string calibration_json(const Calibration& calibration, const CalibratedLimit& limit,
                             const std::string& limits_name, const ChangeEffect* change = nullptr);

} // namespace bathmos::io
