#include "app/stations/rig/calibration_view.h"

#include "app/plot/map_plot.h"
#include "app/plot/series.h"
#include "app/stations/rig/change_view.h"
#include "app/stations/rig/departures_view.h"
#include "app/stations/rig/fitted_words.h"
#include "app/text/words.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "core/math/robust.h"
#include "core/verdict/causes.h"
#include "session/rig/rig_runs.h"

#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QScrollArea>
#include <QSplitter>
#include <QTabWidget>
#include <QVBoxLayout>
#include <cmath>
#include <limits>

namespace bathmos::app {

namespace {

enum Column { kFree, kName, kBelieved, kFitted, kUncertain, kUnit, kDeparts, kTake };

QString cause_words(const std::string& key) {
    if (key == "as_believed")
        return CalibrationView::tr("As believed");
    const auto cause = find_cause(key);
    return cause ? phrase(info(*cause).label) : words(key);
}

const SpeedResidual& nearest_residual(const std::vector<SpeedResidual>& all, double rpm) {
    return *std::min_element(all.begin(), all.end(), [&](const SpeedResidual& a, const SpeedResidual& b) {
        return std::abs(a.speed_rpm - rpm) < std::abs(b.speed_rpm - rpm);
    });
}

// What is chosen, with what departs beside it, and of which train where two are fitted together.
QString chosen_words(const Calibration& found) {
    if (!found.chosen_with.empty())
        return CalibrationView::tr("%1, and %2 beside it")
            .arg(cause_words(found.chosen), in_sentence(cause_words(found.chosen_with)));
    return found.chosen_only.value_or(0) > 0
               ? CalibrationView::tr("%1, in the other revision").arg(cause_words(found.chosen))
               : cause_words(found.chosen);
}

// Without those of another revision's run, which are fitted beside it.
std::vector<SpeedResidual> of_this_run(std::vector<SpeedResidual> all) {
    std::erase_if(all, [](const SpeedResidual& one) { return one.run > 0; });
    return all;
}

// In brackets where the run leaves the number nearly as uncertain as it was.
QString departs_words(const FittedNumber* fitted) {
    if (!fitted)
        return {};
    const QString sigma = fixed(fitted->departs_sigma, 1);
    return fitted->told ? sigma : QStringLiteral("(%1)").arg(sigma);
}

QTableWidgetItem* tick(bool on, const QString& what) {
    auto* out = new QTableWidgetItem;
    out->setFlags(Qt::ItemIsUserCheckable | Qt::ItemIsEnabled | Qt::ItemIsSelectable);
    out->setCheckState(on ? Qt::Checked : Qt::Unchecked);
    out->setData(Qt::AccessibleTextRole, what);
    out->setToolTip(what);
    return out;
}

} // namespace

CalibrationView::CalibrationView(Context context, QWidget* parent) : QWidget(parent), context_(context) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 4, 0, 0);
    layout->setSpacing(4);
    auto* top = new QHBoxLayout;
    headline_ = new QLabel;
    headline_->setObjectName(QStringLiteral("calibration_headline"));
    headline_->setWordWrap(true);
    headline_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    headline_->setMinimumHeight(2 * headline_->fontMetrics().lineSpacing() + 2);
    progress_ = new QProgressBar;
    progress_->setAccessibleName(tr("Calibration progress"));
    progress_->setFixedWidth(120);
    QSizePolicy keeps_its_place = progress_->sizePolicy(); // so that the words beside it do not move
    keeps_its_place.setRetainSizeWhenHidden(true);
    progress_->setSizePolicy(keeps_its_place);
    calibrate_ = new QPushButton;
    calibrate_->setObjectName(QStringLiteral("calibrate"));
    accept_ = new QPushButton(tr("Take over the ticked numbers"));
    accept_->setObjectName(QStringLiteral("calibration_accept"));
    connect(calibrate_, &QPushButton::clicked, this, &CalibrationView::press_calibrate);
    connect(accept_, &QPushButton::clicked, this, &CalibrationView::press_accept);
    top->addWidget(headline_, 1);
    top->addWidget(progress_);
    top->addWidget(make_other());
    top->addWidget(calibrate_);
    top->addWidget(accept_);
    layout->addLayout(top);
    auto* split = new QSplitter(Qt::Horizontal);
    split->addWidget(make_numbers());
    split->addWidget(make_pictures());
    split->setSizes({620, 560});
    layout->addWidget(split, 1);
    all_ = new Refresher(this, kUnhurried_ms, [this] { refresh(); });
    speed_ = new Refresher(this, kAtOnce_ms, [this] { refresh_speed(); });
    const auto ask = [this] { all_->ask(); };
    connect(&context_.calibration, &CalibrationRunner::changed, this, ask);
    connect(&context_.rig, &RigSession::changed, this, ask);
    connect(&context_.document, &Document::changed, this, ask);
    connect(&context_.units, &DisplayUnits::changed, this, ask);
    connect(&context_.calibration, &CalibrationRunner::progress_changed, this,
            [this] { progress_->setValue(static_cast<int>(100 * context_.calibration.progress())); });
    connect(&context_.cursors, &Cursors::speed_changed, this, [this](double rpm) {
        residual_->set_cursor(rpm);
        map_->set_speed(rpm);
        speed_->ask();
    });
    connect(&context_.cursors, &Cursors::crank_changed, this, [this](double deg) {
        difference_->set_cursor(deg);
        map_->set_cursor(deg);
    });
    ask();
}

QWidget* CalibrationView::make_other() {
    other_ = new QComboBox;
    other_->setObjectName(QStringLiteral("calibration_other"));
    other_->setAccessibleName(tr("Fitted together with"));
    other_->setToolTip(
        tr("A run of another revision that is fitted together with this one: what did not change "
           "between them is one number for both"));
    return other_;
}

// This run alone, or the last run of each other revision of the build.
void CalibrationView::fill_other() {
    const Project& project = context_.document.project();
    const QVariant chosen = other_->currentData();
    QStringList labels = {tr("this run alone")};
    QVariantList ids = {QVariant::fromValue(qlonglong(0))};
    for (const Id run : session::runs_beside(project, context_.document.shown())) {
        const Entry& entry = project.of(EntryKind::RigRun).at(run);
        labels.push_back(tr("with %1").arg(words(project.revision_label(entry.revision))));
        ids.push_back(QVariant::fromValue(qlonglong(run)));
    }
    bool same = other_->count() == labels.size();
    for (int i = 0; same && i < other_->count(); ++i)
        same = other_->itemText(i) == labels[i] && other_->itemData(i) == ids[i];
    other_->setEnabled(!context_.calibration.running());
    if (same)
        return;
    other_->clear();
    for (qsizetype i = 0; i < labels.size(); ++i)
        other_->addItem(labels[i], ids[i]);
    other_->setCurrentIndex(std::max(0, other_->findData(chosen)));
}

QWidget* CalibrationView::make_numbers() {
    auto* split = new QSplitter(Qt::Vertical);
    numbers_ = new NumberTable(QStringLiteral("calibration_numbers"));
    numbers_->setAccessibleName(tr("Numbers that may move, as believed and as fitted"));
    numbers_->set_headings({tr("Free"), tr("Number"), tr("Believed"), tr("Fitted"), tr("± 1 σ"), tr("Unit"),
                            tr("Departs, σ"), tr("Take")});
    numbers_->horizontalHeader()->setSectionResizeMode(kName, QHeaderView::Stretch);
    connect(numbers_, &QTableWidget::itemChanged, this, [this](QTableWidgetItem* item) {
        if (item->column() == kFree) {
            const std::string key = item->data(Qt::UserRole).toString().toStdString();
            item->checkState() == Qt::Checked ? (void)fixed_.erase(key) : (void)fixed_.insert(key);
        }
        if (item->column() == kTake)
            accept_->setEnabled(context_.calibration.reading() && !checked(kTake).empty());
    });
    split->addWidget(numbers_);
    causes_ = new NumberTable(QStringLiteral("calibration_causes"));
    causes_->setAccessibleName(tr("What the run says of the causes"));
    causes_->set_headings({tr("What the run says"), tr("Evidence"), tr("Costs, rev/min")});
    causes_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    split->addWidget(causes_);
    split->setSizes({330, 170});
    return split;
}

QWidget* CalibrationView::make_pictures() {
    pictures_ = new QTabWidget;
    pictures_->setObjectName(QStringLiteral("calibration_pictures"));
    auto* follow = new QWidget;
    auto* layout = new QVBoxLayout(follow);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    difference_ = new Plot(context_.theme, tr("Model less measured"));
    before_ = difference_->add_curve(tr("as believed"), Role::Kinematic, Stroke::Dashed);
    after_ = difference_->add_curve(tr("fitted"), Role::Predicted);
    difference_->set_cursor_step(0.5);
    difference_->set_cursor(context_.cursors.crank_deg());
    connect(difference_, &Plot::cursor_moved, this, [this](double deg) { context_.cursors.set_crank(deg); });
    residual_ = new Plot(context_.theme, tr("Left over, by speed"));
    before_rms_ = residual_->add_curve(tr("as believed"), Role::Kinematic, Stroke::Dashed);
    after_rms_ = residual_->add_curve(tr("fitted"), Role::Predicted, Stroke::Dots);
    held_out_rms_ = residual_->add_curve(tr("held out"), Role::Measured, Stroke::Points);
    residual_->set_cursor_step(10);
    residual_->set_cursor(context_.cursors.speed_rpm());
    connect(residual_, &Plot::cursor_moved, this, [this](double rpm) { context_.cursors.set_speed(rpm); });
    layout->addWidget(difference_, 1);
    layout->addWidget(residual_, 1);
    pictures_->addTab(follow, tr("Before and after"));
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    departures_ = new DeparturesView(context_.theme);
    scroll->setWidget(departures_);
    pictures_->addTab(scroll, tr("Departures"));
    map_ = new MapPlot(context_.theme, tr("Left over, by speed and angle"));
    connect(map_, &Plot::cursor_moved, this, [this](double deg) { context_.cursors.set_crank(deg); });
    connect(map_, &MapPlot::speed_moved, this, [this](double rpm) { context_.cursors.set_speed(rpm); });
    pictures_->addTab(map_, tr("Left over"));
    untold_ = new NumberTable(QStringLiteral("calibration_untold"));
    untold_->setAccessibleName(tr("What the run does not tell, and what would"));
    untold_->set_headings({tr("What to mind"), tr("In words")});
    untold_->wrap_last_column();
    pictures_->addTab(untold_, tr("Not told"));
    change_ = new ChangeView(context_);
    pictures_->addTab(change_, tr("Change"));
    return pictures_;
}

QString CalibrationView::headline() const {
    const CalibrationRunner& runner = context_.calibration;
    const Calibration* found = runner.calibration();
    const auto rpm = [](const std::optional<double>& value) {
        return value ? speed_text(value) : tr("above the range");
    };
    if (!runner.failure().isEmpty())
        return tr("Calibration: %1").arg(runner.failure());
    if (context_.rig.old())
        return tr("The run is being read against the train in hand.");
    if (!found)
        return runner.running()
                   ? tr("The train as believed is being fitted to the run; a first answer comes in seconds.")
                   : tr("Not calibrated yet. Numbers that are free move, within what is believed of them, to "
                        "where the model follows the measured valve.");
    if (runner.running())
        return tr("So far: %1. Other departures are being tried.").arg(in_sentence(chosen_words(*found)));
    QString out = found->chosen == "as_believed"
                      ? tr("The train is as believed: no departure explains the run better.")
                      : tr("%1: that explains the run better than belief.").arg(chosen_words(*found));
    if (const RunReading* reading = runner.reading()) {
        out += tr(" Limit %1 rev/min, 10 to 90 % %2 … %3; onset %4.")
                   .arg(rpm(reading->limit_rpm), rpm(reading->p10_rpm), rpm(reading->p90_rpm),
                        rpm(reading->onset_rpm));
        if (landing_moves_limit(reading->limit_rpm, reading->train_limit_rpm))
            out += tr(" The valve lands otherwise in the run than the fitted train has it, which is counted; "
                      "the train by itself would reach %1.")
                       .arg(rpm(reading->train_limit_rpm));
    }
    if (runner.old())
        out += tr(" (old: of another train or run)");
    return out;
}

void CalibrationView::refresh() {
    const CalibrationRunner& runner = context_.calibration;
    headline_->setText(headline());
    progress_->setVisible(runner.running());
    calibrate_->setText(runner.running() ? tr("Stop") : tr("&Calibrate"));
    calibrate_->setEnabled(runner.running() || (context_.rig.run() && !context_.rig.old()));
    fill_other();
    fill_numbers();
    change_->refresh();
    fill_causes();
    fill_untold();
    fill_residuals();
    fill_map();
    if (runner.change() && !told_change_)
        pictures_->setCurrentWidget(change_); // what was asked for
    told_change_ = runner.change() != nullptr;
    departures_->set_numbers(runner.calibration() ? runner.calibration()->numbers
                                                  : std::vector<FittedNumber>{},
                             runner.old() || runner.running());
    accept_->setEnabled(runner.reading() && !runner.old() && !checked(kTake).empty());
    refresh_speed();
}

std::set<std::string> CalibrationView::checked(int column) const {
    std::set<std::string> out;
    for (int row = 0; row < numbers_->rowCount(); ++row)
        if (const QTableWidgetItem* item = numbers_->item(row, column);
            item && item->checkState() == Qt::Checked)
            out.insert(item->data(Qt::UserRole).toString().toStdString());
    return out;
}

// All numbers that the train has; fitted columns where there is an answer.
void CalibrationView::fill_numbers() {
    const QSignalBlocker quiet(numbers_);
    const CalibrationRunner& runner = context_.calibration;
    const Calibration* found = runner.calibration();
    if (!context_.document.rigid()) {
        numbers_->setRowCount(0);
        return;
    }
    const Train train = with_run_options(found ? runner.believed() : context_.document.train());
    const std::vector<FreeNumber> all = free_numbers(train);
    const std::set<std::string> taken = checked(kTake);
    const bool first = numbers_->rowCount() != static_cast<int>(all.size()) ||
                       !numbers_->item(0, kTake)->data(Qt::UserRole + 1).toBool();
    numbers_->setRowCount(static_cast<int>(all.size()));
    for (int row = 0; row < numbers_->rowCount(); ++row) {
        const FreeNumber& number = all[static_cast<std::size_t>(row)];
        const QString key = words(number.key);
        const FittedNumber* fitted = nullptr;
        for (std::size_t i = 0; found && i < found->numbers.size(); ++i)
            if (found->numbers[i].number.key == number.key && found->numbers[i].number.moves(0))
                fitted = &found->numbers[i];
        auto* free = tick(!fixed_.contains(number.key), tr("%1 may move").arg(phrase(number.label)));
        free->setData(Qt::UserRole, key);
        if (runner.running())
            free->setFlags(Qt::ItemIsSelectable);
        numbers_->setItem(row, kFree, free);
        numbers_->set_cell(row, kName, phrase(number.label), false);
        numbers_->item(row, kName)->setToolTip(tr("What would tell it: %1").arg(phrase(number.bench)));
        const auto shown = [&](double si) { return context_.units.value(number.quantity, si); };
        const double believed = value_of(train, number);
        const double scale = shown(number.logarithmic ? number.prior_sd * believed : number.prior_sd);
        numbers_->set_cell(row, kBelieved, with_digits(shown(believed), scale));
        numbers_->set_cell(row, kFitted,
                           fitted ? with_digits(shown(fitted->value), shown(fitted->sd)) : QString());
        numbers_->set_cell(row, kUncertain,
                           fitted ? with_digits(shown(fitted->sd), shown(fitted->sd)) : QString());
        numbers_->set_cell(row, kUnit,
                           number.quantity == Quantity::Count ? QString()
                                                              : context_.units.unit_name(number.quantity),
                           false);
        numbers_->set_cell(row, kDeparts, departs_words(fitted));
        const bool take = fitted && (first || runner.running() ? true : taken.contains(number.key));
        auto* box = tick(take, tr("take over %1 as fitted").arg(phrase(number.label)));
        box->setData(Qt::UserRole, key);
        box->setData(Qt::UserRole + 1, fitted != nullptr);
        if (!fitted)
            box->setFlags(Qt::ItemIsSelectable);
        numbers_->setItem(row, kTake, box);
    }
}

void CalibrationView::fill_causes() {
    const Calibration* found = context_.calibration.calibration();
    const RunReading* reading = context_.calibration.reading();
    causes_->setRowCount(0);
    const auto add = [&](const QString& what, const QString& evidence, const QString& costs) {
        const int row = causes_->rowCount();
        causes_->setRowCount(row + 1);
        causes_->set_cell(row, 0, what, false);
        causes_->set_cell(row, 1, evidence);
        causes_->set_cell(row, 2, costs);
    };
    const auto rpm = [](const std::optional<double>& value) {
        return value ? QStringLiteral("%1%2")
                           .arg(*value < 0 ? QString() : QStringLiteral("+"))
                           .arg(fixed(10 * std::round(*value / 10), 0))
                     : QString();
    };
    if (!found)
        return;
    if (!reading) {
        for (const Hypothesis& one : found->hypotheses)
            add(one.only.value_or(0) > 0 ? tr("%1, in the other").arg(cause_words(one.cause))
                : one.with.empty()       ? cause_words(one.cause)
                                         : tr("%1, and %2 beside it")
                                         .arg(cause_words(one.cause), in_sentence(cause_words(one.with))),
                fixed(one.log_evidence, 1), {});
        return;
    }
    for (const Hypothesis& one : found->hypotheses)
        if (one.only.value_or(0) > 0)
            add(tr("is it %1, in the other?").arg(in_sentence(cause_words(one.cause))),
                fixed(one.log_evidence, 1), {});
    for (const RunDeparture& one : reading->departures)
        add(tr("is it %1?").arg(in_sentence(cause_words(one.cause))), fixed(one.log_evidence, 1),
            rpm(one.gain_rpm));
    for (const RunMechanism& one : reading->mechanisms)
        add(tr("without: %1").arg(phrase(one.label)), {}, rpm(one.gain_rpm));
}

// Warnings first, then what is not told, then what is only told together.
void CalibrationView::fill_untold() {
    const Calibration* found = context_.calibration.calibration();
    untold_->setRowCount(0);
    if (!found)
        return;
    const auto add = [&](const QString& what, const QString& text) {
        const int row = untold_->rowCount();
        untold_->setRowCount(row + 1);
        untold_->set_cell(row, 0, what, false);
        untold_->set_cell(row, 1, text, false);
    };
    for (const std::string& warning : found->warnings)
        add(tr("▲ warn"), phrase(warning));
    const auto label = [&](const std::string& key) {
        for (const FittedNumber& one : found->numbers)
            if (name_of(one.number) == key)
                return phrase(label_of(one.number));
        return words(key);
    };
    for (const FittedNumber& one : found->numbers)
        if (!one.told)
            add(tr("Not told"), tr("%1: %2").arg(phrase(one.number.label), phrase(one.number.bench)));
    for (const Correlated& one : found->correlations)
        add(tr("Together"), tr("%1 and %2: more of one passes for %3 of the other")
                                .arg(label(one.a), label(one.b), one.r < 0 ? tr("more") : tr("less")));
    untold_->resizeRowsToContents();
}

void CalibrationView::fill_residuals() {
    const Calibration* found = context_.calibration.calibration();
    residual_->set_axes(tr("rev/min"), tr("rms, %1").arg(context_.units.unit_name(Quantity::FineLength)));
    for (const int curve : {before_rms_, after_rms_, held_out_rms_})
        residual_->clear_curve(curve);
    if (found) {
        QVector<double> rpm, before, after, held_rpm, held;
        for (const SpeedResidual& one : of_this_run(found->residuals)) {
            const auto shown = [&](double m) { return context_.units.value(Quantity::FineLength, m); };
            rpm.push_back(one.speed_rpm);
            before.push_back(shown(one.believed_rms_m));
            after.push_back(shown(one.rms_m));
            if (one.held_out) {
                held_rpm.push_back(one.speed_rpm);
                held.push_back(shown(one.rms_m));
            }
        }
        const bool old = context_.calibration.old();
        residual_->set_curve(before_rms_, rpm, before, old);
        residual_->set_curve(after_rms_, rpm, after, old);
        residual_->set_curve(held_out_rms_, held_rpm, held, old);
        residual_->set_y_at_least(0, 0);
    }
    residual_->redraw();
}

// Residuals on an even grid of speeds: each row that of the nearest measured speed, empty where none is near.
void CalibrationView::fill_map() {
    const Calibration* found = context_.calibration.calibration();
    const std::vector<SpeedResidual> all =
        found ? of_this_run(found->residuals) : std::vector<SpeedResidual>{};
    if (all.size() < 2)
        return map_->set_values(0, 1, 0, 1, {});
    std::vector<double> gaps;
    for (std::size_t i = 1; i < all.size(); ++i)
        if (const double gap = all[i].speed_rpm - all[i - 1].speed_rpm; gap > 1)
            gaps.push_back(gap);
    const double step = gaps.empty() ? 100 : median(gaps);
    const double low = all.front().speed_rpm, high = all.back().speed_rpm;
    const auto rows = static_cast<qsizetype>(std::ceil((high - low) / step)) + 1;
    QVector<QVector<double>> values;
    for (qsizetype row = 0; row < rows; ++row) {
        const double rpm = low + step * static_cast<double>(row);
        const SpeedResidual& near = nearest_residual(all, rpm);
        QVector<double> shown = in_unit(context_.units, Quantity::FineLength, near.difference_m);
        if (std::abs(near.speed_rpm - rpm) > step)
            shown.fill(std::numeric_limits<double>::quiet_NaN());
        values.push_back(std::move(shown));
    }
    map_->set_axes(tr("crank angle from the nose, °"), tr("rev/min"));
    map_->set_scale_label(tr("model less measured, %1").arg(context_.units.unit_name(Quantity::FineLength)));
    map_->set_values(low, low + step * static_cast<double>(rows - 1), all.front().crank_deg.front(),
                     all.front().crank_deg.back(), values);
    map_->redraw();
}

void CalibrationView::refresh_speed() {
    const Calibration* found = context_.calibration.calibration();
    difference_->set_axes(tr("crank angle from the nose, °"),
                          tr("less measured, %1").arg(context_.units.unit_name(Quantity::FineLength)));
    difference_->clear_curve(before_);
    difference_->clear_curve(after_);
    difference_->set_note({});
    if (found && !found->residuals.empty()) {
        const std::vector<SpeedResidual> all = of_this_run(found->residuals);
        const SpeedResidual* near = &nearest_residual(all, context_.cursors.speed_rpm());
        const bool old = context_.calibration.old();
        const QVector<double> deg(near->crank_deg.begin(), near->crank_deg.end());
        difference_->set_curve(
            before_, deg, in_unit(context_.units, Quantity::FineLength, near->believed_difference_m), old);
        difference_->set_curve(after_, deg, in_unit(context_.units, Quantity::FineLength, near->difference_m),
                               old);
        difference_->set_note(tr("at %1 rev/min%2")
                                  .arg(fixed(near->speed_rpm, 0))
                                  .arg(near->held_out ? tr(", held out") : QString()));
    }
    difference_->redraw();
}

void CalibrationView::press_calibrate() {
    if (context_.calibration.running())
        return context_.calibration.stop();
    const std::set<std::string> free = checked(kFree);
    if (free.empty())
        return emit message(tr("No number is free to move: tick those that may."));
    context_.calibration.start(fixed_.empty() ? std::vector<std::string>{}
                                              : std::vector<std::string>(free.begin(), free.end()),
                               other_->currentData().toLongLong());
}

// Numbers of which the run sees little but a combination belong together.
QString CalibrationView::accept_words(const std::set<std::string>& keys) const {
    QStringList parted;
    const auto taken = [&](const std::string& name) { // the other's own numbers are not taken over here
        return name.starts_with("other.") || keys.contains(name);
    };
    for (const Correlated& one : context_.calibration.calibration()->correlations)
        if (taken(one.a) != taken(one.b))
            parted.push_back(tr("%1 and %2").arg(words(one.a), words(one.b)));
    return parted.isEmpty()
               ? tr("Taken over as a new revision; Undo takes it back.")
               : tr("Taken over as a new revision, but the run sees only a combination of %1: one without "
                    "the other is no longer what was fitted. Undo takes it back.")
                     .arg(parted.join(tr("; ")));
}

void CalibrationView::press_accept() {
    const std::set<std::string> keys = checked(kTake);
    const QString told = accept_words(keys);
    context_.calibration.accept(keys);
    emit message(told);
}

} // namespace bathmos::app
