#include "core/motion/hold.h"
#include "core/train/train_check.h"
#include "core/train/train_figures.h"
#include "core/uncertainty/limit_uncertainty.h"
#include "core/whatif/handles.h"
#include "support.h"

#include <numeric>

using namespace bathmos;
using namespace bathmos::test;

namespace {

// One speed range for all: the starter train's limit lies in it.
constexpr SpeedRange kRange{5000, 9500, 100};

Sweep whole() {
    return sweep(starter_train(), kRange);
}

const UncertainInput* find(const std::vector<UncertainInput>& inputs, std::string_view key) {
    for (const UncertainInput& input : inputs)
        if (input.key == key)
            return &input;
    return nullptr;
}

} // namespace

class TestUncertainty : public QObject {
    Q_OBJECT
  private slots:
    void the_quick_limit_is_the_sweep_s() {
        const Sweep s = whole();
        const MotionModel model(starter_train());
        const double limit = *s.summary.limit.speed_rpm;
        for (const double near : {limit - 900, limit + 900}) {
            QuickLimitQuery query;
            query.range = kRange;
            query.near_rpm = near;
            query.low_speed_deg = s.summary.low_speed_duration_change_deg;
            const LimitSpeed estimate = estimate_limit(model, query);
            QVERIFY(estimate.speed_rpm.has_value());
            NEAR(*estimate.speed_rpm, limit, 150);
            const LimitSpeed refined = refine_limit(model, after_estimate(query, estimate));
            NEAR(*refined.speed_rpm, limit, 1e-9); // the same bisection, from fewer speeds
            QCOMPARE(refined.first->key, s.summary.limit.first->key);
        }
    }

    void the_dear_low_speed_is_run_only_where_the_limit_hangs_on_it() {
        const Sweep s = whole();
        std::vector<Limit> lift_only = usual_limits();
        std::erase_if(lift_only, [](const Limit& limit) { return limit.from_low_speed; });
        for (const bool with_duration : {true, false}) {
            LimitOptions options;
            options.assumed_low_speed_deg = s.summary.low_speed_duration_change_deg;
            LimitSearch search(kRange.speeds_rpm(), with_duration ? usual_limits() : lift_only, options);
            for (const SpeedMetrics& row : rows_of(s.motions))
                search.put(row.speed_rpm, row.metrics);
            const LimitSpeed limit = search.result();
            QVERIFY(limit.speed_rpm.has_value());
            QVERIFY(search.hangs_on_low_speed(1e-9) == limit.first->from_low_speed);
            QVERIFY(with_duration || !search.hangs_on_low_speed(100));
            QVERIFY(!with_duration || search.hangs_on_low_speed(100));
        }
        // a neighbour's value that is off does not change what is found
        QuickLimitQuery query;
        query.range = kRange;
        query.near_rpm = *s.summary.limit.speed_rpm;
        query.low_speed_deg = s.summary.low_speed_duration_change_deg + 1;
        NEAR(*refine_limit(MotionModel(starter_train()), query).speed_rpm, *s.summary.limit.speed_rpm, 1e-9);
    }

    void a_train_without_a_limit_has_none_quickly() {
        QuickLimitQuery query;
        query.range = {2000, 3500, 100};
        const MotionModel model(starter_train());
        QVERIFY(!estimate_limit(model, query).speed_rpm);
        QVERIFY(!refine_limit(model, query).speed_rpm);
    }

    void masses_come_from_the_scale_and_joints_are_estimates() {
        const Train t = starter_train();
        const auto inputs = uncertain_inputs(t);
        const UncertainInput* mass = find(inputs, "valve.mass_g");
        QVERIFY(mass && mass->tolerance.source == Source::Scale && mass->usual);
        NEAR(mass->tolerance.plus_minus, 0.18e-3, 1e-9); // 0.2 % of 90 g
        const UncertainInput* ends = find(inputs, "pushrod.end_stiffness_N_per_mm");
        QVERIFY(ends && ends->tolerance.source == Source::Estimate);
        NEAR(ends->tolerance.plus_minus, 0.3 * t.pushrod->end_stiffness_N_per_m, 1);
        QVERIFY(find(inputs, "springs[0].wire_mm"));
        QVERIFY(!find(inputs, "locks.angle_deg")); // has no part in the motion
    }

    void a_given_tolerance_stands_over_the_usual_one() {
        Train t = starter_train();
        t.tolerances["valve.mass_g"] = {Source::Estimate, 3e-3};
        const auto inputs = uncertain_inputs(t);
        const UncertainInput* mass = find(inputs, "valve.mass_g");
        QVERIFY(mass && !mass->usual && mass->tolerance == (Tolerance{Source::Estimate, 3e-3}));
        NEAR(moved(t, *mass, -1).valve.mass_kg, t.valve.mass_kg - 3e-3, 1e-12);
        t.tolerances["lash_mm"] = {Source::Gauge, 1};
        NEAR(moved(t, *find(uncertain_inputs(t), "lash_mm"), -1).lash_m, t.lash_m, 0); // may not be below 0
    }

    void a_load_table_moves_as_a_whole() {
        Train t = starter_train();
        t.springs = {starter_table_spring(t.installed_height_m)};
        const auto inputs = uncertain_inputs(t);
        const UncertainInput* loads = find(inputs, "springs[0].load_table");
        QVERIFY(loads && loads->tolerance.source == Source::Tester);
        const double before = SpringStatics(t.springs[0]).load_N(0.035);
        NEAR(SpringStatics(moved(t, *loads, 2).springs[0]).load_N(0.035), before * 1.03, 1e-9);
    }

    void halton_points_fill_the_cube_evenly_and_are_the_same_for_a_seed() {
        constexpr std::size_t n = 512, dims = 40;
        std::vector<double> mean(dims, 0);
        for (std::size_t i = 1; i <= n; ++i) {
            const std::vector<double> p = halton_point(i, dims, 7);
            QVERIFY(p == halton_point(i, dims, 7));
            for (std::size_t d = 0; d < dims; ++d) {
                QVERIFY(p[d] > 0 && p[d] < 1);
                mean[d] += p[d] / n;
            }
        }
        for (double m : mean)
            NEAR(m, 0.5, 0.05);
        QVERIFY(halton_point(5, dims, 7) != halton_point(5, dims, 8));
        NEAR(halton_point(3, 1, 1)[0], 0.75, 1e-12); // base 2 cannot be scrambled: 1/2, 1/4, 3/4
    }

    // One input alone is off: it drives everything, and the limits at its ends are those of such trains.
    void one_uncertain_input_takes_the_whole_variance() {
        Train t = starter_train();
        for (const UncertainInput& input : uncertain_inputs(t))
            t.tolerances[input.key] = {Source::Sheet, 0};
        t.tolerances["springs[0].shear_modulus_GPa"] = {Source::Sheet, 5e9};
        UncertaintyQuery query;
        query.range = kRange;
        query.trains = 20;
        query.first_trains = 6;
        std::size_t first = 0;
        UncertaintyWatch watch;
        watch.estimate = [&](const LimitUncertainty& s) { first = s.trains; };
        const LimitUncertainty s = uncertainty_of(t, query, watch);
        QCOMPARE(first, std::size_t{6});
        QCOMPARE(s.trains, std::size_t{20});
        QCOMPARE(s.drivers.front().input.key, std::string("springs[0].shear_modulus_GPa"));
        QVERIFY2(s.drivers.front().share > 0.8, qPrintable(QString::number(s.drivers.front().share)));
        QVERIFY(s.drivers.front().rpm_per_tolerance > 0); // a stiffer spring runs faster
        QVERIFY(s.drivers.size() < 2 || s.drivers[1].share < 1e-6);
        QVERIFY(*s.low_rpm < *s.middle_rpm && *s.middle_rpm < *s.high_rpm);
        NEAR(*s.middle_rpm, *whole().summary.limit.speed_rpm, 60);
        QVERIFY(s.middle_error_rpm > 0 && s.middle_error_rpm < 100);
        query.trains = 6;
        const std::vector<double> again =
            uncertainty_of(t, query).limit_rpm; // the same whatever the workers do
        QVERIFY(std::equal(again.begin(), again.end(), s.limit_rpm.begin()));
    }

    void a_spread_is_stopped_at_once() {
        std::stop_source source;
        UncertaintyQuery query;
        query.range = kRange;
        UncertaintyWatch watch;
        watch.stop = source.get_token();
        watch.progress = [&](double) { source.request_stop(); };
        QVERIFY_THROWS_EXCEPTION(Stopped, uncertainty_of(starter_train(), query, watch));
    }

    void a_hold_ends_as_the_settled_motion_and_says_how_it_came_there() {
        const Train t = starter_train();
        const Hold h = hold(t, 6000, 0.3);
        QCOMPARE(h.points.size(), std::size_t{15}); // 0.02 s a cycle
        NEAR(h.points.back().time_s, 0.3, 1e-9);
        const Motion settled = simulate_one(t, 6000);
        NEAR(h.points.back().peak_m,
             *std::max_element(settled[Channel::Lift].begin(), settled[Channel::Lift].end()), 1e-6);
        NEAR(*h.points.back().metrics[Metric::Seating], *settled.metrics[Metric::Seating], 0.01);
        NEAR(h.points.back().seat_load_N, figures_of(t, RigidMotion(t, curve_of(t.lobe))).seat_load_N, 60);
        QVERIFY(h.last.periodic && h.last.cloud_m.size() == 8);
        QVERIFY_THROWS_EXCEPTION(Stopped, hold(t, 6000, 10, {}, [] {
                                     std::stop_source s;
                                     s.request_stop();
                                     return s.get_token();
                                 }()));
    }

    void every_handle_sets_what_it_reads_and_leaves_a_valid_train() {
        for (const Layout layout : {Layout::Pushrod, Layout::Bucket, Layout::Finger}) {
            const Train t = with_layout(starter_train(), layout);
            for (const Handle& handle : handles()) {
                const std::optional<double> value = handle.get(t);
                if (!value)
                    continue;
                Train changed = t;
                handle.set(changed, *value + 2 * handle.step);
                QVERIFY2(std::abs(*handle.get(changed) - *value - 2 * handle.step) <
                             1e-6 * std::abs(*value) + 1e-9,
                         handle.key.data());
                QVERIFY2(check_train(changed).empty(), handle.key.data());
            }
        }
    }

    void what_depends_on_a_handle_follows() {
        Train t = starter_train();
        const auto set = [&](std::string_view key, double si) {
            for (const Handle& handle : handles())
                if (handle.key == key)
                    handle.set(t, si);
        };
        const double seat = SpringStatics(t.springs[0]).load_N(t.installed_height_m);
        set("spring_rate", 1.2 * SpringStatics(t.springs[0]).rate_N_per_m(0.04));
        NEAR(SpringStatics(t.springs[0]).load_N(t.installed_height_m), seat, 1e-6);
        const double mass = t.pushrod->mass_kg;
        set("pushrod_wall", t.pushrod->wall_m + 0.5e-3);
        QVERIFY(t.pushrod->mass_kg > mass + 5e-3);
        set("rocker_ratio", 1.7);
        NEAR(t.rocker->output_arm_m / t.rocker->input_arm_m, 1.7, 1e-9);
    }

    void handles_that_keep_something_keep_it() {
        const auto changed = [](std::string_view key, double times) {
            Train t = starter_train();
            for (const Handle& handle : handles())
                if (handle.key == key)
                    handle.set(t, times * *handle.get(t));
            return t;
        };
        const Train t = starter_train();
        const auto lift = [](const Train& of) { return RigidMotion(of, curve_of(of.lobe)).peak_m(); };
        const auto figures = [](const Train& of) {
            return figures_of(of, RigidMotion(of, curve_of(of.lobe)));
        };
        const Train geared = changed("ratio_same_lift", 1.05);
        NEAR(lift(geared), lift(t), 1e-9);
        NEAR(geared.lobe.base_radius_m + curve_of(geared.lobe).lift_m(),
             t.lobe.base_radius_m + curve_of(t.lobe).lift_m(), t.lobe.base_radius_m > 0 ? 1e-9 : 1);
        const Train light = changed("load_same_margin", 0.95);
        NEAR(figures(light).seat_load_N / figures(t).seat_load_N, 0.95, 1e-9);
        NEAR(figures(light).seat_load_N / figures(light).equivalent_mass_total_kg,
             figures(t).seat_load_N / figures(t).equivalent_mass_total_kg, 1e-6);
        const Train stiff = changed("rocker_stiffness", 1.2);
        NEAR(stiff.rocker->inertia_kg_m2 / t.rocker->inertia_kg_m2, 1.2, 1e-12);
    }

    void a_measured_lobe_is_stretched_without_losing_its_nose() {
        Train t = starter_train();
        const LobeCurve curve = curve_of(t.lobe);
        LobeTable table;
        for (int deg = -180; deg < 180; ++deg) {
            table.angle.push_back(deg);
            table.lift.push_back(curve.at(radians(deg)) * 1e3);
        }
        t.lobe.shape = table;
        const Handle* span = nullptr;
        for (const Handle& handle : handles())
            if (handle.key == "lobe_span")
                span = &handle;
        const double before = *span->get(t);
        span->set(t, 1.05 * before);
        NEAR(*span->get(t), 1.05 * before, radians(2.1));
        NEAR(*std::max_element(std::get<LobeTable>(t.lobe.shape).lift.begin(),
                               std::get<LobeTable>(t.lobe.shape).lift.end()),
             8.0, 1e-6);
    }
};

QTEST_APPLESS_MAIN(TestUncertainty)
#include "tst_uncertainty.moc"
