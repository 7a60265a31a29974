// One lobe as two machines gauged it: what they differ by that is the machines' own, and what is left.
#pragma once

#include "core/lobe/gauge.h"
#include "core/units/measured_text.h"

#include <vector>

namespace bathmos {

/// A number with its standard deviation, SI.
struct FoundNumber {
    double value = 0, sd = 0;
};

struct Reconciled {
    FoundNumber
        shift_rad;        ///< the second's angle is ahead by this, cam rad, once both are laid on their noses
    FoundNumber scale;    ///< the second's lift over the first's
    FoundNumber offset_m; ///< the second's base circle reads higher
    FoundNumber runout_m; ///< amplitude of the wave once a turn between them
    bool mirrored = false;            ///< the second was gauged against the rotation of the first
    double left_m = 0;                ///< root mean square of what is left
    double expected_m = 0;            ///< the same, as both machines' noise makes it
    double worst_m = 0;               ///< most of what is left, mean of five readings
    double worst_rad = 0;             ///< where, cam rad from the nose
    bool one_lobe = true;             ///< what is left is not so much that these are two lobes, or one slips
    bool agree = false;               ///< nothing is left beyond noise, and scale and runout are none
    std::vector<double> theta_rad;    ///< of the second's readings, laid on the first
    std::vector<double> difference_m; ///< second, corrected, less first
    std::vector<MeasuredText> told;   ///< in words, what matters first
};

/// Least squares of the second's readings y on the first's curve f, with heavy tails held back [Huber 1964]:
/// y(theta) = scale f(theta - shift) + offset + a cos theta + b sin theta.
/// Throws InputError as curve_of() does, and where the second has fewer than 20 readings.
Reconciled reconcile(const Lobe& first, const Lobe& second);

/// Both machines' readings in one table, the second's laid on the first by what reconcile() found. Throws
/// InputError as combine() does, and where they are not one lobe.
CombinedPasses joined(const Lobe& first, const Reconciled& found);

} // namespace bathmos
