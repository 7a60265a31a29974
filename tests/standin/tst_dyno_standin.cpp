// The stand-in dyno: the same for a seed, faults that show in their own channel and in no other, losses from
// motion.
#include "core/math/robust.h"
#include "standin/dyno/dyno.h"
#include "support.h"

#include <QTest>

using namespace bathmos;
using namespace bathmos::test;
using namespace bathmos::standin;

namespace {

PullSetup charged_setup() {
    PullSetup out;
    out.engine.charged = true;
    out.logged = all_channels(out.engine);
    return out;
}

std::vector<ConfounderTest> tests_of(const PullSetup& setup) {
    const Pull pull = run_pull(setup);
    return test_confounders(pull, analyse(pull));
}

} // namespace

class TstDynoStandin : public QObject {
    Q_OBJECT

  private slots:
    void the_same_seed_makes_the_same_pull() {
        PullSetup setup = charged_setup();
        const Pull a = run_pull(setup), b = run_pull(setup);
        for (std::size_t c = 0; c < kPullChannels; ++c)
            QCOMPARE(a.columns[c], b.columns[c]);
        setup.seed = 2;
        QVERIFY(run_pull(setup)[PullChannel::Power] != a[PullChannel::Power]);
    }

    void weather_is_taken_out_by_the_correction() {
        PullSetup setup;
        setup.logged = all_channels(setup.engine);
        setup.scatter = 0;
        setup.noise = 0;
        const auto peak = [&](double pressure, double kelvin) {
            setup.weather_Pa = pressure;
            setup.weather_K = kelvin;
            const Pull pull = run_pull(setup);
            return analyse(corrected(pull, *j1349(pull))).peak_W;
        };
        NEAR(peak(97e3, 303) / peak(102e3, 285), 1, 0.01);
    }

    void each_fault_shows_in_its_own_test_data();
    void each_fault_shows_in_its_own_test() {
        QFETCH(int, fault);
        const auto kind = static_cast<Confounder>(fault);
        int seen = 0, others = 0;
        for (unsigned seed = 1; seed <= 10; ++seed) {
            PullSetup setup = charged_setup();
            setup.seed = seed;
            setup.faults = {{kind, 6800, 1}};
            for (const ConfounderTest& t : tests_of(setup)) {
                if (t.kind == kind)
                    seen += t.status == TestStatus::Seen ? 1 : 0;
                // Some faults move more than one channel: spark and mixture lambda, throttle the manifold.
                else if (t.status == TestStatus::Seen && t.seen > 0.8 && kind != Confounder::SparkBreakUp &&
                         kind != Confounder::Mixture && kind != Confounder::ThrottleClosing &&
                         kind != Confounder::DriverLift)
                    ++others;
            }
        }
        QVERIFY2(seen >= 9, qPrintable(QString::number(seen)));
        QVERIFY2(others <= 1, qPrintable(QString::number(others)));
    }

    void a_healthy_engine_shows_none() {
        int seen = 0;
        for (unsigned seed = 1; seed <= 20; ++seed) {
            PullSetup setup = charged_setup();
            setup.seed = seed;
            for (const ConfounderTest& t : tests_of(setup)) {
                QVERIFY(t.status != TestStatus::NotLogged);
                seen += t.status == TestStatus::Seen ? 1 : 0;
            }
        }
        QVERIFY2(seen <= 1, qPrintable(QString::number(seen)));
    }

    void motion_that_bounces_costs_power_and_makes_it_rough() {
        std::vector<SpeedMetrics> rows;
        for (double rpm = 6000; rpm <= 8600; rpm += 200) {
            Metrics m;
            m[Metric::Bounce] = std::max(0.0, (rpm - 7200) * 1.6e-6);
            m[Metric::Loft] = 0;
            m[Metric::CycleVariation] = std::max(0.0, (rpm - 7200) * 0.1e-6);
            rows.push_back({rpm, m});
        }
        const auto loss = motion_loss(rows);
        QCOMPARE(loss.size(), rows.size());
        QCOMPARE(loss.front().lost, 0.0);
        QVERIFY(loss.back().lost > 0.05 && loss.back().rough > 0.003);
        for (std::size_t i = 1; i < loss.size(); ++i)
            QVERIFY(loss[i].lost >= loss[i - 1].lost);
        PullSetup setup;
        setup.loss = loss;
        PullSetup healthy = setup;
        healthy.loss.clear();
        for (setup.seed = healthy.seed = 1; setup.seed <= 6; healthy.seed = ++setup.seed) {
            const PullAnalysis a = analyse(run_pull(setup)), b = analyse(run_pull(healthy));
            NEAR(a.trend_W.back() / b.trend_W.back(), 1 - loss.back().lost, 0.03);
            QVERIFY(a.rough_from_rpm && *a.rough_from_rpm >= 7250 && !b.rough_from_rpm);
        }
    }

    void a_limiter_holds_the_speed_and_a_lifted_foot_lets_it_fall() {
        PullSetup setup = charged_setup();
        setup.faults = {{Confounder::RevLimiter, 7200, 1}};
        const Pull limited = run_pull(setup);
        NEAR(*std::max_element(limited[PullChannel::Speed].begin(), limited[PullChannel::Speed].end()), 7200,
             40);
        setup.faults = {{Confounder::DriverLift, 7200, 1}};
        QVERIFY(power_curve(run_pull(setup)).lifted);
    }
};

void TstDynoStandin::each_fault_shows_in_its_own_test_data() {
    QTest::addColumn<int>("fault");
    for (std::size_t i = 0; i < kConfounders; ++i)
        QTest::newRow(info(static_cast<Confounder>(i)).key.data()) << static_cast<int>(i);
}

QTEST_APPLESS_MAIN(TstDynoStandin)
#include "tst_dyno_standin.moc"
