// What broke or wore, as evidence without a dyno (docs/verdict.md, Failures).
#pragma once

#include "core/project/part.h"
#include "core/verdict/causes.h"

#include <string>

namespace bathmos {

/// Parts that failed alike in one state.
struct FailureSeen {
    PartKind part = PartKind::Locks;
    std::string name;  ///< of the part on the shelf
    std::string mode;  ///< "broken", "worn", "galled", "hammered", "bent", "marked", "walked"
    std::string place; ///< as people wrote it
    std::size_t times = 1;
};

/// What a failure says: likelihood by cause, and the inspection that would settle it.
struct FailureReading {
    std::vector<double> under; ///< by Cause; all alike where it speaks for none
    std::string_view inspect;
    bool speaks = true; ///< false: worth an inspection, but of no cause that this program knows
};
/// By part and mode, trade practice (one table, failures.cpp). A part or mode that is not in it speaks for
/// nothing.
FailureReading read_failure(const FailureSeen& failure);

} // namespace bathmos
