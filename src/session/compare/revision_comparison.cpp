#include "session/compare/revision_comparison.h"

#include "session/project/revision_judgement.h"
#include "session/results/predictions.h"

#include <fmt/format.h>

namespace bathmos::session {

namespace {

const Revision& revision_at(const Project& project, Id id) {
    const auto at = project.revisions.find(id);
    if (at == project.revisions.end())
        throw InputError(
            {"", "revision", fmt::format("{} is not there", id), "choose a revision of the project"});
    return at->second;
}

LimitsKnown limits_known(const Project& project, Id revision) {
    const Prediction* made = newest_prediction(project, revision);
    return made ? LimitsKnown{made->limit_rpm, made->contact_loss_rpm, made->onset_rpm} : LimitsKnown{};
}

} // namespace

std::optional<TrainFigures> figures_of_revision(const Revision& revision) {
    return facts_of(revision.assembly.train).figures;
}

RevisionComparison compare_revisions(const Project& project, Id before, Id after) {
    const Revision &a = revision_at(project, before), &b = revision_at(project, after);
    RevisionComparison out{differences(a.assembly, b.assembly), {}};
    const auto was = figures_of_revision(a), is = figures_of_revision(b);
    if (was && is)
        out.effects = effects(*was, *is, limits_known(project, before), limits_known(project, after));
    return out;
}

Id set_against(const Project& project, Id shown, Id compared) {
    if (compared != 0)
        return compared;
    const auto at = project.revisions.find(shown);
    return at == project.revisions.end() ? 0 : at->second.parent;
}

} // namespace bathmos::session
