// The computed motion of a valve at one speed, and how it is computed (physics.md 5, start to periodicity).
#pragma once

#include "core/dynamics/chain.h"
#include "core/dynamics/lanes.h"
#include "core/motion/metrics.h"
#include "core/tasks/tasks.h"

#include <array>
#include <functional>
#include <memory>
#include <stop_token>
#include <string>
#include <vector>

namespace bathmos {

struct CycleRule {
    std::size_t least = 3, most = 24;
    double settled_m = 0.1e-6;            ///< change between cycles under which the run ends
    double periodic_m = 1.0e-6;           ///< change under which the motion counts as periodic
    std::size_t averaged = 8;             ///< cycles that non-periodic metrics are the mean of
    std::size_t most_with_oil = 60;       ///< a hydraulic follower's oil settles slowly
    double settled_extension_m = 0.05e-6; ///< change of the plunger's extension from cycle to cycle
    double periodic_extension_m = 0.2e-6;
    double close_step = kCloseStep;              ///< of the steps' choice, see substeps_for
    std::size_t least_substeps = kLeastSubsteps; ///< where thousands of trains are asked for, 1 may do
    double check_lift_m = 1.27e-3;               ///< of shifts and duration
    bool halve_at_clash = true; ///< else clash runs in the usual steps, up to 2 % of loft off
};

/// Last cycle at one speed, with its metrics.
struct Motion {
    double speed_rpm = 0;
    std::size_t cycles = 0;
    bool periodic = false;
    bool clashed = false; ///< coils met in the last cycle
    bool finite = true;   ///< false: the numbers ran away, nothing else is meaningful
    std::string trouble;  ///< then: which part, and what to look at
    double last_change_m = 0;
    Metrics metrics;   ///< mean over the last cycles where not periodic
    Metrics deviation; ///< standard deviation over those cycles; empty where periodic
    std::array<std::vector<double>, kChannels> channel; ///< kGridPoints each
    std::vector<float> coils_m;                         ///< kCoilPoints x coil_count
    std::size_t coil_count = 0;
    std::vector<std::vector<double>> cloud_m; ///< lift of the averaged cycles where not periodic

    const std::vector<double>& operator[](Channel c) const { return channel[static_cast<std::size_t>(c)]; }
    float coil_m(std::size_t point, std::size_t coil) const { return coils_m[point * coil_count + coil]; }
};

/// Called as each speed is done, from worker threads, one call at a time.
using MotionSink = std::function<void(Motion&&)>;
/// The same, and gives further speeds that shall be run.
using MotionSource = std::function<std::vector<double>(Motion&&)>;

/// A train ready to be run at any speed. Each speed takes as many steps as the stiffest part needs there
/// (substeps_for), and twice as many where coils clash, which would else cost up to 2 % of loft, or where the
/// numbers run away.
class MotionModel {
  public:
    /// Throws InputError for parts that the model does not know.
    explicit MotionModel(const Train& train);

    /// Each speed once, as it is done, in about the order given; several to a vector register and on all
    /// workers. Throws Stopped, or InputError for parts too stiff to follow.
    void run(const std::vector<double>& speeds_rpm, const MotionSink& sink, const std::stop_token& stop = {},
             const CycleRule& rule = {}) const;
    /// The same, going on with the speeds that `source` gives for each that is done, on at most `workers`
    /// workers (0: all).
    void run_on(const std::vector<double>& speeds_rpm, const MotionSource& source,
                const std::stop_token& stop = {}, const CycleRule& rule = {}, std::size_t workers = 0) const;
    /// The same as run, collected in the order of `speeds_rpm`.
    std::vector<Motion> run(const std::vector<double>& speeds_rpm, const std::stop_token& stop = {},
                            const CycleRule& rule = {}) const;

    /// The chain in the longest steps.
    const Chain& chain() const { return *chain_; }
    /// The kinematic motion that it is compared with.
    const RigidMotion& rigid() const;

  private:
    class Chains;
    std::shared_ptr<Chains> chains_;     ///< copies of a model share what has been made
    std::shared_ptr<const Chain> chain_; ///< in the longest steps
    StiffestPart stiffest_;
};

/// Metrics of the cycle that a motion's channels hold, but for the variation over cycles.
Metrics metrics_of(const Motion& motion, const std::vector<double>& rigid_m, double check_lift_m = 1.27e-3);

/// Halvings of the step that are tried where the numbers run away.
inline constexpr std::size_t kRunawayHalvings = 3;
/// That they did even in the shortest steps, and which part to look at.
std::string runaway_in_words(const StiffestPart& part, std::size_t substeps);

/// Runs speeds on one chain as it is, without choosing steps. For measuring; MotionModel is what results come
/// from.
void run_speeds(const Chain& chain, const std::vector<double>& speeds_rpm, const MotionSink& sink,
                const std::stop_token& stop = {}, const CycleRule& rule = {});

/// A recorded channel at any crank angle (-360..360), linear between grid points.
double channel_at(const std::vector<double>& channel, double crank_deg);

/// Lift at any crank angle by cubic Hermite in lift and lift rate.
double lift_at(const Motion& motion, double crank_deg);

/// Highest lift of a motion, m; of all its cycles where it does not repeat.
double highest_lift_m(const Motion& motion);

} // namespace bathmos
