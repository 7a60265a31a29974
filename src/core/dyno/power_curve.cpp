#include "core/dyno/power_curve.h"

#include "core/math/robust.h"
#include "core/problem/input_error.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace bathmos {

namespace {

constexpr std::size_t kLeast = 8;
constexpr double kLeastSpan_rpm = 300;
constexpr std::size_t kNoiseReach = 14; // readings to either side that tell a reading's noise

// Rows of the run itself, in the order of time: without dropouts and without the way back.
std::vector<std::size_t> rows_of_run(const Pull& pull, PowerCurve& out) {
    const std::vector<double>&rpm = pull[PullChannel::Speed], &power = pull[PullChannel::Power];
    std::vector<std::size_t> rows;
    out.rows = rpm.size();
    for (std::size_t i = 0; i < rpm.size(); ++i)
        if (std::isfinite(rpm[i]) && rpm[i] > 0 && std::isfinite(power[i]))
            rows.push_back(i);
    if (rows.size() < kLeast)
        throw InputError({"", "readings", fmt::format("there are {} rows with speed and power", rows.size()),
                          fmt::format("a pull needs at least {}", kLeast)});
    const auto faster = [&](std::size_t a, std::size_t b) { return rpm[a] < rpm[b]; };
    const auto top = std::max_element(rows.begin(), rows.end(), faster);
    const double high = rpm[*top], low = rpm[*std::min_element(rows.begin(), rows.end(), faster)];
    if (high - low < kLeastSpan_rpm)
        throw InputError({"", "readings", fmt::format("they span {:.0f} rev/min", high - low),
                          fmt::format("a pull needs at least {:.0f}", kLeastSpan_rpm)});
    const bool downward =
        rpm[rows.front()] > rpm[rows.back()] + 0.5 * (high - low) && top - rows.begin() < rows.end() - top;
    if (!downward && rpm[rows.back()] < high - std::max(150.0, 0.05 * (high - low))) {
        out.lifted = true;
        out.rows = *top + 1;
        rows.erase(top + 1, rows.end());
    }
    std::vector<std::size_t> kept;
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const std::size_t first = i < 3 ? 0 : i - 3, last = std::min(rows.size(), i + 4);
        std::vector<double> near;
        for (std::size_t k = first; k < last; ++k)
            if (k != i)
                near.push_back(power[rows[k]]);
        const bool alone = (i == 0 || power[rows[i - 1]] > 0.5 * median(near)) &&
                           (i + 1 == rows.size() || power[rows[i + 1]] > 0.5 * median(near));
        if (!(alone && power[rows[i]] < 0.2 * median(near)))
            kept.push_back(rows[i]);
    }
    return kept;
}

// Size of each reading's departure from the line between two neighbours, over what white noise would make of
// it.
std::vector<double> bends(const PowerCurve& c, std::size_t apart) {
    std::vector<double> out;
    for (std::size_t i = apart; i + apart < c.size(); ++i) {
        const double x0 = c.speed_rpm[i - apart], x1 = c.speed_rpm[i + apart];
        const double t = (c.speed_rpm[i] - x0) / (x1 - x0);
        const double line = (1 - t) * c.power_W[i - apart] + t * c.power_W[i + apart];
        out.push_back(std::abs(c.power_W[i] - line) / std::sqrt(1 + t * t + (1 - t) * (1 - t)));
    }
    return out;
}

// Standard deviation of readings whose bends are known: of those near a place, weighed with all of them, as a
// few tell little.
double sd_near(const std::vector<double>& bend, std::size_t place, double all) {
    const std::size_t first = std::min(bend.size(), place < kNoiseReach ? 0 : place - kNoiseReach);
    const std::size_t last = std::min(bend.size(), place + kNoiseReach);
    const std::vector<double> near(bend.begin() + static_cast<std::ptrdiff_t>(first),
                                   bend.begin() + static_cast<std::ptrdiff_t>(last));
    const double here = near.empty() ? all : 1.4826 * median(near);
    const double weight = static_cast<double>(near.size()) / (static_cast<double>(near.size()) + 8);
    return weight * here + (1 - weight) * all;
}

void add_noise(PowerCurve& c) {
    const double floor = 2e-4 * *std::max_element(c.power_W.begin(), c.power_W.end());
    // Noise that lasts over two readings shows in bends over two only.
    const std::vector<double> one = bends(c, 1), two = c.size() > 40 ? bends(c, 2) : one;
    const double all_one = 1.4826 * median(one), all_two = 1.4826 * median(two);
    for (std::size_t i = 0; i < c.size(); ++i)
        c.sd_W.push_back(std::max({floor, sd_near(one, i, all_one), sd_near(two, i, all_two)}));
}

} // namespace

PowerCurve power_curve(const Pull& pull, std::size_t most) {
    PowerCurve out;
    const std::vector<double>&rpm = pull[PullChannel::Speed], &power = pull[PullChannel::Power];
    std::vector<std::size_t> rows = rows_of_run(pull, out);
    out.left_out = pull.size() - rows.size();
    std::stable_sort(rows.begin(), rows.end(), [&](std::size_t a, std::size_t b) { return rpm[a] < rpm[b]; });
    const double first = rpm[rows.front()], span = rpm[rows.back()] - first;
    const double bin = rows.size() > most ? span / static_cast<double>(most) : span * 1e-6;
    for (std::size_t i = 0; i < rows.size();) {
        double speed = 0, sum = 0;
        std::size_t n = 0;
        const double edge = rpm[rows[i]] + bin;
        std::size_t k = i;
        for (; k < rows.size() && rpm[rows[k]] < edge; ++k, ++n) {
            speed += rpm[rows[k]];
            sum += power[rows[k]];
        }
        out.speed_rpm.push_back(speed / static_cast<double>(n));
        out.power_W.push_back(sum / static_cast<double>(n));
        out.reading.push_back(rows[i]);
        i = k;
    }
    if (!(*std::max_element(out.power_W.begin(), out.power_W.end()) > 0))
        throw InputError({"", "readings", "power is nowhere above 0",
                          "choose the column of power or torque, or its sign"});
    if (out.size() < kLeast)
        throw InputError({"", "readings", fmt::format("they stand at {} speeds only", out.size()),
                          fmt::format("a pull needs at least {}", kLeast)});
    add_noise(out);
    return out;
}

std::vector<double> channel_on(const Pull& pull, PullChannel channel, const PowerCurve& curve) {
    if (!pull.has(channel))
        return {};
    const std::vector<double>&rpm = pull[PullChannel::Speed], &values = pull[channel];
    std::vector<double> sum(curve.size(), 0.0), count(curve.size(), 0.0);
    for (std::size_t i = 0; i < curve.rows; ++i) {
        if (!std::isfinite(rpm[i]) || !std::isfinite(values[i]))
            continue;
        auto at = std::lower_bound(curve.speed_rpm.begin(), curve.speed_rpm.end(), rpm[i]);
        if (at == curve.speed_rpm.end() ||
            (at != curve.speed_rpm.begin() && rpm[i] - *(at - 1) < *at - rpm[i]))
            --at;
        const auto k = static_cast<std::size_t>(at - curve.speed_rpm.begin());
        sum[k] += values[i];
        count[k] += 1;
    }
    for (std::size_t k = 0; k < sum.size(); ++k)
        sum[k] = count[k] > 0 ? sum[k] / count[k] : std::nan("");
    return sum;
}

} // namespace bathmos
