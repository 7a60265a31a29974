// Oil under the plunger of a hydraulic lifter or adjuster, as numbers for the integrator (physics.md 5).
#pragma once

#include "core/train/train.h"

namespace bathmos {

inline constexpr double kAmbient_Pa = 101325;
inline constexpr double kStopStiffness_N_per_m = 5e7, kStopDamping_s_per_m = 0.5;
inline constexpr double kCheckDischarge = 0.6, kCheckSmooth_Pa = 1000;
/// The check valve's flow over pressure is held below this many times V/(B h), so that a step of h follows
/// it. That touches the flow only where the pressure is within some kPa of the supply.
inline constexpr double kCheckStep = 1.4;

/// P' = (B/V)(Qin - Qleak - A e'), V = V0 + A e, 1/B = 1/Boil + a p0/P^2; force (P - p0) A + spring, stops.
struct Chamber {
    double area_m2 = 0; ///< 0: no hydraulic follower
    double least_volume_m3 = 0;
    double oil_per_Pa = 0;    ///< 1 / Boil
    double air_Pa = 0;        ///< a p0
    double supply_Pa = 0;     ///< absolute
    double flow_m3_per_s = 0; ///< Cd Ac sqrt(2/rho), times sqrt(Pa) of the drop
    double leak_m3_per_s_per_Pa = 0;
    double spring_N = 0;
    double travel_m = 0;
    double start_m = 0; ///< extension of a run's start
    /// Extension less the difference of the two dofs that it lies between.
    double offset_m = 0;

    /// Force between the plunger's ends with the chamber at supply pressure, N.
    double supply_force_N() const { return (supply_Pa - kAmbient_Pa) * area_m2 + spring_N; }
    /// Stiffness of the closed chamber with no air in the oil and the plunger down, N/m.
    double oil_stiffness_N_per_m() const { return area_m2 * area_m2 / (oil_per_Pa * least_volume_m3); }
};

/// Numbers of a valid follower, SI; its oil and its air by physics.md 5.
Chamber chamber_of(const HydraulicFollower& follower);

} // namespace bathmos
