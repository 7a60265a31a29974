// A run while it is being made: turns as they come, over what the model expects; metrics against speed as
// they grow; the same reduction as that of a finished run, over the last cycles of each speed, so that memory
// does not grow with the hours.
#pragma once

#include "core/live/turn_cutter.h"
#include "core/rig/cycle_measure.h"
#include "core/rig/rig_run.h"

#include <deque>
#include <memory>

namespace bathmos::live {

/// The last cycle, ready to be drawn.
struct LiveCycle {
    double speed_rpm = 0, time_s = 0;
    bool good = false;
    std::vector<double> lift_m; ///< kGridPoints, aligned; empty of a bad one, and before the first reduction
    Metrics metrics;
};

/// Surge in the seated stretch: how strong each order of the cam's turn is, at one speed.
struct OrderLine {
    double speed_rpm = 0;
    std::vector<double> amplitude_m; ///< of order 1, 2, ... per cam turn
};
inline constexpr std::size_t kOrders = 60;
/// Orders of the seated residue of a cycle: half a turn about the base circle, its line taken off, Hann's
/// window [Harris 1978].
std::vector<double> seated_orders(const std::vector<double>& lift_m);

/// What a reduction needs: a copy, so that it runs beside the turns that come.
struct ReductionWork {
    RigTrace trace;
    std::shared_ptr<const Train> train;
    RigOptions options;
};

class LiveRun {
  public:
    /// A valid train. Throws InputError for parts that the model does not know.
    LiveRun(const Train& train, const Hello& hello, const LimitsInForce& limits, bool reversed = false);

    /// Hears turns, in order. With an index once a crank turn two of them make a cycle. The cycles that they
    /// finish.
    std::vector<LiveCycle> hear(const std::vector<Turn>& turns);

    /// Turns have come that no reduction has seen: enough for the first, a speed's first or last cycles for
    /// another.
    bool due() const;
    /// Work for another thread; due() is false until more turns come.
    ReductionWork work();
    /// The run as reduced; cycles are drawn and measured by it from now on.
    void take(RigRun run);

    const RigRun* reduced() const { return run_ ? &*run_ : nullptr; }
    const std::deque<OrderLine>& orders() const { return orders_; } ///< speeds rising
    const std::vector<double>& asked_m() const { return rigid_m_; } ///< kinematic lift on the grid
    std::uint64_t good_cycles() const { return good_; }
    std::uint64_t bad_cycles() const { return bad_; }

  private:
    struct Speed {
        double speed_rpm = 0;
        std::deque<Turn> turns; ///< the last ones
        std::uint64_t heard = 0;
    };
    Speed& speed_of(double speed_rpm);
    LiveCycle shown(const std::vector<const Turn*>& cycle);
    void note_orders(const LiveCycle& cycle);

    std::shared_ptr<const Train> train_;
    RigOptions options_;
    bool once_per_crank_turn_;
    std::vector<double> rigid_m_;
    double seat_m_ = 0;
    std::deque<Speed> speeds_; ///< rising
    std::optional<Turn> first_half_;
    std::optional<RigRun> run_;
    std::deque<OrderLine> orders_;
    std::uint64_t good_ = 0, bad_ = 0, seen_ = 0, heard_ = 0;
    double stroke_mm_ = 0; ///< usual one
};

/// A stretch of reduction: throws what reduce() throws.
RigRun reduce(const ReductionWork& work);

} // namespace bathmos::live
