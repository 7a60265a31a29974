// A pack for a supplier: what a maker of one kind of part needs to see, and nothing of the others' parts
// (docs/report.md).
#pragma once

#include "io/pack/pack_files.h"
#include "session/report/report.h"

namespace bathmos::session {

enum class Audience { Lobe, Spring, Rocker, Pushrod, Lifter, Valve };
struct AudienceInfo {
    Audience audience;
    std::string_view key, label; ///< on the command line; on screen: "spring maker"
    std::set<PartKind> own;      ///< kinds that it makes, and may see whole
};
/// All of them, in the order of Audience.
const std::vector<AudienceInfo>& audiences();
/// By its key; empty where there is none.
std::optional<Audience> find_audience(std::string_view key);

struct PackAsked {
    Audience audience = Audience::Spring;
    std::string question, who; ///< in the sender's words
    std::string date;          ///< 2026-02-27
    UnitChoice units;
    paper::Language language{}; ///< of the page
};

struct Pack {
    std::vector<io::PackFile> files; ///< page.html, numbers.json, answer.csv, motions, manifest.json
    /// What the sender should know before it goes: names that were masked, stops that stand, runs of another
    /// revision.
    std::vector<std::string> told;
};
/// With the traces of the run that the case rests on, and what the runs before it measured. Throws InputError
/// where a name of another maker's part would have gone out all the same, or nothing is asked.
Pack pack_of(const ReportInput& input, const ReportFacts& facts, const PackAsked& asked);

/// What is wrong with a pack that was written: a file that was changed or is missing, a project that has gone
/// on since, names of other makers' parts. Empty where it may go. Throws InputError where it is no pack, or
/// none of this project.
std::vector<std::string> pack_problems(const std::vector<io::PackFile>& files, const Project& project);

/// Changes with everything that the pack of a revision is made from: its train, the limits, its runs.
std::string pack_made_from(const Project& project, Id revision);

} // namespace bathmos::session
