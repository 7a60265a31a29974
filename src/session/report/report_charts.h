// Pictures of a report or a pack: model and measurement over each other, readable without colour.
#pragma once

#include "core/paper/paper.h"
#include "core/verdict/case_file.h"
#include "session/results/results.h"

namespace bathmos::session {

/// A metric by speed as the model has it and, where `measured` is given, as a run shows it, with its limit.
/// `rows` rising.
paper::Chart metric_chart(Metric metric, const std::vector<SpeedMetrics>& rows,
                          const std::vector<SpeedMetrics>* measured, const LimitsInForce& limits,
                          double low_speed_duration_change_deg, const UnitChoice& units);

/// Lift over the crank angle at a speed: asked (kinematic), computed, and measured where `run` is given, at
/// its nearest speed. `rigid_m` on the grid of the motions.
paper::Chart lift_chart(const Sweep& swept, const std::vector<double>& rigid_m, const RigRun* run,
                        double speed_rpm, const UnitChoice& units);

/// Power of the pulls of a state and of the last good one.
paper::Chart power_chart(const CaseFile& file, const UnitChoice& units);

/// Up to `most` metrics that tell of this case, those that set a limit or an onset first.
std::vector<Metric> telling_metrics(const CaseFile& file, std::size_t most);

} // namespace bathmos::session
