// Installed height when retainer or locks change: step and gauge ball, term by term, against a micrometer,
// and the shims that bring it where it is wanted (docs/bench.md, Installed height).
#pragma once

#include "core/bench/readings.h"

#include <optional>

namespace bathmos::bench {

/// One retainer on its locks, all depths from its top face.
struct GaugedRetainer {
    Figure step_m;        ///< to the spring's seat; larger is nearer the spring
    Figure ball_depth_m;  ///< to the top of the gauge ball that rests in the taper
    double taper_rad = 0; ///< half angle
};

struct HeightSheet {
    Figure old_height_m;
    GaugedRetainer before, after;
    std::optional<double> lock_taper_rad; ///< of the locks that go in
    double ball_m = 0;                    ///< diameter
    std::optional<double> new_ball_m;     ///< where the new one was gauged with another
    std::optional<Figure> micrometer_m;   ///< the new height as measured directly
    std::optional<double> wanted_m;
    std::vector<double> shims_m;                ///< thicknesses at hand
    std::optional<double> rate_N_per_m, seat_N; ///< the load at the old height
};

struct HeightFigures {
    std::optional<Figure> height_m; ///< before shims; empty where the gauging does not compare
    Figure step_m, lock_m;          ///< what each adds: -(step_new - step_old), depth_new - depth_old
    std::vector<double> shims_m;    ///< to fit, thickest first
    double shimmed_m = 0;           ///< the height with them
    std::optional<Figure> seat_N;   ///< with them
    std::vector<Told> told;         ///< "taper_differs", "ball_differs", "disagrees", "out_of_reach"
};

/// The shims whose sum comes nearest to `gap_m`, at most four, the fewest within 5 um; each once, or as often
/// as wanted. `stock_m` thickest first.
std::vector<double> nearest_shims(const std::vector<double>& stock_m, double gap_m, bool again);

/// h_new = h_old + (depth_new - depth_old) - (step_new - step_old): a ball that sits deeper by b shows a
/// taper that is wider, into which the lock, a cone of the same angle, sinks by the same b. Refused, with
/// what it tells, where tapers or balls differ. Where only the micrometer is left, its height counts. Shims:
/// those that come nearest to the wanted height, each at hand once, else again and again; the fewest within 5
/// um.
HeightFigures figures_of(const HeightSheet& sheet);

} // namespace bathmos::bench
