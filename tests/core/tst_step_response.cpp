// One number stepped from run to run, against closed forms: exact parabolas, optima inside and outside,
// noise.
#include "core/rig/step_response.h"
#include "support.h"

#include <random>

using namespace bathmos;
using namespace bathmos::test;

class TstStepResponse : public QObject {
    Q_OBJECT

  private slots:
    void three_runs_give_their_parabola() {
        const auto rpm = [](double x) { return 7500 + 4 * (x - 300) - 0.05 * (x - 300) * (x - 300); };
        const StepResponse found =
            step_response({{260, rpm(260), 20}, {320, rpm(320), 20}, {400, rpm(400), 20}});
        NEAR(found.curvature, -0.1, 1e-9);
        NEAR(found.slope, 4 - 0.1 * 30, 1e-9); // at the middle, 330
        QVERIFY(found.best_at.has_value());
        NEAR(*found.best_at, 340, 1e-6);
        NEAR(found.best_rpm, rpm(340), 1e-6);
        NEAR(found.next_at, 340, 1e-6);
    }
    void a_slope_without_an_optimum_asks_for_one_more_step() {
        const StepResponse up = step_response({{300, 7000, 10}, {350, 7100, 10}, {400, 7200, 10}});
        QVERIFY(!up.best_at && up.known_slope);
        NEAR(up.next_at, 450, 1e-9);
        NEAR(up.slope, 2, 1e-9);
        NEAR(up.slope_sd, 10 / std::sqrt(2.0) / 50, 1e-9); // by least squares over -50, 0, 50
        const StepResponse down = step_response({{300, 7200, 10}, {350, 7100, 10}, {400, 7000, 10}});
        NEAR(down.next_at, 250, 1e-9);
    }
    void an_optimum_is_claimed_only_where_it_stands_out() {
        // The same arch, known to less than it is high.
        const StepResponse sure = step_response({{300, 7000, 8}, {350, 7060, 8}, {400, 7000, 8}});
        QVERIFY(sure.best_at.has_value());
        const StepResponse unsure = step_response({{300, 7000, 60}, {350, 7060, 60}, {400, 7000, 60}});
        QVERIFY(!unsure.best_at && !unsure.known_slope);
        CONTAINS(unsure.why, "neither");
        QVERIFY(unsure.next_at > 300 && unsure.next_at < 400);
    }
    void what_it_claims_is_so_within_its_deviation() {
        std::mt19937 engine(4);
        std::normal_distribution<double> noise(0, 15);
        int inside = 0, claimed = 0;
        for (int round = 0; round < 400; ++round) {
            std::vector<SteppedRun> runs;
            for (const double at : {280.0, 320.0, 360.0, 400.0})
                runs.push_back({at, 7500 - 0.08 * (at - 335) * (at - 335) + noise(engine), 15});
            const StepResponse found = step_response(runs);
            if (!found.best_at)
                continue;
            ++claimed;
            inside += std::abs(*found.best_at - 335) < 2 * found.best_at_sd;
        }
        QVERIFY(claimed > 390);
        QVERIFY2(inside > 0.9 * claimed && inside < claimed, qPrintable(QString::number(inside)));
    }
    void too_few_steps_are_refused() {
        CONTAINS(problem_of([] {
                     step_response({{300, 7000, 10}, {350, 7100, 10}, {350, 7090, 10}});
                 }).what,
                 "three");
        CONTAINS(problem_of([] {
                     step_response({{300, 7000, 0}, {350, 7100, 10}, {360, 7090, 10}});
                 }).what,
                 "nothing");
    }
};

QTEST_APPLESS_MAIN(TstStepResponse)
#include "tst_step_response.moc"
