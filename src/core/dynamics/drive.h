// The kinds of drive between cam and rocker input: which parts move, where they rest, how stiff they are. The
// laws of each stand in drive_*-inl.h.
#pragma once

#include "core/dynamics/chain.h"

#include <vector>

namespace bathmos {

/// What the rest of the chain must know of a kind of drive. Positions and masses are in the order of its
/// dofs.
struct DriveSetup {
    DriveKind kind;
    /// Appends masses and names of the drive's dofs; sets rocker_dof.
    void (*add)(const Train& train, Chain& chain);
    /// Force that the drive at rest puts on the valve's tip by itself, N: of oil under pressure; else 0.
    double (*preload_N)(const Chain& chain);
    /// Positions on the base circle under a force at the tip of a valve at a lift, m.
    std::vector<double> (*rest_m)(const Chain& chain, double tip_N, double lift_m);
    /// Plunger's rise off the body (or pivot) in positions, less the chamber's offset; 0 without oil.
    double (*plunger_m)(const std::vector<double>& position_m);
    /// Upper bounds of stiffness felt at each dof, N/m, given the tip's as felt at the rocker's input.
    std::vector<double> (*stiffness_N_per_m)(const Chain& chain, double input_N_per_m);
};

/// The drive that a valid train has. Throws InputError for a hydraulic follower in a rocker layout.
DriveKind drive_kind(const Train& train);
/// How a drive's dofs are made and laid to rest; one for each kind.
const DriveSetup& drive_setup(DriveKind kind);

} // namespace bathmos
