#include "app/stations/rig/live_view.h"

#include "app/plot/map_plot.h"
#include "app/plot/series.h"
#include "app/stations/rig/live_devices.h"
#include "app/stations/rig/programme_shelf.h"
#include "app/stations/rig/programme_table.h"
#include "app/text/words.h"
#include "app/widgets/number_field.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "app/widgets/remembered.h"
#include "app/widgets/still_label.h"
#include "core/problem/input_error.h"
#include "io/result/result_text.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDate>
#include <QFileInfo>
#include <QHeaderView>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QShortcut>
#include <QSignalBlocker>
#include <QSplitter>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace bathmos::app {

namespace {

constexpr int kMostNotes = 300, kOrdersPause_ms = 500;
constexpr int kWordsPause_ms = 200; // nobody reads faster
constexpr int kLinesOfWords = 6;
constexpr int kRuleLimit = 1, kRuleUnit = 2; // columns
constexpr double kOrderStep_rpm = 100;       // rows of the waterfall
const QString kCautionKey = QStringLiteral("live/cautions_read");

} // namespace

LiveView::LiveView(Context context, QWidget* parent)
    : QWidget(parent), context_(context), runner_(context.document) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 4, 0, 0);
    layout->setSpacing(4);
    auto* split = new QSplitter(Qt::Horizontal);
    split->addWidget(make_left());
    split->addWidget(make_plots());
    split->addWidget(make_right());
    split->setSizes({310, 520, 330});
    layout->addWidget(split, 1);
    refresher_ = new Refresher(this, kAtOnce_ms, [this] { refresh(); });
    words_refresher_ = new Refresher(this, kWordsPause_ms, [this] { refresh_words(); });
    // In an event of its own, so that the window is never busy for long.
    rest_refresher_ = new Refresher(this, kPage_ms, [this] {
        refresh_metric();
        refresh_orders();
        refresh_notes();
    });
    connect(&runner_, &LiveRunner::changed, this, [this] {
        refresher_->ask();
        if (follow_->isChecked() && runner_.on() && runner_.now().rpm > 0)
            context_.cursors.set_speed(runner_.now().rpm);
    });
    connect(&runner_, &LiveRunner::failed, this, &LiveView::message);
    connect(&context_.units, &DisplayUnits::changed, this, [this] {
        drawn_run_ = nullptr;
        refresher_->ask();
    });
    connect(&context_.sweep, &SweepRunner::motions_changed, this, [this] { refresher_->ask(); });
    connect(&context_.document, &Document::changed, this, [this] { refresher_->ask(); });
    follow_caution();
    refresh();
}

QWidget* LiveView::make_left() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(0, 0, 4, 0);
    layout->setSpacing(4);
    auto* line = new QHBoxLayout;
    address_ = new QLineEdit(QStringLiteral("127.0.0.1:4100"));
    address_->setObjectName(QStringLiteral("live_address"));
    address_->setAccessibleName(tr("Address of the rig, HOST:PORT"));
    address_->setToolTip(tr("HOST:PORT of a rig that speaks docs/rig-stream.md"));
    connect_ = new QPushButton(tr("Listen"));
    connect_->setObjectName(QStringLiteral("live_connect"));
    connect(connect_, &QPushButton::clicked, this, &LiveView::connect_or_not);
    connect(address_, &QLineEdit::returnPressed, this, [this] {
        if (!runner_.on())
            connect_or_not();
    });
    standin_ = new QPushButton(tr("Stand-in"));
    standin_->setObjectName(QStringLiteral("live_standin"));
    standin_->setToolTip(tr("Plays a rig of the train in hand, whose true numbers it keeps to itself"));
    connect(standin_, &QPushButton::clicked, this, [this] { runner_.start_standin(stops()); });
    line->addWidget(address_, 1);
    line->addWidget(connect_);
    line->addWidget(standin_);
    layout->addLayout(line);
    devices_ = new LiveDevices(context_.units);
    connect(devices_, &LiveDevices::message, this, &LiveView::message);
    connect(devices_, &LiveDevices::heard, &runner_, &LiveRunner::hear_device);
    layout->addWidget(devices_);
    programme_ = new ProgrammeTable;
    connect(programme_, &ProgrammeTable::message, this, &LiveView::message);
    auto* shelf = new ProgrammeShelf(context_, *programme_);
    connect(shelf, &ProgrammeShelf::message, this, &LiveView::message);
    layout->addWidget(shelf);
    layout->addWidget(programme_, 1);
    caution_ = new QCheckBox(tr("Guards closed, interlock tested, room clear"));
    caution_->setObjectName(QStringLiteral("live_caution"));
    caution_->setToolTip(
        tr("Never stand near a running train. A request over the network is no safety device: the "
           "rig's own interlock, its maker's instructions, local rules and a competent person come "
           "first."));
    connect(caution_, &QCheckBox::toggled, this, [this](bool on) {
        if (on)
            remembered().setValue(kCautionKey, QDate::currentDate());
        refresher_->ask();
    });
    layout->addWidget(caution_);
    auto* go = new QHBoxLayout;
    start_ = new QPushButton(tr("Start programme"));
    start_->setObjectName(QStringLiteral("live_start"));
    connect(start_, &QPushButton::clicked, this, &LiveView::start_programme);
    stop_ = new QPushButton(tr("STOP (F8)"));
    stop_->setObjectName(QStringLiteral("live_stop"));
    stop_->setFont(Theme::text_font(14, true));
    stop_->setMinimumHeight(34);
    stop_->setToolTip(tr("Asks the rig to come down, and ends the programme"));
    connect(stop_, &QPushButton::clicked, this, [this] { stop(); });
    auto* key = new QShortcut(QKeySequence(Qt::Key_F8), this, nullptr, nullptr, Qt::ApplicationShortcut);
    connect(key, &QShortcut::activated, this, [this] { stop(); });
    go->addWidget(start_, 1);
    go->addWidget(stop_, 1);
    layout->addLayout(go);
    keep_ = new QPushButton(tr("Keep as a run of this revision"));
    keep_->setObjectName(QStringLiteral("live_keep"));
    connect(keep_, &QPushButton::clicked, this, &LiveView::keep_run);
    layout->addWidget(keep_);
    return box;
}

QWidget* LiveView::make_plots() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(4, 0, 4, 0);
    layout->setSpacing(4);
    auto* line = new QHBoxLayout;
    state_ = new StillLabel(QStringLiteral("live_state"), Theme::text_font(15, true), 1);
    follow_ = new QCheckBox(tr("cursor follows"));
    follow_->setObjectName(QStringLiteral("live_follow"));
    follow_->setToolTip(tr("The speed cursor of all views goes where the rig is"));
    follow_->setChecked(true);
    line->addWidget(state_, 1);
    line->addWidget(follow_);
    layout->addLayout(line);
    lift_ = new Plot(context_.theme, tr("The last turn over asked and predicted"));
    asked_ = lift_->add_curve(tr("asked"), Role::Kinematic, Stroke::Dashed);
    predicted_ = lift_->add_curve(tr("predicted"), Role::Predicted);
    measured_ = lift_->add_curve(tr("this turn"), Role::Measured);
    lift_->set_x_range(-360, 360);
    lift_->set_cursor_step(0.5);
    connect(lift_, &Plot::cursor_moved, this, [this](double deg) { context_.cursors.set_crank(deg); });
    layout->addWidget(lift_, 5);
    choice_ = new QComboBox;
    choice_->setObjectName(QStringLiteral("live_metric"));
    choice_->setAccessibleName(tr("Metric over speed"));
    for (const Metric m : io::rig_columns())
        choice_->addItem(phrase(info(m).label), static_cast<int>(m));
    choice_->setCurrentText(phrase(info(Metric::Loft).label));
    connect(choice_, &QComboBox::currentIndexChanged, this, [this] {
        drawn_run_ = nullptr;
        refresh_metric();
    });
    layout->addWidget(choice_);
    metric_ = new Plot(context_.theme, tr("As it comes, over speed"));
    metric_predicted_ = metric_->add_curve(tr("predicted"), Role::Predicted);
    metric_measured_ = metric_->add_curve(tr("measured"), Role::Measured, Stroke::Dots);
    metric_now_ = metric_->add_curve(tr("now"), Role::Ink, Stroke::Points);
    metric_->set_cursor_step(10);
    connect(metric_, &Plot::cursor_moved, this, [this](double rpm) { context_.cursors.set_speed(rpm); });
    layout->addWidget(metric_, 4);
    return box;
}

QWidget* LiveView::make_right() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(4, 0, 0, 0);
    layout->setSpacing(4);
    words_ = new StillLabel(QStringLiteral("live_words"), Theme::number_font(12), kLinesOfWords);
    layout->addWidget(words_);
    orders_ = new MapPlot(context_.theme, tr("Orders of the seated valve over speed"));
    orders_->set_axes(tr("order of the cam's turn"), tr("rev/min"));
    layout->addWidget(orders_, 4);
    rules_ = new NumberTable(QStringLiteral("live_rules"));
    rules_->setAccessibleName(tr("When the rig is asked to stop"));
    rules_->set_headings({tr("stop when"), tr("over"), tr("unit")});
    rules_->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed);
    rules_->setRowCount(static_cast<int>(live::stop_rules().size()));
    for (int row = 0; row < rules_->rowCount(); ++row) {
        const live::StopRuleInfo& rule = live::stop_rules()[static_cast<std::size_t>(row)];
        rules_->set_cell(row, 0, phrase(rule.label), false);
        rules_->item(row, 0)->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
        rules_->item(row, 0)->setCheckState(Qt::Checked);
        rules_->item(row, 0)->setToolTip(phrase(rule.why));
        rules_->set_cell(row, kRuleLimit, QString());
        rules_->item(row, kRuleLimit)
            ->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsEditable);
    }
    show_rules();
    connect(rules_, &QTableWidget::itemChanged, this, &LiveView::rule_typed);
    connect(&context_.units, &DisplayUnits::changed, this, &LiveView::show_rules);
    rules_->verticalHeader()->setDefaultSectionSize(20);
    layout->addWidget(rules_, 3);
    notes_ = new QListWidget;
    notes_->setObjectName(QStringLiteral("live_notes"));
    notes_->setAccessibleName(tr("What happened"));
    notes_->setWordWrap(true);
    layout->addWidget(notes_, 2);
    return box;
}

Metric LiveView::chosen_metric() const {
    return static_cast<Metric>(choice_->currentData().toInt());
}

// Once a day, and never forgotten: yesterday's room was another one.
void LiveView::follow_caution() {
    caution_->setChecked(remembered().value(kCautionKey).toDate() == QDate::currentDate());
}

void LiveView::show_rules() {
    const QSignalBlocker quiet(rules_);
    for (int row = 0; row < rules_->rowCount(); ++row) {
        const live::StopLimit& limit = limits_[static_cast<std::size_t>(row)];
        const Quantity quantity = live::info(limit.rule).quantity;
        rules_->item(row, kRuleLimit)->setText(digits(context_.units.value(quantity, limit.above), 4));
        rules_->set_cell(row, kRuleUnit,
                         quantity == Quantity::Count ? QString() : context_.units.unit_name(quantity), false);
    }
}

std::vector<live::StopLimit> LiveView::stops() const {
    std::vector<live::StopLimit> out = limits_;
    for (int row = 0; row < rules_->rowCount(); ++row)
        out[static_cast<std::size_t>(row)].on = rules_->item(row, 0)->checkState() == Qt::Checked;
    return out;
}

// What is no number above 0 goes back to what the rule has usually.
void LiveView::rule_typed(QTableWidgetItem* item) {
    if (item->column() != kRuleLimit)
        return;
    const auto row = static_cast<std::size_t>(item->row());
    const live::StopRuleInfo& rule = live::stop_rules()[row];
    if (const auto value = parse_number(item->text()); value && *value > 0) {
        limits_[row].above = *value * context_.units.unit(rule.quantity).to_si;
        return;
    }
    limits_[row].above = rule.usual;
    emit message(
        tr("%1: \"%2\" is no number above 0; the usual one is back. Untick the rule to leave it out.")
            .arg(phrase(rule.label), item->text()));
    show_rules();
}

void LiveView::stop() {
    runner_.stop_rig(tr("stopped by the operator"));
}

void LiveView::connect_or_not() {
    if (runner_.on() || runner_.starting()) {
        runner_.disconnect_rig();
        return;
    }
    try {
        runner_.connect_to(address_->text(), stops());
    } catch (const InputError& error) {
        emit message(tr("Not connected. %1").arg(phrase(error.what())));
    }
}

void LiveView::start_programme() {
    try {
        runner_.start(programme_->programme());
    } catch (const InputError& error) {
        emit message(tr("Not started. %1").arg(phrase(error.what())));
    }
}

void LiveView::keep_run() {
    try {
        context_.rig.import(runner_.recording());
    } catch (const InputError& error) {
        emit message(tr("The run was not kept. %1").arg(phrase(error.what())));
    }
}

void LiveView::refresh() {
    const session::LiveSnapshot& now = runner_.now();
    const bool on = runner_.on(), listening = on && now.state == session::LiveState::Listening;
    connect_->setText(on || runner_.starting() ? tr("Leave") : tr("Listen"));
    standin_->setEnabled(!on && !runner_.starting());
    address_->setEnabled(!on);
    start_->setEnabled(listening && !now.programme && caution_->isChecked() && now.hello.most_rpm > 0);
    start_->setToolTip(caution_->isChecked() ? QString() : tr("First read and tick the line above"));
    stop_->setEnabled(on);
    keep_->setEnabled(!on && !runner_.recording().isEmpty() && now.good_cycles > 0);
    rules_->setEnabled(!on);
    devices_->keep_on(on);
    programme_->set_leg(now.programme ? static_cast<int>(now.leg) : -1);
    if (listening)
        words_refresher_->ask();
    else
        refresh_words();
    refresh_lift();
    rest_refresher_->ask();
}

void LiveView::refresh_words() {
    const session::LiveSnapshot& now = runner_.now();
    if (!runner_.on()) {
        state_->set_text(runner_.starting() ? tr("The stand-in starts…") : tr("No rig is listened to"));
        words_->set_text(
            runner_.recording().isEmpty()
                ? tr("A rig that speaks docs/rig-stream.md, or the stand-in: each turn over what was "
                     "asked and predicted, everything kept as it comes.")
                : tr("Kept: %1").arg(QFileInfo(runner_.recording()).fileName()));
        return;
    }
    const QString where = now.state == session::LiveState::Listening ? words(now.hello.rig)
                          : now.state == session::LiveState::Lost    ? tr("LINE LOST, tried again")
                                                                     : tr("connecting…");
    state_->set_text(tr("%1 rev/min · %2").arg(fixed(now.rpm, 0)).arg(where));
    QStringList lines; // what is wrong first: there is room for so many
    if (now.not_kept > 0)
        lines << tr("▲ %1 messages NOT kept: the disk is full").arg(now.not_kept);
    if (now.stopped)
        lines << tr("▲ stopped: %1").arg(phrase(now.stopped->told.in_words(context_.units.choice())));
    if (!now.disk_problem.empty())
        lines << tr("▲ disk: %1").arg(phrase(now.disk_problem));
    lines << tr("%1 good cycles, %2 bad").arg(now.good_cycles).arg(now.bad_cycles);
    lines << tr("%1 samples, %2 lost, %3 MB kept")
                 .arg(now.samples)
                 .arg(now.lost)
                 .arg(fixed(static_cast<double>(now.bytes_kept) / 1e6, 1));
    if (now.oil_C)
        lines << tr("oil %1 °C").arg(fixed(*now.oil_C, 0));
    if (now.programme)
        lines << tr("leg %1 of %2%3")
                     .arg(now.leg + 1)
                     .arg(now.legs)
                     .arg(now.at_speed ? tr(", at speed") : QString());
    if (now.run && now.run->onset.onset.speed_rpm)
        lines << tr("onset so far %1").arg(speed_text(now.run->onset.onset.speed_rpm));
    words_->set_text(lines.join(QLatin1Char('\n')));
}

void LiveView::refresh_lift() {
    const QString length = context_.units.unit_name(Quantity::Length);
    lift_->set_axes(tr("crank angle from the nose, °"), tr("valve lift, %1").arg(length));
    const live::LiveCycle& cycle = runner_.now().cycle;
    const auto shown = [&](const std::vector<double>& si) {
        return in_unit(context_.units, Quantity::Length, si);
    };
    if (runner_.asked_m().size() == kGridPoints)
        lift_->set_curve(asked_, crank_grid(), shown(runner_.asked_m()));
    else
        lift_->clear_curve(asked_);
    if (cycle.lift_m.size() == kGridPoints && runner_.on()) {
        lift_->set_curve(measured_, crank_grid(), shown(cycle.lift_m));
        const SweepRunner::Shown model = context_.sweep.shown_at(cycle.speed_rpm);
        if (model.motion)
            lift_->set_curve(predicted_, crank_grid(), shown((*model.motion)[Channel::Lift]), model.old);
    } else {
        lift_->clear_curve(measured_);
        lift_->clear_curve(predicted_);
    }
    lift_->redraw();
}

void LiveView::refresh_metric() {
    const Metric m = chosen_metric();
    const QString unit = context_.units.metric_unit(m);
    metric_->set_axes(tr("rev/min"),
                      phrase(info(m).label) + (unit.isEmpty() ? QString() : QStringLiteral(", ") + unit));
    const session::LiveSnapshot& now = runner_.now();
    if (now.run.get() != drawn_run_ || !now.run) {
        drawn_run_ = now.run.get();
        const bool fresh = !context_.sweep.current().motions.empty();
        const MetricSeries model = metric_series(
            context_.units, m, (fresh ? context_.sweep.current() : context_.sweep.old()).rows());
        metric_->set_curve(metric_predicted_, model.rpm, model.value, !fresh);
        if (now.run) {
            const MetricSeries measured = metric_series(context_.units, m, now.run->rows());
            metric_->set_curve(metric_measured_, measured.rpm, measured.value);
        } else {
            metric_->clear_curve(metric_measured_);
        }
        const ShownLimit limit = shown_limit(context_.units, context_.document.limits(), m,
                                             now.run ? now.run->low_speed_duration_change_deg : 0);
        metric_->set_limits({limit.above, limit.below});
    }
    if (const auto value = now.cycle.metrics[m]; value && runner_.on())
        metric_->set_curve(metric_now_, {now.cycle.speed_rpm}, {context_.units.metric_value(m, *value)});
    else
        metric_->clear_curve(metric_now_);
    metric_->redraw();
}

// Rows at even speeds; a speed that was not run yet stays empty.
void LiveView::refresh_orders() {
    const std::vector<live::OrderLine>& lines = runner_.now().orders;
    if (lines.size() < 2 || (orders_drawn_.isValid() && orders_drawn_.elapsed() < kOrdersPause_ms))
        return;
    orders_drawn_.start();
    const double low = lines.front().speed_rpm, high = lines.back().speed_rpm;
    const int rows = std::max(2, static_cast<int>(std::round((high - low) / kOrderStep_rpm)) + 1);
    QVector<QVector<double>> values;
    for (int row = 0; row < rows; ++row) {
        const double rpm = low + (high - low) * row / (rows - 1);
        const auto nearest = std::ranges::min_element(
            lines, {}, [&](const live::OrderLine& one) { return std::abs(one.speed_rpm - rpm); });
        QVector<double> one;
        for (const double amplitude : nearest->amplitude_m)
            one << (std::abs(nearest->speed_rpm - rpm) < 2 * kOrderStep_rpm
                        ? context_.units.value(Quantity::FineLength, amplitude)
                        : std::nan(""));
        values << one;
    }
    orders_->set_scale_label(context_.units.unit_name(Quantity::FineLength));
    orders_->set_values(low, high, 1, live::kOrders, values);
    orders_->redraw();
}

void LiveView::refresh_notes() {
    if (!runner_.on()) {
        last_note_s_ = -1;
        return;
    }
    for (const session::LiveNote& note : runner_.now().notes) {
        if (note.time_s <= last_note_s_)
            continue;
        last_note_s_ = note.time_s;
        notes_->addItem(tr("%1 s · %2")
                            .arg(fixed(note.time_s, 1))
                            .arg(phrase(note.text.in_words(context_.units.choice()))));
        if (note.kind == "stop" || note.kind == "lost" || note.kind == "disk" || note.kind == "device")
            emit message(phrase(note.text.in_words(context_.units.choice())));
    }
    while (notes_->count() > kMostNotes)
        delete notes_->takeItem(0);
    notes_->scrollToBottom();
}

} // namespace bathmos::app
