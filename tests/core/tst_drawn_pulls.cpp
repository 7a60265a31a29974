// Breaks and differences counted over many drawn engines, whose truth is known. Hundreds of pulls: not run
// under sanitizers.
#include "core/dyno/pull_compare.h"
#include "core/made_pull.h"
#include "core/math/robust.h"

#include <QTest>

using namespace bathmos;
using namespace bathmos::test;

namespace {

Shape drawn(unsigned seed) {
    std::mt19937_64 dice(seed);
    const auto evenly = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(dice);
    };
    Shape out;
    out.torque_Nm = evenly(120, 400);
    out.peak_rpm = evenly(4600, 6400);
    out.width_rpm = evenly(3900, 6500);
    out.wave = evenly(0, 0.008);
    out.wave_rpm = evenly(1500, 2400);
    out.phase = evenly(0, 1);
    return out;
}

} // namespace

class TstDrawnPulls : public QObject {
    Q_OBJECT

  private slots:
    void a_break_is_found_where_it_is() {
        int found = 0;
        std::vector<double> off, depth;
        for (unsigned seed = 0; seed < 30; ++seed) {
            const double at = 6800 + 40.0 * seed;
            const Shape shape = drawn(seed);
            const PullAnalysis a = analyse(make_pull(shape, {{at, 180, 0.05}}, 0.004, 230, 900 + seed));
            if (!a.first_break())
                continue;
            ++found;
            off.push_back(a.first_break()->speed_rpm - at);
            depth.push_back(a.first_break()->depth_W / shape.power(at + 180));
            QVERIFY(a.first_break()->confidence >= kBreakConfidence);
        }
        QVERIFY2(found >= 29, qPrintable(QString::number(found)));
        NEAR(median(off), 0, 25);
        QVERIFY(std::all_of(off.begin(), off.end(), [](double o) { return std::abs(o) < 130; }));
        NEAR(median(depth), 0.05, 0.008);
    }

    // Against the state before, on another day: the same engine, or one that loses 4 to 12 % over a long way.
    void a_slow_loss_is_found_against_the_state_before_and_none_is_made_up() {
        int made_up = 0, found = 0, near = 0;
        for (unsigned seed = 0; seed < 60; ++seed) {
            std::mt19937_64 dice(300 + seed);
            const auto evenly = [&](double a, double b) {
                return std::uniform_real_distribution<double>(a, b)(dice);
            };
            const double noise = seed % 2 ? 0.003 : 0.006;
            const Shape before = drawn(seed);
            Shape now = before;
            now.torque_Nm *= evenly(0.97, 1.03);
            const double at = evenly(6300, 7300), over = evenly(800, 2200), share = evenly(0.04, 0.12);
            const PullAnalysis a = analyse(make_pull(before, {}, noise, 230, 1000 + seed)),
                               same = analyse(make_pull(now, {}, noise, 230, 2000 + seed)),
                               less = analyse(make_pull(now, {{at, over, share}}, noise, 230, 3000 + seed));
            made_up += break_against({&a}, {&same}) ? 1 : 0;
            if (const auto b = break_against({&a}, {&less})) {
                ++found;
                near += std::abs(b->speed_rpm - at) < 250;
            }
        }
        qInfo("slow losses: %d of 60 found, %d within 250 rev/min, %d made up", found, near, made_up);
        QVERIFY2(made_up <= 1, qPrintable(QString::number(made_up)));
        QVERIFY2(found >= 51, qPrintable(QString::number(found)));
        QVERIFY2(near >= 45, qPrintable(QString::number(near)));
    }

    void a_smooth_rollover_is_no_break() {
        int claimed = 0;
        for (unsigned seed = 0; seed < 60; ++seed) {
            const double noise = seed % 3 == 0 ? 0.002 : seed % 3 == 1 ? 0.005 : 0.012;
            claimed += analyse(make_pull(drawn(seed), {}, noise, 230, 400 + seed)).first_break() ? 1 : 0;
        }
        QVERIFY2(claimed <= 1, qPrintable(QString::number(claimed)));
    }

    void a_pull_noisy_from_the_start_claims_nothing_it_cannot_see() {
        int claimed = 0, far = 0;
        for (unsigned seed = 0; seed < 20; ++seed) {
            const PullAnalysis a = analyse(make_pull({}, {{7500, 150, 0.02}}, 0.02, 230, 50 + seed));
            if (const PowerBreak* b = a.first_break()) {
                ++claimed;
                far += std::abs(b->speed_rpm - 7500) > 300 ? 1 : 0;
            }
            QVERIFY(!a.rough_from_rpm); // as rough everywhere
        }
        QVERIFY2(claimed <= 3 && far <= 1, qPrintable(QStringLiteral("%1 %2").arg(claimed).arg(far)));
    }

    void the_difference_of_two_states_has_the_band_of_their_scatter() {
        int covered = 0, all = 0;
        for (unsigned seed = 0; seed < 40; ++seed) {
            std::mt19937_64 dice(seed);
            std::normal_distribution<double> normal;
            std::vector<PullAnalysis> before, after;
            for (unsigned k = 0; k < 3; ++k)
                for (auto* to : {&before, &after}) {
                    Shape shape;
                    shape.torque_Nm *= 1 + 0.004 * normal(dice) + (to == &after ? 0.02 : 0);
                    to->push_back(analyse(make_pull(shape, {}, 0.003, 150, static_cast<unsigned>(dice()))));
                }
            const auto pointers = [](const std::vector<PullAnalysis>& list) {
                std::vector<const PullAnalysis*> out;
                for (const PullAnalysis& a : list)
                    out.push_back(&a);
                return out;
            };
            const StateDifference d = difference(state_curve(pointers(before)), state_curve(pointers(after)));
            double truth = 0;
            for (double rpm : d.speed_rpm)
                truth += 0.02 * Shape{}.power(rpm) / static_cast<double>(d.speed_rpm.size());
            QVERIFY(d.all.plus_minus_W);
            ++all;
            covered += std::abs(d.all.gain_W - truth) < *d.all.plus_minus_W ? 1 : 0;
            NEAR(d.area_W_rpm, d.all.gain_W * (d.all.to_rpm - d.all.from_rpm), 1e-6);
            QCOMPARE(d.band_W.size(), d.gain_W.size());
        }
        QVERIFY2(covered >= 0.87 * all, qPrintable(QString::number(covered))); // 95 % within counting error
    }

    void the_speed_of_a_break_is_known_to_what_it_says() {
        int within = 0, all = 0;
        for (unsigned seed = 0; seed < 30; ++seed) {
            const PullAnalysis a =
                analyse(make_pull(drawn(seed), {{7300, 200, 0.05}}, 0.005, 230, 70 + seed));
            if (const PowerBreak* b = a.first_break()) {
                ++all;
                within += std::abs(b->speed_rpm - 7300) < 2.5 * b->sd_rpm ? 1 : 0;
            }
        }
        QVERIFY2(all >= 28 && within >= 0.8 * all,
                 qPrintable(QStringLiteral("%1 of %2").arg(within).arg(all)));
    }
};

QTEST_APPLESS_MAIN(TstDrawnPulls)
#include "tst_drawn_pulls.moc"
