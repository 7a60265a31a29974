// The pushrod length that gives a rocker's geometry the lifts which two dials read (docs/bench.md, Ratio).
#pragma once

#include "core/bench/ratio_sheet.h"
#include "core/train/train.h"

namespace bathmos::bench {

struct GeometryFit {
    /// Of the pushrod, against the train's. A stand that is higher by as much shows the same: the dials see
    /// only what the rod has over the stand.
    Figure longer_m;
    double before_m = 0, after_m = 0; ///< root mean square of readings less geometry
};

/// Least squares over all readings under the checking spring, no lash; within a millimetre beforehand (one
/// deviation), so that what the readings do not tell stays as believed. Empty for a train whose rocker is no
/// geometry, for under four readings, and where the linkage does not close.
std::optional<GeometryFit> fit_geometry(const RatioSheet& sheet, const Train& train);

} // namespace bathmos::bench
