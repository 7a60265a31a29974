// What a fit to a run has found out, carried to other trains that have some of the same parts.
#pragma once

#include "core/train/train.h"

#include <string>
#include <string_view>
#include <vector>

namespace bathmos {

/// A train as it was believed and as it was fitted to a run; numbers with the source *fitted* are what was
/// found out.
struct CarriedFit {
    std::string source; ///< "fitted to run 3, ..": for a person
    Train believed, fitted;
    bool operator==(const CarriedFit&) const = default;
};

/// Whether a number, by its key or a calibration's, belongs to a part that is the same in both trains.
bool shares_number(const Train& a, const Train& b, std::string_view key);

/// Keys of the fitted numbers that hold for a train, too: those of parts that it has as they were believed.
std::vector<std::string> carried_numbers(const Train& train, const CarriedFit& fit);

/// The train with those numbers, their tolerances and the options of the model that the fit switched on; the
/// train itself where that would make none.
Train with_fit(const Train& train, const CarriedFit& fit);

} // namespace bathmos
