#include "app/stations/rig/rig_station.h"

#include "app/plot/plot.h"
#include "app/plot/series.h"
#include "app/stations/rig/calibration_view.h"
#include "app/stations/rig/live_view.h"
#include "app/stations/rig/rig_import_dialog.h"
#include "app/stations/rig/runs_view.h"
#include "app/text/words.h"
#include "app/widgets/empty_note.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "io/result/result_text.h"

#include <QComboBox>
#include <QFile>
#include <QFileInfo>
#include <QHeaderView>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QSplitter>
#include <QStackedLayout>
#include <QTabWidget>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {
constexpr int kDotEvery = 24; // grid points between dots on a measured curve: 12 degrees
} // namespace

RigStation::RigStation(Context context, QWidget* parent)
    : Station(context, QStringLiteral("rig"), parent), pages_(new QStackedLayout(this)) {
    auto* empty = new EmptyNote(
        tr("<b>No rig run is loaded.</b><br>A spin rig turns the train with an electric motor and watches "
           "one valve. Load its file "
           "to see kinematic, predicted and measured motion together, and where the valve leaves its own "
           "trend."));
    auto* first = empty->add_step(tr("Import a rig trace…"), QStringLiteral("empty_import"));
    connect(first, &QPushButton::clicked, this, [this] { emit wants(QStringLiteral("import_rig")); });
    auto* listen = empty->add_step(tr("Listen to a running rig…"), QStringLiteral("empty_live"));
    connect(listen, &QPushButton::clicked, this, [this] { navigate(QStringLiteral("live")); });
    pages_->addWidget(empty);
    auto* page = new QWidget;
    auto* layout = new QVBoxLayout(page);
    layout->setContentsMargins(8, 8, 8, 8);
    layout->setSpacing(4);
    layout->addWidget(make_head());
    auto* split = new QSplitter(Qt::Horizontal);
    split->addWidget(make_cycle());
    split->addWidget(make_speeds());
    split->setSizes({640, 560});
    tabs_ = new QTabWidget;
    tabs_->setObjectName(QStringLiteral("rig_tabs"));
    tabs_->addTab(split, tr("Run"));
    auto* calibrate = new CalibrationView(context_);
    connect(calibrate, &CalibrationView::message, this, &Station::message);
    tabs_->addTab(calibrate, tr("Calibrate"));
    runs_ = new RunsView(context_);
    connect(runs_, &RunsView::message, this, &Station::message);
    tabs_->addTab(runs_, tr("Runs"));
    live_ = new LiveView(context_);
    connect(live_, &LiveView::message, this, &Station::message);
    tabs_->addTab(live_, tr("Live"));
    layout->addWidget(tabs_, 1);
    pages_->addWidget(page);
    cycle_refresh_ = new Refresher(this, kAtOnce_ms, [this] { refresh_cycle(); });
    all_refresh_ = new Refresher(this, kUnhurried_ms, [this] { refresh(); });
    const auto all = [this] { all_refresh_->ask(); };
    connect(&context_.rig, &RigSession::changed, this, all);
    connect(&context_.sweep, &SweepRunner::motions_changed, this, all);
    connect(&context_.units, &DisplayUnits::changed, this, all);
    connect(&context_.rig, &RigSession::progress_changed, this,
            [this] { progress_->setValue(static_cast<int>(100 * context_.rig.progress())); });
    connect(&context_.cursors, &Cursors::speed_changed, this, [this](double rpm) {
        metric_->set_cursor(rpm);
        cycle_refresh_->ask();
    });
    connect(&context_.cursors, &Cursors::crank_changed, this, [this](double deg) {
        lift_->set_cursor(deg);
        difference_->set_cursor(deg);
    });
    refresh();
}

QWidget* RigStation::make_head() {
    auto* box = new QWidget;
    auto* line = new QHBoxLayout(box);
    line->setContentsMargins(0, 0, 0, 0);
    shown_ = new QLabel;
    shown_->setObjectName(QStringLiteral("rig_shown"));
    shown_->setFont(Theme::text_font(13, true));
    failure_ = new QLabel;
    failure_->setObjectName(QStringLiteral("rig_failure"));
    failure_->setWordWrap(true);
    failure_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    progress_ = new QProgressBar;
    progress_->setAccessibleName(tr("Import progress"));
    progress_->setFixedWidth(120);
    stop_ = new QPushButton(tr("Stop"));
    stop_->setObjectName(QStringLiteral("rig_stop"));
    connect(stop_, &QPushButton::clicked, &context_.rig, &RigSession::stop);
    auto* import = new QPushButton(tr("Import…"));
    import->setObjectName(QStringLiteral("rig_import_button"));
    connect(import, &QPushButton::clicked, this, [this] { emit wants(QStringLiteral("import_rig")); });
    line->addWidget(shown_);
    line->addWidget(failure_, 1);
    line->addWidget(progress_);
    line->addWidget(stop_);
    line->addWidget(import);
    return box;
}

QWidget* RigStation::make_cycle() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(0, 0, 4, 0);
    layout->setSpacing(4);
    lift_ = new Plot(context_.theme, tr("Kinematic, predicted, measured"));
    kinematic_ = lift_->add_curve(tr("kinematic"), Role::Kinematic, Stroke::Dashed);
    predicted_ = lift_->add_curve(tr("predicted"), Role::Predicted);
    measured_ = lift_->add_curve(tr("measured"), Role::Measured, Stroke::Dots);
    lift_->set_dot_every(measured_, kDotEvery);
    difference_ = new Plot(context_.theme, tr("Less kinematic"));
    predicted_less_ = difference_->add_curve(tr("predicted less kinematic"), Role::Predicted);
    measured_less_ = difference_->add_curve(tr("measured less kinematic"), Role::Measured, Stroke::Dots);
    difference_->set_dot_every(measured_less_, kDotEvery);
    for (Plot* plot : {lift_, difference_}) {
        plot->set_x_range(-360, 360);
        plot->set_cursor_step(0.5);
        plot->set_cursor(context_.cursors.crank_deg());
        connect(plot, &Plot::cursor_moved, this, [this](double deg) { context_.cursors.set_crank(deg); });
    }
    layout->addWidget(lift_, 4);
    layout->addWidget(difference_, 3);
    steps_ = new NumberTable(QStringLiteral("rig_steps"));
    steps_->setAccessibleName(tr("Rig steps with their metrics"));
    layout->addWidget(steps_, 3);
    connect(steps_, &QTableWidget::cellActivated, this, [this](int row) {
        context_.cursors.set_speed(context_.rig.run()->steps[static_cast<std::size_t>(row)].speed_rpm);
    });
    return box;
}

QWidget* RigStation::make_speeds() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(4, 0, 0, 0);
    layout->setSpacing(4);
    summary_ = new NumberTable(QStringLiteral("rig_summary"));
    summary_->setAccessibleName(tr("What the run says"));
    summary_->set_headings({tr("What the run says"), tr("Value")});
    summary_->horizontalHeader()->setStretchLastSection(true);
    layout->addWidget(summary_, 4);
    choice_ = new QComboBox;
    choice_->setObjectName(QStringLiteral("rig_metric"));
    choice_->setAccessibleName(tr("Metric shown over speed"));
    for (Metric m : io::rig_columns())
        choice_->addItem(phrase(info(m).label), static_cast<int>(m));
    choice_->setCurrentText(phrase(info(Metric::Bounce).label));
    layout->addWidget(choice_);
    metric_ = new Plot(context_.theme, tr("Model and rig over speed"));
    model_metric_ = metric_->add_curve(tr("predicted"), Role::Predicted);
    rig_metric_ = metric_->add_curve(tr("measured"), Role::Measured, Stroke::Dots);
    metric_->set_cursor_step(10);
    metric_->set_cursor(context_.cursors.speed_rpm());
    layout->addWidget(metric_, 5);
    connect(choice_, &QComboBox::currentIndexChanged, this, &RigStation::show_metric);
    connect(metric_, &Plot::cursor_moved, this, [this](double rpm) { context_.cursors.set_speed(rpm); });
    return box;
}

Metric RigStation::chosen_metric() const {
    return static_cast<Metric>(choice_->currentData().toInt());
}

void RigStation::import_file(const QString& path) {
    try {
        if (io::has_no_columns(native(path)))
            return context_.rig.import(path);
        RigImportDialog dialog(path, this);
        if (dialog.exec() != QDialog::Accepted)
            return;
        dialog.remember();
        context_.rig.import(dialog.wanted());
    } catch (const InputError& error) {
        emit message(tr("The rig trace was not imported. %1").arg(phrase(error.what())));
    }
}

void RigStation::navigate(const QString& location) {
    if (location == QStringLiteral("live")) {
        live_wanted_ = true;
        tabs_->setCurrentWidget(live_);
        return refresh();
    }
    if (location == QStringLiteral("runs"))
        return tabs_->setCurrentWidget(runs_);
    tabs_->setCurrentIndex(location == QStringLiteral("calibrate") ? 1 : 0);
    const QString column = location.section(QLatin1Char('/'), 1);
    for (Metric m : io::rig_columns())
        if (words(info(m).column) == column)
            choice_->setCurrentText(phrase(info(m).label));
}

QString RigStation::subject() const {
    return QStringLiteral("metric/") +
           words(info(static_cast<Metric>(choice_->currentData().toInt())).column);
}

void RigStation::stop() {
    runs_->stop();
    live_->stop();
}

void RigStation::refresh() {
    const RigSession& rig = context_.rig;
    const bool running = rig.state() == RigSession::State::Running;
    pages_->setCurrentIndex(rig.run() || running || live_wanted_ || !rig.failure().isEmpty() ? 1 : 0);
    progress_->setVisible(running);
    stop_->setVisible(running);
    failure_->setText(rig.failure());
    refresh_cycle();
    show_metric();
    fill_summary();
    fill_steps();
}

void RigStation::refresh_cycle() {
    const RigRun* run = context_.rig.run();
    for (Plot* plot : {lift_, difference_})
        plot->set_note(context_.rig.old() ? tr("old: reduced before the last edit of the train") : QString());
    if (!run) {
        shown_->setText({});
        return;
    }
    const RigStep& step = run->steps[run->nearest(context_.cursors.speed_rpm())];
    const SweepRunner::Shown model = context_.sweep.shown_at(step.speed_rpm);
    QString text = tr("measured at %1 rev/min, %2 cycles").arg(fixed(step.speed_rpm, 0)).arg(step.used);
    if (model.motion)
        text += tr(" · predicted at %1%2")
                    .arg(fixed(model.motion->speed_rpm, 0))
                    .arg(model.old ? tr(" (old)") : QString());
    shown_->setText(text);
    const QString length = context_.units.unit_name(Quantity::Length);
    lift_->set_axes({}, tr("valve lift, %1").arg(length));
    difference_->set_axes(tr("crank angle from the nose, °"), tr("less kinematic, %1").arg(length));
    const auto shown = [&](const std::vector<double>& si) {
        return in_unit(context_.units, Quantity::Length, si);
    };
    const auto less = [&](const std::vector<double>& a, const std::vector<double>& b) {
        std::vector<double> out(a.size());
        for (std::size_t i = 0; i < a.size(); ++i)
            out[i] = a[i] - b[i];
        return shown(out);
    };
    const bool old = context_.rig.old();
    lift_->set_curve(measured_, crank_grid(), shown(step.lift_m), old);
    if (model.motion && model.rigid_m->size() == kGridPoints) {
        lift_->set_curve(kinematic_, crank_grid(), shown(*model.rigid_m), model.old);
        lift_->set_curve(predicted_, crank_grid(), shown((*model.motion)[Channel::Lift]), model.old);
        difference_->set_curve(predicted_less_, crank_grid(),
                               less((*model.motion)[Channel::Lift], *model.rigid_m), model.old);
        difference_->set_curve(measured_less_, crank_grid(), less(step.lift_m, *model.rigid_m), old);
    }
    lift_->redraw();
    difference_->redraw();
}

void RigStation::show_metric() {
    const Metric m = chosen_metric();
    const QString unit = context_.units.metric_unit(m);
    metric_->set_axes(tr("rev/min"),
                      phrase(info(m).label) + (unit.isEmpty() ? QString() : QStringLiteral(", ") + unit));
    const RigRun* run = context_.rig.run();
    const bool fresh = !context_.sweep.current().motions.empty();
    const MetricSeries model =
        metric_series(context_.units, m, (fresh ? context_.sweep.current() : context_.sweep.old()).rows());
    metric_->set_curve(model_metric_, model.rpm, model.value, !fresh);
    QVector<Plot::Mark> marks;
    if (run) {
        const MetricSeries measured = metric_series(context_.units, m, run->rows());
        metric_->set_curve(rig_metric_, measured.rpm, measured.value, context_.rig.old());
        if (run->onset.onset.metric == m)
            marks.push_back({*run->onset.onset.speed_rpm,
                             tr("onset %1").arg(speed_text(run->onset.onset.speed_rpm)), Role::Measured});
        const ShownLimit limit =
            shown_limit(context_.units, context_.document.limits(), m, run->low_speed_duration_change_deg);
        metric_->set_limits({limit.above, limit.below});
        metric_->set_y_at_least(0, limit.above && !limit.below ? 1.15 * *limit.above : 0);
    } else {
        metric_->clear_curve(rig_metric_);
    }
    metric_->set_marks(marks);
    metric_->redraw();
}

void RigStation::fill_summary() {
    summary_->setRowCount(0);
    const RigRun* run = context_.rig.run();
    if (!run)
        return;
    const auto add = [&](const QString& what, const QString& value, bool number = true) {
        const int row = summary_->rowCount();
        summary_->setRowCount(row + 1);
        summary_->set_cell(row, 0, what, false);
        summary_->set_cell(row, 1, value, number);
        summary_->item(row, 1)->setTextAlignment(Qt::AlignLeft | Qt::AlignVCenter);
        summary_->item(row, 1)->setToolTip(value);
    };
    const Onset& onset = run->onset.onset;
    add(tr("File"),
        QFileInfo(context_.rig.path()).fileName() +
            (run->valve.empty() ? QString() : tr(", valve %1").arg(QString::fromStdString(run->valve))),
        false);
    add(tr("Onset"), onset.speed_rpm ? tr("%1 ± %2 rev/min, %3")
                                           .arg(speed_text(onset.speed_rpm))
                                           .arg(fixed(onset.half_step_rpm, 0))
                                           .arg(lower_phrase(info(*onset.metric).label))
                                     : tr("none in range"));
    for (const Band& band : run->onset.bands)
        add(tr("Band, comes back"), tr("%1 … %2 rev/min, %3")
                                        .arg(fixed(band.from_rpm, 0))
                                        .arg(fixed(band.to_rpm, 0))
                                        .arg(lower_phrase(info(band.metric).label)));
    for (const Crossing& c : run->limit.crossings)
        if (c.speed_rpm)
            add(tr("Limit, %1").arg(lower_phrase(info(c.limit.metric).label)),
                tr("%1 rev/min").arg(speed_text(c.speed_rpm)));
    add(tr("Phase of the nose"), tr("%1° after the index").arg(fixed(run->phase_deg, 2)));
    add(tr("Scale, rig over model"), fixed(run->scale_ratio, 4));
    add(tr("Reading noise"), context_.units.text(Quantity::FineLength, run->noise_m));
    add(tr("Pressed into the seat"), context_.units.text(Quantity::FineLength, run->seat_m));
    QStringList dropped;
    for (std::size_t r = 0; r < kBadCycles; ++r)
        if (run->dropped[r])
            dropped.push_back(
                QStringLiteral("%1 %2").arg(run->dropped[r]).arg(phrase(name_of(static_cast<BadCycle>(r)))));
    add(tr("Cycles left out"), dropped.isEmpty() ? tr("none") : dropped.join(QStringLiteral(", ")));
    for (const MeasuredText& text : run->not_judged)
        add(tr("Not judged"), phrase(text.in_words(context_.units.choice())), false);
    for (const MeasuredText& text : run->warnings)
        add(tr("▲ warn"), phrase(text.in_words(context_.units.choice())), false);
}

void RigStation::fill_steps() {
    const RigRun* run = context_.rig.run();
    if (!run) {
        steps_->setRowCount(0);
        return;
    }
    QStringList headings = {tr("rev/min"), tr("cycles"), tr("left out")};
    for (Metric m : io::rig_columns())
        headings.push_back(phrase(info(m).label) + QLatin1Char('\n') + context_.units.metric_unit(m));
    steps_->set_headings(headings);
    steps_->setRowCount(static_cast<int>(run->steps.size()));
    const int more = context_.units.system_of(Quantity::Length) == UnitSystem::Inch ? 1 : 0;
    for (int row = 0; row < steps_->rowCount(); ++row) {
        const RigStep& step = run->steps[static_cast<std::size_t>(row)];
        std::size_t dropped = 0;
        for (std::size_t count : step.dropped)
            dropped += count;
        steps_->set_cell(row, 0, fixed(step.speed_rpm, 0));
        steps_->set_cell(row, 1, QString::number(step.used));
        steps_->set_cell(row, 2, QString::number(dropped));
        for (int c = 0; c < static_cast<int>(io::rig_columns().size()); ++c) {
            const Metric m = io::rig_columns()[static_cast<std::size_t>(c)];
            const auto& value = step.metrics[m];
            const int decimals = m == Metric::BounceCount ? 0 : info(m).unit == "mm" ? 3 + more : 2;
            steps_->set_cell(row, 3 + c,
                             value ? fixed(context_.units.metric_value(m, *value), decimals)
                                   : QStringLiteral("–"));
        }
    }
}

QString RigStation::help() const {
    return tr(
        "<h3>Rig</h3><p>Import a trace of a spin rig: angle-based or time-based text, or HDF5. Choose what "
        "each column is; the file is never "
        "changed. Turns are split at the index, put on an even grid, zeroed on the seat, aligned with the "
        "model at the slowest speed; bad "
        "cycles are left out and counted by reason.</p>"
        "<p>The plots show the recorded speed nearest the cursor, and name it. <b>Onset</b>: the speed at "
        "which lift loss, duration, loft, bounce "
        "or cycle-to-cycle variation leaves its own elastic trend and does not come back, with half a speed "
        "step either "
        "way. Contact loss cannot be seen by a "
        "position sensor, so a limit by contact loss and an onset may differ by hundreds of rev/min: both "
        "stand on the strip.</p>"
        "<p>A step where the sensor shows under half of the stroke of the other speeds is left out and "
        "named: it does "
        "not tell the valve there. Readings beyond a metre count as lost.</p>"
        "<p>Model and rig differ until the model is fitted: ball ends and fits are often softer than the "
        "sheet. <b>Calibrate</b> (Alt+C) moves the numbers that are ticked <i>Free</i>, each within what is "
        "believed of it, to where the model follows the measured valve; every second of the slow speeds is "
        "held out to see how well it foretells them. Causes are tried one by one: each lets go of the "
        "numbers "
        "that it names, and an evidence of 10 over <i>as believed</i> is asked for before one is taken. "
        "<i>Departures</i> shows each number on its belief; <i>Not told</i> what this run cannot tell, and "
        "the "
        "measurement that would. <i>Take</i> puts the ticked numbers into a new revision, source fitted; the "
        "band on the strip narrows with them. A number that departs far is a question to the bench, not an "
        "answer. With the run of another revision chosen beside the button both are fitted at once: what did "
        "not change between them is one number for both, and <i>Change</i> says what the change did to the "
        "limit. That takes some minutes.</p><p>The scale is checked, never "
        "corrected. Enter on a row of the table moves the speed cursor there; Ctrl+C copies numbers.</p>"
        "<p><b>Caution.</b> A rig needs guards, an interlock and a clear room. Never stand near a running "
        "train.</p>"
        "<p><b>Runs</b> lays the runs of this build over each other, each with its own revision: metrics "
        "and the duration lost at each height over speed, up to where a run keeps its durations, "
        "lift less the first run at the cursor's speed, what the onset gained with its band and whether that "
        "may be "
        "claimed (beyond twice its deviation: half steps, and the scatter of repeats), what differs beside "
        "the change, "
        "holds with their drift, and what stepping one number from run to run did. A note is kept with its "
        "run.</p>"
        "<p><b>Live</b> listens to a running rig (docs/rig-stream.md), or to the stand-in from a click. All "
        "that it "
        "says is kept as it comes, in a file beside the project: a lost line, a full disk or a power cut "
        "keep what "
        "was there up to the last second, and the run goes on as a second piece. Each turn stands over what "
        "was asked "
        "and predicted; metrics grow over speed; the orders of the seated valve show surge walking. A "
        "<i>programme</i> "
        "is steps, ramps and holds, back to back, kept in the project by its name; a stop rule asks the rig "
        "to come down with its number and "
        "why, and "
        "the operator's word (F8) always wins. A tachometer or a thermometer of yours that says lines of "
        "text can stand beside the rig: what it says is shown, watched and kept with the run. A request over "
        "the network is no safety device. <i>Keep as a "
        "run</i> "
        "brings the recording in as any other trace.</p>");
}

} // namespace bathmos::app
