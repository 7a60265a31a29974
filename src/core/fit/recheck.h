// What must be checked again after a change, and what has not been since.
#pragma once

#include "core/project/project.h"

#include <map>
#include <optional>
#include <set>

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
    void clear(); ///< nothing is remembered
    /// What is open along the revisions up to this one; only what its train has. A sheet or waiver of a
    /// revision closes what was asked for up to it. Empty for a revision that is not there.
    std::vector<OpenCheck> open_to(const Project& project, Id revision);

  private:
    using Closed = std::map<Id, std::set<std::string>>; ///< keys of checks, by revision
    using Open = std::map<Check, OpenCheck>;
    struct Asked {
        Id parent = 0;
        std::vector<Check> checks;
    };
    /// An edit changes the last revision only: what was open before it stays known.
    struct Before {
        Id revision;
        Closed closed;
        Open open;
    };

    void follow(const Project& project, Id revision, const Closed& closed, Open& open);

    std::map<Id, Asked> asked_;
    std::optional<Before> before_;
};

/// AskedChecks::open_to without a memory.
std::vector<OpenCheck> open_checks(const Project& project, Id revision);

} // namespace bathmos
