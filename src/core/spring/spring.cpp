#include "core/spring/spring.h"

#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace bathmos {

namespace {

constexpr double kTableSegments = 12;

double coil_compliance(const CoilGeometry& coil, double diameter_m) {
    return 8 * std::pow(diameter_m, 3) / (coil.shear_modulus_Pa * std::pow(coil.wire_m, 4));
}

// Integral over the active coils from a to b (in coils) of f(diameter), each diameter over an equal share.
template <class F>
double over_coils(const CoilGeometry& coil, double a, double b, F f) {
    const double share = coil.active_coils / static_cast<double>(coil.mean_diameter_m.size());
    double sum = 0;
    for (std::size_t i = 0; i < coil.mean_diameter_m.size(); ++i) {
        const double from = std::max(a, share * static_cast<double>(i));
        const double to = std::min(b, share * static_cast<double>(i + 1));
        if (to > from)
            sum += (to - from) * f(coil.mean_diameter_m[i]);
    }
    return sum;
}

CubicCurve curve_of(const LoadTable& table) {
    std::vector<std::size_t> order(table.height_m.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::sort(order.begin(), order.end(),
              [&](auto i, auto j) { return table.height_m[i] < table.height_m[j]; });
    std::vector<double> height, load;
    for (std::size_t i : order) {
        height.push_back(table.height_m[i]);
        load.push_back(table.load_N[i]);
    }
    return CubicCurve::monotone(std::move(height), std::move(load));
}

} // namespace

double coil_mass_kg(const CoilGeometry& coil, double mean_diameter_m) {
    return coil.density_kg_m3 * (kPi * coil.wire_m * coil.wire_m / 4) * (kPi * mean_diameter_m);
}

SpringStatics::SpringStatics(const Spring& spring) : spring_(spring) {
    if (const auto* c = std::get_if<CoilGeometry>(&spring.kind)) {
        rate_N_per_m_ =
            1 / over_coils(*c, 0, c->active_coils, [&](double d) { return coil_compliance(*c, d); });
        solid_height_m_ = c->wire_m * (c->active_coils + c->dead_coils);
        active_mass_kg_ = over_coils(*c, 0, c->active_coils, [&](double d) { return coil_mass_kg(*c, d); });
        dead_mass_kg_ = c->dead_coils * coil_mass_kg(*c, c->mean_diameter_m.back());
    } else {
        const auto& table = std::get<LoadTable>(spring.kind);
        table_ = curve_of(table);
        solid_height_m_ = table.solid_height_m;
        active_mass_kg_ = table.moving_mass_kg;
    }
}

double SpringStatics::load_N(double height_m) const {
    if (const CoilGeometry* c = coil())
        return rate_N_per_m_ * (c->free_length_m - height_m);
    return table_.value(height_m);
}

double SpringStatics::rate_N_per_m(double height_m) const {
    return coil() ? rate_N_per_m_ : -table_.slope(height_m);
}

double SpringStatics::surge_hz(double rate_N_per_m) const {
    return 0.5 * std::sqrt(rate_N_per_m / active_mass_kg_);
}

double SpringStatics::chord_rate_N_per_m(double height_a_m, double height_b_m) const {
    if (coil())
        return rate_N_per_m_;
    return (load_N(height_b_m) - load_N(height_a_m)) / (height_a_m - height_b_m);
}

std::optional<double> SpringStatics::stress_Pa(double height_m) const {
    const CoilGeometry* c = coil();
    if (!c)
        return std::nullopt;
    double worst = 0;
    for (double diameter : c->mean_diameter_m) {
        const double index = diameter / c->wire_m;
        const double wahl = (4 * index - 1) / (4 * index - 4) + 0.615 / index;
        worst = std::max(worst, wahl * 8 * load_N(height_m) * diameter / (kPi * std::pow(c->wire_m, 3)));
    }
    return worst;
}

SpringSegments segments_of(const Spring& spring, double installed_height_m, double lift_m) {
    const SpringStatics statics(spring);
    SpringSegments out;
    const double rate = statics.chord_rate_N_per_m(installed_height_m, installed_height_m - lift_m);
    out.damping_s = 2 * spring.damping_ratio / (2 * kPi * statics.surge_hz(rate));
    if (const auto* c = std::get_if<CoilGeometry>(&spring.kind)) {
        out.count = std::max(8, static_cast<int>(std::ceil(2 * c->active_coils - 1e-9)));
        out.base_m = c->wire_m * c->dead_coils;
        const double coils = c->active_coils / out.count;
        for (int j = 0; j < out.count; ++j) {
            out.stiffness_N_per_m.push_back(1 / over_coils(*c, coils * j, coils * (j + 1),
                                                           [&](double d) { return coil_compliance(*c, d); }));
            out.mass_kg.push_back(
                over_coils(*c, coils * j, coils * (j + 1), [&](double d) { return coil_mass_kg(*c, d); }));
        }
        out.free_m = (c->free_length_m - out.base_m) / out.count;
        out.solid_m = c->wire_m * coils;
    } else {
        out.from_table = true;
        out.count = static_cast<int>(kTableSegments);
        out.stiffness_N_per_m.assign(static_cast<std::size_t>(out.count), rate * out.count);
        out.mass_kg.assign(static_cast<std::size_t>(out.count), statics.active_mass_kg() / out.count);
        out.solid_m = statics.solid_height_m() / out.count;
    }
    out.top_share_kg = 0.5 * out.mass_kg.back() + 0.5 * statics.dead_mass_kg();
    return out;
}

} // namespace bathmos
