// A starter train with its question, and one symptom out of a case: for the tests of the verdict.
#pragma once

#include "core/verdict/changes.h"
#include "core/verdict/verdict.h"
#include "support.h"

#include <optional>

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

inline std::optional<Evidence> found(const CaseFile& file, Symptom symptom) {
    for (const Evidence& e : evidence_of(file))
        if (e.symptom == symptom)
            return e;
    return std::nullopt;
}

} // namespace bathmos::test
