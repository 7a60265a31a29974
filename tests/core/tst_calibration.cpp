#include "core/calibration/calibrate.h"
#include "core/calibration/calibrated_limit.h"
#include "core/calibration/fit_model.h"
#include "core/calibration/lobe_seen.h"
#include "core/calibration/run_reading.h"
#include "core/made_run.h"
#include "support.h"

#include <algorithm>

using namespace bathmos;
using namespace bathmos::test;

namespace {

const std::vector<double> kSpeeds_rpm = {3000, 4000, 5000, 5500, 6000};

const FittedNumber& number(const Calibration& c, const std::string& key) {
    return *std::find_if(c.numbers.begin(), c.numbers.end(),
                         [&](const FittedNumber& n) { return n.number.key == key; });
}

bool has_key(const std::vector<FreeNumber>& numbers, const std::string& key) {
    return std::any_of(numbers.begin(), numbers.end(), [&](const FreeNumber& n) { return n.key == key; });
}

} // namespace

class TestCalibration : public QObject {
    Q_OBJECT
  private slots:
    void run_options_are_added_and_those_named_stay() {
        Train t = starter_train();
        t.camshaft = CamshaftTorsion{5000, 600, 0.1};
        const Train with = with_run_options(t);
        QVERIFY(with.camshaft == t.camshaft);
        QVERIFY(with.valve.elastic == ElasticValve{} && with.drive_ripple == DriveRipple{});
        QVERIFY(with.lash_at == LashAt::LoadedRest);
        auto& coil = std::get<CoilGeometry>(t.springs[0].kind);
        coil.pitch_scatter = 0.02; // no run tells which coils are wide: it stays as the train has it
        QVERIFY(!std::get<CoilGeometry>(with.springs[0].kind).pitch_scatter);
        QVERIFY(std::get<CoilGeometry>(with_run_options(t).springs[0].kind).pitch_scatter == 0.02);
        QVERIFY(with_run_options(with) == with);
    }

    void only_numbers_that_the_train_has_are_free() {
        const auto pushrod = free_numbers(with_run_options(starter_train()));
        QVERIFY(has_key(pushrod, "pushrod.end_stiffness_N_per_mm") && has_key(pushrod, "lash_mm"));
        QVERIFY(!has_key(pushrod, "contacts.tip.stiffness_N_per_mm"));
        QVERIFY(!has_key(pushrod, "springs.friction_N")); // 0 cannot be moved by a factor
        const auto bucket = free_numbers(with_run_options(with_layout(starter_train(), Layout::Bucket)));
        QVERIFY(!has_key(bucket, "rocker.inertia_kg_mm2"));
        QVERIFY(has_key(bucket, "contacts.tip.stiffness_N_per_mm"));
        for (const FreeNumber& one : pushrod)
            QVERIFY2(one.prior_sd > 0 && !one.bench.empty() && !one.label.empty(), one.key.c_str());
        const InputProblem problem =
            problem_of([] { free_numbers(with_run_options(starter_train()), {"valve.colour"}); });
        QCOMPARE(problem.location, std::string("valve.colour"));
        CONTAINS(problem.mend, "installed_height_mm");
    }

    void a_number_moves_by_its_factor_or_its_amount() {
        Train t = with_run_options(starter_train());
        t.springs.push_back(t.springs[0]);
        const auto all = free_numbers(t);
        for (const FreeNumber& one : all) {
            Train moved = t;
            move_number(moved, one, 0.05 * (one.logarithmic ? 1 : one.prior_sd));
            if (one.key == "springs.load") {
                NEAR(SpringStatics(moved.springs[1]).load_N(0.04) / SpringStatics(t.springs[1]).load_N(0.04),
                     std::exp(0.05), 1e-9);
                continue;
            }
            const double before = value_of(t, one), after = value_of(moved, one);
            NEAR(after, one.logarithmic ? before * std::exp(0.05) : before + 0.05 * one.prior_sd,
                 1e-9 * (std::abs(before) + one.prior_sd));
        }
        Train both = t;
        move_number(both, all[all.size() - 1], 0);
        QVERIFY(both == t);
    }

    void a_tolerance_of_the_train_is_the_prior_and_a_fit_leaves_its_own() {
        Train t = with_run_options(starter_train());
        t.tolerances["installed_height_mm"] = {Source::Gauge, 0.4e-3};
        t.tolerances["valve.mass_g"] = {Source::Scale, 0.02 * t.valve.mass_kg};
        for (const FreeNumber& one : free_numbers(t, {"installed_height_mm", "valve.mass_g"}))
            NEAR(one.prior_sd, one.logarithmic ? 0.01 : 0.2e-3, 1e-12);
        const FreeNumber height = free_numbers(t, {"installed_height_mm"}).front();
        note_tolerance(t, height, 0.05e-3);
        QVERIFY(t.tolerances.at("installed_height_mm").source == Source::Fitted);
        NEAR(t.tolerances.at("installed_height_mm").plus_minus, 0.1e-3, 1e-12);
    }

    void a_run_of_three_speeds_spares_none() {
        const Train t = starter_train();
        const auto seen = observe(run_of(t, {3000, 4000, 5000}), 0, MotionModel(t).chain().rigid_m);
        QCOMPARE(seen.size(), std::size_t(3));
        for (const ObservedSpeed& one : seen)
            QVERIFY(!one.held_out);
    }

    void speeds_are_kept_back_below_and_all_are_used_near_the_top() {
        const Train t = starter_train();
        const RigRun run = run_of(t, {3000, 3500, 4000, 4500, 5000, 5500, 6000, 6500, 7000});
        const auto seen = observe(run, 2, MotionModel(t).chain().rigid_m);
        QCOMPARE(seen.size(), std::size_t(9));
        for (const ObservedSpeed& one : seen) {
            QCOMPARE(one.held_out, one.speed_rpm == 3500 || one.speed_rpm == 4500);
            QCOMPARE(one.run, std::size_t(2));
            QVERIFY(one.crank_deg.front() < -150 && one.crank_deg.back() > 200);
            // each reading's own noise is the least that is allowed for
            const Eigen::MatrixXd c = one.spread * one.spread.transpose();
            QVERIFY(c.diagonal().minCoeff() > 9e-12 + 1e-8);
        }
        RigRun thin = run;
        thin.steps[0].used = 1;
        QCOMPARE(observe(thin, 0, MotionModel(t).chain().rigid_m).size(), std::size_t(8));
    }

    void a_sensor_s_gain_phase_and_delay_do_what_they_say() {
        std::vector<double> lift_m(kGridPoints);
        for (std::size_t i = 0; i < kGridPoints; ++i)
            lift_m[i] = std::cos(radians(-360 + kGridStep_crank_deg * static_cast<double>(i)));
        ObservedSpeed at;
        at.speed_rpm = 6000;
        at.crank_deg = {-100.3, -20, 0, 33.3, 359.9};
        const Eigen::VectorXd seen = read_lift(lift_m, {0.02, 1.5, 10e-6, {}}, at);
        for (std::size_t i = 0; i < at.crank_deg.size(); ++i)
            NEAR(seen(static_cast<Eigen::Index>(i)), 1.02 * std::cos(radians(at.crank_deg[i] - 1.5 - 0.36)),
                 1e-6);
        const DriveRipple ripple{0.004, 0, 0, 0.002}; // the encoder's angle is ahead of the even one
        const Eigen::VectorXd uneven = read_lift(lift_m, {0, 0, 0, ripple}, at);
        NEAR(uneven(3), std::cos(radians(33.3) - 2 * ripple.ahead_rad(radians(33.3 / 2))), 1e-6);
    }

    void residuals_vanish_at_the_truth_and_their_derivatives_are_differences() {
        const Train t = with_run_options(starter_train());
        const RigRun run = run_of(t, {3000, 5000, 6000}, 1e-12);
        const auto seen = observe(run, 0, MotionModel(t).chain().rigid_m);
        const FitModel model(
            {t}, free_numbers(t, {"pushrod.end_stiffness_N_per_mm", "rocker.stiffness_N_per_mm"}), seen, {0});
        QCOMPARE(model.size(), std::size_t(5));
        Offsets x = Offsets::Zero(5);
        x(4) = -3.5e-6; // this sensor has no delay
        const Residuals at = model.residuals(x, true, {});
        for (const Eigen::VectorXd& r : at.of)
            QVERIFY(r.norm() / std::sqrt(static_cast<double>(r.size())) < 0.5);
        for (Eigen::Index k = 0; k < 5; ++k) {
            Offsets up = x, down = x;
            const double step = (k < 2 ? 1 : 0.05) * model.prior_sd()(k); // a phase bends soon
            up(k) += step;
            down(k) -= step;
            const Residuals a = model.residuals(up, false, {}), b = model.residuals(down, false, {});
            const Eigen::VectorXd slope = (a.of[0] - b.of[0]) / (2 * step);
            const double off = (slope - at.by_offset[0].col(k)).norm();
            QVERIFY2(off < 0.1 * slope.norm() + 1 / model.prior_sd()(k),
                     qPrintable(QStringLiteral("number %1: %2 of %3").arg(k).arg(off).arg(slope.norm())));
        }
    }

    // The rod's ends are softer than believed: found by name, by value, and the rest stays where it was.
    void what_departs_is_found() {
        Train truth = with_run_options(starter_train());
        const Train believed = starter_train();
        truth.pushrod->end_stiffness_N_per_m *= 0.3;
        const RigRun run = run_of(truth, kSpeeds_rpm);
        CalibrationQuery query{believed, {&run}};
        query.free = {"pushrod.end_stiffness_N_per_mm", "rocker.stiffness_N_per_mm", "installed_height_mm",
                      "lash_mm"};
        query.draws = 4;
        std::vector<double> shares;
        std::string first;
        CalibrationWatch watch;
        watch.progress = [&](double share) { shares.push_back(share); };
        watch.estimate = [&](const Calibration& c) { first = c.numbers.front().number.key; };
        const Calibration c = calibrate(query, watch);
        QCOMPARE(c.chosen, std::string("train_flexible"));
        QCOMPARE(c.hypotheses.front().cause, std::string("train_flexible"));
        QVERIFY(c.hypotheses.front().log_evidence > kLeastEvidence);
        const FittedNumber& ends = number(c, "pushrod.end_stiffness_N_per_mm");
        NEAR(std::log(ends.value / truth.pushrod->end_stiffness_N_per_m), 0, 0.1);
        NEAR(ends.value, truth.pushrod->end_stiffness_N_per_m, 2.5 * ends.sd);
        QVERIFY(ends.told && ends.departs_sigma < -5 && ends.sd < ends.prior_sd);
        NEAR(number(c, "installed_height_mm").departs_sigma, 0, 2);
        NEAR(c.train.pushrod->end_stiffness_N_per_m, ends.value, 1);
        QVERIFY(c.train.tolerances.at("pushrod.end_stiffness_N_per_mm").source == Source::Fitted);
        QVERIFY(std::any_of(c.warnings.begin(), c.warnings.end(),
                            [](const std::string& w) { return contains(w, "Ball ends"); }));
        for (const SpeedResidual& one : c.residuals)
            QVERIFY2(one.rms_m < 10e-6 && one.believed_rms_m > 3 * one.rms_m,
                     qPrintable(QString::number(one.rms_m)));
        QCOMPARE(c.residuals.size(), kSpeeds_rpm.size());
        QVERIFY(std::is_sorted(shares.begin(), shares.end()) && shares.back() == 1);
        QCOMPARE(first, std::string("pushrod.end_stiffness_N_per_mm"));
        QCOMPARE(c.draws.size(), std::size_t(4));
    }

    // Soft ends and springs mounted too high, each of which leaves the run badly explained alone.
    void two_that_depart_at_once_are_both_found() {
        Train truth = with_run_options(starter_train());
        truth.pushrod->end_stiffness_N_per_m *= 0.45;
        truth.installed_height_m += 1.3e-3;
        const RigRun run = run_of(truth, {3000, 4000, 5000, 6000, 6500, 7000, 7300, 7600});
        CalibrationQuery query{starter_train(), {&run}};
        query.free = {"pushrod.end_stiffness_N_per_mm",
                      "rocker.stiffness_N_per_mm",
                      "installed_height_mm",
                      "springs.load",
                      "springs.damping_ratio",
                      "lash_mm"};
        query.draws = 2;
        const Calibration c = calibrate(query);
        QCOMPARE((std::set<std::string>{c.chosen, c.chosen_with}),
                 (std::set<std::string>{"spring_not_as_believed", "train_flexible"}));
        const Hypothesis& two = c.hypotheses.front();
        QVERIFY(two.cause == c.chosen && two.with == c.chosen_with);
        for (const Hypothesis& one : c.hypotheses)
            QVERIFY(&one == &two || two.log_evidence > one.log_evidence + kLeastEvidence);
        NEAR(std::log(c.train.pushrod->end_stiffness_N_per_m / truth.pushrod->end_stiffness_N_per_m), 0, 0.1);
        NEAR(c.train.installed_height_m, truth.installed_height_m, 0.15e-3);
        const bool height_first = two.cause == "spring_not_as_believed";
        const Train& height_back = height_first ? two.put_back : two.with_put_back;
        const Train& ends_back = height_first ? two.with_put_back : two.put_back;
        NEAR(height_back.installed_height_m, starter_train().installed_height_m, 1e-9);
        NEAR(height_back.pushrod->end_stiffness_N_per_m, c.train.pushrod->end_stiffness_N_per_m, 1);
        NEAR(ends_back.pushrod->end_stiffness_N_per_m, starter_train().pushrod->end_stiffness_N_per_m, 1);
        NEAR(ends_back.installed_height_m, c.train.installed_height_m, 1e-9);
    }

    void a_train_as_believed_stays_as_believed() {
        const Train t = starter_train();
        const RigRun run = run_of(with_run_options(t), kSpeeds_rpm);
        CalibrationQuery query{t, {&run}};
        query.free = {"pushrod.end_stiffness_N_per_mm", "installed_height_mm", "lash_mm"};
        query.draws = 2;
        const Calibration c = calibrate(query);
        QCOMPARE(c.chosen, std::string("as_believed"));
        for (const FittedNumber& one : c.numbers)
            NEAR(one.departs_sigma, 0, 1.5);
        QVERIFY(c.warnings.empty());
    }

    // A rest that is not as deep as the loaded one asks for a lash below nothing.
    void a_number_held_at_the_end_of_what_it_may_be_is_told() {
        Train believed = starter_train();
        believed.lash_m = 2e-6;
        Train truth = with_run_options(believed);
        truth.lash_at = LashAt::FirstTouch;
        truth.lash_m = 0;
        const RigRun run = run_of(truth, kSpeeds_rpm);
        CalibrationQuery query{believed, {&run}};
        query.free = {"lash_mm"};
        query.draws = 1;
        const Calibration c = calibrate(query);
        const FittedNumber& lash = number(c, "lash_mm");
        QVERIFY(lash.at_end);
        NEAR(lash.value, 0, 1e-9);
        NEAR(c.train.lash_m, 0, 1e-9);
        QVERIFY(std::any_of(c.warnings.begin(), c.warnings.end(), [](const std::string& w) {
            return contains(w, "Lash was held at the end of what it may be");
        }));
    }

    void a_run_of_another_train_is_told() {
        Train other = with_run_options(starter_train());
        std::get<AnalyticLobe>(other.lobe.shape).half_duration_rad *= 1.06;
        const RigRun run = run_of(other, kSpeeds_rpm);
        CalibrationQuery query{starter_train(), {&run}};
        query.free = {"installed_height_mm", "lash_mm"};
        query.draws = 1;
        const Calibration c = calibrate(query);
        QVERIFY(!c.warnings.empty());
        CONTAINS(c.warnings.front(), "another train");
    }

    // What is at one angle at all slow speeds is the lobe's, and is told by place and size; numbers that may
    // move cannot take it up.
    void a_lobe_that_is_not_as_its_file_is_seen_at_slow_speeds_data() {
        QTest::addColumn<double>("bump_um");
        QTest::addColumn<double>("at_deg");
        QTest::addColumn<QString>("part");
        QTest::newRow("closing flank, too high") << 45.0 << 56.0 << QStringLiteral("closing flank");
        QTest::newRow("opening flank, too low") << -40.0 << -54.0 << QStringLiteral("opening flank");
        QTest::newRow("nose, worn") << -50.0 << 2.0 << QStringLiteral("nose");
        QTest::newRow("as its file") << 0.0 << 0.0 << QString();
    }
    void a_lobe_that_is_not_as_its_file_is_seen_at_slow_speeds() {
        QFETCH(double, bump_um);
        QFETCH(double, at_deg);
        QFETCH(QString, part);
        const Train believed = starter_train();
        const LobeCurve file = curve_of(believed.lobe);
        LobeTable spun;
        spun.angle_unit = AngleUnit::CamDegree;
        spun.lift_unit = LiftUnit::Millimetre;
        for (double deg = -180; deg < 180; deg += 0.5) {
            const double apart = (deg - at_deg) / 5;
            spun.angle.push_back(deg);
            spun.lift.push_back(1e3 * file.at(radians(deg)) + 1e-3 * bump_um * std::exp(-apart * apart / 2));
        }
        spun.noise_m = 0.2e-6;
        Train truth = with_run_options(believed);
        truth.lobe.shape = spun;
        const RigRun run = run_of(truth, {2500, 3000, 3500, 4000, 4500, 5000, 5500, 6000});
        CalibrationQuery query{believed, {&run}};
        query.free = {"pushrod.end_stiffness_N_per_mm", "installed_height_mm", "lash_mm"};
        query.draws = 1;
        const Calibration c = calibrate(query);
        const auto seen = lobe_seen(c.train, c.residuals);
        QVERIFY(seen && seen->speeds >= 3);
        const bool told = std::any_of(c.warnings.begin(), c.warnings.end(), [](const std::string& w) {
            return contains(w, "shows another lobe than its file");
        });
        QCOMPARE(told, !part.isEmpty());
        QCOMPARE(seen->departs.has_value(), !part.isEmpty());
        if (part.isEmpty())
            return;
        QCOMPARE(QString::fromStdString(seen->departs->part), part);
        NEAR(seen->departs->cam_deg, at_deg, 4);
        NEAR(seen->departs->difference_m, bump_um * 1e-6, 0.35 * std::abs(bump_um) * 1e-6);
        QVERIFY(seen->departs->from_deg < seen->departs->cam_deg &&
                seen->departs->cam_deg < seen->departs->to_deg);
    }

    void a_clipped_sensor_is_told_not_fitted_away() {
        RigRun run = run_of(with_run_options(starter_train()), kSpeeds_rpm);
        for (RigStep& step : run.steps) {
            const double most_m = 0.9 * *std::max_element(step.lift_m.begin(), step.lift_m.end());
            for (double& lift : step.lift_m)
                lift = std::min(lift, most_m);
        }
        CalibrationQuery query{starter_train(), {&run}};
        query.free = {"installed_height_mm", "pushrod.end_stiffness_N_per_mm"};
        query.draws = 1;
        const Calibration c = calibrate(query);
        QVERIFY(!c.warnings.empty());
        CONTAINS(c.warnings.front(), "clipped");
        CONTAINS(c.warnings.front(), "not to be believed");
    }

    // Plain descent from belief ends where the ringing fits a wave further on.
    void a_stiffness_is_found_through_the_ringing() {
        Train before = starter_train();
        before.pushrod->wall_m = 2e-3;
        Train truth = with_run_options(before);
        truth.rocker->stiffness_N_per_m *= 0.85;
        const RigRun run = run_of(truth, kSpeeds_rpm);
        CalibrationQuery query{before, {&run}};
        query.free = {"pushrod.end_stiffness_N_per_mm", "rocker.stiffness_N_per_mm", "lash_mm"};
        query.draws = 1;
        const Calibration c = calibrate(query);
        const FittedNumber& rocker = number(c, "rocker.stiffness_N_per_mm");
        NEAR(rocker.value, truth.rocker->stiffness_N_per_m, 2 * rocker.sd);
        QVERIFY(rocker.sd < 0.05 * rocker.value);
        for (const SpeedResidual& one : c.residuals)
            QVERIFY2(one.rms_m < 4e-6, qPrintable(QString::number(one.rms_m)));
    }

    void a_step_of_a_number_that_bends_the_residuals_is_shortened() {
        Train t = with_run_options(starter_train());
        t.tolerances["rocker.stiffness_N_per_mm"] = {Source::Sheet, 0.5 * t.rocker->stiffness_N_per_m};
        const RigRun run = run_of(t, {3000, 5000, 6000}, 1e-12);
        FitModel model({t}, free_numbers(t, {"rocker.stiffness_N_per_mm", "valve.mass_g"}),
                       observe(run, 0, MotionModel(t).chain().rigid_m), {0});
        QVERIFY(!model.bends_soon(0) && !model.bends_soon(1));
        Offsets x = Offsets::Zero(5);
        x(4) = -3.5e-6;
        Offsets up = x, down = x; // a tenth of belief's deviation either way
        up(0) += 0.1 * model.prior_sd()(0);
        down(0) -= 0.1 * model.prior_sd()(0);
        const Eigen::VectorXd slope =
            model.residuals(up, false, {}).of[0] - model.residuals(down, false, {}).of[0];
        const auto agrees = [&] {
            const Eigen::VectorXd told = model.residuals(x, true, {}).by_offset[0].col(0);
            return slope.dot(told) / slope.norm() / told.norm();
        };
        const double with_long_steps = agrees();
        model.fit_steps(x, {});
        QVERIFY(model.bends_soon(0));  // it moves the ringing's pitch
        QVERIFY(!model.bends_soon(1)); // 0.8 % of a valve do little
        QVERIFY2(agrees() > 0.8 && agrees() > with_long_steps + 0.05,
                 qPrintable(QStringLiteral("%1 %2").arg(with_long_steps).arg(agrees())));
    }

    void too_few_speeds_are_refused_and_a_stop_is_heeded() {
        const Train t = starter_train();
        const RigRun one = run_of(t, {5000});
        const InputProblem problem = problem_of([&] { calibrate({t, {&one}}); });
        CONTAINS(problem.what, "1 speeds");
        CONTAINS(problem.mend, "three speeds");
        const RigRun run = run_of(t, kSpeeds_rpm);
        std::stop_source source;
        CalibrationWatch watch;
        watch.stop = source.get_token();
        int steps = 0;
        watch.progress = [&](double) {
            if (++steps == 2)
                source.request_stop();
        };
        QVERIFY_THROWS_EXCEPTION(Stopped, calibrate({t, {&run}}, watch));
        QVERIFY(steps < 10);
    }

    void the_band_of_a_limit_holds_its_middle_and_is_no_narrower_than_the_model_is_sure() {
        Calibration c;
        c.train = starter_train();
        for (int i = -4; i <= 4; ++i) {
            c.draws.push_back(starter_train());
            c.draws.back().valve.mass_kg *= 1 + 0.004 * i;
        }
        const RigRun run = run_of(starter_train(), {5000, 6000, 7000, 8000, 9000});
        const CalibratedLimit limit = limit_of(c, {&run}, {});
        QVERIFY(limit.limit.speed_rpm && limit.p10_rpm && limit.p50_rpm && limit.p90_rpm);
        NEAR(*limit.p50_rpm, *limit.limit.speed_rpm, 40);
        QVERIFY(*limit.p50_rpm - *limit.p10_rpm >= 1.28 * kModelLimit_sd * *limit.p50_rpm - 1);
        QVERIFY(*limit.p90_rpm - *limit.p50_rpm >= 1.28 * kModelLimit_sd * *limit.p50_rpm - 1);
        QVERIFY(limit.onset.onset.speed_rpm && limit.onset_p10_rpm && limit.onset_p90_rpm);
        QVERIFY(*limit.onset_p10_rpm < *limit.onset.onset.speed_rpm &&
                *limit.onset.onset.speed_rpm < *limit.onset_p90_rpm);
    }

    void only_what_is_accepted_moves() {
        const Train believed = starter_train();
        Calibration c;
        for (const char* key : {"installed_height_mm", "rocker.stiffness_N_per_mm"}) {
            FittedNumber one{free_numbers(with_run_options(believed), {key}).front()};
            one.believed = value_of(believed, one.number);
            one.value = 1.02 * one.believed;
            one.sd = 0.001 * one.believed;
            c.numbers.push_back(one);
        }
        const Train t = accepted(c, believed, {"rocker.stiffness_N_per_mm"});
        NEAR(t.rocker->stiffness_N_per_m, 1.02 * believed.rocker->stiffness_N_per_m, 1e-3);
        NEAR(t.installed_height_m, believed.installed_height_m, 1e-12);
        const Tolerance& tolerance = t.tolerances.at("rocker.stiffness_N_per_mm");
        QVERIFY(tolerance.source == Source::Fitted);
        NEAR(tolerance.plus_minus, 2 * 0.001 * believed.rocker->stiffness_N_per_m,
             0.01 * tolerance.plus_minus);
        QVERIFY(!t.tolerances.contains("installed_height_mm"));
        QVERIFY(t.camshaft && t.valve.elastic && t.lash_at == LashAt::LoadedRest);
        CONTAINS(problem_of([&] { accepted(c, believed, {"lash_mm"}); }).what, "was not free");
    }

    // A departure costs what its own numbers cost, and what can be switched off is tried.
    void a_reading_says_what_departs_and_what_it_costs() {
        Calibration c;
        c.train = starter_train();
        Train soft = c.train;
        soft.pushrod->end_stiffness_N_per_m *= 0.4;
        c.chosen = "train_flexible";
        c.hypotheses = {{"train_flexible", {}, 40, soft, c.train}, {"as_believed", {}, 0, c.train, c.train}};
        const LimitQuestion question{{4000, 9600, 200}, {}, {}};
        CalibratedLimit limit;
        limit.limit = sweep(soft, question.range).summary.limit;
        c.train = soft;
        const RunReading reading = read_run(c, limit, question);
        QCOMPARE(reading.departures.size(), std::size_t(1));
        const double stiff_rpm = *sweep(starter_train(), question.range).summary.limit.speed_rpm;
        NEAR(*reading.departures[0].gain_rpm, stiff_rpm - *limit.limit.speed_rpm, 30);
        const auto gain = [&](const char* cause) {
            for (const RunMechanism& one : reading.mechanisms)
                if (one.cause == cause)
                    return one.gain_rpm;
            return -1e9;
        };
        QVERIFY(gain("surge") > -1e9 && gain("harsh_lobe") > -1e9 && gain("hard_landing") >= 0);
        QCOMPARE(gain("pump_up"), -1e9); // nothing hydraulic, no pressure
        QCOMPARE(gain("boost_on_head"), -1e9);
    }

    void of_two_at_once_each_is_worth_what_the_best_without_it_lacks() {
        const Train stiff = starter_train();
        Train soft = stiff, high = stiff, both = stiff;
        soft.pushrod->end_stiffness_N_per_m *= 0.5;
        high.installed_height_m += 1e-3;
        both = soft;
        both.installed_height_m = high.installed_height_m;
        Calibration c;
        c.train = both;
        c.chosen = "spring_not_as_believed";
        c.chosen_with = "train_flexible";
        c.hypotheses = {{"spring_not_as_believed", {}, 48, both, soft, "train_flexible", high},
                        {"spring_not_as_believed", {}, 32, high, stiff},
                        {"as_believed", {}, 0, stiff, stiff},
                        {"train_flexible", {}, -9, soft, stiff}};
        const LimitQuestion question{{4000, 9600, 200}, {}, {}};
        CalibratedLimit limit;
        limit.limit = sweep(both, question.range).summary.limit;
        const RunReading reading = read_run(c, limit, question);
        QCOMPARE(reading.chosen_with, std::string("train_flexible"));
        QCOMPARE(reading.departures.size(), std::size_t(2)); // the single ones are not told beside them
        QCOMPARE(reading.departures[0].cause, std::string("spring_not_as_believed"));
        NEAR(reading.departures[0].log_evidence, 48, 1e-12); // without it belief is the best there is
        NEAR(reading.departures[1].log_evidence, 16, 1e-12);
        const auto limit_rpm = [&](const Train& train) {
            return *sweep(train, question.range).summary.limit.speed_rpm;
        };
        NEAR(*reading.departures[0].gain_rpm, limit_rpm(soft) - *limit.limit.speed_rpm, 30);
        NEAR(*reading.departures[1].gain_rpm, limit_rpm(high) - *limit.limit.speed_rpm, 30);
    }

    void a_draw_that_makes_no_train_is_left_out_of_the_band() {
        Calibration c;
        c.train = starter_train();
        c.draws.assign(5, starter_train());
        const RigRun run = run_of(starter_train(), {5000, 6000, 7000, 8000, 9000});
        const CalibratedLimit whole = limit_of(c, {&run}, {});
        c.draws.back().contacts.seat_stiffness_N_per_m = 1e18; // far too quick to follow
        const CalibratedLimit left = limit_of(c, {&run}, {});
        NEAR(*left.p10_rpm, *whole.p10_rpm, 1e-6);
        NEAR(*left.p90_rpm, *whole.p90_rpm, 1e-6);
    }
};

QTEST_APPLESS_MAIN(TestCalibration)
#include "tst_calibration.moc"
