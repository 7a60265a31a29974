#include "core/bench/geometry_fit.h"

#include "core/problem/input_error.h"
#include "core/rocker/rocker_geometry.h"

#include <algorithm>
#include <cmath>

namespace bathmos::bench {

namespace {

constexpr double kPrior_m = 1e-3, kStep_m = 1e-5, kSettled_m = 1e-8;
constexpr double kLeastScatter_m = 2e-6; // dials are no better
constexpr int kRounds = 12;

// Readings less the geometry's lift, with a rod that is longer.
std::vector<double> residuals(const std::vector<Figure>& rise, const std::vector<Figure>& lift,
                              const Train& train, double longer_m) {
    const RockerLinkage linkage(std::get<RockerGeometry>(train.rocker->ratio), train.rocker->input_arm_m,
                                train.rocker->output_arm_m, train.pushrod->length_m + longer_m);
    std::vector<double> out;
    for (std::size_t i = 0; i < rise.size(); ++i)
        out.push_back(lift[i].value - linkage.at(rise[i].value).travel_m);
    return out;
}

double squares_of(const std::vector<double>& values) {
    double out = 0;
    for (const double one : values)
        out += one * one;
    return out;
}

// Gauss and Newton's steps with the belief as one more reading.
GeometryFit fitted(const std::vector<Figure>& rise, const std::vector<Figure>& lift, const Train& train) {
    const auto n = static_cast<double>(rise.size());
    GeometryFit out;
    out.before_m = std::sqrt(squares_of(residuals(rise, lift, train, 0)) / n);
    double at = 0, scatter = kLeastScatter_m, normal = 1;
    for (int round = 0; round < kRounds; ++round) {
        const std::vector<double> here = residuals(rise, lift, train, at),
                                  beside = residuals(rise, lift, train, at + kStep_m);
        if (round > 0)
            scatter = std::max(kLeastScatter_m, std::sqrt(squares_of(here) / (n - 1)));
        double slopes = 0, pull = 0;
        for (std::size_t i = 0; i < here.size(); ++i) {
            const double slope = (beside[i] - here[i]) / kStep_m;
            slopes += slope * slope;
            pull += slope * here[i];
        }
        normal = slopes / (scatter * scatter) + 1 / (kPrior_m * kPrior_m);
        const double step = (-pull / (scatter * scatter) - at / (kPrior_m * kPrior_m)) / normal;
        at += step;
        if (std::abs(step) < kSettled_m && round > 2)
            break;
    }
    out.longer_m = {at, 1 / std::sqrt(normal)};
    out.after_m = std::sqrt(squares_of(residuals(rise, lift, train, at)) / n);
    return out;
}

} // namespace

std::optional<GeometryFit> fit_geometry(const RatioSheet& sheet, const Train& train) {
    if (!train.rocker || !train.pushrod || !std::holds_alternative<RockerGeometry>(train.rocker->ratio))
        return std::nullopt;
    const std::vector<Figure> rise = means_of(sheet.rise_m), lift = means_of(sheet.lift_m);
    if (rise.size() != lift.size() || rise.size() < 4)
        return std::nullopt;
    try {
        return fitted(rise, lift, train);
    } catch (const InputError&) { // it does not close that far
        return std::nullopt;
    }
}

} // namespace bathmos::bench
