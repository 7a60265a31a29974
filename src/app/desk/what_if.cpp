#include "app/desk/what_if.h"
#include "app/text/words.h"

#include "core/train/train_check.h"
#include "core/verdict/changes.h"

#include <cmath>

namespace bathmos::app {

namespace {
std::optional<ClaimedLimit> claimed(const LimitSpeed& limit) {
    if (!limit.speed_rpm)
        return std::nullopt;
    return ClaimedLimit{*limit.speed_rpm, limit.first->metric};
}

std::optional<ClaimedLimit> claimed(const SweepSummary& summary) {
    auto out = claimed(summary.limit);
    if (out) {
        out->contact_loss_rpm = contact_loss_rpm(summary.limit);
        out->onset_rpm = summary.onset.onset.speed_rpm;
    }
    return out;
}
} // namespace

WhatIf::WhatIf(Document& document, SweepRunner& sweep, Cursors& cursors, QObject* parent)
    : QObject(parent), document_(document), sweep_(sweep), cursors_(cursors) {
    connect(&document_, &Document::file_changed, this, [this] {
        if (document_.path() != path_) // another train: what was before it is nothing to compare with
            forget_before();
        path_ = document_.path();
    });
}

void WhatIf::drag(const Train& trial) {
    if (!before_)
        if (const SweepSummary* summary = sweep_.summary())
            before_ = claimed(*summary);
    if (!trial_) {
        stage_ = Stage::Dragging;
        limit_.reset();
        motion_.reset();
    }
    trial_ = trial;
    waiting_ = true;
    next();
    emit changed();
}

// A coarse answer is never interrupted, so that the picture follows however fast the hand moves; a refining
// is.
void WhatIf::next() {
    if (!waiting_ || (work_.running() && !coarse_done_))
        return;
    waiting_ = false;
    compute(*trial_);
}

void WhatIf::compute(const Train& train) {
    const auto problems = check_train(train);
    problem_ = problems.empty() ? QString() : phrase(problems.front().sentence());
    if (!problem_.isEmpty()) {
        work_.stop();
        limit_.reset();
        motion_.reset();
        emit changed();
        return;
    }
    coarse_done_ = false;
    QuickLimitQuery query;
    query.range = sweep_.range();
    query.limits = document_.limits();
    query.near_rpm = limit_ ? limit_->speed_rpm : before_ ? before_->speed_rpm : 0;
    const SweepSummary* summary = sweep_.summary();
    if (summary)
        query.low_speed_deg = summary->low_speed_duration_change_deg;
    const double cursor = cursors_.speed_rpm();
    work_.start(
        [=, this, &results = document_.results()](const std::stop_token& stop,
                                                  const Background::Post& post) mutable {
            const MotionModel model(train);
            const auto show = [&](const CycleRule& rule) {
                auto motion =
                    std::make_shared<const Motion>(std::move(model.run({cursor}, stop, rule).front()));
                post([this, motion, rigid = model.chain().rigid_m] {
                    if (motion->finite)
                        motion_ = motion;
                    rigid_m_ = rigid;
                    emit changed();
                });
            };
            CycleRule quick;
            quick.most = quick.most_with_oil = 6;
            quick.averaged = 2;
            show(quick);
            const LimitSpeed coarse = estimate_limit(model, query, stop);
            post([this, coarse] { take_limit(claimed(coarse), Stage::Coarse); });
            show({});
            const LimitSpeed fine = refine_limit(model, after_estimate(query, coarse), stop);
            post([this, fine] { take_limit(claimed(fine), Stage::Refined); });
            SweepWatch watch; // the hand rests: the whole range, which also tells the onset, and is there if
                              // it is kept
            watch.stop = stop;
            const auto swept = results.sweep({train, query.range, query.limits}, watch);
            post([this, swept] { take_limit(claimed(swept->summary), Stage::Refined); });
        },
        [this](const QString& failure) {
            problem_ = failure;
            coarse_done_ = true;
            emit changed();
            next();
        });
}

QString WhatIf::opposed() const {
    if (!limit_ || !before_ || !limit_->contact_loss_rpm || !before_->contact_loss_rpm ||
        !limit_->onset_rpm || !before_->onset_rpm)
        return {};
    const double force = *limit_->contact_loss_rpm - *before_->contact_loss_rpm,
                 onset = *limit_->onset_rpm - *before_->onset_rpm;
    if (!opposite_moves(force, onset))
        return {};
    const auto moved = [](double by) {
        return tr("%1 %2").arg(fixed(std::abs(by), 0)).arg(by > 0 ? tr("higher") : tr("lower"));
    };
    return tr("limit by contact loss %1, onset %2").arg(moved(force), moved(onset));
}

void WhatIf::take_limit(std::optional<ClaimedLimit> limit, Stage stage) {
    limit_ = limit;
    stage_ = stage;
    coarse_done_ = true;
    emit changed();
    next();
}

void WhatIf::let_go(const QString& what, const QString& key) {
    if (!trial_)
        return;
    const Train kept = *trial_;
    leave();
    document_.edit(kept, what, key);
}

void WhatIf::leave() {
    work_.stop();
    coarse_done_ = true;
    trial_.reset();
    waiting_ = false;
    stage_ = Stage::None;
    limit_.reset();
    motion_.reset();
    problem_.clear();
    emit changed();
}

void WhatIf::forget_before() {
    before_.reset();
    emit changed();
}

void WhatIf::stop() {
    if (work_.running())
        work_.stop();
    coarse_done_ = true;
}

} // namespace bathmos::app
