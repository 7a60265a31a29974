// A starter train with its question, and one symptom out of a case: for the tests of the verdict.
#pragma once

#include "core/verdict/changes.h"
#include "core/verdict/verdict.h"
#include "support.h"

#include <algorithm>
#include <optional>
#include <random>

namespace bathmos::test {

inline Assembly starter() {
    Assembly out;
    out.train = starter_train();
    return out;
}

inline ChangeStudyQuery query_for(const Assembly& assembly) {
    ChangeStudyQuery out;
    out.range = {4000, 9400, 200};
    out.limit_rpm = sweep(assembly.train, out.range).summary.limit.speed_rpm.value();
    out.target_rpm = out.limit_rpm + 400;
    out.at_rpm = out.limit_rpm;
    return out;
}

// A pull of an engine whose power is lost by a share over 200 rev/min from a speed on, or falls behind its
// peak smoothly.
inline PullCase pull_case(double break_rpm, double share, double rollover = 0, unsigned seed = 1) {
    std::mt19937_64 dice(seed);
    std::normal_distribution<double> normal;
    Pull pull;
    for (int i = 0; i < 200; ++i) {
        const double rpm = 4000 + 23.0 * i;
        const double loss = share * std::clamp((rpm - break_rpm) / 200, 0.0, 1.0) +
                            rollover * std::pow(std::max(0.0, rpm - 6500) / 2100, 2);
        pull[PullChannel::Speed].push_back(rpm);
        pull[PullChannel::Power].push_back(22 * rpm * (1 - loss) * (1 + 0.003 * normal(dice)));
    }
    complete(pull);
    PullCase out{"pull", analyse(pull), {}, "", std::nullopt};
    out.tests = test_confounders(pull, out.analysis);
    return out;
}

inline std::optional<Evidence> found(const CaseFile& file, Symptom symptom) {
    for (const Evidence& e : evidence_of(file))
        if (e.symptom == symptom)
            return e;
    return std::nullopt;
}

} // namespace bathmos::test
