#include "app/stations/rig/programme_table.h"

#include "app/text/words.h"
#include "app/widgets/number_field.h"
#include "core/problem/input_error.h"
#include "io/text/range_text.h"

#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSpinBox>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>

namespace bathmos::app {

namespace {

enum LegColumn { kKind, kRpm, kRate, kSeconds, kCycles };

QString number_text(double value) {
    return value > 0 ? digits(value, 8) : QString();
}

} // namespace

ProgrammeTable::ProgrammeTable(QWidget* parent)
    : QWidget(parent), steps_(new QLineEdit(QStringLiteral("3000:8000:250"))), cycles_(new QSpinBox),
      times_(new QSpinBox), legs_(new QTableWidget(0, 5)) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    auto* line = new QHBoxLayout;
    steps_->setObjectName(QStringLiteral("live_steps"));
    steps_->setAccessibleName(tr("Steps, FIRST:LAST:STEP in rev/min"));
    steps_->setToolTip(steps_->accessibleName());
    cycles_->setObjectName(QStringLiteral("live_cycles"));
    cycles_->setAccessibleName(tr("Good cycles at each step"));
    cycles_->setRange(8, 10000);
    cycles_->setValue(16);
    cycles_->setSuffix(tr(" cycles"));
    auto* fill = new QPushButton(tr("Make steps"));
    fill->setObjectName(QStringLiteral("live_make_steps"));
    connect(fill, &QPushButton::clicked, this, &ProgrammeTable::fill_steps);
    line->addWidget(steps_, 1);
    line->addWidget(cycles_);
    line->addWidget(fill);
    layout->addLayout(line);
    legs_->setObjectName(QStringLiteral("live_legs"));
    legs_->setTabKeyNavigation(false); // Tab leaves it, arrows go through it
    legs_->setAccessibleName(tr("The programme, leg by leg"));
    legs_->setHorizontalHeaderLabels({tr("leg"), tr("rev/min"), tr("ramp"), tr("seconds"), tr("cycles")});
    legs_->horizontalHeaderItem(kRate)->setToolTip(
        tr("rev/min a second on the way there; empty: as the rig likes"));
    legs_->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    legs_->verticalHeader()->setDefaultSectionSize(22);
    layout->addWidget(legs_, 1);
    auto* foot = new QHBoxLayout;
    auto* add = new QPushButton(tr("Add hold"));
    add->setObjectName(QStringLiteral("live_add_leg"));
    connect(add, &QPushButton::clicked, this, [this] {
        const double rpm = legs_->rowCount()
                               ? parse_number(legs_->item(legs_->rowCount() - 1, kRpm)->text()).value_or(5000)
                               : 5000;
        add_row({live::LegKind::Hold, rpm, 0, 10, 0});
    });
    auto* remove = new QPushButton(tr("Remove leg"));
    remove->setObjectName(QStringLiteral("live_remove_leg"));
    connect(remove, &QPushButton::clicked, this, [this] { legs_->removeRow(legs_->currentRow()); });
    times_->setObjectName(QStringLiteral("live_times"));
    times_->setAccessibleName(tr("How often, back to back"));
    times_->setRange(1, 100);
    times_->setPrefix(tr("run "));
    times_->setSuffix(tr(" ×"));
    foot->addWidget(add);
    foot->addWidget(remove);
    foot->addStretch(1);
    foot->addWidget(times_);
    layout->addLayout(foot);
    fill_steps();
}

void ProgrammeTable::add_row(const live::Leg& leg) {
    const int row = legs_->rowCount();
    legs_->insertRow(row);
    auto* kind = new QComboBox;
    kind->setAccessibleName(tr("What leg %1 is").arg(row + 1));
    kind->addItems({tr("step"), tr("ramp"), tr("hold")});
    kind->setCurrentIndex(static_cast<int>(leg.kind));
    legs_->setCellWidget(row, kKind, kind);
    legs_->setItem(row, kRpm, new QTableWidgetItem(number_text(leg.rpm)));
    legs_->setItem(row, kRate, new QTableWidgetItem(number_text(leg.rpm_per_s)));
    legs_->setItem(row, kSeconds, new QTableWidgetItem(number_text(leg.seconds)));
    legs_->setItem(row, kCycles, new QTableWidgetItem(number_text(static_cast<double>(leg.cycles))));
}

void ProgrammeTable::fill_steps() {
    try {
        const SpeedRange range = io::range_of(steps_->text().trimmed().toStdString());
        show_programme(live::steps_programme(range.first_rpm, range.last_rpm, range.step_rpm,
                                             static_cast<std::size_t>(cycles_->value())));
    } catch (const InputError& error) {
        emit message(phrase(error.what()));
    }
}

void ProgrammeTable::show_programme(const live::Programme& programme) {
    legs_->setRowCount(0);
    for (const live::Leg& leg : programme.legs)
        add_row(leg);
    times_->setValue(static_cast<int>(programme.times));
}

live::Programme ProgrammeTable::programme() const {
    live::Programme out;
    out.times = static_cast<std::size_t>(times_->value());
    const auto number = [&](int row, int column) {
        const QTableWidgetItem* item = legs_->item(row, column);
        const QString text = item ? item->text().trimmed() : QString();
        if (text.isEmpty())
            return 0.0;
        if (const auto value = parse_number(text))
            return *value;
        throw InputError(
            {"", "leg " + std::to_string(row + 1), text.toStdString() + " is no number", "give a number"});
    };
    for (int row = 0; row < legs_->rowCount(); ++row) {
        const auto* kind = static_cast<QComboBox*>(legs_->cellWidget(row, kKind));
        live::Leg leg;
        leg.kind = static_cast<live::LegKind>(kind->currentIndex());
        leg.rpm = number(row, kRpm);
        leg.rpm_per_s = number(row, kRate);
        leg.seconds = number(row, kSeconds);
        leg.cycles = static_cast<std::size_t>(std::max(0.0, number(row, kCycles)));
        out.legs.push_back(leg);
    }
    out.name = tr("programme of %1 legs").arg(out.legs.size()).toStdString();
    return out;
}

void ProgrammeTable::set_leg(int leg) {
    if (leg >= 0 && legs_->rowCount() > 0 && legs_->currentRow() != leg % legs_->rowCount())
        legs_->selectRow(leg % legs_->rowCount());
}

} // namespace bathmos::app
