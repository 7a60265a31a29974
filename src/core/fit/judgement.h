// All findings of an assembly with its clearances, standing still or with a motion at speed: the one place
// that gathers what the rules look at.
#pragma once

#include "core/fit/fit_rules.h"

namespace bathmos {

/// What stands round an assembly. Whatever is not known stays empty.
struct FitSurroundings {
    const Engine* engine = nullptr;
    const Build* build = nullptr;
    const Train* other_train = nullptr; ///< of the other valve, judged standing still
    const Build* other_build = nullptr;
    std::vector<OpenCheck> open{};
    std::map<PartKind, FittedAge> ages{};
};

struct FitJudgement {
    std::vector<Finding> findings;
    std::optional<Clearance> piston, other_valve;
};

/// `figures` and `rigid` belong to the assembly's train. With `motion` (null: standing still) clearances,
/// bind margin and coils that meet are judged as they are at its speed. Throws nothing.
FitJudgement judge_fit(const Assembly& assembly, const TrainFigures& figures, const RigidMotion& rigid,
                       const FitSurroundings& round, const Motion* motion = nullptr);

} // namespace bathmos
