#include "app/stations/verdict/changes_panel.h"

#include "app/stations/verdict/verdict_runner.h"
#include "app/text/words.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace bathmos::app {

namespace {

enum Column { Name, Limit, Gain, Force, Onset, Band, Bind, Seating, Cost, Hours, CostPer, Risk, Notes };
constexpr int kNameWidth = 300;

QString whole_or_dash(const std::optional<double>& value) {
    return number_or_dash(value, 0);
}

} // namespace

ChangesPanel::ChangesPanel(Context context, VerdictRunner& runner, QWidget* parent)
    : QWidget(parent), context_(context), runner_(runner), try_(new QPushButton(tr("Try the changes"))),
      decide_(new QPushButton(tr("Decide on the chosen change…"))), order_(new QComboBox), words_(new QLabel),
      outcomes_(new NumberTable(QStringLiteral("verdict_outcomes"))) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 4, 0, 0);
    try_->setObjectName(QStringLiteral("verdict_try"));
    try_->setToolTip(
        tr("Each change of the shelf and each usual step through the full model, then combinations that "
           "reach the target: one to three minutes, results as they come."));
    order_->setObjectName(QStringLiteral("verdict_order"));
    order_->setAccessibleName(tr("Order of the changes"));
    order_->addItems({tr("by speed gained"), tr("by cost per 100 rev/min"), tr("by risk")});
    decide_->setObjectName(QStringLiteral("verdict_decide"));
    decide_->setToolTip(
        tr("Makes a new revision with it and records the decision with its reasons, as one step."));
    words_->setObjectName(QStringLiteral("verdict_study_words"));
    auto* line = new QHBoxLayout;
    line->addWidget(try_);
    line->addWidget(order_);
    line->addWidget(words_, 1);
    line->addWidget(decide_);
    layout->addLayout(line);
    outcomes_->setAccessibleName(tr("Changes and what they would do"));
    outcomes_->setSelectionBehavior(QAbstractItemView::SelectRows);
    outcomes_->setSelectionMode(QAbstractItemView::SingleSelection);
    layout->addWidget(outcomes_, 1);
    refresher_ = new Refresher(this, 60, [this] { fill(); });
    connect(try_, &QPushButton::clicked, &runner_, &VerdictRunner::try_changes);
    connect(order_, &QComboBox::currentIndexChanged, this, &ChangesPanel::fill);
    connect(decide_, &QPushButton::clicked, this, &ChangesPanel::decide_wanted);
    connect(outcomes_, &QTableWidget::itemSelectionChanged, this, &ChangesPanel::refresh);
    connect(&runner_, &VerdictRunner::outcomes_changed, this, [this] { refresher_->ask(); });
    connect(&context_.units, &DisplayUnits::changed, this, [this] { refresher_->ask(); });
    fill();
}

const ChangeOutcome* ChangesPanel::chosen() const {
    const int row = outcomes_->currentRow();
    if (outcomes_->selectedItems().isEmpty() || row < 0 || row >= static_cast<int>(listed_.size()))
        return nullptr;
    const ChangeOutcome& o = listed_[static_cast<std::size_t>(row)];
    return o.trouble.empty() ? &o : nullptr;
}

void ChangesPanel::refresh() {
    const bool busy = runner_.weighing() || runner_.trying();
    try_->setEnabled(runner_.made() && !runner_.old() && !busy);
    decide_->setEnabled(chosen() && !runner_.old());
    outcomes_->setEnabled(!runner_.old());
}

void ChangesPanel::fill() {
    // The choice stays with its change, wherever the order puts it.
    const std::vector<std::size_t> kept = chosen() ? chosen()->changes : std::vector<std::size_t>{};
    const auto order = static_cast<ChangeOrder>(order_->currentIndex());
    listed_ = runner_.singles();
    listed_.insert(listed_.end(), runner_.combinations().begin(), runner_.combinations().end());
    sort_outcomes(listed_, order);
    const double target = runner_.made() ? runner_.made()->file.target_rpm : 0;
    {
        const QSignalBlocker quiet(outcomes_);
        const QString length = context_.units.unit_name(Quantity::Length),
                      speed = context_.units.unit_name(Quantity::Velocity);
        outcomes_->clearSelection();
        outcomes_->set_headings({tr("Change"), tr("limit\nrev/min"), tr("gain\nrev/min"), tr("contact\nloss"),
                                 tr("onset"), tr("10 … 90 %\nrev/min"), tr("bind\n%1").arg(length),
                                 tr("seating\n%1").arg(speed), tr("cost"), tr("hours"),
                                 tr("cost per\n100 rev/min"), tr("risk"), tr("Raises, comes near, trade")});
        outcomes_->setRowCount(static_cast<int>(listed_.size()));
        for (int row = 0; row < outcomes_->rowCount(); ++row) {
            fill_row(row, listed_[static_cast<std::size_t>(row)], target);
            if (!kept.empty() && listed_[static_cast<std::size_t>(row)].changes == kept)
                outcomes_->selectRow(row);
        }
        outcomes_->resizeColumnsToContents();
        outcomes_->setColumnWidth(Name, kNameWidth);
    }
    const auto reached = std::count_if(listed_.begin(), listed_.end(), [&](const ChangeOutcome& o) {
        return target > 0 && o.reaches(target);
    });
    words_->setText(listed_.empty() ? tr("not tried yet")
                                    : tr("%1 tried, %2 reach the target of %3 rev/min; ◆ combines changes")
                                          .arg(listed_.size())
                                          .arg(reached)
                                          .arg(fixed(target, 0)));
    refresh();
}

void ChangesPanel::fill_row(int row, const ChangeOutcome& o, double target_rpm) {
    const QString name = (o.changes.size() > 1 ? tr("◆ ") : QString()) + phrase(o.label);
    outcomes_->set_cell(row, Name, name, false);
    outcomes_->item(row, Name)->setToolTip(name);
    if (!o.trouble.empty()) {
        for (int column = Limit; column < Notes; ++column)
            outcomes_->set_cell(row, column, QStringLiteral("–"));
        return outcomes_->set_cell(row, Notes, tr("cannot be: %1").arg(phrase(o.trouble)), false);
    }
    outcomes_->set_cell(row, Limit,
                        (o.limit_rpm ? speed_text(o.limit_rpm) : tr("beyond")) +
                            (target_rpm > 0 && o.reaches(target_rpm) ? tr(" ✓") : QString()));
    outcomes_->set_cell(row, Gain,
                        (o.beyond_range ? QStringLiteral("≥ ") : QString()) +
                            (o.gain_rpm > 0 ? QStringLiteral("+") : QString()) + fixed(o.gain_rpm, 0));
    const auto moved = [&](int column, const std::optional<double>& rpm, const std::optional<double>& gain) {
        outcomes_->set_cell(row, column,
                            !rpm    ? QStringLiteral("–")
                            : !gain ? speed_text(rpm)
                                    : QStringLiteral("%1%2")
                                          .arg(*gain < 0 ? QStringLiteral("−") : QStringLiteral("+"))
                                          .arg(fixed(std::abs(*gain), 0)));
        outcomes_->item(row, column)
            ->setToolTip(rpm ? tr("%1 rev/min").arg(speed_text(rpm)) : tr("not in the range"));
    };
    moved(Force, o.contact_loss_rpm, o.contact_loss_gain_rpm);
    moved(Onset, o.onset_rpm, o.onset_gain_rpm);
    outcomes_->set_cell(row, Band,
                        o.low_rpm && o.high_rpm
                            ? QStringLiteral("%1 … %2").arg(speed_text(o.low_rpm), speed_text(o.high_rpm))
                            : QStringLiteral("–"));
    outcomes_->set_cell(row, Bind, context_.units.number(Quantity::Length, o.bind_margin_m));
    outcomes_->set_cell(row, Seating,
                        o.seating_m_per_s
                            ? fixed(context_.units.value(Quantity::Velocity, *o.seating_m_per_s), 2)
                            : QStringLiteral("–"));
    outcomes_->set_cell(row, Cost, whole_or_dash(o.cost));
    outcomes_->set_cell(row, Hours, fixed(o.hours, 1));
    outcomes_->set_cell(row, CostPer, whole_or_dash(o.cost_per_100_rpm()));
    outcomes_->set_cell(row, Risk, fixed(o.risk(), 0));
    const QStringList notes = notes_of(o);
    outcomes_->set_cell(row, Notes, notes.join(QStringLiteral("; ")), false);
    outcomes_->item(row, Notes)->setToolTip(notes.join(QLatin1Char('\n')));
}

QStringList ChangesPanel::notes_of(const ChangeOutcome& o) const {
    QStringList notes;
    if (o.opposed())
        notes.push_back(tr("⇅ limit by contact loss %1, onset that a rig could see %2 rev/min")
                            .arg(fixed(*o.contact_loss_gain_rpm, 0))
                            .arg(fixed(*o.onset_gain_rpm, 0)));
    for (const Finding& f : o.raised)
        notes.push_back((f.severity == Severity::Stop ? tr("■ ") : tr("▲ ")) +
                        phrase(in_words(f, context_.units.choice())));
    for (const MeasuredText& near : o.near)
        notes.push_back(tr("near: ") + phrase(near.in_words(context_.units.choice())));
    if (o.cam_N)
        notes.push_back(tr("load at the cam %1").arg(context_.units.text(Quantity::Force, *o.cam_N)));
    if (o.stress_Pa)
        notes.push_back(tr("spring stress %1").arg(context_.units.text(Quantity::Pressure, *o.stress_Pa)));
    if (o.piston_m)
        notes.push_back(tr("piston clearance %1").arg(context_.units.text(Quantity::Length, *o.piston_m)));
    if (!o.school.empty())
        notes.push_back(tr("trade: ") + phrase(o.school));
    return notes;
}

} // namespace bathmos::app
