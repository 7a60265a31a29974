// What a change of an assembly does to the numbers that people look at.
#pragma once

#include "core/project/assembly.h"
#include "core/train/train_figures.h"

namespace bathmos {

/// Mass, stiffness, frequencies, loads, margins, separation and limit speed, before and after, whether they
/// differ or not. Frequencies and speeds are plain numbers with their unit in the label.
std::vector<Difference> effects(const TrainFigures& before, const TrainFigures& after,
                                std::optional<double> limit_before_rpm,
                                std::optional<double> limit_after_rpm);

} // namespace bathmos
