// A report: one revision's question, answer and evidence, for people who were not there (docs/report.md).
#pragma once

#include "core/paper/paper.h"
#include "session/cases/case_input.h"
#include "session/log/part_ages.h"
#include "session/rig/run_set.h"

namespace bathmos::session {

enum class Chapter { Evidence, Train, Changes, Findings, Life, Record, Next };
inline constexpr std::size_t kChapters = 7;
struct ChapterInfo {
    Chapter chapter;
    std::string_view key, label; ///< on the command line; on screen and paper
};
/// All chapters, in the order in which they stand.
const std::vector<ChapterInfo>& chapters();
/// By its key; empty where there is none.
std::optional<Chapter> find_chapter(std::string_view key);

/// Everything that a worker needs, taken out of the project at once.
struct ReportInput {
    CaseInput of;
    std::vector<RunInput> runs; ///< of the revisions that lead to this one, the newest eight
    bool predicted_now = false; ///< the kept prediction is of what is in force
};
/// The case rests on another run of its revision than the last. Throws InputError for one that is not there,
/// or is of another revision, whose train it would be laid over.
void rest_on(CaseInput& file, Id run, const std::function<io::PackedTrace(Id)>& trace);
/// `file`: the case of the revision, by gather_case() or with the window's range and limits. Throws
/// InputError for a damaged trace.
ReportInput gather_report(CaseInput file, const std::function<io::PackedTrace(Id)>& trace);

/// What the work gives: fast to make papers of.
struct ReportFacts {
    CaseFile file;
    Verdict verdict;
    std::shared_ptr<const Sweep> swept; ///< of the train as it stands, without what pulls show on the head
    std::vector<double> rigid_m;        ///< its kinematic lift, on the grid of the motions
    std::vector<ReducedRun> runs;
    std::map<Id, std::optional<double>> limits_rpm; ///< computed, of the revisions that lead here, by number
};
/// Judges the case, sweeps and reduces, less what `results` holds already: seconds. Throws InputError;
/// Stopped.
ReportFacts study_report(const ReportInput& input, Results& results, const ProgressSink& progress = {},
                         const std::stop_token& stop = {});

struct ReportAsked {
    std::string question{}; ///< in the sender's words; "": the verdict's
    std::string who{};
    std::string date;            ///< 2026-02-27
    std::set<Chapter> without{}; ///< chapters that are left out
    UnitChoice units;
    paper::Language language{};
};
/// Question, answer and cautions always; chapters as asked. The same facts and words make the same paper.
paper::Paper report_of(const ReportInput& input, const ReportFacts& facts, const ReportAsked& asked);

} // namespace bathmos::session
