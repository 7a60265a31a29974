#include "core/bench/readings.h"

#include "core/math/robust.h"
#include "core/problem/input_error.h"

#include <algorithm>
#include <boost/math/distributions/students_t.hpp>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace bathmos::bench {

namespace {

constexpr double kTwoSided_95 = 1.959964, kInfinite = std::numeric_limits<double>::infinity();
constexpr double kFarApart = 3; // times the deviation of a difference of two: read again

double mean(const std::vector<double>& values) {
    return std::accumulate(values.begin(), values.end(), 0.0) / static_cast<double>(values.size());
}

// Standard deviation of one reading by the repeats of all places; 0 where nothing was repeated.
Figure pooled_sd(const std::vector<std::vector<double>>& places) {
    double squares = 0, freedom = 0;
    for (const auto& repeats : places) {
        const double middle = mean(repeats);
        for (const double one : repeats)
            squares += (one - middle) * (one - middle);
        freedom += static_cast<double>(repeats.size()) - 1;
    }
    return {0, freedom > 0 ? std::sqrt(squares / freedom) : 0, freedom};
}

// With zero and drift taken out.
std::vector<std::vector<double>> corrected(const Readings& readings) {
    std::size_t all = 0, taken = 0;
    for (const auto& repeats : readings.repeats)
        all += repeats.size();
    std::vector<std::vector<double>> out = readings.repeats;
    for (auto& repeats : out)
        for (double& one : repeats)
            one -= readings.zero() +
                   readings.drift() * static_cast<double>(++taken) / static_cast<double>(all + 1);
    return out;
}

} // namespace

void refuse(const std::string& key, const std::string& what, const std::string& mend) {
    throw InputError({"", key, what, mend});
}

void require_between(const std::string& key, Quantity quantity, const std::vector<double>& values,
                     double least, double most) {
    for (const double one : values)
        if (!(one >= least && one <= most)) // not a number is no reading either
            refuse(key, fmt::format("holds {}", typed_text(quantity, one)),
                   fmt::format("give {} to {}", typed_text(quantity, least), quantity_text(quantity, most)));
}

std::vector<double> all_of(const Readings& readings) {
    std::vector<double> out;
    for (const auto& repeats : readings.repeats)
        out.insert(out.end(), repeats.begin(), repeats.end());
    return out;
}

double Readings::own_sd() const {
    return resolution / std::sqrt(12.0);
}

double by_student(double sd, double freedom) {
    return freedom < 1 ? 0
                       : sd * boost::math::quantile(boost::math::students_t(freedom), 0.975) / kTwoSided_95;
}

Readings readings_of(const std::vector<double>& values) {
    Readings out;
    for (const double value : values)
        out.repeats.push_back({value});
    return out;
}

std::vector<Figure> means_of(const Readings& readings) {
    const auto places = corrected(readings);
    const Figure one = pooled_sd(places);
    const double own = readings.own_sd();
    const int zeros = readings.zeros();
    std::vector<Figure> out;
    for (const auto& repeats : places) {
        const auto n = static_cast<double>(repeats.size());
        const double by_repeats = one.sd / std::sqrt(n), zero_share = zeros > 0 ? 1.0 / zeros : 0.0;
        if (by_repeats > own) // mean and zeros by the same scatter
            out.push_back({mean(repeats), one.sd * std::sqrt(1 / n + zero_share), one.freedom});
        else
            out.push_back(
                {mean(repeats), std::hypot(own, std::sqrt(zero_share) * std::max(one.sd, own)), kInfinite});
    }
    return out;
}

Figure plus(const Figure& a, const Figure& b) {
    const double va = a.sd * a.sd, vb = b.sd * b.sd;
    const double parts = va * va / a.freedom + vb * vb / b.freedom;
    return {a.value + b.value, std::sqrt(va + vb), parts > 0 ? (va + vb) * (va + vb) / parts : kInfinite};
}

Figure minus(const Figure& a, const Figure& b) {
    return plus(a, times(-1, b));
}

Figure times(double factor, const Figure& figure) {
    return {factor * figure.value, std::abs(factor) * figure.sd, figure.freedom};
}

Figure stated(const Figure& figure) {
    return std::isfinite(figure.freedom) && figure.sd > 0
               ? Figure{figure.value, by_student(figure.sd, std::max(1.0, figure.freedom)), kInfinite}
               : figure;
}

std::vector<std::size_t> to_repeat(const Readings& readings) {
    const auto places = corrected(readings);
    std::vector<double> apart; // of each reading from its place's median
    for (const auto& repeats : places)
        for (const double one : repeats)
            if (repeats.size() > 1)
                apart.push_back(one - median(repeats));
    const double usual = std::max(readings.own_sd(), apart.size() > 4 ? robust_sd(apart) : 0.0);
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < places.size(); ++i) {
        const auto [low, high] = std::minmax_element(places[i].begin(), places[i].end());
        if (usual > 0 && *high - *low > kFarApart * std::sqrt(2.0) * usual)
            out.push_back(i);
    }
    return out;
}

std::vector<Told> told_of_drift(const Readings& readings, const std::string& what, Quantity quantity,
                                double size, double scatter, double share) {
    const double moved = std::abs(readings.drift());
    if (moved <= 3 * std::max(readings.own_sd(), std::sqrt(2.0) * scatter) || moved <= share * std::abs(size))
        return {};
    return {
        {"drift",
         {what +
              " showed {} of nothing before and {} after: it is taken out evenly; zero it again and repeat",
          {{quantity, readings.zero()}, {quantity, readings.zero() + readings.drift()}}}}};
}

} // namespace bathmos::bench
