// What a measuring device says in a line of text: its numbers, in SI, by a pattern that somebody gave it
// (docs/bench.md, Instruments).
#pragma once

#include "core/units/units.h"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace bathmos::instrument {

/// One number in the lines of a device.
struct Channel {
    std::string label; ///< "height"
    Quantity quantity = Quantity::Length;
    std::string before{};  ///< text in front of the number, any case; "": the next number of the line
    std::string unit{};    ///< where the line names none; "": as in files
    bool reversed = false; ///< the device counts the other way
    std::vector<std::string> feeds{}; ///< keys of a sheet that it reads; empty: whatever has its quantity
    bool operator==(const Channel&) const = default;
};

enum class LineState { Value, Overload, Nonsense };

/// What one line says. `values_si` is as long as the channels where the state is Value, else empty.
struct LineReading {
    LineState state = LineState::Nonsense;
    std::vector<std::optional<double>> values_si; ///< empty: the line does not have it just now
    std::string why;                              ///< what is wrong with it; "" where all of it was read
};

/// Reads a line by its channels, in their order. A comma is a decimal sign where the line has no point
/// between digits. A unit that follows the number counts before the channel's own; one of another quantity is
/// no value, and so is a number missing or beyond what a bench reads; a line without any value is nonsense.
/// "OL", "over", "ovl", "----", "++++" without numbers are an overload.
LineReading read_line(std::string_view line, const std::vector<Channel>& channels);

/// Factor to SI of a unit as devices write it ("mm", "kgf", "in"), for a quantity; empty where it is not one
/// of it. Temperatures have a zero of their own besides.
std::optional<double> unit_factor(std::string_view unit, Quantity quantity);
/// Whether a word is a unit of length, mass, force, angle or time.
bool is_unit(std::string_view word);
/// The units that devices give this quantity in, the file's own first.
std::vector<std::string> units_of(Quantity quantity);

} // namespace bathmos::instrument
