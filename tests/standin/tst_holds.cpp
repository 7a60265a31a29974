// The proof of hold verdicts: a hundred holds of a rig that plays trains it keeps to itself, half of them
// creeping.
#include "core/live/turn_cutter.h"
#include "core/motion/motion.h"
#include "core/rig/hold_creep.h"
#include "standin/rig/live_rig.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

namespace {

constexpr int kHolds = 100;
constexpr unsigned kFirstSeed = 81000;
constexpr double kHold_s = 10;

std::vector<rig::HeldSpeed> held(unsigned seed, bool creeping, double um_per_s, double rpm) {
    standin::LiveRigSetup setup;
    setup.believed = starter_train();
    setup.seed = seed;
    setup.samples_a_turn = 720;
    setup.from_rpm = rpm;
    setup.fault = creeping ? standin::RigFault::Creep : standin::RigFault::None;
    setup.creep_m_per_s = um_per_s * 1e-6;
    standin::LiveRig rig(setup);
    rig.ask({live::Request::Kind::SetSpeed, 1, rpm, 0, {}});
    live::TurnCutter cutter(rig.hello());
    RigTrace trace;
    trace.source = "held";
    for (const live::Message& message : rig.advance(kHold_s))
        if (const auto* block = std::get_if<live::Block>(&message))
            for (const live::Turn& turn : cutter.add(*block))
                append(turn, trace);
    const RigRun run = reduce(trace, setup.believed);
    return rig::holds_of(trace, run, MotionModel(setup.believed).chain().rigid_m);
}

} // namespace

class TstHolds : public QObject {
    Q_OBJECT

  private slots:
    void creep_is_found_and_a_still_train_passes() {
        const int holds = drawn(kHolds);
        int found = 0, wolf = 0;
        for (int i = 0; i < holds; ++i) {
            const unsigned seed = kFirstSeed + unsigned(i);
            const double um_per_s = 1 + 0.2 * double(i % 50), rpm = 3000 + 40.0 * double(i);
            const auto still = held(seed, false, 0, rpm), creeping = held(seed, true, um_per_s, rpm);
            QCOMPARE(still.size(), std::size_t(1));
            QCOMPARE(creeping.size(), std::size_t(1));
            NEAR(creeping[0].seconds, kHold_s, 0.3);
            wolf += !still[0].passes();
            found += !creeping[0].passes();
        }
        qInfo("%d of %d creeping holds found, %d of %d still ones called creeping", found, holds, wolf,
              holds);
        QVERIFY(found >= 0.95 * holds);
        QVERIFY(wolf < 0.05 * holds);
    }
};

QTEST_GUILESS_MAIN(TstHolds)
#include "tst_holds.moc"
