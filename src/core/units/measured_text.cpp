#include "core/units/measured_text.h"

#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr int kTypedDigits = 6;

// Shops read ".006", not "0.006".
std::string without_zero(std::string text, Quantity quantity, UnitSystem system) {
    if (quantity == Quantity::Length && system == UnitSystem::Inch) {
        if (text.starts_with("0."))
            return text.substr(1);
        if (text.starts_with("-0."))
            return "-" + text.substr(2);
    }
    return text;
}

std::string with_unit(std::string number, Quantity quantity, UnitSystem system) {
    const std::string_view unit = unit_of(quantity, system).name;
    return unit.empty() ? number : number + " " + std::string(unit);
}

} // namespace

std::string number_text(Quantity quantity, double si, UnitSystem system) {
    const Unit unit = unit_of(quantity, system);
    return without_zero(fmt::format("{:.{}f}", si / unit.to_si + 0.0, unit.decimals), quantity, system);
}

std::string quantity_text(Quantity quantity, double si, UnitSystem system) {
    return with_unit(number_text(quantity, si, system), quantity, system);
}

std::string typed_text(Quantity quantity, double si, UnitSystem system) {
    const Unit unit = unit_of(quantity, system);
    double value = si / unit.to_si;
    if (system == UnitSystem::Inch) { // converted: no more digits than the instrument had
        const double scale = std::pow(10.0, unit.decimals + 1);
        value = std::round(value * scale) / scale;
    }
    return without_zero(fmt::format("{:.{}g}", value, kTypedDigits), quantity, system);
}

std::string MeasuredText::in_words(UnitSystem system) const {
    std::string out;
    std::size_t from = 0;
    for (const Measured& value : values_) {
        const std::size_t at = pattern_.find("{}", from);
        if (at == std::string::npos)
            break;
        out += pattern_.substr(from, at - from);
        out += value.as == Measured::As::Typed      ? typed_text(value.quantity, value.si, system)
               : value.as == Measured::As::UnitOnly ? with_unit("", value.quantity, system)
                                                    : quantity_text(value.quantity, value.si, system);
        from = at + 2;
    }
    return out + pattern_.substr(from);
}

MeasuredText& MeasuredText::operator+=(const MeasuredText& more) {
    pattern_ += more.pattern_;
    values_.insert(values_.end(), more.values_.begin(), more.values_.end());
    return *this;
}

} // namespace bathmos
