// The dynamic model of one train, compiled to the numbers the integrator needs (physics.md 5).
//
// One chain: drive (cam to tip) -> tip contact -> valve on its seat -> spring coils. Layouts differ in the
// drive only:
//   pushrod  follower x and rocker q, a link that cannot pull between them
//   rocker / finger  rocker q alone, the cam on it
//   bucket   follower x alone, the tip on it
// Degrees of freedom stand in one list: the drive's, the valve, then the free coils of each spring from seat
// to retainer.
#pragma once

#include "core/math/cubic_curve.h"
#include "core/spring/spring.h"
#include "core/train/train.h"

#include <cstddef>
#include <vector>

namespace bathmos {

/// Equal angle steps of a cycle; the look-up tables also hold the half steps.
inline constexpr std::size_t kStepsPerCycle = 2880;
/// Points of the recorded cycle: every 0.5 crank degree, both ends.
inline constexpr std::size_t kGridSteps = 1440;
inline constexpr std::size_t kGridPoints = kGridSteps + 1;
inline constexpr double kGridStep_crank_deg = 720.0 / kGridSteps;
inline constexpr double kClashStiffness_N_per_m = 1e7;

/// Hunt-Crossley contact: F = k p (1 + chi p') for penetration p > 0, never below 0 [Hunt & Crossley 1975].
struct ContactLaw {
    double stiffness_N_per_m = 0;
    double damping_s_per_m = 0;
};

/// One spring as a chain of segments, with its place in the list of degrees of freedom.
struct ChainSpring {
    SpringSegments segments;
    BinnedCubic table; ///< load over the whole spring's height (table springs)
    std::size_t first_dof = 0;
    double rub_per_coil_N = 0; ///< Fd / n
};

struct Chain {
    Layout layout = Layout::Pushrod;
    std::size_t dof = 0;
    std::size_t valve_dof = 0;   ///< drive dofs stand before it
    std::size_t rocker_dof = 0;  ///< input of the rocker map: q, or the bucket's x
    std::vector<double> mass_kg; ///< of each dof

    ContactLaw cam, tip, seat;
    double link_stiffness_N_per_m = 0, link_damping_s = 0; ///< pushrod layout
    double follower_drag_N_s_per_m = 0, rocker_drag_N_s_per_m = 0;
    double valve_drag_N_s_per_m = 0, coulomb_N = 0, gas_N = 0;
    double ratio = 1; ///< fixed ratio; unused where ratio_table is not empty
    BinnedCubic ratio_table;
    double lash_m = 0;
    double height_m = 0; ///< installed height
    std::vector<ChainSpring> springs;

    std::size_t refine = 1; ///< steps = kStepsPerCycle * refine, above 1 only where a stiff part asks for it
    std::vector<double> rise_m;     ///< at each half step, from theta = -pi, one turn
    std::vector<double> rise_slope; ///< ds/dtheta there
    std::vector<double> rigid_m;    ///< yk at the grid points

    std::size_t steps() const { return kStepsPerCycle * refine; }
};

/// Builds the chain of a valid train with kStepsPerCycle * refine steps a cycle.
/// Throws InputError for parts that the model does not know.
Chain chain_of(const Train& train, const RigidMotion& rigid, std::size_t refine = 1);

/// Smallest power of two by which steps must be divided at a speed so that the stiffest part is followed
/// closely: an upper bound of the own frequencies (Gershgorin) times the step in time stays below kCloseStep.
/// Throws InputError above kMostRefine.
std::size_t refine_for(const Chain& chain, double speed_rpm);
/// 0.30 keeps demo and reference trains within 1 um of an independent integration at all speeds; plain
/// stability would allow 2.78.
inline constexpr double kCloseStep = 0.30;
inline constexpr std::size_t kMostRefine = 64;

/// Positions of all dofs at rest on the base circle: valve pressed into its seat by the springs, all forces
/// in balance.
std::vector<double> rest_position_m(const Chain& chain);

/// Static load of all springs at a valve lift, N, by the laws of the chain without clash.
double static_spring_N(const Chain& chain, double lift_m);

/// Static places of the free coils of a spring for a valve lift, m, seat to retainer.
std::vector<double> static_coils_m(const Chain& chain, const ChainSpring& spring, double lift_m);

} // namespace bathmos
