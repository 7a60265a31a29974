// Every number of a train, described once: its key in the file, its words and unit on screen, its range.
// Reader, writer, editor and checks all go through this table, so they cannot disagree.
#pragma once

#include "core/train/train.h"
#include "core/units/units.h"

#include <optional>
#include <string_view>
#include <vector>

namespace bathmos {

/// A number of `Owner` (a Train or a Spring).
template <class Owner>
struct Field {
    std::string_view key;   ///< dotted path in the file, e.g. "pushrod.length_mm"
    std::string_view label; ///< words on screen
    Quantity quantity;
    double* (*at)(Owner&);             ///< the value in SI; null when the train has no such part
    double minimum = 0;                ///< in file units
    bool above_minimum = false;        ///< the minimum itself is not allowed
    double maximum = 1e12;             ///< in file units
    std::optional<double> otherwise{}; ///< file units; the key may be left out and then means this
    std::string_view help{};

    const double* at_const(const Owner& owner) const { return at(const_cast<Owner&>(owner)); }
    /// The value in file units. `owner` must have the part.
    double file_value(const Owner& owner) const { return *at_const(owner) / unit_of(quantity).to_si; }
    void set_file_value(Owner& owner, double value) const { *at(owner) = value * unit_of(quantity).to_si; }
    /// "" or what is wrong with a value in file units, e.g. "must be above 0".
    std::string complaint(double file_value) const;
};

using TrainField = Field<Train>;
using SpringField = Field<Spring>;

/// All single numbers of a train, in the order of the file. Lists (lobe table, ratio table, coils, springs)
/// apart.
const std::vector<TrainField>& train_fields();
/// All single numbers of a spring; keys relative to the spring.
const std::vector<SpringField>& spring_fields();

/// The field with this key, or null.
const TrainField* find_train_field(std::string_view key);

/// As the train file writes it: "pushrod".
std::string_view layout_name(Layout layout);

} // namespace bathmos
