// A spring on the tester: its curve without rub, loads at the build's heights, rate, solid, rub, and whether
// what somebody wrote down can be (docs/bench.md, Spring).
#pragma once

#include "core/bench/readings.h"

#include <optional>

namespace bathmos::bench {

enum class Going { Down, Up }; ///< Down: being pressed

/// What was written down elsewhere of the same spring, at the same heights.
struct ClaimedSpring {
    std::optional<double> seat_N, open_N, rate_N_per_m;
};

/// SI. `height_m`, `load_N` and `going` are of one length.
struct SpringSheet {
    std::vector<double> height_m;
    Readings load_N;
    std::vector<Going> going; ///< empty: all pressed down
    double height_resolution_m = 0;
    std::optional<double> installed_height_m, valve_lift_m, free_length_m, mass_kg;
    std::optional<double> free_after_m; ///< free length after it was pressed to solid
    std::optional<double> lean_m;       ///< of its top, standing free on a plate
    double active_share = 1;            ///< of its mass, by the train it is for
    ClaimedSpring claimed{};
};

struct SpringFigures {
    std::optional<Figure> seat_N, open_N; ///< at the installed height, and that less the valve lift
    Figure rate_N_per_m;                  ///< between these two, else over the range that was pressed
    std::optional<Figure> solid_m;        ///< empty: not reached
    std::optional<Figure> friction_N;     ///< half the loop; empty where it was only pressed
    std::optional<Figure> margin_m;       ///< open height less solid
    std::optional<double> surge_Hz;       ///< first surge of its coils, both ends held; with its mass
    std::vector<Told> told;               ///< "entry", "solid_not_reached", "drift", "repeat", "set", "leans"
    /// The curve without rub at the heights read, rising height, coils not yet solid.
    std::vector<double> curve_height_m, curve_load_N;
};

/// The curve is a polynomial of first to third degree through all readings above solid, its degree by
/// Akaike's criterion for few readings [Hurvich & Tsai 1989], rub being a step between down and up;
/// deviations by its residuals and the instruments. Solid: from where the local rate is over ten times the
/// median, the curve met by a line through what was read beyond. Throws InputError for under three heights,
/// heights that repeat in one direction only, and loads that fall as the spring is pressed.
SpringFigures figures_of(const SpringSheet& sheet);

} // namespace bathmos::bench
