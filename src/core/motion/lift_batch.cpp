#include "core/motion/lift_batch.h"

#include "core/dynamics/drive.h"
#include "core/dynamics/lift_lanes.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <deque>

namespace bathmos {

namespace {

// What single precision leaves of a settled lift's change from cycle to cycle.
constexpr double kSingleNoise_m = 0.25e-6;

// Tasks of one form, the long runs first: past the onset motion repeats late or never.
struct Group {
    std::vector<std::size_t> tasks;
    std::atomic<std::size_t> next = 0;
};

std::deque<Group> groups_of(const std::vector<LiftTask>& tasks) {
    std::deque<Group> out;
    for (std::size_t i = 0; i < tasks.size(); ++i) {
        const auto known = std::find_if(out.begin(), out.end(), [&](const Group& g) {
            return tasks[g.tasks.front()].chain == tasks[i].chain ||
                   of_one_form(*tasks[g.tasks.front()].chain, *tasks[i].chain);
        });
        (known == out.end() ? out.emplace_back() : *known).tasks.push_back(i);
    }
    for (Group& group : out)
        std::stable_sort(group.tasks.begin(), group.tasks.end(), [&](std::size_t a, std::size_t b) {
            return tasks[a].speed_rpm > tasks[b].speed_rpm;
        });
    return out;
}

// One lane's run.
struct LaneRun {
    std::optional<std::size_t> task;
    std::size_t cycles = 0, summed = 0;
    double plunger_m = 0;
    std::vector<double> sum_m;
};

class Batch {
  public:
    Batch(const std::vector<LiftTask>& tasks, const CycleRule& rule, std::vector<LiftOfTask>& out)
        : tasks_(tasks), rule_(rule), out_(out) {}

    void work(Group& group, const std::stop_token& stop) {
        const std::size_t first = group.next++;
        if (first >= group.tasks.size())
            return;
        LiftLanes lanes(*tasks_[group.tasks[first]].chain);
        std::vector<LaneRun> runs(lift_lane_count());
        start(lanes, 0, group.tasks[first], runs[0]);
        for (;;) {
            bool busy = false;
            for (std::size_t lane = 0; lane < runs.size(); ++lane) {
                if (!runs[lane].task)
                    if (const std::size_t next = group.next++; next < group.tasks.size())
                        start(lanes, lane, group.tasks[next], runs[lane]);
                busy = busy || runs[lane].task;
            }
            if (!busy)
                return;
            lanes.advance_cycle(stop);
            for (std::size_t lane = 0; lane < runs.size(); ++lane)
                if (runs[lane].task)
                    judge(lanes, lane, runs[lane]);
        }
    }

  private:
    double plunger_m(std::size_t task, const RestState& at) const {
        const Chain& chain = *tasks_[task].chain;
        return chain.hydraulic() ? drive_setup(chain.drive).plunger_m(at.position_m) : 0;
    }

    void start(LiftLanes& lanes, std::size_t lane, std::size_t task, LaneRun& run) const {
        const LiftTask& of = tasks_[task];
        const RestState from = of.start ? *of.start : rest_of(*of.chain);
        lanes.start(lane, *of.chain, of.ripple, of.speed_rpm, from);
        run = {task, 0, 0, plunger_m(task, from), std::vector<double>(kGridPoints, 0.0)};
    }

    // Looks at the cycle just run; the lane is free where its task is done.
    void judge(const LiftLanes& lanes, std::size_t lane, LaneRun& run) {
        ++run.cycles;
        LiftOfTask& out = out_[*run.task];
        const double change = lanes.change_m(lane);
        out.finite = std::isfinite(change);
        const bool hydraulic = tasks_[*run.task].chain->hydraulic();
        const double before = run.plunger_m;
        if (hydraulic)
            run.plunger_m = plunger_m(*run.task, lanes.state(lane));
        const double extension = std::abs(run.plunger_m - before);
        const std::size_t most = hydraulic ? rule_.most_with_oil : rule_.most;
        const bool settled = run.cycles >= std::max<std::size_t>(rule_.least, 2) &&
                             change < std::max(rule_.settled_m, kSingleNoise_m) &&
                             extension < std::max(rule_.settled_extension_m, kSingleNoise_m);
        const bool ends = settled || run.cycles >= most || !out.finite;
        if (settled || run.cycles + rule_.averaged > most)
            add_lift(lanes, lane, run);
        if (!ends)
            return;
        if (out.finite)
            finish(lanes, lane, run, out);
        run.task.reset();
    }

    static void add_lift(const LiftLanes& lanes, std::size_t lane, LaneRun& run) {
        ++run.summed;
        for (std::size_t i = 0; i < kGridPoints; ++i)
            run.sum_m[i] += lanes.lift_m(i, lane);
    }

    static void finish(const LiftLanes& lanes, std::size_t lane, LaneRun& run, LiftOfTask& out) {
        for (double& one : run.sum_m)
            one /= static_cast<double>(run.summed);
        out.lift_m = std::move(run.sum_m);
        out.end = lanes.state(lane);
    }

    const std::vector<LiftTask>& tasks_;
    const CycleRule& rule_;
    std::vector<LiftOfTask>& out_;
};

} // namespace

LiftModel::LiftModel(const Train& train, std::shared_ptr<CamTables> tables)
    : even_(train), tables_(std::move(tables)) {
    if (even_.camshaft && even_.drive_ripple) {
        ripple_ = *even_.drive_ripple;
        even_.drive_ripple.reset();
    }
    first_ = std::make_shared<const Chain>(chain_of(even_, RigidMotion(even_, tables_->lobe()), 1, *tables_));
    stiffest_ = stiffest_part(*first_);
}

LiftTask LiftModel::task(double speed_rpm, const CycleRule& rule, const RestState* start,
                         std::size_t halvings) {
    const std::size_t substeps = substeps_for(stiffest_, speed_rpm, rule.close_step, rule.least_substeps)
                                 << halvings;
    if (substeps == first_->substeps)
        return {first_, ripple_, speed_rpm, start};
    for (const std::shared_ptr<const Chain>& known : others_)
        if (known->substeps == substeps)
            return {known, ripple_, speed_rpm, start};
    others_.push_back(
        std::make_shared<const Chain>(in_steps(*first_, substeps, tables_->of(even_, substeps))));
    return {others_.back(), ripple_, speed_rpm, start};
}

std::vector<LiftOfTask> run_lifts(const std::vector<LiftTask>& tasks, const CycleRule& rule,
                                  const std::stop_token& stop, std::size_t workers) {
    std::vector<LiftOfTask> out(tasks.size());
    std::deque<Group> groups = groups_of(tasks);
    parallel_for(workers ? workers : worker_count(), [&](std::size_t) {
        Batch batch(tasks, rule, out);
        for (Group& group : groups)
            batch.work(group, stop);
    });
    return out;
}

} // namespace bathmos
