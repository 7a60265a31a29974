// One time line of everything that was done, measured, decided and seen in a project.
#pragma once

#include "core/life/engine_use.h"
#include "core/project/project.h"
#include "io/log/log_index.h"

#include <set>

namespace bathmos::session {

enum class LineKind {
    Revision,
    Sheet,
    Run,
    Pull,
    Campaign,
    Verdict,
    Calibration,
    Waiver,
    Limits,
    Note,
    Use,
    Failure
};
inline constexpr std::size_t kLineKinds = 12;

struct LineKindInfo {
    LineKind kind;
    std::string_view key, label; ///< in files and on the command line; on screen
};
/// All kinds, in the order of LineKind.
const std::vector<LineKindInfo>& line_kinds();
/// By its key; empty where there is none.
std::optional<LineKind> find_line_kind(std::string_view key);

/// A file that was put beside a line, kept in the project by the hash of its content.
struct LineFile {
    std::string hash, name;
};

struct LogLine {
    LineKind kind = LineKind::Note;
    Id id = 0; ///< of the record
    Id revision = 0, build = 0;
    std::string when; ///< UTC, ISO 8601
    std::string title, text;
    std::string where;                ///< "intake r2 winter"
    std::vector<std::string> parts{}; ///< names and serials of parts that it is about
    std::vector<LineFile> files{};
};
/// All lines, the newest first; of one moment, in the order of their numbers; what was added by hand, the
/// later number first.
std::vector<LogLine> time_line(const Project& project);

/// Which lines are looked at. Empty sets and words: all.
struct LogFilter {
    std::set<LineKind> kinds{};
    Id build = 0;
    Id part = 0; ///< of the shelf: lines that name it, and use, runs and failures while it was fitted
    std::string words{};
};

/// A time line with its words at hand.
class Log {
  public:
    explicit Log(const Project& project);
    const std::vector<LogLine>& lines() const { return lines_; }
    /// Places of the lines that a filter lets through, newest first.
    std::vector<std::size_t> find(const LogFilter& filter) const;

  private:
    std::vector<LogLine> lines_;
    std::vector<std::set<Id>>
        fitted_; ///< parts of each line's revision; of a revision, those that it changed
    io::LogIndex index_;
};

/// How a part failed.
struct FailureMode {
    std::string_view key, label;
};
/// Broken, worn, galled, hammered, bent, marked, walked (locks).
const std::vector<FailureMode>& failure_modes();

/// What a person adds: a note, a use of the engine, a failure.
struct LogNote {
    LineKind kind = LineKind::Note;
    std::string title, text, who;
    std::string when{}; ///< UTC, ISO 8601; "": now
    Id revision = 0, part = 0;
    life::EngineUse use{};
    double runs = 1;               ///< of a use: starts to stops
    std::string mode, place;       ///< of a failure
    std::vector<LineFile> files{}; ///< that the project keeps already
};
/// As a record of the log. Throws InputError for a note without words, a use without time or revision, a
/// failure without a mode, or of a part that the revision does not carry; and dates that are none.
Entry log_entry(const LogNote& note, const Project& project);
/// What kind of line a record of the log is.
LineKind line_kind_of(const Entry& entry);

} // namespace bathmos::session
