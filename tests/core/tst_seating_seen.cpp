#include "core/calibration/calibrated_limit.h"
#include "core/calibration/seating_seen.h"
#include "made_run.h"
#include "support.h"

#include <cmath>

using namespace bathmos;
using namespace bathmos::test;

namespace {

const std::vector<double> kSpeeds_rpm = {3000, 3500, 4000, 4500, 5000, 5500, 6000};

// A valve that opens 10 mm and comes down on its seat at one velocity, its kinematic lift the same.
std::vector<double> curve(double speed_rpm, double lands_m_per_s) {
    std::vector<double> out(kGridPoints);
    const double per_deg = lands_m_per_s / (6 * speed_rpm);
    for (std::size_t i = 0; i < kGridPoints; ++i) {
        const double deg = std::abs(-360 + kGridStep_crank_deg * static_cast<double>(i));
        out[i] = std::clamp(per_deg * (130.25 - deg), -5e-6, 10e-3);
    }
    return out;
}

// A model that lands at 0.2 m/s for each thousand rev/min.
std::vector<ModelLift> model() {
    std::vector<ModelLift> out;
    for (const double speed_rpm : kSpeeds_rpm)
        out.push_back({speed_rpm, curve(speed_rpm, 0.2e-3 * speed_rpm)});
    return out;
}

std::vector<double> rigid() {
    return curve(4000, 2);
}

// A run that lands so many times as hard.
RigRun run_landing(double factor) {
    RigRun out;
    out.noise_m = 2e-6;
    for (const double speed_rpm : kSpeeds_rpm) {
        RigStep step;
        step.speed_rpm = speed_rpm;
        step.used = 20;
        step.lift_m = curve(speed_rpm, factor * 0.2e-3 * speed_rpm);
        out.steps.push_back(step);
    }
    return out;
}

double factor_at(const std::vector<SpeedFactor>& factors, double speed_rpm) {
    const auto nearest = std::ranges::min_element(
        factors, {}, [&](const SpeedFactor& one) { return std::abs(one.speed_rpm - speed_rpm); });
    return nearest->factor;
}

LimitsInForce landing_at_most(double m_per_s) {
    return {std::vector<Limit>{{Metric::Seating, "seating", m_per_s}}};
}

} // namespace

class TestSeatingSeen : public QObject {
    Q_OBJECT
  private slots:
    void a_run_that_lands_harder_is_believed_where_it_ran_and_not_far_from_there() {
        const RigRun run = run_landing(1.12);
        const auto factors = seating_seen(model(), rigid(), {&run});
        QVERIFY(std::ranges::is_sorted(factors, {}, &SpeedFactor::speed_rpm));
        for (const double speed_rpm : {3500.0, 4250.0, 5000.0, 5750.0})
            NEAR(factor_at(factors, speed_rpm), 1.12, 0.03);
        NEAR(factors.front().factor, 1, 0.003);
        NEAR(factors.back().factor, 1, 0.003);
        QVERIFY(factors.front().speed_rpm < 2000 && factors.back().speed_rpm > 9000);
    }

    void a_run_that_lands_as_the_model_does_changes_nothing() {
        const RigRun run = run_landing(1);
        for (const SpeedFactor& one : seating_seen(model(), rigid(), {&run}))
            NEAR(one.factor, 1, 1e-9);
    }

    void noise_of_few_cycles_is_hardly_believed() {
        RigRun run = run_landing(1);
        run.steps[3].lift_m = curve(4500, 1.4 * 0.9);
        QVERIFY(factor_at(seating_seen(model(), rigid(), {&run}), 4500) > 1.06); // one among its neighbours
        run.noise_m = 60e-6;
        NEAR(factor_at(seating_seen(model(), rigid(), {&run}), 4500), 1, 0.05);
    }

    // A valve that comes down on its ramp is braked there just before the seat: the last degree tells.
    void what_is_further_off_the_seat_does_not_count() {
        RigRun run = run_landing(1);
        for (RigStep& step : run.steps)
            for (double& lift_m : step.lift_m)
                if (lift_m > 0.11e-3)
                    lift_m = std::min(10e-3, lift_m + 4 * (lift_m - 0.11e-3));
        for (const SpeedFactor& one : seating_seen(model(), rigid(), {&run}))
            NEAR(one.factor, 1, 1e-9);
    }

    void steps_from_the_onset_on_and_those_that_do_not_land_say_nothing() {
        RigRun run = run_landing(1.2);
        run.onset.onset.speed_rpm = 3000;
        QVERIFY(seating_seen(model(), rigid(), {&run}).empty());
        RigRun open = run_landing(1.2);
        for (RigStep& step : open.steps)
            for (double& lift_m : step.lift_m)
                lift_m += 50e-6;
        QVERIFY(seating_seen(model(), rigid(), {&open}).empty());
    }

    void two_runs_of_a_train_are_both_heard() {
        const RigRun soft = run_landing(1), hard = run_landing(1.2);
        NEAR(factor_at(seating_seen(model(), rigid(), {&soft, &hard}), 4500), std::sqrt(1.2), 0.01);
    }

    void the_calibrated_limit_and_its_draws_are_judged_by_the_landing_that_was_seen() {
        const Train train = starter_train();
        const std::vector<Motion> motions = MotionModel(train).run(kSpeeds_rpm);
        RigRun run = run_of(train, kSpeeds_rpm, 0);
        for (RigStep& step : run.steps) { // the last 0.3 mm in less time
            const double at_rpm = step.speed_rpm;
            const auto& lift_m = motions[static_cast<std::size_t>((at_rpm - 3000) / 500)][Channel::Lift];
            for (std::size_t i = kGridSteps / 2; i + 1 < kGridPoints; ++i)
                if (lift_m[i] > 0 && lift_m[i] < 0.3e-3)
                    step.lift_m[i] = 1.15 * lift_m[i];
        }
        Calibration c;
        c.train = train;
        c.draws = {train, train, train, train};
        const LimitsInForce limits = landing_at_most(*motions[5].metrics[Metric::Seating]); // at 5500
        const CalibratedLimit found = limit_of(c, {&run}, limits);
        NEAR(*found.train_limit_rpm, 5500, 60); // of its rows alone
        const Sweep by_itself = sweep(train, {3000, 7000, 100}, limits);
        NEAR(*found.train_limit_rpm, *by_itself.summary.limit.speed_rpm, 15);
        QVERIFY(*found.limit.speed_rpm < 0.96 * *found.train_limit_rpm);
        const Motion there = simulate_one(train, *found.limit.speed_rpm);
        NEAR(*there.metrics[Metric::Seating] * 1.15 / limits.list[0].above, 1,
             0.06);                                       // as sure as slow landings are
        NEAR(*found.p50_rpm, *found.limit.speed_rpm, 40); // each draw is held against the run, too
        QVERIFY(*found.p10_rpm < *found.limit.speed_rpm && *found.limit.speed_rpm < *found.p90_rpm);
        QVERIFY(landing_moves_limit(found.limit.speed_rpm, found.train_limit_rpm));
        QVERIFY(!landing_moves_limit(found.limit.speed_rpm, std::nullopt)); // nothing to hold it against
        QVERIFY(!landing_moves_limit(1.005 * *found.train_limit_rpm, found.train_limit_rpm));
    }
};

QTEST_GUILESS_MAIN(TestSeatingSeen)
#include "tst_seating_seen.moc"
