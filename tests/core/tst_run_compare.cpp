// Runs against each other: gains with what they are known to, repeats, and what differs that is not the
// change.
#include "core/problem/input_error.h"
#include "core/rig/run_compare.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

namespace {

RigRun run_with(std::optional<double> edge_rpm, double half_step_rpm = 50) {
    RigRun out;
    out.onset.onset = {edge_rpm, Metric::Bounce, half_step_rpm};
    out.noise_m = 2e-6;
    out.phase_deg = 37;
    out.limits_name = "usual";
    out.steps.resize(2);
    out.steps[1].speed_rpm = 9000;
    return out;
}

bool tells(const RunComparison& comparison, const std::string& rule) {
    return std::any_of(comparison.told.begin(), comparison.told.end(),
                       [&](const Told& one) { return one.rule == rule; });
}

} // namespace

class TstRunCompare : public QObject {
    Q_OBJECT

    Train before_ = starter_train(), after_ = starter_train();

  private slots:
    void initTestCase() { after_.valve.mass_kg *= 0.9; }

    void a_gain_is_the_difference_with_half_steps_in_squares() {
        const RigRun a = run_with(7000, 30), b = run_with(7300, 40);
        const RunComparison compared = compare_runs({{&a, &before_, "a"}, {&b, &after_, "b"}});
        QCOMPARE(compared.gains.size(), std::size_t(1));
        NEAR(*compared.gains[0].rpm, 300, 1e-9);
        NEAR(compared.gains[0].sd_rpm, 50, 1e-9);
        QVERIFY(compared.gains[0].claimed);
        QVERIFY(compared.told.empty() && !compared.repeats_rpm);
        const RigRun near = run_with(7090, 40);
        const EdgeGain small = compare_runs({{&a, &before_, "a"}, {&near, &after_, "b"}}).gains[0];
        NEAR(*small.rpm, 90, 1e-9);
        QVERIFY(!small.claimed); // within twice 50
    }
    void runs_of_equal_trains_are_repeats_and_widen_every_gain() {
        const RigRun a = run_with(7000), again = run_with(7200), b = run_with(7500);
        const RunComparison compared =
            compare_runs({{&a, &before_, "a"}, {&b, &after_, "b"}, {&again, &before_, "a again"}});
        NEAR(*compared.repeats_rpm, 200 / std::sqrt(2.0), 1e-9);
        QCOMPARE(compared.gains.size(), std::size_t(2)); // a repeat is no gain
        NEAR(compared.gains[0].sd_rpm, std::sqrt(2 * 50 * 50 + 2 * 20000), 1e-9);
        QVERIFY(compared.gains[0].claimed && !compared.gains[1].claimed); // 500 and 300 of twice 212
        QVERIFY(compared.gains[1].from == 1 && compared.gains[1].to == 2);
        NEAR(*compared.gains[1].rpm, -300, 1e-9);
    }
    void a_run_without_an_edge_has_no_gain_and_is_told() {
        const RigRun a = run_with(7000), b = run_with({});
        const RunComparison compared = compare_runs({{&a, &before_, "a"}, {&b, &after_, "b"}});
        QVERIFY(!compared.gains[0].rpm && !compared.gains[0].claimed);
        QVERIFY(tells(compared, "no_edge"));
        CONTAINS(compared.told[0].text.in_words(), "9000");
    }
    void what_differs_beside_the_change_is_told() {
        const RigRun a = run_with(7000);
        RigRun b = run_with(7400);
        b.scale_ratio = 1.02;
        b.phase_deg = 719.5 + 37 - 715; // 4.5 degrees on, round the turn
        b.noise_m = 6e-6;
        b.limits_name = "by force";
        Train loose = after_;
        loose.lash_m = before_.lash_m + 0.05e-3;
        const RunComparison compared = compare_runs({{&a, &before_, "a"}, {&b, &loose, "b"}});
        for (const char* rule : {"scale", "phase", "noise", "limits", "lash"})
            QVERIFY2(tells(compared, rule), rule);
        RigRun turned = run_with(7400);
        turned.phase_deg = 37 + 719.7; // nearly a whole turn is hardly anything
        QVERIFY(compare_runs({{&a, &before_, "a"}, {&turned, &after_, "b"}}).told.empty());
    }
    void oil_and_zero_are_held_against_each_other_at_speeds_that_both_have() {
        RigRun a = run_with(7000), b = run_with(7400);
        for (RigRun* run : {&a, &b}) {
            run->steps[0].speed_rpm = 5000;
            run->steps[0].oil_C = 84;
        }
        const auto compared = [&] { return compare_runs({{&a, &before_, "a"}, {&b, &after_, "b"}}); };
        b.steps[0].oil_C = 88; // within what oil has from minute to minute
        b.steps[0].zero_mm = b.steps[1].zero_mm = 0.03;
        QVERIFY(compared().told.empty());
        b.steps[0].oil_C = 96;
        QVERIFY(tells(compared(), "oil"));
        CONTAINS(compared().told[0].text.in_words(), "84 and 96");
        b.steps[0].speed_rpm = 5500; // not the same speed: nothing to compare
        QVERIFY(!tells(compared(), "oil"));
        b.steps[1].zero_mm = 0.2;
        QVERIFY(tells(compared(), "zero"));
        CONTAINS(compared().told[0].text.in_words(), "0.2");
        b.steps[1].zero_carried = true; // not its own
        QVERIFY(!tells(compared(), "zero"));
    }
    void one_run_is_no_comparison() {
        const RigRun a = run_with(7000);
        QVERIFY(contains(problem_of([&] { compare_runs({{&a, &before_, "a"}}); }).what, "only one"));
    }
};

QTEST_APPLESS_MAIN(TstRunCompare)
#include "tst_run_compare.moc"
