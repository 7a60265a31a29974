// Many speeds at once: their order, progress, stop, the limit on the way.
#include "core/motion/sweep.h"
#include "io/train/train_file.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

class TestSweep : public QObject {
    Q_OBJECT
  private slots:
    void speeds_come_coarse_first_then_the_fastest() {
        std::vector<double> order = coarse_then_down(SpeedRange{1000, 5000, 100}.speeds_rpm());
        QCOMPARE(order.size(), std::size_t{41});
        QVERIFY(
            (std::vector<double>(order.begin(), order.begin() + 3) == std::vector<double>{1000, 5000, 3000}));
        NEAR(order[9], 4900, 0);
        std::sort(order.begin(), order.end());
        QVERIFY(order == (SpeedRange{1000, 5000, 100}.speeds_rpm())); // each once
        QCOMPARE(coarse_then_down({6000}).size(), std::size_t{1});
    }

    void a_stop_is_heeded_and_progress_is_told() {
        const Train t = starter_train();
        std::stop_source source;
        int seen = 0;
        SweepWatch watch;
        watch.stop = source.get_token();
        watch.motion = [&](const auto&) {
            if (++seen == 3)
                source.request_stop();
        };
        QVERIFY_THROWS_EXCEPTION(Stopped, sweep(t, {3000, 9000, 50}, usual_limits(), watch));
        QVERIFY(seen < 60);
        double last = 0;
        SweepWatch whole;
        whole.progress = [&](double share) {
            QVERIFY(share >= last);
            last = share;
        };
        const Sweep s = sweep(t, {4000, 5000, 500}, usual_limits(), whole);
        NEAR(last, 1, 1e-12);
        QCOMPARE(s.motions.size(), std::size_t{3});
        NEAR(s.motions[1]->speed_rpm, 4500, 0);
    }

    void an_estimate_of_the_limit_comes_before_the_refined_one() {
        const Train t = starter_train();
        std::optional<double> estimate;
        SweepWatch watch;
        watch.estimate = [&](const SweepSummary& s) { estimate = s.limit.speed_rpm; };
        const Sweep s = sweep(t, {6000, 9500, 100}, usual_limits(), watch);
        QVERIFY(estimate.has_value() && s.summary.limit.speed_rpm.has_value());
        NEAR(*estimate, *s.summary.limit.speed_rpm, 100);
    }

    void beyond_the_onset_cycles_differ_and_that_is_a_result() {
        Train t = starter_train();
        for (const Motion& m : MotionModel(t).run({9000, 9600, 10200, 10800})) {
            QVERIFY(m.finite);
            if (m.periodic)
                continue;
            QCOMPARE(m.cycles, std::size_t{24});
            QCOMPARE(m.cloud_m.size(), std::size_t{8});
            QVERIFY(*m.metrics[Metric::CycleVariation] > 0.1e-6);
            QVERIFY(m.deviation[Metric::Loft].has_value());
            return;
        }
        QFAIL("none of the speeds beyond the onset failed to repeat");
    }

    void held_open_is_the_limit_of_a_boosted_adjuster() {
        const Sweep s = sweep(io::read_train(source_file("tests/trains/ravenmoor-t14-intake.train.json")),
                              {6000, 8000, 100});
        QCOMPARE(std::string(s.summary.limit.first->key), "held_open");
        NEAR(*s.summary.limit.speed_rpm, 6877, 15);
    }
};

QTEST_APPLESS_MAIN(TestSweep)
#include "tst_sweep.moc"
