// The weighing: symptoms that were seen, or looked for and not seen, make probabilities of causes by Bayes'
// rule [Pearl 1988, 2.1], each symptom independent of the others under a cause. What nobody looked for counts
// nothing.
#pragma once

#include "core/units/measured_text.h"
#include "core/verdict/causes.h"

#include <string>

namespace bathmos {

/// One symptom as found. `seen`: 0..1, how surely it is there.
struct Evidence {
    Symptom symptom;
    double seen = 0;
    MeasuredText text; ///< plain sentence with the numbers
    std::string
        link; ///< station and view that shows it: "dyno/power", "rig/metric/bounce_mm", "motion/sweep"
    /// How much it bears on the question, 0..1: its likelihood counts with this power. A mechanism that
    /// the model shows at quite another speed bears little.
    double relevance = 1;
    /// Likelihood by cause where the table has none, as it comes from a reading of its own; empty: the
    /// table's.
    std::vector<double> under{};
    /// The sign of a drift that begins well above the break: what it is the sign of cannot be the first
    /// trouble, only the second of two.
    bool too_late = false;
};

/// What one piece of evidence does to one cause: log of its likelihood over the mean of all causes'.
struct Argument {
    std::size_t evidence = 0; ///< index of the list
    double weight = 0;        ///< nats; above 0 speaks for
};

struct WeighedCause {
    Cause cause;
    double probability = 0;
    std::vector<Argument> arguments; ///< strongest first, those over 0.1 nats
};

/// A trouble of the valve train and one elsewhere at the same time.
struct WeighedPair {
    Cause first, second; ///< in the order in which they begin
    double probability = 0;
};

struct Weighing {
    std::vector<WeighedCause> causes; ///< likeliest first; each alone, or as the first of two
    std::vector<WeighedPair> pairs;   ///< likeliest first, those over 0.01
    double valve_train = 0; ///< probability that it is the valve train at all, alone or as one of two
    double entropy_bit = 0; ///< what is still open
    /// Probability of a cause.
    double of(Cause cause) const;
    /// 0 where all causes are alike, 1 where one is certain: 1 less the entropy over that of all alike.
    double settled() const;
    /// The same share of what is open that would be taken away by so much information.
    double share_settled_by(double information_bit) const;
};

/// What the weighing knows beside the signs.
struct WeighingRules {
    /// Causes that cannot be, as the engine lacks what they need (no blower, no hydraulic follower).
    std::vector<Cause> impossible{};
    bool just_changed = false; ///< somebody worked on this engine: two troubles at once are likelier
};

/// Each cause alone, and each of the valve train together with one elsewhere whose drift is seen
/// (docs/verdict.md, Two troubles at once). A pair's prior is the product of both, four times that where the
/// engine was just changed; a sign is seen under it unless neither brings it (noisy or [Pearl 1988, 4.3.2]),
/// while what model, rig, bench and its own changes say of the train is said by its trouble alone. The cause
/// elsewhere is the first of the two unless its drift begins well above the break.
Weighing weigh(const std::vector<Evidence>& evidence, const WeighingRules& rules = {});

} // namespace bathmos
