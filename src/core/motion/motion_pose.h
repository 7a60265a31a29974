// A computed motion at one crank angle as a pose of the drawing.
#pragma once

#include "core/motion/motion.h"
#include "core/train/train_drawing.h"

namespace bathmos {

/// Where the parts are, what has come apart and which coils meet. `exaggeration` multiplies what the computed
/// motion differs from the rigid one by (parts) and from rest under the same lift (coils); 1 is to scale.
TrainPose motion_pose(const Train& train, const RigidMotion& rigid, const Motion& motion, double crank_deg,
                      double exaggeration = 1);

} // namespace bathmos
