// Beyond its onset a motion leaves the trend of the speeds before: how far, held against a train's.
#include "core/calibration/calibrate.h"
#include "core/calibration/fit_model.h"
#include "core/made_run.h"
#include "core/motion/onset.h"
#include "support.h"

#include <algorithm>

using namespace bathmos;
using namespace bathmos::test;

namespace {

// One speed before the trains leave the lobe, one beyond; the onset is where the first motion leaves its
// trend.
RigRun run_with_onset(const Train& train, const std::vector<double>& speeds_rpm) {
    RigRun out = run_of(train, speeds_rpm);
    std::vector<double> fine;
    for (double rpm = speeds_rpm.front(); rpm <= speeds_rpm.back(); rpm += 100)
        fine.push_back(rpm);
    std::vector<SpeedMetrics> rows;
    for (const Motion& motion : MotionModel(train).run(fine))
        rows.push_back({motion.speed_rpm, motion.metrics});
    out.onset = find_onset(rows, {});
    return out;
}

Train tired(Train train) {
    std::get<CoilGeometry>(train.springs[0].kind).free_length_m -= 3.2e-3;
    for (const FreeNumber& one : free_numbers(train, {"springs.load"}))
        move_number(train, one, -0.14);
    return train;
}

bool warns_of_onset(const Calibration& c) {
    return std::ranges::any_of(c.warnings, [](const std::string& one) {
        return one.find("nothing that was tried explains this onset") != std::string::npos;
    });
}

} // namespace

class TestOffTrend : public QObject {
    Q_OBJECT
  private slots:
    void flex_that_grows_with_the_square_of_the_speed_is_on_its_trend() {
        ObservedSpeed slow, fast;
        slow.speed_rpm = 4000;
        fast.speed_rpm = 6000;
        slow.rigid_m = fast.rigid_m = Eigen::VectorXd::LinSpaced(50, 0, 9e-3);
        const Eigen::VectorXd flex = 1e-6 * Eigen::VectorXd::LinSpaced(50, -40, 90);
        const Eigen::VectorXd before = slow.rigid_m + flex;
        Eigen::VectorXd beyond = fast.rigid_m + 2.25 * flex;
        NEAR(off_trend_m(fast, beyond, slow, before), 0, 1e-15);
        beyond.array() += 70e-6;
        NEAR(off_trend_m(fast, beyond, slow, before), 70e-6, 1e-12);
        NEAR(off_trend_m(slow, before, slow, before), 0, 1e-15);
    }

    void speeds_from_the_last_before_the_onset_on_are_held_against_a_trend() {
        const Train t = starter_train();
        RigRun run = run_of(t, {3000, 3500, 4000, 4500, 5000, 5500, 6000, 6500, 7000});
        const std::vector<double> rigid_m = MotionModel(t).chain().rigid_m;
        for (const ObservedSpeed& one : observe(run, 0, rigid_m)) // no onset is shown
            QCOMPARE(one.trend_back, std::size_t(0));
        run.onset.onset.speed_rpm = 6100;
        const auto seen = observe(run, 0, rigid_m);
        for (const ObservedSpeed& one : seen)
            QCOMPARE(one.trend_back, std::size_t(one.speed_rpm == 6000   ? 1
                                                 : one.speed_rpm == 6500 ? 1
                                                 : one.speed_rpm == 7000 ? 2
                                                                         : 0));
        NEAR(seen.back().rigid_m.maxCoeff(), *std::ranges::max_element(rigid_m), 1e-5);
        run.onset.onset.speed_rpm = 3200; // none stands before it that could be a trend's own
        QCOMPARE(observe(run, 0, rigid_m)[0].trend_back, std::size_t(0));
        QCOMPARE(observe(run, 0, rigid_m)[2].trend_back, std::size_t(2)); // 3500 is held out
    }

    // A train that stays on its lobe where the run shows that it left it is off by many deviations, and the
    // one that was spun is not.
    void a_train_is_held_against_what_the_run_shows_beyond_its_onset() {
        const Train believed = with_run_options(starter_train()), truth = tired(believed);
        const RigRun run = run_with_onset(truth, {3000, 4000, 5000, 5500, 6000, 6300, 6600});
        QVERIFY(run.onset.onset.speed_rpm);
        const FitModel curves({believed}, free_numbers(believed),
                              observe(run, 0, MotionModel(believed).chain().rigid_m), {0});
        QCOMPARE(curves.residual_count(), curves.observed().size());
        const FitModel model = curves.heeding_trend();
        QVERIFY(model.residual_count() > model.observed().size());
        Offsets x = Offsets::Zero(static_cast<Eigen::Index>(model.size()));
        const Residuals off = model.residuals(x, true, {});
        QCOMPARE(off.of.size(), model.residual_count());
        QCOMPARE(off.by_offset.size(), model.residual_count());
        QVERIFY2(off.of.back()(0) > 3, qPrintable(QString::number(off.of.back()(0))));
        x(static_cast<Eigen::Index>(model.place_of("springs.free_length_mm", 0))) = -3.2e-3;
        x(static_cast<Eigen::Index>(model.place_of("springs.load", 0))) = -0.14;
        const Residuals right = model.residuals(x, false, {});
        for (std::size_t i = model.observed().size(); i < right.of.size(); ++i) {
            QVERIFY(model.fits(i) && model.of_trend(i));
            NEAR(right.of[i](0), 0, 0.5);
        }
    }

    void what_is_off_by_far_more_or_far_less_than_seen_is_a_missed_onset() {
        const OffTrend right{6600, 100e-6, 95e-6}, less{7000, 200e-6, 30e-6}, more{7400, 20e-6, 400e-6};
        QVERIFY(!missed_onset({}));
        QVERIFY(!missed_onset({right}));
        QVERIFY(!missed_onset({{6600, 2e-6, 9e-6}})); // noise
        QVERIFY(less.deviations() > 0 && more.deviations() < 0);
        QCOMPARE(missed_onset({right, less})->speed_rpm, 7000.0);
        QCOMPARE(missed_onset({less, more, right})->speed_rpm, 7400.0);
    }

    void an_onset_that_nothing_explains_is_warned_of() {
        const Train truth = tired(with_run_options(starter_train()));
        const RigRun run = run_with_onset(truth, {3000, 3500, 4000, 4500, 5000, 5500, 6000, 6300, 6600});
        const Calibration c =
            calibrate({starter_train(), {&run}, {"lash_mm", "rocker.stiffness_N_per_mm"}, 2});
        QCOMPARE(c.chosen, std::string("as_believed"));
        QVERIFY(warns_of_onset(c));
        CONTAINS(c.warnings.back(), "run finer steps round it");
    }
};

QTEST_GUILESS_MAIN(TestOffTrend)
#include "tst_off_trend.moc"
