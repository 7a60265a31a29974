#include "app/desk/comparison.h"

#include "core/motion/motion.h"
#include "core/train/train_check.h"
#include "session/compare/revision_comparison.h"
#include "session/results/predictions.h"

namespace bathmos::app {

Comparison::Comparison(Document& document, SweepRunner& sweep, Cursors& cursors, QObject* parent)
    : QObject(parent), document_(document), sweep_(sweep), cursors_(cursors) {
    connect(&document_, &Document::records_changed, this, &Comparison::follow);
    connect(&cursors_, &Cursors::speed_changed, this, &Comparison::follow);
}

void Comparison::stop() {
    motion_work_.stop();
    limit_work_.stop();
    limit_of_ = 0;
}

const TrainFigures* Comparison::figures() {
    const Revision* other = document_.compared_revision();
    if (!other)
        return nullptr;
    if (figured_ != other->assembly.train) {
        figured_ = other->assembly.train;
        figures_ = session::figures_of_revision(*other);
    }
    return figures_ ? &*figures_ : nullptr;
}

void Comparison::follow() {
    const Id compared = document_.compared();
    if (compared == compared_ && (compared == 0 || cursors_.speed_rpm() == speed_rpm_))
        return;
    if (compared != compared_)
        motion_.reset();
    compared_ = compared;
    speed_rpm_ = cursors_.speed_rpm();
    if (compared == 0) {
        motion_work_.stop();
        emit changed();
        return;
    }
    want_limit(compared);
    compute();
}

void Comparison::compute() {
    const Train train = document_.compared_revision()->assembly.train;
    if (!check_train(train).empty())
        return;
    motion_work_.start(
        [this, train, speed = speed_rpm_](const std::stop_token& stop, const Background::Post& post) {
            auto motion =
                std::make_shared<const Motion>(std::move(MotionModel(train).run({speed}, stop).front()));
            post([this, motion] {
                motion_ = motion->finite ? motion : nullptr;
                emit changed();
            });
        },
        [](const QString&) {});
}

void Comparison::want_limit(Id revision) {
    const auto at = document_.project().revisions.find(revision);
    if (at == document_.project().revisions.end() || limit_of_ == revision ||
        !check_train(at->second.assembly.train).empty())
        return;
    if (const Prediction* made = document_.prediction_of(revision);
        made && document_.session().current(*made))
        return;
    limit_of_ = revision;
    limit_work_.start(
        [this, revision, inputs = document_.session().sweep_inputs(revision),
         &results = document_.results()](const std::stop_token& stop, const Background::Post& post) {
            SweepWatch watch;
            watch.stop = stop;
            const auto swept = results.sweep(inputs, watch);
            post([this, revision, inputs, swept] {
                limit_of_ = 0;
                if (!document_.project().revisions.contains(revision))
                    return;
                document_.note_prediction(
                    session::prediction_of(inputs, revision, swept->summary, nullptr, {}));
                emit changed();
            });
        },
        [this](const QString&) { limit_of_ = 0; });
}

} // namespace bathmos::app
