// One valve spring: from its geometry or from a load-height table (physics.md 3).
#pragma once

#include "core/math/cubic_curve.h"

#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace bathmos {

/// Round-wire coil spring by its dimensions.
struct CoilGeometry {
    double wire_m = 0;
    std::vector<double>
        mean_diameter_m; ///< seat to retainer, each over an equal share of the active coils; 1 = straight
    double active_coils = 0;
    double dead_coils = 0; ///< take wire x dead at solid and no deflection
    double free_length_m = 0;
    double shear_modulus_Pa = 79.3e9;
    double density_kg_m3 = 7850;
    bool operator==(const CoilGeometry&) const = default;
};

/// What a spring tester gave: load against height, any order of heights as read.
struct LoadTable {
    std::vector<double> height_m;
    std::vector<double> load_N;
    double moving_mass_kg = 0;
    double solid_height_m = 0;
    bool operator==(const LoadTable&) const = default;
};

struct Spring {
    std::string name;
    std::variant<CoilGeometry, LoadTable> kind;
    double damping_ratio = 0.01; ///< of the first surge mode
    double friction_N = 0;       ///< damper or nested rub
    bool operator==(const Spring&) const = default;
};

/// Mass of one coil, kg: rho (pi d^2/4) (pi D).
double coil_mass_kg(const CoilGeometry& coil, double mean_diameter_m);

/// Static properties of a spring. Made once from its description; value type.
/// The description must have passed check_spring (train/train_check.h).
class SpringStatics {
  public:
    explicit SpringStatics(const Spring& spring);

    double load_N(double height_m) const;       ///< at a static height; linear outside a table
    double rate_N_per_m(double height_m) const; ///< -dF/dH
    double solid_height_m() const { return solid_height_m_; }
    double active_mass_kg() const { return active_mass_kg_; }
    double dead_mass_kg() const { return dead_mass_kg_; } ///< both ends together
    /// First surge frequency with both ends held, 0.5 sqrt(K/m_active), Hz [Wahl; Shigley].
    double surge_hz(double rate_N_per_m) const;
    /// Rate used for surge: of the geometry; for a table the chord between two heights.
    double chord_rate_N_per_m(double height_a_m, double height_b_m) const;
    /// Wahl-corrected shear stress at a height, Pa; empty for a table spring.
    std::optional<double> stress_Pa(double height_m) const;

    const CubicCurve& table() const { return table_; } ///< load over height; empty for geometry

  private:
    const CoilGeometry* coil() const { return std::get_if<CoilGeometry>(&spring_.kind); }

    Spring spring_;
    CubicCurve table_;
    double rate_N_per_m_ = 0;
    double solid_height_m_ = 0;
    double active_mass_kg_ = 0;
    double dead_mass_kg_ = 0;
};

/// A spring cut into segments for the dynamic model (physics.md 5, spring chain).
struct SpringSegments {
    int count = 0;
    double base_m = 0; ///< z_0
    std::vector<double> stiffness_N_per_m;
    std::vector<double> mass_kg;
    double free_m = 0;       ///< free length of a segment (geometry)
    double solid_m = 0;      ///< length of a closed segment
    double damping_s = 0;    ///< beta_s
    double top_share_kg = 0; ///< what rides with the retainer
    bool from_table = false;
};

/// `installed_height_m` and `lift_m` (largest kinematic lift) set the chord rate of a table spring.
SpringSegments segments_of(const Spring& spring, double installed_height_m, double lift_m);

} // namespace bathmos
