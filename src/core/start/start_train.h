// A train from what is known, the rest assumed by rules (assumption_rules.h) and marked as that.
#pragma once

#include "core/start/known_train.h"
#include "core/train/train_figures.h"

namespace bathmos {

struct StartedTrain {
    /// Valid; whatever was assumed has a tolerance with the source *estimate* (assumed.h).
    Train train;
    std::optional<double> target_rpm;
    /// Where what is known does not agree with itself, in words.
    std::vector<std::string> doubts;
};

/// Springs from what is known: one coil spring where wire and outer diameter agree with loads and solid
/// height, else a table of loads along their rate. Active mass by the work stored at full lift over what
/// spring steel stores at a shear stress of 900 MPa with Wahl's factor 1.25 [Wahl], where no mass is known.
/// Throws InputError: location is the StartField's key, or "card.…".
StartedTrain start_train(const KnownTrain& known);

/// What is taken for a number that nobody knows, SI. `plus_minus` 0: it follows from numbers that are known.
struct StandIn {
    double value = 0, plus_minus = 0;
};
/// By the StartField's key; `figures` of the started train. Empty where nothing stands for it: a target, wire
/// and diameter of springs that were taken by their loads.
std::optional<StandIn> stands_for(const StartedTrain& started, const TrainFigures& figures,
                                  std::string_view key);

} // namespace bathmos
