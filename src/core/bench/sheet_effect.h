// What a bench sheet would change of a train, number by number with its tolerance and source, and which open
// checks it answers.
#pragma once

#include "core/bench/geometry_fit.h"
#include "core/bench/height_sheet.h"
#include "core/bench/keyed_sheet.h"
#include "core/bench/ratio_sheet.h"
#include "core/bench/spring_sheet.h"
#include "core/bench/stiffness_sheet.h"
#include "core/fit/recheck.h"

#include <set>

namespace bathmos::bench {

/// One number as it is in the train and as the sheet has it, SI; the tolerance is two deviations.
struct SheetChange {
    std::string key; ///< as in the train file; "springs[0].load_table" puts the whole spring as tested,
                     ///< "rocker.ratio_table" the ratio along the lift
    std::string label;
    Quantity quantity = Quantity::Count;
    double before = 0, after = 0;
    Tolerance tolerance{};
    std::optional<Spring> spring{};    ///< where the whole spring is put
    std::optional<RatioTable> table{}; ///< where a ratio along the lift is put
    bool operator==(const SheetChange&) const = default;
};

struct SheetEffect {
    std::vector<SheetChange> changes;
    std::vector<Check> closes;
};

/// The spring at a place of the train, as tested: its load table without rub, solid height (the train's where
/// it was not reached) and rub; active and dead coils share what was weighed as they do in the train's
/// spring, else weigh what they do there. Only where the installed height was read, and nothing is told of
/// the entries. Closes the seat load, and the bind margin where solid was reached.
SheetEffect effect_of(const SpringSheet& sheet, const SpringFigures& figures, const Train& train,
                      std::size_t spring);
/// "not_as_believed" where what was weighed is over 5 % off the train's spring.
std::optional<Told> told_of_mass(const SpringSheet& sheet, const Spring& spring);
/// The installed height with its shims.
SheetEffect effect_of(const HeightFigures& figures, const Train& train);
/// The ratio along the lift where it varies, else a fixed one where the train has such; closes the check of
/// the ratio also where the train has another kind. None where a dial has moved.
SheetEffect effect_of(const RatioFigures& figures, const Train& train);
/// The pushrod's length that shows the lifts read, where that is beyond what it is known to.
SheetEffect effect_of(const GeometryFit& fit, const Train& train);
/// One of the stiffnesses that a train has: "rocker.stiffness_N_per_mm", "pushrod.stiffness_N_per_mm".
SheetEffect effect_of(const StiffnessFigures& figures, const Train& train, const std::string& key);
/// Those of its numbers that the train has, and its checks.
SheetEffect effect_of(const KeyedAnswer& answer, const Train& train);
/// The rocker's inertia.
SheetEffect effect_of_inertia(const Figure& inertia_kg_m2, const Train& train);

/// The train with those of the changes whose keys are `taken`.
Train with_changes(Train train, const SheetEffect& effect, const std::set<std::string>& taken);

} // namespace bathmos::bench
