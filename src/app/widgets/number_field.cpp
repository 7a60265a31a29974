#include "app/widgets/number_field.h"

#include "app/theme/theme.h"

#include <QHBoxLayout>
#include <cmath>

namespace bathmos::app {

std::optional<double> parse_number(const QString& text) {
    QString plain = text.trimmed();
    plain.replace(QLatin1Char(','), QLatin1Char('.'));
    bool ok = false;
    const double value = plain.toDouble(&ok);
    return ok && std::isfinite(value) ? std::optional(value) : std::nullopt;
}

NumberField::NumberField(DisplayUnits& units, Quantity quantity, const QString& key, const QString& label,
                         const QString& help, Complaint complaint, QWidget* parent)
    : QWidget(parent), units_(units), quantity_(quantity), help_(help), complaint_(std::move(complaint)),
      edit_(new QLineEdit(this)), unit_(new QLabel(this)) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    auto* name = new QLabel(label, this);
    name->setToolTip(help);
    name->setBuddy(edit_);
    row->addWidget(name, 1);
    edit_->setObjectName(key);
    edit_->setFont(Theme::number_font());
    edit_->setAlignment(Qt::AlignRight);
    edit_->setFixedWidth(96);
    row->addWidget(edit_);
    unit_->setFixedWidth(66);
    row->addWidget(unit_);
    relabel();
    connect(edit_, &QLineEdit::textEdited, this, &NumberField::typed);
    connect(edit_, &QLineEdit::editingFinished, this, [this] {
        if (problem_.isEmpty())
            show_value(si_);
    });
    connect(&units_, &DisplayUnits::changed, this, [this] {
        relabel();
        show_value(si_);
    });
}

void NumberField::relabel() {
    unit_->setText(units_.unit_name(quantity_));
    edit_->setAccessibleName(QStringLiteral("%1 %2").arg(
        static_cast<QLabel*>(layout()->itemAt(0)->widget())->text(), unit_->text()));
}

void NumberField::show_value(double si) {
    si_ = si;
    const std::optional<double> typed_now = parse_number(edit_->text());
    const double value = units_.value(quantity_, si);
    if (edit_->hasFocus() && typed_now && std::abs(*typed_now - value) <= 1e-9 * std::abs(value))
        return; // what stands there means this value; leave the user's own digits
    // File values are metric and shown as they are; their inch equivalents would else trail meaningless
    // digits.
    edit_->setText(QString::number(value, 'g', units_.system() == UnitSystem::Metric ? 7 : 5));
    show_problem({});
}

void NumberField::show_problem(const QString& problem) {
    problem_ = problem;
    edit_->setToolTip(problem.isEmpty() ? help_ : problem);
    edit_->setAccessibleDescription(problem);
    edit_->setProperty("problem", !problem.isEmpty());
    edit_->setStyleSheet(problem.isEmpty()
                             ? QString()
                             : QStringLiteral("QLineEdit { border: 2px dashed palette(bright-text); }"));
}

void NumberField::typed(const QString& text) {
    const std::optional<double> value = parse_number(text);
    if (!value)
        return show_problem(tr("\"%1\" is not a number").arg(text));
    const double si = *value * units_.unit(quantity_).to_si;
    const std::string complaint = complaint_(si / unit_of(quantity_).to_si);
    if (!complaint.empty())
        return show_problem(QString::fromStdString(complaint) + QLatin1Char(' ') +
                            QString::fromUtf8(unit_of(quantity_).name.data()));
    show_problem({});
    si_ = si;
    emit edited(si);
}

} // namespace bathmos::app
