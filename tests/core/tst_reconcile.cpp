// One lobe as two machines gauged it: angle, scale, base circle and runout come back with honest deviations,
// planted faults are named, and two honest machines agree.
#include "core/lobe/reconcile.h"
#include "core/problem/input_error.h"
#include "core/units/units.h"
#include "support.h"

#include <cmath>
#include <random>

using namespace bathmos;
using namespace bathmos::test;

namespace {

// What a machine does to a lobe that it gauges.
struct Machine {
    double noise_m = 1e-6, shift_deg = 0, scale = 1, offset_m = 0, runout_m = 0, runout_at_deg = 0;
    bool mirrored = false;
    double slip_m = 0; ///< a step in the closing flank
};

AnalyticLobe formula(double lift_m = 8.2e-3) {
    AnalyticLobe out;
    out.half_duration_rad = radians(66);
    out.lift_m = lift_m;
    out.ramp_height_m = 0.25e-3;
    out.ramp_velocity_m_per_rad = 0.012e-3 / radians(1);
    return out;
}

Lobe gauged(const AnalyticLobe& true_lobe, const Machine& by, std::mt19937& random) {
    const LobeCurve curve = LobeCurve::of(true_lobe);
    std::normal_distribution<double> noise(0, by.noise_m);
    LobeTable table;
    for (int degree = 0; degree < 360; ++degree) {
        const double theta = radians(degree - 180.0 + by.shift_deg);
        double rise = by.scale * curve.at(by.mirrored ? -theta : theta) + by.offset_m +
                      by.runout_m * std::cos(radians(degree - by.runout_at_deg)) + noise(random);
        if (by.slip_m > 0 && theta > radians(20) && theta < radians(45))
            rise += by.slip_m;
        table.angle.push_back(degree);
        table.lift.push_back(rise * 1e3);
    }
    table.noise_m = by.noise_m;
    return {"gauged", 16.5e-3, FollowerKind::Roller, 9.5e-3, table};
}

bool tells(const Reconciled& found, const std::string& words) {
    for (const MeasuredText& text : found.told)
        if (text.in_words().find(words) != std::string::npos)
            return true;
    return false;
}

} // namespace

class TestReconcile : public QObject {
    Q_OBJECT
  private slots:
    // Closed form: without noise the numbers are those that were put in.
    void what_a_machine_did_comes_back() {
        std::mt19937 random(1);
        Machine second{1e-9, 0, 1.004, 3e-6, 5e-6, 40};
        const Reconciled found =
            reconcile(gauged(formula(), {1e-9}, random), gauged(formula(), second, random));
        NEAR(found.scale.value, 1.004, 2e-5);
        NEAR(found.runout_m.value, 5e-6, 0.2e-6);
        NEAR(found.shift_rad.value, 0, radians(0.02));
        QVERIFY(!found.agree && !found.mirrored);
        QVERIFY(tells(found, "0.40 % more lift"));
        QVERIFY(tells(found, "held out of true"));
    }

    void the_same_readings_agree() {
        std::mt19937 random(2);
        const Lobe lobe = gauged(formula(), {}, random);
        const Reconciled found = reconcile(lobe, lobe);
        QVERIFY(found.agree);
        NEAR(found.scale.value, 1, 3 * found.scale.sd);
        QVERIFY(tells(found, "both machines say the same"));
    }

    // 200 pairs of honest machines: deviations are neither too small nor far too large, and few are
    // suspected.
    void honest_machines_are_believed_and_their_deviations_are_honest() {
        std::mt19937 random(3);
        std::uniform_real_distribution<double> unit(-1, 1);
        int within = 0, suspected = 0;
        constexpr int kPairs = 200;
        for (int i = 0; i < kPairs; ++i) {
            const Machine a{(1.5 + unit(random)) * 1e-6, 40 * unit(random)},
                b{(1.5 + unit(random)) * 1e-6, 40 * unit(random), 1, 20e-6 * unit(random)};
            const AnalyticLobe lobe = formula(8e-3 + 1.5e-3 * unit(random));
            const Reconciled found = reconcile(gauged(lobe, a, random), gauged(lobe, b, random));
            within += std::abs(found.scale.value - 1) < 2 * found.scale.sd;
            suspected += !found.agree;
        }
        QVERIFY2(within >= 0.90 * kPairs && within <= 0.995 * kPairs, qPrintable(QString::number(within)));
        QVERIFY2(suspected < 0.05 * kPairs, qPrintable(QString::number(suspected)));
    }

    void planted_faults_are_named_data() {
        QTest::addColumn<double>("scale");
        QTest::addColumn<double>("runout_um");
        QTest::addColumn<double>("slip_um");
        QTest::addColumn<bool>("mirrored");
        QTest::addColumn<QString>("said");
        QTest::newRow("scale") << 1.003 << 0.0 << 0.0 << false << "% more lift";
        QTest::newRow("scale down") << 0.997 << 0.0 << 0.0 << false << "% less lift";
        QTest::newRow("runout") << 1.0 << 6.0 << 0.0 << false << "out of true";
        QTest::newRow("slip") << 1.0 << 0.0 << 25.0 << false << "not one lobe";
        QTest::newRow("mirrored") << 1.0 << 0.0 << 0.0 << true << "against the rotation";
    }
    void planted_faults_are_named() {
        QFETCH(double, scale);
        QFETCH(double, runout_um);
        QFETCH(double, slip_um);
        QFETCH(bool, mirrored);
        QFETCH(QString, said);
        std::mt19937 random(4);
        std::uniform_real_distribution<double> unit(-1, 1);
        int named = 0;
        constexpr int kPairs = 40;
        for (int i = 0; i < kPairs; ++i) {
            const Machine a{(1.5 + unit(random)) * 1e-6, 40 * unit(random)};
            const Machine b{
                (1.5 + unit(random)) * 1e-6, 40 * unit(random), scale,         0, runout_um * 1e-6,
                180 * unit(random),          mirrored,          slip_um * 1e-6};
            const AnalyticLobe lobe = formula();
            Lobe first = gauged(lobe, a, random);
            Lobe second = gauged(lobe, b, random);
            if (mirrored) { // a lobe that is the same both ways cannot be told from its mirror
                auto bump = [](Lobe& l, bool other) {
                    auto& t = std::get<LobeTable>(l.shape);
                    const LobeCurve c = curve_of(l);
                    for (std::size_t k = 0; k < t.angle.size(); ++k) {
                        const double theta = c.smoothing()->angle_rad[k];
                        t.lift[k] += 0.05 * std::exp(-std::pow((theta - (other ? -1 : 1) * 0.5) / 0.15, 2));
                    }
                };
                bump(first, false);
                bump(second, true);
            }
            named += tells(reconcile(first, second), said.toStdString());
        }
        QVERIFY2(named >= 0.95 * kPairs, qPrintable(QString::number(named)));
    }

    void both_are_joined_into_one_table_that_is_nearer_to_the_lobe() {
        std::mt19937 random(5);
        const AnalyticLobe lobe = formula();
        const LobeCurve truth = LobeCurve::of(lobe);
        const Lobe a = gauged(lobe, {4e-6}, random), b = gauged(lobe, {4e-6, 25, 1, 15e-6}, random);
        const CombinedPasses both = joined(a, reconcile(a, b));
        QCOMPARE(both.table.angle.size(), std::size_t(720));
        Lobe one = a;
        one.shape = both.table;
        const auto off = [&](const Lobe& l) {
            const LobeCurve c = curve_of(l);
            double sum = 0;
            for (int degree = -100; degree < 100; ++degree)
                sum += std::pow(c.at(radians(degree)) - truth.at(radians(degree)), 2);
            return std::sqrt(sum / 200);
        };
        QVERIFY2(off(one) < off(a),
                 qPrintable(QStringLiteral("%1 %2").arg(off(one) * 1e6).arg(off(a) * 1e6)));
    }

    void two_lobes_are_not_joined() {
        std::mt19937 random(7);
        AnalyticLobe longer = formula();
        longer.half_duration_rad = radians(70);
        const Lobe a = gauged(formula(), {}, random), b = gauged(longer, {}, random);
        const Reconciled found = reconcile(a, b);
        QVERIFY(!found.one_lobe && !found.agree);
        QVERIFY_THROWS_EXCEPTION(InputError, joined(a, found));
    }

    void too_few_readings_are_refused() {
        std::mt19937 random(6);
        const Lobe lobe = gauged(formula(), {}, random);
        Lobe few = lobe;
        auto& table = std::get<LobeTable>(few.shape);
        table.angle.resize(10);
        table.lift.resize(10);
        QVERIFY_THROWS_EXCEPTION(InputError, reconcile(lobe, few));
    }
};

QTEST_GUILESS_MAIN(TestReconcile)
#include "tst_reconcile.moc"
