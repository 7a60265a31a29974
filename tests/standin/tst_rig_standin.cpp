// A trace of the stand-in rig, reduced again: what was put in comes out.
#include "core/motion/sweep.h"
#include "core/rig/rig_run.h"
#include "standin/rig/spin.h"
#include "support.h"

#include <algorithm>

using namespace bathmos;
using namespace bathmos::test;

namespace {

standin::SpinSetup setup() {
    standin::SpinSetup out;
    out.truth = starter_train();
    out.speeds_rpm = {2000, 4000, 5500};
    out.cycles = 4;
    out.samples_per_turn = 360;
    return out;
}

} // namespace

class TestRigStandin : public QObject {
    Q_OBJECT
  private slots:
    void what_was_spun_is_what_is_read() {
        standin::SpinSetup s = setup();
        s.sensor.gain = 0.004;
        s.sensor.phase_deg = 61;
        const RigTrace trace = standin::spin(s);
        QCOMPARE(trace.turns.size(), s.speeds_rpm.size() * s.cycles);
        QCOMPARE(trace.lift_mm.size(), trace.turns.size() * 2 * s.samples_per_turn);
        const RigRun run = reduce(trace, s.truth);
        QCOMPARE(run.steps.size(), s.speeds_rpm.size());
        NEAR(run.phase_deg, s.sensor.phase_deg, 0.1);
        NEAR(run.scale_ratio, 1 + s.sensor.gain, 5e-4);
        NEAR(run.noise_m, s.sensor.noise_m, 1e-6);
        for (const RigStep& step : run.steps) {
            QCOMPARE(step.used, s.cycles);
            const Motion motion = simulate_one(s.truth, step.speed_rpm);
            double worst_m = 0; // of what a delay leaves: some microns on the flanks
            for (std::size_t i = 0; i < kGridPoints; ++i)
                worst_m = std::max(worst_m,
                                   std::abs(step.lift_m[i] - (1 + s.sensor.gain) * motion[Channel::Lift][i]));
            QVERIFY2(worst_m < 60e-6, qPrintable(QString::number(worst_m)));
        }
    }

    void the_same_setup_gives_the_same_trace_and_another_seed_another() {
        standin::SpinSetup s = setup();
        s.speeds_rpm = {4000};
        const RigTrace a = standin::spin(s), b = standin::spin(s);
        QVERIFY(a.lift_mm == b.lift_mm);
        s.seed = 2;
        QVERIFY(a.lift_mm != standin::spin(s).lift_mm);
    }

    void a_zero_walks_from_speed_to_speed_only() {
        standin::SpinSetup s = setup();
        s.sensor.noise_m = 0;
        s.sensor.zero_walk_m = 50e-6;
        const RigTrace trace = standin::spin(s);
        const auto least = [&](std::size_t turn) {
            const auto from = trace.lift_mm.begin() + static_cast<std::ptrdiff_t>(trace.turns[turn].first);
            return *std::min_element(from, from + static_cast<std::ptrdiff_t>(trace.turns[turn].count));
        };
        NEAR(least(0), least(s.cycles - 1), 1e-6);
        QVERIFY(std::abs(least(0) - least(s.cycles)) > 1e-3f);
    }
};

QTEST_APPLESS_MAIN(TestRigStandin)
#include "tst_rig_standin.moc"
