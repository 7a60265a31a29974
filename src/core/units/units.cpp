#include "core/units/units.h"

namespace bathmos {

namespace {

constexpr double kPerDegree = 180 / kPi; // of a derivative per rad
constexpr double kPound_kg = 0.45359237;
constexpr double kPoundForce_N = 4.4482216152605;
constexpr double kPsi_Pa = kPoundForce_N / (kInch_m * kInch_m);
constexpr double kInch3_m3 = kInch_m * kInch_m * kInch_m;

struct Pair {
    Unit metric;
    Unit inch;
};

Pair pair_of(Quantity quantity) {
    switch (quantity) {
    case Quantity::Length:
        return {{"mm", 1e-3, 3}, {"in", kInch_m, 3}};
    case Quantity::FineLength:
        return {{"µm", 1e-6, 1}, {"thou", kInch_m * 1e-3, 3}};
    case Quantity::Mass:
        return {{"g", 1e-3, 1}, {"g", 1e-3, 1}};
    case Quantity::Inertia:
        return {{"kg mm²", 1e-6, 1}, {"lb in²", kPound_kg * kInch_m * kInch_m, 4}};
    case Quantity::Stiffness:
        return {{"N/mm", 1e3, 1}, {"lbf/in", kPoundForce_N / kInch_m, 0}};
    case Quantity::Modulus:
        return {{"GPa", 1e9, 1}, {"Mpsi", kPsi_Pa * 1e6, 2}};
    case Quantity::Density:
        return {{"kg/m³", 1.0, 0}, {"lb/in³", kPound_kg / kInch3_m3, 4}};
    case Quantity::Force:
        return {{"N", 1.0, 0}, {"lbf", kPoundForce_N, 1}};
    case Quantity::Pressure:
        return {{"kPa", 1e3, 1}, {"psi", kPsi_Pa, 2}};
    case Quantity::Angle:
        return {{"°", kPi / 180, 1}, {"°", kPi / 180, 1}};
    case Quantity::Viscous:
        return {{"N s/m", 1.0, 1}, {"lbf s/in", kPoundForce_N / kInch_m, 4}};
    case Quantity::ContactDamping:
        return {{"s/m", 1.0, 2}, {"s/in", 1 / kInch_m, 4}};
    case Quantity::Time:
        return {{"s", 1.0, 6}, {"s", 1.0, 6}};
    case Quantity::Volume:
        return {{"mm³", 1e-9, 0}, {"in³", kInch3_m3, 4}};
    case Quantity::Area:
        return {{"mm²", 1e-6, 2}, {"in²", kInch_m * kInch_m, 4}};
    case Quantity::Leakage:
        return {{"mm³/s/kPa", 1e-12, 3}, {"in³/s/psi", kInch3_m3 / kPsi_Pa, 6}};
    case Quantity::LiftPerDegree:
        return {{"mm/°", 1e-3 * kPerDegree, 4}, {"in/°", kInch_m * kPerDegree, 5}};
    case Quantity::LiftPerDegree2:
        return {{"mm/°²", 1e-3 * kPerDegree * kPerDegree, 5},
                {"in/°²", kInch_m * kPerDegree * kPerDegree, 6}};
    case Quantity::LiftPerDegree3:
        return {{"mm/°³", 1e-3 * kPerDegree * kPerDegree * kPerDegree, 6},
                {"in/°³", kInch_m * kPerDegree * kPerDegree * kPerDegree, 6}};
    case Quantity::Velocity:
        return {{"m/s", 1.0, 2}, {"in/s", kInch_m, 1}};
    case Quantity::Power:
        return {{"kW", 1e3, 1}, {"hp", kPoundForce_N * 12 * kInch_m * 550, 1}};
    case Quantity::Torque:
        return {{"N m", 1.0, 1}, {"lbf ft", kPoundForce_N * 12 * kInch_m, 1}};
    case Quantity::Torsion:
        return {{"N m/rad", 1.0, 0}, {"lbf ft/rad", kPoundForce_N * 12 * kInch_m, 0}};
    case Quantity::Stress:
        return {{"MPa", 1e6, 0}, {"ksi", kPsi_Pa * 1e3, 1}};
    case Quantity::Frequency:
        return {{"Hz", 1.0, 0}, {"Hz", 1.0, 0}};
    case Quantity::Speed:
        return {{"rev/min", 1.0, 0}, {"rev/min", 1.0, 0}};
    case Quantity::Temperature:
        return {{"°C", 1.0, 1}, {"°C", 1.0, 1}};
    case Quantity::Count:
        break;
    }
    return {{"", 1.0, 3}, {"", 1.0, 3}};
}
} // namespace

Unit unit_of(Quantity quantity, const UnitChoice& units) {
    const Pair pair = pair_of(quantity);
    return units.of(quantity) == UnitSystem::Metric ? pair.metric : pair.inch;
}

} // namespace bathmos
