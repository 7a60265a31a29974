#include "app/text/display_units.h"

#include "app/text/words.h"
#include "core/units/measured_text.h"

namespace bathmos::app {

void DisplayUnits::set_choice(const UnitChoice& choice) {
    if (choice == choice_)
        return;
    choice_ = choice;
    emit changed();
}

void DisplayUnits::toggle() {
    set_system(system() == UnitSystem::Metric ? UnitSystem::Inch : UnitSystem::Metric);
}

QString DisplayUnits::unit_name(Quantity quantity) const {
    const Unit u = unit(quantity);
    return QString::fromUtf8(u.name.data(), static_cast<qsizetype>(u.name.size()));
}

QString DisplayUnits::number(Quantity quantity, double si) const {
    return with_sign(words(number_text(quantity, si, choice_)));
}

QString DisplayUnits::typed(Quantity quantity, double si) const {
    return with_sign(words(typed_text(quantity, si, choice_)));
}

QString DisplayUnits::text(Quantity quantity, double si) const {
    return number(quantity, si) + QChar(0x2009) + unit_name(quantity);
}

QString DisplayUnits::metric_unit(Metric metric) const {
    const Quantity quantity = quantity_of(metric);
    if (quantity != Quantity::Count)
        return unit_name(quantity);
    return info(metric).unit == "deg" ? QStringLiteral("°") : QString();
}

double DisplayUnits::metric_value(Metric metric, double si) const {
    return value(quantity_of(metric), si);
}

QString number_or_dash(const std::optional<double>& value, int decimals) {
    return value ? fixed(*value, decimals) : QStringLiteral("–");
}

QString speed_text(const std::optional<double>& rpm) {
    return number_or_dash(rpm, 0);
}

QString free_again_text(const std::optional<FreeAgain>& free_again) {
    if (!free_again)
        return {};
    return QCoreApplication::translate("DisplayUnits", "nothing over a limit again from %1 to %2")
        .arg(speed_text(free_again->from_rpm), speed_text(free_again->to_rpm));
}

} // namespace bathmos::app
