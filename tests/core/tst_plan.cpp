// Campaigns: what changes cost, orders against every permutation and against random ones, beliefs against
// closed forms, what is left out and why, the time table, where a campaign stands after runs.
#include "core/plan/plan.h"
#include "core/train/train_check.h"
#include "core/uncertainty/uncertain_inputs.h"
#include "support.h"

#include <algorithm>
#include <numeric>
#include <random>

using namespace bathmos;
using namespace bathmos::test;
using namespace bathmos::plan;

namespace {

// Two lobes (3 h, heads are off then: springs come with it), three springs (1 h), two rods (0.5 h).
Campaign small_campaign() {
    Campaign c;
    c.factors = {
        {"lobe", 3, {"A", "B"}, {1}}, {"spring", 1, {"1", "2", "3"}, {}}, {"rod", 0.5, {"x", "y"}, {}}};
    c.mounted = c.baseline = {0, 0, 0};
    c.day_h = {8, 8, 8};
    c.setup_h = 2;
    c.run_h = 0.5;
    c.baseline_every = 4;
    c.range = {3000, 9000, 100};
    return c;
}

Campaign drawn_campaign(std::mt19937& engine, std::size_t factors, std::size_t levels) {
    Campaign c;
    for (std::size_t f = 0; f < factors; ++f) {
        Factor factor{std::string(1, char('a' + f)), 0.25 * double(1 + engine() % 16), {}, {}};
        for (std::size_t i = 0; i < levels; ++i)
            factor.levels.push_back(std::to_string(i));
        if (f > 0 && engine() % 2)
            c.factors[f - 1].frees.push_back(f);
        c.factors.push_back(std::move(factor));
    }
    c.mounted = c.baseline = Combination(factors, 0);
    c.day_h = {1000};
    c.run_h = 0.5;
    c.baseline_every = engine() % 2 ? 4 : 0;
    return c;
}

std::vector<Combination> drawn_runs(const Campaign& c, std::mt19937& engine, std::size_t count) {
    std::vector<Combination> all = all_combinations(c), out;
    std::ranges::shuffle(all, engine);
    for (const Combination& one : all)
        if (one != c.baseline && out.size() < count)
            out.push_back(one);
    return out;
}

OrderQuestion question(const Campaign& c, const std::vector<Combination>& runs, double hours = 1e6) {
    OrderQuestion q;
    q.campaign = &c;
    q.runs = runs;
    q.worth.assign(runs.size(), 1.0 / double(runs.size()));
    q.from = c.mounted;
    q.hours = hours;
    return q;
}

// Hours added up from the runs as they would be made: not the code that chooses.
double added_up(const OrderQuestion& q, const std::vector<std::size_t>& order) {
    double out = 0;
    Combination now = q.from;
    for (const OrderedRun& run : with_baselines(q, order)) {
        out += change_hours(*q.campaign, now, *run.levels) + q.campaign->run_h;
        now = *run.levels;
    }
    return out;
}

std::vector<Candidate> bare_candidates(const Campaign& c) {
    std::vector<Candidate> out;
    for (const Combination& levels : all_combinations(c))
        out.push_back({levels, std::nullopt, ""});
    return out;
}

// Forecasts by a function of the levels; all draws move all alike but for `own_rpm`.
std::vector<Forecast> forecasts(const Campaign& c, const std::function<double(const Combination&)>& limit,
                                double own_rpm = 60) {
    std::vector<Forecast> out;
    std::mt19937 engine(5);
    std::normal_distribution<double> normal(0, own_rpm);
    for (const Combination& levels : all_combinations(c)) {
        Forecast one;
        one.limit_rpm = limit(levels);
        for (int draw = 0; draw < 12; ++draw)
            one.moved_rpm.push_back(normal(engine));
        out.push_back(std::move(one));
    }
    return out;
}

double by_levels(const Combination& l) {
    return 7000 + 300.0 * double(l[0]) + 150.0 * double(l[1]) - 40.0 * double(l[2]);
}

bool tells(const Plan& plan, const std::string& rule) {
    return std::ranges::any_of(plan.told, [&](const Told& one) { return one.rule == rule; });
}

} // namespace

class TstPlan : public QObject {
    Q_OBJECT

  private slots:
    void a_change_costs_the_sum_of_what_differs_less_what_comes_with_it() {
        const Campaign c = small_campaign();
        NEAR(change_hours(c, {0, 0, 0}, {0, 0, 0}), 0, 0);
        NEAR(change_hours(c, {0, 0, 0}, {0, 2, 1}), 1.5, 1e-12);
        NEAR(change_hours(c, {0, 0, 0}, {1, 0, 0}), 3, 1e-12);
        NEAR(change_hours(c, {0, 0, 0}, {1, 2, 1}), 3.5, 1e-12); // the spring comes with the lobe
        Campaign both = c;
        both.factors[1].frees = {0}; // each with the other: the dearer is paid, not nothing
        NEAR(change_hours(both, {0, 0, 0}, {1, 2, 0}), 3, 1e-12);
        both.factors[1].change_h = 3;
        NEAR(change_hours(both, {0, 0, 0}, {1, 2, 0}), 3, 1e-12);
        QCOMPARE(all_combinations(c).size(), std::size_t(12));
        QCOMPARE(name_of(c, {1, 0, 1}), std::string("lobe B, rod y"));
        QCOMPARE(name_of(c, c.baseline), std::string("baseline"));
    }

    void what_cannot_be_a_campaign_is_refused_by_name() {
        const auto location = [](const std::function<void(Campaign&)>& spoil) {
            Campaign c = small_campaign();
            spoil(c);
            return QString::fromStdString(problem_of([&] { check_campaign(c); }).location);
        };
        QCOMPARE(location([](Campaign& c) { c.factors.clear(); }), "factors");
        QCOMPARE(location([](Campaign& c) { c.factors[1].name = "lobe"; }), "factors[1].name");
        QCOMPARE(location([](Campaign& c) {
                     c.factors[0].levels = {"A", "A"};
                 }),
                 "factors[0].levels[0].name");
        QCOMPARE(location([](Campaign& c) { c.factors[0].change_h = -1; }), "factors[0].change_h");
        QCOMPARE(location([](Campaign& c) { c.factors[0].frees = {0}; }), "factors[0].comes_with");
        QCOMPARE(location([](Campaign& c) { c.baseline = {0, 3, 0}; }), "baseline.spring");
        QCOMPARE(location([](Campaign& c) { c.day_h.clear(); }), "hours");
        QCOMPARE(location([](Campaign& c) { c.run_h = 0; }), "run_h");
        QCOMPARE(location([](Campaign& c) { c.measured = {{{0, 0, 0}, 7000, 0}}; }), "measured[0].sd_rpm");
        QCOMPARE(location([](Campaign& c) {
                     c.factors = {{"a", 1, std::vector<std::string>(80), {}},
                                  {"b", 1, std::vector<std::string>(80), {}}};
                     for (Factor& f : c.factors)
                         for (std::size_t i = 0; i < f.levels.size(); ++i)
                             f.levels[i] = std::to_string(i);
                 }),
                 "factors");
    }

    void a_few_runs_are_ordered_as_no_permutation_betters() {
        std::mt19937 engine(11);
        for (int round = 0; round < 12; ++round) {
            const Campaign c = drawn_campaign(engine, 3, 3);
            const std::vector<Combination> runs = drawn_runs(c, engine, 6);
            const OrderQuestion q = question(c, runs);
            const RunOrder found = least_rework(q);
            QVERIFY(found.exact);
            QCOMPARE(found.order.size(), runs.size());
            NEAR(found.hours, added_up(q, found.order), 1e-9);
            std::vector<std::size_t> order(runs.size());
            std::iota(order.begin(), order.end(), std::size_t(0));
            double least = 1e9;
            do
                least = std::min(least, added_up(q, order));
            while (std::ranges::next_permutation(order).found);
            NEAR(found.hours, least, 1e-9);
        }
    }

    void many_runs_cost_no_more_than_the_best_of_ten_thousand_orders_and_no_less_than_the_bound() {
        std::mt19937 engine(23);
        for (const std::size_t count : {std::size_t(16), std::size_t(30), std::size_t(60)}) {
            const Campaign c = drawn_campaign(engine, 4, 4);
            const OrderQuestion q = question(c, drawn_runs(c, engine, count));
            const RunOrder found = least_rework(q);
            QVERIFY(!found.exact);
            QCOMPARE(found.order.size(), count);
            NEAR(found.hours, added_up(q, found.order), 1e-9);
            QVERIFY(found.bound_h <= found.hours + 1e-9 && found.bound_h > 0);
            std::vector<std::size_t> order = found.order;
            double least = 1e9;
            for (int i = 0; i < 10'000; ++i) {
                std::ranges::shuffle(order, engine);
                least = std::min(least, hours_of(q, order));
            }
            QVERIFY2(found.hours <= least + 1e-9, qPrintable(QString::number(found.hours - least)));
        }
    }

    void the_search_for_many_finds_what_is_exact_for_few() {
        std::mt19937 engine(31);
        int met = 0;
        for (int round = 0; round < 10; ++round) {
            Campaign few = drawn_campaign(engine, 3, 3);
            few.baseline_every = 0;
            const std::vector<Combination> runs = drawn_runs(few, engine, 10);
            const RunOrder exact = least_rework(question(few, runs));
            // Each of them twice, in two paints that cost nothing to change: too many to be ordered exactly.
            Campaign many = few;
            many.factors.push_back({"paint", 0, {"0", "1"}, {}});
            many.mounted.push_back(0);
            many.baseline.push_back(0);
            std::vector<Combination> twice;
            for (const std::size_t paint : {std::size_t(0), std::size_t(1)})
                for (Combination one : runs) {
                    one.push_back(paint);
                    twice.push_back(std::move(one));
                }
            const double least = exact.hours + double(runs.size()) * few.run_h;
            const RunOrder found = least_rework(question(many, twice));
            QVERIFY(exact.exact && !found.exact);
            QVERIFY(found.hours >= least - 1e-9 && found.bound_h <= least + 1e-9);
            met += found.hours < least + 1e-9;
        }
        QVERIFY2(met >= 9, qPrintable(QString::number(met)));
    }

    void a_bound_holds_where_the_way_over_the_baseline_is_shorter() {
        // What opens too makes that so: two changes of the cover cost less than one of what it covers.
        Campaign c;
        c.factors = {{"cover", 0.1, {"a", "b"}, {1}}, {"spring", 5, {"0", "1", "2", "3"}, {}}};
        for (std::size_t i = 0; i < 30; ++i)
            c.factors[0].levels.push_back(std::to_string(i));
        c.mounted = c.baseline = {0, 0};
        c.day_h = {1000};
        c.run_h = 0.5;
        for (const std::size_t every : {std::size_t(1), std::size_t(0)}) {
            c.baseline_every = every;
            std::vector<Combination> runs;
            for (std::size_t i = 0; i < 16; ++i)
                runs.push_back({1, i % 4});
            std::ranges::sort(runs);
            runs.erase(std::unique(runs.begin(), runs.end()), runs.end());
            OrderQuestion q = question(c, runs);
            q.baseline_first = false;
            const RunOrder exact = least_rework(q);
            for (std::size_t i = 2; i < 14; ++i)
                runs.push_back({i, 1});
            OrderQuestion larger = question(c, runs);
            larger.baseline_first = false;
            const RunOrder found = least_rework(larger);
            QVERIFY(exact.exact && !found.exact);
            QVERIFY(found.bound_h <= found.hours + 1e-9);
            NEAR(found.hours, added_up(larger, found.order), 1e-9);
        }
    }

    void what_has_no_limit_in_the_range_is_told() {
        const Campaign c = small_campaign();
        std::vector<Forecast> expected = forecasts(c, by_levels, 60);
        QVERIFY(!tells(plan_runs(c, bare_candidates(c), expected), "not_in_range"));
        for (Forecast& one : expected)
            if (one.limit_rpm > 7500)
                one.in_range = false; // cut off at the range's end
        QVERIFY(tells(plan_runs(c, bare_candidates(c), expected), "not_in_range"));
    }

    void the_baseline_comes_first_last_and_between() {
        const Campaign c = small_campaign();
        std::vector<Combination> runs = all_combinations(c);
        std::erase(runs, c.baseline);
        const OrderQuestion q = question(c, runs);
        std::vector<std::size_t> at;
        const std::vector<OrderedRun> all = with_baselines(q, least_rework(q).order);
        for (std::size_t i = 0; i < all.size(); ++i)
            if (all[i].baseline)
                at.push_back(i);
        QCOMPARE(all.size(), std::size_t(11 + 4));
        QVERIFY((at == std::vector<std::size_t>{0, 5, 10, 14}));
        OrderQuestion later = q; // it was run three runs ago
        later.baseline_first = false;
        later.since_baseline = 3;
        const std::vector<OrderedRun> rest = with_baselines(later, least_rework(later).order);
        QVERIFY(!rest[0].baseline && rest[1].baseline && !rest[2].baseline);
    }

    void where_hours_are_short_the_worthiest_are_run() {
        const Campaign c = small_campaign();
        const std::vector<Combination> runs = {{1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
        OrderQuestion q = question(c, runs, 5.05); // both baselines and the two cheap ones, not the lobe
        q.worth = {0.2, 0.5, 0.3};
        RunOrder found = least_rework(q);
        QCOMPARE(found.order.size(), std::size_t(2));
        NEAR(found.hours, 5, 1e-9);
        q.worth = {0.9, 0.05, 0.05};
        q.hours = 7.6; // the lobe and nothing beside it
        found = least_rework(q);
        QCOMPARE(found.order, (std::vector<std::size_t>{0}));
    }

    void of_equal_orders_the_likely_best_is_run_early() {
        Campaign c = small_campaign();
        c.factors = {{"spring", 1, {"1", "2", "3", "4"}, {}}};
        c.mounted = c.baseline = {0};
        OrderQuestion q = question(c, {{1}, {2}, {3}});
        q.worth = {0.1, 0.2, 0.7};
        QCOMPARE(least_rework(q).order, (std::vector<std::size_t>{2, 1, 0}));
    }

    void a_run_moves_the_belief_of_its_like_as_conditioning_says() {
        std::vector<Forecast> two(2);
        two[0] = {7000, true, 0, "", {100, -100}};
        two[1] = {7200, true, 0, "", {100, -100}};
        Belief belief(two);
        const double common = Belief::kCommonError, own = Belief::kOwnError;
        const auto covariance = [&](double a, double b) { return 100.0 * 100 + common * common * a * b; };
        const double v0 = covariance(7000, 7000) + own * own * 7000 * 7000,
                     v1 = covariance(7200, 7200) + own * own * 7200 * 7200, c01 = covariance(7000, 7200);
        NEAR(belief.sd_rpm(0), std::sqrt(v0), 1e-6);
        NEAR(belief.sd_of_difference_rpm(0, 1), std::sqrt(v0 + v1 - 2 * c01), 1e-6);
        belief.hear(0, 6800, 30);
        const double heard = v0 + 30 * 30;
        NEAR(belief.mean_rpm(0), 7000 - 200 * v0 / heard, 1e-6);
        NEAR(belief.mean_rpm(1), 7200 - 200 * c01 / heard, 1e-6);
        NEAR(belief.sd_rpm(1), std::sqrt(v1 - c01 * c01 / heard), 1e-6);
        QCOMPARE(belief.best(), std::size_t(1));
    }

    void chances_are_those_of_two_normal_limits() {
        std::vector<Forecast> two(2);
        two[0] = {7000, true, 0, "", {80, -80, 0, 0}};
        two[1] = {7060, true, 0, "", {0, 0, 80, -80}};
        const Belief belief(two);
        const double z = 60 / belief.sd_of_difference_rpm(0, 1), share = 0.5 * std::erfc(-z / std::sqrt(2.0));
        const std::vector<double> chances = belief.chances();
        NEAR(chances[1], share, 0.035);
        NEAR(chances[0] + chances[1], 1, 1e-9);
        NEAR(belief.chance_beyond(0, {1}, 60), 0.5, 0.035);
    }

    void what_lies_far_below_is_left_out_and_a_stop_is_told() {
        const Campaign c = small_campaign();
        std::vector<Forecast> expected = forecasts(c, by_levels, 30);
        expected[3].stopped = "outer: coils touch at full lift";
        const Plan plan = plan_runs(c, bare_candidates(c), expected);
        QCOMPARE(plan.best, (Combination{1, 2, 0}));
        QVERIFY(std::ranges::any_of(plan.left_out, [](const LeftOut& one) {
            return one.levels == Combination{0, 1, 1} && contains(one.why, "coils touch");
        }));
        for (const PlannedRun& run : plan.runs)
            QVERIFY(run.baseline || run.levels[0] == 1); // 300 rev/min below is never the best
        QCOMPARE(plan.runs.front().why, std::string("all others are compared with it"));
        QVERIFY(plan.runs.back().baseline);
        std::size_t named = plan.left_out.size();
        for (const PlannedRun& run : plan.runs)
            named += !run.baseline;
        QCOMPARE(named, std::size_t(11)); // every combination stands in one of the two lists
        QVERIFY(!plan.settled);
    }

    void hours_of_the_table_follow_each_other_and_no_run_crosses_a_night() {
        Campaign c = small_campaign();
        c.day_h = {5, 4.25, 7};
        const Plan plan = plan_runs(c, bare_candidates(c), forecasts(c, by_levels, 400));
        QVERIFY(plan.runs.size() > 5);
        double now = c.setup_h;
        std::vector<double> ends = {5, 9.25, 16.25};
        for (const PlannedRun& run : plan.runs) {
            QVERIFY(run.start_h >= now - 1e-9);
            NEAR(run.hours, run.change_h + c.run_h, 1e-9);
            now = run.start_h + run.hours;
            for (const double end : ends)
                QVERIFY(now <= end + 1e-9 || now - c.run_h >= end - 1e-9);
            QVERIFY(now <= ends[run.day] + 1e-9);
        }
        NEAR(plan.hours, now, 1e-9);
        QVERIFY(plan.hours <= plan.booked_h + 1e-9);
        QVERIFY(std::ranges::any_of(plan.left_out, &LeftOut::for_want_of_hours));
        QVERIFY(!plan.gone.empty()); // half a day less, and not all of it fits
        for (const Combination& levels : plan.gone)
            QVERIFY(
                std::ranges::any_of(plan.runs, [&](const PlannedRun& run) { return run.levels == levels; }));
    }

    void runs_that_were_made_are_not_planned_again_and_settle_it() {
        Campaign c = small_campaign();
        const std::vector<Forecast> expected = forecasts(c, by_levels, 60);
        c.measured = {{{0, 0, 0}, 6900, 25}};
        const Plan first = plan_runs(c, bare_candidates(c), expected);
        QVERIFY(!first.runs.front().baseline); // it was run, and another is not due yet
        QVERIFY(!first.settled);
        QCOMPARE(first.best, c.baseline); // of what was run
        c.measured.push_back({{1, 2, 0}, 7560, 25});
        c.measured.push_back({{1, 2, 1}, 7420, 25});
        const Plan later = plan_runs(c, bare_candidates(c), expected);
        QCOMPARE(later.best, (Combination{1, 2, 0}));
        for (const PlannedRun& run : later.runs)
            QVERIFY(run.baseline ||
                    (run.levels != Combination{1, 2, 0} && run.levels != Combination{1, 2, 1}));
        QVERIFY(later.chance_better < first.chance_better);
        QVERIFY(later.settled);
        QCOMPARE(later.made.size(), std::size_t(3));
        NEAR(later.made[0].off_rpm, 6900 - 7000, 1e-9);
        QVERIFY(later.best_expected.high_rpm - later.best_expected.low_rpm < 120);
    }

    void a_baseline_that_moves_and_a_run_off_the_model_are_told() {
        Campaign c = small_campaign();
        const std::vector<Forecast> expected = forecasts(c, by_levels, 30);
        c.measured = {{{0, 0, 0}, 7000, 25}, {{1, 2, 0}, 7600, 25}, {{0, 0, 0}, 6850, 25}};
        QVERIFY(tells(plan_runs(c, bare_candidates(c), expected), "baseline_moved"));
        c.measured[2].limit_rpm = 6960;
        QVERIFY(!tells(plan_runs(c, bare_candidates(c), expected), "baseline_moved"));
        c.measured = {{{0, 0, 0}, 7000, 25}, {{1, 2, 0}, 6700, 25}};
        const Plan off = plan_runs(c, bare_candidates(c), expected);
        QVERIFY(tells(off, "off_the_model"));
        c.day_h = {2};
        QVERIFY(tells(plan_runs(c, bare_candidates(c), expected), "hours_short"));
    }

    void equal_numbers_of_two_trains_are_drawn_alike() {
        const Train one = starter_train();
        Train other = one;
        other.pushrod->length_m += 5e-3;
        const Train a = drawn_alike(one, 3, 1), b = drawn_alike(other, 3, 1), again = drawn_alike(one, 3, 1),
                    opposite = drawn_alike(one, 2, 1);
        QVERIFY(a == again);
        QCOMPARE(*value_of(a, "valve.mass_g"), *value_of(b, "valve.mass_g"));
        const double believed = *value_of(one, "valve.mass_g");
        QVERIFY(*value_of(a, "valve.mass_g") != believed);
        NEAR(*value_of(a, "valve.mass_g") - believed, believed - *value_of(opposite, "valve.mass_g"), 1e-9);
        QVERIFY(check_train(a).empty());
    }

    void a_forecast_runs_the_model_and_stops_when_asked() {
        Campaign c = small_campaign();
        c.factors = {{"mass", 0, {"as it is", "light", "none"}, {}}};
        c.mounted = c.baseline = {0};
        c.range = {5000, 9500, 250};
        std::vector<Candidate> candidates = bare_candidates(c);
        candidates[0].train = candidates[1].train = candidates[2].train = starter_train();
        candidates[1].train->valve.mass_kg *= 0.7;
        candidates[2].train->valve.mass_kg = -1;
        ForecastQuery query;
        query.draws = 4;
        std::vector<double> told;
        const std::vector<Forecast> found =
            forecast(c, candidates, query, [&](double share) { told.push_back(share); });
        QVERIFY(found[0].limit_rpm > 5000);
        QVERIFY(found[1].limit_rpm > found[0].limit_rpm + 100); // a lighter valve follows further
        CONTAINS(found[2].stopped, "valve.mass_g");
        QCOMPARE(found[0].moved_rpm.size(), std::size_t(4));
        QVERIFY(std::ranges::is_sorted(told) && told.back() == 1);
        std::stop_source stop;
        stop.request_stop();
        bool stopped = false;
        try {
            forecast(c, candidates, query, {}, stop.get_token());
        } catch (const Stopped&) {
            stopped = true;
        }
        QVERIFY(stopped);
        candidates[0].train->valve.mass_kg = -1;
        QCOMPARE(problem_of([&] { forecast(c, candidates, query); }).location, std::string("baseline"));
    }
};

QTEST_APPLESS_MAIN(TstPlan)
#include "tst_plan.moc"
