#include "app/desk/uncertainty_runner.h"

namespace bathmos::app {

namespace {
constexpr int kRest_ms = 700; // after a sweep, so that a hand at work is not slowed
}

UncertaintyRunner::UncertaintyRunner(Document& document, SweepRunner& sweep, QObject* parent)
    : QObject(parent), document_(document), sweep_(sweep) {
    pause_.setSingleShot(true);
    pause_.setInterval(kRest_ms);
    connect(&pause_, &QTimer::timeout, this, &UncertaintyRunner::start);
    const auto aged = [this] {
        if (document_.build() != build_) // another build's result is not an old one of this
            uncertainty_.reset();
        stop();
    };
    connect(&document_, &Document::changed, this, aged);
    connect(&document_, &Document::limits_changed, this, aged);
    connect(&sweep_, &SweepRunner::finished, this, &UncertaintyRunner::ask);
}

void UncertaintyRunner::ask() {
    if (automatic_ && sweep_.state() == SweepRunner::State::Done &&
        (!uncertainty_ || revision_ != document_.revision()))
        pause_.start();
}

void UncertaintyRunner::set_automatic(bool on) {
    automatic_ = on;
    on ? ask() : stop();
}

void UncertaintyRunner::start() {
    pause_.stop();
    const SweepSummary* summary = sweep_.summary();
    if (!document_.rigid() || !summary)
        return;
    progress_ = 0;
    failure_.clear();
    UncertaintyQuery query;
    query.range = sweep_.range();
    query.limits = document_.limits();
    query.near_rpm = summary->limit.speed_rpm.value_or(0);
    query.trains = trains_;
    const quint64 revision = document_.revision();
    work_.start(
        [this, query, revision, train = document_.train()](const std::stop_token& stop,
                                                           const Background::Post& post) {
            UncertaintyWatch watch;
            watch.stop = stop;
            watch.progress = [&](double share) {
                post([this, share] {
                    progress_ = share;
                    emit changed();
                });
            };
            watch.estimate = [&](const LimitUncertainty& uncertainty) {
                post([this, uncertainty, revision] { take(uncertainty, revision); });
            };
            const LimitUncertainty uncertainty = uncertainty_of(train, query, watch);
            post([this, uncertainty, revision] { take(uncertainty, revision); });
        },
        [this](const QString& failure) {
            failure_ = failure;
            emit changed();
        });
    emit changed();
}

void UncertaintyRunner::take(const LimitUncertainty& uncertainty, quint64 revision) {
    uncertainty_ = uncertainty;
    revision_ = revision;
    build_ = document_.build();
    emit changed();
}

void UncertaintyRunner::stop() {
    pause_.stop();
    work_.stop();
    emit changed();
}

} // namespace bathmos::app
