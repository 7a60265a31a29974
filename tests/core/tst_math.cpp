#include "core/math/cubic_curve.h"
#include "core/math/periodic_band.h"
#include "core/math/periodic_spline.h"
#include "core/math/robust.h"
#include "core/math/roots.h"
#include "core/tasks/tasks.h"
#include "core/units/measured_text.h"
#include "support.h"

#include <Eigen/Dense>
#include <atomic>
#include <numeric>
#include <random>

using namespace bathmos;
using namespace bathmos::test;

class TestMath : public QObject {
    Q_OBJECT
  private slots:
    void quintic_weights_sum_to_one_and_their_derivatives_to_zero() {
        for (double t = 0; t <= 1; t += 0.125) {
            for (int order = 0; order <= 4; ++order) {
                const auto w = quintic_weights(t, order);
                NEAR(std::accumulate(w.begin(), w.end(), 0.0), order == 0 ? 1.0 : 0.0, 1e-12);
            }
        }
    }

    void spline_derivatives_agree_with_differences() {
        std::vector<double> c(360);
        for (std::size_t i = 0; i < c.size(); ++i)
            c[i] = std::sin(3 * 2 * kPi * static_cast<double>(i) / 360) +
                   0.2 * std::cos(7 * 2 * kPi * static_cast<double>(i) / 360);
        const PeriodicSpline spline(c);
        constexpr double h = 1e-4;
        for (double angle : {-4.0, -0.3, 0.0, 1.234, 6.28, 9.0})
            for (int order = 1; order <= 4; ++order) {
                const double difference =
                    (spline.at(angle + h, order - 1) - spline.at(angle - h, order - 1)) / (2 * h);
                NEAR(spline.at(angle, order), difference, 2e-3 * std::pow(7.0, order));
            }
    }

    void spline_is_periodic() {
        std::vector<double> c(360, 0.0);
        c[5] = 1;
        const PeriodicSpline spline(c);
        NEAR(spline.at(0.09, 0), spline.at(0.09 + 2 * kPi, 0), 1e-12);
        NEAR(spline.at(0.09, 2), spline.at(0.09 - 4 * kPi, 2), 1e-9);
    }

    // A ring of 40 against the same matrix as a full one.
    void periodic_band_solves_and_inverts_as_a_full_matrix_does() {
        constexpr std::size_t n = 40;
        std::mt19937 random(3);
        std::uniform_real_distribution<double> uniform(-1, 1);
        PeriodicBand band(n);
        Eigen::MatrixXd full = Eigen::MatrixXd::Zero(n, n);
        for (std::size_t i = 0; i < n; ++i)
            for (std::size_t k = 0; k <= PeriodicBand::kReach; ++k) {
                const double value = k == 0 ? 8 + uniform(random) : uniform(random);
                band.at(i, k) = value;
                const auto a = static_cast<int>(i), b = static_cast<int>((i + k) % n);
                full(a, b) = full(b, a) = value;
            }
        const PeriodicBandFactor factor(band);
        Eigen::VectorXd right(n);
        std::vector<double> b(n);
        for (std::size_t i = 0; i < n; ++i)
            right(static_cast<int>(i)) = b[i] = uniform(random);
        const Eigen::VectorXd x = full.llt().solve(right);
        const std::vector<double> found = factor.solve(b);
        for (std::size_t i = 0; i < n; ++i)
            NEAR(found[i], x(static_cast<int>(i)), 1e-12);
        const Eigen::MatrixXd inverse = full.inverse();
        const PeriodicBand inverse_band = factor.inverse_band();
        for (std::size_t i = 0; i < n; ++i)
            for (std::size_t k = 0; k <= PeriodicBand::kReach; ++k)
                NEAR(inverse_band.at(i, k), inverse(static_cast<int>(i), static_cast<int>((i + k) % n)),
                     1e-12);
        const double weights[] = {0.5, -1, 2};
        const int at[] = {38, 39, 0}; // over the seam
        double form = 0;
        for (int i = 0; i < 3; ++i)
            for (int j = 0; j < 3; ++j)
                form += weights[i] * weights[j] * full(at[i], at[j]);
        NEAR(band.form(38, weights, 3), form, 1e-12);
    }

    void a_matrix_that_is_not_definite_is_refused_in_words() {
        PeriodicBand band(40);
        for (std::size_t i = 0; i < 40; ++i)
            band.at(i, 0) = i == 20 ? -1 : 1;
        CONTAINS(problem_of([&] { PeriodicBandFactor factor(band); }).what, "do not determine");
    }

    void monotone_curve_goes_through_points_and_does_not_overshoot() {
        const std::vector<double> x = {0, 1, 2, 5, 6}, y = {0, 0, 1, 1, 4};
        const CubicCurve curve = CubicCurve::monotone(x, y);
        for (std::size_t i = 0; i < x.size(); ++i)
            NEAR(curve.value(x[i]), y[i], 1e-12);
        double before = curve.value(0);
        for (double at = 0; at <= 6; at += 0.01) {
            QVERIFY(curve.value(at) >= before - 1e-12);
            before = curve.value(at);
        }
    }

    void curves_are_linear_outside() {
        const CubicCurve curve = CubicCurve::natural({0, 1, 3}, {0, 2, 3});
        NEAR(curve.value(-2), curve.value(0) - 2 * curve.slope(0), 1e-12);
        NEAR(curve.value(5), curve.value(3) + 2 * curve.slope(3), 1e-12);
    }

    void natural_spline_has_no_curvature_at_its_ends_and_a_continuous_one_inside() {
        const CubicCurve curve = CubicCurve::natural({0, 1, 2, 4, 5}, {0, 1, 0, 2, 1});
        constexpr double h = 1e-5;
        NEAR((curve.slope(h) - curve.slope(0)) / h, 0, 1e-3);
        NEAR((curve.slope(5) - curve.slope(5 - h)) / h, 0, 1e-3);
        for (double at : {1.0, 2.0, 4.0})
            NEAR((curve.slope(at + h) - curve.slope(at)) / h, (curve.slope(at) - curve.slope(at - h)) / h,
                 1e-3);
    }

    void slope_is_the_derivative_of_value() {
        const CubicCurve curve = CubicCurve::monotone({0, 1, 2, 5, 6}, {0, 0.5, 1, 3, 4});
        for (double at : {-1.0, 0.4, 1.7, 3.3, 5.9, 7.0})
            NEAR(curve.slope(at), (curve.value(at + 1e-6) - curve.value(at - 1e-6)) / 2e-6, 1e-6);
    }

    void binned_look_up_equals_the_curve() {
        const CubicCurve curve =
            CubicCurve::monotone({0.026, 0.03, 0.034, 0.04, 0.046}, {1560, 1320, 1080, 740, 390});
        const BinnedCubic bins = BinnedCubic::of(curve);
        for (double at = 0.024; at < 0.05; at += 1.37e-5)
            NEAR(bins.value(at), curve.value(at), 0.01);
        NEAR(bins.value(0.010), curve.value(0.010), 1e-6);
        NEAR(bins.value(0.060), curve.value(0.060), 1e-6);
    }

    void median_and_robust_sd_ignore_a_few_outliers() {
        NEAR(median({3, 1, 2}), 2, 0);
        NEAR(median({4, 1, 2, 3}), 2.5, 0);
        std::vector<double> values;
        for (int i = -50; i <= 50; ++i)
            values.push_back(i * 0.01);
        const double clean = robust_sd(values);
        values[0] = 1000;
        values[1] = -1000;
        NEAR(robust_sd(values), clean, 0.02);
    }

    void robust_line_finds_the_line_under_outliers() {
        std::vector<double> x, y;
        for (int i = 0; i < 20; ++i) {
            x.push_back(i);
            y.push_back(2 + 0.5 * i + 0.01 * (i % 3 - 1));
        }
        y[7] += 30;
        y[15] -= 20;
        const auto line = robust_line(x, y);
        QVERIFY(line.has_value());
        NEAR(line->b, 0.5, 0.01);
        NEAR(line->a, 2.0, 0.05);
        QVERIFY(!robust_line({1, 1, 1}, {1, 2, 3}));
        QVERIFY(!robust_line({1, 2}, {1, 2}));
    }

    void bisect_finds_roots_of_rising_and_falling_functions() {
        NEAR(find_root([](double x) { return x * x - 2; }, 0, 2, 1e-12), std::sqrt(2.0), 1e-11);
        NEAR(find_root([](double x) { return 2 - x * x; }, 0, 2, 1e-12), std::sqrt(2.0), 1e-11);
    }

    void parallel_for_runs_each_index_once_and_hands_on_exceptions() {
        std::vector<std::atomic<int>> seen(1000);
        parallel_for(seen.size(), [&](std::size_t i) { ++seen[i]; });
        for (const auto& count : seen)
            QCOMPARE(count.load(), 1);
        QVERIFY_THROWS_EXCEPTION(Stopped, parallel_for(4, [](std::size_t i) {
                                     if (i == 2)
                                         throw Stopped();
                                 }));
    }

    void units_convert_both_ways() {
        NEAR(unit_of(Quantity::Length, UnitSystem::Inch).to_si, 0.0254, 0);
        NEAR(1 / unit_of(Quantity::Stiffness, UnitSystem::Inch).to_si * 1e3, 5.7101, 1e-3); // lbf/in per N/mm
        NEAR(6894.757, unit_of(Quantity::Pressure, UnitSystem::Inch).to_si, 0.01);
        NEAR(cam_speed_rad_s(6000), 2 * kPi * 50, 1e-9);
    }

    void numbers_read_as_a_shop_writes_them() {
        const auto inch = UnitSystem::Inch;
        QCOMPARE(quantity_text(Quantity::Length, 0.006 * kInch_m, inch), std::string(".006 in")); // lash
        QCOMPARE(quantity_text(Quantity::Length, 42e-3, inch), std::string("1.654 in"));          // height
        QCOMPARE(quantity_text(Quantity::Mass, 92e-3, inch), std::string("92.0 g")); // scales read grams
        QCOMPARE(quantity_text(Quantity::Stiffness, 64.6e3, inch), std::string("369 lbf/in"));
        QCOMPARE(quantity_text(Quantity::Length, -0.2e-3, inch), std::string("-.008 in"));
        QCOMPARE(typed_text(Quantity::Length, 42e-3, inch), std::string("1.6535"));
        QCOMPARE(typed_text(Quantity::Length, 42e-3), std::string("42"));
        for (int q = 0; q <= static_cast<int>(Quantity::Count); ++q) // no seven digits anywhere
            for (const auto system : {UnitSystem::Metric, inch}) {
                const Unit unit = unit_of(static_cast<Quantity>(q), system);
                QVERIFY(unit.decimals <= 6);
                const std::string text =
                    typed_text(static_cast<Quantity>(q), 1.23456789012 * unit.to_si, system);
                QVERIFY2(text.size() <= 7, text.c_str());
            }
    }
    void texts_speak_in_the_units_asked_for_and_keep_braces_that_are_none() {
        const MeasuredText text("gap {} of {}", {{Quantity::Length, 1e-3}, {Quantity::Length, 2e-3}});
        QCOMPARE(text.in_words(), std::string("gap 1.000 mm of 2.000 mm"));
        QCOMPARE((MeasuredText("first, ") + text).in_words(UnitSystem::Inch),
                 std::string("first, gap .039 in of .079 in"));
        QCOMPARE(MeasuredText("nothing {} measured").in_words(), std::string("nothing {} measured"));
        // A name with braces takes no value away from what stands behind it.
        QCOMPARE((MeasuredText("rod {}: ") + text).in_words(),
                 std::string("rod {}: gap 1.000 mm of 2.000 mm"));
        QVERIFY(MeasuredText().empty());
    }
};

QTEST_APPLESS_MAIN(TestMath)
#include "tst_math.moc"
