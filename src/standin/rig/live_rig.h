// A stand-in for a spin rig that runs: a motor with inertia, an encoder with its index, a position sensor
// with errors of its own, over the *true* twin of a train that it keeps to itself (docs/rig-stream.md). Time
// is what it is told has gone by.
#pragma once

#include "core/live/rig_message.h"
#include "core/train/train.h"

#include <memory>
#include <optional>
#include <random>
#include <string_view>
#include <vector>

namespace bathmos::standin {

/// What goes wrong, on request.
enum class RigFault {
    None,
    DropOuts,    ///< one cycle in ten has a gap
    LostTarget,  ///< the sensor shows one level from a speed on
    Saturation,  ///< it shows no more than 90 % of the lift
    ZeroJump,    ///< its zero moves by a quarter of a millimetre in the middle of the run
    MissedIndex, ///< one pulse in forty is missing
    Creep,       ///< of a held speed: the lift goes by some microns a second
    Bounce       ///< a seat that rebounds: damping is all but gone
};
std::string_view name_of(RigFault fault);
std::optional<RigFault> find_rig_fault(std::string_view name);
const std::vector<RigFault>& all_rig_faults();

struct LiveRigSetup {
    Train believed;
    unsigned seed = 1;
    RigFault fault = RigFault::None;
    bool as_believed = false;     ///< the twin is the train as believed: for tests
    double samples_a_turn = 1440; ///< of the cam, clocked by the encoder; 0: by time
    double rate_Hz = 0;           ///< then
    bool once_per_crank_turn = false;
    double most_rpm = 10'000;
    double rpm_per_s = 500; ///< that motor and inertia can
    double noise_m = 2e-6, gain = 0, zero_walk_m = 3e-6;
    double creep_m_per_s = 12e-6; ///< of the fault
    std::string lift_unit = "mm";
    double from_rpm = 0; ///< it turns already
};

/// The train as it is, not as it is believed: numbers off within what they are known to, with what the model
/// leaves out unless it is asked.
Train hidden_twin(const Train& believed, std::mt19937_64& dice);

class LiveRig {
  public:
    /// Throws InputError for a train that cannot be run.
    explicit LiveRig(const LiveRigSetup& setup);
    ~LiveRig();
    LiveRig(const LiveRig&) = delete;
    LiveRig& operator=(const LiveRig&) = delete;

    live::Hello hello() const;
    live::Answer ask(const live::Request& request);
    /// What the rig says of so many seconds: blocks of samples, a reading, events. The model runs a speed
    /// that is new to it, tens of milliseconds, and remembers it.
    std::vector<live::Message> advance(double seconds);
    double rpm() const;
    const Train& truth() const;

  private:
    class Twin;
    struct State;
    void turn_motor(double seconds);
    float reading(double crank_deg);

    std::unique_ptr<State> state_;
};

} // namespace bathmos::standin
