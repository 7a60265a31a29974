#include "session/project/revision_judgement.h"

#include "core/train/train_check.h"
#include "core/train/unusual.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::session {

namespace {

// Engine, build and the other valve of the same cylinder.
FitSurroundings round_of(const Project& project, const Build& build) {
    FitSurroundings out;
    out.build = &build;
    if (const auto engine = project.engines.find(build.engine); engine != project.engines.end())
        out.engine = &engine->second;
    for (const auto& [id, other] : project.builds) {
        if (other.engine != build.engine || other.side == build.side)
            continue;
        const auto head = project.revisions.find(other.head);
        if (head == project.revisions.end())
            continue;
        out.other_build = &other;
        out.other_train = &head->second.assembly.train;
        break;
    }
    return out;
}

std::string told_of(const life::PartLife& age) {
    const life::LifeClaim& worst = age.claims.front();
    switch (worst.rule) {
    case life::LifeRule::Hours:
        return fmt::format("{:.1f} of {:g} hours", age.hours, worst.whole);
    case life::LifeRule::Runs:
        return fmt::format("{:.0f} of {:g} runs", age.runs, worst.whole);
    case life::LifeRule::LoadLoss:
        return fmt::format("{:.1f} of {:g} % of load lost", 100 * worst.used * worst.whole,
                           100 * worst.whole);
    default:
        return fmt::format("{:.2f} of {:g} million cycles", age.cycles * 1e-6, worst.whole * 1e-6);
    }
}

// Fitted parts of which anybody says how long they last, and springs by their loads; wires ask the model.
std::map<PartKind, FittedAge> ages_of(const Project& project, const Assembly& assembly,
                                      const PartRecord& record) {
    std::map<PartKind, FittedAge> out;
    for (const auto& [kind, fitted] : assembly.parts) {
        if (!project.parts.contains(fitted.part))
            continue;
        const life::PartLife age = life_by(record, project, fitted.part, 0);
        if (!age.claims.empty())
            out[kind] = {age.claims.front().used, told_of(age)};
    }
    return out;
}

} // namespace

TrainFacts facts_of(const Train& train) {
    TrainFacts out;
    out.problems = check_train(train);
    if (!out.problems.empty())
        return out;
    out.rigid.emplace(train, curve_of(train.lobe));
    out.figures = figures_of(train, *out.rigid);
    return out;
}

std::vector<std::string> RevisionJudgement::stops() const {
    std::vector<std::string> out;
    for (const FoundFit& found : findings)
        if ((found.finding.severity == Severity::Stop || found.finding.rule == kUnusual) &&
            found.waiver == 0 && std::find(out.begin(), out.end(), found.finding.rule) == out.end())
            out.push_back(found.finding.rule);
    return out;
}

RevisionJudgement judge_revision(const Project& project, Id revision, const TrainFacts& facts,
                                 const Motion* motion, AskedChecks* asked, const PartRecord* record) {
    RevisionJudgement out;
    out.open_checks = asked ? asked->open_to(project, revision) : open_checks(project, revision);
    const auto at = project.revisions.find(revision);
    if (!facts.figures || at == project.revisions.end())
        return out;
    FitSurroundings round;
    if (const auto build = project.builds.find(at->second.build); build != project.builds.end())
        round = round_of(project, build->second);
    round.open = out.open_checks;
    if (record)
        round.ages = ages_of(project, at->second.assembly, *record);
    FitJudgement fit = judge_fit(at->second.assembly, *facts.figures, *facts.rigid, round, motion);
    out.piston = fit.piston;
    out.other_valve = fit.other_valve;
    for (Finding& finding : fit.findings) {
        const FitRule* rule = find_fit_rule(finding.rule);
        out.findings.push_back({std::move(finding), rule ? waiver_of(project, revision, *rule) : 0});
    }
    return out;
}

} // namespace bathmos::session
