#include "app/widgets/tolerance_popup.h"

#include "app/text/words.h"
#include "app/widgets/number_field.h"
#include "core/start/assumption_rules.h"

#include <QComboBox>
#include <QVBoxLayout>

namespace bathmos::app {

QString source_sign(const UncertainInput& input) {
    switch (input.tolerance.source) {
    case Source::Scale:
    case Source::Gauge:
    case Source::Tester:
        return QStringLiteral("●");
    case Source::Sheet:
        return QStringLiteral("▭");
    case Source::Fitted:
        return QStringLiteral("◇");
    case Source::Estimate:
        break;
    }
    return input.usual ? QStringLiteral("≈") : QStringLiteral("?");
}

QString source_words(const DisplayUnits& units, Quantity quantity, const UncertainInput& input) {
    const QString off =
        units.typed(quantity, input.tolerance.plus_minus) + QLatin1Char(' ') + units.unit_name(quantity);
    const bool assumed = input.tolerance.source == Source::Estimate && !input.usual;
    QString out =
        assumed ? TolerancePopup::tr("assumed, ± %1").arg(off)
        : input.usual
            ? TolerancePopup::tr("%1, ± %2 as usual").arg(phrase(source_name(input.tolerance.source)), off)
            : TolerancePopup::tr("%1, ± %2").arg(phrase(source_name(input.tolerance.source)), off);
    if (const QString rule = phrase(rule_of(input.key)); assumed && !rule.isEmpty())
        out += TolerancePopup::tr("\nRule: %1. A number typed here counts as known.").arg(rule);
    return out;
}

QComboBox* source_box(const QString& name, const QString& spoken) {
    auto* out = new QComboBox;
    out->setObjectName(name);
    out->setAccessibleName(spoken);
    for (const Source one :
         {Source::Scale, Source::Gauge, Source::Tester, Source::Sheet, Source::Estimate, Source::Fitted})
        out->addItem(phrase(source_name(one)));
    return out;
}

TolerancePopup::TolerancePopup(DisplayUnits& units, Quantity quantity, const UncertainInput& input,
                               QWidget* parent)
    : QFrame(parent, Qt::Popup), tolerance_(input.tolerance) {
    setObjectName(QStringLiteral("tolerance_popup"));
    setAttribute(Qt::WA_DeleteOnClose);
    setFrameShape(QFrame::StyledPanel);
    auto* layout = new QVBoxLayout(this);
    auto* told = new QLabel(source_words(units, quantity, input));
    told->setWordWrap(true);
    told->setMaximumWidth(320);
    layout->addWidget(told);
    QComboBox* source = source_box(QStringLiteral("popup_source"), tr("Where the number is known from"));
    source->setCurrentIndex(static_cast<int>(tolerance_.source));
    layout->addWidget(source);
    auto* off = new NumberField(units, quantity, QStringLiteral("popup_plus_minus"), tr("±"),
                                tr("Two standard deviations. 0 counts as exact."), [](double value) {
                                    return value >= 0 ? std::string() : std::string("must be at least 0");
                                });
    off->show_value(tolerance_.plus_minus);
    layout->addWidget(off);
    connect(source, &QComboBox::activated, this, [this](int index) {
        tolerance_.source = static_cast<Source>(index);
        emit chosen(tolerance_);
    });
    connect(off, &NumberField::edited, this, [this](double si) {
        tolerance_.plus_minus = si;
        emit chosen(tolerance_);
    });
    connect(off->edit(), &QLineEdit::returnPressed, this, &QWidget::close);
    off->edit()->setFocus();
    off->edit()->selectAll();
}

} // namespace bathmos::app
