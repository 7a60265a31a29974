#include "core/whatif/handles.h"

#include "core/train/train_figures.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

constexpr double kSteel_kg_m3 = 7850;

double rate_N_per_m(const Train& t) {
    double sum = 0;
    for (const Spring& spring : t.springs)
        sum += SpringStatics(spring).rate_N_per_m(t.installed_height_m);
    return sum;
}

// Each spring keeps its load at the installed height and its mass; only the slope changes.
void scale_rate(Train& t, double factor) {
    for (Spring& spring : t.springs) {
        if (auto* coil = std::get_if<CoilGeometry>(&spring.kind)) {
            coil->shear_modulus_Pa *= factor;
            const double before = coil->free_length_m;
            coil->free_length_m =
                t.installed_height_m + (coil->free_length_m - t.installed_height_m) / factor;
            for (double& pitch : coil->pitch_m) // they fill the free length
                pitch *= (coil->free_length_m - axial_wire_m(*coil) * coil->dead_coils) /
                         (before - axial_wire_m(*coil) * coil->dead_coils);
        } else {
            auto& table = std::get<LoadTable>(spring.kind);
            const double seat = SpringStatics(spring).load_N(t.installed_height_m);
            for (double& load : table.load_N)
                load = seat + factor * (load - seat);
        }
    }
}

double tube_area_m2(const Pushrod& rod) {
    const double inner = rod.outer_diameter_m - 2 * rod.wall_m;
    return kPi / 4 * (rod.outer_diameter_m * rod.outer_diameter_m - inner * inner);
}

// The tube's mass follows its section, by the density that makes its modulus: steel unless far off.
void reshape_rod(Train& t, double diameter_m, double wall_m) {
    Pushrod& rod = *t.pushrod;
    const double before = tube_area_m2(rod);
    rod.outer_diameter_m = diameter_m;
    rod.wall_m = std::min(wall_m, diameter_m / 2);
    const double density = kSteel_kg_m3 * std::min(1.0, rod.youngs_modulus_Pa / 205e9);
    rod.mass_kg =
        std::max(0.2 * rod.mass_kg, rod.mass_kg + density * (tube_area_m2(rod) - before) * rod.length_m);
}
bool rod_is_computed(const Train& t) {
    return t.pushrod && !t.pushrod->stiffness_N_per_m;
}

double stated_peak(const LobeTable& table) {
    return table.lift.empty() ? 0 : *std::max_element(table.lift.begin(), table.lift.end());
}
double lift_unit_m(const LobeTable& table) {
    return table.lift_unit == LiftUnit::Inch ? kInch_m : 1e-3;
}

std::optional<double> lobe_lift(const Train& t) {
    if (const auto* analytic = std::get_if<AnalyticLobe>(&t.lobe.shape))
        return analytic->lift_m;
    const auto& table = std::get<LobeTable>(t.lobe.shape);
    return stated_peak(table) * lift_unit_m(table);
}
void set_lobe_lift(Train& t, double lift_m) {
    if (auto* analytic = std::get_if<AnalyticLobe>(&t.lobe.shape)) {
        analytic->lift_m = lift_m;
        return;
    }
    auto& table = std::get<LobeTable>(t.lobe.shape);
    const double factor = lift_m / (stated_peak(table) * lift_unit_m(table));
    for (double& lift : table.lift)
        lift *= factor;
}

// Angle over which a table stands above a tenth of its lift, rad of the cam.
double table_span_rad(const LobeTable& table) {
    const double level = 0.1 * stated_peak(table);
    double first = 0, last = 0;
    bool any = false;
    for (std::size_t i = 0; i < table.angle.size(); ++i)
        if (table.lift[i] >= level) {
            first = any ? std::min(first, table.angle[i]) : table.angle[i];
            last = any ? std::max(last, table.angle[i]) : table.angle[i];
            any = true;
        }
    return radians(last - first) / (table.angle_unit == AngleUnit::CrankDegree ? 2 : 1);
}
std::optional<double> lobe_span(const Train& t) {
    if (const auto* analytic = std::get_if<AnalyticLobe>(&t.lobe.shape))
        return 4 * analytic->half_duration_rad; // both flanks, in crank angle
    return 2 * table_span_rad(std::get<LobeTable>(t.lobe.shape));
}
// A table keeps its angles; each takes the lift that stood nearer to or farther from the nose.
void set_lobe_span(Train& t, double span_rad) {
    if (auto* analytic = std::get_if<AnalyticLobe>(&t.lobe.shape)) {
        analytic->half_duration_rad = span_rad / 4;
        return;
    }
    auto& table = std::get<LobeTable>(t.lobe.shape);
    const double factor = span_rad / (2 * table_span_rad(table));
    const auto peak = std::max_element(table.lift.begin(), table.lift.end()) - table.lift.begin();
    const double nose = table.angle[static_cast<std::size_t>(peak)];
    CubicCurve curve = CubicCurve::monotone(table.angle, table.lift);
    const double low = curve.first(), high = curve.last();
    for (std::size_t i = 0; i < table.angle.size(); ++i)
        table.lift[i] = curve.value(std::clamp(nose + (table.angle[i] - nose) / factor, low, high));
}
bool rising_part(const std::vector<double>& list) {
    return list.size() > 1 && std::is_sorted(list.begin(), list.end()) &&
           std::adjacent_find(list.begin(), list.end()) == list.end();
}

std::optional<double> fixed_ratio(const Train& t) {
    const double* ratio = t.rocker ? std::get_if<double>(&t.rocker->ratio) : nullptr;
    return ratio ? std::optional(*ratio) : std::nullopt;
}
void set_fixed_ratio(Train& t, double ratio) {
    t.rocker->output_arm_m *= ratio / std::get<double>(t.rocker->ratio);
    t.rocker->ratio = ratio;
}

// What the ratio gains the lobe gives up; its nose stays as far from the cam's middle.
void set_ratio_at_same_lift(Train& t, double ratio) {
    const double before = *fixed_ratio(t), lift = *lobe_lift(t);
    set_fixed_ratio(t, ratio);
    set_lobe_lift(t, lift * before / ratio);
    if (t.lobe.base_radius_m > 0)
        t.lobe.base_radius_m =
            std::max(0.5 * t.lobe.base_radius_m, t.lobe.base_radius_m + lift - lift * before / ratio);
}

double seat_load_N(const Train& t) {
    return load_of(t.springs, t.installed_height_m);
}

// The load over the moving mass stays: what a lighter valve needs less of.
void set_load_at_same_margin(Train& t, double seat_N) {
    const double factor = seat_N / seat_load_N(t);
    const RigidMotion rigid(t, curve_of(t.lobe));
    const double moving_kg = figures_of(t, rigid).equivalent_mass_total_kg;
    t.valve.mass_kg = std::max(0.2 * t.valve.mass_kg, t.valve.mass_kg + (factor - 1) * moving_kg);
    scale_loads(t, factor);
}

const std::vector<Handle> kHandles = {
    {"valve_mass", "Valve mass", "Valve alone.", Quantity::Mass,
     [](const Train& t) { return std::optional(t.valve.mass_kg); },
     [](Train& t, double si) { t.valve.mass_kg = si; }, 1e-3},
    {"spring_rate", "Spring rate", "All springs together; seat load and mass stay.", Quantity::Stiffness,
     [](const Train& t) { return std::optional(rate_N_per_m(t)); },
     [](Train& t, double si) { scale_rate(t, si / rate_N_per_m(t)); }, 0.5e3},
    {"installed_height", "Installed height", "A shim takes its thickness off.", Quantity::Length,
     [](const Train& t) { return std::optional(t.installed_height_m); },
     [](Train& t, double si) { t.installed_height_m = si; }, 0.1e-3},
    {"pushrod_diameter", "Pushrod diameter", "The mass follows the tube.", Quantity::Length,
     [](const Train& t) {
         return rod_is_computed(t) ? std::optional(t.pushrod->outer_diameter_m) : std::nullopt;
     },
     [](Train& t, double si) { reshape_rod(t, si, t.pushrod->wall_m); }, 0.1e-3},
    {"pushrod_wall", "Pushrod wall", "The mass follows the tube.", Quantity::Length,
     [](const Train& t) { return rod_is_computed(t) ? std::optional(t.pushrod->wall_m) : std::nullopt; },
     [](Train& t, double si) { reshape_rod(t, t.pushrod->outer_diameter_m, si); }, 0.05e-3},
    {"rocker_ratio", "Rocker ratio", "The output arm follows.", Quantity::Count, fixed_ratio, set_fixed_ratio,
     0.01},
    {"lobe_lift", "Lobe lift", "A measured lobe is stretched in lift.", Quantity::Length, lobe_lift,
     set_lobe_lift, 0.05e-3},
    {"lobe_span", "Lobe duration",
     "Crank degrees over the flanks of a formula, or above a tenth of the lift of a table, which is "
     "stretched.",
     Quantity::Angle,
     [](const Train& t) -> std::optional<double> {
         const auto* table = std::get_if<LobeTable>(&t.lobe.shape);
         return table && !rising_part(table->angle) ? std::nullopt : lobe_span(t);
     },
     set_lobe_span, radians(1)},
    {"lash", "Lash", "At the valve tip.", Quantity::Length,
     [](const Train& t) { return t.hydraulic() ? std::nullopt : std::optional(t.lash_m); },
     [](Train& t, double si) { t.lash_m = si; }, 0.02e-3},
    {"pressure", "Pressure on the head", "Boost or back pressure, constant.", Quantity::Pressure,
     [](const Train& t) { return t.pressure_table ? std::nullopt : std::optional(t.back_pressure_Pa); },
     [](Train& t, double si) { t.back_pressure_Pa = si; }, 5e3},
    {"ratio_same_lift", "Ratio, lift",
     "The lobe's lift gives what the ratio gains; its base circle grows by that.", Quantity::Count,
     fixed_ratio, set_ratio_at_same_lift, 0.01},
    {"load_same_margin", "Load, margin",
     "Seat load of all springs; the valve's mass follows, so that load over moving mass stays.",
     Quantity::Force, [](const Train& t) { return std::optional(seat_load_N(t)); }, set_load_at_same_margin,
     5},
    {"rocker_stiffness", "Rocker stiff", "Its stiffness; the inertia grows with it.", Quantity::Stiffness,
     [](const Train& t) {
         return t.rocker && t.rocker->stiffness_N_per_m > 0 ? std::optional(t.rocker->stiffness_N_per_m)
                                                            : std::nullopt;
     },
     [](Train& t, double si) {
         t.rocker->inertia_kg_m2 *= si / t.rocker->stiffness_N_per_m;
         t.rocker->stiffness_N_per_m = si;
     },
     200e3},
};

} // namespace

void scale_loads(Train& train, double factor) {
    for (Spring& spring : train.springs) {
        if (auto* coil = std::get_if<CoilGeometry>(&spring.kind))
            coil->shear_modulus_Pa *= factor;
        else
            for (double& load : std::get<LoadTable>(spring.kind).load_N)
                load *= factor;
    }
}

const std::vector<Handle>& handles() {
    return kHandles;
}

void scale_stiffness(Train& train, double factor) {
    if (train.pushrod) {
        train.pushrod->youngs_modulus_Pa *= factor;
        train.pushrod->end_stiffness_N_per_m *= factor;
        if (train.pushrod->stiffness_N_per_m)
            *train.pushrod->stiffness_N_per_m *= factor;
    }
    if (train.rocker)
        train.rocker->stiffness_N_per_m *= factor;
    else
        train.contacts.tip_stiffness_N_per_m *= factor;
}

void scale_spring_damping(Train& train, double factor, double least) {
    for (Spring& spring : train.springs)
        spring.damping_ratio = std::max(least, factor * spring.damping_ratio);
}

void take_pressure_off(Train& train) {
    train.back_pressure_Pa = 0;
    train.pressure_table.reset();
}

void fit_solid_follower(Train& train) {
    constexpr double usual_lash_m = 0.15e-3;
    train.lifter->hydraulic.reset();
    train.lash_m = usual_lash_m;
    if (train.layout == Layout::Finger)
        train.lifter.reset();
}

} // namespace bathmos
