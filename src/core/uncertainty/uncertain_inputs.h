// Which numbers of a train may be off, by how much, and trains that differ by that.
#pragma once

#include "core/train/train.h"
#include "core/units/units.h"

#include <vector>

namespace bathmos {

/// Every number of the train that is not known exactly: the user's tolerance, or the usual one of its source
/// (masses from a scale, loads from a tester, dimensions from a gauge, moduli from a sheet; contact and joint
/// stiffness, damping and friction are estimates).
std::vector<UncertainInput> uncertain_inputs(const Train& train);

/// The train with one number moved by `off` times its tolerance, kept within what the number may be.
Train moved(Train train, const UncertainInput& input, double off);

/// The number itself, SI; 1 for a load table's factor. Empty if the train has no such number.
std::optional<double> value_of(const Train& train, const std::string& key);

/// Puts a number in its place, SI; nothing happens for a load table or where there is no such number.
void set_value(Train& train, const std::string& key, double si);

/// SI over the unit that the number has in a train file; empty if the train has no such number.
std::optional<double> unit_of_value(const Train& train, const std::string& key);
/// The quantity of the number; Count for a load table's factor.
Quantity quantity_of_value(const Train& train, const std::string& key);

} // namespace bathmos
