// What a stiffer link would gain: the compliance of a train by part, and the limit with each of them stiffer
// (docs/bench.md, Stiffness).
#pragma once

#include "core/motion/limit_gain.h"
#include "core/tasks/tasks.h"

#include <optional>
#include <string>
#include <vector>

namespace bathmos {

/// By how much each link is made stiffer.
inline constexpr double kStiffer = 0.1;
/// A link that has more than this share of the compliance is the one to mend first.
inline constexpr double kMendFirst = 0.3;

/// One link between cam and valve.
struct StiffnessGain {
    std::string part; ///< as in TrainFigures::compliance_m_per_N
    double share = 0; ///< of the compliance at the valve's tip
    /// What the limit gains with it stiffer at the same mass, rev/min; empty where that cannot be computed.
    std::optional<double> same_mass_rpm;
    /// The same with the mass that it takes; empty likewise, and for what does not move.
    std::optional<double> true_mass_rpm;
    double added_kg = 0; ///< that mass, at the valve
};

struct StiffnessBudget {
    std::optional<double> limit_rpm;  ///< as it is; empty where there is none in the range
    std::vector<StiffnessGain> links; ///< softest first
    std::string mend_first;           ///< the part over kMendFirst of the compliance; "" where there is none
};

/// The train with one link stiffer by a factor, at its mass or with what it takes: a rod's mass and a
/// rocker's inertia grow with the section, so as the stiffness; a crown's stiffness with the cube of its
/// thickness [Young & Budynas 2002]. Throws InputError for a part that is no link of this train.
Train with_stiffer(Train train, const std::string& part, double factor, bool with_mass);

/// The limit of now and of each change, on all cores, of a valid train. Throws Stopped.
StiffnessBudget stiffness_budget(const Train& train, const LimitQuestion& question,
                                 const ProgressSink& progress = {});

} // namespace bathmos
