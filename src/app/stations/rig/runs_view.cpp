#include "app/stations/rig/runs_view.h"

#include "app/plot/plot.h"
#include "app/plot/series.h"
#include "app/text/words.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "core/problem/input_error.h"
#include "core/rig/step_response.h"
#include "core/train/train_figures.h"
#include "core/whatif/spring_need.h"
#include "io/result/result_text.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QSignalBlocker>
#include <QSplitter>
#include <QVBoxLayout>
#include <algorithm>

namespace bathmos::app {

namespace {

constexpr std::size_t kMostShown = 5; // curves that a plot keeps apart
struct RunStyle {
    Role role;
    Stroke stroke;
};
constexpr RunStyle kStyles[kMostShown] = {{Role::Measured, Stroke::Solid},
                                          {Role::Third, Stroke::Solid},
                                          {Role::Ink, Stroke::Dashed},
                                          {Role::Measured, Stroke::Dashed},
                                          {Role::Third, Stroke::Dashed}};

// What may have been stepped from run to run.
struct Stepped {
    const char* label;
    Quantity quantity;
    double (*of)(const Train& train);
};
const Stepped kStepped[] = {
    {QT_TRANSLATE_NOOP("RunsView", "seat load"), Quantity::Force,
     [](const Train& t) { return spring_point(t).seat_N; }},
    {QT_TRANSLATE_NOOP("RunsView", "spring rate"), Quantity::Stiffness,
     [](const Train& t) { return spring_point(t).rate_N_per_m; }},
    {QT_TRANSLATE_NOOP("RunsView", "moving mass at the valve"), Quantity::Mass,
     [](const Train& t) { return t.valve.mass_kg + t.retainer_mass_kg + t.locks_mass_kg + t.cap_mass_kg; }},
    {QT_TRANSLATE_NOOP("RunsView", "installed height"), Quantity::Length,
     [](const Train& t) { return t.installed_height_m; }},
};

} // namespace

RunsView::RunsView(Context context, QWidget* parent) : QWidget(parent), context_(context) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 4, 0, 0);
    auto* split = new QSplitter(Qt::Horizontal);
    split->addWidget(make_list());
    split->addWidget(make_plots());
    split->addWidget(make_words());
    split->setSizes({250, 520, 390});
    layout->addWidget(split, 1);
    refresher_ = new Refresher(this, kUnhurried_ms, [this] { refresh(); });
    const auto ask = [this] { refresher_->ask(); };
    connect(&context_.document, &Document::records_changed, this, ask);
    connect(&context_.document, &Document::revision_shown, this, [this] {
        begun_ = false;
        refresher_->ask();
    });
    connect(&context_.document, &Document::limits_changed, this, ask);
    connect(&context_.units, &DisplayUnits::changed, this, [this] { show_all(); });
    connect(&context_.cursors, &Cursors::speed_changed, this, [this](double rpm) {
        metric_->set_cursor(rpm);
        if (isVisible())
            show_lift();
    });
    refresher_->ask();
}

QWidget* RunsView::make_list() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(0, 0, 4, 0);
    list_ = new QListWidget;
    list_->setObjectName(QStringLiteral("runs_list"));
    list_->setAccessibleName(tr("Runs of this build; ticked ones are shown"));
    list_->setWordWrap(true);
    connect(list_, &QListWidget::itemChanged, this, [this](const QListWidgetItem* item) {
        if (filling_)
            return;
        const auto id = static_cast<Id>(item->data(Qt::UserRole).toLongLong());
        if (item->checkState() != Qt::Checked)
            chosen_.erase(id);
        else if (chosen_.size() == kMostShown)
            emit message(tr("%1 runs can be told apart on a plot: take another out first.").arg(kMostShown));
        else
            chosen_.insert(id);
        refresher_->ask();
    });
    layout->addWidget(list_, 1);
    hidden_ = new QCheckBox(tr("hidden ones too"));
    hidden_->setObjectName(QStringLiteral("runs_hidden"));
    connect(hidden_, &QCheckBox::toggled, this, [this] { refresher_->ask(); });
    layout->addWidget(hidden_);
    note_ = new QLineEdit;
    note_->setObjectName(QStringLiteral("runs_note"));
    note_->setAccessibleName(tr("Note of the run in front"));
    note_->setPlaceholderText(tr("conditions, what was seen"));
    note_->setToolTip(tr("Enter keeps it with the run"));
    hide_ = new QPushButton(tr("Hide or show"));
    hide_->setObjectName(QStringLiteral("runs_hide"));
    connect(note_, &QLineEdit::editingFinished, this, &RunsView::note);
    connect(list_, &QListWidget::currentRowChanged, this, [this] { show_note(); });
    connect(hide_, &QPushButton::clicked, this, &RunsView::hide_or_show);
    layout->addWidget(note_);
    layout->addWidget(hide_);
    return box;
}

QWidget* RunsView::make_plots() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(4, 0, 4, 0);
    choice_ = new QComboBox;
    choice_->setObjectName(QStringLiteral("runs_metric"));
    choice_->setAccessibleName(tr("Metric over speed"));
    fill_choices();
    choice_->setCurrentText(phrase(info(Metric::LiftLoss).label));
    connect(choice_, &QComboBox::currentIndexChanged, this, &RunsView::show_metric);
    layout->addWidget(choice_);
    metric_ = new Plot(context_.theme, tr("Runs over speed"));
    lift_ = new Plot(context_.theme, tr("Less the first run, at the cursor's speed"));
    for (const RunStyle& style : kStyles) {
        metric_curves_.push_back(metric_->add_curve(QString(), style.role, style.stroke));
        lift_curves_.push_back(lift_->add_curve(QString(), style.role, style.stroke));
    }
    metric_->set_cursor_step(10);
    metric_->set_cursor(context_.cursors.speed_rpm());
    lift_->set_x_range(-360, 360);
    lift_->set_cursor_step(0.5);
    connect(metric_, &Plot::cursor_moved, this, [this](double rpm) { context_.cursors.set_speed(rpm); });
    connect(lift_, &Plot::cursor_moved, this, [this](double deg) { context_.cursors.set_crank(deg); });
    layout->addWidget(metric_, 5);
    layout->addWidget(lift_, 4);
    return box;
}

QWidget* RunsView::make_words() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(4, 0, 0, 0);
    gains_ = new NumberTable(QStringLiteral("runs_gains"));
    gains_->setAccessibleName(tr("What was gained from run to run"));
    layout->addWidget(gains_, 3);
    told_ = new QLabel;
    told_->setObjectName(QStringLiteral("runs_told"));
    told_->setWordWrap(true);
    told_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    layout->addWidget(told_);
    holds_ = new NumberTable(QStringLiteral("runs_holds"));
    holds_->setAccessibleName(tr("Holds, and what crept"));
    layout->addWidget(holds_, 2);
    stepped_ = new QComboBox;
    stepped_->setObjectName(QStringLiteral("runs_stepped"));
    stepped_->setAccessibleName(tr("What was stepped from run to run"));
    for (const Stepped& one : kStepped)
        stepped_->addItem(tr(one.label));
    connect(stepped_, &QComboBox::currentIndexChanged, this, &RunsView::fill_response);
    layout->addWidget(stepped_);
    response_ = new QLabel;
    response_->setObjectName(QStringLiteral("runs_response"));
    response_->setWordWrap(true);
    layout->addWidget(response_);
    return box;
}

Id RunsView::current() const {
    return list_->currentItem() ? static_cast<Id>(list_->currentItem()->data(Qt::UserRole).toLongLong()) : 0;
}

QString RunsView::name_of(Id id) const {
    const Project& project = context_.document.project();
    const Entry& run = project.of(EntryKind::RigRun).at(id);
    return tr("run %1, %2").arg(id).arg(words(project.revision_label(run.revision)));
}

// Metrics first, then the durations at the heights that the first run reaches.
void RunsView::fill_choices() {
    std::vector<double> heights_m;
    for (const session::ReducedRun& one : runs_)
        if (one.run && heights_m.empty())
            heights_m = loss_heights_m(*one.run);
    QStringList labels;
    for (const Metric m : io::rig_columns())
        labels << phrase(info(m).label);
    for (const double height_m : heights_m)
        labels << tr("Duration lost at %1").arg(context_.units.text(Quantity::Length, height_m));
    heights_m_ = std::move(heights_m);
    bool same = choice_->count() == labels.size();
    for (int i = 0; same && i < choice_->count(); ++i)
        same = choice_->itemText(i) == labels[i];
    if (same)
        return;
    const int at = choice_->currentIndex();
    const QSignalBlocker quiet(choice_);
    choice_->clear();
    choice_->addItems(labels);
    choice_->setCurrentIndex(at < labels.size() ? std::max(0, at) : 0);
}

RunsView::OverSpeed RunsView::chosen() const {
    const auto at = static_cast<std::size_t>(std::max(0, choice_->currentIndex()));
    const auto& metrics = io::rig_columns();
    return at < metrics.size() ? OverSpeed{metrics[at]} : OverSpeed{std::nullopt, at - metrics.size()};
}

MetricSeries RunsView::series_of(const RigRun& run, const OverSpeed& what) const {
    if (what.metric)
        return metric_series(context_.units, *what.metric, run.rows());
    MetricSeries out;
    for (const HeightLoss& one : height_losses(run, {heights_m_[what.height]})) {
        out.rpm.push_back(one.speed_rpm);
        out.value.push_back(one.duration_deg.front().value_or(std::numeric_limits<double>::quiet_NaN()));
    }
    return out;
}

// Up to where each run keeps its durations, what that gains, and how far it is from what is wanted.
QStringList RunsView::useful_words() const {
    QStringList out;
    const DurationsKept kept = durations_kept(context_.document.limits());
    const Engine* engine = context_.document.engine();
    std::optional<double> before;
    for (const session::ReducedRun& one : runs_) {
        if (!one.run || one.run->steps.empty())
            continue;
        const std::vector<double> heights_m = loss_heights_m(*one.run);
        const auto useful = useful_rpm(height_losses(*one.run, heights_m), heights_m, kept);
        QString line = useful ? tr("%1 keeps its durations up to %2").arg(words(one.name), speed_text(useful))
                              : tr("%1 keeps its durations to its end, %2")
                                    .arg(words(one.name), speed_text(one.run->steps.back().speed_rpm));
        if (useful && before)
            line += tr(", %1%2 over the one before")
                        .arg(*useful < *before ? QString() : QStringLiteral("+"))
                        .arg(fixed(*useful - *before, 0));
        const auto against = [&](double rpm, const QString& below, const QString& above) {
            if (useful && rpm > 0)
                line += (*useful < rpm ? below : above).arg(fixed(std::abs(*useful - rpm), 0));
        };
        against(context_.document.target_rpm(), tr(", %1 below the target"), tr(", %1 above the target"));
        against(engine ? engine->overspeed_rpm : 0, tr(", %1 below the highest that the engine may see"),
                tr(", %1 above the highest that the engine may see"));
        out << line + QLatin1Char('.');
        before = useful;
    }
    if (!out.isEmpty())
        out << tr("Kept: from %3 up at no height over %1° shorter or %2° longer than at its slowest step.")
                   .arg(fixed(kept.shorter_deg, 0), fixed(kept.longer_deg, 0),
                        context_.units.text(Quantity::Length, kept.from_m));
    return out;
}

void RunsView::refresh() {
    if (!context_.document.has_train())
        return;
    const std::vector<Id> all =
        session::runs_of(context_.document.project(), context_.document.build(), hidden_->isChecked());
    if (!begun_) { // the latest two, to begin with
        chosen_.clear();
        for (std::size_t i = all.size() - std::min<std::size_t>(2, all.size()); i < all.size(); ++i)
            chosen_.insert(all[i]);
        begun_ = true;
    }
    std::erase_if(chosen_, [&](Id id) { return std::ranges::find(all, id) == all.end(); });
    fill_list();
    reduce();
}

void RunsView::fill_list() {
    filling_ = true;
    const Id before = current();
    list_->clear();
    const Project& project = context_.document.project();
    for (const Id id : session::runs_of(project, context_.document.build(), hidden_->isChecked())) {
        const Entry& run = project.of(EntryKind::RigRun).at(id);
        QString text = name_of(id) + QStringLiteral("\n") + words(run.name);
        if (!run.text.empty())
            text += QStringLiteral("\n") + words(run.text);
        if (session::is_hidden(run))
            text += tr(" (hidden)");
        auto* item = new QListWidgetItem(text, list_);
        item->setData(Qt::UserRole, static_cast<qlonglong>(id));
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
        item->setCheckState(chosen_.contains(id) ? Qt::Checked : Qt::Unchecked);
        if (id == before)
            list_->setCurrentItem(item);
    }
    if (!list_->currentItem() && list_->count() > 0)
        list_->setCurrentRow(0);
    note_->setEnabled(list_->count() > 0);
    hide_->setEnabled(list_->count() > 0);
    filling_ = false;
    show_note();
}

void RunsView::show_note() {
    const auto& all = context_.document.project().of(EntryKind::RigRun);
    const auto at = all.find(current());
    if (!filling_ && !note_->hasFocus())
        note_->setText(at == all.end() ? QString() : words(at->second.text));
}

void RunsView::reduce() {
    const std::string limits = session::hash_of(std::string(), context_.document.limits());
    if (chosen_ == asked_ && limits == asked_limits_)
        return show_all();
    asked_ = chosen_;
    asked_limits_ = limits;
    std::vector<session::RunInput> inputs;
    const Project& project = context_.document.project();
    try {
        for (const Id id : chosen_) {
            const Entry& run = project.of(EntryKind::RigRun).at(id);
            inputs.push_back({id, name_of(id).toStdString(),
                              project.revisions.at(run.revision).assembly.train,
                              context_.document.trace(run.traces.back()), run.numbers.contains("reversed")});
        }
    } catch (const InputError& error) {
        return emit message(phrase(error.what()));
    }
    told_->setText(tr("reducing…"));
    work_.start(
        [this, inputs = std::move(inputs), limits_now = context_.document.limits(),
         &results = context_.document.results()](const std::stop_token& stop, const Background::Post& post) {
            auto made = session::reduce_runs(inputs, limits_now, results, {}, stop);
            post([this, made = std::move(made)]() mutable { runs_ = std::move(made); });
        },
        [this](const QString& failure) {
            if (!failure.isEmpty())
                emit message(failure);
            show_all();
        });
}

void RunsView::show_all() {
    show_metric();
    show_lift();
    fill_gains();
    fill_response();
}

void RunsView::show_metric() {
    fill_choices();
    const OverSpeed what = chosen();
    const QString unit = what.metric ? context_.units.metric_unit(*what.metric) : QStringLiteral("°");
    metric_->set_axes(tr("rev/min"),
                      choice_->currentText() + (unit.isEmpty() ? QString() : QStringLiteral(", ") + unit));
    QVector<Plot::Mark> marks;
    for (std::size_t i = 0; i < kMostShown; ++i) {
        const bool there = i < runs_.size() && runs_[i].run;
        metric_->restyle_curve(metric_curves_[i], there ? words(runs_[i].name) : QString(), kStyles[i].role,
                               kStyles[i].stroke);
        if (!there) {
            metric_->clear_curve(metric_curves_[i]);
            continue;
        }
        const MetricSeries series = series_of(*runs_[i].run, what);
        metric_->set_curve(metric_curves_[i], series.rpm, series.value);
        if (const auto edge = runs_[i].run->onset.onset.speed_rpm)
            marks.push_back({*edge, tr("onset %1").arg(speed_text(edge)), kStyles[i].role});
    }
    metric_->set_marks(marks);
    metric_->redraw();
}

void RunsView::show_lift() {
    const QString length = context_.units.unit_name(Quantity::Length);
    lift_->set_axes(tr("crank angle from the nose, °"), tr("less the first run, %1").arg(length));
    const RigStep* first = nullptr;
    for (std::size_t i = 0; i < kMostShown; ++i) {
        if (i >= runs_.size() || !runs_[i].run) {
            lift_->restyle_curve(lift_curves_[i], QString(), kStyles[i].role, kStyles[i].stroke);
            lift_->clear_curve(lift_curves_[i]);
            continue;
        }
        const RigStep& step = runs_[i].run->steps[runs_[i].run->nearest(context_.cursors.speed_rpm())];
        lift_->restyle_curve(lift_curves_[i],
                             tr("%1 at %2").arg(words(runs_[i].name)).arg(fixed(step.speed_rpm, 0)),
                             kStyles[i].role, kStyles[i].stroke);
        first = first ? first : &step;
        std::vector<double> less(step.lift_m.size());
        for (std::size_t k = 0; k < less.size(); ++k)
            less[k] = step.lift_m[k] - first->lift_m[k];
        lift_->set_curve(lift_curves_[i], crank_grid(), in_unit(context_.units, Quantity::Length, less));
    }
    lift_->redraw();
}

void RunsView::fill_gains() {
    gains_->set_headings({tr("from"), tr("to"), tr("onset gained, rev/min"), tr("claimed")});
    gains_->setRowCount(0);
    QStringList told;
    std::vector<const session::ReducedRun*> good;
    for (const session::ReducedRun& one : runs_)
        if (one.run)
            good.push_back(&one);
        else
            told << words(one.name) + QStringLiteral(": ") + phrase(one.failure);
    if (const auto comparison = session::compared(runs_)) {
        gains_->setRowCount(static_cast<int>(comparison->gains.size()));
        for (int row = 0; row < gains_->rowCount(); ++row) {
            const EdgeGain& gain = comparison->gains[static_cast<std::size_t>(row)];
            gains_->set_cell(row, 0, words(good[gain.from]->name), false);
            gains_->set_cell(row, 1, words(good[gain.to]->name), false);
            gains_->set_cell(row, 2,
                             gain.rpm ? tr("%1 ± %2").arg(fixed(*gain.rpm, 0)).arg(fixed(2 * gain.sd_rpm, 0))
                                      : tr("no onset in one of them"));
            gains_->set_cell(row, 3, gain.claimed ? tr("yes") : tr("no"), false);
        }
        for (const Told& one : comparison->told)
            told << QStringLiteral("▲ ") + phrase(one.text.in_words(context_.units.choice()));
    } else {
        told << tr("Tick two runs or more: what was gained, and whether that may be claimed.");
    }
    told << useful_words();
    told_->setText(told.join(QLatin1Char('\n')));
    holds_->set_headings({tr("hold"), tr("rev/min"), tr("seconds"),
                          tr("lift drifts, %1/s").arg(context_.units.unit_name(Quantity::FineLength)),
                          tr("passes")});
    holds_->setRowCount(0);
    for (const session::ReducedRun* one : good)
        for (const rig::HeldSpeed& hold : one->holds) {
            const int row = holds_->rowCount();
            holds_->setRowCount(row + 1);
            holds_->set_cell(row, 0, words(one->name), false);
            holds_->set_cell(row, 1, fixed(hold.speed_rpm, 0));
            holds_->set_cell(row, 2, fixed(hold.seconds, 1));
            holds_->set_cell(
                row, 3,
                tr("%1 ± %2")
                    .arg(fixed(context_.units.value(Quantity::FineLength, hold.peak_m.per_s), 2))
                    .arg(fixed(context_.units.value(Quantity::FineLength, hold.peak_m.sd_per_s), 2)));
            holds_->set_cell(row, 4, hold.passes() ? tr("yes") : tr("creeps"), false);
        }
}

void RunsView::fill_response() {
    const Stepped& what = kStepped[std::max(0, stepped_->currentIndex())];
    std::vector<SteppedRun> stepped;
    for (const session::ReducedRun& one : runs_)
        if (one.run && one.run->onset.onset.speed_rpm)
            stepped.push_back({what.of(one.train), *one.run->onset.onset.speed_rpm,
                               std::max(10.0, one.run->onset.onset.half_step_rpm)});
    try {
        const StepResponse found = step_response(stepped);
        const QString unit = context_.units.unit_name(what.quantity);
        const double to_si = 1 / context_.units.value(what.quantity, 1.0);
        response_->setText(
            tr("Onset over %1: %2 ± %3 rev/min a %4. %5: %6.")
                .arg(tr(what.label))
                .arg(digits(found.slope * to_si, 3))
                .arg(digits(2 * found.slope_sd * to_si, 2))
                .arg(unit, phrase(found.why), context_.units.text(what.quantity, found.next_at)));
    } catch (const InputError& error) {
        response_->setText(tr("Stepping one number: %1.").arg(phrase(error.problem().what)));
    }
}

void RunsView::note() {
    const Id id = current();
    const auto& all = context_.document.project().of(EntryKind::RigRun);
    if (!all.contains(id))
        return;
    Entry next = all.at(id);
    next.text = note_->text().toStdString();
    if (next == all.at(id))
        return;
    context_.document.set_entry(EntryKind::RigRun, id, next, tr("Note of a run"));
}

void RunsView::hide_or_show() {
    const Id id = current();
    const auto& all = context_.document.project().of(EntryKind::RigRun);
    if (!all.contains(id))
        return;
    Entry next = all.at(id);
    const bool hides = !session::is_hidden(next);
    if (hides)
        next.words["hidden"] = "yes";
    else
        next.words.erase("hidden");
    context_.document.set_entry(EntryKind::RigRun, id, next, hides ? tr("Run hidden") : tr("Run shown"));
}

} // namespace bathmos::app
