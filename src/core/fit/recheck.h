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
/// Along the revisions up to this one; only what its train has. A sheet or waiver of a revision closes what
/// was asked for up to it.
std::vector<OpenCheck> open_checks(const Project& project, Id revision);

} // namespace bathmos
