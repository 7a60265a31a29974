// Statistics that a few bad readings cannot spoil.
#pragma once

#include <optional>
#include <vector>

namespace bathmos {

/// Median; the mean of the middle two for an even count. NaN for an empty list.
double median(std::vector<double> values);

/// Standard deviation estimated from the median absolute deviation (factor 1.4826 for normal noise).
double robust_sd(const std::vector<double>& values);

/// Mean and population standard deviation. `values` not empty.
struct MeanDeviation {
    double mean;
    double deviation;
};
/// By two passes; the deviation divides by n.
MeanDeviation mean_deviation(const std::vector<double>& values);

/// y = a + b x fitted by iteratively re-weighted least squares (Tukey's biweight, 4.685 sd).
struct Line {
    double a = 0;
    double b = 0;
    double sd = 0; ///< robust residual
    double at(double x) const { return a + b * x; }
};
/// Needs at least 3 points with different x; otherwise empty.
std::optional<Line> robust_line(const std::vector<double>& x, const std::vector<double>& y);

} // namespace bathmos
