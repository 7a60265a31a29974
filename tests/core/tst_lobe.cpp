#include "core/lobe/base_circle.h"
#include "core/lobe/gauge.h"
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
LobeTable gauge(const std::function<double(double)>& cam_lift_m, double noise_um, double round_mm,
                unsigned seed, double nose_deg = 0) {
    std::mt19937 random(seed);
    std::normal_distribution<double> noise(0, noise_um * 1e-3);
    LobeTable table;
    for (int deg = 0; deg < 360; ++deg) {
        const double mm = cam_lift_m(radians(deg - nose_deg)) * 1e3 + (noise_um > 0 ? noise(random) : 0);
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
        CONTAINS(problem_of([&] { LobeCurve::of(lobe); }).location, "exponents");
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

    void the_even_rule_leaves_the_stated_noise_as_residual() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        LobeTable table = gauge([&](double t) { return truth.at(t); }, 2, 0.001, 7, 143.3);
        table.noise_m = 2.1e-6;
        table.smoothing.rule = SmoothingRule::Even;
        NEAR(smooth_lobe(table).smoothing()->residual_rms_m, 2.1e-6, 0.02e-6);
    }

    // The residual is the noise less what the curve has taken of it: sd sqrt(1 - parameters / readings).
    void smoothing_leaves_the_noise_less_its_own_parameters_and_finds_the_nose() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        LobeTable table = gauge([&](double t) { return truth.at(t); }, 2, 0.001, 7, 143.3);
        table.noise_m = 2.02e-6;
        const LobeCurve curve = smooth_lobe(table);
        const SmoothingReport& report = *curve.smoothing();
        NEAR(report.residual_rms_m, 2.02e-6 * std::sqrt(1 - report.parameters / 360), 0.2e-6);
        QVERIFY(report.parameters > 20 && report.parameters < 80);
        NEAR(degrees(report.nose_in_table_rad), 143.3, 0.1);
        NEAR(curve.at(0, 1), 0, 1e-9);
        const double shift = radians(std::remainder(degrees(report.nose_in_table_rad) - 143.3, 360));
        double worst = 0;
        for (double theta = -kPi; theta < kPi; theta += 0.01)
            worst = std::max(worst, std::abs(curve.at(theta) - truth.at(theta + shift)));
        QVERIFY2(worst < 4e-6, qPrintable(QString::number(worst * 1e6)));
    }

    void noise_is_estimated_from_the_base_circle_and_never_below_the_rounding() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        const LobeTable noisy = gauge([&](double t) { return truth.at(t); }, 3, 0.001, 3, 180);
        NEAR(*base_circle_noise_m(noisy), 3e-6, 0.6e-6);
        const LobeTable clean = gauge([&](double t) { return truth.at(t); }, 0, 0.01, 3, 180);
        QVERIFY(*base_circle_noise_m(clean) >= 0.01e-3 / std::sqrt(12.0) * 0.999);
    }

    // A table of the event alone has no base circle to tell the noise: it comes from the residual.
    void noise_of_an_event_without_base_circle_comes_from_the_residual() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        LobeTable whole = gauge([&](double t) { return truth.at(t); }, 3, 0.001, 5, 180);
        LobeTable event = whole;
        event.angle.assign(whole.angle.begin() + 72, whole.angle.begin() + 289);
        event.lift.assign(whole.lift.begin() + 72, whole.lift.begin() + 289);
        QVERIFY(!base_circle_noise_m(event));
        const LobeCurve curve = smooth_lobe(event);
        NEAR(curve.smoothing()->noise_m, 3e-6, 0.7e-6);
        QVERIFY(curve.smoothing()->estimated);
    }

    // At default settings, 100 seeds of 2 um noise and 1 um rounding each cam degree: peaks within 2 %, RMS
    // error of acceleration over the event within 1.5 % of its peak, in 95 of them.
    void smoothing_at_default_settings_keeps_the_acceleration() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        const LobePeaks exact = peaks_of(truth);
        int good = 0, covered = 0, asked = 0;
        for (unsigned seed = 0; seed < 100; ++seed) {
            const LobeCurve curve =
                smooth_lobe(gauge([&](double t) { return truth.at(t); }, 2, 0.001, seed, 180));
            const LobePeaks peaks = peaks_of(curve);
            const double shift = wrapped(curve.smoothing()->nose_in_table_rad - kPi);
            double squares = 0, peak = 0;
            int points = 0;
            for (double theta = -2; theta < 2; theta += 0.005) {
                const double is = truth.at(theta + shift, 2), error = curve.at(theta, 2) - is;
                if (is == 0)
                    continue;
                squares += error * error;
                peak = std::max(peak, std::abs(is));
                ++points;
                covered += std::abs(error) < curve.standard_deviation(theta, 2);
            }
            asked += points;
            good += std::abs(std::max(peaks.opening_acceleration.value, peaks.closing_acceleration.value) /
                                 exact.opening_acceleration.value -
                             1) < 0.02 &&
                    std::abs(peaks.deceleration.value / exact.deceleration.value - 1) < 0.02 &&
                    std::sqrt(squares / points) < 0.015 * peak;
        }
        QVERIFY2(good >= 95, qPrintable(QString::number(good)));
        // The band of one standard deviation holds the truth about as often as it says.
        const double share = double(covered) / asked;
        QVERIFY2(share > 0.65 && share < 0.92, qPrintable(QString::number(share)));
    }

    // The band holds noise and what smoothing may round off: never less than the scatter that noise makes of
    // the curve. That it is not too wide either is the coverage above.
    void sd_of_acceleration_is_no_less_than_the_scatter_that_noise_makes() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        const std::vector<double> theta = {-1.2, 0.0, 0.8};
        std::vector<double> sum(3, 0.0), squares(3, 0.0), sd(3, 0.0);
        constexpr int runs = 40;
        for (unsigned seed = 0; seed < runs; ++seed) {
            LobeTable table = gauge([&](double t) { return truth.at(t); }, 2, 0, seed, 180);
            table.noise_m = 2e-6;
            table.smoothing.rule = SmoothingRule::Even;
            const LobeCurve curve = smooth_lobe(table);
            for (std::size_t i = 0; i < 3; ++i) {
                sd[i] = curve.standard_deviation(theta[i], 2);
                sum[i] += curve.at(theta[i], 2) / runs;
                squares[i] += std::pow(curve.at(theta[i], 2), 2) / runs;
            }
        }
        for (std::size_t i = 0; i < 3; ++i) {
            const double seen = std::sqrt(squares[i] - sum[i] * sum[i]);
            QVERIFY2(seen < sd[i] && seen > 0.3 * sd[i],
                     qPrintable(QStringLiteral("%1 seen, %2 predicted").arg(seen).arg(sd[i])));
        }
    }

    // A spike of three times the peak deceleration, 4 cam degrees from foot to foot, on the closing flank;
    // what it adds to the velocity is taken back over the whole event.
    void a_spike_keeps_its_height() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        const double height = 3 * std::abs(peaks_of(truth).deceleration.value);
        const double half = radians(2), at = radians(40), broad = radians(60);
        const auto twice_integrated = [](double x, double h) { // of (1 + cos(pi x / h)) / 2, |x| < h
            if (x <= -h || x >= h)
                return x <= -h ? 0.0 : h * x;
            return 0.5 * ((x + h) * (x + h) / 2 - std::pow(h / kPi, 2) * (std::cos(kPi * x / h) + 1));
        };
        const auto rise = [&](double theta) {
            const double x = wrapped(theta) - at;
            return truth.at(theta) +
                   height * (twice_integrated(x, half) - half / broad * twice_integrated(x, broad));
        };
        double kept = 0;
        constexpr int seeds = 10;
        for (unsigned seed = 0; seed < seeds; ++seed) {
            const LobeCurve curve = smooth_lobe(gauge(rise, 2, 0.001, seed, 180));
            const double nose = curve.smoothing()->nose_in_table_rad - kPi;
            double most = 0;
            for (double theta = at - half; theta < at + half; theta += 0.002)
                most = std::max(most,
                                curve.at(theta - nose, 2) - truth.at(theta, 2) +
                                    height * half / broad * 0.5 * (1 + std::cos(kPi * (theta - at) / broad)));
            kept += most / height / seeds;
        }
        QVERIFY2(kept > 0.6, qPrintable(QString::number(kept)));
    }

    void strength_trades_residual_for_straightness() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        LobeTable table = gauge([&](double t) { return truth.at(t); }, 2, 0.001, 1, 180);
        double residual = 0, parameters = 1e9;
        for (double strength : {0.01, 1.0, 100.0, 10000.0}) {
            table.smoothing.strength = strength;
            const SmoothingReport report = *smooth_lobe(table).smoothing();
            QVERIFY(report.residual_rms_m > residual);
            QVERIFY(report.parameters < parameters);
            residual = report.residual_rms_m;
            parameters = report.parameters;
        }
    }

    void runout_and_height_of_the_base_circle_are_found_and_taken_off_only_when_asked() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        LobeTable table =
            gauge([&](double t) { return truth.at(t) + 15e-6 + 10e-6 * std::cos(t + kPi - radians(40)); }, 2,
                  0.001, 4, 180);
        const BaseCircle base = base_circle_of(table);
        QVERIFY(base.readings > 90);
        NEAR(base.zero_m, 15e-6, 2e-6);
        NEAR(base.runout_m(), 20e-6, 3e-6);
        NEAR(degrees(base.high_at_rad()), 40, 10);
        NEAR(base.scatter_m, 2e-6, 0.6e-6);
        NEAR(smooth_lobe(table).at(kPi), 15e-6 + 10e-6 * std::cos(radians(40)), 4e-6);
        table.base = BaseStep::Zeroed;
        NEAR(smooth_lobe(table).at(kPi), 10e-6 * std::cos(radians(40)), 4e-6);
        table.base = BaseStep::RunoutOff;
        const LobeCurve curve = smooth_lobe(table);
        for (double theta : {-1.5, -0.7, 0.0, 0.9, 1.7, 3.0})
            NEAR(curve.at(theta), truth.at(theta), 5e-6);
    }

    void a_reading_that_stands_out_is_named_alone_and_may_be_left_out() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        LobeTable table = gauge([&](double t) { return truth.at(t); }, 2, 0.001, 6, 180);
        QVERIFY(outstanding_readings(table).empty());
        table.lift[200] += 0.040;
        table.lift[30] -= 0.025;
        QCOMPARE(outstanding_readings(table), (std::vector<std::size_t>{30, 200}));
        const double spoilt = std::abs(smooth_lobe(table).at(radians(20), 2) - truth.at(radians(20), 2));
        table.left_out = {30, 200};
        const LobeCurve curve = smooth_lobe(table);
        QCOMPARE(curve.smoothing()->residual_m.size(), std::size_t{358});
        QVERIFY(std::abs(curve.at(radians(20), 2) - truth.at(radians(20), 2)) < 0.2 * spoilt);
        for (std::size_t i = 0; i < 340; ++i)
            table.left_out.push_back(i);
        CONTAINS(problem_of([&] { smooth_lobe(table); }).what, "are left");
    }

    void passes_are_told_apart_averaged_and_tell_the_noise() {
        const LobeCurve truth = LobeCurve::of(demo_lobe());
        std::mt19937 random(8);
        std::normal_distribution<double> noise(0, 3e-3);
        std::vector<double> angle, lift;
        for (int pass = 0; pass < 4; ++pass)
            for (int deg = 0; deg < 360; ++deg) {
                angle.push_back(pass < 2 ? 360 * pass + deg : 359 - deg); // on over two turns, then back
                lift.push_back(truth.at(radians(angle.back() - 180)) * 1e3 + noise(random));
            }
        lift[700] += 0.5;
        const std::vector<GaugePass> passes = split_passes(angle, lift, AngleUnit::CamDegree);
        QCOMPARE(passes.size(), std::size_t{4});
        const CombinedPasses all = combine(passes, AngleUnit::CamDegree, LiftUnit::Millimetre, false);
        QCOMPARE(all.table.angle.size(), std::size_t{360});
        QCOMPARE(all.repeatability.passes, std::size_t{4});
        NEAR(all.repeatability.sd_m, 3e-6, 0.3e-6); // the bad reading does not spoil it
        NEAR(*all.table.noise_m, 1.5e-6, 0.15e-6);
        NEAR(all.repeatability.largest_m, 0.375e-3, 0.01e-3);
        NEAR(all.repeatability.largest_at, 340, 1e-9);
        QCOMPARE(outstanding_readings(all.table), (std::vector<std::size_t>{340}));
    }

    void a_lobe_gauged_backward_is_the_same_and_a_mirrored_one_changes_sides() {
        std::vector<GaugePass> forward(1), backward(1);
        for (int deg = 0; deg <= 360; ++deg) {
            const double d = deg - 150.0;
            forward[0].angle.push_back(deg);
            forward[0].lift.push_back(
                std::abs(d) < 70 ? 8 * std::pow(std::cos(radians(d) * 90 / 70), 3) * (1 + 0.001 * d) : 0);
        }
        backward[0].angle.assign(forward[0].angle.rbegin(), forward[0].angle.rend());
        backward[0].lift.assign(forward[0].lift.rbegin(), forward[0].lift.rend());
        const auto unit = AngleUnit::CamDegree;
        const auto mm = LiftUnit::Millimetre;
        const LobeTable straight = combine(forward, unit, mm, false).table;
        QVERIFY(straight == combine(backward, unit, mm, false).table);
        const LobeCurve a = smooth_lobe(straight), b = smooth_lobe(combine(forward, unit, mm, true).table);
        QVERIFY(std::abs(a.at(0.8) - a.at(-0.8)) > 0.05e-3);
        for (double theta : {-1.0, -0.4, 0.3, 0.8})
            NEAR(b.at(theta), a.at(-theta), 1e-6);
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

    void the_height_of_an_advertised_duration_is_found() {
        const LobeCurve curve = LobeCurve::of(demo_lobe());
        const auto motion = [&](double t) { return curve.at(t); };
        for (double height : {0.1e-3, 0.3e-3, 1.27e-3, 5e-3}) {
            const double duration = crossings_at(motion, height)->duration_crank_deg();
            NEAR(*height_of_duration(motion, duration), height, 1e-7);
        }
        QVERIFY(!height_of_duration(motion, 600));
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
        QCOMPARE(QString::fromStdString(problem.location), place);
        CONTAINS(problem.what, what.toStdString());
        QVERIFY(!problem.mend.empty());
    }
};

QTEST_APPLESS_MAIN(TestLobe)
#include "tst_lobe.moc"
