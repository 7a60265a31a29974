// Readings as they are taken at the bench: repeats, zero before and after, the instrument's own error; and
// what they say (docs/bench.md, A reading).
#pragma once

#include <cstddef>
#include <string>
#include <vector>

namespace bathmos::bench {

/// A number with its standard deviation, both in the same unit.
struct Measured {
    double value = 0, sd = 0;
};

/// One quantity read at one or more places, in the order it was read. Never empty, nowhere without a repeat.
struct Readings {
    std::vector<std::vector<double>> repeats; ///< by place
    double resolution = 0;                    ///< smallest step that the instrument shows; 0: not known
    double zero_before = 0, zero_after = 0;   ///< what it showed of nothing

    std::size_t size() const { return repeats.size(); }
    double drift() const { return zero_after - zero_before; }
    /// Standard deviation of a single reading by the instrument alone: resolution / sqrt(12).
    double own_sd() const;
};
/// One reading a place, nothing else known.
Readings readings_of(const std::vector<double>& values);

/// Mean of each place with zero and drift taken out, the drift spread evenly over all single readings between
/// the two zeros. The deviation is the larger of the repeats' own over sqrt(n) and the instrument's; repeats
/// of all places are pooled, so that two of them do not tell by chance.
std::vector<Measured> means_of(const Readings& readings);

/// Places whose repeats lie further apart than three times what two readings usually do, by the instrument's
/// own error or by the scatter of all places, a few bad ones left aside.
std::vector<std::size_t> to_repeat(const Readings& readings);

/// What a sheet tells of its readings: "drift", "entry".
struct Told {
    std::string rule, text;
};

/// "drift" where zero has moved by more than three times the instrument's own error and by more than `share`
/// of `size`, in `what`'s unit.
std::vector<Told> told_of_drift(const Readings& readings, const std::string& what, double size,
                                double share = 0.003);

} // namespace bathmos::bench
