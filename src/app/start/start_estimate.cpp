#include "app/start/start_estimate.h"

#include "session/results/sweep_range.h"

namespace bathmos::app {

namespace {
constexpr int kPause_ms = 350; // between the last key and the first train
} // namespace

StartEstimate::StartEstimate(QObject* parent) : QObject(parent) {
    pause_.setSingleShot(true);
    pause_.setInterval(kPause_ms);
    connect(&pause_, &QTimer::timeout, this, [this] { start(); });
}

void StartEstimate::ask(const StartedTrain& started) {
    if (fresh_ && started.train == started_.train && started.target_rpm == started_.target_rpm)
        return;
    work_.stop();
    started_ = started;
    fresh_ = false;
    failure_.clear();
    pause_.start();
    emit changed();
}

void StartEstimate::forget() {
    pause_.stop();
    work_.stop();
    fresh_ = false;
    failure_.clear();
    emit changed();
}

void StartEstimate::start() {
    work_.start(
        [this, started = started_, trains = trains_](const std::stop_token& stop,
                                                     const Background::Post& post) {
            UncertaintyQuery query;
            const TrainFigures figures =
                figures_of(started.train, RigidMotion(started.train, curve_of(started.train.lobe)));
            query.range = session::usual_range(&figures, started.target_rpm.value_or(0));
            query.trains = trains;
            UncertaintyWatch watch;
            watch.stop = stop;
            watch.estimate = [this, post](const LimitUncertainty& first) {
                post([this, first] { take(first); });
            };
            const LimitUncertainty found = uncertainty_of(started.train, query, watch);
            post([this, found] { take(found); });
        },
        [this](const QString& failure) {
            failure_ = failure;
            emit changed();
        });
    emit changed();
}

void StartEstimate::take(const LimitUncertainty& band) {
    band_ = band;
    worth_ = worth_knowing(band);
    fresh_ = true;
    emit changed();
}

} // namespace bathmos::app
