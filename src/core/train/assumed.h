// Numbers of a train that nobody has measured: they were assumed, and stay marked so until somebody does.
#pragma once

#include "core/train/train.h"
#include "core/units/units.h"

#include <string>
#include <vector>

namespace bathmos {

/// A number whose tolerance was set with the source *estimate*. What every train has to estimate (contacts,
/// damping, friction) is none of these, as long as nobody wrote a tolerance for it.
struct AssumedNumber {
    std::string key, label; ///< as UncertainInput
    double value = 0;       ///< SI; 1 for a load table's factor
    double plus_minus = 0;  ///< SI
    Quantity quantity = Quantity::Count;
};

/// In the order of the train file; keys that this train does not have are left out.
std::vector<AssumedNumber> assumed_numbers(const Train& train);

/// Where a number was assumed it no longer is: its tolerance is the usual one of its kind again.
void count_as_known(Train& train, const std::string& key);

} // namespace bathmos
