// Messages that carry their values with units, so that they read in the units of the screen: the core says
// what, the screen says in which unit.
#pragma once

#include "core/units/units.h"

#include <string>
#include <variant>
#include <vector>

namespace bathmos {

/// A number with so many digits as its quantity deserves, in fixed decimals; inch lengths below one without
/// the leading zero, ".006".
std::string number_text(Quantity quantity, double si, const UnitChoice& units = {});
/// The same with its unit: "1.270 mm", ".050 in", "831 rev/min" has none.
std::string quantity_text(Quantity quantity, double si, const UnitChoice& units = {});
/// A number that somebody typed or that stands in a file: its own digits, six at most, no trailing zeros.
std::string typed_text(Quantity quantity, double si, const UnitChoice& units = {});

/// A value that a text speaks of.
struct Measured {
    Quantity quantity = Quantity::Count;
    double si = 0;
    /// Typed: its own digits and no unit; UnitOnly: a blank and the unit, behind several numbers of one.
    enum class As { Fixed, Typed, UnitOnly } as = As::Fixed;
};

/// A text with values in it. Plain text stays as it is, also where a person put braces into a name.
class MeasuredText {
  public:
    MeasuredText() = default;
    MeasuredText(std::string plain);
    MeasuredText(const char* plain) : MeasuredText(std::string(plain)) {}
    /// Each "{}" of the pattern stands for the next value, as long as there is one.
    MeasuredText(const std::string& pattern, const std::vector<Measured>& values);

    /// With its values as numbers of so many digits as their quantities deserve.
    std::string in_words(const UnitChoice& units = {}) const;
    /// In metric units, for files and the command line.
    operator std::string() const { return in_words(); }
    bool empty() const { return pieces_.empty(); }
    MeasuredText& operator+=(MeasuredText more);
    friend MeasuredText operator+(MeasuredText a, const MeasuredText& b) { return a += b; }

  private:
    std::vector<std::variant<std::string, Measured>> pieces_;
};

} // namespace bathmos
