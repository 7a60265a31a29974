// The numbers of a train that a run may tell more of than the bench did, and how far belief lets them go
// (docs/calibration.md, Numbers and priors).
#pragma once

#include "core/train/train.h"
#include "core/units/units.h"

#include <optional>
#include <string>
#include <vector>

namespace bathmos {

/// A number that a calibration may move. `key`: as in the train file; one that moves all springs alike begins
/// with "springs.", and "springs.load" is a factor on their loads.
struct FreeNumber {
    std::string key, label;
    bool logarithmic; ///< moved by a factor, as offset in natural logarithms; else by an amount, SI
    double prior_sd;  ///< one standard deviation of belief, in the offset's unit
    Quantity quantity;
    std::string bench; ///< what would tell it where a run does not, in words
    /// Where two trains are fitted together: the one that it moves; empty for both.
    std::optional<std::size_t> only{};
    bool moves(std::size_t train) const { return !only || *only == train; }
    bool of_other() const { return only.value_or(0) > 0; } ///< the second train's alone
};

/// The train with the options of the model that a run can see: camshaft torsion, elastic valve, lash from the
/// loaded rest (solid followers), a rig's drive ripple. What the train names already stays.
Train with_run_options(Train train);

/// The numbers of a train with run options that a run may tell of; priors from the train's own tolerances
/// where it has them, else from what is usual. With `keys` only those; throws InputError for a key that is
/// none.
std::vector<FreeNumber> free_numbers(const Train& train, const std::vector<std::string>& keys = {});

/// The numbers of two trains that are fitted together: one for both where the part that it belongs to did not
/// change, else one for each. An installed height hangs on springs, retainer and locks too; a lash is set
/// anew with every change. A key of `keys` may be of either; throws InputError for one that is of neither.
std::vector<FreeNumber> joint_numbers(const Train& first, const Train& second,
                                      const std::vector<std::string>& keys = {});

/// The number's value, SI; 1 for "springs.load"; of the first spring where it moves all.
double value_of(const Train& train, const FreeNumber& number);

/// Its key; "other." before it where it is the other train's alone.
std::string name_of(const FreeNumber& number);
/// Its label; ", other" behind it where it is the other train's alone.
std::string label_of(const FreeNumber& number);

/// Moves the number by an offset in its own unit, kept within what the number may be.
void move_number(Train& train, const FreeNumber& number, double offset);

/// Writes the standard deviation of an offset into the train's tolerances, source fitted.
void note_tolerance(Train& train, const FreeNumber& number, double sd);

} // namespace bathmos
