#include "core/project/limit_sets.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr double kLeastCheck_m = 0.05e-3, kMostCheck_m = 10e-3;
constexpr double kSeenOnARig_mm = 0.05; // departures below are noise of most sensors (physics.md 7)

LimitSet with(LimitSet set, const char* name, std::initializer_list<std::pair<const char*, double>> above,
              std::initializer_list<const char*> without = {}) {
    set.name = name;
    for (const auto& [metric, value] : above)
        for (LimitRow& row : set.rows)
            if (row.metric == metric)
                row.above = value;
    for (const char* metric : without)
        std::erase_if(set.rows, [&](const LimitRow& row) { return row.metric == metric; });
    return set;
}

std::vector<NamedLimits> make_named() {
    const LimitSet usual = limit_set(LimitsInForce{});
    return {{usual, "Every metric by its usual limit: the first that is crossed is the limit."},
            {with(usual, "no bounce that can be seen",
                  {{"bounce", kSeenOnARig_mm}, {"cycle_spread", kSeenOnARig_mm}, {"seating", 1.0}}),
             "For seats that must last: bounce and variation as small as a rig can see, seating at 1 m/s."},
            {with(usual, "lofts on purpose", {{"loft", 0.60}, {"duration_change", 8}}, {"contact_loss"}),
             "For sprints: loft up to 0.6 mm is accepted and contact loss is no limit; landing and bounce "
             "still are."}};
}

[[noreturn]] void refuse_limit(std::string location, std::string what, std::string mend) {
    throw InputError({"limits", std::move(location), std::move(what), std::move(mend)});
}

} // namespace

const std::vector<NamedLimits>& named_limits() {
    static const std::vector<NamedLimits> named = make_named();
    return named;
}

const NamedLimits* find_named_limits(std::string_view name) {
    for (const NamedLimits& named : named_limits())
        if (named.set.name == name)
            return &named;
    return nullptr;
}

LimitsInForce in_force(const LimitSet& set) {
    LimitsInForce out;
    out.name = set.name;
    out.check_lift_m = set.check_lift_m;
    out.list.clear();
    if (!(set.check_lift_m >= kLeastCheck_m && set.check_lift_m <= kMostCheck_m))
        refuse_limit("check_lift_mm", fmt::format("is {:g} mm", 1e3 * set.check_lift_m),
                     "must be 0.05 to 10 mm");
    const LimitsInForce usual;
    for (const LimitRow& row : set.rows) {
        const Limit* known = usual.find(row.metric);
        if (!known) {
            std::string keys;
            for (const Limit& limit : usual)
                keys += (keys.empty() ? "" : ", ") + std::string(limit.key);
            refuse_limit(row.metric, "is no metric that has a limit", "must be one of: " + keys);
        }
        if (out.find(known->key))
            refuse_limit(row.metric, "stands there twice", "give each metric once");
        if (!std::isfinite(row.above) || (row.below && !(*row.below < row.above)))
            refuse_limit(row.metric, "has bounds that are none",
                         "give numbers, the lower one below the upper one");
        if (!known->from_low_speed && !(row.above > 0))
            refuse_limit(row.metric, fmt::format("has a limit of {:g}", row.above), "must be above 0");
        Limit limit = *known;
        limit.above = row.above;
        limit.below = row.below;
        out.list.push_back(limit);
    }
    if (out.list.empty())
        refuse_limit("", "holds no limit", "give at least one metric its limit");
    return out;
}

LimitSet limit_set_of(const Project& project) {
    return project.limits.empty() ? named_limits().front().set : project.limits.rbegin()->second;
}

LimitSet limit_set(const LimitsInForce& limits) {
    LimitSet out;
    out.name = limits.name;
    out.check_lift_m = limits.check_lift_m;
    for (const Limit& limit : limits)
        out.rows.push_back({std::string(limit.key), limit.above, limit.below});
    return out;
}

} // namespace bathmos
