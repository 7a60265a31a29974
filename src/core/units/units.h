// The quantities that files and screens know, and their factors to SI. The core itself is SI throughout.
#pragma once

#include <bitset>
#include <cstddef>
#include <string_view>
#include <vector>

namespace bathmos {

inline constexpr double kPi = 3.141592653589793238; // <numbers> is more than Qt's moc of Debian 12 can read
inline constexpr double kInch_m = 0.0254;

/// Degrees to radians.
constexpr double radians(double degrees) {
    return degrees * kPi / 180.0;
}
/// Radians to degrees.
constexpr double degrees(double radians) {
    return radians * 180.0 / kPi;
}
/// Cam speed, rad/s, of a crank speed in rev/min (the cam turns once in two crank turns).
constexpr double cam_speed_rad_s(double speed_rpm) {
    return 2.0 * kPi * speed_rpm / 120.0;
}

enum class Quantity {
    Length,         ///< mm | in
    FineLength,     ///< um | thou
    Mass,           ///< g, also beside inches: scales read grams
    Inertia,        ///< kg mm2 | lb in2
    Stiffness,      ///< N/mm | lbf/in
    Modulus,        ///< GPa | Mpsi
    Density,        ///< kg/m3 | lb/in3
    Force,          ///< N | lbf
    Pressure,       ///< kPa | psi
    Angle,          ///< degrees
    Viscous,        ///< N s/m | lbf s/in
    ContactDamping, ///< s/m | s/in
    Time,           ///< s
    Volume,         ///< mm3 | in3
    Area,           ///< mm2 | in2
    Leakage,        ///< mm3/s/kPa | in3/s/psi
    LiftPerDegree,  ///< mm/deg | in/deg (cam degree)
    LiftPerDegree2, ///< mm/deg2 | in/deg2
    LiftPerDegree3, ///< mm/deg3 | in/deg3
    Velocity,       ///< m/s | in/s
    Power,          ///< kW | hp
    Torque,         ///< N m | lbf ft
    Torsion,        ///< N m/rad | lbf ft/rad
    Frequency,      ///< Hz
    Stress,         ///< MPa | ksi
    Speed,          ///< rev/min of the crank, as everywhere in the core
    Temperature,    ///< degrees C
    Count           ///< plain number
};
inline constexpr std::size_t kQuantities = static_cast<std::size_t>(Quantity::Count) + 1;

enum class UnitSystem { Metric, Inch };

/// The units of a screen: one system, and the quantities that are shown in the other one's unit all the same.
class UnitChoice {
  public:
    UnitChoice(UnitSystem system = UnitSystem::Metric) : system_(system) {}
    UnitSystem system() const { return system_; }
    UnitSystem of(Quantity quantity) const { return other_[place(quantity)] ? other(system_) : system_; }
    /// Shows a quantity in this system's unit, whatever the others are shown in.
    void set(Quantity quantity, UnitSystem system) { other_[place(quantity)] = system != system_; }
    bool operator==(const UnitChoice&) const = default;

  private:
    static std::size_t place(Quantity quantity) { return static_cast<std::size_t>(quantity); }
    static UnitSystem other(UnitSystem system) {
        return system == UnitSystem::Metric ? UnitSystem::Inch : UnitSystem::Metric;
    }
    UnitSystem system_;
    std::bitset<kQuantities> other_;
};

/// One unit: value_SI = value_in_unit * to_si. `decimals` is what a reading in this unit deserves on screen.
struct Unit {
    std::string_view name;
    double to_si;
    int decimals;
};

/// The unit a quantity has in files and, for Metric, on screen (formats.md names units in keys).
Unit unit_of(Quantity quantity, const UnitChoice& units = {});

} // namespace bathmos
