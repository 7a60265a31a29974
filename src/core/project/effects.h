// What a change of an assembly does to the numbers that people look at.
#pragma once

#include "core/project/assembly.h"
#include "core/train/train_figures.h"

namespace bathmos {

/// What is known of a revision's limits: the first of its set, the one by force, the onset that a rig could
/// see.
struct LimitsKnown {
    std::optional<double> limit_rpm, contact_loss_rpm, onset_rpm;
};
/// Mass, stiffness, frequencies, loads, margins, separation and limit speed, before and after, whether they
/// differ or not. Frequencies and speeds are plain numbers with their unit in the label.
std::vector<Difference> effects(const TrainFigures& before, const TrainFigures& after,
                                const LimitsKnown& known_before, const LimitsKnown& known_after);

} // namespace bathmos
