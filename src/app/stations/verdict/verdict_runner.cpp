#include "app/stations/verdict/verdict_runner.h"

namespace bathmos::app {

namespace {

// Whether two states of a project make the same verdict: predictions and verdicts are no evidence.
bool same_evidence(const Project& a, const Project& b) {
    const auto alike = [&](EntryKind kind) { return a.of(kind) == b.of(kind); };
    return a.revisions == b.revisions && a.builds == b.builds && a.engines == b.engines &&
           a.parts == b.parts && alike(EntryKind::DynoPull) && alike(EntryKind::RigRun) &&
           alike(EntryKind::Sheet) && alike(EntryKind::Waiver);
}

} // namespace

VerdictRunner::VerdictRunner(Document& document, QObject* parent) : QObject(parent), document_(document) {
    const auto look = [this] { judge_age(); };
    connect(&document_, &Document::changed, this, look);
    connect(&document_, &Document::records_changed, this, look);
    connect(&document_, &Document::revision_shown, this, look);
}

void VerdictRunner::judge_age() {
    if (!document_.has_train()) {
        stop();
        made_.reset();
        forget_study();
    }
    old_ = made_ && (made_->input.revision != document_.shown() ||
                     !same_evidence(made_->input.project, document_.project()));
    emit changed();
}

void VerdictRunner::forget_study() {
    study_work_.stop();
    changes_.clear();
    singles_.clear();
    combinations_.clear();
    emit outcomes_changed();
}

void VerdictRunner::weigh() {
    if (!document_.rigid())
        return;
    progress_ = 0;
    failure_.clear();
    try {
        auto input = std::make_shared<io::CaseInput>(io::gather_case(
            document_.project(), document_.shown(), [this](Id id) { return document_.trace(id); }));
        weigh_.start(
            [this, input](const std::stop_token& stop, const Background::Post& post) {
                FactsQuery query;
                query.stop = stop;
                query.progress = [&](double share) {
                    post([this, share] {
                        progress_ = share;
                        emit changed();
                    });
                };
                auto made = std::make_shared<MadeVerdict>();
                made->input = *input;
                made->file = io::open_case(*input, query);
                made->verdict = judge(made->file);
                post([this, made] { take(made); });
            },
            [this](const QString& failure) {
                failure_ = failure;
                emit changed();
            });
    } catch (const InputError& error) {
        failure_ = QString::fromStdString(error.what());
    }
    emit changed();
}

void VerdictRunner::take(std::shared_ptr<const MadeVerdict> made) {
    forget_study();
    made_ = std::move(made);
    judge_age();
}

void VerdictRunner::try_changes() {
    if (!made_ || old_)
        return;
    forget_study();
    progress_ = 0;
    failure_.clear();
    const Assembly& assembly = made_->input.project.revisions.at(made_->input.revision).assembly;
    const ChangeStudyQuery base = io::change_study_query(made_->input, made_->file, made_->verdict);
    changes_ = possible_changes(made_->input.project, assembly, base.build->side);
    study_work_.start(
        [this, made = made_, base, changes = changes_](const std::stop_token& stop,
                                                       const Background::Post& post) {
            const Assembly& from = made->input.project.revisions.at(made->input.revision).assembly;
            ChangeStudyQuery query = base;
            query.stop = stop;
            const auto report = [&](double start, double share) {
                return [this, &post, start, share](double done) {
                    post([this, at = start + share * done] {
                        progress_ = at;
                        emit changed();
                    });
                };
            };
            query.progress = report(0, 0.6);
            query.found = [&](const ChangeOutcome& outcome) {
                post([this, outcome] {
                    singles_.push_back(outcome);
                    emit outcomes_changed();
                });
            };
            const std::vector<ChangeOutcome> singles = study_single_changes(from, changes, query);
            query.progress = report(0.6, 0.4);
            query.found = [&](const ChangeOutcome& outcome) {
                post([this, outcome] {
                    combinations_.push_back(outcome);
                    emit outcomes_changed();
                });
            };
            combinations_that_reach(from, changes, singles, query);
        },
        [this](const QString& failure) {
            failure_ = failure;
            emit changed();
            emit outcomes_changed();
        });
    emit changed();
}

void VerdictRunner::stop() {
    weigh_.stop();
    study_work_.stop();
    emit changed();
}

} // namespace bathmos::app
