// What use has cost each part of the shelf, by the record (docs/life.md).
#pragma once

#include "core/life/spring_damage.h"
#include "core/project/project.h"

#include <functional>

namespace bathmos::life {

/// Days since 1970-01-01 of a record's date, "2026-02-27T08:00:00Z" or the day alone; empty where it is none.
std::optional<double> day_of(std::string_view when);

/// One stretch of use of a part.
struct DatedUse {
    double day = 0;
    Id revision = 0; ///< that it ran in
    EngineUse use;
    double runs = 0; ///< starts to stops
};
/// What an entry of the log, a rig run or a pull tells of engine use; empty where it tells none, or none that
/// can be read.
std::optional<DatedUse> use_in(const Entry& entry);

/// All use of each part that was fitted when it ran. Use of the engine (log, pulls) counts for every build of
/// it, by the revision that was its latest then; a rig turns its own revision alone.
struct UseByPart {
    std::map<Id, std::vector<DatedUse>> parts; ///< by day
    /// Rig runs that say nothing of their time and speed, and uses that cannot be read.
    std::size_t silent = 0;
};
/// By the log, rig runs and pulls of a project; one that stands for several places of a revision once.
UseByPart use_by_part(const Project& project);

/// By which rule a part's life is counted.
enum class LifeRule { Cycles, Hours, Runs, Wire, LoadLoss };

struct LifeClaim {
    LifeRule rule = LifeRule::Cycles;
    double used = 0; ///< share of its life
    double whole =
        0; ///< its life by this rule: cycles, hours, runs; 1 for the wire; share of load for the loss
    bool estimated = false;
    std::string source; ///< who says so
};

/// Share of a spring's load that it may lose before it is tired (design of the shop; measure at the tester).
inline constexpr double kMostLoadLoss = 0.05;
inline constexpr double kLifeWarning = 0.8; ///< share of its life at which a part is due
inline constexpr double kPaceDays = 60;     ///< the present pace is that of so many days

/// One part's age.
struct PartLife {
    Id part = 0;
    double cycles = 0, hours = 0, runs = 0;  ///< with what its record says it had before
    std::vector<LifeClaim> claims;           ///< worst first; empty where nobody says how long it lasts
    double share_per_day = 0;                ///< of the worst claim, at the present pace
    std::optional<double> due_day, over_day; ///< when it comes to kLifeWarning, and to 1, at that pace
    bool due() const { return !claims.empty() && claims.front().used >= kLifeWarning; }
    bool over() const { return !claims.empty() && claims.front().used >= 1; }
};

/// Share of a spring's wire that a use took in a revision, of its worst spring; empty where it is not known.
using WireShare = std::function<std::optional<double>(Id revision, const EngineUse& use)>;

/// Load of a spring at one height, as it was read on the tester after so many cycles.
struct LoadReading {
    double cycles = 0, load_N = 0;
};

/// The age of one part at a day. `wire` for springs, null where nothing is known; `loads` likewise, any
/// order. A maker's or the shop's own figures are the part's facts (rated_cycles, rated_hours, rated_runs;
/// millions of cycles).
PartLife life_of(const Project& project, Id part, const std::vector<DatedUse>& use, double today,
                 const WireShare& wire = {}, const std::vector<LoadReading>& loads = {});

} // namespace bathmos::life
