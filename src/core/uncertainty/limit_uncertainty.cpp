#include "core/uncertainty/limit_uncertainty.h"

#include "core/motion/sweep.h"
#include "core/train/train_check.h"

#include <Eigen/Dense>
#include <algorithm>
#include <atomic>
#include <boost/math/distributions/normal.hpp>
#include <cmath>
#include <limits>
#include <mutex>
#include <numeric>
#include <random>

namespace bathmos {

namespace {

constexpr double kNone = std::numeric_limits<double>::quiet_NaN();
constexpr std::size_t kGroups = 10;

std::vector<unsigned> primes(std::size_t count) {
    std::vector<unsigned> out;
    for (unsigned n = 2; out.size() < count; ++n)
        if (std::none_of(out.begin(), out.end(), [&](unsigned p) { return n % p == 0; }))
            out.push_back(n);
    return out;
}

// Digits of a base in random order, 0 kept in place; without the library's shuffle, which differs by maker.
std::vector<unsigned> scrambling(unsigned base, unsigned seed) {
    std::mt19937_64 engine(seed * 1000003ULL + base);
    std::vector<unsigned> out(base);
    std::iota(out.begin(), out.end(), 0U);
    for (unsigned i = base - 1; i > 1; --i)
        std::swap(out[i], out[1 + static_cast<unsigned>(engine() % i)]);
    return out;
}

// Quantile of the standard normal distribution, kept within 2.5 standard deviations.
double normal(double share) {
    return std::clamp(boost::math::quantile(boost::math::normal(), share), -2.5, 2.5);
}

struct Draw {
    Eigen::VectorXd z; ///< of each input, in standard deviations
    double limit_rpm = kNone;
    bool refused = false;
};

Draw draw(const Train& train, const std::vector<UncertainInput>& inputs, std::size_t index,
          const QuickLimitQuery& quick, unsigned seed, const std::stop_token& stop) {
    Draw out;
    out.z.resize(static_cast<Eigen::Index>(inputs.size()));
    const std::vector<double> point = halton_point(index + 1, inputs.size(), seed);
    Train drawn = train;
    for (std::size_t i = 0; i < inputs.size(); ++i) {
        const double z = normal(point[i]);
        out.z[static_cast<Eigen::Index>(i)] = z;
        drawn = moved(std::move(drawn), inputs[i], 0.5 * z);
    }
    out.refused = !check_train(drawn).empty();
    if (out.refused)
        return out;
    const MotionModel model(drawn);
    out.limit_rpm = refine_limit(model, quick, stop).speed_rpm.value_or(kNone);
    return out;
}

// Value below which a share of the sorted list lies; empty where that reaches trains without a limit.
std::optional<double> percentile(const std::vector<double>& sorted, std::size_t all, double share) {
    const double at = share * static_cast<double>(all - 1);
    const auto i = static_cast<std::size_t>(at);
    if (all == 0 || i + 1 >= sorted.size())
        return i < sorted.size() && at == std::floor(at) ? std::optional(sorted[i]) : std::nullopt;
    return sorted[i] + (at - std::floor(at)) * (sorted[i + 1] - sorted[i]);
}

std::optional<double> percentile_of(const std::vector<const Draw*>& draws, double share) {
    std::vector<double> sorted;
    for (const Draw* d : draws)
        if (std::isfinite(d->limit_rpm))
            sorted.push_back(d->limit_rpm);
    std::sort(sorted.begin(), sorted.end());
    return percentile(sorted, draws.size(), share);
}

std::vector<const Draw*> without_group(const std::vector<const Draw*>& draws, std::size_t group) {
    std::vector<const Draw*> out;
    for (std::size_t i = 0; i < draws.size(); ++i)
        if (i % kGroups != group)
            out.push_back(draws[i]);
    return out;
}

// Standard deviation of a figure by leaving out a tenth of the draws at a time.
template <class Figure>
double jackknife(const std::vector<const Draw*>& draws, Figure figure) {
    std::vector<double> values;
    for (std::size_t g = 0; g < kGroups; ++g)
        if (const std::optional<double> value = figure(without_group(draws, g)))
            values.push_back(*value);
    if (values.size() < 2)
        return 0;
    const double mean =
        std::accumulate(values.begin(), values.end(), 0.0) / static_cast<double>(values.size());
    double sum = 0;
    for (double v : values)
        sum += (v - mean) * (v - mean);
    const auto n = static_cast<double>(values.size());
    return std::sqrt(sum * (n - 1) / n);
}

struct Response {
    Eigen::VectorXd slope_rpm; ///< per standard deviation of each input
    Eigen::VectorXd share;
    double explained = 0;
};

// Least squares on each input and its square, with a little ridge, so that few draws give a modest answer
// rather than a wild one.
Response respond(const std::vector<const Draw*>& draws, double end_rpm) {
    const auto n = static_cast<Eigen::Index>(draws.size()), k = draws.front()->z.size();
    Eigen::MatrixXd x(n, 2 * k);
    Eigen::VectorXd y(n);
    for (Eigen::Index i = 0; i < n; ++i) {
        const Draw& d = *draws[static_cast<std::size_t>(i)];
        x.row(i) << d.z.transpose(), d.z.array().square().matrix().transpose();
        y[i] = std::isfinite(d.limit_rpm) ? d.limit_rpm : end_rpm;
    }
    const Eigen::RowVectorXd mean = x.colwise().mean();
    x.rowwise() -= mean;
    y.array() -= y.mean();
    Eigen::MatrixXd normal_matrix = x.transpose() * x;
    normal_matrix.diagonal().array() +=
        0.02 * static_cast<double>(n) + (n <= 2 * k + 10 ? static_cast<double>(k) : 0);
    const Eigen::VectorXd slope = normal_matrix.ldlt().solve(x.transpose() * y);
    const double variance = y.squaredNorm() / static_cast<double>(n);
    Response out;
    out.slope_rpm = slope.head(k);
    out.share = Eigen::VectorXd::Zero(k);
    if (variance <= 0)
        return out;
    for (Eigen::Index i = 0; i < k; ++i)
        out.share[i] = (x.col(i) * slope[i] + x.col(k + i) * slope[k + i]).squaredNorm() /
                       static_cast<double>(n) / variance;
    out.explained = 1 - (y - x * slope).squaredNorm() / y.squaredNorm();
    return out;
}

LimitUncertainty summary_of(const std::vector<Draw>& all, std::size_t count,
                            const std::vector<UncertainInput>& inputs, double end_rpm) {
    LimitUncertainty out;
    std::vector<const Draw*> draws;
    out.inputs = inputs;
    for (std::size_t i = 0; i < count; ++i) {
        out.limit_rpm.push_back(all[i].limit_rpm);
        out.off.emplace_back(all[i].z.begin(), all[i].z.end());
        if (all[i].refused)
            ++out.refused;
        else
            draws.push_back(&all[i]);
    }
    out.trains = draws.size();
    for (const Draw* d : draws)
        out.without += !std::isfinite(d->limit_rpm);
    if (draws.size() < 5)
        return out;
    const auto put = [&](double share, std::optional<double>& value, double& error) {
        value = percentile_of(draws, share);
        error = jackknife(draws, [&](const auto& some) { return percentile_of(some, share); });
    };
    put(0.1, out.low_rpm, out.low_error_rpm);
    put(0.5, out.middle_rpm, out.middle_error_rpm);
    put(0.9, out.high_rpm, out.high_error_rpm);
    if (inputs.empty())
        return out;
    const Response whole = respond(draws, end_rpm);
    out.explained = whole.explained;
    std::vector<Response> parts;
    for (std::size_t g = 0; g < kGroups; ++g)
        parts.push_back(respond(without_group(draws, g), end_rpm));
    for (std::size_t i = 0; i < inputs.size(); ++i) {
        const auto at = static_cast<Eigen::Index>(i);
        double mean = 0, sum = 0;
        for (const Response& part : parts)
            mean += part.share[at] / kGroups;
        for (const Response& part : parts)
            sum += (part.share[at] - mean) * (part.share[at] - mean);
        out.drivers.push_back({inputs[i], whole.share[at], std::sqrt(sum * (kGroups - 1.0) / kGroups),
                               2 * whole.slope_rpm[at]});
    }
    std::stable_sort(out.drivers.begin(), out.drivers.end(),
                     [](const Driver& a, const Driver& b) { return a.share > b.share; });
    return out;
}

} // namespace

std::vector<double> halton_point(std::size_t index, std::size_t dimensions, unsigned seed) {
    std::vector<double> out;
    for (const unsigned base : primes(dimensions)) {
        const std::vector<unsigned> digit = scrambling(base, seed);
        double value = 0, unit = 1.0 / base;
        for (std::size_t rest = index; rest > 0; rest /= base, unit /= base)
            value += unit * digit[rest % base];
        out.push_back(std::clamp(value, 1e-9, 1 - 1e-9));
    }
    return out;
}

LimitUncertainty uncertainty_of(const Train& train, const UncertaintyQuery& query,
                                const UncertaintyWatch& watch) {
    std::vector<UncertainInput> inputs = uncertain_inputs(train);
    std::erase_if(inputs, [](const UncertainInput& input) { return input.tolerance.plus_minus == 0; });
    const MotionModel nominal(train);
    const QuickLimitQuery quick = query_for_many(
        train, nominal, {.range = query.range, .limits = query.limits, .near_rpm = query.near_rpm},
        watch.stop);
    std::vector<Draw> draws(query.trains);
    std::vector<bool> done(query.trains, false);
    std::mutex guard;
    std::size_t count = 0;
    bool told = !watch.estimate;
    const auto take = [&](std::size_t i, Draw&& one) {
        const std::scoped_lock lock(guard);
        draws[i] = std::move(one);
        done[i] = true;
        if (watch.progress)
            watch.progress(static_cast<double>(++count) / static_cast<double>(query.trains));
        const std::size_t first = std::min(query.first_trains, query.trains);
        if (told || !std::all_of(done.begin(), done.begin() + static_cast<std::ptrdiff_t>(first),
                                 [](bool d) { return d; }))
            return;
        told = true;
        watch.estimate(summary_of(draws, first, inputs, query.range.last_rpm));
    };
    std::atomic<std::size_t> next = 0; // in order, so that the first trains are first
    parallel_for(worker_count(), [&](std::size_t) {
        for (std::size_t i = next++; i < query.trains; i = next++) {
            throw_if_stopped(watch.stop);
            take(i, draw(train, inputs, i, quick, query.seed, watch.stop));
        }
    });
    return summary_of(draws, query.trains, inputs, query.range.last_rpm);
}

} // namespace bathmos
