// The verdict on one state: causes weighed, the answer in one sentence, the next test (physics.md 10).
#pragma once

#include "core/verdict/trials.h"

namespace bathmos {

struct Verdict {
    std::string limits;   ///< name of the set that model and rig were judged by
    std::string question; ///< "Ashgill A22 intake, r2 winter: why does it stop, and where?"
    std::string answer;   ///< one sentence with speed, what happens, why, how sure
    /// Apart from the power: whether the valve leaves the lobe, where, and by what, in one sentence; "" where
    /// neither run nor model says.
    std::string valve_answer;
    QuestionSpeed speed;
    std::optional<StateBreak> dyno_break;
    std::vector<Evidence> evidence;
    Weighing weighing;
    std::vector<RankedTrial> next;           ///< most information an hour first
    std::vector<ConfounderTest> confounders; ///< of this state's pulls, logged or not; empty without pulls
    std::vector<std::string> missing;        ///< kinds of evidence that nobody gave, in words
};

/// Weighs all evidence of a file by the likelihoods of causes.h (Bayes), with what to do next; kinds of
/// evidence that are not there are named as missing.
Verdict judge(const CaseFile& file);

/// "very likely", "likely", "open": how sure a probability is, in words.
std::string_view sureness_words(double probability);

} // namespace bathmos
