// A to-scale side view of a train in one position, as outlines in metres; whoever shows it only scales and
// paints. Layouts are arranged in a usual way; only sizes and travels are to scale, as a train file holds no
// places of pivots.
#pragma once

#include "core/train/train.h"

#include <string>
#include <vector>

namespace bathmos {

struct DrawnPoint {
    double x_m, y_m; ///< y upwards
};

struct DrawnPart {
    std::string key; ///< part as in the train file: "lobe", "lifter", "pushrod", "rocker", "valve",
                     ///< "retainer", "springs", "seat"
    std::vector<DrawnPoint> outline;
    bool closed = true;
    bool apart = false; ///< not touching the part that drives it
    bool clash = false; ///< a coil pressed onto its neighbour
};

/// Where the moving parts are. From the rigid motion, or from a computed Motion.
struct TrainPose {
    double cam_rad = 0;
    double follower_m = 0; ///< follower off the base circle
    double input_m = 0;    ///< rocker input
    double lift_m = 0;     ///< valve
    bool cam_apart = false, tip_apart = false, link_apart = false;
    /// Of each coil spring, places of its nodes above the seat, m, from the end of the dead coils to the
    /// retainer, and whether the segment above each but the last is closed; empty: coils evenly spaced.
    struct Coils {
        std::vector<double> node_m;
        std::vector<bool> closed;
    };
    std::vector<Coils> coils{};
};

/// Pose of the rigid train at a cam angle.
TrainPose rigid_pose(const RigidMotion& rigid, double cam_rad);

/// Whether the pushrod is drawn shorter than it is, with a break in it, so that valve and springs get the
/// room.
bool rod_is_shortened(const Train& train);

/// Outlines from back to front.
std::vector<DrawnPart> draw_train(const Train& train, const RigidMotion& rigid, const TrainPose& pose);

} // namespace bathmos
