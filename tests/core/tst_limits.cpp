#include "core/motion/limits.h"
#include "core/motion/onset.h"
#include "support.h"

#include <functional>
#include <random>

using namespace bathmos;

namespace {

using Law = std::function<double(double rpm)>;

std::vector<SpeedMetrics> rows(Metric metric, const Law& si, double first = 3000, double last = 9000,
                               double step = 100) {
    std::vector<SpeedMetrics> out;
    for (double rpm = first; rpm <= last; rpm += step) {
        Metrics m;
        m[metric] = si(rpm);
        out.push_back({rpm, m});
    }
    return out;
}

std::optional<double> crossing(const LimitSpeed& limit, std::string_view key) {
    for (const Crossing& c : limit.crossings)
        if (c.limit.key == key)
            return c.speed_rpm;
    return std::nullopt;
}

} // namespace

class TestLimits : public QObject {
    Q_OBJECT
  private slots:
    void crossing_is_linear_between_rows() {
        const auto r = rows(Metric::Loft, [](double rpm) { return rpm < 7000 ? 0 : (rpm - 7000) * 1e-6; });
        const LimitSpeed limit = limit_speed(r, usual_limits(), 0);
        NEAR(*limit.speed_rpm, 7250, 1e-6);
        QCOMPARE(limit.first->metric, Metric::Loft);
        QVERIFY(!crossing(limit, "bounce").has_value());
    }

    void a_crossing_must_stay_for_150_rpm() {
        const auto r =
            rows(Metric::Loft, [](double rpm) { return rpm == 6000 || rpm >= 8000 ? 0.4e-3 : 0.1e-3; });
        QVERIFY(*limit_speed(r, usual_limits(), 0).speed_rpm > 7900);
        // at the end of the range there is nothing that could take it back
        const auto last = rows(Metric::Loft, [](double rpm) { return rpm == 9000 ? 0.4e-3 : 0.1e-3; });
        NEAR(*limit_speed(last, usual_limits(), 0).speed_rpm, 8950, 1e-6);
    }

    void what_is_over_a_limit_and_goes_by_leaves_speeds_free_again() {
        const auto band = [](double rpm) {
            return (rpm >= 6000 && rpm <= 6300) || rpm >= 8000 ? 0.4e-3 : 0.1e-3;
        };
        const LimitSpeed limit = limit_speed(rows(Metric::Loft, band), usual_limits(), 0);
        QVERIFY(*limit.speed_rpm > 5900 && *limit.speed_rpm < 6000 && limit.free_again);
        NEAR(limit.free_again->from_rpm, 6400, 0);
        NEAR(limit.free_again->to_rpm, 7900, 0);
        // Another metric that takes over leaves nothing free, nor does a stretch too short to count.
        auto both = rows(Metric::Loft, band);
        for (SpeedMetrics& row : both)
            row.metrics[Metric::Bounce] = row.speed_rpm >= 6200 ? 0.4e-3 : 0;
        QVERIFY(!limit_speed(both, usual_limits(), 0).free_again);
        const auto short_stretch = rows(Metric::Loft, [](double rpm) {
            return rpm >= 6000 && rpm != 6500 && rpm != 6600 ? 0.4e-3 : 0.1e-3;
        });
        QVERIFY(!limit_speed(short_stretch, usual_limits(), 0).free_again);
        QVERIFY(!limit_speed(rows(Metric::Loft, [](double) { return 0.0; }), usual_limits(), 0).free_again);
        // To the end of what was swept.
        const auto to_end =
            rows(Metric::Loft, [](double rpm) { return rpm >= 6000 && rpm <= 6300 ? 0.4e-3 : 0.1e-3; });
        NEAR(limit_speed(to_end, usual_limits(), 0).free_again->to_rpm, 9000, 0);
        // What has no value any more is not within its limit.
        auto lost = rows(Metric::Loft, band);
        for (SpeedMetrics& row : lost)
            if (row.speed_rpm > 6300)
                row.metrics[Metric::Loft].reset();
        QVERIFY(!limit_speed(lost, usual_limits(), 0).free_again);
        // While speeds are still to come in nothing is said.
        LimitSearch search({3000, 3100, 3200, 3300, 3400, 3500}, {usual_limits().front()});
        for (double rpm : {3000, 3100, 3200, 3300, 3400}) {
            Metrics m;
            m[Metric::Loft] = rpm <= 3100 ? 0.4e-3 : 0;
            search.put(rpm, m);
        }
        QVERIFY(!search.result().free_again);
        Metrics m;
        m[Metric::Loft] = 0.0;
        search.put(3500, m);
        NEAR(search.result().free_again->from_rpm, 3200, 0);
    }

    void first_row_beyond_the_limit_is_the_crossing_itself() {
        NEAR(*limit_speed(rows(Metric::Bounce, [](double) { return 1e-3; }), usual_limits(), 0).speed_rpm,
             3000, 0);
    }

    void duration_is_judged_from_its_low_speed_value_both_ways() {
        const auto falling = rows(Metric::DurationChange, [](double rpm) { return -5 - (rpm - 3000) / 400; });
        NEAR(*limit_speed(falling, usual_limits(), -5).speed_rpm, 7000, 1e-6); // -15
        const auto rising = rows(Metric::DurationChange, [](double rpm) { return -5 + (rpm - 3000) / 1000; });
        NEAR(*limit_speed(rising, usual_limits(), -5).speed_rpm, 7000, 1e-6); // -1
    }

    void a_limit_is_judged_by_the_value_that_was_seen() {
        const auto r = rows(Metric::Seating, [](double rpm) { return rpm / 5000; }); // 1.2 m/s at 6000
        NEAR(*limit_speed(r, usual_limits(), 0).speed_rpm, 6000, 1e-6);
        std::vector<Limit> limits = usual_limits();
        for (Limit& limit : limits)
            if (limit.metric == Metric::Seating)
                limit.seen = {{4000, 1.2}, {7000, 1.2}, {8000, 1}};
        NEAR(*limit_speed(r, limits, 0).speed_rpm, 5000, 1e-6);
        for (Limit& limit : limits)
            if (limit.metric == Metric::Seating)
                limit.seen = {{5000, 1}, {7000, 0.8}}; // linear between, the ends held
        NEAR(*limit_speed(r, limits, 0).speed_rpm, 7500, 1e-6);
    }

    void missing_values_do_not_cross() {
        auto r = rows(Metric::Seating, [](double) { return 2.0; });
        for (auto& row : r)
            if (row.speed_rpm < 8000)
                row.metrics[Metric::Seating].reset();
        QVERIFY(*limit_speed(r, usual_limits(), 0).speed_rpm > 7900);
    }

    void brackets_are_halved_as_plain_bisection_would_data() {
        QTest::addColumn<double>("at");
        QTest::addColumn<bool>("step");
        QTest::newRow("a step") << 7031.7 << true; // linear interpolation between rows would give 7030
        QTest::newRow("a slope") << 7031.7 << false;
        QTest::newRow("near an end") << 7099.0 << true;
    }
    void brackets_are_halved_as_plain_bisection_would() {
        QFETCH(double, at);
        QFETCH(bool, step);
        const Law law = [&](double rpm) {
            return step ? (rpm < at ? 0.0 : 20.0) : 6 + (rpm - at) * 0.02 + 1e-6 * std::pow(rpm - at, 3);
        };
        const auto swept = rows(Metric::ContactLoss, law, 6500, 7600);
        std::vector<double> speeds;
        for (const auto& row : swept)
            speeds.push_back(row.speed_rpm);
        LimitSearch search(speeds, usual_limits());
        for (const auto& row : swept)
            search.put(row.speed_rpm, row.metrics);
        QVERIFY(search.swept());
        std::size_t asked = 0;
        for (std::vector<double> next = search.next(); !next.empty(); next = search.next())
            for (double rpm : next) {
                ++asked;
                Metrics m;
                m[Metric::ContactLoss] = law(rpm);
                search.put(rpm, m);
            }
        double low = 7000, high = 7100;
        while (high - low > 4)
            (law(0.5 * (low + high)) > 6 ? high : low) = 0.5 * (low + high);
        const double share = (6 - law(low)) / (law(high) - law(low));
        NEAR(*search.result().speed_rpm, low + (high - low) * share, 1e-9);
        QVERIFY2(asked <= 16, qPrintable(QString::number(asked)));
    }

    // Whatever order the speeds come in, the crossing is the same, and nothing is asked before it is certain.
    void a_search_fed_in_any_order_ends_at_the_same_place() {
        const Law law = [](double rpm) {
            return rpm == 6000  ? 0.4e-3
                   : rpm < 7000 ? 0
                                : (rpm - 7000) * 1e-6; // one speed alone does not stay
        };
        const auto swept = rows(Metric::Loft, law);
        std::vector<double> speeds;
        for (const auto& row : swept)
            speeds.push_back(row.speed_rpm);
        std::optional<double> first;
        for (unsigned seed = 1; seed < 6; ++seed) {
            std::mt19937 engine(seed);
            std::vector<SpeedMetrics> order = swept;
            std::shuffle(order.begin(), order.end(), engine);
            LimitSearch search(speeds, usual_limits());
            const auto answer = [&] {
                for (double rpm : search.next()) {
                    QVERIFY(rpm > 7200 && rpm < 7300);
                    Metrics m;
                    m[Metric::Loft] = law(rpm);
                    search.put(rpm, m);
                }
            };
            for (const auto& row : order) {
                search.put(row.speed_rpm, row.metrics);
                answer();
            }
            answer();
            if (!first)
                first = search.result().speed_rpm;
            NEAR(*search.result().speed_rpm, *first, 0);
            NEAR(*first, 7250, 0.01);
        }
    }

    void the_lowest_of_all_crossings_is_named() {
        auto r = rows(Metric::Loft, [](double rpm) { return rpm > 8000 ? 1e-3 : 0; });
        for (auto& row : r)
            row.metrics[Metric::Bounce] = row.speed_rpm > 7500 ? 1e-3 : 0;
        const LimitSpeed limit = limit_speed(r, usual_limits(), 0);
        QCOMPARE(limit.first->key, std::string_view("bounce"));
        QVERIFY(*crossing(limit, "loft") > *crossing(limit, "bounce"));
    }

    void an_elastic_trend_has_no_edge() {
        const auto r = rows(Metric::LiftLoss, [](double rpm) { return 0.2e-3 + 3e-12 * rpm * rpm; });
        const OnsetResult e = find_onset(r, {});
        QVERIFY(!e.onset.speed_rpm.has_value());
        QVERIFY(e.bands.empty());
    }

    void the_edge_is_where_the_trend_is_left_for_good() {
        const auto r = rows(Metric::Bounce,
                            [](double rpm) { return rpm < 7500 ? 0.01e-3 : 0.01e-3 + (rpm - 7500) * 1e-6; });
        const OnsetResult e = find_onset(r, {});
        QVERIFY(e.onset.speed_rpm.has_value());
        NEAR(*e.onset.speed_rpm, 7550, 1); // 0.05 mm beyond the trend
        QCOMPARE(*e.onset.metric, Metric::Bounce);
        NEAR(e.onset.half_step_rpm, 50, 1e-9);
    }

    void a_departure_that_comes_back_is_a_band() {
        const auto r = rows(Metric::LiftLoss,
                            [](double rpm) { return 0.2e-3 + (rpm >= 7000 && rpm <= 7300 ? 0.1e-3 : 0); });
        const OnsetResult e = find_onset(r, {});
        QVERIFY(!e.onset.speed_rpm.has_value());
        QCOMPARE(e.bands.size(), std::size_t{1});
        NEAR(e.bands[0].from_rpm, 7000, 0);
        NEAR(e.bands[0].to_rpm, 7300, 0);
    }

    void noise_raises_what_counts_as_a_departure() {
        const auto r = rows(Metric::DurationChange, [](double rpm) { return rpm < 8000 ? -5.0 : -7.0; });
        Metrics noise;
        noise[Metric::DurationChange] = 0.2;
        QVERIFY(find_onset(r, noise).onset.speed_rpm.has_value());
        noise[Metric::DurationChange] = 0.8; // three times that is 2.4 degrees
        QVERIFY(!find_onset(r, noise).onset.speed_rpm.has_value());
    }

    // Beside a run the model is judged over the run's speeds, both ends kept: 0.2 mm of loft from 6000 on is
    // a departure up to 6500, and a band that has come back up to 8000.
    void a_models_onset_beside_a_run_is_that_of_the_runs_speeds() {
        const auto loft = [](double rpm) { return rpm >= 6000 && rpm <= 6500 ? 0.2e-3 : 0.0; };
        const auto model = rows(Metric::Loft, loft);
        const OnsetResult whole = find_onset(model, {});
        QVERIFY(!whole.onset.speed_rpm && whole.bands.size() == 1);
        const auto run = rows(Metric::Loft, loft, 4040, 6540);
        const OnsetResult beside = onset_beside(model, whole, run);
        const OnsetResult cut = find_onset(rows(Metric::Loft, loft, 4000, 6500), {});
        QVERIFY(beside.onset.speed_rpm && beside.bands.empty());
        NEAR(*beside.onset.speed_rpm, *cut.onset.speed_rpm, 0);
        // Nothing measured, or too little to show an onset: the whole range speaks.
        QVERIFY(!onset_beside(model, whole, {}).onset.speed_rpm);
        QCOMPARE(onset_beside(model, whole, rows(Metric::Loft, loft, 6200, 6500)).bands.size(),
                 std::size_t{1});
    }

    void one_speed_has_no_edge() {
        QVERIFY(!find_onset(rows(
                                Metric::Loft, [](double) { return 1e-3; }, 6000, 6000),
                            {})
                     .onset.speed_rpm);
    }

    void a_noisy_trend_gives_no_false_edge() {
        std::mt19937 random(5);
        std::normal_distribution<double> noise(0, 0.004e-3);
        for (int run = 0; run < 50; ++run) {
            const auto r = rows(
                Metric::LiftLoss, [&](double rpm) { return 0.5e-3 - 2e-12 * rpm * rpm + noise(random); },
                3000, 8600, 200);
            Metrics repeat;
            repeat[Metric::LiftLoss] = 0.004e-3;
            QVERIFY(!find_onset(r, repeat).onset.speed_rpm.has_value());
        }
    }
};

QTEST_APPLESS_MAIN(TestLimits)
#include "tst_limits.moc"
