#include "app/stations/plan/plan_view.h"

#include "app/stations/plan/plan_chart.h"
#include "app/text/words.h"
#include "app/widgets/number_field.h"
#include "app/widgets/number_table.h"
#include "core/problem/input_error.h"

#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTabWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <numeric>

namespace bathmos::app {

namespace {

constexpr int kRunName = 3;

// One column takes what the others leave; what does not fit is told by its tip.
void keep_narrow(NumberTable& table, int wide) {
    table.setWordWrap(false);
    for (int column = 0; column < table.columnCount(); ++column)
        table.horizontalHeader()->setSectionResizeMode(
            column, column == wide ? QHeaderView::Stretch : QHeaderView::ResizeToContents);
    for (int row = 0; row < table.rowCount(); ++row)
        if (auto* item = table.item(row, wide))
            item->setToolTip(item->text());
}

constexpr double kUsualSd_rpm = 35; // of a limit by a run in steps of 100

} // namespace

PlanView::PlanView(Context context, QWidget* parent)
    : QWidget(parent), context_(context), words_(new QLabel), chart_(new PlanChart(context.theme)),
      tabs_(new QTabWidget), runs_(new NumberTable(QStringLiteral("plan_runs"))),
      all_(new NumberTable(QStringLiteral("plan_all"))),
      left_out_(new NumberTable(QStringLiteral("plan_left_out"))) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(4, 0, 0, 0);
    layout->setSpacing(4);
    words_->setObjectName(QStringLiteral("plan_words"));
    words_->setWordWrap(true);
    words_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    layout->addWidget(words_);
    layout->addWidget(chart_, 2);
    tabs_->setObjectName(QStringLiteral("plan_tabs"));
    runs_->setAccessibleName(tr("Runs in order"));
    all_->setAccessibleName(tr("All combinations"));
    left_out_->setAccessibleName(tr("What is left out, and why"));
    tabs_->addTab(runs_, tr("Runs"));
    tabs_->addTab(make_results(), tr("What came"));
    tabs_->addTab(all_, tr("Combinations"));
    tabs_->addTab(left_out_, tr("Left out"));
    layout->addWidget(tabs_, 5);
    connect(chart_, &PlanChart::run_chosen, this, [this](int run) {
        tabs_->setCurrentWidget(runs_);
        runs_->selectRow(run);
    });
    connect(runs_, &QTableWidget::currentCellChanged, this, [this](int row) {
        chart_->choose(row);
        if (plan_ && row >= 0 && row < static_cast<int>(plan_->runs.size()))
            which_->setCurrentIndex(
                which_->findText(name_of(plan_->runs[static_cast<std::size_t>(row)].levels)));
    });
}

QWidget* PlanView::make_results() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(0, 4, 0, 0);
    auto* line = new QHBoxLayout;
    which_ = new QComboBox;
    which_->setObjectName(QStringLiteral("plan_which"));
    which_->setAccessibleName(tr("Which run was made"));
    which_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    limit_ = new QLineEdit;
    limit_->setObjectName(QStringLiteral("plan_limit"));
    limit_->setAccessibleName(tr("Its limit, rev/min"));
    limit_->setPlaceholderText(tr("limit, rev/min"));
    sd_ = new QLineEdit(QString::number(kUsualSd_rpm));
    sd_->setObjectName(QStringLiteral("plan_sd"));
    sd_->setAccessibleName(tr("What it is known to, one deviation, rev/min"));
    sd_->setToolTip(sd_->accessibleName());
    sd_->setMaximumWidth(60);
    take_ = new QPushButton(tr("Enter what came"));
    take_->setObjectName(QStringLiteral("plan_take"));
    back_ = new QPushButton(tr("Take the last back"));
    back_->setObjectName(QStringLiteral("plan_back"));
    connect(take_, &QPushButton::clicked, this, &PlanView::take);
    connect(limit_, &QLineEdit::returnPressed, this, &PlanView::take);
    connect(back_, &QPushButton::clicked, this, [this] { emit taken_back(); });
    line->addWidget(which_, 3);
    line->addWidget(limit_, 1);
    line->addWidget(new QLabel(QStringLiteral("±")));
    line->addWidget(sd_);
    line->addWidget(take_);
    line->addWidget(back_);
    layout->addLayout(line);
    results_ = new NumberTable(QStringLiteral("plan_results"));
    results_->setAccessibleName(tr("What was expected and what came"));
    layout->addWidget(results_, 1);
    return box;
}

QString PlanView::name_of(const plan::Combination& levels) const {
    return words(plan::name_of(draft_.campaign, levels));
}

QString PlanView::band(const plan::Expected& expected) const {
    return tr("%1 … %2").arg(fixed(expected.low_rpm, 0)).arg(fixed(expected.high_rpm, 0));
}

void PlanView::show_plan(const io::CampaignDraft& draft, std::shared_ptr<const session::KnownForecast> known,
                         std::shared_ptr<const plan::Plan> plan, bool old) {
    draft_ = draft;
    known_ = std::move(known);
    plan_ = std::move(plan);
    fill_words(old);
    if (plan_)
        chart_->show_plan(draft_.campaign, *plan_, old);
    else
        chart_->clear();
    fill_runs();
    fill_all();
    fill_left_out();
    fill_results();
}

void PlanView::fill_words(bool old) {
    if (!plan_) {
        words_->setText(
            tr("%1 combinations. <b>Plan</b> (Alt+P) asks the full model for all of them, and orders "
               "those that may be the best.")
                .arg(plan::all_combinations(draft_.campaign).size()));
        return;
    }
    const plan::Plan& plan = *plan_;
    QString text = plan.made.empty() ? tr("Expected best: <b>%1</b>, %2 rev/min (%3)")
                                     : tr("Best that was run: <b>%1</b>, %2 rev/min (%3)");
    text = text.arg(name_of(plan.best).toHtmlEscaped())
               .arg(fixed(plan.best_expected.limit_rpm, 0))
               .arg(band(plan.best_expected));
    if (plan.settled)
        text += tr(". <b>Settled</b>: %1 % that one not run lies over %2 rev/min above it.")
                    .arg(fixed(100 * plan.chance_better, 0))
                    .arg(fixed(plan::kMargin_rpm, 0));
    else
        text += tr(". %1 of %2 hours booked; %3.")
                    .arg(fixed(plan.hours, 1))
                    .arg(fixed(plan.booked_h, 1))
                    .arg(plan.exact ? tr("no order of these runs is less work")
                                    : tr("no order is less work than %1 h").arg(fixed(plan.bound_h, 1)));
    if (!plan.gone.empty()) {
        QStringList gone;
        for (const plan::Combination& levels : plan.gone)
            gone << name_of(levels).toHtmlEscaped();
        text +=
            QLatin1Char(' ') + tr("With half a day less: without %1.").arg(gone.join(QStringLiteral("; ")));
    }
    std::vector<Told> told = plan.told;
    std::ranges::move(session::worn_parts(context_.document.project(), draft_.campaign),
                      std::back_inserter(told));
    for (const Told& one : told)
        text += QStringLiteral("<br>▲ ") + phrase(one.text.in_words(context_.units.choice())).toHtmlEscaped();
    words_->setText(old ? tr("(old: the campaign was changed since) ") + text : text);
}

void PlanView::fill_runs() {
    runs_->set_headings(
        {tr("no."), tr("day, hour"), tr("hours"), tr("run"), tr("expected"), tr("10 … 90 %"), tr("why")});
    runs_->setRowCount(plan_ ? static_cast<int>(plan_->runs.size()) : 0);
    for (int row = 0; row < runs_->rowCount(); ++row) {
        const plan::PlannedRun& run = plan_->runs[static_cast<std::size_t>(row)];
        const double days_before =
            std::accumulate(draft_.campaign.day_h.begin(),
                            draft_.campaign.day_h.begin() + static_cast<std::ptrdiff_t>(run.day), 0.0);
        runs_->set_cell(row, 0, QString::number(row + 1));
        runs_->set_cell(
            row, 1, tr("%1, %2").arg(run.day + 1).arg(fixed(run.start_h + run.change_h - days_before, 1)));
        runs_->set_cell(row, 2, fixed(run.hours, 2));
        runs_->set_cell(row, 3, run.baseline ? tr("baseline") : name_of(run.levels), false);
        runs_->set_cell(row, 4, fixed(run.expected.limit_rpm, 0));
        runs_->set_cell(row, 5, band(run.expected), false);
        runs_->set_cell(row, 6, phrase(run.why), false);
    }
    keep_narrow(*runs_, kRunName);
}

// By what it is expected to reach: the highest first, with what it costs.
void PlanView::fill_all() {
    const DisplayUnits& units = context_.units;
    all_->set_headings({tr("combination"), tr("expected"), tr("10 … 90 %"), tr("best"), tr("hours"),
                        tr("open, %1").arg(units.unit_name(Quantity::Force)),
                        tr("moves, %1").arg(units.unit_name(Quantity::Mass)), tr("cost"), tr("life"),
                        tr("note")});
    const QString said[] = {tr("chance to be the best of all"),
                            tr("to change to it from what is mounted"),
                            tr("load of the springs at full lift"),
                            tr("equivalent mass at the valve"),
                            tr("of the parts that are not of the baseline, where the shelf says it of each"),
                            tr("that the oldest of its parts has used")};
    for (int i = 0; i < 6; ++i)
        all_->horizontalHeaderItem(3 + i)->setToolTip(said[i]);
    all_->setRowCount(0);
    if (!plan_ || !known_)
        return;
    std::vector<std::size_t> order(known_->candidates.size());
    std::iota(order.begin(), order.end(), std::size_t(0));
    std::ranges::stable_sort(order, std::greater(),
                             [&](std::size_t i) { return plan_->candidates[i].limit_rpm; });
    const plan::Campaign& c = draft_.campaign;
    const session::LevelPrices prices(context_.document.project(), c);
    const plan::Combination& now = c.measured.empty() ? c.mounted : c.measured.back().levels;
    all_->setRowCount(static_cast<int>(order.size()));
    for (int row = 0; row < all_->rowCount(); ++row) {
        const std::size_t i = order[static_cast<std::size_t>(row)];
        const plan::Expected& expected = plan_->candidates[i];
        const plan::Candidate& candidate = known_->candidates[i];
        const bool stopped = !known_->forecasts[i].stopped.empty();
        all_->set_cell(row, 0, name_of(candidate.levels), false);
        all_->set_cell(row, 1, stopped ? QStringLiteral("–") : fixed(expected.limit_rpm, 0));
        all_->set_cell(row, 2, stopped ? QString() : band(expected), false);
        all_->set_cell(row, 3, stopped ? QString() : tr("%1 %").arg(fixed(100 * expected.chance_best, 0)));
        all_->set_cell(row, 4, fixed(plan::change_hours(c, now, candidate.levels), 2));
        const double open_N = known_->forecasts[i].open_N;
        all_->set_cell(row, 5, open_N > 0 ? fixed(units.value(Quantity::Force, open_N), 0) : QString());
        const double moving_kg = known_->forecasts[i].moving_kg;
        all_->set_cell(row, 6, moving_kg > 0 ? fixed(units.value(Quantity::Mass, moving_kg), 1) : QString());
        const session::CombinationPrice price = prices.of(candidate.levels);
        all_->set_cell(row, 7, price.cost ? fixed(*price.cost, 0) : QStringLiteral("–"));
        all_->set_cell(row, 8, price.used > 0 ? tr("%1 %").arg(fixed(100 * price.used, 0)) : QString());
        all_->item(row, 8)->setToolTip(words(price.oldest));
        all_->set_cell(row, 9,
                       stopped              ? phrase(known_->forecasts[i].stopped)
                       : !expected.in_range ? tr("no limit up to the highest speed that was run")
                                            : QString(),
                       false);
    }
    keep_narrow(*all_, 0);
}

void PlanView::fill_left_out() {
    left_out_->set_headings({tr("combination"), tr("why")});
    left_out_->setRowCount(plan_ ? static_cast<int>(plan_->left_out.size()) : 0);
    for (int row = 0; row < left_out_->rowCount(); ++row) {
        const plan::LeftOut& one = plan_->left_out[static_cast<std::size_t>(row)];
        left_out_->set_cell(row, 0, name_of(one.levels), false);
        left_out_->set_cell(row, 1, phrase(one.why), false);
    }
    keep_narrow(*left_out_, 1);
}

void PlanView::fill_results() {
    const QString before = which_->currentText();
    which_->clear();
    for (const plan::Combination& levels : plan::all_combinations(draft_.campaign))
        which_->addItem(name_of(levels));
    const int at =
        which_->findText(plan_ && !plan_->runs.empty() ? name_of(plan_->runs.front().levels) : before);
    which_->setCurrentIndex(std::max(0, at));
    back_->setEnabled(!draft_.campaign.measured.empty());
    results_->set_headings(
        {tr("run"), tr("expected"), tr("10 … 90 %"), tr("came"), tr("off by"), tr("deviations")});
    const auto count = plan_ ? plan_->made.size() : 0;
    results_->setRowCount(static_cast<int>(count));
    for (int row = 0; row < results_->rowCount(); ++row) {
        const plan::Compared& one = plan_->made[static_cast<std::size_t>(row)];
        results_->set_cell(row, 0, name_of(one.run.levels), false);
        results_->set_cell(row, 1, fixed(one.expected.limit_rpm, 0));
        results_->set_cell(row, 2, band(one.expected), false);
        results_->set_cell(row, 3,
                           tr("%1 ± %2").arg(fixed(one.run.limit_rpm, 0)).arg(fixed(one.run.sd_rpm, 0)));
        results_->set_cell(
            row, 4,
            QStringLiteral("%1%2").arg(one.off_rpm >= 0 ? "+" : "−").arg(fixed(std::abs(one.off_rpm), 0)));
        results_->set_cell(row, 5, fixed(std::abs(one.off_sigma), 1));
    }
}

void PlanView::take() {
    const auto limit = parse_number(limit_->text()), sd = parse_number(sd_->text());
    if (!limit || !(*limit > 0) || !sd || !(*sd > 0))
        return emit message(
            tr("Not entered: the limit that came, and what it is known to, are numbers above 0 "
               "in rev/min."));
    const std::vector<plan::Combination> all = plan::all_combinations(draft_.campaign);
    const auto at = static_cast<std::size_t>(std::max(0, which_->currentIndex()));
    plan::Campaign next = draft_.campaign;
    next.measured.push_back({all[at], *limit, *sd});
    try {
        plan::check_campaign(next);
    } catch (const InputError& error) {
        return emit message(tr("Not entered. %1").arg(phrase(error.what())));
    }
    limit_->clear();
    emit came(next.measured.back());
}

} // namespace bathmos::app
