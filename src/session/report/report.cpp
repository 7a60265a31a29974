#include "session/report/report.h"

#include "core/motion/motion.h"
#include "core/motion/quick_limit.h"
#include "core/problem/input_error.h"
#include "session/report/chapters.h"
#include "session/results/predictions.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::session {

using paper::own_words;

namespace {

constexpr std::size_t kMostRuns = 8, kMostStates = 12;

const std::vector<ChapterInfo> kAll = {
    {Chapter::Evidence, "evidence", "Evidence"},
    {Chapter::Train, "train", "The valve train"},
    {Chapter::Changes, "changes", "What was changed, and what it gained"},
    {Chapter::Findings, "findings", "Fit and safety"},
    {Chapter::Life, "life", "Life of parts"},
    {Chapter::Record, "record", "From the log"},
    {Chapter::Next, "next", "What is next"},
};

constexpr void (*kWriters[kChapters])(const ReportView&, paper::Paper&) = {
    write_evidence, write_train, write_changes, write_findings, write_life, write_record, write_next};

ProgressSink share_of(const ProgressSink& progress, double from, double to) {
    if (!progress)
        return {};
    return [progress, from, to](double share) { progress(from + (to - from) * share); };
}

// Of the revision in question by its sweep, of those before it by the speeds round that one; a train that
// cannot be run has none.
std::map<Id, std::optional<double>> limits_along(const ReportInput& input, const Sweep& swept,
                                                 const ProgressSink& progress, const std::stop_token& stop) {
    std::map<Id, std::optional<double>> out;
    std::vector<Id> line = input.of.project.line_to(input.of.revision);
    if (line.size() > kMostStates)
        line.erase(line.begin(), line.end() - static_cast<std::ptrdiff_t>(kMostStates));
    QuickLimitQuery query;
    query.range = input.of.range;
    query.limits = input.of.limits;
    query.near_rpm = swept.summary.limit.speed_rpm.value_or(0);
    for (const Id id : line) {
        if (id == input.of.revision)
            out[id] = swept.summary.limit.speed_rpm;
        else
            try {
                const MotionModel model(input.of.project.revisions.at(id).assembly.train);
                out[id] = refine_limit(model, query, stop).speed_rpm;
            } catch (const InputError&) {
            }
        if (progress)
            progress(static_cast<double>(out.size()) / static_cast<double>(line.size()));
    }
    return out;
}

} // namespace

const std::vector<ChapterInfo>& chapters() {
    return kAll;
}

std::optional<Chapter> find_chapter(std::string_view key) {
    const auto at = std::ranges::find(kAll, key, &ChapterInfo::key);
    return at == kAll.end() ? std::nullopt : std::optional(at->chapter);
}

void rest_on(CaseInput& file, Id run, const std::function<io::PackedTrace(Id)>& trace) {
    const auto& runs = file.project.of(EntryKind::RigRun);
    const auto at = runs.find(run);
    if (at == runs.end() || at->second.revision != file.revision || at->second.traces.empty())
        throw InputError({"", "run",
                          fmt::format("{} is no run of {}", run, file.project.revision_label(file.revision)),
                          "give the number of a run of that revision"});
    file.rig_run = run;
    file.traces[at->second.traces.front()] = trace(at->second.traces.front());
}

ReportInput gather_report(CaseInput file, const std::function<io::PackedTrace(Id)>& trace) {
    ReportInput out{std::move(file), {}, false};
    const Project& project = out.of.project;
    const std::vector<Id> line = project.line_to(out.of.revision);
    const Id build = project.revisions.at(out.of.revision).build;
    std::vector<Id> runs;
    for (const Id id : runs_of(project, build, false))
        if (std::ranges::find(line, project.of(EntryKind::RigRun).at(id).revision) != line.end())
            runs.push_back(id);
    if (runs.size() > kMostRuns)
        runs.erase(runs.begin(), runs.end() - kMostRuns);
    if (out.of.rig_run != 0 && std::ranges::find(runs, out.of.rig_run) == runs.end())
        runs.insert(runs.begin(), out.of.rig_run); // older than those, or hidden: the case rests on it
    for (const Id id : runs) {
        const Entry& run = project.of(EntryKind::RigRun).at(id);
        const auto known = out.of.traces.find(run.traces.front());
        out.runs.push_back({id, fmt::format("{} ({})", run.name, project.revision_label(run.revision)),
                            project.revisions.at(run.revision).assembly.train,
                            known == out.of.traces.end() ? trace(run.traces.front()) : known->second,
                            run.numbers.contains("reversed")});
    }
    if (const Prediction* made = newest_prediction(project, out.of.revision))
        out.predicted_now =
            made->hash == hash_of(SweepInputs{project.revisions.at(out.of.revision).assembly.train,
                                              out.of.range, out.of.limits});
    return out;
}

ReportFacts study_report(const ReportInput& input, Results& results, const ProgressSink& progress,
                         const std::stop_token& stop) {
    ReportFacts out;
    const Train& train = input.of.project.revisions.at(input.of.revision).assembly.train;
    out.file = open_case(input.of, results, share_of(progress, 0, 0.6), stop);
    out.verdict = judge(out.file);
    SweepWatch watch;
    watch.stop = stop;
    out.swept = results.sweep({train, input.of.range, input.of.limits}, watch);
    out.rigid_m = MotionModel(train).chain().rigid_m;
    out.runs = reduce_runs(input.runs, input.of.limits, results, share_of(progress, 0.6, 0.8), stop);
    out.limits_rpm = limits_along(input, *out.swept, share_of(progress, 0.8, 1), stop);
    return out;
}

paper::Paper report_of(const ReportInput& input, const ReportFacts& facts, const ReportAsked& asked) {
    const ReportView view{input, facts, asked};
    const Project& project = input.of.project;
    const Build& build = project.builds.at(view.revision().build);
    paper::Paper out;
    out.title = own_words(fmt::format("{} {}", build.name, project.revision_label(input.of.revision)));
    const auto engine = project.engines.find(build.engine);
    out.line = fmt::format(
        "Valve train report{}{} · {}{}{} · limits \"{}\" · Bathmos {}",
        engine == project.engines.end() ? "" : " · " + own_words(engine->second.name),
        facts.file.target_rpm > 0 ? fmt::format(" · wanted: {:.0f} rev/min", facts.file.target_rpm) : "",
        asked.date, asked.who.empty() ? "" : " · ", own_words(asked.who), own_words(facts.file.limits),
        program_version());
    out.heading("Question");
    out.words(asked.question.empty() ? facts.verdict.question : own_words(asked.question));
    write_answer(view, out);
    for (const ChapterInfo& chapter : kAll)
        if (!asked.without.contains(chapter.chapter)) {
            paper::Paper written;
            kWriters[static_cast<std::size_t>(chapter.chapter)](view, written);
            if (written.blocks.empty()) // nothing to say: no empty heading
                continue;
            out.heading(std::string(chapter.label), std::string(chapter.key));
            std::ranges::move(written.blocks, std::back_inserter(out.blocks));
        }
    write_cautions(out);
    return paper::spoken(std::move(out), asked.language);
}

} // namespace bathmos::session
