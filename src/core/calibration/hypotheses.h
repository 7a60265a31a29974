// The hypotheses of a calibration: looked for, compared, and what is left of them told (docs/calibration.md,
// Search and evidence).
#pragma once

#include "core/calibration/calibrate.h"
#include "core/calibration/departures.h"

#include <functional>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace bathmos {

/// A hypothesis with the best place that is known under it.
struct WeighedHypothesis {
    std::string cause; ///< a key of the causes, or "as_believed"
    std::optional<std::size_t> only;
    Belief belief;
    Found found;
    std::span<const Widened> widened{};
    bool settled = false; ///< nothing better lies round it
    std::string with{};   ///< where two depart at once: the other cause
    std::span<const Widened> with_widened{};
};

/// By evidence.
bool less_likely(const WeighedHypothesis& a, const WeighedHypothesis& b);

/// As believed, which is found already and stands first, and each departure that the free numbers allow,
/// looked for from belief; `better` hears of each that explains the runs better than all before it. Throws
/// Stopped.
std::vector<WeighedHypothesis>
look_for_departures(const Search& search, const FitModel& model, const Place& belief_itself, Found as_it_was,
                    const std::function<void(const WeighedHypothesis&)>& better);

/// Once more, from where the likeliest stands: what it found of the other numbers helps the rest. Throws
/// Stopped.
void look_from_the_likeliest(const Search& search, std::vector<WeighedHypothesis>& all);

/// Belief and those that may yet be the likeliest are compared by their very best: true where one became
/// better. Throws Stopped.
bool look_round(const Search& search, std::vector<WeighedHypothesis>& all);

/// Two departures at once, where what is chosen leaves the runs of one train badly explained: from the best
/// places of the likeliest causes the others are looked for along their own numbers. Empty where none has an
/// evidence of kLeastEvidence over what is chosen, or the second is worth nothing beside the likeliest of
/// one. Throws Stopped.
std::optional<WeighedHypothesis> look_for_two(const Search& search, const FitModel& model,
                                              const std::vector<WeighedHypothesis>& all,
                                              const WeighedHypothesis& chosen);

/// The best of each cause over as_believed, which stands first in `all`, and the two at once where they are
/// there; likeliest first. Throws InputError where numbers make no train.
std::vector<Hypothesis> ranked(const FitModel& model, const std::vector<WeighedHypothesis>& all,
                               const std::optional<WeighedHypothesis>& two);

} // namespace bathmos
