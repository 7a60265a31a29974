#include "core/units/measured_text.h"

#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr int kTypedDigits = 6;

// Shops read ".006", not "0.006".
std::string without_zero(std::string text, Quantity quantity, const UnitChoice& units) {
    if (quantity == Quantity::Length && units.of(quantity) == UnitSystem::Inch) {
        if (text.starts_with("0."))
            return text.substr(1);
        if (text.starts_with("-0."))
            return "-" + text.substr(2);
    }
    return text;
}

std::string with_unit(std::string number, Quantity quantity, const UnitChoice& units) {
    const std::string_view unit = unit_of(quantity, units).name;
    return unit.empty() ? number : number + " " + std::string(unit);
}

} // namespace

std::string number_text(Quantity quantity, double si, const UnitChoice& units) {
    const Unit unit = unit_of(quantity, units);
    return without_zero(fmt::format("{:.{}f}", si / unit.to_si + 0.0, unit.decimals), quantity, units);
}

std::string quantity_text(Quantity quantity, double si, const UnitChoice& units) {
    return with_unit(number_text(quantity, si, units), quantity, units);
}

std::string typed_text(Quantity quantity, double si, const UnitChoice& units) {
    const Unit unit = unit_of(quantity, units);
    double value = si / unit.to_si;
    if (units.of(quantity) == UnitSystem::Inch) { // converted: no more digits than the instrument had
        const double scale = std::pow(10.0, unit.decimals + 1);
        value = std::round(value * scale) / scale;
    }
    return without_zero(fmt::format("{:.{}g}", value, kTypedDigits), quantity, units);
}

MeasuredText::MeasuredText(std::string plain) {
    if (!plain.empty())
        pieces_.emplace_back(std::move(plain));
}

MeasuredText::MeasuredText(const std::string& pattern, const std::vector<Measured>& values) {
    std::size_t from = 0;
    for (const Measured& value : values) {
        const std::size_t at = pattern.find("{}", from);
        if (at == std::string::npos)
            break;
        *this += pattern.substr(from, at - from);
        pieces_.emplace_back(value);
        from = at + 2;
    }
    *this += pattern.substr(from);
}

std::string MeasuredText::in_words(const UnitChoice& units) const {
    std::string out;
    for (const auto& piece : pieces_) {
        if (const auto* plain = std::get_if<std::string>(&piece)) {
            out += *plain;
            continue;
        }
        const Measured& value = std::get<Measured>(piece);
        out += value.as == Measured::As::Typed      ? typed_text(value.quantity, value.si, units)
               : value.as == Measured::As::UnitOnly ? with_unit("", value.quantity, units)
                                                    : quantity_text(value.quantity, value.si, units);
    }
    return out;
}

MeasuredText& MeasuredText::operator+=(MeasuredText more) {
    for (auto& piece : more.pieces_)
        pieces_.push_back(std::move(piece));
    return *this;
}

} // namespace bathmos
