#include "core/lobe/lobe_events.h"
#include "core/lobe/lobe_fit.h"
#include "support.h"

#include <functional>
#include <random>

using namespace bathmos;
using namespace bathmos::test;

namespace {

AnalyticLobe demo_lobe() {
    return std::get<AnalyticLobe>(starter_train().lobe.shape);
}

// Readings of a rise each cam degree, nose at `nose_deg` of the gauge.
LobeTable gauge(const std::function<double(double)>& rise_m, double noise_um, double round_mm, unsigned seed,
                double nose_deg = 0) {
    std::mt19937 random(seed);
    std::normal_distribution<double> noise(0, noise_um * 1e-3);
    LobeTable table;
    for (int deg = 0; deg < 360; ++deg) {
        const double mm = rise_m(radians(deg - nose_deg)) * 1e3 + (noise_um > 0 ? noise(random) : 0);
        table.angle.push_back(deg);
        table.lift.push_back(round_mm > 0 ? std::round(mm / round_mm) * round_mm : mm);
    }
    return table;
}

double wrapped(double theta) {
    return std::remainder(theta, 2 * kPi);
}

} // namespace

class TestLobe : public QObject {
    Q_OBJECT
  private slots:
    void analytic_lobe_meets_its_conditions() {
        const AnalyticLobe lobe = demo_lobe();
        const LobeCurve curve = LobeCurve::of(lobe);
        NEAR(curve.lift_m(), lobe.lift_m, 1e-15);
        const double b = lobe.half_duration_rad;
        NEAR(curve.at(b), lobe.ramp_height_m, 1e-12);
        NEAR(curve.at(b - 1e-9, 1), -lobe.ramp_velocity_m_per_rad, 1e-8);
        NEAR(curve.at(b - 1e-9, 2), 0, 1e-6);
        NEAR(curve.at(b - 1e-9, 3), 0, 1e-4);
        const double ramp_end = b + 0.6 * lobe.ramp_height_m / lobe.ramp_velocity_m_per_rad;
        NEAR(curve.at(ramp_end), 0.4 * lobe.ramp_height_m, 1e-12);
        NEAR(curve.at(ramp_end + 0.8 * lobe.ramp_height_m / lobe.ramp_velocity_m_per_rad), 0, 1e-12);
        NEAR(curve.at(kPi), 0, 0);
    }

    void analytic_derivatives_agree_with_differences() {
        const LobeCurve curve = LobeCurve::of(demo_lobe());
        constexpr double h = 1e-5;
        for (double theta : {-1.9, -1.6, -1.2, -0.4, 0.0, 0.7, 1.3, 1.65, 1.95})
            for (int order = 1; order <= 3; ++order)
                NEAR(curve.at(theta, order),
                     (curve.at(theta + h, order - 1) - curve.at(theta - h, order - 1)) / (2 * h),
                     2e-4 * std::pow(6.0, order - 1));
    }

    void analytic_lobe_that_does_not_fit_in_a_turn_is_refused() {
        AnalyticLobe lobe = demo_lobe();
        lobe.ramp_velocity_m_per_rad /= 50;
        CONTAINS(problem_of([&] { LobeCurve::of(lobe); }).what, "cam degrees a side");
        lobe = demo_lobe();
        lobe.exponents = {6, 6, 10, 12};
        CONTAINS(problem_of([&] { LobeCurve::of(lobe); }).place, "exponents");
    }

    // Unit factors of the textbook motions: rise h over angle b, peaks are factor x h / b^order [Norton].
    void smoothed_textbook_motions_have_the_textbook_peaks_data() {
        QTest::addColumn<int>("kind");
        QTest::addColumn<double>("velocity");
        QTest::addColumn<double>("acceleration");
        QTest::newRow("cycloidal") << 0 << 2.0 << 6.283;
        QTest::newRow("3-4-5") << 1 << 1.875 << 5.774;
        QTest::newRow("4-5-6-7") << 2 << 2.188 << 7.513;
        QTest::newRow("simple harmonic")
            << 3 << 1.571 << 0.0; // its acceleration jumps: only velocity is smooth
    }
    void smoothed_textbook_motions_have_the_textbook_peaks() {
        QFETCH(int, kind);
        QFETCH(double, velocity);
        QFETCH(double, acceleration);
        const double h = 8e-3, b = radians(80);
        const auto rise = [&](double theta) {
            const double u = 1 - std::abs(wrapped(theta)) / b; // 0 at the foot, 1 at the nose
            if (u <= 0)
                return 0.0;
            switch (kind) {
            case 0:
                return h * (u - std::sin(2 * kPi * u) / (2 * kPi));
            case 1:
                return h * (10 * std::pow(u, 3) - 15 * std::pow(u, 4) + 6 * std::pow(u, 5));
            case 2:
                return h * (35 * std::pow(u, 4) - 84 * std::pow(u, 5) + 70 * std::pow(u, 6) -
                            20 * std::pow(u, 7));
            default:
                return h * 0.5 * (1 - std::cos(kPi * u));
            }
        };
        LobeTable table = gauge(rise, 0, 0, 0, 180);
        table.noise_m = 0.05e-6;
        const LobePeaks peaks = peaks_of(smooth_lobe(table));
        NEAR(peaks.opening_velocity.value, velocity * h / b, 0.005 * velocity * h / b);
        NEAR(-peaks.closing_velocity.value, velocity * h / b, 0.005 * velocity * h / b);
        if (acceleration > 0)
            NEAR(peaks.opening_acceleration.value, acceleration * h / b / b, 0.02 * acceleration * h / b / b);
    }

    void smoothing_leaves_the_stated_noise_as_residual_and_finds_the_nose() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        LobeTable table = gauge([&](double t) { return truth.at(t); }, 2, 0.001, 7, 143.3);
        table.noise_m = 2.1e-6;
        const LobeCurve curve = smooth_lobe(table);
        NEAR(curve.smoothing()->residual_rms_m, 2.1e-6, 0.02e-6);
        NEAR(degrees(curve.smoothing()->nose_in_table_rad), 143.3, 0.1);
        NEAR(curve.at(0, 1), 0, 1e-9);
        double worst = 0;
        for (double theta = -kPi; theta < kPi; theta += 0.01)
            worst = std::max(
                worst,
                std::abs(curve.at(theta) -
                         truth.at(theta + radians(std::remainder(
                                              degrees(curve.smoothing()->nose_in_table_rad) - 143.3, 360)))));
        QVERIFY2(worst < 4e-6, qPrintable(QString::number(worst * 1e6)));
    }

    void noise_is_estimated_from_the_base_circle_and_never_below_the_rounding() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        const LobeTable noisy = gauge([&](double t) { return truth.at(t); }, 3, 0.001, 3, 180);
        NEAR(estimate_noise_m(noisy), 3e-6, 0.6e-6);
        const LobeTable clean = gauge([&](double t) { return truth.at(t); }, 0, 0.01, 3, 180);
        QVERIFY(estimate_noise_m(clean) >= 0.01e-3 / std::sqrt(12.0) * 0.999);
    }

    void smoothing_at_default_settings_keeps_the_peak_acceleration() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        const LobePeaks exact = peaks_of(truth);
        int good = 0;
        for (unsigned seed = 0; seed < 10; ++seed) {
            const LobePeaks peaks =
                peaks_of(smooth_lobe(gauge([&](double t) { return truth.at(t); }, 2, 0.001, seed, 180)));
            good +=
                std::abs(peaks.opening_acceleration.value / exact.opening_acceleration.value - 1) < 0.03 &&
                std::abs(peaks.deceleration.value / exact.deceleration.value - 1) < 0.03;
        }
        QVERIFY2(good >= 9, qPrintable(QString::number(good)));
    }

    // The band is the scatter that reading noise makes of the curve; what smoothing itself rounds off is not
    // in it.
    void sigma_of_acceleration_predicts_the_scatter_that_noise_makes() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        const std::vector<double> theta = {-1.2, 0.0, 0.8};
        std::vector<double> sum(3, 0.0), squares(3, 0.0), sigma;
        constexpr int runs = 40;
        for (unsigned seed = 0; seed < runs; ++seed) {
            LobeTable table = gauge([&](double t) { return truth.at(t); }, 2, 0, seed, 180);
            table.noise_m = 2e-6;
            const LobeCurve curve = smooth_lobe(table);
            sigma = derivative_sigma(table, *curve.smoothing(), theta, 2);
            for (std::size_t i = 0; i < 3; ++i) {
                sum[i] += curve.at(theta[i], 2) / runs;
                squares[i] += std::pow(curve.at(theta[i], 2), 2) / runs;
            }
        }
        for (std::size_t i = 0; i < 3; ++i) {
            const double seen = std::sqrt(squares[i] - sum[i] * sum[i]);
            QVERIFY2(seen < 1.6 * sigma[i] && seen > 0.6 * sigma[i],
                     qPrintable(QStringLiteral("%1 seen, %2 predicted").arg(seen).arg(sigma[i])));
        }
    }

    void event_only_and_crank_degree_and_inch_tables_give_the_same_lobe() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        LobeTable table;
        table.angle_unit = AngleUnit::CrankDegree;
        table.lift_unit = LiftUnit::Inch;
        for (int deg = -240; deg <= 240; ++deg) { // crank degrees: the main event and ramps only
            table.angle.push_back(deg);
            table.lift.push_back(truth.at(radians(deg / 2.0)) / kInch_m);
        }
        table.noise_m = 0.3e-6;
        const LobeCurve curve = smooth_lobe(table);
        for (double theta : {-1.5, -0.5, 0.0, 0.9, 1.6, 3.0})
            NEAR(curve.at(theta), truth.at(theta), 1.5e-6);
    }

    void duration_at_the_ramp_height_is_twice_the_half_duration() {
        const AnalyticLobe lobe = demo_lobe();
        const LobeCurve curve = LobeCurve::of(lobe);
        const auto c = crossings_at([&](double t) { return curve.at(t); }, lobe.ramp_height_m);
        QVERIFY(c.has_value());
        NEAR(c->duration_crank_deg(), 4 * degrees(lobe.half_duration_rad), 1e-6);
        NEAR(c->opening_rad, -c->closing_rad, 1e-9);
        QVERIFY(!crossings_at([&](double t) { return curve.at(t); }, 9e-3));
    }

    void bad_tables_are_refused_in_words_data() {
        QTest::addColumn<int>("kind");
        QTest::addColumn<QString>("place");
        QTest::addColumn<QString>("what");
        QTest::newRow("ten points") << 0 << "lobe.table"
                                    << "only 10 readings";
        QTest::newRow("not rising") << 1 << "lobe.table.angle[20]"
                                    << "follows";
        QTest::newRow("not closed") << 2 << "lobe.table.lift"
                                    << "not closed";
        QTest::newRow("cut off") << 3 << "lobe.table.lift"
                                 << "not closed";
        QTest::newRow("nan") << 4 << "lobe.table[5]"
                             << "not a number";
        QTest::newRow("wrong unit") << 5 << "lobe.table.lift"
                                    << "only 0.0";
        QTest::newRow("lengths") << 6 << "lobe.table"
                                 << "angles but";
        QTest::newRow("two turns") << 7 << "lobe.table.angle"
                                   << "span";
    }
    void bad_tables_are_refused_in_words() {
        QFETCH(int, kind);
        QFETCH(QString, place);
        QFETCH(QString, what);
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        LobeTable table = gauge([&](double t) { return truth.at(t); }, 0, 0.001, 0, 180);
        switch (kind) {
        case 0:
            table.angle.resize(10);
            table.lift.resize(10);
            break;
        case 1:
            table.angle[20] = table.angle[19];
            break;
        case 2:
            table.angle.push_back(360);
            table.lift.push_back(0.4);
            break;
        case 3:
            table.angle.resize(150);
            table.lift.resize(150);
            break;
        case 4:
            table.lift[5] = std::nan("");
            break;
        case 5:
            for (double& lift : table.lift)
                lift /= 1000;
            break;
        case 6:
            table.lift.pop_back();
            break;
        default:
            for (double& angle : table.angle)
                angle *= 2;
        }
        const InputProblem problem = problem_of([&] { smooth_lobe(table); });
        QCOMPARE(QString::fromStdString(problem.place), place);
        CONTAINS(problem.what, what.toStdString());
        QVERIFY(!problem.mend.empty());
    }
};

QTEST_APPLESS_MAIN(TestLobe)
#include "tst_lobe.moc"
