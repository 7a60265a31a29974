// Readings as they are typed: one number, or repeats with blanks between, in the unit of the screen.
#pragma once

#include "app/text/display_units.h"

#include <optional>
#include <vector>

namespace bathmos::app {

/// "12.30  12.34" for repeats of one reading, "" for none.
QString readings_text(const DisplayUnits& units, Quantity quantity, const std::vector<double>& readings_si);
/// The same back; empty where something in it is no number.
std::optional<std::vector<double>> parse_readings(const DisplayUnits& units, Quantity quantity,
                                                  const QString& text);

} // namespace bathmos::app
