#include "app/shell/limits_dialog.h"

#include "app/text/words.h"
#include "core/problem/input_error.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

namespace bathmos::app {

namespace {
const char* const kOwn = "as chosen here"; // in records
} // namespace

LimitsDialog::LimitsDialog(const LimitSet& now, const Project& project, const DisplayUnits& units,
                           QWidget* parent)
    : QDialog(parent), units_(units), now_(now), name_(new QComboBox), reason_(new QLineEdit),
      note_(new QLabel), verdict_(new QLabel), buttons_(new QDialogButtonBox) {
    setObjectName(QStringLiteral("limits_dialog"));
    setWindowTitle(tr("Limits in force"));
    auto* layout = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    layout->addLayout(form);
    name_->setObjectName(QStringLiteral("limits_name"));
    name_->setAccessibleName(tr("Set of limits"));
    for (const NamedLimits& named : named_limits())
        name_->addItem(words(named.set.name));
    name_->addItem(tr("as chosen here"));
    form->addRow(tr("Set"), name_);
    note_->setWordWrap(true);
    form->addRow(QString(), note_);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(12);
    int row = 0;
    for (const Limit& limit : LimitsInForce{})
        add_row(grid, row++, limit);
    layout->addLayout(grid);
    auto* below = new QFormLayout;
    check_lift_ = number_box(QStringLiteral("limits_check_lift"), tr("Lift at which duration is checked"),
                             Metric::Loft, 0);
    check_lift_->setToolTip(
        tr("At the valve; opening, closing and duration are read there. 1.27 mm is 0.050 in."));
    below->addRow(tr("Duration is checked at"), check_lift_);
    reason_->setObjectName(QStringLiteral("limits_reason"));
    reason_->setAccessibleName(tr("Why these limits"));
    reason_->setPlaceholderText(tr("it stands in the record, beside every result"));
    connect(reason_, &QLineEdit::textChanged, this, &LimitsDialog::check);
    below->addRow(tr("Why"), reason_);
    layout->addLayout(below);
    auto* before = new QLabel(history(project));
    before->setObjectName(QStringLiteral("limits_history"));
    before->setWordWrap(true);
    layout->addWidget(before);
    verdict_->setObjectName(QStringLiteral("limits_verdict"));
    verdict_->setWordWrap(true);
    layout->addWidget(verdict_);
    buttons_->addButton(tr("Judge by these"), QDialogButtonBox::AcceptRole)
        ->setObjectName(QStringLiteral("limits_accept"));
    buttons_->addButton(tr("Cancel"), QDialogButtonBox::RejectRole);
    connect(buttons_, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons_, &QDialogButtonBox::rejected, this, &QDialog::reject);
    layout->addWidget(buttons_);
    connect(name_, &QComboBox::activated, this, [this](int index) {
        if (index < static_cast<int>(named_limits().size()))
            show_set(named_limits()[static_cast<std::size_t>(index)].set);
        check();
    });
    show_set(now);
    check();
}

QDoubleSpinBox* LimitsDialog::number_box(const QString& name, const QString& label, Metric metric,
                                         double low) {
    auto* box = new QDoubleSpinBox;
    box->setObjectName(name);
    box->setAccessibleName(label);
    const bool inch = units_.metric_unit(metric) == QStringLiteral("in");
    box->setDecimals(inch ? 4 : 3);
    box->setSingleStep(inch ? 0.001 : 0.05);
    box->setRange(low, 1000);
    box->setSuffix(QLatin1Char(' ') + units_.metric_unit(metric));
    connect(box, &QDoubleSpinBox::valueChanged, this, &LimitsDialog::check);
    return box;
}

void LimitsDialog::add_row(QGridLayout* grid, int row, const Limit& usual) {
    const QString label = phrase(info(usual.metric).label), key = words(usual.key);
    Row made{usual, new QCheckBox(label), nullptr, nullptr};
    made.counts->setObjectName(QStringLiteral("limits_counts_") + key);
    connect(made.counts, &QCheckBox::toggled, this, &LimitsDialog::check);
    made.above =
        number_box(QStringLiteral("limits_above_") + key, tr("%1, at most").arg(label), usual.metric, 0);
    grid->addWidget(made.counts, row, 0);
    grid->addWidget(new QLabel(usual.from_low_speed ? tr("more than at low speed, at most") : tr("at most")),
                    row, 1);
    grid->addWidget(made.above, row, 2);
    if (usual.below) {
        made.below = number_box(QStringLiteral("limits_below_") + key, tr("%1, at least").arg(label),
                                usual.metric, -1000);
        grid->addWidget(new QLabel(tr("at least")), row, 3);
        grid->addWidget(made.below, row, 4);
    }
    rows_.push_back(made);
}

double LimitsDialog::on_screen(Metric metric, double in_file_unit) const {
    return units_.metric_value(metric, in_file_unit / info(metric).to_unit);
}

double LimitsDialog::in_file(Metric metric, double on_screen_value) const {
    const double one = on_screen(metric, 1);
    return std::round(on_screen_value / one * 1e5) / 1e5; // an inch typed is not a micron's worth of digits
}

void LimitsDialog::show_set(const LimitSet& set) {
    filling_ = true;
    for (Row& row : rows_) {
        const LimitRow* there = nullptr;
        for (const LimitRow& one : set.rows)
            if (one.metric == row.usual.key)
                there = &one;
        row.counts->setChecked(there != nullptr);
        row.above->setValue(on_screen(row.usual.metric, there ? there->above : row.usual.above));
        if (row.below)
            row.below->setValue(
                on_screen(row.usual.metric, there && there->below ? *there->below : *row.usual.below));
    }
    check_lift_->setValue(on_screen(Metric::Loft, set.check_lift_m * 1e3));
    filling_ = false;
}

// What stands in the boxes; a number that nobody touched keeps its digits.
LimitSet LimitsDialog::values() const {
    LimitSet out;
    for (const Row& row : rows_) {
        if (!row.counts->isChecked())
            continue;
        LimitRow one{std::string(row.usual.key), in_file(row.usual.metric, row.above->value()), {}};
        if (row.below)
            one.below = in_file(row.usual.metric, row.below->value());
        out.rows.push_back(one);
    }
    out.check_lift_m = in_file(Metric::Loft, check_lift_->value()) * 1e-3;
    return out;
}

LimitSet LimitsDialog::chosen() const {
    const LimitSet typed = values();
    const auto same = [&](const LimitSet& set) {
        if (set.rows.size() != typed.rows.size() || std::abs(set.check_lift_m - typed.check_lift_m) > 2e-6)
            return false;
        for (std::size_t i = 0; i < set.rows.size(); ++i) {
            const LimitRow &a = set.rows[i], &b = typed.rows[i];
            if (a.metric != b.metric || std::abs(a.above - b.above) > 2e-3 ||
                std::abs(a.below.value_or(0) - b.below.value_or(0)) > 2e-3)
                return false;
        }
        return true;
    };
    for (const NamedLimits& named : named_limits())
        if (same(named.set))
            return named.set;
    LimitSet out = typed;
    out.name = same(now_) ? now_.name : kOwn;
    return out;
}

QString LimitsDialog::reason() const {
    return reason_->text().trimmed();
}

void LimitsDialog::check() {
    if (filling_)
        return;
    const LimitSet set = chosen();
    const NamedLimits* named = find_named_limits(set.name);
    name_->setCurrentText(words(set.name));
    note_->setText(named ? phrase(named->note) : tr("Numbers of your own."));
    for (const Row& row : rows_) {
        row.above->setEnabled(row.counts->isChecked());
        if (row.below)
            row.below->setEnabled(row.counts->isChecked());
    }
    QString trouble;
    try {
        in_force(set);
    } catch (const InputError& error) {
        trouble = phrase(error.what());
    }
    if (trouble.isEmpty() && reason().isEmpty())
        trouble = tr("Say why, in a word or two.");
    verdict_->setText(trouble.isEmpty()
                          ? tr("All results are computed anew by these limits; the old ones are kept with "
                               "their set's name. Undo goes back.")
                          : trouble);
    if (auto* accept = findChild<QPushButton*>(QStringLiteral("limits_accept")))
        accept->setEnabled(trouble.isEmpty());
}

// The choices before this one, newest first.
QString LimitsDialog::history(const Project& project) {
    QStringList out;
    for (auto at = project.limits.rbegin(); at != project.limits.rend() && out.size() < 4; ++at)
        out.push_back(tr("%1%2%3").arg(
            words(at->second.name),
            at->second.when.empty() ? QString() : tr(" since %1").arg(words(at->second.when).left(10)),
            at->second.reason.empty() ? QString() : tr(": %1").arg(words(at->second.reason))));
    return out.isEmpty() ? tr("In force: usual, since the project began.")
                         : tr("In force: ") + out.join(tr("; before: "));
}

} // namespace bathmos::app
