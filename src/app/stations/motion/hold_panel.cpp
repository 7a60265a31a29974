#include "app/stations/motion/hold_panel.h"

#include "app/plot/plot.h"
#include "app/text/words.h"
#include "app/widgets/number_field.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>
#include <limits>

namespace bathmos::app {

namespace {

constexpr double kLongest_s = 60;

// What a hold can show over time.
struct Series {
    const char* label;
    Quantity quantity;
    std::optional<double> (*get)(const HoldPoint& point);
};

std::optional<double> metric(const HoldPoint& p, Metric m) {
    return p.metrics[m];
}

const std::vector<Series>& series() {
    static const std::vector<Series> all = {
        {QT_TRANSLATE_NOOP("HoldPanel", "Peak lift"), Quantity::Length,
         [](const HoldPoint& p) { return std::optional(p.peak_m); }},
        {QT_TRANSLATE_NOOP("HoldPanel", "Loft"), Quantity::Length,
         [](const HoldPoint& p) { return metric(p, Metric::Loft); }},
        {QT_TRANSLATE_NOOP("HoldPanel", "Bounce"), Quantity::Length,
         [](const HoldPoint& p) { return metric(p, Metric::Bounce); }},
        {QT_TRANSLATE_NOOP("HoldPanel", "Held open"), Quantity::Length,
         [](const HoldPoint& p) { return metric(p, Metric::HeldOpen); }},
        {QT_TRANSLATE_NOOP("HoldPanel", "Spring load on the seat"), Quantity::Force,
         [](const HoldPoint& p) { return std::optional(p.seat_load_N); }},
        {QT_TRANSLATE_NOOP("HoldPanel", "Largest spring load"), Quantity::Force,
         [](const HoldPoint& p) { return std::optional(p.open_load_N); }},
        {QT_TRANSLATE_NOOP("HoldPanel", "Largest cam force"), Quantity::Force,
         [](const HoldPoint& p) { return std::optional(p.cam_N); }},
        {QT_TRANSLATE_NOOP("HoldPanel", "Plunger extension"), Quantity::Length,
         [](const HoldPoint& p) { return std::optional(p.extension_m); }},
    };
    return all;
}

} // namespace

HoldPanel::HoldPanel(Context context, QWidget* parent)
    : QWidget(parent), context_(context), button_(new QPushButton(tr("Run hold"))), what_(new QComboBox),
      words_(new QLabel), plot_(new Plot(context.theme, tr("Hold"))) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 4, 0, 0);
    layout->setSpacing(4);
    auto* line = new QHBoxLayout;
    auto* seconds = new NumberField(
        context_.units, Quantity::Time, QStringLiteral("hold_seconds"), tr("Run for"),
        tr("Time at the speed cursor's speed, from rest."), [](double s) {
            return s > 0 && s <= kLongest_s ? std::string() : std::string("must be above 0 and at most 60");
        });
    seconds->set_compact();
    seconds->show_value(seconds_);
    connect(seconds, &NumberField::edited, this, [this](double s) { seconds_ = s; });
    line->addWidget(seconds);
    button_->setObjectName(QStringLiteral("run_hold"));
    connect(button_, &QPushButton::clicked, this, [this] { run(); });
    line->addWidget(button_);
    what_->setObjectName(QStringLiteral("hold_what"));
    what_->setAccessibleName(tr("What the hold shows over time"));
    for (const Series& s : series())
        what_->addItem(tr(s.label));
    connect(what_, &QComboBox::currentIndexChanged, this, [this] { show_result(); });
    line->addWidget(what_);
    layout->addLayout(line);
    words_->setObjectName(QStringLiteral("hold_words"));
    words_->setWordWrap(true);
    layout->addWidget(words_);
    curve_ = plot_->add_curve(tr("cycle by cycle"), Role::Predicted);
    layout->addWidget(plot_, 1);
    connect(&context_.document, &Document::changed, this, [this] {
        stop();
        show_result();
    });
    connect(&context_.units, &DisplayUnits::changed, this, [this] { show_result(); });
    show_result();
}

void HoldPanel::run() {
    if (!context_.document.rigid())
        return;
    const double speed = context_.cursors.speed_rpm(), seconds = seconds_;
    const quint64 revision = context_.document.revision();
    state_ = tr("running…");
    show_result();
    work_.start(
        [=, this, train = context_.document.train()](const std::stop_token& stop,
                                                     const Background::Post& post) {
            const auto progress = [&](double share) {
                post([this, share] {
                    state_ = tr("%1 % of the cycles run").arg(fixed(100 * share, 0));
                    words_->setText(state_);
                });
            };
            Hold result = hold(train, speed, seconds, progress, stop);
            post([this, revision, result = std::move(result)]() mutable {
                hold_ = std::move(result);
                revision_ = revision;
            });
        },
        [this](const QString& failure) {
            state_ = failure;
            show_result();
        });
}

void HoldPanel::stop() {
    if (!work_.running())
        return;
    work_.stop();
    state_ = tr("stopped");
    words_->setText(state_);
}

void HoldPanel::show_result() {
    const Series& shown = series()[static_cast<std::size_t>(std::max(0, what_->currentIndex()))];
    plot_->set_axes(tr("time, s"),
                    QStringLiteral("%1, %2").arg(tr(shown.label), context_.units.unit_name(shown.quantity)));
    if (!hold_) {
        words_->setText(state_.isEmpty()
                            ? tr("A hold shows what builds up: pump-up, cycles that never repeat, "
                                 "loads that wander.")
                            : state_);
        plot_->redraw();
        return;
    }
    const bool old = revision_ != context_.document.revision();
    QVector<double> time, value;
    for (const HoldPoint& point : hold_->points) {
        time.push_back(point.time_s);
        const std::optional<double> si = shown.get(point);
        value.push_back(si ? context_.units.value(shown.quantity, *si)
                           : std::numeric_limits<double>::quiet_NaN());
    }
    plot_->set_curve(curve_, time, value, old);
    plot_->set_note(old ? tr("old: from before the last edit") : QString());
    plot_->redraw();
    QString text = tr("%1 cycles at %2 rev/min").arg(hold_->points.size()).arg(fixed(hold_->speed_rpm, 0));
    text += hold_->last.periodic
                ? tr(" · repeats")
                : tr(" · does not repeat: the last cycles differ by %1")
                      .arg(context_.units.text(Quantity::Length,
                                               hold_->last.metrics[Metric::CycleVariation].value_or(0)));
    words_->setText(work_.running() || state_.isEmpty() ? text : text + QStringLiteral(" · ") + state_);
}

} // namespace bathmos::app
