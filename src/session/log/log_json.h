// The time line and the ages of parts as JSON (docs/life.md).
#pragma once

#include "session/compare/good_bad.h"
#include "session/log/part_ages.h"
#include "session/log/time_line.h"

namespace bathmos::session {

/// [{kind, id, when, title, text, where, revision, parts, files: [{hash, name}]}], in the order given.
std::string log_json(const std::vector<LogLine>& lines);

/// What a rule of life is called: "cycles", "hours", "runs", "wire", "load loss".
std::string_view name_of(life::LifeRule rule);
/// {parts: [{kind, name, serial, cycles, hours, runs, claims: [{rule, used, whole, estimated, source}],
/// share_per_day, due, over, over_limit_cycles, failures}], silent_runs}; dates as days "2026-02-27", null
/// where they never come.
std::string ages_json(const PartAges& ages);
/// {states: [{revision, label, mark: "good" | "bad" | "unknown", why}], good, bad, limit_rpm: {good, bad},
/// changes: [{what, undone_gain_rpm}], effects: [{what, unit, good, bad}], lines, cycles}; without `between`
/// the states alone.
std::string between_json(const std::vector<SeenState>& states, const BetweenStates* between);
/// {cycles, hours, highest_rpm, classes: [{from_rpm, hours, cycles}], excursions, gaps, left_out_s, springs:
/// [{name, share, by_speed}]}.
std::string use_json(const life::LoggedUse& use, const std::vector<life::SpringFatigue>& springs);

/// Some day in 2079: further on nobody plans, and no date is told.
inline constexpr double kFurthestDay = 40'000;

/// "2026-02-27" of days since 1970-01-01.
std::string date_text(double day);

} // namespace bathmos::session
