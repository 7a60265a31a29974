// The computed motion of a valve at one speed, and how it is computed (physics.md 5, start to periodicity).
#pragma once

#include "core/dynamics/chain.h"
#include "core/dynamics/lanes.h"
#include "core/motion/metrics.h"
#include "core/tasks/tasks.h"

#include <array>
#include <functional>
#include <stop_token>
#include <vector>

namespace bathmos {

struct CycleRule {
    std::size_t least = 3, most = 24;
    double settled_m = 0.1e-6;  ///< change between cycles under which the run ends
    double periodic_m = 1.0e-6; ///< change under which the motion counts as periodic
    std::size_t averaged = 8;   ///< cycles that non-periodic metrics are the mean of
};

/// Last cycle at one speed, with its metrics.
struct Motion {
    double speed_rpm = 0;
    std::size_t cycles = 0;
    bool periodic = false;
    bool finite = true; ///< false: the numbers ran away, nothing else is meaningful
    double last_change_m = 0;
    Metrics metrics; ///< mean over the last cycles where not periodic
    Metrics spread;  ///< standard deviation over those cycles; empty where periodic
    std::array<std::vector<double>, kChannels> channel; ///< kGridPoints each
    std::vector<float> coils_m;                         ///< kCoilPoints x coil_count
    std::size_t coil_count = 0;
    std::vector<std::vector<double>> cloud_m; ///< lift of the averaged cycles where not periodic

    const std::vector<double>& operator[](Channel c) const { return channel[static_cast<std::size_t>(c)]; }
    float coil_m(std::size_t point, std::size_t coil) const { return coils_m[point * coil_count + coil]; }
};

/// Called as each speed is done, from worker threads, one call at a time.
using MotionSink = std::function<void(Motion&&)>;

/// Runs all speeds of one chain, several to a vector register and on all workers, in the order given. Throws
/// Stopped.
void run_speeds(const Chain& chain, const std::vector<double>& speeds_rpm, const MotionSink& sink,
                std::stop_token stop = {}, const CycleRule& rule = {});

/// A train ready to be run at any speed. Speeds at which coils clash are run again in half steps, where whole
/// steps would be off by up to 2 % of loft.
class MotionModel {
  public:
    /// Throws InputError for parts that the model does not know.
    MotionModel(const Train& train, double slowest_rpm);

    /// Each speed once, as it is done. Throws Stopped.
    void run(const std::vector<double>& speeds_rpm, const MotionSink& sink,
             const std::stop_token& stop = {}) const;
    /// The same, collected in the order of `speeds_rpm`.
    std::vector<Motion> run(const std::vector<double>& speeds_rpm, const std::stop_token& stop = {}) const;

    const Chain& chain() const { return chain_; }
    const RigidMotion& rigid() const { return rigid_; }

  private:
    RigidMotion rigid_;
    Chain chain_, half_steps_;
};

/// A recorded channel at any crank angle (-360..360), linear between grid points.
double channel_at(const std::vector<double>& channel, double crank_deg);

/// Lift at any crank angle by cubic Hermite in lift and lift rate.
double lift_at(const Motion& motion, double crank_deg);

} // namespace bathmos
