#include "standin/drawn_campaigns.h"

#include "core/calibration/free_numbers.h"
#include "core/motion/quick_limit.h"
#include "core/train/train_starter.h"
#include "core/uncertainty/uncertain_inputs.h"
#include "core/whatif/spring_need.h"

#include <algorithm>
#include <functional>
#include <random>

namespace bathmos::test {

namespace {

using plan::Combination;
using Dice = std::mt19937_64;

double evenly(Dice& dice, double low, double high) {
    return std::uniform_real_distribution<double>(low, high)(dice);
}

// A level: what it makes of the train.
using Change = std::function<void(Train&)>;

std::vector<Change> lobes(Dice& dice) {
    std::vector<Change> out = {[](Train&) {}};
    for (int i = 1; i < 4; ++i)
        out.push_back([longer = evenly(dice, 0.95, 1.06), higher = evenly(dice, 0.94, 1.05),
                       sharper = evenly(dice, -1.5, 1.5)](Train& train) {
            auto& lobe = std::get<AnalyticLobe>(train.lobe.shape);
            lobe.half_duration_rad *= longer;
            lobe.lift_m *= higher;
            lobe.exponents[3] += sharper;
        });
    return out;
}
std::vector<Change> springs(Dice& dice) {
    std::vector<Change> out = {[](Train&) {}};
    for (int i = 1; i < 3; ++i)
        out.push_back([load = evenly(dice, 0.85, 1.3), rate = evenly(dice, 0.85, 1.25),
                       mass = evenly(dice, 0.92, 1.1)](Train& train) {
            const SpringPoint now = spring_point(train);
            train = with_spring(train, {load * now.seat_N, rate * now.rate_N_per_m});
            for (Spring& spring : train.springs)
                if (auto* coil = std::get_if<CoilGeometry>(&spring.kind))
                    coil->density_kg_m3 *= mass;
        });
    return out;
}
std::vector<Change> rods(Dice& dice) {
    return {[](Train&) {},
            [wider = evenly(dice, 1.0, 1.25), heavier = evenly(dice, 0.95, 1.2)](Train& train) {
                train.pushrod->outer_diameter_m *= wider;
                train.pushrod->mass_kg *= heavier;
            }};
}
std::vector<Change> rockers(Dice& dice) {
    return {[](Train&) {},
            [stiffer = evenly(dice, 0.85, 1.5), heavier = evenly(dice, 0.85, 1.3)](Train& train) {
                train.rocker->stiffness_N_per_m *= stiffer;
                train.rocker->inertia_kg_m2 *= heavier;
            }};
}

// Which factor a number of the train belongs to; the rest is the same whatever is fitted.
std::size_t owner_of(const std::string& key) {
    constexpr std::array<std::string_view, 4> kOwners = {"lobe", "spring", "pushrod", "rocker"};
    for (std::size_t f = 0; f < kOwners.size(); ++f)
        if (key.starts_with(kOwners[f]))
            return f;
    return kOwners.size();
}

// The train as it is: every number off within what it is known to, a part's the same wherever it is fitted,
// with camshaft, valve and drive as elastic as they are.
Train as_it_is(const Train& believed, const Combination& levels, unsigned seed) {
    const auto off = [&](const std::string& key) {
        const std::size_t owner = owner_of(key);
        std::seed_seq words{seed, static_cast<unsigned>(std::hash<std::string>()(key)),
                            static_cast<unsigned>(owner < levels.size() ? levels[owner] + 1 : 0)};
        Dice dice(words);
        return std::clamp(std::normal_distribution<double>()(dice), -2.0, 2.0);
    };
    Train out = with_run_options(believed);
    const auto fitted = free_numbers(out);
    for (const UncertainInput& input : uncertain_inputs(out))
        if (std::ranges::none_of(fitted, [&](const FreeNumber& n) { return n.key == input.key; }) &&
            !input.key.starts_with("springs["))
            out = moved(std::move(out), input, 0.5 * off(input.key));
    for (const FreeNumber& number : fitted)
        move_number(out, number, number.prior_sd * off(number.key));
    return out;
}

// The baseline wherever it is due: before the first, after every so many, at the end.
class Rig {
  public:
    Rig(const DrawnCampaign& drawn, unsigned seed)
        : drawn_(drawn), seed_(seed), now_(drawn.campaign.mounted) {}
    std::size_t place(const Combination& levels) const {
        return static_cast<std::size_t>(
            std::ranges::find(drawn_.candidates, levels, &plan::Candidate::levels) -
            drawn_.candidates.begin());
    }
    double run(const Combination& levels) {
        out.hours += plan::change_hours(drawn_.campaign, now_, levels) + drawn_.campaign.run_h;
        now_ = levels;
        const std::size_t i = place(levels);
        return measured_rpm(drawn_, i, out.runs++, seed_);
    }
    Campaigned out;

  private:
    const DrawnCampaign& drawn_;
    unsigned seed_;
    Combination now_;
};

} // namespace

DrawnCampaign draw_campaign(unsigned seed) {
    Dice dice(seed);
    const std::vector<std::vector<Change>> changes = {lobes(dice), springs(dice), rods(dice), rockers(dice)};
    DrawnCampaign out;
    plan::Campaign& c = out.campaign;
    const std::array<const char*, 4> names = {"lobe", "spring", "rod", "rocker"};
    const std::array<double, 4> hours = {3, 1, 0.75, 0.5};
    for (std::size_t f = 0; f < changes.size(); ++f) {
        c.factors.push_back({names[f], hours[f], {}, {}});
        for (std::size_t i = 0; i < changes[f].size(); ++i)
            c.factors.back().levels.push_back(std::string(1, static_cast<char>('A' + i)));
    }
    c.factors[0].frees = {1, 2, 3}; // heads are off anyway
    c.mounted = c.baseline = Combination(c.factors.size(), 0);
    c.day_h = std::vector<double>(20, 8.0);
    c.range = {4000, 12000, 100};
    Train base = starter_train();
    base.valve.mass_kg *= evenly(dice, 0.85, 1.1);
    base.pushrod->end_stiffness_N_per_m *= evenly(dice, 0.6, 1.2);
    for (const Combination& levels : plan::all_combinations(c)) {
        plan::Candidate one{levels, base, {}};
        for (std::size_t f = 0; f < levels.size(); ++f)
            changes[f][levels[f]](*one.train);
        out.candidates.push_back(std::move(one));
    }
    out.truth_rpm.assign(out.candidates.size(), 0);
    for (const plan::Candidate& one : out.candidates)
        out.truth.push_back(as_it_is(*one.train, one.levels, seed + 7));
    const QuickLimitQuery quick = query_for_many(out.truth[0], MotionModel(out.truth[0]), {.range = c.range});
    parallel_for(out.candidates.size(), [&](std::size_t i) {
        const MotionModel model(out.truth[i]);
        const QuickLimitQuery query = after_estimate(quick, estimate_limit(model, quick));
        out.truth_rpm[i] = refine_limit(model, query).speed_rpm.value_or(c.range.last_rpm);
    });
    return out;
}

double measured_rpm(const DrawnCampaign& drawn, std::size_t candidate, std::size_t run, unsigned seed) {
    std::seed_seq words{seed, static_cast<unsigned>(run)};
    Dice dice(words);
    return drawn.truth_rpm[candidate] + kRig_rpm * std::normal_distribution<double>()(dice);
}

Campaigned one_at_a_time(const DrawnCampaign& drawn, unsigned seed) {
    const plan::Campaign& c = drawn.campaign;
    Rig rig(drawn, seed);
    Combination best = c.baseline;
    double best_rpm = rig.run(best);
    std::size_t since = 0;
    for (std::size_t f = 0; f < c.factors.size(); ++f)
        for (std::size_t level = 0; level < c.factors[f].levels.size(); ++level) {
            Combination tried = best;
            tried[f] = level;
            if (level == c.baseline[f] || drawn.truth_rpm[rig.place(tried)] <= 0)
                continue;
            if (c.baseline_every > 0 && since == c.baseline_every) {
                rig.run(c.baseline);
                since = 0;
            }
            ++since;
            if (const double rpm = rig.run(tried); rpm > best_rpm) {
                best_rpm = rpm;
                best = tried;
            }
        }
    rig.run(c.baseline);
    rig.out.chosen_rpm = drawn.truth_rpm[rig.place(best)];
    return rig.out;
}

Campaigned as_planned(const DrawnCampaign& drawn, unsigned seed) {
    plan::Campaign c = drawn.campaign;
    const std::vector<plan::Forecast> forecasts = plan::forecast(c, drawn.candidates, {});
    Rig rig(drawn, seed);
    while (true) {
        const plan::Plan plan = plan::plan_runs(c, drawn.candidates, forecasts);
        if (plan.settled || plan.runs.empty() || (!c.measured.empty() && plan.runs.size() == 1)) {
            rig.run(c.baseline);
            rig.out.chosen_rpm = drawn.truth_rpm[rig.place(plan.best)];
            return rig.out;
        }
        const Combination next = plan.runs.front().levels;
        c.measured.push_back({next, rig.run(next), kRig_rpm});
    }
}

} // namespace bathmos::test
