#include "session/cases/change_study.h"

namespace bathmos::session {

namespace {
constexpr std::size_t kUncertaintyTrains = 12;

const Revision& revision_of(const CaseInput& input) {
    return input.project.revisions.at(input.revision);
}
} // namespace

ChangeStudyQuery change_study_query(const CaseInput& input, const CaseFile& file, const Verdict& verdict) {
    ChangeStudyQuery out;
    out.range = input.range;
    out.limits = input.limits;
    out.target_rpm = file.target_rpm > 0 ? file.target_rpm : out.range.last_rpm;
    out.limit_rpm = file.model ? file.model->limit_rpm.value_or(out.range.last_rpm) : 0;
    if (file.model) {
        out.contact_loss_rpm = file.model->contact_loss_rpm;
        out.onset_rpm = file.model->onset_rpm;
        out.head_Pa = file.model->head_Pa;
    }
    if (file.rig)
        out.measured = file.rig->rows;
    out.at_rpm = verdict.speed.rpm.value_or(out.limit_rpm);
    out.build = &input.project.builds.at(revision_of(input).build);
    if (const auto engine = input.project.engines.find(out.build->engine);
        engine != input.project.engines.end())
        out.engine = &engine->second;
    out.uncertainty_trains = kUncertaintyTrains;
    return out;
}

std::vector<TrainChange> changes_of_case(const CaseInput& input) {
    const Revision& revision = revision_of(input);
    return possible_changes(input.project, revision.assembly, input.project.builds.at(revision.build).side);
}

ChangeStudy study_changes(const CaseInput& input, const CaseFile& file, const Verdict& verdict,
                          const std::vector<TrainChange>& changes, const StudyWatch& watch) {
    ChangeStudy out;
    out.changes = changes;
    const Assembly& assembly = revision_of(input).assembly;
    ChangeStudyQuery query = change_study_query(input, file, verdict);
    query.stop = watch.stop;
    const auto report = [&](double from, double share) -> ProgressSink {
        if (!watch.progress)
            return {};
        return [&watch, from, share](double done) { watch.progress(from + share * done); };
    };
    query.progress = report(0, 0.6);
    query.found = watch.single;
    out.singles = study_single_changes(assembly, out.changes, query);
    query.progress = report(0.6, 0.4);
    query.found = watch.combination;
    out.combinations = combinations_that_reach(assembly, out.changes, out.singles, query);
    return out;
}

} // namespace bathmos::session
