// Readings as they are taken at the bench: repeats, zero before and after, the instrument's own error; and
// what they say (docs/bench.md, A reading).
#pragma once

#include "core/units/told.h"

#include <cstddef>
#include <limits>
#include <optional>
#include <string>
#include <vector>

namespace bathmos::bench {

/// A number with its standard deviation, both in the same unit. `freedom`: degrees of freedom that the
/// deviation was found with; infinite where it is known otherwise, or stated for its few readings already.
struct Figure {
    double value = 0, sd = 0;
    double freedom = std::numeric_limits<double>::infinity();
};
/// Sum of figures whose errors are independent; degrees of freedom by their share of the variance
/// [Satterthwaite 1946].
Figure plus(const Figure& a, const Figure& b);
/// Difference, likewise.
Figure minus(const Figure& a, const Figure& b);
/// Multiple of a figure, of the same freedom.
Figure times(double factor, const Figure& figure);
/// The figure with its deviation widened for the freedom it was found with, by_student().
Figure stated(const Figure& figure);

/// Throws InputError, of a key of the sheet: what is wrong and what would be right.
[[noreturn]] void refuse(const std::string& key, const std::string& what, const std::string& mend);

/// Refuses what no bench reads: numbers that are not between two bounds, SI, or not finite.
void require_between(const std::string& key, Quantity quantity, const std::vector<double>& values,
                     double least, double most);

/// One quantity read at one or more places, in the order it was read. Never empty, nowhere without a repeat.
struct Readings {
    std::vector<std::vector<double>> repeats; ///< by place
    double resolution = 0;                    ///< smallest step that the instrument shows; 0: not known
    std::optional<double> zero_before{}, zero_after{}; ///< what it showed of nothing, where that was read

    std::size_t size() const { return repeats.size(); }
    /// What the zero went by from before to after; 0 where one of them was not read.
    double drift() const { return zero_before && zero_after ? *zero_after - *zero_before : 0; }
    /// What is taken off the first reading.
    double zero() const { return zero_before ? *zero_before : zero_after.value_or(0); }
    int zeros() const { return zero_before.has_value() + zero_after.has_value(); } ///< that were read
    /// Standard deviation of a single reading by the instrument alone: resolution / sqrt(12).
    double own_sd() const;
};
/// A deviation that was found with few degrees of freedom, widened so that two of it hold the truth in 95 of
/// 100 cases [Student 1908]; 0 where there is no freedom.
double by_student(double sd, double freedom);
/// All single readings of it.
std::vector<double> all_of(const Readings& readings);
/// One reading a place, nothing else known.
Readings readings_of(const std::vector<double>& values);

/// Mean of each place with zero and drift taken out, the drift spread evenly over all single readings between
/// the two zeros. The deviation is the larger of the repeats' own over sqrt(n) and the instrument's, and that
/// of the zeros, which scatter as readings do; repeats of all places are pooled, so that two of them do not
/// tell by chance.
std::vector<Figure> means_of(const Readings& readings);

/// Places whose repeats lie further apart than three times what two readings usually do, by the instrument's
/// own error or by the scatter of all places, a few bad ones left aside.
std::vector<std::size_t> to_repeat(const Readings& readings);

/// What a sheet tells of its readings: "drift", "entry".
using bathmos::Told;

/// "drift" where zero has moved by more than three times the instrument's own error, or what two readings
/// that scatter by `scatter` differ by, and by more than `share` of `size`. `what`: the instrument,
/// `quantity`: what it reads.
std::vector<Told> told_of_drift(const Readings& readings, const std::string& what, Quantity quantity,
                                double size, double scatter, double share = 0.003);

} // namespace bathmos::bench
