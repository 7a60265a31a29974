// A rocker by its planar geometry: pushrod, cup arm, tip arm and the lines that lifter and valve move on
// (physics.md 4).
//
// The pivot is the origin. Directions are angles from +x, counter-clockwise. The two arms belong to the
// rocker (input and output arm), the length to the pushrod.
#pragma once

#include "core/rocker/rocker_map.h"

namespace bathmos {

struct RockerGeometry {
    double arms_angle_rad = 0; ///< between cup arm and tip arm
    double tip_radius_m = 0;   ///< of roller or pad
    double lifter_x_m = 0, lifter_y_m = 0,
           lifter_angle_rad = 0;                              ///< pushrod's seat on the base circle; rising
    double valve_x_m = 0, valve_y_m = 0, valve_angle_rad = 0; ///< stem tip, valve closed; opening
    bool operator==(const RockerGeometry&) const = default;
};

/// The rocker as a planar linkage of fixed lengths.
class RockerLinkage {
  public:
    RockerLinkage(const RockerGeometry& geometry, double cup_arm_m, double tip_arm_m, double pushrod_m);

    struct Place {
        double travel_m;         ///< of the tip along the valve's axis, from that at rise 0
        double contact_offset_m; ///< of the contact from the stem's axis, positive away from the pivot
        double pushrod_rad;      ///< lean of the pushrod against the lifter's line
    };
    /// For a lifter lift, m. Throws InputError where pushrod and cup arm cannot meet.
    Place at(double rise_m) const;
    /// Gap left between rocker and stem at rise 0, m; what the geometry says the lash is.
    double gap_m() const;

  private:
    struct Point {
        double x, y;
    };
    Point tip(double rise_m) const;
    Point seat(double rise_m) const;
    Point cup(double rise_m) const;

    RockerGeometry g_;
    double cup_arm_m_, tip_arm_m_, pushrod_m_;
    double turn_rad_ = 0; ///< from cup arm to tip arm, with its sign
};

/// g(q) of a linkage over the travel that a lobe of this lift can ask for, as a natural spline.
/// Throws InputError where it does not close within that travel.
RockerMap map_of(const RockerLinkage& linkage, double lobe_lift_m);

} // namespace bathmos
