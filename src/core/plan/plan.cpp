#include "core/plan/plan.h"

#include "core/problem/input_error.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::plan {

namespace {

constexpr double kTenth = 1.2816;     // deviations from the middle to 10 and 90 %
constexpr double kFarBelow = 2;       // deviations of the difference: left out
constexpr double kLeastChance = 0.01; // to be the best: less is left out, too
constexpr double kMoved = 3;          // deviations: the baseline is no longer what it was
constexpr double kOffModel = 3;       // a run that nothing believed allows for
constexpr double kTableStep_h = 1e-9;

// Day and hour of the booked ones.
struct Clock {
    const std::vector<double>& day_h;
    double now_h = 0;

    std::size_t day_of(double at_h) const {
        double end = 0;
        for (std::size_t day = 0; day < day_h.size(); ++day)
            if (end += day_h[day]; at_h < end - kTableStep_h)
                return day;
        return day_h.empty() ? 0 : day_h.size() - 1;
    }
    double end_of(std::size_t day) const {
        double end = 0;
        for (std::size_t i = 0; i <= day; ++i)
            end += day_h[i];
        return end;
    }
    // When the change begins so that the run itself does not cross the end of a day.
    double begin(double change_h, double run_h) const {
        const double run_at = now_h + change_h, end = end_of(day_of(run_at));
        const bool crosses = run_at + run_h > end + kTableStep_h && day_of(run_at) + 1 < day_h.size();
        return crosses ? end - change_h : now_h;
    }
};

class Planner {
  public:
    Planner(const Campaign& campaign, const std::vector<Candidate>& candidates,
            const std::vector<Forecast>& forecasts, const std::stop_token& stop)
        : c_(campaign), candidates_(candidates), forecasts_(forecasts), stop_(stop), belief_(forecasts),
          chances_(forecasts.size(), 0.0), made_(forecasts.size(), false) {}

    Plan run() {
        hear_runs();
        chances_ = belief_.chances();
        choose();
        for (std::size_t i = 0; i < candidates_.size(); ++i)
            out_.candidates.push_back(belief_.known(i) ? expected(i) : Expected{});
        const std::size_t best = best_to_name();
        out_.best = candidates_[best].levels;
        out_.best_expected = expected(best);
        tell_out_of_range(best);
        settle();
        order();
        return std::move(out_);
    }

  private:
    std::size_t find(const Combination& levels) const {
        const auto at = std::ranges::find(candidates_, levels, &Candidate::levels);
        if (at == candidates_.end())
            throw InputError({"", "measured", "is none of the combinations", "choose levels of the factors"});
        return static_cast<std::size_t>(at - candidates_.begin());
    }
    Expected expected(std::size_t i) const {
        const double mean = belief_.mean_rpm(i), sd = belief_.sd_rpm(i);
        return {mean, mean - kTenth * sd, mean + kTenth * sd, forecasts_[i].in_range, chances_[i]};
    }

    void hear_runs() {
        chances_ = belief_.chances();
        std::vector<const MeasuredRun*> baselines;
        for (const MeasuredRun& run : c_.measured) {
            const std::size_t i = find(run.levels);
            if (!belief_.known(i))
                throw InputError({"", "measured", name_of(c_, run.levels) + ": " + forecasts_[i].stopped,
                                  "mend the train: what was run can be run"});
            Compared made{run, expected(i), 0, 0};
            made.off_rpm = run.limit_rpm - made.expected.limit_rpm;
            made.off_sigma = made.off_rpm / std::hypot(belief_.sd_rpm(i), run.sd_rpm);
            if (std::abs(made.off_sigma) > kOffModel)
                out_.told.push_back(
                    {"off_the_model",
                     fmt::format(
                         "{}: {:.0f} rev/min where {:.0f} to {:.0f} was expected: what is mounted, or "
                         "what is believed of it?",
                         name_of(c_, run.levels), run.limit_rpm, made.expected.low_rpm,
                         made.expected.high_rpm)});
            if (run.levels == c_.baseline) {
                if (!baselines.empty())
                    compare_baselines(*baselines.front(), run);
                baselines.push_back(&run);
            }
            belief_.hear(i, run.limit_rpm, run.sd_rpm);
            made_[i] = true;
            out_.made.push_back(std::move(made));
        }
    }
    void compare_baselines(const MeasuredRun& first, const MeasuredRun& again) {
        const double moved = again.limit_rpm - first.limit_rpm;
        if (std::abs(moved) > kMoved * std::hypot(first.sd_rpm, again.sd_rpm))
            out_.told.push_back(
                {"baseline_moved",
                 fmt::format("the baseline moved by {:+.0f} rev/min since its first run: rank "
                             "nothing until that is explained (zero, lash, temperature, a "
                             "part that wears)",
                             moved)});
    }

    // What is still worth a run.
    void choose() {
        const std::size_t best = belief_.best();
        for (std::size_t i = 0; i < candidates_.size(); ++i) {
            const Combination& levels = candidates_[i].levels;
            if (made_[i] || levels == c_.baseline)
                continue;
            if (!forecasts_[i].stopped.empty()) {
                out_.left_out.push_back({levels, forecasts_[i].stopped});
                continue;
            }
            const double below = belief_.mean_rpm(best) - belief_.mean_rpm(i),
                         sd = belief_.sd_of_difference_rpm(best, i);
            if (i != best && below > kFarBelow * sd)
                out_.left_out.push_back({levels, fmt::format("{:.0f} rev/min below the best, over two "
                                                             "deviations of that difference ({:.0f})",
                                                             below, sd)});
            else if (i != best && chances_[i] < kLeastChance)
                out_.left_out.push_back(
                    {levels,
                     fmt::format("{:.0f} rev/min below the best: less than one chance in a hundred", below)});
            else
                worth_running_.push_back(i);
        }
    }

    // The best to name: of those that were run, where there are any, the highest belief.
    std::size_t best_to_name() const {
        std::optional<std::size_t> best;
        for (std::size_t i = 0; i < candidates_.size(); ++i)
            if (made_[i] && (!best || belief_.mean_rpm(i) > belief_.mean_rpm(*best)))
                best = i;
        return best.value_or(belief_.best());
    }

    // Their limits are cut off at the end of the range, and so is what tells them apart.
    void tell_out_of_range(std::size_t best) {
        const auto beyond = std::ranges::count_if(
            worth_running_, [&](std::size_t i) { return !forecasts_[i].in_range && i != best; });
        if (const auto count = beyond + (forecasts_[best].in_range ? 0 : 1); count > 0)
            out_.told.push_back(
                {"not_in_range",
                 fmt::format("{} that may be the best {} no limit up to {:.0f} rev/min: run the "
                             "model to higher speeds to tell them apart",
                             count, count > 1 ? "have" : "has", c_.range.last_rpm)});
    }

    // Whether one that was not run may still be worth it.
    void settle() {
        std::vector<std::size_t> others;
        for (std::size_t i = 0; i < candidates_.size(); ++i)
            if (belief_.known(i) && !made_[i])
                others.push_back(i);
        if (std::ranges::none_of(made_, [](bool one) { return one; })) {
            out_.chance_better = 1;
            return;
        }
        out_.chance_better = belief_.chance_beyond(find(out_.best), others, kMargin_rpm);
        out_.settled = out_.chance_better < kSettled;
    }

    bool baseline_seen() const {
        return std::ranges::find(c_.measured, c_.baseline, &MeasuredRun::levels) != c_.measured.end();
    }
    OrderQuestion question(double lost_h) const {
        OrderQuestion q;
        q.campaign = &c_;
        q.from = c_.measured.empty() ? c_.mounted : c_.measured.back().levels;
        std::size_t since = 0;
        for (const MeasuredRun& run : c_.measured)
            since = run.levels == c_.baseline ? 0 : since + 1;
        q.since_baseline = since;
        q.baseline_first = !baseline_seen() || (c_.baseline_every > 0 && since >= c_.baseline_every);
        q.hours = booked_hours(c_) - begin_h() - lost_h;
        for (const std::size_t i : worth_running_) {
            q.runs.push_back(candidates_[i].levels);
            q.worth.push_back(chances_[i]);
        }
        return q;
    }
    // Set-up, and the hours of the runs that were made.
    double begin_h() const {
        double out = c_.setup_h;
        const Combination* before = &c_.mounted;
        for (const MeasuredRun& run : c_.measured) {
            out += change_hours(c_, *before, run.levels) + c_.run_h;
            before = &run.levels;
        }
        return out;
    }

    // The time table of an order; the hours it takes beyond the order's own, at the ends of days.
    std::vector<PlannedRun> table(const OrderQuestion& q, const RunOrder& order) const {
        std::vector<PlannedRun> runs;
        Clock clock{c_.day_h, begin_h()};
        std::size_t seen = q.baseline_first && !baseline_seen() ? 0 : 1;
        for (const OrderedRun& one : with_baselines(q, order.order)) {
            PlannedRun run;
            run.levels = *one.levels;
            run.baseline = one.baseline;
            run.change_h = one.change_h;
            run.hours = one.change_h + c_.run_h;
            run.start_h = clock.begin(one.change_h, c_.run_h);
            run.day = clock.day_of(run.start_h + one.change_h);
            const std::size_t i = find(run.levels);
            run.expected = expected(i);
            run.why = why(run, i, seen);
            seen += one.baseline ? 1 : 0;
            clock.now_h = run.start_h + run.hours;
            runs.push_back(std::move(run));
        }
        return runs;
    }
    std::string why(const PlannedRun& run, std::size_t i, std::size_t baselines) const {
        if (run.baseline)
            return baselines == 0 ? "all others are compared with it" : "has anything else moved?";
        const std::string chance = fmt::format("best of all: {:.0f} %", 100 * chances_[i]);
        return i == belief_.best() ? chance + ", the likeliest" : chance;
    }

    // Idle ends of days take hours, too: asked again with less until the table fits.
    std::vector<PlannedRun> fitted(double lost_h, RunOrder& order) const {
        OrderQuestion q = question(lost_h);
        const double end_h = booked_hours(c_) - lost_h;
        while (true) {
            order = least_rework(q, stop_);
            std::vector<PlannedRun> runs = table(q, order);
            const double over = runs.empty() ? 0 : runs.back().start_h + runs.back().hours - end_h;
            if (over <= kTableStep_h || order.order.empty())
                return runs;
            q.hours = std::min(q.hours, order.hours) - std::min(over, c_.run_h);
        }
    }

    void order() {
        RunOrder order;
        out_.booked_h = booked_hours(c_);
        out_.runs = fitted(0, order);
        out_.exact = order.exact;
        out_.bound_h = begin_h() + order.bound_h;
        out_.hours = out_.runs.empty() ? begin_h() : out_.runs.back().start_h + out_.runs.back().hours;
        const auto runs_it = [](const std::vector<PlannedRun>& runs, const Combination& levels) {
            return std::ranges::any_of(runs, [&](const PlannedRun& run) { return run.levels == levels; });
        };
        for (const std::size_t i : worth_running_)
            if (!runs_it(out_.runs, candidates_[i].levels))
                out_.left_out.push_back(
                    {candidates_[i].levels,
                     fmt::format("no hours left for it: {:.0f} % to be the best", 100 * chances_[i]), true});
        if (out_.hours > out_.booked_h + kTableStep_h)
            out_.told.push_back({"hours_short", fmt::format("the baseline alone takes {:.1f} of the {:.1f} "
                                                            "hours booked",
                                                            out_.hours, out_.booked_h)});
        const std::vector<PlannedRun> shorter = fitted(kHalfDay_h, order);
        for (const PlannedRun& run : out_.runs)
            if (!run.baseline && !runs_it(shorter, run.levels))
                out_.gone.push_back(run.levels);
    }

    const Campaign& c_;
    const std::vector<Candidate>& candidates_;
    const std::vector<Forecast>& forecasts_;
    const std::stop_token& stop_;
    Belief belief_;
    std::vector<double> chances_;
    std::vector<bool> made_;
    std::vector<std::size_t> worth_running_;
    Plan out_;
};

} // namespace

Plan plan_runs(const Campaign& campaign, const std::vector<Candidate>& candidates,
               const std::vector<Forecast>& forecasts, const std::stop_token& stop) {
    check_campaign(campaign);
    if (candidates.empty() || candidates.size() != forecasts.size())
        throw InputError({"", "factors", "no forecast of its combinations", "forecast them first"});
    return Planner(campaign, candidates, forecasts, stop).run();
}

Plan plan_campaign(const Campaign& campaign, const std::vector<Candidate>& candidates,
                   const PlanQuery& query) {
    return plan_runs(campaign, candidates,
                     forecast(campaign, candidates, query.forecast, query.progress, query.stop), query.stop);
}

} // namespace bathmos::plan
