// An intake and an exhaust lobe on their cam: when the valves open and close, how long both are open, and
// what moving the cam does (physics.md 2).
//
// Crank angles here: 0 at the dead centre of overlap, rising with rotation; firing is at -360 and 360.
#pragma once

#include "core/cam/lobe_motion.h"
#include "core/project/project.h"
#include "core/units/units.h"

#include <optional>
#include <string>
#include <vector>

namespace bathmos {

/// A lobe's motion and where its nose stands.
struct PlacedLobe {
    LobeMotion motion;
    double centreline_rad = 0; ///< crank, from the dead centre of overlap: after it (intake), before it
                               ///< (exhaust); both positive
};

/// Both noses as separation and advance, and back. Separation is in cam degrees, as cards give it; advance in
/// crank degrees, positive when intake and exhaust are both earlier.
struct CamTiming {
    double separation_cam_rad = 0;
    double advance_crank_rad = 0;
};
/// Separation and advance of two centre lines, both crank angles from the dead centre of overlap in rad.
CamTiming timing_of(double intake_centreline_rad, double exhaust_centreline_rad);
/// Intake and exhaust centre lines.
std::pair<double, double> centrelines_of(const CamTiming& timing);

/// Where a valve no longer lets charge back; what cautions about compression are judged at: 0.006 in.
inline constexpr double kNearlyShut_m = 0.006 * kInch_m;

/// One valve's events at a height, crank rad; positive as named.
struct ValveEvents {
    double opens_before_rad = 0; ///< intake: before top dead centre; exhaust: before bottom dead centre
    double closes_after_rad = 0; ///< intake: after bottom dead centre; exhaust: after top dead centre
    double duration_rad = 0;
    double lift_at_dead_centre_m = 0; ///< at overlap
};

struct PairEvents {
    std::optional<ValveEvents> intake, exhaust; ///< empty where the height is not reached
    double overlap_rad = 0;                     ///< crank; negative: both are shut for so long
    double overlap_area_m_rad = 0;       ///< of the lower of both lifts, over crank angle, from their seats
    std::optional<double> dynamic_ratio; ///< dynamic compression ratio from intake closing at the height;
                                         ///< needs bore, stroke, rod and ratio
    std::optional<double> shut_ratio;    ///< the same from closing at kNearlyShut_m, whatever the height
};

/// Events of both lobes at a height, the cam moved later by `moved_rad` (crank).
PairEvents events_of(const PlacedLobe& intake, const PlacedLobe& exhaust, double height_m, double moved_rad,
                     const Engine& engine);

/// Crank angle of a point of a lobe, rad: its nose's timing and twice its cam angle.
double crank_of(const PlacedLobe& lobe, bool intake, double theta_rad, double moved_rad);

/// Volume over the piston at a crank angle from top dead centre, by that at top dead centre.
/// Throws InputError (timing "engine...") where bore, stroke, rod or ratio are missing or impossible.
double volume_ratio(const Engine& engine, double crank_rad);

/// What the change from one set of events to another costs and gains at low and high speed, in plain words;
/// empty where nothing changes by as much as a degree.
std::vector<std::string> reading_of(const PairEvents& before, const PairEvents& after);
/// Cautions that a set of events asks for by itself.
std::vector<std::string> cautions_of(const PairEvents& events, const Engine& engine);

} // namespace bathmos
