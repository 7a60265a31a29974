#include "core/math/robust.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace bathmos {

double median(std::vector<double> values) {
    if (values.empty())
        return std::numeric_limits<double>::quiet_NaN();
    const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    if (values.size() % 2)
        return *middle;
    return 0.5 * (*middle + *std::max_element(values.begin(), middle));
}

double robust_sd(const std::vector<double>& values) {
    const double centre = median(values);
    std::vector<double> away(values.size());
    std::transform(values.begin(), values.end(), away.begin(),
                   [&](double v) { return std::abs(v - centre); });
    return 1.4826 * median(std::move(away));
}

MeanDeviation mean_deviation(const std::vector<double>& values) {
    double sum = 0;
    for (double v : values)
        sum += v;
    const double mean = sum / static_cast<double>(values.size());
    double squares = 0;
    for (double v : values)
        squares += (v - mean) * (v - mean);
    return {mean, std::sqrt(squares / static_cast<double>(values.size()))};
}

std::optional<Line> robust_line(const std::vector<double>& x, const std::vector<double>& y) {
    if (x.size() < 3)
        return std::nullopt;
    std::vector<double> weight(x.size(), 1.0), residual(x.size());
    Line line;
    for (int round = 0; round < 20; ++round) {
        double sw = 0, sx = 0, sy = 0, sxx = 0, sxy = 0;
        for (std::size_t i = 0; i < x.size(); ++i) {
            sw += weight[i];
            sx += weight[i] * x[i];
            sy += weight[i] * y[i];
        }
        const double mx = sx / sw, my = sy / sw;
        for (std::size_t i = 0; i < x.size(); ++i) {
            sxx += weight[i] * (x[i] - mx) * (x[i] - mx);
            sxy += weight[i] * (x[i] - mx) * (y[i] - my);
        }
        if (!(sxx > 0))
            return std::nullopt;
        line.b = sxy / sxx;
        line.a = my - line.b * mx;
        for (std::size_t i = 0; i < x.size(); ++i)
            residual[i] = y[i] - line.at(x[i]);
        line.sd = robust_sd(residual);
        if (!(line.sd > 0))
            break;
        for (std::size_t i = 0; i < x.size(); ++i) {
            const double u = residual[i] / (4.685 * line.sd);
            weight[i] = std::abs(u) < 1 ? (1 - u * u) * (1 - u * u) : 0;
        }
    }
    return line;
}

} // namespace bathmos
