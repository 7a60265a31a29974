#include "core/motion/motion.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <deque>
#include <mutex>

namespace bathmos {

namespace {

// One lane's run: the speed it works on and what it has seen of it.
struct LaneRun {
    std::size_t index = 0; // in the list of speeds
    bool busy = false;
    Motion motion;
    std::deque<Metrics> last_metrics;
    std::deque<std::vector<double>> last_lifts;
};

class Block {
  public:
    Block(const Chain& chain, const CycleRule& rule)
        : chain_(chain), rule_(rule), rest_(rest_position_m(chain)), block_(chain, lane_count()),
          runs_(lane_count()) {}

    // Gives a lane its next speed; false when there is none.
    bool load(std::size_t lane, std::size_t index, double speed_rpm) {
        runs_[lane] = LaneRun{index, true, {}, {}, {}};
        runs_[lane].motion.speed_rpm = speed_rpm;
        block_.start(lane, speed_rpm, rest_);
        return true;
    }

    void advance() { advance_cycle(chain_, block_); }
    bool busy(std::size_t lane) const { return runs_[lane].busy; }
    std::size_t index(std::size_t lane) const { return runs_[lane].index; }

    // Looks at the cycle just run; true when the lane's speed is done.
    bool judge(std::size_t lane) {
        LaneRun& run = runs_[lane];
        Motion& m = run.motion;
        ++m.cycles;
        m.last_change_m = change_m(lane);
        m.finite = std::isfinite(m.last_change_m);
        const bool settled = m.cycles >= rule_.least && m.last_change_m < rule_.settled_m;
        const bool ends = settled || m.cycles >= rule_.most || !m.finite;
        if (m.finite && (ends || m.cycles + rule_.averaged > rule_.most))
            remember(lane, ends);
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
        double worst = 0;
        const std::size_t lanes = block_.lanes();
        for (std::size_t i = 0; i < kGridPoints; ++i) {
            const double change =
                std::abs(block_.record[i * lanes + lane] - block_.previous_lift[i * lanes + lane]);
            if (!(change <= worst))
                worst = change; // also takes NaN
        }
        return runs_[lane].motion.cycles == 1 && std::isfinite(worst) ? 1.0 : worst;
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
        CycleTrace trace;
        trace.speed_rpm = m.speed_rpm;
        trace.lift_m = m[Channel::Lift];
        trace.rate_m_per_s = m[Channel::LiftRate];
        trace.rigid_m = chain_.rigid_m;
        trace.cam_penetration_m = m[Channel::CamPenetration];
        trace.link_penetration_m = m[Channel::LinkPenetration];
        trace.tip_penetration_m = m[Channel::TipPenetration];
        trace.spring_N = m[Channel::SpringForce];
        trace.surge_m = m[Channel::Surge];
        run.last_metrics.push_back(measure(trace));
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
        m.periodic = m.last_change_m < rule_.periodic_m;
        if (m.periodic) {
            m.metrics = run.last_metrics.back();
            // two equal cycles: their standard deviation is half of what changed
            m.metrics[Metric::CycleSpread] = 0.5 * m.last_change_m;
            return;
        }
        const std::vector<Metrics> metrics(run.last_metrics.begin(), run.last_metrics.end());
        m.metrics = mean_of(metrics, &m.spread);
        m.cloud_m.assign(run.last_lifts.begin(), run.last_lifts.end());
        m.metrics[Metric::CycleSpread] = cycle_spread_m(m.cloud_m);
    }

    const Chain& chain_;
    const CycleRule& rule_;
    std::vector<double> rest_;
    LaneBlock block_;
    std::vector<LaneRun> runs_;
};

// The position of a crank angle on a grid of `points`, as index and share.
struct GridPlace {
    std::size_t index;
    double share;
};
GridPlace place_of(double crank_deg, std::size_t points) {
    const double steps = static_cast<double>(points - 1);
    const double at = std::clamp((crank_deg + 360) / 720 * steps, 0.0, steps);
    const auto index = std::min(static_cast<std::size_t>(at), points - 2);
    return {index, at - static_cast<double>(index)};
}

} // namespace

void run_speeds(const Chain& chain, const std::vector<double>& speeds_rpm, const MotionSink& sink,
                std::stop_token stop, const CycleRule& rule) {
    const std::size_t lanes = lane_count();
    const std::size_t blocks = std::min(worker_count(), (speeds_rpm.size() + lanes - 1) / lanes);
    std::atomic<std::size_t> next{0};
    std::mutex one_at_a_time;
    parallel_for(blocks, [&](std::size_t) {
        Block block(chain, rule);
        std::size_t running = 0;
        const auto refill = [&](std::size_t lane) {
            const std::size_t index = next.fetch_add(1);
            if (index >= speeds_rpm.size())
                return;
            block.load(lane, index, speeds_rpm[index]);
            ++running;
        };
        for (std::size_t lane = 0; lane < lanes; ++lane)
            refill(lane);
        while (running > 0) {
            throw_if_stopped(stop);
            block.advance();
            for (std::size_t lane = 0; lane < lanes; ++lane) {
                if (!block.busy(lane) || !block.judge(lane))
                    continue;
                --running;
                {
                    const std::scoped_lock lock(one_at_a_time);
                    sink(block.take(lane));
                }
                refill(lane);
            }
        }
    });
}

MotionModel::MotionModel(const Train& train, double slowest_rpm)
    : rigid_(train, curve_of(train.lobe)), chain_(chain_of(train, rigid_, slowest_rpm)),
      half_steps_(chain_of(train, rigid_, slowest_rpm, 2)) {}

void MotionModel::run(const std::vector<double>& speeds_rpm, const MotionSink& sink,
                      const std::stop_token& stop) const {
    std::vector<double> clashed;
    run_speeds(
        chain_, speeds_rpm,
        [&](Motion&& motion) {
            const std::vector<double>& clash = motion[Channel::Clash];
            if (motion.finite && *std::max_element(clash.begin(), clash.end()) > 0)
                clashed.push_back(motion.speed_rpm);
            else
                sink(std::move(motion));
        },
        stop);
    if (!clashed.empty())
        run_speeds(half_steps_, clashed, sink, stop);
}

std::vector<Motion> MotionModel::run(const std::vector<double>& speeds_rpm,
                                     const std::stop_token& stop) const {
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
        stop);
    return out;
}

double channel_at(const std::vector<double>& channel, double crank_deg) {
    const GridPlace p = place_of(crank_deg, channel.size());
    return channel[p.index] + p.share * (channel[p.index + 1] - channel[p.index]);
}

double lift_at(const Motion& motion, double crank_deg) {
    const auto& y = motion[Channel::Lift];
    const auto& v = motion[Channel::LiftRate];
    const GridPlace p = place_of(crank_deg, y.size());
    const double h = kGridStep_crank_deg / (6 * motion.speed_rpm), t = p.share, u = 1 - t;
    return u * u * ((1 + 2 * t) * y[p.index] + t * h * v[p.index]) +
           t * t * ((1 + 2 * u) * y[p.index + 1] - u * h * v[p.index + 1]);
}

} // namespace bathmos
