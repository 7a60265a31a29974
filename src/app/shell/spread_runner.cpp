#include "app/shell/spread_runner.h"

namespace bathmos::app {

namespace {
constexpr int kRest_ms = 700; // after a sweep, so that a hand at work is not slowed
}

SpreadRunner::SpreadRunner(Document& document, SweepRunner& sweep, QObject* parent)
    : QObject(parent), document_(document), sweep_(sweep) {
    pause_.setSingleShot(true);
    pause_.setInterval(kRest_ms);
    connect(&pause_, &QTimer::timeout, this, &SpreadRunner::start);
    connect(&document_, &Document::changed, this, [this] {
        if (!document_.has_train())
            spread_.reset();
        stop();
    });
    connect(&sweep_, &SweepRunner::finished, this, &SpreadRunner::ask);
}

void SpreadRunner::ask() {
    if (automatic_ && sweep_.state() == SweepRunner::State::Done &&
        (!spread_ || revision_ != document_.revision()))
        pause_.start();
}

void SpreadRunner::set_automatic(bool on) {
    automatic_ = on;
    on ? ask() : stop();
}

void SpreadRunner::start() {
    pause_.stop();
    const SweepSummary* summary = sweep_.summary();
    if (!document_.rigid() || !summary)
        return;
    progress_ = 0;
    failure_.clear();
    SpreadQuery query;
    query.range = sweep_.range();
    query.near_rpm = summary->limit.speed_rpm.value_or(0);
    query.trains = trains_;
    const quint64 revision = document_.revision();
    work_.start(
        [this, query, revision, train = document_.train()](const std::stop_token& stop,
                                                           const Background::Post& post) {
            SpreadWatch watch;
            watch.stop = stop;
            watch.progress = [&](double share) {
                post([this, share] {
                    progress_ = share;
                    emit changed();
                });
            };
            watch.estimate = [&](const Spread& spread) {
                post([this, spread, revision] { take(spread, revision); });
            };
            const Spread spread = spread_of(train, query, watch);
            post([this, spread, revision] { take(spread, revision); });
        },
        [this](const QString& failure) {
            failure_ = failure;
            emit changed();
        });
    emit changed();
}

void SpreadRunner::take(const Spread& spread, quint64 revision) {
    spread_ = spread;
    revision_ = revision;
    emit changed();
}

void SpreadRunner::stop() {
    pause_.stop();
    work_.stop();
    emit changed();
}

} // namespace bathmos::app
