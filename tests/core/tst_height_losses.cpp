// What a run loses by speed, height by height, on lifts whose durations are known by hand.
#include "core/rig/height_losses.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

namespace {

constexpr std::size_t kPoints = 2881; // a quarter of a degree, as a Motion's

// A triangle of so many mm and degrees at its foot; a bounce of 0.4 mm after it where asked for.
std::vector<double> triangle_m(double peak_mm, double foot_deg, bool bounces = false) {
    std::vector<double> out(kPoints, 0.0);
    for (std::size_t i = 0; i < kPoints; ++i) {
        const double deg = -360 + 0.25 * static_cast<double>(i);
        out[i] = 1e-3 * std::max(0.0, peak_mm * (1 - std::abs(deg) / (foot_deg / 2)));
        if (bounces && deg > foot_deg / 2 + 10 && deg < foot_deg / 2 + 20)
            out[i] = 0.4e-3;
    }
    return out;
}

RigRun run_of(const std::vector<std::pair<double, std::vector<double>>>& steps) {
    RigRun out;
    for (const auto& [rpm, lift_m] : steps) {
        RigStep step;
        step.speed_rpm = rpm;
        step.lift_m = lift_m;
        out.steps.push_back(std::move(step));
    }
    return out;
}

} // namespace

class TestHeightLosses : public QObject {
    Q_OBJECT
  private slots:
    void a_triangle_stays_above_a_height_as_long_as_it_must() {
        const auto lift = triangle_m(10, 300);
        NEAR(*duration_above_deg(lift, 1e-3), 270, 1e-6);
        NEAR(*duration_above_deg(lift, 2.345e-3), 300 * (1 - 0.2345), 1e-6);      // between grid points
        QVERIFY(!duration_above_deg(lift, 11e-3));                                // never reached
        QVERIFY(!duration_above_deg(std::vector<double>(kPoints, 1e-3), 0.5e-3)); // never left
        NEAR(*duration_above_deg(triangle_m(10, 300, true), 0.1e-3), 297, 1e-6);  // a bounce is none of it
    }

    void losses_are_against_the_slowest_step() {
        const RigRun run = run_of({{2000, triangle_m(9.5, 300)}, {6000, triangle_m(9.3, 294)}});
        const std::vector<double> heights = loss_heights_m(run);
        QCOMPARE(heights.size(), std::size_t{6}); // 9 mm is over nine tenths of the lift
        const auto losses = height_losses(run, heights);
        QCOMPARE(losses.size(), std::size_t{2});
        for (const auto& deg : losses[0].duration_deg)
            NEAR(*deg, 0, 1e-12);
        NEAR(losses[1].lift_loss_m, 0.2e-3, 1e-12);
        for (std::size_t h = 0; h < heights.size(); ++h)
            NEAR(*losses[1].duration_deg[h],
                 300 * (1 - heights[h] / 9.5e-3) - 294 * (1 - heights[h] / 9.3e-3), 1e-6);
        QVERIFY(loss_heights_m(RigRun{}).empty() && height_losses(RigRun{}, heights).empty());
    }

    void a_run_is_useful_up_to_where_the_first_duration_goes() {
        // 300 degrees at the foot, then 3 less, then 9 less: 4 are lost a sixth of the way on
        const RigRun run =
            run_of({{2000, triangle_m(10, 300)}, {6000, triangle_m(10, 297)}, {7200, triangle_m(10, 291)}});
        const auto losses = height_losses(run, {1e-9});
        NEAR(*useful_rpm(losses, {1e-9}, {4, 4, 0}), 6200, 1e-2);
        NEAR(*useful_rpm(losses, {1e-9}, {1.5, 4, 0}), 4000, 1e-2);
        QVERIFY(!useful_rpm(losses, {1e-9}, {10, 4, 0}));
        // Below the height that limits check nothing is judged.
        QVERIFY(!useful_rpm(losses, {1e-9}, {4, 4, 1.27e-3}));
        // A valve that stays open longer is no better, and has a bound of its own.
        const RigRun longer = run_of({{2000, triangle_m(10, 300)}, {6000, triangle_m(10, 308)}});
        NEAR(*useful_rpm(height_losses(longer, {1e-9}), {1e-9}, {10, 4, 0}), 4000, 1e-2);
        QVERIFY(!useful_rpm(height_losses(longer, {1e-9}), {1e-9}, {4, 10, 0}));
        // One that no longer crosses the height is over at once.
        const RigRun gone = run_of({{2000, triangle_m(10, 300)}, {6000, triangle_m(4, 300)}});
        NEAR(*useful_rpm(height_losses(gone, {5e-3}), {5e-3}, {10, 4, 0}), 2000, 1e-9);
    }

    void what_durations_may_change_is_the_limits() {
        const Limit* usual = LimitsInForce().find(Metric::DurationChange);
        NEAR(durations_kept(LimitsInForce()).longer_deg, usual->above, 1e-12);
        NEAR(durations_kept(LimitsInForce()).shorter_deg, -*usual->below, 1e-12);
        NEAR(durations_kept(LimitsInForce()).from_m, LimitsInForce().check_lift_m, 1e-12);
        NEAR(durations_kept(LimitsInForce(std::vector<Limit>{})).longer_deg, DurationsKept{}.longer_deg,
             1e-12);
    }
};

QTEST_GUILESS_MAIN(TestHeightLosses)
#include "tst_height_losses.moc"
