#include "app/stations/verdict/verdict_runner.h"
#include "app/text/words.h"

namespace bathmos::app {

VerdictRunner::VerdictRunner(Document& document, QObject* parent) : QObject(parent), document_(document) {
    const auto look = [this] { judge_age(); };
    connect(&document_, &Document::changed, this, look);
    connect(&document_, &Document::records_changed, this, look);
    connect(&document_, &Document::revision_shown, this, look);
    connect(&document_, &Document::range_changed, this, look);
    connect(&document_, &Document::limits_changed, this, look);
}

void VerdictRunner::judge_age() {
    if (!document_.has_train()) {
        stop();
        made_.reset();
        forget_study();
    }
    old_ =
        made_ && (made_->input.revision != document_.shown() || !(made_->input.range == document_.range()) ||
                  !session::same_evidence(made_->input.project, document_.project()));
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
        auto input = std::make_shared<session::CaseInput>(session::gather_case(
            document_.project(), document_.shown(), [this](Id id) { return document_.trace(id); }));
        input->range = document_.range();
        weigh_.start(
            [this, input, &results = document_.results()](const std::stop_token& stop,
                                                          const Background::Post& post) {
                const auto progress = [&](double share) {
                    post([this, share] {
                        progress_ = share;
                        emit changed();
                    });
                };
                auto made = std::make_shared<MadeVerdict>();
                made->input = *input;
                made->file = session::open_case(*input, results, progress, stop);
                made->verdict = judge(made->file);
                post([this, made] { take(made); });
            },
            [this](const QString& failure) {
                failure_ = failure;
                emit changed();
            });
    } catch (const InputError& error) {
        failure_ = phrase(error.what());
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
    changes_ = session::changes_of_case(made_->input);
    study_work_.start(
        [this, made = made_, changes = changes_](const std::stop_token& stop, const Background::Post& post) {
            session::StudyWatch watch;
            watch.stop = stop;
            watch.progress = [&](double share) {
                post([this, share] {
                    progress_ = share;
                    emit changed();
                });
            };
            watch.single = [&](const ChangeOutcome& outcome) {
                post([this, outcome] {
                    singles_.push_back(outcome);
                    emit outcomes_changed();
                });
            };
            watch.combination = [&](const ChangeOutcome& outcome) {
                post([this, outcome] {
                    combinations_.push_back(outcome);
                    emit outcomes_changed();
                });
            };
            session::study_changes(made->input, made->file, made->verdict, changes, watch);
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
