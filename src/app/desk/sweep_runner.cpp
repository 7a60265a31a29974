#include "app/desk/sweep_runner.h"

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
    connect(&document_, &Document::limits_changed, this, &SweepRunner::restart);
    connect(&document_, &Document::range_changed, this, [this] {
        if (!(document_.range() == swept_)) // a target moves no speed
            restart();
    });
}

SweepRunner::~SweepRunner() {
    work_.stop();
}

void SweepRunner::stop() {
    if (state_ != State::Running)
        return;
    work_.stop();
    delay_.stop();
    state_ = State::Stopped;
    emit finished();
}

// Results of another build, or of none, are not old ones of this: they are another train's.
void SweepRunner::forget() {
    current_ = {};
    old_ = {};
}

void SweepRunner::restart() {
    if (document_.build() != build_)
        forget();
    build_ = document_.build();
    if (current_.complete())
        old_ = std::move(current_);
    current_ = {};
    current_.revision = document_.revision();
    swept_ = document_.range();
    work_.stop();
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
    const session::SweepInputs inputs = document_.session().sweep_inputs();
    if (const auto kept = document_.results().find_sweep(inputs)) { // computed already: at once
        for (const auto& motion : kept->motions)
            current_.motions[motion->speed_rpm] = motion;
        progress_ = 1;
        take_estimate(kept->summary);
        return conclude({});
    }
    const auto count = static_cast<double>(inputs.range.speeds_rpm().size());
    work_.start(
        [this, inputs, count, &results = document_.results()](const std::stop_token& stop,
                                                              const Background::Post& post) {
            double done = 0;
            SweepWatch watch;
            watch.stop = stop;
            watch.motion = [&](std::shared_ptr<const Motion> motion) {
                const double share = ++done / count;
                post([this, motion = std::move(motion), share] { receive(motion, share); });
            };
            watch.estimate = [&](const SweepSummary& estimate) {
                post([this, estimate] { take_estimate(estimate); });
            };
            const auto swept = results.sweep(inputs, watch);
            post([this, swept] { take_estimate(swept->summary); });
        },
        [this](const QString& failure) { conclude(failure); });
}

void SweepRunner::receive(std::shared_ptr<const Motion> motion, double share) {
    if (motion->finite)
        current_.motions[motion->speed_rpm] = std::move(motion);
    progress_ = share;
    emit motions_changed();
    emit progress_changed();
}

// All speeds are there: the result is complete but for the last digits of the limit.
void SweepRunner::take_estimate(const SweepSummary& estimate) {
    current_.summary = estimate;
    old_ = {};
    emit motions_changed();
}

void SweepRunner::conclude(const QString& failure) {
    state_ = failure.isEmpty() ? State::Done : State::Failed;
    failure_ = failure;
    emit motions_changed();
    emit finished();
}

SweepRunner::Shown SweepRunner::shown_at(double speed_rpm) const {
    const Motion* fresh = current_.nearest(speed_rpm);
    const bool near =
        fresh && (current_.complete() || std::abs(fresh->speed_rpm - speed_rpm) <= range().step_rpm);
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
