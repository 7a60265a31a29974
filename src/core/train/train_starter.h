// Plausible parts to start from: for a new train, and for parts that another layout needs.
#pragma once

#include "core/train/train.h"

namespace bathmos {

/// A valid pushrod train with an analytic lobe; every value is a made-up round number to be replaced.
Train starter_train();

/// The same train in another layout: parts it lacks are added from the starter, parts it has no use for are
/// taken away.
Train with_layout(Train train, Layout layout);

/// A straight spring, and one from a load table, to add to a set.
Spring starter_spring();
Spring starter_table_spring(double installed_height_m); ///< that reaches past that height both ways

/// A hydraulic lifter, or an adjuster under a finger's pivot, of usual size.
HydraulicFollower usual_hydraulic(Layout layout);

/// A planar rocker of the train's arms and pushrod: upright lifter and valve, level at half the lift, leaving
/// the train's lash.
RockerGeometry usual_geometry(const Train& train);

/// Pitches that grow towards the retainer by a fifth of the gap and fill the spring's free length.
std::vector<double> usual_pitches(const CoilGeometry& coil);

} // namespace bathmos
