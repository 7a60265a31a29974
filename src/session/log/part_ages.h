// How old every part of a project is: its use by the record, its wire by the model, its loads by the tester.
#pragma once

#include "core/life/part_life.h"
#include "core/life/trend.h"
#include "core/tasks/tasks.h"

namespace bathmos::session {

/// The wire's stress by speed, of each revision that ran with coil springs.
using FatigueByRevision = std::map<Id, std::vector<life::SpringFatigue>>;

/// Changes with all that fatigue_by_revision is made from: who ran how, their trains, their wires. "" where
/// no spring ran.
std::string fatigue_asked(const Project& project, const life::UseByPart& use);
/// By the full model, at the speeds that were run; slow: not for the window's thread. A revision that cannot
/// be run is left out: no wire that ran in it is counted. Throws Stopped.
FatigueByRevision fatigue_by_revision(const Project& project, const life::UseByPart& use,
                                      const ProgressSink& progress = {}, const std::stop_token& stop = {});

/// Loads of a spring of the shelf over its cycles: of the sheets taken while it was fitted, those at the
/// height of the first of them; of a set the mean, or the spring of that serial.
std::vector<life::LoadReading> loads_of(const Project& project, Id part,
                                        const std::vector<life::DatedUse>& use);

/// What a project's record says of the use and the loads of its parts: costs more than to judge them by it.
struct PartRecord {
    life::UseByPart use;
    std::map<Id, std::vector<life::LoadReading>> loads; ///< of springs that were read twice or more
};
PartRecord part_record(const Project& project);
/// The age of a part by it; `wire` null: wires are not counted.
life::PartLife life_by(const PartRecord& record, const Project& project, Id part, double today,
                       const life::WireShare& wire = {});

struct AgedPart {
    life::PartLife life;
    double over_limit = 0; ///< cycles above the limit that was computed for what ran
    std::string name, serial;
    PartKind kind = PartKind::Spring;
    std::size_t failures = 0; ///< of the record
};
struct PartAges {
    std::vector<AgedPart>
        parts; ///< the most urgent first; those with use, or of which anybody says how long they last
    std::size_t silent = 0; ///< records that say nothing of time and speed
};
/// `today`: days, life::day_of. `fatigue` null: wires are not counted.
PartAges part_ages(const Project& project, double today, const FatigueByRevision* fatigue = nullptr);

/// Lash readings of a build's sheets over the cycles that it has run: how they drift.
struct LashTrend {
    std::vector<double> cycles, lash_m;
    life::Trend trend;
};
/// Empty under three sheets.
std::optional<LashTrend> lash_trend(const Project& project, Id build);

} // namespace bathmos::session
