#include "core/dyno/pull_compare.h"

#include "core/math/robust.h"
#include "core/problem/input_error.h"

#include <Eigen/QR>
#include <algorithm>
#include <boost/math/distributions/students_t.hpp>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace bathmos {

namespace {

constexpr double kGrid_rpm = 25, kSmooth_rpm = 500, kRange_rpm = 500, kLeastShared_rpm = 300;
constexpr double kLostFrom = 0.008; // share of the power
constexpr double kHingeFrom = 0.2, kLeastHinge_rpm = 100, kReading_rpm = 150, kLeastNoise = 1e-3;
constexpr double kLeastHingeEvidence = 10, kLeastLoss = 0.01;
constexpr double kGrowingScatter_rpm = 150, kMostConfidence = 0.9;

double value_at(const PullAnalysis& p, double rpm) {
    const std::vector<double>& x = p.curve.speed_rpm;
    const auto at = std::clamp<std::ptrdiff_t>(std::upper_bound(x.begin(), x.end(), rpm) - x.begin(), 1,
                                               static_cast<std::ptrdiff_t>(x.size()) - 1);
    const auto i = static_cast<std::size_t>(at);
    const double t = (rpm - x[i - 1]) / (x[i] - x[i - 1]);
    return (1 - t) * p.trend_W[i - 1] + t * p.trend_W[i];
}

// Two-sided 95 % point of Student's t; 0 without any freedom.
double student_95(std::size_t freedom) {
    return freedom == 0 ? 0
                        : boost::math::quantile(boost::math::students_t(static_cast<double>(freedom)), 0.975);
}

double mean_of(const std::vector<double>& v, std::size_t from, std::size_t to) {
    return std::accumulate(v.begin() + static_cast<std::ptrdiff_t>(from),
                           v.begin() + static_cast<std::ptrdiff_t>(to), 0.0) /
           static_cast<double>(to - from);
}

// Sum of squares within a state of what each pull's mean over a range is.
double square_within(const StateCurve& s, std::size_t from, std::size_t to) {
    double mean = 0, square = 0;
    for (const auto& pull : s.pulls_W)
        mean += mean_of(pull, from, to) / static_cast<double>(s.pulls_W.size());
    for (const auto& pull : s.pulls_W)
        square += std::pow(mean_of(pull, from, to) - mean, 2);
    return square;
}

// Half width at 95 % of a difference of two states' means over a range of places.
std::optional<double> half_width(const StateCurve& a, std::size_t a0, const StateCurve& b, std::size_t b0,
                                 std::size_t count) {
    const std::size_t na = a.pulls_W.size(), nb = b.pulls_W.size(), freedom = na + nb - 2;
    if (freedom == 0)
        return std::nullopt;
    const double variance =
        (square_within(a, a0, a0 + count) + square_within(b, b0, b0 + count)) / static_cast<double>(freedom);
    return student_95(freedom) *
           std::sqrt(variance * (1 / static_cast<double>(na) + 1 / static_cast<double>(nb)));
}

// Corrected and uncorrected power are two things.
void refuse_mixing(bool one_is_corrected, bool other_is_corrected) {
    if (one_is_corrected != other_is_corrected)
        throw InputError({"", "correction", "some of the pulls are corrected and some are not",
                          "compare pulls of one kind: correct all of them, or none"});
}

[[noreturn]] void share_too_little(double span) {
    throw InputError({"", "pulls", fmt::format("they share {:.0f} rev/min", std::max(0.0, span)),
                      fmt::format("compare pulls that share at least {:.0f}", kLeastShared_rpm)});
}

} // namespace

StateCurve state_curve(const std::vector<const PullAnalysis*>& pulls) {
    StateCurve out;
    double low = 0, high = 1e9;
    out.corrected = !pulls.empty() && pulls.front()->corrected;
    for (const PullAnalysis* p : pulls) {
        refuse_mixing(p->corrected, out.corrected);
        low = std::max(low, p->curve.speed_rpm.front());
        high = std::min(high, p->curve.speed_rpm.back());
    }
    if (pulls.empty() || high - low < kLeastShared_rpm)
        share_too_little(pulls.empty() ? 0 : high - low);
    for (double rpm = kGrid_rpm * std::ceil(low / kGrid_rpm); rpm <= high; rpm += kGrid_rpm)
        out.speed_rpm.push_back(rpm);
    for (const PullAnalysis* p : pulls) {
        std::vector<double>& row = out.pulls_W.emplace_back();
        for (double rpm : out.speed_rpm)
            row.push_back(value_at(*p, rpm));
    }
    const auto n = static_cast<double>(pulls.size());
    std::vector<double> square(out.speed_rpm.size(), 0.0);
    for (std::size_t i = 0; i < out.speed_rpm.size(); ++i) {
        double mean = 0;
        for (const auto& row : out.pulls_W)
            mean += row[i] / n;
        out.power_W.push_back(mean);
        for (const auto& row : out.pulls_W)
            square[i] += std::pow(row[i] - mean, 2) / std::max(1.0, n - 1);
    }
    if (pulls.size() < 2)
        return out;
    const auto reach = static_cast<std::size_t>(kSmooth_rpm / 2 / kGrid_rpm);
    for (std::size_t i = 0; i < square.size(); ++i)
        out.scatter_W.push_back(
            std::sqrt(mean_of(square, i < reach ? 0 : i - reach, std::min(square.size(), i + reach + 1))));
    return out;
}

StateDifference difference(const StateCurve& before, const StateCurve& after) {
    StateDifference out;
    refuse_mixing(before.corrected, after.corrected);
    const double low = std::max(before.speed_rpm.front(), after.speed_rpm.front());
    const double high = std::min(before.speed_rpm.back(), after.speed_rpm.back());
    if (high - low < kLeastShared_rpm)
        share_too_little(high - low);
    const auto index = [&](const StateCurve& s, double rpm) {
        return static_cast<std::size_t>(std::lround((rpm - s.speed_rpm.front()) / kGrid_rpm));
    };
    const std::size_t b0 = index(before, low), a0 = index(after, low);
    const std::size_t count = index(before, high) - b0 + 1;
    const auto reach = static_cast<std::size_t>(kSmooth_rpm / 2 / kGrid_rpm);
    for (std::size_t i = 0; i < count; ++i) {
        out.speed_rpm.push_back(before.speed_rpm[b0 + i]);
        out.gain_W.push_back(after.power_W[a0 + i] - before.power_W[b0 + i]);
        // Scatter at one speed, smoothed as in the state's own curve.
        const std::size_t from = i < reach ? 0 : i - reach, to = std::min(count, i + reach + 1);
        double square = 0;
        std::size_t freedom = 0;
        for (const auto* s : {&before, &after}) {
            const std::size_t start = s == &before ? b0 : a0;
            if (s->scatter_W.empty())
                continue;
            const std::size_t more = s->pulls_W.size() - 1;
            double mean = 0;
            for (std::size_t k = from; k < to; ++k)
                mean += std::pow(s->scatter_W[start + k], 2) / static_cast<double>(to - from);
            square += mean * static_cast<double>(more);
            freedom += more;
        }
        if (freedom > 0)
            out.band_W.push_back(student_95(freedom) *
                                 std::sqrt(square / static_cast<double>(freedom) *
                                           (1 / static_cast<double>(before.pulls_W.size()) +
                                            1 / static_cast<double>(after.pulls_W.size()))));
    }
    const auto range = [&](std::size_t from, std::size_t to) {
        return RangeGain{out.speed_rpm[from], out.speed_rpm[to - 1], mean_of(out.gain_W, from, to),
                         half_width(before, b0 + from, after, a0 + from, to - from)};
    };
    for (std::size_t i = 0; i < count;) {
        const double end = kRange_rpm * (std::floor(out.speed_rpm[i] / kRange_rpm) + 1);
        std::size_t k = i;
        while (k < count && out.speed_rpm[k] < end)
            ++k;
        if (k - i >= 4)
            out.ranges.push_back(range(i, k));
        i = k;
    }
    for (std::size_t i = 0; i < 3; ++i)
        out.thirds.push_back(range(i * count / 3, (i + 1) * count / 3));
    out.all = range(0, count);
    out.area_W_rpm = out.all.gain_W * (out.all.to_rpm - out.all.from_rpm);
    return out;
}

namespace {

// Share of the power that is gained, after over before, at the speeds that both have; empty where they share
// too few.
struct ShareCurve {
    std::vector<double> speed_rpm, share;
};

ShareCurve shares_of(const std::vector<const PullAnalysis*>& before,
                     const std::vector<const PullAnalysis*>& after) {
    ShareCurve out;
    try {
        const StateCurve a = state_curve(before);
        const StateDifference d = difference(a, state_curve(after));
        const auto first =
            static_cast<std::size_t>(std::lround((d.speed_rpm.front() - a.speed_rpm.front()) / kGrid_rpm));
        out.speed_rpm = d.speed_rpm;
        for (std::size_t i = 0; i < d.speed_rpm.size(); ++i)
            out.share.push_back(d.gain_W[i] / a.power_W[first + i]);
    } catch (const InputError&) {
        return {};
    }
    return out;
}

// Least squares of a shift, a slope and, where `hinge_rpm` is not 0, a loss that grows from there.
struct HingeFit {
    double squares = 0; ///< mean
    double loss = 0;    ///< share at the end
};

HingeFit fit_hinge(const ShareCurve& c, std::size_t first, double hinge_rpm, int power) {
    const auto n = static_cast<Eigen::Index>(c.share.size() - first);
    const double low = c.speed_rpm[first], high = c.speed_rpm.back();
    const auto grown = [&](double rpm) { return std::pow(std::max(0.0, rpm - hinge_rpm) / 1000, power); };
    Eigen::MatrixXd x(n, hinge_rpm > 0 ? 3 : 2);
    Eigen::VectorXd y(n);
    for (Eigen::Index i = 0; i < n; ++i) {
        const double rpm = c.speed_rpm[first + static_cast<std::size_t>(i)];
        y(i) = c.share[first + static_cast<std::size_t>(i)];
        x(i, 0) = 1;
        x(i, 1) = (rpm - low) / (high - low);
        if (hinge_rpm > 0)
            x(i, 2) = -grown(rpm);
    }
    const Eigen::VectorXd k = x.colPivHouseholderQr().solve(y);
    return {(y - x * k).squaredNorm() / static_cast<double>(n), hinge_rpm > 0 ? k(2) * grown(high) : 0};
}

// Evidence of a growing loss over none, and what is lost at the end.
struct GrowingLoss {
    double evidence = 0, share = 0;
};

GrowingLoss growing_loss(const ShareCurve& c) {
    const std::size_t first = c.share.size() / 5; // where pulls begin they are still settling
    const double low = c.speed_rpm[first], high = c.speed_rpm.back();
    const HingeFit none = fit_hinge(c, first, 0, 1);
    HingeFit best = none;
    for (double rpm = low + kHingeFrom * (high - low); rpm < high - kLeastHinge_rpm; rpm += kGrid_rpm)
        for (const int power : {1, 2})
            if (const HingeFit one = fit_hinge(c, first, rpm, power);
                one.loss > 0 && one.squares < best.squares)
                best = one;
    const double readings = (high - low) / kReading_rpm;
    const double noise = std::max(best.squares, kLeastNoise * kLeastNoise);
    return {readings * (none.squares - best.squares) / (2 * noise) - std::log(readings), best.loss};
}

} // namespace

std::optional<UpperLoss> upper_loss(const std::vector<const PullAnalysis*>& before,
                                    const std::vector<const PullAnalysis*>& after) {
    const ShareCurve curve = shares_of(before, after);
    const std::vector<double>&rpm = curve.speed_rpm, &share = curve.share;
    if (rpm.empty())
        return std::nullopt;
    const auto part = [&](double from, double to) {
        const auto n = static_cast<double>(rpm.size());
        return median({share.begin() + static_cast<std::ptrdiff_t>(from * n),
                       share.begin() + static_cast<std::ptrdiff_t>(to * n)});
    };
    const double mid = part(0.2, 0.5);
    UpperLoss out{mid - part(0.92, 1), std::nullopt};
    for (std::size_t i = rpm.size(); i-- > 0 && mid - share[i] > kLostFrom;)
        out.from_rpm = rpm[i];
    return out;
}

std::optional<StateBreak> break_against(const std::vector<const PullAnalysis*>& before,
                                        const std::vector<const PullAnalysis*>& after) {
    if (const auto own = break_of_state(after); own || before.empty() || after.empty())
        return own;
    const auto lost = upper_loss(before, after);
    if (!lost || !lost->from_rpm)
        return std::nullopt;
    const ShareCurve curve = shares_of(before, after);
    const GrowingLoss grown = growing_loss(curve);
    if (grown.evidence < kLeastHingeEvidence || grown.share < kLeastLoss)
        return std::nullopt;
    StateBreak out;
    out.speed_rpm = *lost->from_rpm;
    out.scatter_rpm = kGrowingScatter_rpm;
    out.depth_W = grown.share * after.front()->peak_W;
    out.confidence = kMostConfidence;
    out.pulls = out.of = after.size();
    out.growing = true;
    return out;
}

} // namespace bathmos
