#include "app/stations/motion/motion_station.h"

#include "app/plot/map_plot.h"
#include "app/plot/plot.h"
#include "app/plot/series.h"
#include "app/stations/motion/handles_panel.h"
#include "app/stations/motion/hold_panel.h"
#include "app/stations/motion/spring_need_panel.h"
#include "app/stations/motion/uncertainty_panel.h"
#include "app/text/words.h"
#include "app/widgets/empty_note.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"

#include <QHeaderView>
#include <QLabel>
#include <QSplitter>
#include <QStackedLayout>
#include <QTabWidget>
#include <QVBoxLayout>
#include <limits>

namespace bathmos::app {

namespace {

constexpr double kMapLow_deg = -200, kMapHigh_deg = 260;
constexpr std::size_t kMapStride = 4;

const std::vector<Metric>& shown_metrics() {
    using enum Metric;
    static const std::vector<Metric> metrics = {
        ContactLoss, Loft,         Seating,      Bounce,     DurationChange, CycleVariation, HeldOpen,
        LiftLoss,    OpeningShift, ClosingShift, SeatRipple, Surge,          TipContactLoss, LinkContactLoss};
    return metrics;
}

} // namespace

MotionStation::MotionStation(Context context, QWidget* parent)
    : Station(context, QStringLiteral("motion"), parent), pages_(new QStackedLayout(this)) {
    auto* empty = new EmptyNote(tr("<b>Nothing is computed yet.</b><br>Motion shows what the valve really "
                                   "does at speed, before anything is spun. "
                                   "It needs a train whose problems are solved."));
    connect(empty->add_step(tr("Open a train file…"), QStringLiteral("empty_open_motion")),
            &QPushButton::clicked, this, [this] { emit wants(QStringLiteral("open_train")); });
    pages_->addWidget(empty);
    auto* split = new QSplitter(Qt::Horizontal);
    split->addWidget(make_cycle_plots());
    split->addWidget(make_speed_plots());
    split->setSizes({620, 580});
    auto* page = new QWidget;
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(new HandlesPanel(context_));
    column->addWidget(split, 1);
    pages_->addWidget(page);
    cycle_refresh_ = new Refresher(this, kAtOnce_ms, [this] { refresh_cycle(); });
    speed_refresh_ = new Refresher(this, kUnhurried_ms, [this] { refresh_speeds(); });
    const auto both = [this] {
        cycle_refresh_->ask();
        speed_refresh_->ask();
    };
    connect(&context_.sweep, &SweepRunner::motions_changed, this, both);
    connect(&context_.what_if, &WhatIf::changed, this, [this] { cycle_refresh_->ask(); });
    connect(&context_.comparison, &Comparison::changed, this, [this] { cycle_refresh_->ask(); });
    connect(&context_.units, &DisplayUnits::changed, this, both);
    connect(&context_.cursors, &Cursors::speed_changed, this, [this](double rpm) {
        metric_->set_cursor(rpm);
        map_->set_speed(rpm);
        cycle_refresh_->ask();
    });
    connect(&context_.cursors, &Cursors::crank_changed, this, [this](double deg) {
        for (Plot* plot : {lift_, forces_, coils_, static_cast<Plot*>(map_)})
            plot->set_cursor(deg);
    });
    both();
}

QWidget* MotionStation::make_cycle_plots() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(8, 8, 4, 8);
    layout->setSpacing(4);
    shown_ = new QLabel;
    shown_->setObjectName(QStringLiteral("motion_shown"));
    shown_->setWordWrap(true);
    shown_->setFont(Theme::text_font(13, true));
    layout->addWidget(shown_);
    lift_ = new Plot(context_.theme, tr("Lift"));
    kinematic_ = lift_->add_curve(tr("kinematic"), Role::Kinematic, Stroke::Dashed);
    predicted_ = lift_->add_curve(tr("predicted"), Role::Predicted);
    trial_ = lift_->add_curve(tr("trial"), Role::Third, Stroke::Dashed);
    compared_ = lift_->add_curve(tr("compared"), Role::Predicted);
    forces_ = new Plot(context_.theme, tr("Forces"));
    cam_ = forces_->add_curve(tr("cam"), Role::Ink);
    tip_ = forces_->add_curve(tr("tip"), Role::Predicted);
    seat_ = forces_->add_curve(tr("seat"), Role::Measured);
    spring_ = forces_->add_curve(tr("springs"), Role::Third, Stroke::Dashed);
    coils_ = new Plot(context_.theme, tr("Coils"));
    layout->addWidget(lift_, 4);
    layout->addWidget(forces_, 4);
    layout->addWidget(coils_, 3);
    for (Plot* plot : {lift_, forces_, coils_}) {
        plot->set_x_range(-360, 360);
        plot->set_cursor_step(0.5);
        plot->set_cursor(context_.cursors.crank_deg());
        connect(plot, &Plot::cursor_moved, this, [this](double deg) { context_.cursors.set_crank(deg); });
    }
    return box;
}

QWidget* MotionStation::make_speed_plots() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(4, 8, 8, 8);
    layout->setSpacing(4);
    table_ = new NumberTable(QStringLiteral("metric_table"));
    table_->setAccessibleName(tr("Metrics at the cursor, with their limits"));
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    table_->setRowCount(static_cast<int>(shown_metrics().size()));
    table_->horizontalHeader()->setStretchLastSection(true);
    layout->addWidget(table_, 3);
    metric_ = new Plot(context_.theme, tr("Metric over speed"));
    old_value_ = metric_->add_curve(tr("old"), Role::Predicted);
    value_ = metric_->add_curve(tr("predicted"), Role::Predicted, Stroke::Dots);
    metric_->set_cursor_step(10);
    metric_->set_cursor(context_.cursors.speed_rpm());
    layout->addWidget(metric_, 4);
    map_ = new MapPlot(context_.theme, tr("Valve less kinematic lift, by speed and angle"));
    map_->set_axes(tr("crank angle, °"), tr("rev/min"));
    map_->set_cursor_step(0.5);
    tabs_ = new QTabWidget;
    tabs_->setObjectName(QStringLiteral("motion_tabs"));
    tabs_->setDocumentMode(true);
    tabs_->addTab(map_, tr("Map"));
    tabs_->addTab(new UncertaintyPanel(context_), tr("Uncertainty"));
    hold_ = new HoldPanel(context_);
    tabs_->addTab(hold_, tr("Hold"));
    springs_ = new SpringNeedPanel(context_);
    tabs_->addTab(springs_, tr("Spring"));
    tabs_->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Ignored); // the same room on every tab
    layout->addWidget(tabs_, 6);
    connect(table_, &QTableWidget::currentCellChanged, this, [this](int row, int, int before) {
        if (row != before)
            show_metric();
    });
    connect(metric_, &Plot::cursor_moved, this, [this](double rpm) { context_.cursors.set_speed(rpm); });
    connect(map_, &Plot::cursor_moved, this, [this](double deg) { context_.cursors.set_crank(deg); });
    connect(map_, &MapPlot::speed_moved, this, [this](double rpm) { context_.cursors.set_speed(rpm); });
    map_->set_speed(context_.cursors.speed_rpm());
    fill_metric_table();
    table_->setCurrentCell(0, 0);
    return box;
}

QString MotionStation::subject() const {
    return QStringLiteral("metric/") + words(info(selected_metric()).column);
}

Metric MotionStation::selected_metric() const {
    const int row = std::max(0, table_->currentRow());
    return shown_metrics()[static_cast<std::size_t>(row)];
}

QString MotionStation::old_note() const {
    return tr("old: from before the last edit");
}

void MotionStation::refresh_cycle() {
    const SweepRunner::Shown shown = context_.sweep.shown_at(context_.cursors.speed_rpm());
    const bool any =
        shown.motion || !context_.sweep.current().motions.empty() || !context_.sweep.old().motions.empty();
    pages_->setCurrentIndex(any ? 1 : 0);
    if (!shown.motion)
        return;
    const Motion& m = *shown.motion;
    QString text = tr("at %1 rev/min").arg(fixed(m.speed_rpm, 0));
    if (std::abs(m.speed_rpm - context_.cursors.speed_rpm()) >= 1)
        text += tr(", the computed speed nearest the cursor");
    text += m.periodic ? tr(" · repeats after %1 cycles").arg(m.cycles)
                       : tr(" · does not repeat: the last %1 of %2 cycles, forces and coils of the last")
                             .arg(m.cloud_m.size())
                             .arg(m.cycles);
    if (m.clashed)
        text += tr(" · coils meet");
    shown_->setText(text);
    const QString length = context_.units.unit_name(Quantity::Length),
                  force = context_.units.unit_name(Quantity::Force);
    const QString note = shown.old ? old_note() : QString();
    lift_->set_axes({}, tr("valve lift, %1").arg(length));
    lift_->set_curve(kinematic_, crank_grid(), in_unit(context_.units, Quantity::Length, *shown.rigid_m),
                     shown.old);
    show_lift(m, shown.old || context_.what_if.motion());
    show_trial();
    show_compared();
    forces_->set_axes({}, tr("force, %1").arg(force));
    const auto put = [&](int curve, Channel channel) {
        forces_->set_curve(curve, crank_grid(), in_unit(context_.units, Quantity::Force, m[channel]),
                           shown.old);
    };
    put(cam_, Channel::CamForce);
    put(tip_, Channel::TipForce);
    put(seat_, Channel::SeatForce);
    put(spring_, Channel::SpringForce);
    show_coils(m, shown.old);
    for (Plot* plot : {lift_, forces_, coils_})
        plot->set_note(note);
    if (!m.periodic && note.isEmpty())
        lift_->set_note(tr("each of the last %1 cycles").arg(m.cloud_m.size()));
    for (Plot* plot : {lift_, forces_, coils_})
        plot->redraw();
    fill_metric_table();
}

// A motion that repeats is one curve; one that does not is the cloud of its last cycles, and no curve.
void MotionStation::show_lift(const Motion& m, bool old) {
    QVector<QVector<double>> cloud;
    for (const auto& cycle : m.cloud_m)
        cloud.push_back(in_unit(context_.units, Quantity::Length, cycle));
    if (m.periodic)
        lift_->set_curve(predicted_, crank_grid(),
                         in_unit(context_.units, Quantity::Length, m[Channel::Lift]), old);
    else
        lift_->clear_curve(predicted_);
    lift_->set_bundle(crank_grid(), cloud, Role::Predicted, old);
}

void MotionStation::show_trial() {
    const Motion* trial = context_.what_if.motion();
    if (trial)
        lift_->set_curve(trial_, crank_grid(),
                         in_unit(context_.units, Quantity::Length, (*trial)[Channel::Lift]));
    else
        lift_->clear_curve(trial_);
}

// The revision that the one in hand is set against, at the same speed.
void MotionStation::show_compared() {
    const Motion* compared = context_.comparison.motion();
    if (compared)
        lift_->set_curve(compared_, crank_grid(),
                         in_unit(context_.units, Quantity::Length, (*compared)[Channel::Lift]), true);
    else
        lift_->clear_curve(compared_);
}

void MotionStation::show_coils(const Motion& m, bool old) {
    coils_->set_axes(tr("crank angle from the nose, °"),
                     tr("coils, %1").arg(context_.units.unit_name(Quantity::Length)));
    QVector<double> coil_angle;
    for (std::size_t p = 0; p < kCoilPoints; ++p)
        coil_angle.push_back(-360 + kGridStep_crank_deg * kCoilStride * static_cast<double>(p));
    QVector<QVector<double>> places;
    for (std::size_t c = 0; c < m.coil_count; ++c) {
        QVector<double> line;
        for (std::size_t p = 0; p < kCoilPoints; ++p)
            line.push_back(context_.units.value(Quantity::Length, static_cast<double>(m.coil_m(p, c))));
        places.push_back(line);
    }
    coils_->set_bundle(coil_angle, places, Role::Third, old);
}

// A first look at a train answers why: the metric that limits it is the one shown.
void MotionStation::choose_limiting_metric() {
    const SweepSummary* summary = context_.sweep.summary();
    if (metric_chosen_ || !summary || !summary->limit.first)
        return;
    metric_chosen_ = true;
    for (std::size_t row = 0; row < shown_metrics().size(); ++row)
        if (shown_metrics()[row] == summary->limit.first->metric)
            table_->setCurrentCell(static_cast<int>(row), 0);
}

void MotionStation::refresh_speeds() {
    choose_limiting_metric();
    fill_metric_table();
    show_metric();
    fill_map();
}

void MotionStation::fill_metric_table() {
    const SweepRunner::Shown shown = context_.sweep.shown_at(context_.cursors.speed_rpm());
    table_->set_headings({tr("Metric"), shown.old ? tr("at cursor (old)") : tr("at cursor"), tr("Unit"),
                          tr("Limit"), tr("crosses at, rev/min")});
    bool old = false;
    const SweepSummary* summary = context_.sweep.summary(&old);
    for (int row = 0; row < table_->rowCount(); ++row) {
        const Metric metric = shown_metrics()[static_cast<std::size_t>(row)];
        const int decimals =
            metric == Metric::SeatRipple
                ? 0
                : 2 + (context_.units.system_of(quantity_of(metric)) == UnitSystem::Inch ? 2 : 0);
        table_->set_cell(row, 0, phrase(info(metric).label), false);
        const auto value = shown.motion ? shown.motion->metrics[metric] : std::nullopt;
        QString number =
            value ? fixed(context_.units.metric_value(metric, *value), decimals) : QStringLiteral("–");
        if (const auto deviation = shown.motion ? shown.motion->deviation[metric] : std::nullopt;
            value && deviation)
            number +=
                QStringLiteral(" ± ") + fixed(context_.units.metric_value(metric, *deviation), decimals);
        table_->set_cell(row, 1, number);
        table_->set_cell(row, 2, context_.units.metric_unit(metric), false);
        const ShownLimit limit = shown_limit(context_.units, context_.document.limits(), metric,
                                             summary ? summary->low_speed_duration_change_deg : 0);
        QString words_of_limit = limit.above ? fixed(*limit.above, decimals) : QString();
        if (limit.below)
            words_of_limit =
                QStringLiteral("%1 … %2").arg(fixed(*limit.below, 1)).arg(fixed(*limit.above, 1));
        table_->set_cell(row, 3, words_of_limit);
        QString crossing;
        if (summary && limit.above)
            for (const Crossing& c : summary->limit.crossings)
                if (c.limit.metric == metric)
                    crossing = c.speed_rpm ? speed_text(c.speed_rpm) + (old ? tr(" (old)") : QString())
                                           : tr("not in range");
        if (!summary && limit.above)
            crossing = tr("…");
        table_->set_cell(row, 4, crossing);
    }
}

void MotionStation::show_metric() {
    const Metric metric = selected_metric();
    const QString unit = context_.units.metric_unit(metric);
    metric_->set_axes(tr("rev/min"), phrase(info(metric).label) +
                                         (unit.isEmpty() ? QString() : QStringLiteral(", ") + unit));
    const MetricSeries now = metric_series(context_.units, metric, context_.sweep.current().rows());
    const MetricSeries before = metric_series(context_.units, metric, context_.sweep.old().rows());
    metric_->set_curve(value_, now.rpm, now.value);
    metric_->set_curve(old_value_, before.rpm, before.value, true);
    bool old = false;
    const SweepSummary* summary = context_.sweep.summary(&old);
    const ShownLimit limit = shown_limit(context_.units, context_.document.limits(), metric,
                                         summary ? summary->low_speed_duration_change_deg : 0);
    metric_->set_limits({limit.above, limit.below});
    if (limit.above && *limit.above > 0 && !limit.below)
        metric_->set_y_at_least(0, 1.15 * *limit.above);
    else if (limit.below)
        metric_->set_y_at_least(*limit.below, *limit.above);
    else
        metric_->set_y_at_least(0, 0);
    QVector<Plot::Mark> marks;
    if (summary && !old)
        for (const Crossing& c : summary->limit.crossings)
            if (c.limit.metric == metric && c.speed_rpm)
                marks.push_back(
                    {*c.speed_rpm, tr("crosses at %1").arg(speed_text(c.speed_rpm)), Role::LimitMark});
    metric_->set_marks(marks);
    metric_->set_note(before.rpm.isEmpty() ? QString() : tr("faint: before the last edit"));
    metric_->redraw();
}

void MotionStation::fill_map() {
    const bool fresh = context_.sweep.current().complete() || context_.sweep.old().motions.empty();
    const SweepResult& result = fresh ? context_.sweep.current() : context_.sweep.old();
    const SpeedRange& range = context_.sweep.range();
    QVector<QVector<double>> rows;
    const auto first = static_cast<std::size_t>((kMapLow_deg + 360) / kGridStep_crank_deg);
    const auto last = static_cast<std::size_t>((kMapHigh_deg + 360) / kGridStep_crank_deg);
    for (double speed : range.speeds_rpm()) {
        QVector<double> row;
        const auto found = result.motions.find(speed);
        for (std::size_t i = first; i <= last; i += kMapStride)
            row.push_back(found == result.motions.end()
                              ? std::numeric_limits<double>::quiet_NaN()
                              : context_.units.value(Quantity::Length,
                                                     (*found->second)[Channel::Lift][i] - result.rigid_m[i]));
        rows.push_back(row);
    }
    map_->set_scale_label(tr("less kinematic, %1").arg(context_.units.unit_name(Quantity::Length)));
    map_->set_note(fresh ? QString() : old_note());
    map_->set_values(range.first_rpm, range.last_rpm, kMapLow_deg, kMapHigh_deg, rows);
    map_->set_cursor(context_.cursors.crank_deg());
}

void MotionStation::stop() {
    hold_->stop();
    springs_->stop();
}

QString MotionStation::help() const {
    return tr(
        "<h3>Motion</h3><p>What the model says the valve does. Left, at the speed cursor: lift as the lobe "
        "asks (dashed) and as predicted, the "
        "forces at cam, tip, seat and springs, and where each coil is. Where motion does not repeat, the "
        "last cycles are drawn as a "
        "bundle, and metrics carry ± their standard deviation.</p><p><b>What if</b>: drag a name sideways, "
        "or press Up "
        "and "
        "Down in its field. The limit, its metric and the curve at the cursor follow while you drag, first "
        "coarse, then refined; letting go makes it an edit that Ctrl+Z takes back, Escape leaves all as it "
        "was. The strip shows the trial and what was before. Every number in Train can be dragged, too.</p>"
        "<p><b>Uncertainty</b>: each number is known only so well. Two hundred trains within those "
        "tolerances "
        "give "
        "the band on the strip (10 to 90 %) and which number is worth measuring better. <b>Hold</b> runs on "
        "for seconds at the cursor's speed. <b>Spring</b> tries some fifty seat loads and rates: lines of "
        "equal "
        "limit, the spring of least load that keeps the target and the one with most margin, those of the "
        "shelf "
        "among them; load and stress can be bounded. Ctrl+E exports what is computed.</p><p>Right: each "
        "metric over "
        "speed with its limit (hatched) and where it is crossed for "
        "good; choose one in the table. The map "
        "shows the valve less the kinematic lift at all speeds: one colour where it lags, the other where it "
        "lofts.</p>"
        "<p><b>Contact loss</b> starts suddenly, as dips on both sides of the nose where surge unloads the "
        "spring. <b>Loft</b> shows some hundred "
        "rev/min later. <b>Bounce</b> comes late with stiff springs, early with a soft train: flex on "
        "opening is paid back at the seat. A limit may be a band that goes by, as of a surge: chosen on the "
        "strip, it says from where to where nothing is over a limit again above it.</p>"
        "<p>Keys: arrows move the cursor of the plot in focus, Shift moves ten steps, Home fits, + and − "
        "zoom, Ctrl+C copies the numbers. Drag "
        "to zoom, double click to fit, click to place the cursor, right click to save.</p>"
        "<p>After an edit the old curves stay, faint and marked as old, until the new sweep is there.</p>");
}

} // namespace bathmos::app
