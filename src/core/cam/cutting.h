// Whether a lobe can be cut, and run under its follower: contact on a flat face, radii, pressure angle, the
// grinding wheel (physics.md 2, [Norton]).
#pragma once

#include "core/lobe/lobe.h"
#include "core/train/train_figures.h"

#include <optional>
#include <vector>

namespace bathmos {

/// A number at its worst place on the lobe.
struct Worst {
    double value = 0;
    double theta_rad = 0;
    double cam_lift_m = 0;
};

struct Cutting {
    FollowerKind follower = FollowerKind::Roller;
    /// Flat: where the contact runs from the follower's axis, opening (positive s') and closing, m.
    Worst opening_offset_m, closing_offset_m;
    /// Flat: the face that the contact sweeps, edge to edge, m.
    double swept_width_m = 0;
    /// Smallest radius of the convex contour, m; negative: undercut, cannot be made.
    Worst least_convex_m;
    /// Roller: largest angle between the contact's normal and the follower's line, each side.
    Worst opening_pressure_rad, closing_pressure_rad;
    /// Roller with a hollow flank: smallest concave radius of the contour, which is the largest wheel's; m.
    std::optional<Worst> least_concave_m;
};

/// Numbers of a lobe under its follower (base radius and, for a roller, its radius must be given). Throws
/// InputError (location "lobe.base_radius_mm" ...) where they are not.
Cutting cutting_of(const Lobe& lobe, const LobeCurve& curve);

/// What stands against it: stop, warn or note, with reason. `cut_for`: what its maker ground it for;
/// `wheel_m`: diameter of the wheel that shall grind it, 0 where unknown.
std::vector<Finding> cutting_findings(const Lobe& lobe, const Cutting& cutting,
                                      std::optional<FollowerKind> cut_for, double wheel_m);

} // namespace bathmos
