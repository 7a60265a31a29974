// Pulls: correction, cleaning, break, roughness, difference, against curves whose truth is known. What
// is counted over many drawn engines stands in tst_drawn_pulls.
#include "core/dyno/confounders.h"
#include "core/dyno/pull_compare.h"
#include "core/made_pull.h"
#include "core/math/robust.h"

#include <QTest>
#include <random>

using namespace bathmos;
using namespace bathmos::test;

class TstDyno : public QObject {
    Q_OBJECT

  private slots:
    void correction_is_one_at_the_standards_own_weather() {
        NEAR(j1349_factor(99e3, 298.15), 1.0, 1e-12); // 25 degrees C
        NEAR(j1349_factor(95e3, 298.15), 1.18 * 99 / 95 - 0.18, 1e-12);
        NEAR(j1349_factor(99e3, 308.15), 1.18 * std::sqrt(308.15 / 298.15) - 0.18, 1e-12);
    }

    void correction_names_its_inputs_and_where_it_does_not_hold() {
        Pull pull = make_pull({}, {}, 0, 50, 1);
        QVERIFY(!j1349(pull)); // nothing logged
        pull[PullChannel::Air].assign(pull.size(), 303.15);
        pull[PullChannel::Barometer].assign(pull.size(), 97e3);
        pull[PullChannel::Vapour].assign(pull.size(), 1.5e3);
        const auto c = j1349(pull);
        QVERIFY(c && c->vapour_known && c->caution.empty());
        NEAR(c->dry_Pa, 95.5e3, 1e-6);
        NEAR(c->factor, j1349_factor(95.5e3, 303.15), 1e-12);
        const Pull shown = corrected(pull, *c);
        NEAR(shown[PullChannel::Power][20], pull[PullChannel::Power][20] * c->factor, 1e-9);
        QVERIFY(shown.corrected && !j1349(shown)); // never twice
        pull[PullChannel::Barometer].assign(pull.size(), 80e3);
        CONTAINS(j1349(pull)->caution, "outside 0.93 to 1.07");
        pull[PullChannel::Barometer].assign(pull.size(), 98e3);
        pull[PullChannel::Manifold].assign(pull.size(), 160e3);
        CONTAINS(j1349(pull)->caution, "charged");
    }

    void torque_and_power_follow_from_each_other() {
        Pull pull;
        pull[PullChannel::Speed] = {3000, 6000};
        pull[PullChannel::Torque] = {200, std::nan("")};
        pull[PullChannel::Power] = {std::nan(""), 100e3};
        pull[PullChannel::Oil] = {std::nan(""), std::nan("")}; // a channel in which nothing was read
        complete(pull);
        NEAR(pull[PullChannel::Power][0], 200 * 2 * kPi * 3000 / 60, 1e-9);
        NEAR(pull[PullChannel::Torque][1], 100e3 / (2 * kPi * 6000 / 60), 1e-9);
        QVERIFY(!pull.has(PullChannel::Oil));
        Pull empty;
        empty[PullChannel::Speed] = {1, 2};
        CONTAINS(problem_of([&] { complete(empty); }).what, "neither torque nor power");
    }

    void one_row_that_cannot_be_makes_no_peak_and_splits_nothing_data() {
        QTest::addColumn<int>("channel");
        QTest::addColumn<double>("value");
        const auto add = [](const char* name, PullChannel channel, double value) {
            QTest::newRow(name) << static_cast<int>(channel) << value;
        };
        add("a speed of 1e10", PullChannel::Speed, 1e10);
        add("a speed below zero", PullChannel::Speed, -1);
        add("a speed of three times its neighbours", PullChannel::Speed, 20000);
        add("a speed of nothing between", PullChannel::Speed, 0);
        add("a torque of 1e30", PullChannel::Torque, 1e30);
        add("a torque of twice its neighbours", PullChannel::Torque, 600);
        add("a torque of minus a million", PullChannel::Torque, -1e6);
    }
    void one_row_that_cannot_be_makes_no_peak_and_splits_nothing() {
        QFETCH(int, channel);
        QFETCH(double, value);
        Pull good = make_pull({}, {}, 0, 200, 1);
        good[PullChannel::Power].clear();
        Pull bad = good;
        bad.columns[static_cast<std::size_t>(channel)][90] = value;
        complete(good);
        complete(bad);
        QCOMPARE(bad.cannot_be.size(), std::size_t(1));
        CONTAINS(bad.cannot_be.front(), "in row 91");
        QVERIFY(good.cannot_be.empty());
        const std::vector<Pull> pulls = split_pulls(bad);
        QCOMPARE(pulls.size(), std::size_t(1));
        const auto peak = [](const Pull& pull) {
            double most = 0;
            for (const double power : pull[PullChannel::Power])
                most = std::isfinite(power) ? std::max(most, power) : most;
            return most;
        };
        NEAR(peak(pulls.front()), peak(good), 0.01 * peak(good));
    }

    void a_limiter_that_cuts_one_row_is_left_as_it_is() {
        Pull pull = make_pull({}, {}, 0, 200, 1);
        pull[PullChannel::Power].clear();
        pull[PullChannel::Torque][90] = 5;
        complete(pull);
        QVERIFY(pull.cannot_be.empty());
        NEAR(pull[PullChannel::Torque][90], 5, 0);
    }

    void a_unit_that_most_rows_deny_is_told() {
        Pull pull = make_pull({}, {}, 0, 200, 1);
        pull[PullChannel::Torque].clear();
        for (double& power : pull[PullChannel::Power])
            power *= 1e3; // watts taken for kilowatts
        CONTAINS(problem_of([&] { complete(pull); }).what, "most rows hold what no engine has");
    }

    void several_pulls_in_a_recording_are_told_apart() {
        Pull all;
        for (unsigned k = 0; k < 3; ++k) {
            const Pull one = make_pull({}, {}, 0.002, 120, k);
            for (std::size_t i = 0; i < one.size(); ++i) {
                all[PullChannel::Speed].push_back(one[PullChannel::Speed][i]);
                all[PullChannel::Power].push_back(one[PullChannel::Power][i]);
            }
            for (double rpm = 8400; rpm > 3900; rpm -= 250) { // the way back, foot off
                all[PullChannel::Speed].push_back(rpm);
                all[PullChannel::Power].push_back(2e3);
            }
        }
        complete(all);
        const std::vector<Pull> pulls = split_pulls(all);
        QCOMPARE(pulls.size(), std::size_t{3});
        for (const Pull& pull : pulls)
            NEAR(analyse(pull).peak_W, analyse(make_pull({}, {}, 0, 120, 1)).peak_W, 600);
        QCOMPARE(split_pulls(make_pull({}, {}, 0.002, 100, 1)).size(), std::size_t{1});
    }

    void a_run_downward_counts_like_one_upward() {
        Pull up = make_pull({}, {{7500, 150, 0.05}}, 0.002, 200, 3), down = up;
        for (auto& column : down.columns)
            std::reverse(column.begin(), column.end());
        const PullAnalysis a = analyse(up), b = analyse(down);
        QCOMPARE(split_pulls(down).size(), std::size_t{1});
        QCOMPARE(a.curve.size(), b.curve.size());
        NEAR(a.first_break()->speed_rpm, b.first_break()->speed_rpm, 1e-6);
    }

    void dropouts_repeats_and_the_way_back_are_left_out() {
        Pull pull = make_pull({}, {}, 0.002, 200, 4);
        pull[PullChannel::Power][50] = 0;                            // a dropout
        pull[PullChannel::Power][70] = std::nan("");                 // nothing read
        pull[PullChannel::Speed][90] = pull[PullChannel::Speed][89]; // repeats
        std::swap(pull[PullChannel::Speed][120], pull[PullChannel::Speed][121]);
        for (int k = 0; k < 20; ++k) {
            pull[PullChannel::Speed].push_back(8500 - 60 * k);
            pull[PullChannel::Power].push_back(5e3);
            pull[PullChannel::Torque].push_back(5);
        }
        const PowerCurve curve = power_curve(pull);
        QVERIFY(curve.lifted);
        QCOMPARE(curve.left_out, std::size_t{22});
        for (std::size_t i = 1; i < curve.size(); ++i)
            QVERIFY(curve.speed_rpm[i] > curve.speed_rpm[i - 1]);
        QVERIFY(*std::min_element(curve.power_W.begin(), curve.power_W.end()) > 50e3);
        CONTAINS(problem_of([] { power_curve(make_pull({}, {}, 0, 6, 1)); }).mend, "at least 8");
        CONTAINS(problem_of([] { power_curve(make_pull({}, {}, 0, 60, 1, 5000, 5100)); }).what, "span 100");
    }

    void noise_of_a_reading_is_told_from_its_neighbours() {
        const PowerCurve curve = power_curve(make_pull({}, {}, 0.004, 280, 5));
        std::vector<double> ratio;
        for (std::size_t i = 0; i < curve.size(); ++i)
            ratio.push_back(curve.sd_W[i] / (0.004 * Shape{}.power(curve.speed_rpm[i])));
        NEAR(median(ratio), 1.0, 0.3);
    }

    void a_pull_that_ends_before_its_break_has_none() {
        QVERIFY(!analyse(make_pull({}, {{7500, 150, 0.06}}, 0.003, 200, 6, 4000, 7500)).first_break());
        NEAR(analyse(make_pull({}, {{7500, 150, 0.06}}, 0.003, 200, 6, 4000, 8000)).first_break()->speed_rpm,
             7500, 90);
    }

    void two_breaks_are_both_named() {
        const PullAnalysis a = analyse(make_pull({}, {{6600, 120, 0.05}, {7800, 120, 0.06}}, 0.002, 260, 7));
        QCOMPARE(a.breaks.breaks.size(), std::size_t{2});
        NEAR(a.breaks.breaks[0].speed_rpm, 6600, 60);
        NEAR(a.breaks.breaks[1].speed_rpm, 7800, 60);
        QVERIFY(a.first_break() == &a.breaks.breaks[0]);
    }

    void a_misfire_at_mid_speed_comes_back_and_is_a_dip() {
        Pull pull = make_pull({}, {{7700, 150, 0.05}}, 0.002, 230, 8);
        for (std::size_t i = 0; i < pull.size(); ++i)
            if (std::abs(pull[PullChannel::Speed][i] - 5600) < 160)
                pull[PullChannel::Power][i] *= 0.93;
        const PullAnalysis a = analyse(pull);
        QCOMPARE(a.breaks.dips.size(), std::size_t{1});
        NEAR(a.breaks.dips[0].from_rpm, 5440, 90);
        QVERIFY(a.first_break());
        NEAR(a.first_break()->speed_rpm, 7700, 90);
        QCOMPARE(a.breaks.breaks.size(), std::size_t{1});
    }

    void fifteen_samples_are_enough_for_a_deep_break_only() {
        const PullAnalysis deep = analyse(make_pull({}, {{7000, 200, 0.12}}, 0.002, 15, 9));
        QVERIFY(deep.first_break());
        NEAR(deep.first_break()->speed_rpm, 7000, 350);
        QVERIFY(!analyse(make_pull({}, {}, 0.002, 15, 10)).first_break());
    }

    void a_hundred_thousand_samples_are_read() {
        const PullAnalysis a = analyse(make_pull({}, {{7500, 150, 0.04}}, 0.01, 100000, 11));
        NEAR(a.first_break()->speed_rpm, 7500, 40);
        QVERIFY(a.curve.size() <= 301);
    }

    void roughness_is_the_power_less_its_trend() {
        Pull pull = make_pull({}, {}, 0.003, 280, 12);
        std::mt19937_64 dice(3);
        std::normal_distribution<double> normal;
        for (std::size_t i = 0; i < pull.size(); ++i)
            if (pull[PullChannel::Speed][i] > 7500)
                pull[PullChannel::Power][i] *= 1 + 0.012 * normal(dice);
        const PullAnalysis a = analyse(pull);
        NEAR(a.mid_range_rms_W, 0.003 * Shape{}.power(6000), 0.3 * 0.003 * Shape{}.power(6000));
        QVERIFY(a.rough_from_rpm);
        NEAR(*a.rough_from_rpm, 7500, 1);
        QVERIFY(a.rough_top > 2.5);
        for (const Roughness& r : a.roughness)
            QCOMPARE(std::fmod(r.from_rpm, kRoughBand_rpm), 0.0);
        QVERIFY(!analyse(make_pull({}, {}, 0.003, 280, 13)).rough_from_rpm);
    }

    void power_that_is_cut_off_is_told_from_power_that_breaks() {
        QVERIFY(!analyse(make_pull({}, {{7500, 150, 0.08}}, 0.003, 230, 14)).cut);
        const PullAnalysis a = analyse(make_pull({}, {{7500, 60, 0.4}}, 0.003, 230, 14));
        QVERIFY(a.cut);
        NEAR(a.cut->speed_rpm, 7500, 60);
        NEAR(a.cut->share, 0.4, 0.06);
    }

    void one_pull_a_state_has_no_band() {
        const PullAnalysis a = analyse(make_pull({}, {}, 0.003, 150, 1)),
                           b = analyse(make_pull({}, {}, 0.003, 150, 2));
        const StateDifference d = difference(state_curve({&a}), state_curve({&b}));
        QVERIFY(d.band_W.empty() && !d.all.plus_minus_W);
        const PullAnalysis far = analyse(make_pull({}, {}, 0.003, 150, 2, 9000, 9600));
        CONTAINS(problem_of([&] { state_curve({&a, &far}); }).what, "share");
    }

    void the_upper_loss_heeds_no_shift_of_the_dyno() {
        Shape shifted;
        shifted.torque_Nm *= 0.97; // another day
        const PullAnalysis a = analyse(make_pull({}, {}, 0.002, 200, 1)),
                           same = analyse(make_pull(shifted, {}, 0.002, 200, 2)),
                           worse = analyse(make_pull(shifted, {{7000, 1500, 0.06}}, 0.002, 200, 3));
        NEAR(upper_loss({&a}, {&same})->share, 0, 0.004);
        QVERIFY(!upper_loss({&a}, {&same})->from_rpm || *upper_loss({&a}, {&same})->from_rpm > 8300);
        NEAR(upper_loss({&a}, {&worse})->share, 0.06, 0.008);
        NEAR(*upper_loss({&a}, {&worse})->from_rpm, 7200, 150);
    }

    // One pull cannot tell it from a rollover; the state before can. Another day's dyno is no loss.
    void a_loss_that_grows_slowly_is_found_against_the_state_before() {
        Shape shifted;
        shifted.torque_Nm *= 0.98;
        const PullAnalysis before = analyse(make_pull({}, {}, 0.002, 200, 1)),
                           same = analyse(make_pull(shifted, {}, 0.002, 200, 2)),
                           slow = analyse(make_pull(shifted, {{7000, 2500, 0.10}}, 0.002, 200, 3)),
                           sharp = analyse(make_pull({}, {{7500, 150, 0.05}}, 0.002, 200, 4));
        QVERIFY(!break_of_state({&slow}));
        const auto found = break_against({&before}, {&slow});
        QVERIFY(found && found->growing);
        NEAR(found->speed_rpm, 7000, 300);
        NEAR(found->depth_W / slow.peak_W, 0.064, 0.015);
        QVERIFY(!break_against({&before}, {&same}));
        QVERIFY(!break_against({}, {&slow}));
        const auto own = break_against({&before}, {&sharp});
        QVERIFY(own && !own->growing);
        NEAR(own->speed_rpm, 7500, 80);
    }

    void breaks_of_a_state_are_taken_together() {
        const PullAnalysis a = analyse(make_pull({}, {{7500, 150, 0.05}}, 0.003, 200, 1)),
                           b = analyse(make_pull({}, {{7560, 150, 0.05}}, 0.003, 200, 2)),
                           none = analyse(make_pull({}, {}, 0.003, 200, 3));
        const auto both = break_of_state({&a, &b});
        QVERIFY(both && both->pulls == 2);
        NEAR(both->speed_rpm, 7530, 60);
        NEAR(both->scatter_rpm, 30, 30);
        QVERIFY(!break_of_state({&a, &none, &none}));
    }

    void what_was_not_logged_cannot_be_excluded() {
        const Pull pull = make_pull({}, {{7500, 150, 0.05}}, 0.003, 200, 1);
        const auto tests = test_confounders(pull, analyse(pull));
        QCOMPARE(tests.size(), kConfounders);
        for (const ConfounderTest& t : tests) {
            if (t.kind == Confounder::RevLimiter)
                continue; // speed and power tell of it
            QVERIFY(t.status == TestStatus::NotLogged);
            CONTAINS(t.text, "not logged, cannot be excluded");
            CONTAINS(t.text, std::string(info(t.kind).settle));
        }
    }

    void units_that_cannot_both_be_right_are_refused() {
        Pull pull = make_pull({}, {}, 0.003, 60, 1);
        complete(pull); // as made they agree
        Pull wrong = pull;
        for (double& power : wrong[PullChannel::Power])
            power *= 1.341; // hp taken for kW
        const InputProblem p = problem_of([&] { complete(wrong); });
        CONTAINS(p.what, "power is 1.34 times torque times speed");
        CONTAINS(p.mend, "unit");
        for (double& power : pull[PullChannel::Power])
            power *= 1.05; // corrected power beside torque as read
        complete(pull);
    }

    void power_that_is_never_there_is_refused() {
        Pull pull = make_pull({}, {}, 0.003, 60, 1);
        pull[PullChannel::Power].assign(60, 0.0);
        CONTAINS(problem_of([&] { power_curve(pull); }).what, "nowhere above 0");
        Pull none = make_pull({}, {}, 0.003, 60, 1);
        none[PullChannel::Speed].assign(60, std::nan(""));
        CONTAINS(problem_of([&] { complete(none); }).what, "no row has a speed");
    }

    void several_runs_downward_are_told_apart() {
        Pull all;
        for (unsigned k = 0; k < 3; ++k) {
            const Pull one = make_pull({}, {{7500, 150, 0.05}}, 0.002, 150, k);
            for (std::size_t i = one.size(); i-- > 0;) {
                all[PullChannel::Speed].push_back(one[PullChannel::Speed][i]);
                all[PullChannel::Power].push_back(one[PullChannel::Power][i]);
            }
            for (double rpm = 4100; rpm < 8600; rpm += 400) { // back up at part load
                all[PullChannel::Speed].push_back(rpm);
                all[PullChannel::Power].push_back(20e3);
            }
        }
        complete(all);
        const std::vector<Pull> pulls = split_pulls(all);
        QCOMPARE(pulls.size(), std::size_t{3});
        for (const Pull& pull : pulls) {
            QVERIFY(pull[PullChannel::Speed].front() < pull[PullChannel::Speed].back());
            NEAR(analyse(pull).first_break()->speed_rpm, 7500, 90);
        }
    }

    void a_long_way_back_does_not_turn_a_pull_round() {
        Pull pull = make_pull({}, {}, 0.002, 100, 1);
        for (int k = 0; k < 400; ++k) { // coasting, logged for longer than the pull
            pull[PullChannel::Speed].push_back(8500 - 15.0 * k);
            pull[PullChannel::Power].push_back(-3e3);
            pull[PullChannel::Torque].push_back(-3);
        }
        const std::vector<Pull> pulls = split_pulls(pull);
        QCOMPARE(pulls.size(), std::size_t{1});
        const PowerCurve curve = power_curve(pulls.front());
        QVERIFY(curve.lifted);
        QCOMPARE(curve.size(), std::size_t{100});
    }

    void the_trend_is_the_curve_without_its_noise() {
        const Shape shape;
        const PullAnalysis a = analyse(make_pull(shape, {}, 0.004, 280, 3));
        double square = 0;
        for (std::size_t i = 0; i < a.curve.size(); ++i)
            square += std::pow(a.trend_W[i] / shape.power(a.curve.speed_rpm[i]) - 1, 2);
        const double off = std::sqrt(square / static_cast<double>(a.curve.size()));
        QVERIFY2(off < 0.0016, qPrintable(QString::number(off))); // two fifths of a reading's noise
        const PullAnalysis few = analyse(make_pull(shape, {}, 0.001, 16, 3));
        for (std::size_t i = 0; i < few.curve.size(); ++i)
            NEAR(few.trend_W[i] / shape.power(few.curve.speed_rpm[i]), 1, 0.02);
    }

    void corrected_and_uncorrected_pulls_are_never_compared() {
        Pull raw = make_pull({}, {}, 0.003, 150, 1), other = make_pull({}, {}, 0.003, 150, 2);
        other.corrected = true;
        const PullAnalysis a = analyse(raw), b = analyse(other);
        CONTAINS(problem_of([&] { state_curve({&a, &b}); }).what, "corrected");
        CONTAINS(problem_of([&] { difference(state_curve({&a}), state_curve({&b})); }).what, "corrected");
        QVERIFY(!upper_loss({&a}, {&b}));
    }

    void each_test_tells_a_move_that_matters_from_one_that_does_not_data();
    void each_test_tells_a_move_that_matters_from_one_that_does_not() {
        QFETCH(int, kind);
        QFETCH(int, channel);
        QFETCH(double, usual);
        QFETCH(double, small);
        QFETCH(double, large);
        QFETCH(double, noise);
        const auto moved = [&](double by) {
            Pull pull = make_pull({}, {}, 0.003, 200, 1);
            std::mt19937_64 dice(5);
            std::normal_distribution<double> normal;
            std::vector<double>& values = pull[static_cast<PullChannel>(channel)];
            for (std::size_t i = 0; i < pull.size(); ++i) {
                const double rpm = pull[PullChannel::Speed][i],
                             base = channel == int(PullChannel::Blower) ? rpm : 1;
                const double share = std::clamp((rpm - 7000) / 1200, 0.0, 1.0);
                values.push_back(i % 9 == 4 ? std::nan("")
                                            : base * (usual + share * by + noise * normal(dice)));
            }
            pull[PullChannel::Barometer].assign(pull.size(), 101e3);
            pull[PullChannel::Barometer][3] = std::nan(""); // a gap
            return test_confounders(pull, analyse(pull))[static_cast<std::size_t>(kind)];
        };
        const ConfounderTest none = moved(0), little = moved(small), much = moved(large);
        QVERIFY2(none.status == TestStatus::Clear && none.seen < 0.1, none.text.in_words().c_str());
        QVERIFY2(little.status == TestStatus::Clear, little.text.in_words().c_str());
        // 0.85: a map may take advance out on purpose, so a fall of it is never quite sure.
        QVERIFY2(much.status == TestStatus::Seen && much.seen > 0.85, much.text.in_words().c_str());
        QVERIFY(much.from_rpm && *much.from_rpm > 7000 && *much.from_rpm < 8000);
        QVERIFY(much.channel == static_cast<PullChannel>(channel));
    }

    // A drift that grows, one that is there at once, and one that comes and goes begin where they were put.
    void a_drift_begins_where_its_channel_leaves_its_level() {
        std::mt19937_64 dice(5);
        std::normal_distribution<double> normal(0, 0.004);
        std::bernoulli_distribution spike(0.4);
        Pull grows = make_pull({}, {}, 0.003, 230, 1), spikes = grows, still = grows;
        for (double rpm : grows[PullChannel::Speed]) {
            grows[PullChannel::Lambda].push_back(0.88 + 4e-5 * std::max(0.0, rpm - 7000) + normal(dice));
            spikes[PullChannel::Lambda].push_back(0.88 + normal(dice) +
                                                  (rpm > 7000 && spike(dice) ? 0.06 : 0.0));
            still[PullChannel::Lambda].push_back(0.88 + normal(dice));
        }
        const auto test = [](const Pull& pull, Confounder kind) {
            return test_confounders(pull, analyse(pull))[static_cast<std::size_t>(kind)];
        };
        const ConfounderTest lean = test(grows, Confounder::Mixture),
                             spark = test(spikes, Confounder::SparkBreakUp);
        QVERIFY(lean.status == TestStatus::Seen && lean.begins);
        NEAR(lean.begins->speed_rpm, 7000, 2 * lean.begins->sd_rpm + 50);
        QVERIFY(*lean.from_rpm > lean.begins->speed_rpm); // half of a move that matters comes later
        QVERIFY(lean.begins->sd_rpm < 150);
        QVERIFY(spark.status == TestStatus::Seen && spark.begins);
        NEAR(spark.begins->speed_rpm, 7000, 2 * spark.begins->sd_rpm + 100);
        NEAR(*spark.from_rpm, spark.begins->speed_rpm, 1e-9); // not where it last was still
        QVERIFY(!test(still, Confounder::Mixture).begins);
        // what it takes: 2.8 (lambda - 0.88)^2, in the middle of the readings at the top
        NEAR(*lean.takes, 2.8 * std::pow(4e-5 * 1440, 2), 0.0015);
        QVERIFY(!test(still, Confounder::Mixture).takes);
    }

    void manifold_pressure_alone_makes_nobody_sure_of_the_belt() {
        Pull pull = make_pull({}, {}, 0.003, 200, 1);
        for (double rpm : pull[PullChannel::Speed])
            pull[PullChannel::Manifold].push_back(160e3 - std::max(0.0, rpm - 7000) * 20);
        const ConfounderTest t = test_confounders(pull, analyse(pull)).front();
        QVERIFY(t.status == TestStatus::Seen && t.seen < 0.65 && t.channel == PullChannel::Manifold);
        NEAR(*t.takes, 28.8e3 / 160e3, 0.01); // power goes with the air
        for (double& value : pull[PullChannel::Manifold])
            value -= 60e3; // draws its own air
        const MeasuredText text = test_confounders(pull, analyse(pull)).front().text;
        CONTAINS(text, "no blower: 100.0 kPa in the manifold");
        CONTAINS(text.in_words(UnitSystem::Inch), "14.50 psi");
    }

    void a_loss_with_speed_squared_is_one_and_the_same_hose() {
        Pull pull = make_pull({}, {}, 0.003, 200, 1);
        for (double rpm : pull[PullChannel::Speed])
            pull[PullChannel::Inlet].push_back(101e3 - 6e3 * std::pow(rpm / 8600, 2));
        const auto intake = [&] {
            return test_confounders(pull, analyse(pull))[static_cast<std::size_t>(Confounder::IntakeLoss)];
        };
        QVERIFY(intake().status == TestStatus::Clear);
        for (std::size_t i = 0; i < pull.size(); ++i)
            pull[PullChannel::Inlet][i] -= std::max(0.0, pull[PullChannel::Speed][i] - 7000) * 4; // it closes
        QVERIFY(intake().status == TestStatus::Seen);
    }

    void fuel_cut_on_the_way_back_is_no_limiter() {
        Pull pull = make_pull({}, {}, 0.003, 200, 1);
        pull[PullChannel::Limiter].assign(pull.size(), 0.0);
        for (int k = 0; k < 30; ++k) {
            pull[PullChannel::Speed].push_back(8500 - 100 * k);
            pull[PullChannel::Power].push_back(-2e3);
            pull[PullChannel::Torque].push_back(-2);
            pull[PullChannel::Limiter].push_back(1);
        }
        const auto limiter = [&] { return test_confounders(pull, analyse(pull)).back(); };
        QVERIFY(limiter().status == TestStatus::Clear);
        pull[PullChannel::Limiter][190] = 1; // in the pull itself
        QVERIFY(limiter().status == TestStatus::Seen);
        NEAR(*limiter().from_rpm, pull[PullChannel::Speed][190], 1e-9);
    }

    void pulls_of_a_state_are_judged_by_their_middle_one() {
        ConfounderTest seen{Confounder::Mixture, TestStatus::Seen, 0.9, {}, {}, "seen"},
            clear{Confounder::Mixture, TestStatus::Clear, 0.1, {}, {}, "clear"};
        const auto with = [](const ConfounderTest& t) {
            std::vector<ConfounderTest> out;
            for (std::size_t i = 0; i < kConfounders; ++i)
                out.push_back({static_cast<Confounder>(i)});
            out[static_cast<std::size_t>(Confounder::Mixture)] = t;
            return out;
        };
        const auto mixture = [&](const std::vector<std::vector<ConfounderTest>>& pulls) {
            return test_confounders(pulls)[static_cast<std::size_t>(Confounder::Mixture)].text.in_words();
        };
        QCOMPARE(mixture({with(seen), with(clear), with(seen)}), std::string("seen"));
        QCOMPARE(mixture({with(clear), with(clear), with(seen)}), std::string("clear"));
    }
};

void TstDyno::each_test_tells_a_move_that_matters_from_one_that_does_not_data() {
    QTest::addColumn<int>("kind");
    QTest::addColumn<int>("channel");
    QTest::addColumn<double>("usual");
    QTest::addColumn<double>("small");
    QTest::addColumn<double>("large");
    QTest::addColumn<double>("noise");
    const auto row = [](const char* name, Confounder kind, PullChannel channel, double usual, double small,
                        double large, double noise) {
        QTest::newRow(name) << int(kind) << int(channel) << usual << small << large << noise;
    };
    row("blower", Confounder::BeltSlip, PullChannel::Blower, 2.4, -0.01, -0.12, 0.004);
    row("rail", Confounder::Mixture, PullChannel::FuelPressure, 400e3, -8e3, -80e3, 2e3);
    row("lean", Confounder::Mixture, PullChannel::Lambda, 0.87, 0.008, 0.06, 0.004);
    row("rich", Confounder::Mixture, PullChannel::Lambda, 0.87, -0.02, -0.12, 0.004);
    row("misfires", Confounder::SparkBreakUp, PullChannel::Misfire, 0.001, 0.004, 0.04, 0.001);
    row("throttle", Confounder::ThrottleClosing, PullChannel::Throttle, 1, -0.015, -0.15, 0.003);
    row("retard", Confounder::KnockRetard, PullChannel::Knock, 0, radians(0.5), radians(5), radians(0.1));
    row("advance", Confounder::KnockRetard, PullChannel::Spark, radians(30), radians(-0.6), radians(-7),
        radians(0.1));
    row("oil", Confounder::OilPressure, PullChannel::Oil, 450e3, -10e3, -120e3, 4e3);
}

QTEST_APPLESS_MAIN(TstDyno)
#include "tst_dyno.moc"
