#include "app/start/known_number.h"

#include "app/text/words.h"
#include "app/theme/theme.h"
#include "app/widgets/number_field.h"
#include "core/start/assumption_rules.h"

#include <QHBoxLayout>
#include <cmath>

namespace bathmos::app {

KnownNumber::KnownNumber(DisplayUnits& units, const StartField& field, QWidget* parent)
    : QWidget(parent), units_(units), field_(field), edit_(new QLineEdit),
      name_(new QLabel(phrase(field.label))), unit_(new QLabel) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    name_->setBuddy(edit_);
    row->addWidget(name_, 1);
    edit_->setObjectName(QStringLiteral("known_") + words(field.key));
    edit_->setFont(Theme::number_font());
    edit_->setAlignment(Qt::AlignRight);
    edit_->setFixedWidth(150);
    row->addWidget(edit_);
    unit_->setFixedWidth(56);
    row->addWidget(unit_);
    relabel();
    show_problem({});
    connect(edit_, &QLineEdit::textEdited, this, &KnownNumber::typed);
    connect(edit_, &QLineEdit::returnPressed, this, [this] { focusNextChild(); });
    connect(&units_, &DisplayUnits::changed, this, [this] {
        relabel();
        show_known(known_);
        show_assumed(stand_in_);
    });
}

void KnownNumber::relabel() {
    unit_->setText(field_.key == "engine.target_rpm" ? tr("rev/min") : units_.unit_name(field_.quantity));
    edit_->setAccessibleName(QStringLiteral("%1 %2").arg(name_->text(), unit_->text()));
}

void KnownNumber::show_known(const std::optional<double>& si) {
    known_ = si;
    typed_problem_.clear();
    edit_->setText(si ? units_.typed(field_.quantity, *si) : QString());
    show_problem({});
}

void KnownNumber::show_assumed(const std::optional<StandIn>& stand_in) {
    stand_in_ = stand_in;
    const auto number = [&](double value) {
        const double shown = units_.value(field_.quantity, value);
        return std::abs(shown) >= 1000 ? fixed(shown, 0) : digits(shown, 3);
    };
    const QString assumed = !stand_in ? QString()
                            : stand_in->plus_minus > 0
                                ? tr("%1 ± %2").arg(number(stand_in->value), number(stand_in->plus_minus))
                                : number(stand_in->value);
    edit_->setPlaceholderText(stand_in ? QStringLiteral("? ") + assumed : tr("not known"));
    edit_->setAccessibleDescription(edit_->property("problem").toBool() ? edit_->toolTip()
                                    : known_                            ? QString()
                                    : stand_in ? tr("not known, assumed %1").arg(assumed)
                                               : tr("not known"));
}

void KnownNumber::show_problem(const QString& problem) {
    problem_ = problem;
    show_help();
}

void KnownNumber::show_help() {
    const QString problem = typed_problem_.isEmpty() ? problem_ : typed_problem_;
    const QString rule = phrase(rule_of(field_.key));
    QString help = phrase(field_.help);
    if (!rule.isEmpty())
        help += (help.isEmpty() ? QString() : QStringLiteral("\n")) +
                tr("Left empty it is assumed: %1.").arg(rule);
    edit_->setToolTip(problem.isEmpty() ? help : problem);
    edit_->setAccessibleDescription(problem);
    edit_->setProperty("problem", !problem.isEmpty());
    edit_->setStyleSheet(problem.isEmpty()
                             ? QString()
                             : QStringLiteral("QLineEdit { border: 2px dashed palette(bright-text); }"));
}

void KnownNumber::typed(const QString& text) {
    known_.reset();
    typed_problem_.clear();
    if (!text.trimmed().isEmpty()) {
        const std::optional<double> value = parse_number(text);
        const double si = value ? *value * units_.unit(field_.quantity).to_si : 0;
        const std::string complaint =
            value ? start_complaint(field_.key, si / unit_of(field_.quantity).to_si) : std::string();
        if (!value)
            typed_problem_ = tr("\"%1\" is not a number").arg(text);
        else if (!complaint.empty())
            typed_problem_ = phrase(complaint) + QLatin1Char(' ') + words(unit_of(field_.quantity).name);
        else
            known_ = si;
    }
    show_problem({});
    emit changed();
}

} // namespace bathmos::app
