// What a fit to a run has found out, carried to other trains that have some of the same parts.
#pragma once

#include "core/train/train.h"

#include <string>
#include <string_view>
#include <vector>

namespace bathmos {

/// A train as it was believed and as it was fitted to a run. What was found out are the numbers that have the
/// source *fitted* in the one and had not, or another tolerance, in the other; whatever else differs between
/// them is a change of the train, and nothing that a run has said.
struct CarriedFit {
    std::string source; ///< "fitted to run 3, ..": for a person
    Train believed, fitted;
    bool operator==(const CarriedFit&) const = default;
};

/// Whether a number, by its key or a calibration's, belongs to a part that is the same in both trains.
bool shares_number(const Train& a, const Train& b, std::string_view key);

/// Keys of the numbers that a fit has found out.
std::vector<std::string> found_numbers(const CarriedFit& fit);
/// Those of them that hold for a train, too: of parts that it has as they were believed.
std::vector<std::string> carried_numbers(const Train& train, const CarriedFit& fit);

/// The train with those numbers, their tolerances and the options of the model that the fit switched on; the
/// train itself where that would make none.
Train with_fit(const Train& train, const CarriedFit& fit);

} // namespace bathmos
