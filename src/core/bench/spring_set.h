// A set of springs at the same heights: which are out, which are tired, which goes where (docs/bench.md, A
// set of springs).
#pragma once

#include "core/bench/readings.h"

namespace bathmos::bench {

/// Loads of one spring, SI; an earlier sheet of the same serial, where there is one.
struct SetSpring {
    std::string serial;
    std::vector<double> height_m, load_N;
    std::vector<double> old_height_m{}, old_load_N{};
};

struct SpringSet {
    std::vector<SetSpring> springs;
    std::vector<std::string> valves; ///< in the order of the cylinders, those of one cylinder side by side
};

struct PlacedSpring {
    std::string valve, serial;
};

struct SpringSetFigures {
    double mean_N = 0;               ///< of the whole set at the tallest height that all have
    double height_m = 0;             ///< that height
    std::vector<std::string> reject; ///< off the set's middle by over 3 % at any height that all have
    std::vector<std::string> tired;  ///< lost over 5 % of their own earlier load at any height of both
    std::vector<PlacedSpring> pairs; ///< the rest by load, neighbours alike
    std::vector<Told> told;          ///< "too_few", "scatter"
    std::vector<double> load_N, off; ///< by spring: load at that height; largest share off the middle
    std::vector<double> lost;        ///< by spring: largest share lost; NaN without an earlier sheet
};

/// Loads between the heights read are on straight lines. The middle is the median, so that a bad spring does
/// not move it. Where more springs are good than valves are there, the stretch that matches best is placed.
/// Throws InputError for under two springs, serials that stand twice, and heights that no two share.
SpringSetFigures figures_of(const SpringSet& set);

} // namespace bathmos::bench
