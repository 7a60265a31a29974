#include "core/rocker/rocker_geometry.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

namespace {

constexpr double kCup_m = 24e-3, kTip_m = 38e-3, kRod_m = 195e-3;

// Straight rocker lying level at a third of the lift, lifter and valve upright.
RockerGeometry level_rocker() {
    RockerGeometry g;
    g.arms_angle_rad = radians(170);
    g.tip_radius_m = 6e-3;
    g.lifter_x_m = -23.9e-3;
    g.lifter_y_m = -198e-3;
    g.lifter_angle_rad = radians(90);
    g.valve_x_m = 37.5e-3;
    g.valve_y_m = 0.4e-3;
    g.valve_angle_rad = radians(-90);
    return g;
}

RockerLinkage linkage(const RockerGeometry& g = level_rocker()) {
    return RockerLinkage(g, kCup_m, kTip_m, kRod_m);
}

} // namespace

class TestRocker : public QObject {
    Q_OBJECT
  private slots:
    // The same closure by another way: turn the rocker until the pushrod has its length.
    void travel_is_what_keeps_the_pushrod_s_length() {
        const RockerGeometry g = level_rocker();
        const auto cup = [](double turn) {
            return std::pair{-kCup_m * std::cos(turn), kCup_m * std::sin(turn)};
        };
        const auto turn_at = [&](double rise) {
            double low = -1, high = 1; // turning up lengthens the way to the seat
            for (int i = 0; i < 200; ++i) {
                const double mid = (low + high) / 2;
                const auto [x, y] = cup(mid);
                (std::hypot(x - g.lifter_x_m, y - g.lifter_y_m - rise) < kRod_m ? low : high) = mid;
            }
            return low;
        };
        const auto tip_y = [&](double turn) { return kTip_m * std::sin(kPi - turn - radians(170)); };
        for (const double rise : {0.0, 1e-3, 4e-3, 8e-3}) {
            const double wanted = -(tip_y(turn_at(rise)) - tip_y(turn_at(0)));
            NEAR(linkage().at(rise).travel_m, wanted, 1e-9);
        }
    }

    void ratio_is_near_that_of_the_arms_and_moves_with_lift() {
        const RockerMap map = map_of(linkage(), 8e-3);
        NEAR(map.travel(0), 0, 5e-9);
        NEAR(map.ratio(4e-3), kTip_m / kCup_m, 0.05);
        QVERIFY(std::abs(map.ratio(8e-3) - map.ratio(0)) > 1e-3);
        for (const double q : {0.5e-3, 3.3e-3, 7.7e-3})
            NEAR(map.travel(q), linkage().at(q).travel_m, 5e-9);
    }

    void the_mark_sweeps_out_and_back_over_the_stem() {
        const double start = linkage().at(0).contact_offset_m, mid = linkage().at(4e-3).contact_offset_m,
                     end = linkage().at(8e-3).contact_offset_m;
        QVERIFY(std::abs(start) < 2e-3 && std::abs(mid) < 2e-3 && std::abs(end) < 2e-3);
        QVERIFY(mid != start && mid != end);
        QVERIFY(std::abs(linkage().at(4e-3).pushrod_rad) < radians(3));
    }

    void mirrored_parts_move_alike() {
        RockerGeometry g = level_rocker();
        g.lifter_x_m = -g.lifter_x_m;
        g.valve_x_m = -g.valve_x_m;
        for (const double rise : {0.0, 5e-3}) {
            NEAR(linkage(g).at(rise).travel_m, linkage().at(rise).travel_m, 1e-12);
            NEAR(linkage(g).at(rise).contact_offset_m, linkage().at(rise).contact_offset_m, 1e-12);
            NEAR(linkage(g).at(rise).pushrod_rad, -linkage().at(rise).pushrod_rad, 1e-12);
        }
    }

    void a_longer_pushrod_closes_the_gap() {
        const double gap = linkage().gap_m();
        const double longer = RockerLinkage(level_rocker(), kCup_m, kTip_m, kRod_m + 0.1e-3).gap_m();
        NEAR(gap - longer, 0.1e-3 * kTip_m / kCup_m, 0.01e-3);
    }

    void a_linkage_that_cannot_close_says_why() {
        const InputProblem problem =
            problem_of([] { map_of(RockerLinkage(level_rocker(), kCup_m, kTip_m, 150e-3), 8e-3); });
        QCOMPARE(problem.location, "rocker.geometry");
        CONTAINS(problem.what, "cannot meet");
    }
};

QTEST_APPLESS_MAIN(TestRocker)
#include "tst_rocker.moc"
