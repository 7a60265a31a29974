#include "core/spring/spring.h"

#include "core/units/units.h"

#include <algorithm>
#include <boost/math/distributions/normal.hpp>
#include <cmath>
#include <numeric>

namespace bathmos {

namespace {

constexpr double kTableSegments = 12;

// Integral over the active coils from a to b (in coils) of f(value), each value of a list over an equal
// share.
template <class F>
double over_coils(const CoilGeometry& coil, const std::vector<double>& list, double a, double b, F f) {
    const double share = coil.active_coils / static_cast<double>(list.size());
    double sum = 0;
    for (std::size_t i = 0; i < list.size(); ++i) {
        const double from = std::max(a, share * static_cast<double>(i));
        const double to = std::min(b, share * static_cast<double>(i + 1));
        if (to > from)
            sum += (to - from) * f(list[i]);
    }
    return sum;
}

// Normal quantiles of so many coils in the order of the golden section's multiples, which puts unlike ones
// side by side wherever one looks.
std::vector<double> spread_quantiles(std::size_t coils) {
    constexpr double kGolden = 0.6180339887498949;
    std::vector<double> turn(coils), out(coils);
    for (std::size_t i = 0; i < coils; ++i)
        turn[i] = std::fmod(static_cast<double>(i + 1) * kGolden, 1.0);
    for (std::size_t i = 0; i < coils; ++i) {
        const auto below = static_cast<double>(
            std::count_if(turn.begin(), turn.end(), [&](double other) { return other < turn[i]; }));
        out[i] = boost::math::quantile(boost::math::normal(), (below + 0.5) / static_cast<double>(coils));
    }
    return out;
}

SpringSegments segments_of(const CoilGeometry& c) {
    SpringSegments out;
    out.count = std::max(8, static_cast<int>(std::ceil(2 * c.active_coils - 1e-9)));
    out.base_m = axial_wire_m(c) * c.dead_coils;
    const double coils = c.active_coils / out.count, open_m = c.free_length_m - out.base_m;
    const std::vector<double> pitch = uneven_pitch(c) ? pitches_of(c) : std::vector{1.0};
    const auto itself = [](double p) { return p; };
    const double whole = over_coils(c, pitch, 0, c.active_coils, itself);
    for (int j = 0; j < out.count; ++j) {
        const double a = coils * j, b = coils * (j + 1);
        out.stiffness_N_per_m.push_back(1 / over_coils(c, c.mean_diameter_m, a, b, [&](double d) {
                                            return coil_compliance_m_per_N(c, d);
                                        }));
        out.mass_kg.push_back(
            over_coils(c, c.mean_diameter_m, a, b, [&](double d) { return coil_mass_kg(c, d); }));
        out.free_m.push_back(pitch.size() == 1 ? open_m / out.count
                                               : open_m * over_coils(c, pitch, a, b, itself) / whole);
    }
    out.solid_m = axial_wire_m(c) * coils;
    return out;
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

double axial_wire_m(const CoilGeometry& coil) {
    return coil.wire_height_m.value_or(coil.wire_m);
}

bool uneven_pitch(const CoilGeometry& coil) {
    return coil.pitch_m.size() > 1 || coil.pitch_scatter.value_or(0) > 0;
}

std::vector<double> pitches_of(const CoilGeometry& coil) {
    const double scatter = coil.pitch_scatter.value_or(0);
    if (scatter <= 0)
        return coil.pitch_m;
    const auto coils = static_cast<std::size_t>(std::max(2.0, std::round(coil.active_coils)));
    const std::vector<double> listed = coil.pitch_m.empty() ? std::vector{1.0} : coil.pitch_m;
    const double share = coil.active_coils / static_cast<double>(coils);
    std::vector<double> out = spread_quantiles(coils);
    for (std::size_t i = 0; i < coils; ++i) {
        const double from = share * static_cast<double>(i);
        const double mean = over_coils(coil, listed, from, from + share, [](double p) { return p; }) / share;
        out[i] = mean * (1 + scatter * out[i]);
    }
    return out;
}

double coil_mass_kg(const CoilGeometry& coil, double mean_diameter_m) {
    return coil.density_kg_m3 * (kPi * coil.wire_m * axial_wire_m(coil) / 4) * (kPi * mean_diameter_m);
}

double coil_compliance_m_per_N(const CoilGeometry& coil, double mean_diameter_m) {
    const double w = coil.wire_m, h = axial_wire_m(coil);
    const double wire4 = 2 * std::pow(w * h, 3) / (w * w + h * h); // d^4 of round wire
    return 8 * std::pow(mean_diameter_m, 3) / (coil.shear_modulus_Pa * wire4);
}

SegmentBalance balance_of(const SpringSegments& s, double height_m) {
    SegmentBalance out;
    const double span = height_m - s.base_m;
    const auto n = s.free_m.size();
    double compliance = 0, free = 0;
    for (std::size_t j = 0; j < n; ++j) {
        compliance += 1 / s.stiffness_N_per_m[j];
        free += s.free_m[j];
    }
    out.load_N = (free - span) / compliance;
    // The span over the load is convex and falls in straight pieces: from the all-open load, which is too
    // low, Newton's steps climb to the root within as many steps as there are pieces.
    for (std::size_t step = 0; step <= n + 1; ++step) {
        double length = 0;
        compliance = 0;
        out.length_m.clear();
        for (std::size_t j = 0; j < n; ++j) {
            const double k = s.stiffness_N_per_m[j], open = s.free_m[j] - out.load_N / k;
            const double closed = (k * s.free_m[j] + kClashStiffness_N_per_m * s.solid_m - out.load_N) /
                                  (k + kClashStiffness_N_per_m);
            out.length_m.push_back(open >= s.solid_m ? open : closed);
            compliance += 1 / (open >= s.solid_m ? k : k + kClashStiffness_N_per_m);
            length += out.length_m.back();
        }
        if (std::abs(length - span) < 1e-12)
            break;
        out.load_N += (length - span) / compliance;
    }
    out.rate_N_per_m = 1 / compliance;
    return out;
}

SpringStatics::SpringStatics(const Spring& spring) : spring_(spring) {
    if (const auto* c = std::get_if<CoilGeometry>(&spring.kind)) {
        rate_N_per_m_ = 1 / over_coils(*c, c->mean_diameter_m, 0, c->active_coils,
                                       [&](double d) { return coil_compliance_m_per_N(*c, d); });
        solid_height_m_ = axial_wire_m(*c) * (c->active_coils + c->dead_coils);
        active_mass_kg_ = over_coils(*c, c->mean_diameter_m, 0, c->active_coils,
                                     [&](double d) { return coil_mass_kg(*c, d); });
        if (uneven_pitch(*c))
            uneven_ = segments_of(*c);
        dead_mass_kg_ = c->dead_coils * coil_mass_kg(*c, c->mean_diameter_m.back());
    } else {
        const auto& table = std::get<LoadTable>(spring.kind);
        table_ = curve_of(table);
        solid_height_m_ = table.solid_height_m;
        active_mass_kg_ = table.moving_mass_kg;
        dead_mass_kg_ = table.dead_mass_kg;
    }
}

double SpringStatics::load_N(double height_m) const {
    if (uneven_)
        return balance_of(*uneven_, height_m).load_N;
    if (const CoilGeometry* c = coil())
        return rate_N_per_m_ * (c->free_length_m - height_m);
    return table_.value(height_m);
}

double SpringStatics::rate_N_per_m(double height_m) const {
    if (uneven_)
        return balance_of(*uneven_, height_m).rate_N_per_m;
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
        const double index = diameter / c->wire_m, h = axial_wire_m(*c);
        const double wahl = (4 * index - 1) / (4 * index - 4) + 0.615 / index;
        const double section = kPi * c->wire_m * h * std::min(c->wire_m, h); // an ellipse in torsion
        worst = std::max(worst, wahl * 8 * load_N(height_m) * diameter / section);
    }
    return worst;
}

double load_of(const std::vector<Spring>& springs, double height_m) {
    double out = 0;
    for (const Spring& spring : springs)
        out += SpringStatics(spring).load_N(height_m);
    return out;
}

SpringSegments segments_of(const Spring& spring, double installed_height_m, double lift_m) {
    const SpringStatics statics(spring);
    SpringSegments out;
    const double rate = statics.chord_rate_N_per_m(installed_height_m, installed_height_m - lift_m);
    if (const auto* c = std::get_if<CoilGeometry>(&spring.kind)) {
        out = segments_of(*c);
    } else {
        out.from_table = true;
        out.count = static_cast<int>(kTableSegments);
        out.stiffness_N_per_m.assign(static_cast<std::size_t>(out.count), rate * out.count);
        out.mass_kg.assign(static_cast<std::size_t>(out.count), statics.active_mass_kg() / out.count);
        out.solid_m = statics.solid_height_m() / out.count;
    }
    out.damping_s = 2 * spring.damping_ratio / (2 * kPi * statics.surge_hz(rate));
    out.top_share_kg = 0.5 * out.mass_kg.back() + 0.5 * statics.dead_mass_kg();
    return out;
}

} // namespace bathmos
