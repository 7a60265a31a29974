// One valve's train, as parts: a plain value in SI. Names follow the train file (formats.md).
#pragma once

#include "core/lobe/lobe.h"
#include "core/rocker/rocker_geometry.h"
#include "core/rocker/rocker_map.h"
#include "core/spring/spring.h"
#include "core/train/tolerance.h"

#include <map>
#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace bathmos {

enum class Layout { Pushrod, Rocker, Finger, Bucket };

/// Chamber and plunger of a hydraulic lifter or adjuster.
struct HydraulicFollower {
    double plunger_diameter_m = 0, chamber_volume_m3 = 0, travel_m = 0, preload_m = 0;
    double supply_Pa = 0; ///< gauge
    double leak_m3_per_s_per_Pa = 0, check_area_m2 = 0, bulk_modulus_Pa = 0, air_fraction = 0;
    double oil_density_kg_m3 = 0, plunger_mass_kg = 0, plunger_spring_N = 0;
    bool operator==(const HydraulicFollower&) const = default;
};

struct Lifter {
    double mass_kg = 0;
    std::optional<HydraulicFollower> hydraulic;
    bool operator==(const Lifter&) const = default;
};

struct Pushrod {
    double mass_kg = 0, length_m = 0, outer_diameter_m = 0, wall_m = 0;
    double youngs_modulus_Pa = 0, end_stiffness_N_per_m = 0, damping_s = 0;
    std::optional<double> stiffness_N_per_m; ///< replaces the computed one
    bool operator==(const Pushrod&) const = default;
};

struct Rocker {
    std::variant<double, RatioTable, RockerGeometry> ratio = 1.0; ///< the last with a pushrod only
    double inertia_kg_m2 = 0, input_arm_m = 0, output_arm_m = 0, stiffness_N_per_m = 0;
    bool operator==(const Rocker&) const = default;
};

/// The valve as two masses, head and stem end, on an axial spring: an option of the model. Springs, locks and
/// tip act on the stem end; pressure and seat on the head, which is what a sensor sees.
struct ElasticValve {
    double stiffness_N_per_m = 40e6, head_share = 0.52, damping_ratio = 0.01;
    bool operator==(const ElasticValve&) const = default;
};

struct Valve {
    double mass_kg = 0, head_diameter_m = 0, stem_diameter_m = 0;
    std::optional<ElasticValve> elastic{};
    bool operator==(const Valve&) const = default;
};

/// The camshaft between its drive and the lobe as one inertia on a torsional spring: an option of the model.
struct CamshaftTorsion {
    double stiffness_N_m_per_rad = 7000, frequency_Hz = 750, damping_ratio = 0.05;
    bool operator==(const CamshaftTorsion&) const = default;
};

/// What the lash is counted from: the valve's first touch of its seat, or its rest, which the springs press
/// some microns deeper and from where a feeler gauge counts.
enum class LashAt { FirstTouch, LoadedRest };

/// Uneven turning of a rig's drive, as shares of its speed at the second and third order of the crank: an
/// option of the model. speed = mean (1 + c2 cos 2a + s2 sin 2a + c3 cos 3a + s3 sin 3a), a = crank angle
/// from the nose. Motion is then recorded over the angle of an even turning.
struct DriveRipple {
    double second_cos = 0, second_sin = 0, third_cos = 0, third_sin = 0;
    bool operator==(const DriveRipple&) const = default;
    /// How far the cam's angle is ahead of an even turning, rad.
    double ahead_rad(double cam_rad) const;
    /// Its derivative by the even angle: the speed over its mean, less 1.
    double ahead_slope(double cam_rad) const;
};

struct Contacts {
    double cam_stiffness_N_per_m = 40e6, cam_damping_s_per_m = 1.0;
    double tip_stiffness_N_per_m = 0; ///< bucket layout only; elsewhere the rocker's
    double tip_damping_s_per_m = 1.0;
    double seat_stiffness_N_per_m = 50e6, seat_damping_s_per_m = 1.5;
    bool operator==(const Contacts&) const = default;
};

struct Friction {
    double viscous_N_s_per_m = 2, coulomb_N = 0, follower_N_s_per_m = 10, rocker_N_s_per_m = 10;
    bool operator==(const Friction&) const = default;
};

/// Pressure on the valve's head over crank angle, 0 at the nose, repeating every two turns; linear between.
struct PressureTable {
    std::vector<double> crank_rad; ///< rising, within one cycle
    std::vector<double> pressure_Pa;
    /// Pa at a crank angle of any turn, rad from the nose.
    double at(double crank_rad) const;
    bool operator==(const PressureTable&) const = default;
};

struct Train {
    std::string name;
    Layout layout = Layout::Pushrod;
    Lobe lobe;
    double lash_m = 0;
    LashAt lash_at = LashAt::FirstTouch;
    std::optional<CamshaftTorsion> camshaft;
    std::optional<DriveRipple> drive_ripple;
    std::optional<Lifter> lifter;
    std::optional<Pushrod> pushrod;
    std::optional<Rocker> rocker;
    Valve valve;
    double retainer_mass_kg = 0, locks_mass_kg = 0, locks_angle_rad = 0, cap_mass_kg = 0;
    std::vector<Spring> springs;
    double installed_height_m = 0;
    Contacts contacts;
    Friction friction;
    double back_pressure_Pa = 0;
    std::optional<PressureTable> pressure_table; ///< replaces back_pressure_Pa
    std::map<std::string, Tolerance> tolerances; ///< by key, where they differ from the usual ones
    bool operator==(const Train&) const = default;

    /// The identity without a rocker. Throws InputError for a geometry that does not close.
    RockerMap rocker_map() const;
    bool hydraulic() const { return lifter && lifter->hydraulic; }
    /// Lash in effect: a hydraulic follower takes it up.
    double effective_lash_m() const { return hydraulic() ? 0.0 : lash_m; }
};

/// Kinematic (rigid) valve motion max(0, g(s) - lash), and its derivatives per rad while open (0 when
/// closed).
class RigidMotion {
  public:
    RigidMotion(const Train& train, LobeCurve curve);
    /// Lift in m at a cam angle in rad from the nose, any turn.
    double lift_m(double theta_rad) const;
    double velocity_m_per_rad(double theta_rad) const; ///< dyk/dtheta, m/rad
    /// d2yk/dtheta2, m/rad2, by the chain rule (dR/dq by central difference).
    double acceleration_m_per_rad2(double theta_rad) const;
    double peak_m() const { return lift_m(0); }
    const LobeCurve& lobe() const { return curve_; }
    const RockerMap& map() const { return map_; }

  private:
    LobeCurve curve_;
    RockerMap map_;
    double lash_m_;
};

} // namespace bathmos
