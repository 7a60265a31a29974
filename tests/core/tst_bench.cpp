// Bench sheets against closed forms, against drawn parts whose truth is known, and with what goes wrong at a
// bench planted in them.
#include "core/bench/height_sheet.h"
#include "core/bench/ratio_sheet.h"
#include "core/bench/sheet_effect.h"
#include "core/bench/spring_set.h"
#include "core/bench/spring_sheet.h"
#include "core/bench/stiffness_sheet.h"
#include "core/bench/straight_line.h"
#include "core/rocker/rocker_geometry.h"
#include "core/train/train_check.h"
#include "support.h"

#include <random>

using namespace bathmos;
using namespace bathmos::bench;
using namespace bathmos::test;

namespace {

constexpr int kDrawn = 200;

bool told_of(const std::vector<Told>& told, const std::string& rule) {
    return std::ranges::any_of(told, [&](const Told& one) { return one.rule == rule; });
}

// A spring as it truly is, and as a tester shows it.
struct TrueSpring {
    double rate_N_per_m = 34e3, free_m = 54e-3, progressive = 0; ///< share that the rate gains over 20 mm
    double solid_m = 27e-3, solid_rate_N_per_m = 4e6, rub_N = 6;
    double load_N(double height_m, int way) const { // way: +1 being pressed
        const double pressed = free_m - height_m;
        double load = rate_N_per_m * pressed * (1 + progressive * pressed / 20e-3 / 2);
        if (height_m < solid_m)
            load += solid_rate_N_per_m * (solid_m - height_m);
        return load + way * rub_N;
    }
};

SpringSheet on_tester(const TrueSpring& spring, double noise_N, unsigned seed, double lowest_m = 26.5e-3) {
    std::mt19937_64 dice(seed);
    std::normal_distribution<double> normal(0, noise_N);
    SpringSheet out;
    out.installed_height_m = 44e-3;
    out.valve_lift_m = 14e-3;
    std::vector<double> loads;
    for (const int way : {1, -1})
        for (int k = 0;; ++k) {
            const double height = 47e-3 - 0.25e-3 * k;
            if (height < lowest_m)
                break;
            out.height_m.push_back(height);
            out.going.push_back(way > 0 ? Going::Down : Going::Up);
            loads.push_back(spring.load_N(height, way) + normal(dice));
        }
    out.load_N = readings_of(loads);
    return out;
}

// Share of draws in which the truth lies within two of the stated deviations.
struct Coverage {
    int inside = 0, all = 0;
    void add(const Figure& told, double truth) {
        ++all;
        inside += std::abs(told.value - truth) <= 2 * told.sd ? 1 : 0;
    }
    double share() const { return static_cast<double>(inside) / all; }
};
#define HONEST(coverage)                                                                                     \
    QVERIFY2((coverage).share() >= 0.90 && (coverage).share() <= 0.99,                                       \
             qPrintable(QString::number((coverage).share())))

RatioSheet by_dials(double ratio, double bend_per_m, double noise_m, unsigned seed) {
    std::mt19937_64 dice(seed);
    std::normal_distribution<double> normal(0, noise_m);
    RatioSheet out;
    std::vector<double> rise, lift;
    for (const Turn turn : {Turn::Up, Turn::Down})
        for (int k = 0; k <= 4; ++k) {
            const double at = 2e-3 * (turn == Turn::Up ? k : 4 - k);
            rise.push_back(at);
            lift.push_back(ratio * at + bend_per_m * at * (at - 8e-3) + normal(dice));
            out.turn.push_back(turn);
        }
    out.rise_m = readings_of(rise);
    out.lift_m = readings_of(lift);
    return out;
}

} // namespace

class TstBench : public QObject {
    Q_OBJECT

  private slots:
    void a_mean_takes_zero_and_drift_out() {
        Readings r;
        r.repeats = {{10.1, 10.3}, {20.4}};
        r.zero_before = 0.1;
        r.zero_after = 0.5; // 0.1 more after each of three readings and the last zero
        const auto means = means_of(r);
        Readings once = r; // a zero that was read once is taken off, and is no drift
        once.zero_after.reset();
        NEAR(means_of(once)[1].value, 20.4 - 0.1, 1e-12);
        QCOMPARE(once.drift(), 0.0);
        NEAR(means[0].value, ((10.1 - 0.2) + (10.3 - 0.3)) / 2, 1e-12);
        NEAR(means[1].value, 20.4 - 0.4, 1e-12);
        // pooled: it was read once itself; and of two zeros that scatter alike
        const double one = std::sqrt(2 * 0.05 * 0.05), zeros = one / std::sqrt(2.0);
        NEAR(means[1].sd, std::hypot(one, zeros), 1e-12);
        NEAR(means[0].sd, std::hypot(one / std::sqrt(2.0), zeros), 1e-12);
        QCOMPARE(means[0].freedom, 1.0); // two repeats of one place, one of the other
        Readings bare = r;
        bare.zero_before.reset();
        bare.zero_after.reset();
        NEAR(means_of(bare)[1].sd, std::sqrt(2 * 0.1 * 0.1),
             1e-12); // no zero was read, nor a drift taken out
        r.resolution = 2;
        const double own = 2 / std::sqrt(12.0); // the instrument's own is larger, and known
        NEAR(means_of(r)[0].sd, own * std::sqrt(1.5), 1e-12);
        QVERIFY(std::isinf(means_of(r)[0].freedom));
        QVERIFY(
            told_of_drift(r, "the scale", Quantity::Mass, 20, 0).empty()); // 0.4 is within three times that
        r.resolution = 0.01;
        QVERIFY(told_of(told_of_drift(r, "the scale", Quantity::Mass, 20, 0), "drift"));
    }

    void a_repeat_that_is_far_off_is_to_be_read_again() {
        Readings r;
        r.repeats = {{10.0, 10.02}, {20.0, 20.01}, {30.0, 30.9}, {40.01, 40.0}};
        QCOMPARE(to_repeat(r), std::vector<std::size_t>{2});
        r.repeats[2] = {30.0, 30.02};
        QVERIFY(to_repeat(r).empty());
        QVERIFY(to_repeat(readings_of({1, 2, 3})).empty());
    }

    void a_line_is_the_textbook_one() {
        const StraightLine line = line_through({0, 1, 2, 3}, {1, 3, 5, 8});
        NEAR(line.slope.value, 2.3, 1e-12); // by hand
        NEAR(line.at_zero.value, 0.8, 1e-12);
        NEAR(line.residual_sd, std::sqrt(0.3 / 2) * 4.302653 / 1.959964, 1e-6); // Student's t, two degrees
        NEAR(line.slope.sd, line.residual_sd / std::sqrt(5.0), 1e-12);
        NEAR(by_student(1, 1e6), 1, 1e-5);
        QCOMPARE(by_student(1, 0), 0.0);
        NEAR(line_from_origin({1, 2}, {2, 5}).slope.value, 12.0 / 5, 1e-12);
    }

    void a_spring_without_noise_is_its_closed_form() {
        const TrueSpring spring;
        const SpringFigures f = figures_of(on_tester(spring, 0, 1));
        NEAR(f.seat_N->value, 34.0 * 10, 1e-3);
        NEAR(f.open_N->value, 34.0 * 24, 1e-3);
        NEAR(f.rate_N_per_m.value, 34e3, 1);
        NEAR(f.friction_N->value, 6, 1e-4);
        NEAR(f.solid_m->value, 27e-3, 1e-6);
        NEAR(f.margin_m->value, 3e-3, 1e-6);
        QVERIFY(f.told.empty());
        NEAR(f.curve_load_N.front(), spring.load_N(f.curve_height_m.front(), 0), 1e-3);
        TrueSpring beehive;
        beehive.progressive = 0.3;
        const SpringFigures b = figures_of(on_tester(beehive, 0, 1));
        NEAR(b.seat_N->value, beehive.load_N(44e-3, 0), 0.01);
        NEAR(b.open_N->value, beehive.load_N(30e-3, 0), 0.01);
    }

    void a_spring_is_told_as_surely_as_it_is_known() {
        Coverage seat, open, rate, solid, rub;
        std::mt19937_64 dice(77);
        std::uniform_real_distribution<double> any(0, 1);
        int cried = 0;
        for (int i = 0; i < kDrawn; ++i) {
            TrueSpring s;
            s.rate_N_per_m = 25e3 + 30e3 * any(dice);
            s.progressive = any(dice) < 0.5 ? 0 : 0.3 * any(dice);
            s.rub_N = 2 + 10 * any(dice);
            s.solid_m = (27 + any(dice)) * 1e-3;
            const SpringFigures f =
                figures_of(on_tester(s, 1.5 + 2 * any(dice), 1000 + static_cast<unsigned>(i)));
            seat.add(*f.seat_N, s.load_N(44e-3, 0));
            open.add(*f.open_N, s.load_N(30e-3, 0));
            rate.add(f.rate_N_per_m, (s.load_N(30e-3, 0) - s.load_N(44e-3, 0)) / 14e-3);
            rub.add(*f.friction_N, s.rub_N);
            solid.add(*f.solid_m, s.solid_m);
            cried += f.told.empty() ? 0 : 1;
        }
        HONEST(seat);
        HONEST(open);
        HONEST(rate);
        HONEST(rub);
        HONEST(solid);
        QVERIFY2(cried < kDrawn / 20, qPrintable(QString::number(cried)));
    }

    // Let go only below solid, or readings there that do not rise: no rub is made up, and solid stays a
    // number.
    void a_spring_read_one_way_above_solid_has_no_rub() {
        SpringSheet s = on_tester({}, 0, 1);
        for (std::size_t i = s.height_m.size(); i-- > 0;)
            if (s.going[i] == Going::Up && s.height_m[i] > 26.9e-3) {
                s.height_m.erase(s.height_m.begin() + static_cast<std::ptrdiff_t>(i));
                s.going.erase(s.going.begin() + static_cast<std::ptrdiff_t>(i));
                s.load_N.repeats.erase(s.load_N.repeats.begin() + static_cast<std::ptrdiff_t>(i));
            }
        const SpringFigures f = figures_of(s);
        QVERIFY(!f.friction_N);
        NEAR(f.seat_N->value, 340 + 6, 0.01); // the rub cannot be told from it
        QVERIFY(std::isfinite(f.seat_N->sd));
        SpringSheet flat = on_tester({}, 0, 1);
        for (std::size_t i = 0; i < flat.height_m.size(); ++i)
            if (flat.height_m[i] < 27e-3 - 1e-6)
                flat.load_N.repeats[i].front() = 5000;
        const SpringFigures g = figures_of(flat);
        QVERIFY(g.solid_m && std::isfinite(g.solid_m->value) && std::isfinite(g.solid_m->sd));
    }

    void what_is_wrong_with_a_spring_sheet_is_told() {
        const TrueSpring spring;
        SpringSheet short_of = on_tester(spring, 0.5, 3, 29e-3);
        QVERIFY(told_of(figures_of(short_of).told, "solid_not_reached"));
        QVERIFY(!figures_of(short_of).solid_m && !figures_of(short_of).margin_m);
        SpringSheet entries = on_tester(spring, 0.5, 3);
        entries.claimed = {340.0, 816.0, 34e3};
        QVERIFY(figures_of(entries).told.empty());
        entries.claimed.rate_N_per_m = 194e3; // pounds an inch in the column of N/mm
        QVERIFY(told_of(figures_of(entries).told, "entry"));
        entries.claimed = {420.0, 816.0, {}};
        QVERIFY(told_of(figures_of(entries).told, "not_as_claimed"));
        SpringSheet drifted = on_tester(spring, 0.5, 3);
        drifted.load_N.resolution = 0.1;
        drifted.load_N.zero_before = 0;
        drifted.load_N.zero_after = 6;
        QVERIFY(told_of(figures_of(drifted).told, "drift"));
        SpringSheet far = on_tester(spring, 0.5, 3);
        far.installed_height_m = 52e-3;
        QVERIFY(told_of(figures_of(far).told, "beyond_readings"));
        SpringSheet swapped = on_tester(spring, 0.5, 3);
        for (double& height : swapped.height_m)
            height = 80e-3 - height;
        QCOMPARE(problem_of([&] { figures_of(swapped); }).location, std::string("load_N"));
        SpringSheet two = on_tester(spring, 0, 3);
        two.height_m.resize(2);
        two.going.resize(2);
        two.load_N.repeats.resize(2);
        CONTAINS(problem_of([&] { figures_of(two); }).what, "2 heights");
        two.height_m.resize(1);
        CONTAINS(problem_of([&] { figures_of(two); }).what, "1 heights, 2 loads");
    }

    // Numbers that no bench reads are refused by their key, in the unit that they were typed in.
    void what_cannot_be_read_is_refused() {
        SpringSheet spring = on_tester({}, 0, 1);
        spring.height_m[3] = -42e-3;
        QCOMPARE(problem_of([&] { figures_of(spring); }).location, std::string("height_mm"));
        CONTAINS(problem_of([&] { figures_of(spring); }).what, "-42");
        spring = on_tester({}, 0, 1);
        spring.load_N.repeats[2].front() = std::nan("");
        QCOMPARE(problem_of([&] { figures_of(spring); }).location, std::string("load_N"));
        spring = on_tester({}, 0, 1);
        spring.valve_lift_m = -5e-3;
        QCOMPARE(problem_of([&] { figures_of(spring); }).location, std::string("valve_lift_mm"));
        RatioSheet ratio = by_dials(1.6, 0, 0, 1);
        ratio.lift_m.repeats[1].front() = 1e297;
        QCOMPARE(problem_of([&] { figures_of(ratio); }).location, std::string("lift_mm"));
        SpringSet set;
        set.springs = {{"a", {44e-3}, {0}}, {"b", {44e-3}, {300}}};
        QCOMPARE(problem_of([&] { figures_of(set); }).location, std::string("springs.a.load_N"));
        const SwingSheet swing{readings_of({1e9}), {0.1, 0}, {0.01, 0}};
        QCOMPARE(problem_of([&] { inertia_kg_m2(swing); }).location, std::string("swing_s"));
        HeightSheet height;
        height.old_height_m = {46e-3, 0};
        height.ball_m = 10e-3;
        height.shims_m.assign(61, 0.5e-3);
        QCOMPARE(problem_of([&] { figures_of(height); }).location, std::string("shims_mm"));
        height.shims_m.resize(60);
        height.wanted_m = 45e-3;
        NEAR(figures_of(height).shimmed_m, 45e-3, 1e-9);
    }

    void a_set_names_its_bad_and_tired_springs_and_places_the_rest() {
        SpringSet set;
        for (int i = 0; i < 8; ++i) {
            const double share =
                i == 3 ? 0.94 : 1 + 0.002 * ((i * 5) % 8); // neighbours by load are not by number
            set.springs.push_back({"s" + std::to_string(i), {44e-3, 30e-3}, {340 * share, 816 * share}});
            set.springs.back().old_height_m = {44e-3};
            set.springs.back().old_load_N = {i == 5 ? 345 * share / 0.94 : 342 * share};
            set.valves.push_back(std::to_string(1 + i / 2) + (i % 2 ? "b" : "a"));
        }
        set.valves.resize(6);
        const SpringSetFigures f = figures_of(set);
        QCOMPARE(f.reject, std::vector<std::string>{"s3"});
        QCOMPARE(f.tired, std::vector<std::string>{"s5"});
        QCOMPARE(f.pairs.size(), std::size_t(6));
        for (std::size_t i = 1; i < f.pairs.size(); ++i) { // by load
            const auto load = [&](std::size_t k) {
                return f.load_N[static_cast<std::size_t>(f.pairs[k].serial[1] - '0')];
            };
            QVERIFY(load(i) > load(i - 1));
        }
        QVERIFY(f.told.empty());
        double sum = 0;
        for (const SetSpring& one : set.springs)
            sum += one.load_N.front();
        NEAR(f.mean_N, sum / 8, 1e-9);
        set.valves.push_back("4a");
        QVERIFY(told_of(figures_of(set).told, "too_few"));
        set.springs[1].serial = "s0";
        CONTAINS(problem_of([&] { figures_of(set); }).what, "twice");
        set.springs.resize(1);
        CONTAINS(problem_of([&] { figures_of(set); }).what, "1 in the set");
    }

    // A step nearer the spring shortens, a lock that sinks deeper lengthens: each term with its own sign.
    void a_height_is_worked_out_term_by_term() {
        HeightSheet s;
        s.old_height_m = {46e-3, 0.01e-3};
        s.before = {{4.0e-3, 0.01e-3}, {2.10e-3, 0.02e-3}, radians(5)};
        s.after = {{4.6e-3, 0.01e-3}, {2.35e-3, 0.02e-3}, radians(5)};
        s.lock_taper_rad = radians(5);
        s.ball_m = 10e-3;
        s.wanted_m = 44.5e-3;
        s.shims_m = {0.38e-3, 0.76e-3, 1.52e-3};
        s.rate_N_per_m = 34e3;
        s.seat_N = 300;
        HeightFigures f = figures_of(s);
        NEAR(f.height_m->value, 45.65e-3, 1e-9);
        NEAR(f.height_m->sd, std::sqrt(0.01 * 0.01 * 3 + 0.02 * 0.02 * 2) * 1e-3, 1e-12);
        NEAR(f.step_m.value, -0.6e-3, 1e-9);
        NEAR(f.lock_m.value, 0.25e-3, 1e-9);
        QCOMPARE(f.shims_m, (std::vector<double>{0.76e-3, 0.38e-3}));
        NEAR(f.shimmed_m, 44.51e-3, 1e-9);
        NEAR(f.seat_N->value, 300 + 34 * (46 - 44.51), 1e-6);
        QVERIFY(f.told.empty());
        s.micrometer_m = Figure{45.66e-3, 0.01e-3};
        QVERIFY(figures_of(s).told.empty());
        s.micrometer_m = Figure{45.80e-3, 0.01e-3};
        QVERIFY(told_of(figures_of(s).told, "disagrees"));
        std::swap(s.before.step_m, s.after.step_m); // the slip that it is there to find
        s.micrometer_m = Figure{45.65e-3, 0.01e-3};
        QVERIFY(told_of(figures_of(s).told, "disagrees"));
    }

    void gaugings_that_do_not_compare_are_refused_with_what_is_left() {
        HeightSheet s;
        s.old_height_m = {46e-3, 0};
        s.before = {{4e-3, 0}, {2e-3, 0}, radians(5)};
        s.after = {{4e-3, 0}, {2e-3, 0}, radians(3.5)};
        s.ball_m = 10e-3;
        QVERIFY(told_of(figures_of(s).told, "taper_differs") && !figures_of(s).height_m);
        s.micrometer_m = Figure{45.8e-3, 0.01e-3};
        NEAR(figures_of(s).height_m->value, 45.8e-3, 1e-12); // measured itself
        s.after.taper_rad = radians(5);
        s.lock_taper_rad = radians(5.5);
        QVERIFY(told_of(figures_of(s).told, "taper_differs"));
        s.lock_taper_rad.reset();
        s.new_ball_m = 10.5e-3;
        QVERIFY(told_of(figures_of(s).told, "ball_differs"));
    }

    void shims_are_taken_again_where_once_does_not_reach() {
        HeightSheet s;
        s.old_height_m = {48e-3, 0};
        s.ball_m = 10e-3;
        s.wanted_m = 44.96e-3;
        s.shims_m = {1.52e-3, 0.38e-3};
        HeightFigures f = figures_of(s);
        QCOMPARE(f.shims_m, (std::vector<double>{1.52e-3, 1.52e-3}));
        s.wanted_m = 48.5e-3;
        f = figures_of(s);
        QVERIFY(f.shims_m.empty() && told_of(f.told, "out_of_reach"));
        s.wanted_m = 48.05e-3; // near enough
        QVERIFY(figures_of(s).told.empty());
    }

    void a_ratio_is_the_closed_form_and_its_slope() {
        const RatioSheet sheet = by_dials(1.6, 8, 0, 1); // lift = 1.6 r + 8 r (r - 8 mm)
        const RatioFigures f = figures_of(sheet);
        NEAR(f.ratio.value, 1.6, 1e-9);
        QCOMPARE(f.local.size(), std::size_t(3));
        for (const LocalRatio& one : f.local)
            NEAR(one.ratio.value, 1.6 + 8 * (2 * one.rise_m - 8e-3), 1e-6);
        QVERIFY(f.told.empty() && !f.stiffness_N_per_m);
    }

    void a_ratio_is_told_as_surely_as_it_is_known() {
        Coverage local;
        int cried = 0;
        for (unsigned i = 0; i < kDrawn; ++i) {
            const RatioFigures f = figures_of(by_dials(1.5 + 0.001 * i, 6, 4e-6, 50 + i));
            local.add(f.local[1].ratio, 1.5 + 0.001 * i + 6 * (2 * f.local[1].rise_m - 8e-3));
            cried += f.told.empty() ? 0 : 1;
        }
        QVERIFY2(local.share() >= 0.88 && local.share() <= 0.99, qPrintable(QString::number(local.share())));
        QVERIFY(cried < kDrawn / 20);
    }

    void what_is_wrong_with_the_dials_is_told() {
        RatioSheet moved = by_dials(1.6, 0, 2e-6, 4);
        for (std::size_t i = 3; i < moved.lift_m.size(); ++i)
            moved.lift_m.repeats[i].front() += 0.08e-3; // slipped on the way up
        QVERIFY(told_of(figures_of(moved).told, "dial_moved"));
        RatioSheet lash = by_dials(1.6, 0, 2e-6, 4);
        lash.lift_m.repeats[6].front() -= 0.06e-3; // up and down part in the middle
        lash.lift_m.repeats[7].front() -= 0.06e-3;
        QVERIFY(told_of(figures_of(lash).told, "up_down_differ"));
        RatioSheet other = by_dials(1.6, 0, 2e-6, 4);
        other.believed = 1.65;
        QVERIFY(told_of(figures_of(other).told, "not_as_believed"));
        other.believed = 1.605;
        QVERIFY(figures_of(other).told.empty());
        RatioSheet nothing = by_dials(0, 0, 0, 4);
        CONTAINS(problem_of([&] { figures_of(nothing); }).mend, "zero both dials");
    }

    void the_working_spring_takes_from_the_lift_what_the_train_gives() {
        RatioSheet sheet = by_dials(1.6, 0, 1e-6, 9);
        WorkingLifts working;
        for (int k = 1; k <= 4; ++k) {
            const double rise = 2e-3 * k, force = 400 + 30e3 * 1.6 * rise;
            working.rise_m.push_back(rise);
            working.force_N.push_back(force);
            working.lift_m.push_back(1.6 * rise - force / 6e6);
        }
        sheet.working = working;
        const auto k = figures_of(sheet).stiffness_N_per_m;
        QVERIFY(k);
        NEAR(k->value, 6e6, 3 * k->sd + 1e4);
        QVERIFY(k->sd < 0.2e6);
    }

    void a_stiffness_is_force_over_dial_without_slack() {
        StiffnessSheet s;
        s.force_N = readings_of({0, 200, 500, 1000, 1500, 2000});
        s.dial_m = readings_of({0.3e-3, 0.42e-3 + 0.02e-3, 0.42e-3 + 0.05e-3, 0.42e-3 + 0.1e-3,
                                0.42e-3 + 0.15e-3, 0.42e-3 + 0.2e-3});
        const StiffnessFigures f = figures_of(s);
        NEAR(f.stiffness_N_per_m.value, 10e6, 1);
        NEAR(f.slack_m.value, 0.12e-3, 1e-9);
        NEAR(f.r_squared, 1, 1e-9);
        QVERIFY(f.told.empty());
        s.dial_m.repeats.back().front() += 0.03e-3; // gives way
        QVERIFY(told_of(figures_of(s).told, "not_straight"));
        for (auto& one : s.dial_m.repeats)
            one.front() *= -1;
        CONTAINS(problem_of([&] { figures_of(s); }).what, "goes back");
    }

    void a_stiffness_is_told_as_surely_as_it_is_known() {
        Coverage k;
        std::mt19937_64 dice(3);
        std::normal_distribution<double> normal(0, 1.5e-6);
        int cried = 0;
        for (int i = 0; i < kDrawn; ++i) {
            const double truth = 4e6 + 4e4 * i;
            std::vector<double> force, dial;
            for (int step = 0; step <= 8; ++step) {
                force.push_back(250.0 * step);
                dial.push_back(0.05e-3 * (step > 0) + force.back() / truth + normal(dice));
            }
            const StiffnessFigures f = figures_of(StiffnessSheet{readings_of(force), readings_of(dial)});
            k.add(f.stiffness_N_per_m, truth);
            cried += f.told.empty() ? 0 : 1;
        }
        QVERIFY2(k.share() >= 0.88 && k.share() <= 0.99, qPrintable(QString::number(k.share())));
        QVERIFY2(cried < kDrawn / 20, qPrintable(QString::number(cried)));
    }

    void a_ratio_that_varies_goes_into_the_train_along_the_lift() {
        const auto read = [](double curve) { // lift over rise with a ratio that falls by `curve` a millimetre
            RatioSheet out;
            std::vector<double> rise, lift;
            for (int k = 0; k <= 8; ++k) {
                rise.push_back(k * 1e-3);
                lift.push_back(1.7 * k * 1e-3 - curve * k * k / 2.0 * 1e-3 + (k % 2 ? 1e-6 : -1e-6));
            }
            out.rise_m = readings_of(rise);
            out.lift_m = readings_of(lift);
            return figures_of(out);
        };
        Train train = starter_train();
        const RatioFigures straight = read(0), bent = read(0.02);
        QVERIFY(!straight.table && bent.table);
        QCOMPARE(effect_of(straight, train).changes.front().key, std::string("rocker.ratio"));
        const SheetEffect effect = effect_of(bent, train);
        QCOMPARE(effect.changes.size(), std::size_t(1));
        QCOMPARE(effect.changes[0].key, std::string("rocker.ratio_table"));
        train = with_changes(train, effect, {"rocker.ratio_table"});
        QVERIFY(check_train(train).empty());
        NEAR(train.rocker_map().travel(6e-3), (1.7 * 6 - 0.02 * 18) * 1e-3, 5e-6);
        NEAR(train.rocker_map().ratio(4e-3), 1.7 - 0.08, 0.01);
    }

    void the_rod_that_shows_the_lifts_read_is_found_for_a_geometry() {
        Train believed = starter_train();
        // Arms in one line turn lifter and valve alike, whatever the rod: only a rocker with an angle tells.
        RockerGeometry bent = usual_geometry(believed);
        bent.arms_angle_rad = radians(150);
        believed.rocker->ratio = bent;
        Train truth = believed;
        truth.pushrod->length_m += 1.3e-3;
        const auto read_of = [](const Train& train, double noise_m) {
            std::mt19937 draw(3);
            std::normal_distribution<double> noise(0, noise_m);
            const RockerLinkage linkage(std::get<RockerGeometry>(train.rocker->ratio),
                                        train.rocker->input_arm_m, train.rocker->output_arm_m,
                                        train.pushrod->length_m);
            std::vector<double> rise, lift;
            for (double at = 0; at < 8.1e-3; at += 0.5e-3) {
                rise.push_back(at);
                lift.push_back(linkage.at(at).travel_m + noise(draw));
            }
            RatioSheet out;
            out.rise_m = readings_of(rise);
            out.lift_m = readings_of(lift);
            return out;
        };
        const auto exact = fit_geometry(read_of(truth, 0), believed);
        QVERIFY(exact.has_value());
        NEAR(exact->longer_m.value, 1.3e-3, 0.05e-3);
        QVERIFY(exact->after_m < 0.1 * exact->before_m);
        const auto noisy = fit_geometry(read_of(truth, 3e-6), believed);
        QVERIFY(std::abs(noisy->longer_m.value - 1.3e-3) < 3 * noisy->longer_m.sd + 0.05e-3);
        const SheetEffect effect = effect_of(*noisy, believed);
        QCOMPARE(effect.changes[0].key, std::string("pushrod.length_mm"));
        NEAR(with_changes(believed, effect, {"pushrod.length_mm"}).pushrod->length_m, truth.pushrod->length_m,
             0.3e-3);
        QVERIFY(effect_of(*fit_geometry(read_of(believed, 3e-6), believed), believed)
                    .changes.empty());                              // as believed
        QVERIFY(!fit_geometry(read_of(truth, 0), starter_train())); // no geometry
        Train level = believed, longer = believed;
        level.rocker->ratio = longer.rocker->ratio = usual_geometry(believed);
        longer.pushrod->length_m += 1.3e-3;
        const auto blind =
            fit_geometry(read_of(longer, 3e-6), level); // it stays as believed, and says how surely
        QVERIFY(blind->longer_m.sd > 0.5e-3);
        QVERIFY(effect_of(*blind, level).changes.empty());
    }

    void a_spring_that_took_a_set_or_leans_is_told_and_its_surge_follows_from_its_mass() {
        SpringSheet sheet;
        for (int k = 0; k < 6; ++k) {
            sheet.height_m.push_back((46 - 3 * k) * 1e-3);
            sheet.load_N.repeats.push_back({300.0 + 105 * k});
        }
        sheet.free_length_m = 55e-3;
        sheet.free_after_m = 54.9e-3;
        sheet.lean_m = 1e-3;
        sheet.mass_kg = 0.08;
        sheet.active_share = 0.8;
        const SpringFigures good = figures_of(sheet);
        QVERIFY(!told_of(good.told, "set") && !told_of(good.told, "leans"));
        NEAR(*good.surge_Hz, 0.5 * std::sqrt(35e3 / 0.064), 0.5);
        sheet.free_after_m = 54.4e-3;
        sheet.lean_m = 3.2e-3; // 3.3 degrees
        const SpringFigures bad = figures_of(sheet);
        QVERIFY(told_of(bad.told, "set") && told_of(bad.told, "leans"));
    }

    void a_coil_taken_over_as_tested_keeps_the_mass_of_its_ends() {
        const Train train = starter_train();
        const Spring& coil = train.springs[0];
        const SpringStatics known(coil);
        SpringSheet sheet;
        for (int k = -3; k <= 6; ++k) {
            sheet.height_m.push_back(train.installed_height_m - 2e-3 * k);
            sheet.load_N.repeats.push_back({known.load_N(sheet.height_m.back())});
        }
        sheet.installed_height_m = train.installed_height_m;
        sheet.valve_lift_m = 10e-3;
        const SheetEffect effect = effect_of(sheet, figures_of(sheet), train, 0);
        const Train after = with_changes(train, effect, {"springs[0].load_table"});
        const SpringStatics tested(after.springs[0]);
        QVERIFY(known.dead_mass_kg() > 0);
        NEAR(tested.active_mass_kg(), known.active_mass_kg(), 1e-12);
        NEAR(tested.dead_mass_kg(), known.dead_mass_kg(), 1e-12);
        const SpringSegments chain = segments_of(after.springs[0], train.installed_height_m, 10e-3);
        NEAR(chain.top_share_kg - 0.5 * chain.mass_kg.back(), 0.5 * known.dead_mass_kg(),
             1e-12); // on the retainer
        QVERIFY(check_train(after).empty());
        // What was weighed is shared between coils and ends; far off belief it is told.
        sheet.mass_kg = 1.02 * (known.active_mass_kg() + known.dead_mass_kg());
        QVERIFY(!told_of_mass(sheet, coil));
        const SheetEffect heavier = effect_of(sheet, figures_of(sheet), train, 0);
        const Train weighed = with_changes(train, heavier, {"springs[0].load_table"});
        NEAR(SpringStatics(weighed.springs[0]).dead_mass_kg(), 1.02 * known.dead_mass_kg(), 1e-12);
        *sheet.mass_kg *= 1.5;
        QVERIFY(told_of_mass(sheet, coil).has_value());
    }

    void freedom_of_a_sum_is_that_of_its_largest_share() {
        const Figure a{10, 0.3, 2}, b{5, 0.3, 2}, sure{1, 0.4, std::numeric_limits<double>::infinity()};
        const Figure sum = plus(a, b);
        NEAR(sum.value, 15, 1e-12);
        NEAR(sum.sd, 0.3 * std::sqrt(2.0), 1e-12);
        NEAR(sum.freedom, 4, 1e-9); // two equal shares
        NEAR(plus(a, {0, 1e-6, 50}).freedom, 2, 1e-3);
        NEAR(minus(a, sure).value, 9, 1e-12);
        NEAR(minus(a, sure).freedom, 2 * std::pow(0.25 / 0.09, 2), 1e-9); // (0.09 + 0.16)^2 / (0.09^2 / 2)
        NEAR(times(-2, a).sd, 0.6, 1e-12);
        NEAR(stated(a).sd, 0.3 * 4.302653 / 1.959964, 1e-5);
        QCOMPARE(stated(sure).sd, 0.4);
        QVERIFY(std::isinf(stated(a).freedom)); // it is not widened twice
    }

    void a_rocker_swings_as_a_pendulum_does() {
        // a rod of 60 mm hung at its end: J = m L^2 / 3, T = 2 pi sqrt(2 L / 3 g)
        const double length = 60e-3, mass = 0.12;
        const double period = 2 * kPi * std::sqrt(2 * length / (3 * 9.80665));
        SwingSheet s{readings_of({10 * period}), {mass, 0}, {length / 2, 0}};
        NEAR(inertia_kg_m2(s).value, mass * length * length / 3, 1e-12);
        s.ten_swings_s.repeats = {{10 * period - 0.02, 10 * period, 10 * period + 0.02}};
        // of three repeats, widened for their two degrees of freedom: 4.303 over 1.960
        NEAR(inertia_kg_m2(s).sd / inertia_kg_m2(s).value,
             4.302653 / 1.959964 * 2 * 0.02 / std::sqrt(3.0) / (10 * period), 1e-4);
        s.ten_swings_s.repeats = {{5 * period}}; // there is one, back another: half of the time
        CONTAINS(problem_of([&] { inertia_kg_m2(s); }).mend, "there and back");
        s.mass_kg = {0, 0};
        QCOMPARE(problem_of([&] { inertia_kg_m2(s); }).location, std::string("mass_g"));
    }
};

QTEST_GUILESS_MAIN(TstBench)
#include "tst_bench.moc"
