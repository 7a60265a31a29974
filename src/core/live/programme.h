// What a rig is to be taken through: steps, ramps, holds, back to back; and where it stands.
#pragma once

#include "core/live/rig_message.h"

namespace bathmos::live {

enum class LegKind { Step, Ramp, Hold };

/// One piece of a programme.
struct Leg {
    LegKind kind = LegKind::Step;
    double rpm = 0;         ///< of a step or hold; where a ramp ends
    double rpm_per_s = 0;   ///< on the way there; 0: as the rig likes
    double seconds = 0;     ///< of a hold; at least so long at a step
    std::size_t cycles = 0; ///< of a step: good cycles, at least
    bool operator==(const Leg&) const = default;
};

struct Programme {
    std::string name;
    std::vector<Leg> legs;
    std::size_t times = 1; ///< back to back
    bool operator==(const Programme&) const = default;
};

/// Steps from `first` to `last` by `step`, each with so many cycles, then down to idle.
Programme steps_programme(double first_rpm, double last_rpm, double step_rpm, std::size_t cycles);
/// Throws InputError, naming the leg, for speeds, times or numbers that no rig is asked for.
void check_programme(const Programme& programme, double most_rpm);
/// Seconds that it takes about, at `rpm_per_s` where a leg says nothing.
double about_seconds(const Programme& programme, double rpm_per_s = 500);

/// What the rig shows of itself.
struct RigState {
    double time_s = 0;
    double rpm = 0;
    std::uint64_t good_cycles = 0; ///< since the hello
};

/// Walks a programme by what the rig shows; asks, and waits until that is so.
class ProgrammeRunner {
  public:
    explicit ProgrammeRunner(Programme programme);
    /// What is to be asked now, if anything. The last request of all is a stop.
    std::vector<Request> go_on(const RigState& state);
    /// The line was lost and is there again: what was asked last is asked once more.
    void ask_again() { asked_ = arrived_ = false; }
    bool done() const { return done_; }
    std::size_t leg() const { return leg_; } ///< number of the leg it is at, over all rounds
    std::size_t legs() const { return programme_.legs.size() * programme_.times; }
    /// Whether the rig is at the leg's speed, and cycles of it count.
    bool at_speed() const { return arrived_; }

  private:
    const Leg& now() const { return programme_.legs[leg_ % programme_.legs.size()]; }
    Programme programme_;
    std::size_t leg_ = 0;
    bool asked_ = false, arrived_ = false, done_ = false;
    double arrived_s_ = 0;
    std::uint64_t arrived_cycles_ = 0, number_ = 0;
};

} // namespace bathmos::live
