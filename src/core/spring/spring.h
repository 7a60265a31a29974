// One valve spring: from its geometry or from a load-height table (physics.md 3).
#pragma once

#include "core/math/cubic_curve.h"

#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace bathmos {

/// Coil spring by its dimensions.
struct CoilGeometry {
    double wire_m = 0;                   ///< round: diameter; oval: width across the spring's radius
    std::optional<double> wire_height_m; ///< oval wire: along the spring's axis
    std::vector<double>
        mean_diameter_m; ///< seat to retainer, each over an equal share of the active coils; 1 = straight
    double active_coils = 0;
    double dead_coils = 0; ///< take wire x dead at solid and no deflection
    double free_length_m = 0;
    /// Distance between coils at free length, seat to retainer, each over an equal share of the active coils;
    /// empty = even. Scaled so that pitches and dead coils fill the free length.
    std::vector<double> pitch_m;
    /// An option of the model: scatter of a coil's pitch, one standard deviation over the pitch. Coils then
    /// meet one after another.
    std::optional<double> pitch_scatter;
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
    double dead_mass_kg = 0; ///< both ends together; half of it rides with the retainer
    bool operator==(const LoadTable&) const = default;
};

struct Spring {
    std::string name;
    std::variant<CoilGeometry, LoadTable> kind;
    double damping_ratio = 0.01; ///< of the first surge mode
    double friction_N = 0;       ///< damper or nested Coulomb friction
    bool operator==(const Spring&) const = default;
};

/// What springs are wound to, as a share of the pitch (docs/calibration.md).
inline constexpr double kUsualPitchScatter = 0.012;

/// Room of the wire along the spring's axis, m.
double axial_wire_m(const CoilGeometry& coil);

/// Whether the coils' pitches differ: they close one after another.
bool uneven_pitch(const CoilGeometry& coil);

/// Distance between coils at free length, each over an equal share of the active coils, relative to each
/// other; empty where all are alike. A scatter lays the same normal quantiles over the coils of every such
/// spring, in an order that puts unlike ones side by side: which coil is wide, nobody knows; how far they
/// differ, counts.
std::vector<double> pitches_of(const CoilGeometry& coil);

/// Mass of one coil, kg: rho (pi w h/4) (pi D).
double coil_mass_kg(const CoilGeometry& coil, double mean_diameter_m);

/// Deflection of one coil per load, m/N: pi D^3 / (4 G J) with the torsion constant of the wire's section,
/// J = pi w^3 h^3 / (16 (w^2 + h^2)) for an ellipse [Wahl]; 8 D^3 / (G d^4) for round wire.
double coil_compliance_m_per_N(const CoilGeometry& coil, double mean_diameter_m);

/// A spring cut into segments for the dynamic model (physics.md 5, spring chain).
struct SpringSegments {
    int count = 0;
    double base_m = 0; ///< z_0
    std::vector<double> stiffness_N_per_m;
    std::vector<double> mass_kg;
    std::vector<double> free_m; ///< free length of each segment (geometry)
    double solid_m = 0;         ///< length of a closed segment
    double damping_s = 0;       ///< beta_s
    double top_share_kg = 0;    ///< what rides with the retainer
    bool from_table = false;
};

/// Closed coils press each other with this stiffness (coil clash).
inline constexpr double kClashStiffness_N_per_m = 1e7;

/// A chain of segments at rest between seat and retainer; those pressed below solid carry the clash.
struct SegmentBalance {
    double load_N = 0;
    double rate_N_per_m = 0;
    std::vector<double> length_m;
};
/// Geometry springs only.
SegmentBalance balance_of(const SpringSegments& segments, double height_m);

/// Static properties of a spring. Made once from its description; value type.
/// The description must have passed check_spring (train/train_check.h).
class SpringStatics {
  public:
    explicit SpringStatics(const Spring& spring);

    double load_N(double height_m) const;       ///< at a static height; linear outside a table
    double rate_N_per_m(double height_m) const; ///< -dF/dH; rises as coils of uneven pitch close
    double solid_height_m() const { return solid_height_m_; }
    double active_mass_kg() const { return active_mass_kg_; }
    double dead_mass_kg() const { return dead_mass_kg_; } ///< both ends together
    /// First surge frequency with both ends held, 0.5 sqrt(K/m_active), Hz [Wahl; Shigley].
    double surge_hz(double rate_N_per_m) const;
    /// Rate used for surge: of the geometry with all coils open; for a table the chord between two heights.
    double chord_rate_N_per_m(double height_a_m, double height_b_m) const;
    /// Wahl-corrected shear stress at a height, Pa; empty for a table spring.
    std::optional<double> stress_Pa(double height_m) const;

    const CubicCurve& table() const { return table_; } ///< load over height; empty for geometry

  private:
    const CoilGeometry* coil() const { return std::get_if<CoilGeometry>(&spring_.kind); }

    Spring spring_;
    CubicCurve table_;
    std::optional<SpringSegments> uneven_; ///< where coils close one after another
    double rate_N_per_m_ = 0;
    double solid_height_m_ = 0;
    double active_mass_kg_ = 0;
    double dead_mass_kg_ = 0;
};

/// Load of several springs side by side at a height, N.
double load_of(const std::vector<Spring>& springs, double height_m);

/// `installed_height_m` and `lift_m` (largest kinematic lift) set the chord rate of a table spring.
SpringSegments segments_of(const Spring& spring, double installed_height_m, double lift_m);

} // namespace bathmos
