// How a calibrated run shares the blame, by itself: without any dyno (docs/calibration.md, From evidence to
// cause).
#pragma once

#include "core/calibration/run_reading.h"
#include "core/verdict/causes.h"

#include <array>
#include <string>

namespace bathmos {

struct RunShares {
    std::array<double, kCauses> of{}; ///< causes in the valve train; with `healthy` they make 1
    double healthy = 0;               ///< the train reaches the speed that is wanted
    /// The largest of them; empty where it is healthy.
    std::optional<Cause> first() const;
};

/// A departure counts by its evidence, as far as it costs what is missing of `wanted_rpm` (0: not known);
/// what is left is healthy as far as the limit reaches that speed, and the run itself shows nothing below it
/// (`seen_rpm`: where it shows something first), and else shared by the mechanisms' gains.
RunShares run_shares(const RunReading& reading, double wanted_rpm, std::optional<double> seen_rpm = {});

/// Plain sentence: what the calibrated run says, with numbers.
std::string said_by_run(const RunReading& reading, const RunShares& shares);

/// The same as likelihoods for the weighing, 1 for the likeliest cause: shares over priors, with one in ten
/// readings of a run taken to be wrong.
std::array<double, kCauses> run_likelihoods(const RunShares& shares);

} // namespace bathmos
