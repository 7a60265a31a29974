// What the parts of a train add up to without moving: mass, stiffness, frequencies, loads, margins, and the
// rigid screen (physics.md 3, 6). Live in the Train station while typing.
#pragma once

#include "core/train/train.h"
#include "core/units/measured_text.h"

#include <optional>
#include <string>
#include <vector>

namespace bathmos {

/// One part's share of a sum, e.g. of the equivalent mass.
struct Share {
    std::string part;
    double value;
};

/// Speed at which the rigid train's contact force first reaches zero.
struct Separation {
    double speed_rpm;
    double crank_deg; ///< where, from the nose
};

/// Bind margin at peak lift, m (physics.md 3): the *close* school keeps it between these two, the *roomy* one
/// above the second; below the first warns, contact at rest stops.
inline constexpr double kBindClose_m = 1.27e-3, kBindRoomy_m = 2.54e-3;

enum class Severity { Note, Warn, Stop };

struct Finding {
    Severity severity;
    std::string part;   ///< train-file key of the value or part concerned
    std::string text;   ///< what; "{}" stands for the value
    std::string reason; ///< why it matters, and where that is known from; "{}" stands for the limit
    Quantity quantity = Quantity::Count; ///< of value and limit
    double value = 0, limit = 0;         ///< SI
    std::string rule{};                  ///< key of the rule that found it, for waivers
};

/// "bind margin 1.20 mm at peak lift – below 1.30 mm little is left for loft", in the units asked for.
std::string in_words(const Finding& finding, const UnitChoice& units = {});
/// The same with its values, so that units follow the reader.
MeasuredText told(const Finding& finding);

struct SpringFigures {
    std::string name;
    double rate_N_per_m; ///< at the installed height
    double seat_load_N, open_load_N;
    double surge_hz;
    double solid_height_m;
    double bind_margin_m;
    std::optional<double> stress_open_Pa;
};

struct TrainFigures {
    std::vector<Share> equivalent_mass_kg; ///< at the valve; physics.md 6
    double equivalent_mass_total_kg;
    std::vector<Share> compliance_m_per_N; ///< of each link of the chain, seen from the valve tip
    double stiffness_N_per_m;              ///< whole chain at the valve tip
    double train_hz;                   ///< sqrt(stiffness / equivalent mass) / 2 pi: valve against the train
    double link_stiffness_N_per_m = 0; ///< pushrod with ball ends; 0 when there is none
    double peak_lift_m;                ///< kinematic
    double seat_load_N, open_load_N;   ///< all springs
    double net_seat_load_N;            ///< less the highest pressure on the head
    double bind_margin_m;              ///< smallest of the springs, at the kinematic peak lift
    std::vector<SpringFigures> springs;
    std::optional<Separation> separation;
    std::vector<Finding> findings;
};

/// Stiffness of the pushrod with its ball ends, N/m: E A / l in series with the ends, or the given value.
double link_stiffness_N_per_m(const Pushrod& rod);

/// Force of the pressure on the valve head at a crank angle, N; opens the valve.
double gas_force_N(const Train& train, double crank_rad);

/// Everything above for a valid train (check_train empty). `rigid` must come from the same train.
TrainFigures figures_of(const Train& train, const RigidMotion& rigid);

/// Of a valid train: the findings that mark whatever is computed from it, stops and unusual numbers.
std::vector<Finding> cautions_of(const Train& train);

/// Lowest speed at which Fspring(yk) - Fgas + meq yk'' reaches zero in the main event where yk'' < 0; empty
/// if never.
std::optional<Separation> separation_of(const Train& train, const RigidMotion& rigid,
                                        double equivalent_mass_kg);

} // namespace bathmos
