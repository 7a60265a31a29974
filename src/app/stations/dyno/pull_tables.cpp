#include "app/stations/dyno/pull_tables.h"

#include "app/stations/dyno/states_view.h"
#include "app/text/words.h"
#include "app/widgets/number_table.h"

#include <QHeaderView>
#include <QTabWidget>
#include <QVBoxLayout>
#include <cmath>

namespace bathmos::app {

namespace {

constexpr int kConfounderWidth = 130;
constexpr double kLeastTaken = 0.005; // share of the power that is worth a word

} // namespace

PullTables::PullTables(Context context, QWidget* parent)
    : QWidget(parent), context_(context), tabs_(new QTabWidget) {
    auto* whole = new QVBoxLayout(this);
    whole->setContentsMargins(0, 0, 0, 0);
    whole->addWidget(tabs_);
    tabs_->setObjectName(QStringLiteral("dyno_tabs"));
    const auto table = [&](const QString& name, const QString& title, const QStringList& headings) {
        auto* out = new NumberTable(name);
        out->setAccessibleName(title);
        out->set_headings(headings);
        out->horizontalHeader()->setStretchLastSection(true);
        return out;
    };
    auto* says = new QWidget;
    auto* layout = new QVBoxLayout(says);
    layout->setContentsMargins(0, 4, 0, 0);
    summary_ = table(QStringLiteral("dyno_summary"), tr("What the pulls say"),
                     {tr("What the pulls say"), tr("Value")});
    confounders_ = table(QStringLiteral("dyno_confounders"), tr("What else could explain it"),
                         {tr("What else"), tr("Found"), tr("How it is known or settled")});
    summary_->wrap_last_column();
    confounders_->wrap_last_column();
    confounders_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Fixed);
    confounders_->setColumnWidth(0, kConfounderWidth);
    connect(confounders_, &QTableWidget::cellActivated, this, [this](int row) {
        const QString location = confounders_->item(row, 0)->data(Qt::UserRole).toString();
        if (!location.isEmpty())
            emit location_wanted(location);
    });
    layout->addWidget(summary_, 2);
    layout->addWidget(confounders_, 3);
    tabs_->addTab(says, tr("What they say"));
    gains_ = table(QStringLiteral("dyno_gains"), tr("Gain by range of speed"),
                   {tr("rev/min"), tr("gain"), tr("± 95 %"), tr("told")});
    tabs_->addTab(gains_, tr("Difference"));
    states_ = new StatesView(context_);
    tabs_->addTab(states_, tr("States"));
}

void PullTables::add_tab(QWidget* page, const QString& title) {
    tabs_->addTab(page, title);
}

void PullTables::fill() {
    fill_summary();
    fill_confounders();
    fill_gains();
    states_->fill();
}

void PullTables::show_states() {
    tabs_->setCurrentWidget(states_);
}

QString PullTables::power_text(double si) const {
    return fixed(context_.units.value(Quantity::Power, si), 1);
}

void PullTables::add_row(const QString& what, const QString& value) {
    const int row = summary_->rowCount();
    summary_->setRowCount(row + 1);
    summary_->set_cell(row, 0, what, false);
    summary_->set_cell(row, 1, value, false);
    summary_->item(row, 1)->setToolTip(value);
}

void PullTables::fill_summary() {
    summary_->setRowCount(0);
    const DynoState* state = context_.dyno.shown();
    if (!state || state->pulls.empty())
        return;
    const QString unit = context_.units.unit_name(Quantity::Power);
    if (const auto& b = state->first_break) {
        const QString at = tr("%1 rev/min").arg(fixed(b->speed_rpm, 0));
        add_row(tr("Break"), b->pulls > 1
                                 ? tr("%1, repeats within ± %2").arg(at).arg(fixed(b->scatter_rpm, 0))
                                 : tr("%1, in one pull: not repeated").arg(at));
        add_row(tr("Depth, confidence"), tr("%1 %2, %3 %")
                                             .arg(power_text(b->depth_W), unit)
                                             .arg(fixed(std::floor(100 * b->confidence), 0)));
    } else {
        add_row(tr("Break"), tr("none claimed"));
    }
    for (const auto& pull : state->pulls) {
        const PullAnalysis& a = pull->analysis;
        add_row(QString::fromStdString(pull->pull.name),
                tr("%1 %2 at %3; %4 %5 at %6 rev/min")
                    .arg(power_text(a.peak_W), unit)
                    .arg(fixed(a.peak_rpm, 0))
                    .arg(context_.units.number(Quantity::Torque, a.torque_peak_Nm),
                         context_.units.unit_name(Quantity::Torque))
                    .arg(fixed(a.torque_peak_rpm, 0)));
        QStringList more;
        for (const PowerBreak& b : a.breaks.breaks)
            more.push_back(tr("break %1 ± %2, %3 %")
                               .arg(fixed(b.speed_rpm, 0))
                               .arg(fixed(b.sd_rpm, 0))
                               .arg(fixed(std::floor(100 * b.confidence), 0)));
        for (const PowerDip& d : a.breaks.dips)
            more.push_back(
                tr("dips from %1 to %2, comes back").arg(fixed(d.from_rpm, 0)).arg(fixed(d.to_rpm, 0)));
        if (a.cut)
            more.push_back(tr("cut off at %1").arg(fixed(a.cut->speed_rpm, 0)));
        more.push_back(a.rough_top < 1.15 ? tr("no rougher at the top")
                                          : tr("%1 times as rough at the top").arg(fixed(a.rough_top, 1)));
        if (a.curve.left_out)
            more.push_back(tr("%1 readings left out").arg(a.curve.left_out));
        add_row({}, more.join(QStringLiteral("; ")));
    }
}

void PullTables::fill_confounders() {
    confounders_->setRowCount(0);
    const DynoState* state = context_.dyno.shown();
    if (!state || state->pulls.empty())
        return;
    std::vector<std::vector<ConfounderTest>> tests;
    for (const auto& pull : state->pulls)
        tests.push_back(pull->tests);
    for (const ConfounderTest& t : test_confounders(tests)) {
        const int row = confounders_->rowCount();
        confounders_->setRowCount(row + 1);
        confounders_->set_cell(row, 0, phrase(info(t.kind).label), false);
        if (t.channel)
            confounders_->item(row, 0)->setData(Qt::UserRole,
                                                QStringLiteral("channel/") + words(info(*t.channel).key));
        confounders_->set_cell(row, 1,
                               t.status == TestStatus::Seen ? tr("▲ seen, %1 %").arg(fixed(100 * t.seen, 0))
                               : t.status == TestStatus::Clear
                                   ? tr("clear, %1 %").arg(fixed(100 * (1 - t.seen), 0))
                                   : tr("○ not logged"),
                               false);
        QString text = phrase(t.text.in_words(context_.units.choice()));
        if (t.status == TestStatus::Seen && t.from_rpm)
            text += tr("; from %1 rev/min").arg(fixed(*t.from_rpm, 0));
        if (t.takes && *t.takes > kLeastTaken)
            text += tr("; takes about %1 % of the power").arg(fixed(100 * *t.takes, 0));
        confounders_->set_cell(row, 2, text, false);
        confounders_->item(row, 2)->setToolTip(text);
    }
}

void PullTables::fill_gains() {
    gains_->setRowCount(0);
    const auto change = context_.dyno.change();
    if (!change)
        return;
    const auto add = [&](const QString& name, const RangeGain& r) {
        const int row = gains_->rowCount();
        gains_->setRowCount(row + 1);
        gains_->set_cell(row, 0, name);
        gains_->set_cell(row, 1, power_text(r.gain_W));
        gains_->set_cell(row, 2, r.plus_minus_W ? power_text(*r.plus_minus_W) : QStringLiteral("–"));
        gains_->set_cell(row, 3,
                         !r.plus_minus_W                        ? tr("not repeated")
                         : std::abs(r.gain_W) > *r.plus_minus_W ? (r.gain_W > 0 ? tr("gain") : tr("loss"))
                                                                : tr("within scatter"),
                         false);
    };
    gains_->set_headings({tr("rev/min"), tr("gain, %1").arg(context_.units.unit_name(Quantity::Power)),
                          tr("± 95 %"), tr("told")});
    for (const RangeGain& r : change->ranges)
        add(QStringLiteral("%1 … %2").arg(fixed(r.from_rpm, 0)).arg(fixed(r.to_rpm, 0)), r);
    add(tr("all"), change->all);
}

} // namespace bathmos::app
