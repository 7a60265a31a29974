// What running costs a coil spring: the stress of its wire over a cycle by the full model, surge with it, and
// the share of its life that each cycle takes (docs/life.md, Springs).
#pragma once

#include "core/life/engine_use.h"
#include "core/life/rainflow.h"
#include "core/motion/motion.h"

#include <stop_token>
#include <string_view>

namespace bathmos::life {

/// A wire's strength: tensile A / d^m [Shigley, springs], d in mm; in torsion two thirds of it [Shigley].
struct WireKind {
    std::string_view key, label;
    double strength_Pa = 0, exponent = 0;
};
/// All kinds, the usual one of valve springs first.
const std::vector<WireKind>& wire_kinds();
/// By its key; the usual one where there is none.
const WireKind& find_wire(std::string_view key);

/// What a wire stands, an estimate: the line is so steep that a tenth in stress is a factor of five in
/// life, so it warns of a spring that is worked too hard, and tells no hour of its end. Amplitude
/// and mean that peened wire of any kind stood for ten million cycles [Zimmerli 1957], carried to others by
/// the root of highest stress times amplitude [Smith, Watson & Topper 1970]; other lives by Basquin's line
/// from there to nine tenths of the strength in torsion, to and fro, at a thousand; smaller amplitudes on its
/// continuation [Miner 1945, elementary: on the safe side].
class WireLine {
  public:
    /// Wire thickness in m: the smaller side where it is not round. Throws InputError where it is none.
    WireLine(const WireKind& kind, double wire_m);
    /// Cycles between two stresses, Pa, that break it; infinite where they do not differ.
    double cycles_to_failure(double low_Pa, double high_Pa) const;
    /// Share of its life that these cycles take (Miner's sum).
    double damage(const std::vector<LoadCycle>& cycles) const;
    double shear_strength_Pa() const { return shear_Pa_; }
    double endurance_Pa() const { return endurance_Pa_; } ///< amplitude about nothing, ten million cycles

  private:
    double shear_Pa_ = 0, endurance_Pa_ = 0, slope_ = 0;
};

/// Stress of a spring's wire over one cycle at one speed.
struct SpringStress {
    double speed_rpm = 0;
    double low_Pa = 0, high_Pa = 0; ///< of the segment that suffers most
    double still_Pa = 0;            ///< the same at full lift, standing still
    double damage = 0;              ///< of one cycle, likewise
};

/// How one of a train's springs suffers by speed.
struct SpringFatigue {
    std::string spring;
    std::string none; ///< why nothing is known of it: a spring by its tester table has no wire; else ""
    std::vector<SpringStress> by_speed;
    /// Share of its life that a use takes: damage between the speeds that were run on straight lines of its
    /// logarithm, that of the nearest beyond them. 0 where `none`.
    double share(const EngineUse& use) const;
};

/// All springs of a train at some speeds (rising). `wire`: kind by key. Throws InputError where the train
/// cannot be run or no speed is given, Stopped.
std::vector<SpringFatigue> fatigue_of(const Train& train, const std::vector<double>& speeds_rpm,
                                      std::string_view wire, const std::stop_token& stop = {});

/// Speeds at which fatigue_of tells a use, rising: the middle of each class that it has; 1000 rev/min for all
/// that are slower, where nothing swings.
std::vector<double> speeds_of(const EngineUse& use);

} // namespace bathmos::life
