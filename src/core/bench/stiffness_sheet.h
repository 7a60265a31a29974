// Stiffness of a part by load and dial, and a rocker's inertia by its swing (docs/bench.md, Stiffness,
// Rocker).
#pragma once

#include "core/bench/readings.h"

#include <optional>

namespace bathmos::bench {

/// SI, one dial reading for each force.
struct StiffnessSheet {
    Readings force_N, dial_m;
};

struct StiffnessFigures {
    Figure stiffness_N_per_m;
    double r_squared = 1;
    Figure slack_m;         ///< of the dial before the part takes load
    std::vector<Told> told; ///< "not_straight", "drift"
};

/// The dial over the force by least squares from a tenth of the largest force on; what the dial shows at no
/// load is taken out. Not straight: r squared under 0.99, or a curvature of over 3 % and three deviations.
/// Throws InputError for under three forces above that tenth, and for a dial that goes back as the load
/// grows.
StiffnessFigures figures_of(const StiffnessSheet& sheet);

/// A part hung at its pivot and let swing.
struct SwingSheet {
    Readings ten_swings_s; ///< one place, repeated
    Figure mass_kg, pivot_to_centre_m;
};

/// Inertia about the pivot, kg m2: m g d (T / 2 pi)^2, small swings [Meriam & Kraige 2012, 8/2]. Throws
/// InputError for a time, mass or distance that is not above 0, and for a period too short for that distance.
Figure inertia_kg_m2(const SwingSheet& sheet);

} // namespace bathmos::bench
