#include "app/shell/claims.h"

#include "app/text/words.h"
#include "core/train/assumed.h"
#include "core/verdict/agreement.h"
#include "core/verdict/changes.h"
#include "session/results/predictions.h"

#include <QCoreApplication>
#include <QFileInfo>
#include <algorithm>
#include <cmath>

namespace bathmos::app {

namespace {

using Kind = StripMark::Kind;

constexpr double kUsualWidth = 0.03; // of a model whose band nobody has computed yet

QString tr(const char* text) {
    return QCoreApplication::translate("StripClaims", text);
}

// "7959 duration change", and whether it is old.
QString named_speed(double rpm, Metric metric, bool old) {
    const QString name = lower_phrase(info(metric).label);
    return speed_text(rpm) + QLatin1Char(' ') + name + (old ? tr(" (old)") : QString());
}

// "+273", "−72"
QString signed_speed(double rpm) {
    return (rpm < 0 ? QStringLiteral("−") : QStringLiteral("+")) + fixed(std::abs(rpm), 0);
}

// Why a band is as wide or as narrow as it is.
QString known_words(const Train& train) {
    const auto fitted = std::count_if(train.tolerances.begin(), train.tolerances.end(),
                                      [](const auto& one) { return one.second.source == Source::Fitted; });
    const std::size_t assumed = assumed_numbers(train).size();
    QString out;
    if (fitted > 0)
        out += tr(", %1 of them fitted to a run").arg(fitted);
    if (assumed > 0)
        out += tr(", %1 numbers assumed").arg(assumed);
    return out;
}

// What the strip says of the build in hand.
class Collector {
  public:
    explicit Collector(const Context& context) : in_(context) {}

    StripClaims collect() {
        add_model();
        if (const TrainFigures* f = in_.document.figures(); f && f->separation)
            add({Kind::Rigid, f->separation->speed_rpm, 0, speed_text(f->separation->speed_rpm), false,
                 tr("masses and springs alone, nothing flexes: an upper bound"), QStringLiteral("train")});
        add_rig();
        add_dyno();
        add_trials();
        add_compared();
        if (in_.document.target_rpm() > 0)
            add({Kind::Target,
                 in_.document.target_rpm(),
                 0,
                 speed_text(in_.document.target_rpm()),
                 false,
                 tr("as set for this engine, above on the right"),
                 {}});
        if (const Engine* engine = in_.document.engine(); engine && engine->overspeed_rpm > 0)
            add({Kind::Overspeed, engine->overspeed_rpm, 0, speed_text(engine->overspeed_rpm), false,
                 tr("the highest that this engine may see: %1").arg(margin_words(engine->overspeed_rpm)),
                 QStringLiteral("train")});
        out_.high_rpm = in_.sweep.range().last_rpm;
        for (const StripMark& mark : out_.marks)
            out_.high_rpm = std::max(out_.high_rpm, mark.speed_rpm);
        out_.agreement = phrase(agreement_in_words(claims_));
        return std::move(out_);
    }

  private:
    void add(const StripMark& mark) { out_.marks.push_back(mark); }

    // How far the limit stays below, or reaches above it.
    QString margin_words(double overspeed_rpm) const {
        const SweepSummary* s = in_.sweep.summary();
        if (!s || !s->limit.speed_rpm)
            return tr("no limit is computed yet");
        const double over = *s->limit.speed_rpm - overspeed_rpm;
        return over < 0 ? tr("the model limit lies %1 below").arg(speed_text(-over))
                        : tr("the model limit lies %1 above").arg(speed_text(over));
    }

    void add_limit(Kind kind, const LimitSpeed& limit, bool old, const QString& source, const QString& link) {
        if (limit.speed_rpm)
            add({kind, *limit.speed_rpm, 0, named_speed(*limit.speed_rpm, limit.first->metric, old), old,
                 source, link});
    }

    void add_onset(Kind kind, const Onset& onset, bool old, const QString& source, const QString& link) {
        if (onset.speed_rpm)
            add({kind, *onset.speed_rpm, onset.half_step_rpm,
                 named_speed(*onset.speed_rpm, *onset.metric, old), old, source, link});
    }

    void add_model() {
        bool old = false;
        const SweepSummary* s = in_.sweep.summary(&old);
        if (!s)
            return;
        const QString source =
            tr("swept from %1 to %2 rev/min, judged by the limits in force%3")
                .arg(in_.sweep.range().first_rpm)
                .arg(in_.sweep.range().last_rpm)
                .arg(in_.document.has_train() ? known_words(in_.document.train()) : QString());
        const QString link = QStringLiteral("motion");
        const QString free_again = free_again_text(s->limit.free_again);
        add_limit(Kind::Model, s->limit, old,
                  (free_again.isEmpty() ? QString() : free_again + QStringLiteral("; ")) + source, link);
        if (!in_.document.stops().empty() && !out_.marks.isEmpty())
            out_.marks.back().text += tr(" ■ stop");
        if (const auto force = contact_loss_rpm(s->limit);
            force && s->limit.first->metric != Metric::ContactLoss)
            add({Kind::ModelForce, *force, 0, named_speed(*force, Metric::ContactLoss, old), old,
                 tr("where a contact is lost, which no position sensor sees"), link});
        const Onset onset = onset_beside((old ? in_.sweep.old() : in_.sweep.current()).rows(), s->onset,
                                         in_.rig.run() ? in_.rig.run()->rows() : std::vector<SpeedMetrics>())
                                .onset;
        add_onset(Kind::ModelOnset, onset, old, tr("where the motion leaves the lobe, by the model"), link);
        const auto speed = onset.speed_rpm ? onset.speed_rpm : s->limit.speed_rpm;
        const LimitUncertainty* band = in_.uncertainty.uncertainty();
        if (speed && !old)
            claims_.push_back({Claimant::Model, *speed,
                               band && !in_.uncertainty.old() && band->low_rpm && band->high_rpm
                                   ? 0.5 * (*band->high_rpm - *band->low_rpm)
                                   : kUsualWidth * *speed});
    }

    void add_rig() {
        const RigRun* run = in_.rig.run();
        if (!run)
            return;
        const bool old = in_.rig.old();
        const QString file = QFileInfo(in_.rig.path()).fileName();
        const QString source = file.isEmpty() ? tr("the rig run in hand") : tr("the rig run of %1").arg(file);
        add_limit(Kind::RigLimit, run->limit, old, source, QStringLiteral("rig"));
        add_onset(Kind::RigOnset, run->onset.onset, old, source, QStringLiteral("rig"));
        if (const auto speed = run->onset.onset.speed_rpm)
            claims_.push_back({Claimant::Rig, *speed, run->onset.onset.half_step_rpm});
        else if (run->limit.speed_rpm)
            claims_.push_back({Claimant::Rig, *run->limit.speed_rpm, 0});
    }

    void add_dyno() {
        const auto* state = in_.dyno.shown();
        if (!state || !state->first_break)
            return;
        const bool other = state->revision != in_.document.shown();
        add({Kind::DynoBreak, state->first_break->speed_rpm, state->first_break->scatter_rpm,
             speed_text(state->first_break->speed_rpm) + (other ? tr(" (another revision)") : QString()),
             other, tr("where power falls off in the pulls of %1").arg(words(state->label)),
             QStringLiteral("dyno")});
        if (!other)
            claims_.push_back(
                {Claimant::Dyno, state->first_break->speed_rpm, state->first_break->scatter_rpm});
    }

    void add_trials() {
        const SweepSummary* now = in_.sweep.summary();
        const QString link = QStringLiteral("motion");
        if (const auto& before = in_.what_if.before();
            before &&
            !(now && now->limit.speed_rpm && std::abs(*now->limit.speed_rpm - before->speed_rpm) < 1))
            add({Kind::Before, before->speed_rpm, 0, named_speed(before->speed_rpm, before->metric, false),
                 false, tr("the limit before the number that is being pulled"), link});
        if (const auto& trial = in_.what_if.limit()) {
            const QString opposed = in_.what_if.opposed();
            add({Kind::Trial, trial->speed_rpm, 0,
                 named_speed(trial->speed_rpm, trial->metric, false) +
                     (in_.what_if.stage() == WhatIf::Stage::Refined ? QString() : tr(" (coarse)")) +
                     (opposed.isEmpty() ? QString() : QStringLiteral(" ⇅ ") + opposed),
                 false, tr("with the number that is being pulled"), link});
        }
    }

    void add_compared() {
        const Prediction* other = in_.document.prediction_of(in_.document.compared());
        if (!other || !other->limit_rpm)
            return;
        const QString label = words(in_.document.project().revision_label(in_.document.compared()));
        add({Kind::Compared, *other->limit_rpm, 0,
             label + QLatin1Char(' ') + speed_text(*other->limit_rpm) + opposed_to(*other), false,
             tr("the limit that was computed for %1").arg(label), QStringLiteral("train/revisions")});
    }

    // Where the train in hand moves the limit by force and the onset apart from those of another revision, in
    // words.
    QString opposed_to(const Prediction& other) const {
        bool old = false;
        const SweepSummary* now = in_.sweep.summary(&old);
        if (!now || old || !other.contact_loss_rpm || !other.onset_rpm)
            return {};
        const auto force = contact_loss_rpm(now->limit), onset = now->onset.onset.speed_rpm;
        if (!force || !onset || !opposite_moves(*force - *other.contact_loss_rpm, *onset - *other.onset_rpm))
            return {};
        return tr(" ⇅ since: contact loss %1, onset %2")
            .arg(signed_speed(*force - *other.contact_loss_rpm), signed_speed(*onset - *other.onset_rpm));
    }

    const Context& in_;
    StripClaims out_;
    std::vector<SpeedClaim> claims_;
};

} // namespace

StripClaims claims_of(const Context& context) {
    return Collector(context).collect();
}

std::optional<StripBand> band_of(const Context& context) {
    const LimitUncertainty* uncertainty = context.uncertainty.uncertainty();
    if (!uncertainty || !context.document.has_train() || !uncertainty->low_rpm)
        return std::nullopt;
    const auto text = [](const std::optional<double>& rpm) {
        return rpm ? speed_text(rpm) : tr("above range");
    };
    return StripBand{uncertainty->low_rpm, uncertainty->middle_rpm, uncertainty->high_rpm,
                     tr("model limit over tolerances%1: 10 % %2, 50 % %3, 90 % %4")
                         .arg(known_words(context.document.train()), text(uncertainty->low_rpm),
                              text(uncertainty->middle_rpm), text(uncertainty->high_rpm)),
                     context.uncertainty.old()};
}

} // namespace bathmos::app
