// How far the limit speed may be off, as the train's numbers are only known within tolerances, and which of
// them drive it.
#pragma once

#include "core/motion/quick_limit.h"
#include "core/uncertainty/uncertain_inputs.h"

#include <functional>

namespace bathmos {

struct UncertaintyQuery {
    SpeedRange range;
    LimitsInForce limits{};
    double near_rpm = 0;
    std::size_t trains = 200, first_trains = 20;
    unsigned seed = 1;
};

/// An input's share of the variance of the limit speed.
struct Driver {
    UncertainInput input;
    double share = 0, share_error = 0; ///< of the whole variance; one standard deviation
    double rpm_per_tolerance = 0;      ///< change of the limit as the input grows by its tolerance
};

struct LimitUncertainty {
    std::size_t trains = 0;  ///< in this result
    std::size_t without = 0; ///< of them without a limit in the range; they count as above it
    std::size_t refused = 0; ///< draws that make no train
    /// Empty where more than that share of trains has no limit in the range.
    std::optional<double> low_rpm, middle_rpm, high_rpm;                ///< 10, 50, 90 %
    double low_error_rpm = 0, middle_error_rpm = 0, high_error_rpm = 0; ///< one standard deviation
    std::vector<Driver> drivers;                                        ///< largest share first
    double explained = 0; ///< share of the variance that all inputs together account for, each for itself
    std::vector<double> limit_rpm; ///< of each train, in the order drawn; not a number where there is none
    std::vector<UncertainInput> inputs;
    std::vector<std::vector<double>> off; ///< of each train, by how many standard deviations each input is
};

struct UncertaintyWatch {
    ProgressSink progress{};
    std::function<void(const LimitUncertainty&)> estimate{}; ///< from the first trains
    std::stop_token stop{};
};

/// Draws trains by a scrambled Halton sequence [Halton 1960; Owen 1995] through normal distributions whose
/// two standard deviations are the tolerances, and finds each one's limit, more roughly than a sweep does
/// (docs/accuracy.md). The same for a seed. Shares come from a fit of each input and its square to the draws,
/// errors from leaving out tenths of them (jackknife). Throws Stopped, or InputError where the train does not
/// open its valve.
LimitUncertainty uncertainty_of(const Train& train, const UncertaintyQuery& query,
                                const UncertaintyWatch& watch = {});

/// Point `index` of a scrambled Halton sequence, coordinates in (0, 1).
std::vector<double> halton_point(std::size_t index, std::size_t dimensions, unsigned seed);

} // namespace bathmos
