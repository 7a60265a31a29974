#include "app/stations/motion/spring_need_panel.h"

#include "app/plot/plot.h"
#include "app/text/words.h"
#include "app/widgets/number_field.h"

#include <QHBoxLayout>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace bathmos::app {

namespace {

constexpr std::size_t kLines = 5; // of equal limit, beside the target's
constexpr double kEvery_rpm[] = {50, 100, 200, 250, 500, 1000, 2500};

// Even speeds within what was found, so many that the picture stays clear.
std::vector<double> line_speeds(const SpringNeed& need) {
    double low = 1e9, high = 0;
    for (const TriedSpring& one : need.tried)
        if (one.limit_rpm > 0) {
            low = std::min(low, one.limit_rpm);
            high = std::max(high, one.limit_rpm);
        }
    std::vector<double> out;
    for (const double every : kEvery_rpm) {
        out.clear();
        for (double at = every * std::ceil(low / every); at <= high; at += every)
            out.push_back(at);
        if (out.size() <= kLines)
            break;
    }
    return out;
}

// Along one rate: the lowest seat load from which the limit is at least a speed; straight between two tries.
std::optional<double> seat_for(const SpringNeed& need, std::size_t rate, double limit_rpm) {
    const std::size_t rates = need.rate_N_per_m.size();
    for (std::size_t i = 0; i < need.seat_N.size(); ++i) {
        const TriedSpring& here = need.tried[i * rates + rate];
        if (here.limit_rpm < limit_rpm)
            continue;
        if (i == 0)
            return std::nullopt; // it lies below what was tried
        const TriedSpring& below = need.tried[(i - 1) * rates + rate];
        if (!(below.limit_rpm > 0))
            return here.spring.seat_N;
        const double share = (limit_rpm - below.limit_rpm) / (here.limit_rpm - below.limit_rpm);
        return below.spring.seat_N + share * (here.spring.seat_N - below.spring.seat_N);
    }
    return std::nullopt;
}

} // namespace

SpringNeedPanel::SpringNeedPanel(Context context, QWidget* parent)
    : QWidget(parent), context_(context), run_(new QPushButton(tr("Try springs"))), words_(new QLabel),
      plot_(new Plot(context.theme, tr("Limit over rate and seat load"))) {
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(0, 4, 0, 0);
    layout->setSpacing(6);
    layout->addWidget(plot_, 3);
    auto* side = new QVBoxLayout;
    side->setSpacing(2);
    layout->addLayout(side, 2);
    side->addWidget(bound(QStringLiteral("need_open"), Quantity::Force, tr("Load at most"),
                          tr("Open load at the valve, by rocker, follower or rules; 0: no bound."),
                          &query_.most_open_N));
    side->addWidget(bound(QStringLiteral("need_stress"), Quantity::Stress, tr("Stress at most"),
                          tr("At full lift, as the spring's maker allows; 0: no bound."),
                          &query_.most_stress_Pa));
    run_->setObjectName(QStringLiteral("need_run"));
    run_->setToolTip(tr("Limits of some fifty springs: a few seconds of all cores"));
    connect(run_, &QPushButton::clicked, this, &SpringNeedPanel::run);
    side->addWidget(run_);
    words_->setObjectName(QStringLiteral("need_words"));
    words_->setWordWrap(true);
    words_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    target_ = plot_->add_curve(tr("target"), Role::LimitMark);
    for (std::size_t k = 0; k < kLines; ++k)
        lines_.push_back(
            plot_->add_curve(QString(), Role::Predicted, k % 2 ? Stroke::Dashed : Stroke::Solid));
    now_ = plot_->add_curve(tr("now"), Role::Kinematic, Stroke::Points);
    least_ = plot_->add_curve(tr("least"), Role::Measured, Stroke::Points);
    most_ = plot_->add_curve(tr("most"), Role::Third, Stroke::Points);
    shelf_ = plot_->add_curve(tr("shelf"), Role::Ink, Stroke::Points);
    side->addWidget(words_, 1);
    connect(&context_.document, &Document::changed, this, [this] {
        work_.stop();
        state_.clear();
        show_result();
    });
    connect(&context_.units, &DisplayUnits::changed, this, &SpringNeedPanel::show_result);
    show_result();
}

NumberField* SpringNeedPanel::bound(const QString& key, Quantity quantity, const QString& label,
                                    const QString& help, double* value) {
    auto* field = new NumberField(context_.units, quantity, key, label, help, [](double read) {
        return read >= 0 && read < 1e6 ? std::string() : std::string("must be 0 or more");
    });
    field->set_compact();
    field->show_value(*value);
    connect(field, &NumberField::edited, this, [value](double si) { *value = si; });
    return field;
}

void SpringNeedPanel::run() {
    if (!context_.document.rigid())
        return;
    SpringNeedQuery query = query_;
    query.target_rpm = context_.document.target_rpm();
    query.range = context_.document.range();
    query.range.last_rpm = std::max(query.range.last_rpm, query.target_rpm + 1500);
    query.limits = context_.document.limits();
    const LimitUncertainty* spread = context_.uncertainty.uncertainty();
    if (spread && !context_.uncertainty.old() && spread->low_rpm && spread->middle_rpm)
        query.tolerance_rpm = *spread->middle_rpm - *spread->low_rpm;
    asked_ = query;
    const quint64 revision = context_.document.revision();
    state_ = tr("trying…");
    show_result();
    work_.start(
        [=, this, train = context_.document.train()](const std::stop_token& stop,
                                                     const Background::Post& post) {
            const auto progress = [&](double share) {
                post([this, share] {
                    state_ = tr("%1 % of the springs tried").arg(fixed(100 * share, 0));
                    words_->setText(state_);
                });
            };
            SpringNeed need = spring_need(train, query, progress, stop);
            post([this, revision, need = std::move(need)]() mutable {
                need_ = std::move(need);
                revision_ = revision;
            });
        },
        [this](const QString& failure) {
            state_ = failure;
            show_result();
        });
}

QString SpringNeedPanel::words_of(const TriedSpring& spring) const {
    const DisplayUnits& units = context_.units;
    QString out = tr("%1 and %2, %3 open: limit %4")
                      .arg(units.text(Quantity::Force, spring.spring.seat_N),
                           units.text(Quantity::Stiffness, spring.spring.rate_N_per_m),
                           units.text(Quantity::Force, spring.open_N), speed_text(spring.limit_rpm));
    if (!spring.in_range)
        out += tr(" or more");
    return spring.stress_Pa > 0 ? out + tr(", %1").arg(units.text(Quantity::Stress, spring.stress_Pa)) : out;
}

// Which speeds the lines stand for, as they have no room for names.
QString SpringNeedPanel::lines_said() const {
    QStringList speeds;
    for (const double rpm : line_speeds(*need_))
        speeds << fixed(rpm, 0);
    return speeds.isEmpty() ? QString() : tr("up from below: %1").arg(speeds.join(QStringLiteral(", ")));
}

void SpringNeedPanel::show_result() {
    const bool old = need_ && revision_ != context_.document.revision();
    QString text = state_;
    if (text.isEmpty() && !need_)
        text = tr("Which seat load and rate keep the target of %1 rev/min, by the full model: masses, "
                  "damping and solid "
                  "heights as they are.")
                   .arg(fixed(context_.document.target_rpm(), 0));
    if (text.isEmpty() && need_) {
        text = need_->least_load
                   ? tr("Least load for %1 rev/min: %2.")
                         .arg(fixed(asked_.target_rpm, 0))
                         .arg(words_of(*need_->least_load))
                   : tr("None of the springs tried keeps %1 rev/min.").arg(fixed(asked_.target_rpm, 0));
        if (need_->most_margin)
            text += QLatin1Char('\n') + tr("Most margin: %1.").arg(words_of(*need_->most_margin));
        text += QLatin1Char('\n') +
                (asked_.tolerance_rpm > 0
                     ? tr("Kept for the tolerances, 9 of 10: %1 rev/min.").arg(fixed(asked_.tolerance_rpm, 0))
                     : tr("Tolerances are not counted: run Uncertainty first."));
        if (old)
            text = tr("(old: from before the last edit) ") + text;
    }
    words_->setText(text);
    draw();
}

void SpringNeedPanel::draw() {
    const DisplayUnits& units = context_.units;
    plot_->set_axes(tr("rate, %1").arg(units.unit_name(Quantity::Stiffness)),
                    tr("seat load, %1").arg(units.unit_name(Quantity::Force)));
    const auto point = [&](int curve, const std::optional<SpringPoint>& spring) {
        if (!spring)
            return plot_->clear_curve(curve);
        plot_->set_curve(curve, {units.value(Quantity::Stiffness, spring->rate_N_per_m)},
                         {units.value(Quantity::Force, spring->seat_N)});
    };
    const bool old = need_ && revision_ != context_.document.revision();
    const auto line = [&](int curve, double limit_rpm) {
        QVector<double> x, y;
        for (std::size_t j = 0; j < need_->rate_N_per_m.size(); ++j)
            if (const auto seat = seat_for(*need_, j, limit_rpm)) {
                x << units.value(Quantity::Stiffness, need_->rate_N_per_m[j]);
                y << units.value(Quantity::Force, *seat);
            }
        plot_->set_curve(curve, x, y, old);
    };
    const std::vector<double> speeds = need_ ? line_speeds(*need_) : std::vector<double>();
    for (std::size_t k = 0; k < lines_.size(); ++k) {
        if (k >= speeds.size()) {
            plot_->clear_curve(lines_[k]);
            continue;
        }
        line(lines_[k], speeds[k]);
    }
    if (need_)
        line(target_, asked_.target_rpm + asked_.tolerance_rpm);
    point(now_,
          context_.document.rigid() ? std::optional(spring_point(context_.document.train())) : std::nullopt);
    point(least_, need_ && need_->least_load ? std::optional(need_->least_load->spring) : std::nullopt);
    point(most_, need_ && need_->most_margin ? std::optional(need_->most_margin->spring) : std::nullopt);
    draw_shelf();
    plot_->set_note(need_ ? lines_said() : QString());
    plot_->fit();
    plot_->redraw();
}

// Springs of the shelf at this height.
void SpringNeedPanel::draw_shelf() {
    QVector<double> x, y;
    for (const auto& [id, part] : context_.document.project().parts) {
        if (!context_.document.rigid() || part.kind != PartKind::Spring || part.piece.springs.empty())
            continue;
        Train other = context_.document.train();
        other.springs = part.piece.springs;
        const SpringPoint at = spring_point(other);
        if (!(at.seat_N > 0 && at.rate_N_per_m > 0))
            continue; // not at this height
        x << context_.units.value(Quantity::Stiffness, at.rate_N_per_m);
        y << context_.units.value(Quantity::Force, at.seat_N);
    }
    plot_->set_curve(shelf_, x, y);
}

} // namespace bathmos::app
