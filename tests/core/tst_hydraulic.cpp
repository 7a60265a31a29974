// Hydraulic followers: what the oil does must come out of the equations alone.
#include "core/dynamics/chamber.h"
#include "core/motion/sweep.h"
#include "io/train/train_file.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

namespace {

Train lifter_train() {
    return io::read_train(source_file("tests/trains/ashgill-a22-intake-hydraulic.train.json"));
}
Train adjuster_train() {
    return io::read_train(source_file("tests/trains/ravenmoor-t14-intake.train.json"));
}
Train bucket_train() {
    Train t = with_layout(starter_train(), Layout::Bucket);
    t.lifter->mass_kg = 0.08;
    t.lifter->hydraulic = lifter_train().lifter->hydraulic;
    return t;
}
HydraulicFollower& oil(Train& t) {
    return *t.lifter->hydraulic;
}

} // namespace

class TestHydraulic : public QObject {
    Q_OBJECT
  private slots:
    void at_rest_the_oil_holds_its_supply_and_the_lash_is_nil_data() {
        QTest::addColumn<int>("kind");
        QTest::newRow("lifter") << 0;
        QTest::newRow("adjuster") << 1;
        QTest::newRow("bucket") << 2;
    }
    void at_rest_the_oil_holds_its_supply_and_the_lash_is_nil() {
        QFETCH(int, kind);
        const Train t = kind == 0 ? lifter_train() : kind == 1 ? adjuster_train() : bucket_train();
        NEAR(t.effective_lash_m(), 0, 0);
        const Motion m = simulate_one(t, 900);
        QVERIFY(m.periodic);
        const Chamber chamber = chamber_of(*t.lifter->hydraulic);
        const auto& pressure = m[Channel::Pressure];
        NEAR(channel_at(pressure, 355), chamber.supply_Pa, 0.02 * chamber.supply_Pa); // long refilled
        QVERIFY(channel_at(pressure, 0) > 3 * chamber.supply_Pa); // carries the spring at full lift
        NEAR(channel_at(m[Channel::TipForce], 355),
             chamber.supply_force_N() / (kind == 0   ? t.rocker_map().ratio(0)
                                         : kind == 1 ? t.rocker_map().ratio(0) - 1
                                                     : 1),
             3);
        QVERIFY(*m.metrics[Metric::HeldOpen] < 1e-6);
    }

    // Closed form: the oil under load leaks kl (P - Ps); over the event the plunger sinks by that volume.
    void leak_down_over_an_event_is_the_oil_that_leaks() {
        const Train t = lifter_train();
        const Motion m = simulate_one(t, 1500);
        const Chamber c = chamber_of(*t.lifter->hydraulic);
        const auto& e = m[Channel::Extension];
        const auto& pressure = m[Channel::Pressure];
        std::size_t from = 0, to = kGridPoints - 1; // between the moments when the pressure leaves the supply
        while (pressure[from] < 1.5 * c.supply_Pa)
            ++from;
        while (pressure[to] < 1.5 * c.supply_Pa)
            --to;
        double leaked = 0;
        for (std::size_t i = from; i < to; ++i)
            leaked += c.leak_m3_per_s_per_Pa * (pressure[i] - c.supply_Pa) * kGridStep_crank_deg / (6 * 1500);
        QVERIFY(leaked > 0);
        NEAR((e[from] - e[to]) * c.area_m2, leaked, 0.1 * leaked);
    }

    void more_leak_gives_less_lift_and_air_makes_it_soft() {
        Train t = lifter_train();
        const auto loss = [&] { return *simulate_one(t, 3000).metrics[Metric::LiftLoss]; };
        const double usual = loss();
        oil(t).leak_m3_per_s_per_Pa *= 4;
        QVERIFY(loss() > usual + 1e-6);
        t = lifter_train();
        oil(t).air_fraction = 0.05;
        QVERIFY(loss() > usual + 1e-6);
    }

    void past_its_speed_the_adjuster_pumps_up_and_holds_the_valve_open() {
        const Train t = adjuster_train();
        const std::vector<Motion> m = MotionModel(t).run({6000, 7600});
        QVERIFY(*m[0].metrics[Metric::HeldOpen] < 1e-6);
        QVERIFY(*m[1].metrics[Metric::HeldOpen] > 0.1e-3);
        QVERIFY(!m[1].metrics[Metric::Seating].has_value()); // never seats: no touch, not zero
        QVERIFY(m[1][Channel::Extension].back() > m[0][Channel::Extension].back() + 0.1e-3);
        QVERIFY(m[1][Channel::Extension].back() < oil(const_cast<Train&>(t)).travel_m + 10e-6);
    }

    void the_extension_must_settle_not_only_the_lift() {
        const Train t = lifter_train();
        CycleRule rule;
        const Motion m = simulate_one(t, 2500);
        QVERIFY(m.cycles <= rule.most_with_oil);
        NEAR(m[Channel::Extension].front(), m[Channel::Extension].back(), rule.settled_extension_m);
    }

    // The widest step that the check valve is followed with must not show.
    void halving_the_step_changes_lift_by_less_than_a_micrometre() {
        for (const Train& t : {lifter_train(), adjuster_train(), bucket_train()}) {
            const RigidMotion rigid(t, curve_of(t.lobe));
            const std::size_t steps = substeps_for(chain_of(t, rigid), 5000);
            std::vector<Motion> m;
            for (const std::size_t substeps : {steps, 2 * steps})
                run_speeds(chain_of(t, rigid, substeps), {5000},
                           [&](Motion&& x) { m.push_back(std::move(x)); });
            for (std::size_t i = 0; i < kGridPoints; i += 3)
                NEAR(m[0][Channel::Lift][i], m[1][Channel::Lift][i], 1e-6);
        }
    }

    void energy_books_balance_with_oil_in_the_chain() {
        for (const Train& t : {lifter_train(), adjuster_train(), bucket_train()}) {
            const Motion m = simulate_one(t, 5000);
            QVERIFY(m.periodic);
            double in = 0, out = 0;
            for (std::size_t i = 0; i < kGridSteps; ++i) {
                in += m[Channel::PowerIn][i];
                out += m[Channel::Loss][i];
            }
            NEAR(in, out, 0.005 * in);
        }
    }

    void trains_that_oil_cannot_be_in_are_refused() {
        Train t = with_layout(starter_train(), Layout::Rocker);
        t.lifter = Lifter{0.05, lifter_train().lifter->hydraulic};
        CONTAINS(problem_of([&] { MotionModel{t}; }).what, "no place for a hydraulic follower");
    }
};

QTEST_APPLESS_MAIN(TestHydraulic)
#include "tst_hydraulic.moc"
