// Runs against each other: by how much the edge moved, whether that may be claimed, and what differs between
// them that is not the change.
#pragma once

#include "core/rig/rig_run.h"
#include "core/units/told.h"

namespace bathmos {

/// A run with the train it was made with.
struct RunOfTrain {
    const RigRun* run = nullptr;
    const Train* train = nullptr;
    std::string name; ///< as told of
};

/// What the edge gained from one run to another.
struct EdgeGain {
    std::size_t from = 0, to = 0;
    std::optional<double> rpm; ///< empty where one of them has no edge in its range
    double sd_rpm = 0;         ///< half steps and the scatter of repeats, in squares
    bool claimed = false;      ///< beyond twice that
};

struct RunComparison {
    std::vector<EdgeGain> gains;       ///< of each pair that is no repeat, in the order of the runs
    std::optional<double> repeats_rpm; ///< scatter of the edge over runs of equal trains; empty without any
    std::vector<Told> told;            ///< "scale", "phase", "lash", "noise", "oil", "zero", "limits",
                                       ///< "no_edge"
};

/// Runs of equal trains are repeats: their edges' standard deviation stands in every gain. Throws InputError
/// for fewer than two runs.
RunComparison compare_runs(const std::vector<RunOfTrain>& runs);

} // namespace bathmos
