// Sets of limits by name, and the one that a project judges by.
#pragma once

#include "core/project/project.h"

namespace bathmos {

/// Sets that can be chosen by name, the usual one first; each says in `note` what it is for.
struct NamedLimits {
    LimitSet set;
    std::string_view note;
};
/// All of them, the usual one first.
const std::vector<NamedLimits>& named_limits();
/// A named set; null for a name that is none.
const NamedLimits* find_named_limits(std::string_view name);

/// What sweeps and runs are judged by. Throws InputError (location = metric) for a metric that has no limit,
/// the same one twice, bounds that are no numbers or the wrong way round, or a check lift outside 0.05 to 10
/// mm.
LimitsInForce in_force(const LimitSet& set);
/// The set of a project: the one chosen last (choices are kept, so that undo and history hold), else the
/// usual one.
LimitSet limit_set_of(const Project& project);
/// A limit set from limits.
LimitSet limit_set(const LimitsInForce& limits);

} // namespace bathmos
