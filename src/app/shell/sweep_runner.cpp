#include "app/shell/sweep_runner.h"

#include "core/units/units.h"

#include <cmath>

namespace bathmos::app {

namespace {
constexpr int kTypingPause_ms =
    25; // gathers the keys of one number; first speeds are there well within 0.2 s
} // namespace

const Motion* SweepResult::nearest(double speed_rpm) const {
    if (motions.empty())
        return nullptr;
    auto above = motions.lower_bound(speed_rpm);
    if (above == motions.end())
        return std::prev(above)->second.get();
    if (above == motions.begin() || above->first - speed_rpm <= speed_rpm - std::prev(above)->first)
        return above->second.get();
    return std::prev(above)->second.get();
}

std::vector<SpeedMetrics> SweepResult::rows() const {
    std::vector<SpeedMetrics> out;
    for (const auto& [speed, motion] : motions)
        out.push_back({speed, motion->metrics});
    return out;
}

SweepRunner::SweepRunner(Document& document, QObject* parent) : QObject(parent), document_(document) {
    delay_.setSingleShot(true);
    delay_.setInterval(kTypingPause_ms);
    connect(&delay_, &QTimer::timeout, this, &SweepRunner::start);
    connect(&document_, &Document::changed, this, &SweepRunner::restart);
}

SweepRunner::~SweepRunner() {
    halt();
}

void SweepRunner::set_range(const SpeedRange& range) {
    if (range == range_)
        return;
    range_ = range;
    restart();
}

void SweepRunner::halt() {
    ++run_;
    if (worker_.joinable()) {
        worker_.request_stop(); // heeded within one cycle, some milliseconds
        worker_.join();
    }
}

void SweepRunner::stop() {
    if (state_ != State::Running)
        return;
    halt();
    delay_.stop();
    state_ = State::Stopped;
    emit finished();
}

void SweepRunner::restart() {
    if (current_.complete())
        old_ = std::move(current_);
    current_ = {};
    current_.revision = document_.revision();
    halt();
    progress_ = 0;
    state_ = document_.rigid() ? State::Running : State::Idle;
    if (state_ == State::Running)
        delay_.start();
    emit motions_changed();
    emit progress_changed();
}

void SweepRunner::start() {
    if (!document_.rigid())
        return;
    current_.rigid_m.clear();
    for (std::size_t i = 0; i < kGridPoints; ++i)
        current_.rigid_m.push_back(
            document_.rigid()->lift_m(radians((-360 + kGridStep_crank_deg * static_cast<double>(i)) / 2)));
    const quint64 run = run_;
    const auto count = static_cast<double>(range_.speeds_rpm().size());
    worker_ = std::jthread(
        [this, run, count, train = document_.train(), range = range_](const std::stop_token& stop) {
            const auto post = [this](auto call) {
                QMetaObject::invokeMethod(this, std::move(call), Qt::QueuedConnection);
            };
            std::optional<SweepSummary> summary;
            State state = State::Done;
            QString failure;
            try {
                double done = 0;
                SweepWatch watch;
                watch.stop = stop;
                watch.motion = [&](std::shared_ptr<const Motion> motion) {
                    const double share = ++done / count;
                    post([this, run, motion = std::move(motion), share] { receive(run, motion, share); });
                };
                watch.estimate = [&](const SweepSummary& estimate) {
                    post([this, run, estimate] { take_estimate(run, estimate); });
                };
                summary = sweep(train, range, usual_limits(), watch).summary;
            } catch (const Stopped&) {
                state = State::Stopped;
            } catch (const std::exception& error) {
                state = State::Failed;
                failure = QString::fromUtf8(error.what());
            }
            post([this, run, state, summary, failure] { conclude(run, state, summary, failure); });
        });
}

void SweepRunner::receive(quint64 run, std::shared_ptr<const Motion> motion, double share) {
    if (run != run_)
        return;
    if (motion->finite)
        current_.motions[motion->speed_rpm] = std::move(motion);
    progress_ = share;
    emit motions_changed();
    emit progress_changed();
}

// All speeds are there: the result is complete but for the last digits of the limit.
void SweepRunner::take_estimate(quint64 run, const SweepSummary& estimate) {
    if (run != run_)
        return;
    current_.summary = estimate;
    old_ = {};
    emit motions_changed();
}

void SweepRunner::conclude(quint64 run, State state, const std::optional<SweepSummary>& summary,
                           const QString& failure) {
    if (run != run_)
        return;
    state_ = state;
    failure_ = failure;
    if (summary)
        take_estimate(run, *summary);
    emit motions_changed();
    emit finished();
}

SweepRunner::Shown SweepRunner::shown_at(double speed_rpm) const {
    const Motion* fresh = current_.nearest(speed_rpm);
    const bool near =
        fresh && (current_.complete() || std::abs(fresh->speed_rpm - speed_rpm) <= range_.step_rpm);
    if (near || old_.motions.empty())
        return {fresh, &current_.rigid_m, false};
    return {old_.nearest(speed_rpm), &old_.rigid_m, true};
}

const SweepSummary* SweepRunner::summary(bool* old) const {
    const bool fresh = current_.summary.has_value();
    if (old)
        *old = !fresh;
    if (fresh)
        return &*current_.summary;
    return old_.summary ? &*old_.summary : nullptr;
}

} // namespace bathmos::app
