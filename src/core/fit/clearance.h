// Gaps between valve and piston and between two valves, for a given motion (design.md, Fit and safety).
#pragma once

#include "core/motion/motion.h"
#include "core/project/project.h"

#include <functional>

namespace bathmos {

/// Valve lift, m, over crank angle from the nose, degrees in -360..360.
using LiftOf = std::function<double(double crank_deg)>;
/// Kinematic lift. `rigid` must outlive it.
LiftOf rigid_lift(const RigidMotion& rigid);
/// Computed motion; where it does not repeat, the highest of its cycles.
LiftOf computed_lift(const Motion& motion);

/// Smallest gap of a cycle and where it is.
struct Clearance {
    double least_m = 0;
    double crank_deg = 0; ///< from the dead centre of overlap
};

/// How far the piston is below top dead centre, m, at a crank angle from it (slider and crank without
/// offset).
double piston_drop_m(const Engine& engine, double crank_rad);

/// Along the valve's axis: the lift that touches at top dead centre, as measured, plus how far the piston has
/// gone, less the lift, while the valve is open. Empty until stroke, rod, that lift and the centre line are
/// given.
std::optional<Clearance> piston_clearance(const Engine& engine, const Build& build, const LiftOf& lift);

/// Between the heads of an intake and an exhaust valve, seen along the line of their middles as straight
/// edges that tilt with their axes. Empty until the distance of the heads and both centre lines are given.
std::optional<Clearance> valve_clearance(const Engine& engine, const Build& intake, double intake_head_m,
                                         const LiftOf& intake_lift, const Build& exhaust,
                                         double exhaust_head_m, const LiftOf& exhaust_lift);

} // namespace bathmos
