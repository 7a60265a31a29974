// What must be checked again after a change, and what has not been since.
#pragma once

#include "core/project/project.h"

namespace bathmos {

enum class Check {
    InstalledHeight,
    SeatLoad,
    BindMargin,
    RetainerToSeal,
    RetainerToRocker,
    LockSeating,
    SpringFit,
    StemClearance,
    Ratio,
    WitnessMark,
    PushrodClearance,
    Lash,
    Preload,
    CamTiming,
    PistonToValve,
    ValveToValve,
    Mass,
    BreakIn
};

struct CheckInfo {
    Check check;
    std::string_view key;   ///< in files: "installed_height"
    std::string_view label; ///< on screen
    std::string_view how;   ///< one sentence
};
/// All checks, in the order of Check.
const std::vector<CheckInfo>& checks();
/// Its words.
const CheckInfo& info(Check check);
/// By its key in files; empty where there is none.
std::optional<Check> find_check(std::string_view key);

/// What depends on a part of a kind, and on single numbers outside any part (installed height, lash).
const std::vector<Check>& checks_after(PartKind kind);
/// The kind of part that a difference concerns; empty for numbers outside any part.
std::optional<PartKind> kind_of(const Difference& difference);
/// What depends on what differs, each once, in the order of checks().
std::vector<Check> checks_after(const std::vector<Difference>& changed);

/// A check that a change asked for and that no bench sheet or waiver has closed since.
struct OpenCheck {
    Check check;
    Id since = 0;      ///< the revision that asked for it last
    std::string cause; ///< what changed there, in words
};
/// What revisions ask to be checked anew against the one before them, remembered: to compare two whole trains
/// is slow, and a line of revisions is long.
class AskedChecks {
  public:
    /// In the order of checks(); empty for the first of a build. `revision` must be one of the project's.
    const std::vector<Check>& of(const Project& project, Id revision);
    /// The record of this revision changed or went: nothing is remembered of it and of those made from it.
    void forget(Id revision);
    void clear() { asked_.clear(); } ///< nothing is remembered

  private:
    struct Asked {
        Id parent = 0;
        std::vector<Check> checks;
    };
    std::map<Id, Asked> asked_;
};

/// Along the revisions up to this one; only what its train has. A sheet or waiver of a revision closes what
/// was asked for up to it. `asked` remembers from call to call.
std::vector<OpenCheck> open_checks(const Project& project, Id revision, AskedChecks& asked);
/// The same without a memory.
std::vector<OpenCheck> open_checks(const Project& project, Id revision);

} // namespace bathmos
