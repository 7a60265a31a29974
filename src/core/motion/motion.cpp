#include "core/motion/motion.h"

#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <condition_variable>
#include <deque>
#include <exception>
#include <fmt/format.h>
#include <map>
#include <memory>
#include <mutex>
#include <optional>

namespace bathmos {

namespace {

// One lane's run: the speed it works on and what it has seen of it.
struct LaneRun {
    bool busy = false;
    Motion motion;
    std::deque<Metrics> last_metrics;
    std::deque<std::vector<double>> last_lifts;
};

class Block {
  public:
    Block(const Chain& chain, const CycleRule& rule)
        : chain_(chain), rule_(rule), rest_(rest_of(chain)), block_(chain, lane_count(), rest_),
          runs_(lane_count()) {}

    void load(std::size_t lane, double speed_rpm) {
        runs_[lane] = LaneRun{true, {}, {}, {}};
        runs_[lane].motion.speed_rpm = speed_rpm;
        block_.start(lane, speed_rpm, rest_);
    }

    void advance(const std::stop_token& stop) { advance_cycle(chain_, block_, stop); }
    bool busy(std::size_t lane) const { return runs_[lane].busy; }
    double speed(std::size_t lane) const { return runs_[lane].motion.speed_rpm; }

    // Looks at the cycle just run; true when the lane's speed is done, or not worth going on with as its
    // coils clash.
    bool judge(std::size_t lane, bool leave_at_clash) {
        LaneRun& run = runs_[lane];
        Motion& m = run.motion;
        ++m.cycles;
        m.clashed = block_.clash_m[lane] > 0;
        if (leave_at_clash && m.cycles > 1 && m.clashed)
            return true;
        m.last_change_m = change_m(lane);
        m.finite = std::isfinite(m.last_change_m);
        const double extension = extension_change_m(lane);
        const std::size_t most = chain_.hydraulic() ? rule_.most_with_oil : rule_.most;
        const bool settled = m.cycles >= rule_.least && m.last_change_m < rule_.settled_m &&
                             extension < rule_.settled_extension_m;
        const bool ends = settled || m.cycles >= most || !m.finite;
        if (m.finite && (ends || m.cycles + rule_.averaged > most))
            remember(lane, ends);
        m.periodic = m.last_change_m < rule_.periodic_m && extension < rule_.periodic_extension_m;
        if (ends)
            finish(lane);
        return ends;
    }

    Motion take(std::size_t lane) {
        runs_[lane].busy = false;
        return std::move(runs_[lane].motion);
    }

  private:
    double change_m(std::size_t lane) const {
        const double change = block_.change_m[lane];
        return runs_[lane].motion.cycles == 1 && std::isfinite(change) ? 1.0 : change;
    }

    double extension_change_m(std::size_t lane) const {
        return std::abs(block_.at(Channel::Extension, kGridSteps, lane) -
                        block_.at(Channel::Extension, 0, lane));
    }

    std::vector<double> channel(Channel c, std::size_t lane) const {
        std::vector<double> out(kGridPoints);
        for (std::size_t i = 0; i < kGridPoints; ++i)
            out[i] = block_.at(c, i, lane);
        return out;
    }

    // Keeps a cycle that may count into the result: metrics and lift, and everything if it is the last.
    void remember(std::size_t lane, bool last) {
        LaneRun& run = runs_[lane];
        Motion& m = run.motion;
        for (std::size_t c = 0; c < kChannels; ++c)
            m.channel[c] = channel(static_cast<Channel>(c), lane);
        run.last_metrics.push_back(metrics_of(m, chain_.rigid_m, rule_.check_lift_m));
        run.last_lifts.push_back(m[Channel::Lift]);
        if (!last)
            return;
        m.coil_count = block_.coil_count();
        m.coils_m.resize(kCoilPoints * m.coil_count);
        for (std::size_t p = 0; p < kCoilPoints; ++p)
            for (std::size_t i = 0; i < m.coil_count; ++i)
                m.coils_m[p * m.coil_count + i] = static_cast<float>(block_.coil_m(p, i, lane));
    }

    void finish(std::size_t lane) {
        LaneRun& run = runs_[lane];
        Motion& m = run.motion;
        if (!m.finite)
            return;
        if (m.periodic) {
            m.metrics = run.last_metrics.back();
            // two equal cycles: their standard deviation is half of what changed
            m.metrics[Metric::CycleVariation] = 0.5 * m.last_change_m;
            return;
        }
        const std::vector<Metrics> metrics(run.last_metrics.begin(), run.last_metrics.end());
        m.metrics = mean_of(metrics, &m.deviation);
        m.cloud_m.assign(run.last_lifts.begin(), run.last_lifts.end());
        m.metrics[Metric::CycleVariation] = cycle_variation_m(m.cloud_m);
    }

    const Chain& chain_;
    const CycleRule& rule_;
    RestState rest_;
    LaneBlock block_;
    std::vector<LaneRun> runs_;
};

// Speeds waiting to be run, by the chain (number of steps) that they need. Shared by the workers.
class Queue {
  public:
    struct Level {
        std::shared_ptr<const Chain> chain;
        std::deque<double> waiting;
    };

    void add(std::shared_ptr<const Chain> chain, double speed_rpm) {
        for (Level& level : levels_)
            if (level.chain->substeps == chain->substeps)
                return level.waiting.push_back(speed_rpm);
        levels_.push_back({std::move(chain), {speed_rpm}});
    }
    // Fewest steps first: those are the quick answers, and the fast speeds. Half the workers begin at the
    // other end, so that not all end up sharing the last level.
    std::shared_ptr<const Chain> next_chain(bool fewest_first) const {
        const Level* best = nullptr;
        for (const Level& level : levels_)
            if (!level.waiting.empty() &&
                (!best || (level.chain->substeps < best->chain->substeps) == fewest_first))
                best = &level;
        return best ? best->chain : nullptr;
    }
    std::optional<double> take(const Chain& chain) {
        for (Level& level : levels_)
            if (level.chain->substeps == chain.substeps && !level.waiting.empty()) {
                const double speed = level.waiting.front();
                level.waiting.pop_front();
                return speed;
            }
        return std::nullopt;
    }

  private:
    std::vector<Level> levels_;
};

// What the workers of one run share; everything but the integration happens under its lock.
class Run {
  public:
    Run(const std::stop_token& stop, const CycleRule& rule) : stop_(stop), rule_(rule) {}

    Queue queue;
    // Called under the lock with a finished motion; may queue more.
    std::function<void(Motion&&, std::size_t substeps)> finished;
    // Whether a speed is left as soon as coils clash, to be queued again by `finished`.
    std::function<bool(double speed_rpm, std::size_t substeps)> leave_at_clash = [](double, std::size_t) {
        return false;
    };

    void work(std::size_t worker) {
        for (;;) {
            std::shared_ptr<const Chain> chain;
            {
                std::unique_lock lock(mutex_);
                // others that are still at work may queue more
                changed_.wait(lock, [&] { return failed_ || working_ == 0 || queue.next_chain(true); });
                chain = failed_ ? nullptr : queue.next_chain(worker % 2 == 0);
                if (!chain)
                    return;
                ++working_;
            }
            const Leaving leaving{*this};
            work_on(*chain);
        }
    }

  private:
    // Ends a worker's turn, also by an exception, and wakes those who wait for more.
    struct Leaving {
        Run& run;
        int exceptions = std::uncaught_exceptions();
        ~Leaving() {
            const std::scoped_lock lock(run.mutex_);
            --run.working_;
            run.failed_ = run.failed_ || std::uncaught_exceptions() > exceptions;
            run.changed_.notify_all();
        }
    };

    void work_on(const Chain& chain) {
        Block block(chain, rule_);
        std::size_t running = refill(block, chain);
        while (running > 0) {
            block.advance(stop_);
            for (std::size_t lane = 0; lane < lane_count(); ++lane) {
                if (!block.busy(lane) ||
                    !block.judge(lane, leave_at_clash(block.speed(lane), chain.substeps)))
                    continue;
                --running;
                hand_on(block.take(lane), chain.substeps);
            }
            if (running < lane_count())
                running += refill(block, chain);
        }
    }

    // Gives idle lanes the next speeds that want this chain; how many.
    std::size_t refill(Block& block, const Chain& chain) {
        const std::scoped_lock lock(mutex_);
        std::size_t loaded = 0;
        for (std::size_t lane = 0; lane < lane_count(); ++lane) {
            if (block.busy(lane))
                continue;
            const auto speed = queue.take(chain);
            if (!speed)
                break;
            block.load(lane, *speed);
            ++loaded;
        }
        return loaded;
    }

    void hand_on(Motion&& motion, std::size_t substeps) {
        const std::scoped_lock lock(mutex_);
        finished(std::move(motion), substeps);
        changed_.notify_all();
    }

    const std::stop_token& stop_;
    const CycleRule& rule_;
    std::mutex mutex_;
    std::condition_variable changed_;
    std::size_t working_ = 0;
    bool failed_ = false;
};

// The position of a crank angle on a grid of `points`, as index and share.
struct GridPosition {
    std::size_t index;
    double share;
};
GridPosition position_of(double crank_deg, std::size_t points) {
    const double steps = static_cast<double>(points - 1);
    const double at = std::clamp((crank_deg + 360) / 720 * steps, 0.0, steps);
    const auto index = std::min(static_cast<std::size_t>(at), points - 2);
    return {index, at - static_cast<double>(index)};
}

} // namespace

std::string runaway_in_words(const StiffestPart& part, std::size_t substeps) {
    return fmt::format(
        "the numbers ran away even in {} steps a cycle; the stiffest part is: {}, up to {:.0f} "
        "Hz. Check its mass, and the stiffness and damping beside it",
        substeps * kGridSteps, part.part, part.rad_per_s / (2 * kPi));
}

void run_speeds(const Chain& chain, const std::vector<double>& speeds_rpm, const MotionSink& sink,
                const std::stop_token& stop, const CycleRule& rule) {
    Run run(stop, rule);
    const auto shared = std::make_shared<const Chain>(chain);
    for (double speed : speeds_rpm)
        run.queue.add(shared, speed);
    run.finished = [&](Motion&& motion, std::size_t) { sink(std::move(motion)); };
    parallel_for(worker_count(), [&](std::size_t worker) { run.work(worker); });
}

// Chains of one train by their steps between grid points, each made when first asked for. They differ in
// these steps and the table of the cam alone.
class MotionModel::Chains {
  public:
    explicit Chains(const Train& train)
        : train_(train), tables_(curve_of(train.lobe)), rigid_(train, tables_.lobe()),
          first_(std::make_shared<const Chain>(chain_of(train_, rigid_, kLeastSubsteps, tables_))) {
        made_[kLeastSubsteps] = first_;
    }

    const std::shared_ptr<const Chain>& first() const { return first_; }

    std::shared_ptr<const Chain> with(std::size_t substeps) {
        const std::scoped_lock lock(mutex_);
        std::shared_ptr<const Chain>& chain = made_[substeps];
        if (!chain)
            chain = std::make_shared<const Chain>(in_steps(*first_, substeps, tables_.of(train_, substeps)));
        return chain;
    }
    const RigidMotion& rigid() const { return rigid_; }

  private:
    Train train_;
    CamTables tables_;
    RigidMotion rigid_;
    std::shared_ptr<const Chain> first_;
    std::mutex mutex_;
    std::map<std::size_t, std::shared_ptr<const Chain>> made_;
};

MotionModel::MotionModel(const Train& train)
    : chains_(std::make_shared<Chains>(train)), chain_(chains_->first()), stiffest_(stiffest_part(*chain_)) {}

const RigidMotion& MotionModel::rigid() const {
    return chains_->rigid();
}

void MotionModel::run(const std::vector<double>& speeds_rpm, const MotionSink& sink,
                      const std::stop_token& stop, const CycleRule& rule) const {
    const auto source = [&](Motion&& motion) {
        sink(std::move(motion));
        return std::vector<double>{};
    };
    run_on(speeds_rpm, source, stop, rule);
}

void MotionModel::run_on(const std::vector<double>& speeds_rpm, const MotionSource& source,
                         const std::stop_token& stop, const CycleRule& rule, std::size_t workers) const {
    Run run(stop, rule);
    const auto first_substeps = [&](double speed) {
        return substeps_for(stiffest_, speed, rule.close_step, rule.least_substeps);
    };
    const auto add = [&](double speed, std::size_t substeps) {
        run.queue.add(chains_->with(substeps), speed);
    };
    for (double speed : speeds_rpm)
        add(speed, first_substeps(speed));
    run.leave_at_clash = [&](double speed, std::size_t substeps) {
        return rule.halve_at_clash && substeps == first_substeps(speed);
    };
    run.finished = [&](Motion&& motion, std::size_t substeps) {
        const std::size_t first = first_substeps(motion.speed_rpm);
        const bool halve = rule.halve_at_clash && motion.clashed && substeps == first;
        if (motion.finite ? halve : substeps < first << kRunawayHalvings)
            return add(motion.speed_rpm, 2 * substeps);
        if (!motion.finite)
            motion.trouble = runaway_in_words(stiffest_, substeps);
        for (double speed : source(std::move(motion)))
            add(speed, first_substeps(speed));
    };
    parallel_for(workers ? workers : worker_count(), [&](std::size_t worker) { run.work(worker); });
}

std::vector<Motion> MotionModel::run(const std::vector<double>& speeds_rpm, const std::stop_token& stop,
                                     const CycleRule& rule) const {
    std::vector<Motion> out(speeds_rpm.size());
    run(
        speeds_rpm,
        [&](Motion&& motion) {
            for (std::size_t i = 0; i < speeds_rpm.size(); ++i)
                if (speeds_rpm[i] == motion.speed_rpm && out[i].speed_rpm == 0) {
                    out[i] = std::move(motion);
                    return;
                }
        },
        stop, rule);
    return out;
}

Metrics metrics_of(const Motion& m, const std::vector<double>& rigid_m, double check_lift_m) {
    CycleTrace trace;
    trace.speed_rpm = m.speed_rpm;
    trace.lift_m = m[Channel::Lift];
    trace.rate_m_per_s = m[Channel::LiftRate];
    trace.rigid_m = rigid_m;
    trace.cam_penetration_m = m[Channel::CamPenetration];
    trace.link_penetration_m = m[Channel::LinkPenetration];
    trace.tip_penetration_m = m[Channel::TipPenetration];
    trace.spring_N = m[Channel::SpringForce];
    trace.surge_m = m[Channel::Surge];
    return measure(trace, {.check_lift_m = check_lift_m});
}

double channel_at(const std::vector<double>& channel, double crank_deg) {
    const GridPosition p = position_of(crank_deg, channel.size());
    return channel[p.index] + p.share * (channel[p.index + 1] - channel[p.index]);
}

double lift_at(const Motion& motion, double crank_deg) {
    const auto& y = motion[Channel::Lift];
    const auto& v = motion[Channel::LiftRate];
    const GridPosition p = position_of(crank_deg, y.size());
    const double h = kGridStep_crank_deg / (6 * motion.speed_rpm), t = p.share, u = 1 - t;
    return u * u * ((1 + 2 * t) * y[p.index] + t * h * v[p.index]) +
           t * t * ((1 + 2 * u) * y[p.index + 1] - u * h * v[p.index + 1]);
}

double highest_lift_m(const Motion& motion) {
    double out = *std::max_element(motion[Channel::Lift].begin(), motion[Channel::Lift].end());
    for (const std::vector<double>& cycle : motion.cloud_m)
        out = std::max(out, *std::max_element(cycle.begin(), cycle.end()));
    return out;
}

} // namespace bathmos
