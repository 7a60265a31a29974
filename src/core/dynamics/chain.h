// The dynamic model of one train, compiled to the numbers the integrator needs (physics.md 5).
//
// One chain: drive (cam to rocker input) -> tip contact -> valve on its seat -> spring coils. Layouts differ
// in the drive only (drive.h). Degrees of freedom stand in one list: the drive's, the valve, then the free
// coils of each spring from seat to retainer; last what options of the model add: the camshaft's twist (rad),
// the valve's head where the valve is elastic (the valve's dof is then its stem end).
#pragma once

#include "core/dynamics/chamber.h"
#include "core/math/cubic_curve.h"
#include "core/spring/spring.h"
#include "core/train/train.h"

#include <cstddef>
#include <deque>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <vector>

namespace bathmos {

/// Points of the recorded cycle: every 0.5 crank degree, both ends.
inline constexpr std::size_t kGridSteps = 1440;
inline constexpr std::size_t kGridPoints = kGridSteps + 1;
inline constexpr double kGridStep_crank_deg = 720.0 / kGridSteps;
/// Fewest steps between two grid points: 2880 a cycle.
inline constexpr std::size_t kLeastSubsteps = 2;

/// Hunt-Crossley contact: F = k p (1 + chi p') for penetration p > 0, never below 0 [Hunt & Crossley 1975].
struct ContactLaw {
    double stiffness_N_per_m = 0;
    double damping_s_per_m = 0;
};

/// How the cam lift reaches the tip; one file of laws each (drive_*-inl.h), one row each in drive.cpp.
enum class DriveKind { Pushrod, Direct, HydraulicPushrod, HydraulicBucket, PivotAdjuster };

/// One segment of a spring and the free coil below it, as the integrator reads them.
struct SegmentRow {
    double stiffness_N_per_m, free_N; ///< free_N = stiffness x free length
    double damping_N_s_per_m;
    double share; ///< of the valve's motion at the coil below, resting
    double coil_per_mass,
        coil_rub_per_mass;          ///< 1/m and Coulomb friction/m of the coil below; 0 for the first segment
    double still_m, still_per_lift; ///< place of the coil below at rest: still_m + still_per_lift y
};

/// One spring as a chain of segments, with its place in the list of degrees of freedom.
struct ChainSpring {
    SpringSegments segments;
    std::vector<SegmentRow> rows;
    bool even = false; ///< all segments and coils alike
    BinnedLine table;  ///< load over the whole spring's height (table springs)
    std::size_t first_dof = 0;
    double rub_per_coil_N = 0;
    bool rubs() const { return rub_per_coil_N > 0; }
    /// Where coils close one after another their places at rest bend: over equal steps of lift from 0 to
    /// still_reach_m; coil after coil. Else empty, and the rows say it.
    std::vector<double> still_m;
    double still_reach_m = 0;
};
inline constexpr std::size_t kStillSteps = 64;

/// What the cam shaft gives at one instant.
struct CamRow {
    double cam_lift_m, cam_velocity_m_per_rad; ///< s and ds/dtheta
    double gas_N;                              ///< pressure on the valve head, opens the valve
};

/// How the cam's lift bends on, for a camshaft that twists: second and third derivative by angle; and the
/// speed of its drive over the mean, whose share CamRow's velocity then does not hold.
struct CamBend {
    double m_per_rad2, m_per_rad3, turning;
};

/// What the orders of a drive's ripple are at an angle.
struct DriveWaves {
    double second_cos, second_sin, third_cos, third_sin;
};

/// The cam over one turn, from theta = -pi.
struct CamTable {
    std::vector<CamRow> rows;      ///< at each half step
    std::vector<CamBend> bends;    ///< at the same angles; empty where the camshaft does not twist
    std::vector<DriveWaves> waves; ///< likewise
};

/// Cam tables of trains with one lobe, which share what neither drive nor pressure sets apart: a table costs
/// as much as a few cycles of eight speeds. May be asked from several threads at once; the last dozen are
/// kept.
class CamTables {
  public:
    /// Of trains whose lobe this is.
    explicit CamTables(LobeCurve lobe) : lobe_(std::move(lobe)) {}
    /// The lobe that they are of.
    const LobeCurve& lobe() const { return lobe_; }
    /// The table of a train of this lobe in so many steps between grid points.
    std::shared_ptr<const CamTable> of(const Train& train, std::size_t substeps);

  private:
    /// All that a table hangs on beside the lobe.
    struct Key {
        std::size_t substeps;
        bool twists;
        std::optional<DriveRipple> ripple;
        double head_diameter_m, back_pressure_Pa;
        std::optional<PressureTable> pressure;
        bool operator==(const Key&) const = default;
    };
    struct Made {
        Key key;
        std::shared_ptr<const CamTable> table;
    };
    LobeCurve lobe_;
    std::mutex mutex_;
    std::deque<Made> made_; ///< the newest last
};

struct Chain {
    Layout layout = Layout::Pushrod;
    DriveKind drive = DriveKind::Pushrod;
    std::size_t dof = 0;
    std::size_t valve_dof = 0;     ///< drive dofs stand before it
    std::size_t rocker_dof = 0;    ///< input of the rocker map
    std::size_t coil_dofs = 0;     ///< free coils of all springs, after the valve
    std::size_t twist_dof = 0;     ///< of the camshaft; 0: it does not twist
    std::size_t head_dof = 0;      ///< of the valve's head; 0: the valve is one mass
    std::vector<double> mass_kg;   ///< of each dof
    std::vector<double> per_mass;  ///< 1 / mass_kg
    std::vector<std::string> part; ///< what each dof is, in words

    ContactLaw cam, tip, seat;
    double link_stiffness_N_per_m = 0, link_damping_s = 0; ///< pushrod layout
    Chamber chamber;                                       ///< hydraulic drives
    double follower_viscous_N_s_per_m = 0, rocker_viscous_N_s_per_m = 0;
    double valve_viscous_N_s_per_m = 0, coulomb_N = 0;
    double ratio = 1; ///< fixed ratio; unused where ratio_table is not empty
    BinnedCubic ratio_table;
    double lash_m = 0;                                     ///< from the valve's first touch of its seat
    double height_m = 0;                                   ///< installed height
    double twist_N_m_per_rad = 0, twist_damping_N_m_s = 0; ///< of the camshaft
    double stem_N_per_m = 0, stem_damping_N_s_per_m = 0;   ///< of the valve
    std::vector<ChainSpring> springs;

    std::size_t substeps = kLeastSubsteps;     ///< steps between grid points
    std::shared_ptr<const CamTable> cam_table; ///< made for these substeps
    std::vector<double> rigid_m;               ///< yk at the grid points

    const std::vector<CamRow>& cam_rows() const { return cam_table->rows; }

    /// What a sensor at the head sees.
    std::size_t lift_dof() const { return head_dof ? head_dof : valve_dof; }
    std::size_t steps() const { return kGridSteps * substeps; }
    bool hydraulic() const { return chamber.area_m2 > 0; }
    bool rubs_in_guide() const { return coulomb_N > 0; }
    /// Travel at the valve for one at the rocker's input, m; linear outside the table.
    double rocker_travel_m(double input_m) const;
    double rocker_ratio(double input_m) const; ///< its derivative
};

/// The chain in other steps, whose table is given.
Chain in_steps(Chain chain, std::size_t substeps, std::shared_ptr<const CamTable> table);

/// Builds the chain of a valid train. Throws InputError for parts that the model does not know.
Chain chain_of(const Train& train, const RigidMotion& rigid, std::size_t substeps = kLeastSubsteps);
/// The same where tables of the train's lobe are shared.
Chain chain_of(const Train& train, const RigidMotion& rigid, std::size_t substeps, CamTables& tables);

/// An upper bound of the natural frequencies (Gershgorin) and the part that sets it.
struct StiffestPart {
    double rad_per_s;
    std::string part;
};
/// From the stiffness felt at each dof with all contacts closed, over its mass; damping does not count.
StiffestPart stiffest_part(const Chain& chain);

/// 0.25 keeps 200 random trains within 0.5 um (rms) of an independent integration; plain
/// stability would allow 2.78.
inline constexpr double kCloseStep = 0.25;
/// Steps between grid points at a speed, so that the stiffest part is followed closely: the bound of the own
/// frequencies times the step in time stays below `close_step`. One of 2, 4, 6, 8, 12, 16 ...: 3 would do by
/// that rule, but trains that rattle in their lash at middle speeds come out up to 2 um off with it.
/// None below `least`, which may be 1. Throws InputError naming the part above kMostSubsteps.
std::size_t substeps_for(const StiffestPart& stiffest, double speed_rpm, double close_step = kCloseStep,
                         std::size_t least = kLeastSubsteps);
/// The same for a chain; throws InputError as above.
inline std::size_t substeps_for(const Chain& chain, double speed_rpm) {
    return substeps_for(stiffest_part(chain), speed_rpm);
}
inline constexpr std::size_t kMostSubsteps = 128;

/// Where a run starts.
struct RestState {
    std::vector<double> position_m;
    std::vector<double> velocity_m_per_s; ///< 0, but for the oil's dof, which holds its pressure here
};
/// All dofs at rest on the base circle: valve pressed into its seat by the springs, all forces in balance.
RestState rest_of(const Chain& chain);

/// Static load of all springs at a valve lift, N, by the laws of the chain.
double static_spring_N(const Chain& chain, double lift_m);

} // namespace bathmos
