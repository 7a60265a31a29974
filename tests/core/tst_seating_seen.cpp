#include "core/calibration/calibrated_limit.h"
#include "core/calibration/run_reading.h"
#include "core/calibration/seating_seen.h"
#include "made_run.h"
#include "support.h"

#include <cmath>

using namespace bathmos;
using namespace bathmos::test;

namespace {

const std::vector<double> kSpeeds_rpm = {3000, 3500, 4000, 4500, 5000, 5500, 6000};

SpeedMetrics landing(double speed_rpm, double seating_m_per_s) {
    SpeedMetrics out{speed_rpm, {}};
    out.metrics[Metric::Seating] = seating_m_per_s;
    return out;
}

// A model that lands at 0.2 m/s for each thousand rev/min.
std::vector<SpeedMetrics> model() {
    std::vector<SpeedMetrics> out;
    for (const double speed_rpm : kSpeeds_rpm)
        out.push_back(landing(speed_rpm, 0.2e-3 * speed_rpm));
    return out;
}

// A run that lands so many times as hard.
RigRun run_landing(double factor) {
    RigRun out;
    for (const SpeedMetrics& row : model()) {
        RigStep step;
        step.speed_rpm = row.speed_rpm;
        step.used = 20;
        step.metrics[Metric::Seating] = factor * *row.metrics[Metric::Seating];
        step.repeat_deviation[Metric::Seating] = 0.02;
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
        const auto factors = seating_seen(model(), {&run});
        QVERIFY(std::ranges::is_sorted(factors, {}, &SpeedFactor::speed_rpm));
        for (const double speed_rpm : {3500.0, 4250.0, 5000.0, 5750.0})
            NEAR(factor_at(factors, speed_rpm), 1.12, 0.03);
        NEAR(factors.front().factor, 1, 0.003);
        NEAR(factors.back().factor, 1, 0.003);
        QVERIFY(factors.front().speed_rpm < 2000 && factors.back().speed_rpm > 9000);
    }

    void a_run_that_lands_as_the_model_does_changes_nothing() {
        const RigRun run = run_landing(1);
        for (const SpeedFactor& one : seating_seen(model(), {&run}))
            NEAR(one.factor, 1, 1e-9);
    }

    void a_step_whose_cycles_differ_is_hardly_believed() {
        RigRun run = run_landing(1);
        run.steps[3].metrics[Metric::Seating] = 1.5 * *run.steps[3].metrics[Metric::Seating];
        const double sure = factor_at(seating_seen(model(), {&run}), 4500);
        QVERIFY(sure > 1.08); // as one reading among its neighbours
        run.steps[3].repeat_deviation[Metric::Seating] = 2.0;
        NEAR(factor_at(seating_seen(model(), {&run}), 4500), 1, 0.03);
    }

    void steps_from_the_onset_on_and_those_that_do_not_land_say_nothing() {
        RigRun run = run_landing(1.2);
        run.onset.onset.speed_rpm = 3000;
        QVERIFY(seating_seen(model(), {&run}).empty());
        RigRun open = run_landing(1.2);
        for (RigStep& step : open.steps)
            step.metrics[Metric::Seating].reset();
        QVERIFY(seating_seen(model(), {&open}).empty());
    }

    void two_runs_of_a_train_are_both_heard() {
        const RigRun soft = run_landing(1), hard = run_landing(1.2);
        NEAR(factor_at(seating_seen(model(), {&soft, &hard}), 4500), std::sqrt(1.2), 0.01);
    }

    void the_calibrated_limit_and_its_draws_are_judged_by_the_landing_that_was_seen() {
        const Train train = starter_train();
        RigRun run = run_of(train, kSpeeds_rpm);
        const std::vector<Motion> motions = MotionModel(train).run(kSpeeds_rpm);
        for (std::size_t i = 0; i < motions.size(); ++i) {
            run.steps[i].metrics[Metric::Seating] = 1.15 * *motions[i].metrics[Metric::Seating];
            run.steps[i].repeat_deviation[Metric::Seating] = 0.01;
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
        RunReading reading;
        reading.limit_rpm = found.limit.speed_rpm;
        QVERIFY(!landing_moves_limit(reading)); // nothing to hold it against
        reading.train_limit_rpm = found.train_limit_rpm;
        QVERIFY(landing_moves_limit(reading));
        reading.limit_rpm = 1.005 * *found.train_limit_rpm;
        QVERIFY(!landing_moves_limit(reading));
    }
};

QTEST_GUILESS_MAIN(TestSeatingSeen)
#include "tst_seating_seen.moc"
