// The next test: what people can do, what each would show, and which one tells most for its time.
#pragma once

#include "core/verdict/case_file.h"

namespace bathmos {

/// Something that can be done to learn more.
struct Trial {
    std::string_view key, label;
    std::string_view how; ///< one sentence
    double hours = 1;
    std::vector<Symptom> shows; ///< at most three count
    bool charged_only = false, hydraulic_only = false;
};
/// All that can be proposed.
const std::vector<Trial>& trials();

struct RankedTrial {
    const Trial* trial;
    double information_bit = 0; ///< expected fall of what is open about the cause
    double per_hour = 0;
};

/// Trials that would show at least one symptom that nobody looked for yet, most information an hour first.
/// Expected information over all outcomes of the trial's new symptoms, each seen or not [Lindley 1956].
std::vector<RankedTrial> rank_trials(const Weighing& weighing, const std::vector<Evidence>& evidence,
                                     const CaseFile& file);

} // namespace bathmos
