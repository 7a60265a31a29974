// Numbers that a train of its layout hardly has: asked back, for they are more often a slip of the unit than
// a new kind of engine. What cannot be at all is refused elsewhere (train_check).
#pragma once

#include "core/train/train.h"
#include "core/train/train_figures.h"

#include <optional>
#include <string_view>
#include <vector>

namespace bathmos {

/// What a number usually is, wide, in the units of the train file; a key of a spring stands without its
/// number.
struct UsualRange {
    std::string_view key;
    double low, high;
    std::string_view why; ///< what has the ends
};
/// One row a number; numbers without a row may be anything that train_check lets through.
const std::vector<UsualRange>& usual_ranges();

/// The key under which findings of unusual numbers stand, marks predictions.
inline constexpr std::string_view kUnusual = "unusual";

/// Findings with rule kUnusual that ask back, one a number outside of its range; the lobe's lift among them.
std::vector<Finding> unusual_numbers(const Train& train);

/// The same for a lobe alone: its lift at the follower, m. Empty where it is usual.
std::optional<Finding> unusual_lobe_lift(double lift_m);

} // namespace bathmos
