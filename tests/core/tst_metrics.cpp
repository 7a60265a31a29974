#include "core/motion/metrics.h"
#include "support.h"

#include <numeric>

using namespace bathmos;

namespace {

constexpr std::size_t kPoints = 1441;

double angle(std::size_t i) {
    return -360 + 0.5 * static_cast<double>(i);
}

// A triangle of rigid lift: 10 mm at the nose, 0 at +/- 150 degrees.
std::vector<double> rigid() {
    std::vector<double> out(kPoints);
    for (std::size_t i = 0; i < kPoints; ++i)
        out[i] = std::max(0.0, 10e-3 * (1 - std::abs(angle(i)) / 150));
    return out;
}

struct Cycle {
    std::vector<double> asked = rigid(), lift = rigid(), rate, p = std::vector<double>(kPoints, 1e-5), spring;
    double speed_rpm = 6000;

    Metrics measure(MetricOptions options = {}) {
        if (rate.empty()) { // the slope, as a rig would take it
            rate.resize(kPoints);
            const double step_s = 0.5 / (6 * speed_rpm);
            for (std::size_t i = 0; i < kPoints; ++i)
                rate[i] = (lift[(i + 1) % 1440] - lift[(i + 1439) % 1440]) / (2 * step_s);
        }
        CycleTrace trace;
        trace.speed_rpm = speed_rpm;
        trace.lift_m = lift;
        trace.rate_m_per_s = rate;
        trace.rigid_m = asked;
        trace.cam_penetration_m = trace.link_penetration_m = trace.tip_penetration_m = p;
        trace.spring_N = spring;
        return bathmos::measure(trace, options);
    }
    void add(double from_deg, double to_deg, double lift_m) {
        for (std::size_t i = 0; i < kPoints; ++i)
            if (angle(i) >= from_deg && angle(i) <= to_deg)
                lift[i] += lift_m;
    }
};

} // namespace

class TestMetrics : public QObject {
    Q_OBJECT
  private slots:
    void a_valve_that_follows_has_no_loss_no_loft_no_shift() {
        Cycle c;
        const Metrics m = c.measure();
        NEAR(*m[Metric::Loft], 0, 0);
        NEAR(*m[Metric::LiftLoss], 0, 0);
        NEAR(*m[Metric::DurationChange], 0, 1e-12);
        NEAR(*m[Metric::ContactLoss], 0, 0);
        NEAR(*m[Metric::HeldOpen], 0, 0);
    }

    void loft_is_the_most_above_asked_in_the_main_event_only() {
        Cycle c;
        c.add(60, 61, 0.4e-3);
        c.add(140, 141, 0.9e-3); // below a tenth of the lift: not the main event
        const Metrics m = c.measure();
        NEAR(*m[Metric::Loft], 0.4e-3, 1e-12);
        NEAR(*m[Metric::LoftAngle], 60, 0.5);
    }

    void lift_loss_may_be_negative() {
        Cycle c;
        for (double& lift : c.lift)
            lift *= 1.02;
        NEAR(*c.measure()[Metric::LiftLoss], -0.2e-3, 1e-12);
    }

    void shifts_are_found_between_grid_points() {
        Cycle c;
        for (std::size_t i = 0; i < kPoints; ++i) // the same triangle, 1.3 degrees late
            c.lift[i] = std::max(0.0, 10e-3 * (1 - std::abs(angle(i) - 1.3) / 150));
        const Metrics m = c.measure();
        NEAR(*m[Metric::OpeningShift], 1.3, 1e-6);
        NEAR(*m[Metric::ClosingShift], 1.3, 1e-6);
        NEAR(*m[Metric::DurationChange], 0, 1e-6);
    }

    void contact_loss_counts_degrees_with_parts_of_steps() {
        Cycle c;
        for (std::size_t i = 0; i < kPoints; ++i) // apart between 20.25 and 24.25
            c.p[i] = std::abs(angle(i) - 22.25) - 2;
        for (const Metric m : {Metric::ContactLoss, Metric::TipContactLoss,
                               Metric::LinkContactLoss}) // each reads its own contact
            NEAR(*c.measure()[m], 4, 1e-9);
        for (std::size_t i = 0; i < kPoints; ++i) // outside the main event it does not count
            c.p[i] = angle(i) > 200 ? -1 : 1;
        NEAR(*c.measure()[Metric::ContactLoss], 0, 0);
    }

    void first_touch_and_velocity_come_from_the_cubic() {
        Cycle c;
        const double slope_per_deg = 10e-3 / 150; // closing flank
        for (double& lift : c.lift)
            lift -= 0.2e-3; // touches some degrees before the triangle's foot
        const Metrics m = c.measure();
        NEAR(*m[Metric::FirstTouch], 150 - 0.2e-3 / slope_per_deg, 1e-6);
        NEAR(*m[Metric::Seating], slope_per_deg * 6 * 6000, 1e-6);
    }

    void a_landing_by_its_approach_leaves_out_what_the_seat_gives() {
        Cycle c;
        const double slope_per_deg = 10e-3 / 150, lands_m_per_s = slope_per_deg * 6 * 6000;
        for (std::size_t i = 0; i < kPoints; ++i) // a seat that gives 5 um, and stops the valve there
            c.lift[i] = std::max(c.lift[i] - 0.2e-3, -5e-6);
        c.rate.resize(kPoints);
        for (std::size_t i = 0; i < kPoints; ++i) // slopes over a degree to either side, as of noisy readings
            c.rate[i] = (c.lift[(i + 2) % 1440] - c.lift[(i + 1438) % 1440]) / 2 * 6 * 6000;
        MetricOptions options{.touch_m = 20e-6};
        QVERIFY(std::abs(*c.measure(options)[Metric::Seating] / lands_m_per_s - 1) >
                0.1); // wherever it falls
        options.approach_deg = 2.5;
        NEAR(*c.measure(options)[Metric::Seating], lands_m_per_s, 1e-9);
        for (std::size_t i = 0; i < kPoints; ++i) // readings that are off by 4 um to either side in turn
            c.lift[i] += i % 2 == 0 ? 4e-6 : -4e-6;
        NEAR(*c.measure(options)[Metric::Seating], lands_m_per_s, 0.03 * lands_m_per_s);
    }

    void bounce_is_counted_after_touch_up_to_the_next_opening() {
        Cycle c;
        for (double& lift : c.lift)
            lift -= 1e-6;
        c.add(200, 210, 0.30e-3);
        c.add(250, 255, 0.10e-3);
        c.add(-340, -335, 0.05e-3); // over the seam of the cycle
        c.add(-100, -95, 0.5e-3);   // open: no bounce
        const Metrics m = c.measure();
        NEAR(*m[Metric::Bounce], 0.299e-3, 1e-9);
        NEAR(*m[Metric::BounceCount], 3, 0);
    }

    void ripple_is_the_spring_s_swing_while_seated() {
        Cycle c;
        c.spring.assign(kPoints, 800);
        for (double& lift : c.lift)
            lift -= 1e-6;
        for (std::size_t i = 0; i < kPoints; ++i) {
            if (angle(i) > 200)
                c.spring[i] = 800 + 50 * std::sin(angle(i) / 10);
            if (std::abs(angle(i)) < 100)
                c.spring[i] = 2000; // open
        }
        NEAR(*c.measure()[Metric::SeatRipple], 100, 0.5);
    }

    void a_valve_that_never_seats_has_no_touch_no_bounce_no_ripple() {
        Cycle c;
        c.spring.assign(kPoints, 800);
        for (double& lift : c.lift)
            lift += 0.2e-3;
        const Metrics m = c.measure();
        for (const Metric absent :
             {Metric::FirstTouch, Metric::Seating, Metric::Bounce, Metric::BounceCount, Metric::SeatRipple})
            QVERIFY(!m[absent].has_value());
        NEAR(*m[Metric::HeldOpen], 0.2e-3, 1e-12);
    }

    void a_noisy_trace_touches_at_the_level_it_is_given() {
        Cycle c;
        c.add(-360, 360, 0.015e-3); // noise never lets it reach 0
        QVERIFY(!c.measure()[Metric::FirstTouch].has_value());
        QVERIFY(c.measure({.touch_m = 0.02e-3})[Metric::FirstTouch].has_value());
    }

    void means_and_standard_deviations_over_cycles() {
        std::vector<Metrics> cycles(2);
        cycles[0][Metric::Loft] = 1;
        cycles[1][Metric::Loft] = 3;
        cycles[0][Metric::Bounce] = 5; // the other cycle never seats
        Metrics deviation;
        const Metrics mean = mean_of(cycles, &deviation);
        NEAR(*mean[Metric::Loft], 2, 0);
        NEAR(*deviation[Metric::Loft], 1, 0);
        NEAR(*mean[Metric::Bounce], 5, 0);
        QVERIFY(!mean[Metric::Seating].has_value());
        const std::vector<std::vector<double>> lifts = {{0, 1, 2}, {0, 3, 2}};
        NEAR(cycle_variation_m(lifts), 1, 0);
    }

    void every_metric_has_a_column_a_label_and_a_unit_in_its_name() {
        for (std::size_t i = 0; i < kMetrics; ++i) {
            const MetricInfo& m = info(static_cast<Metric>(i));
            QVERIFY(!m.column.empty() && !m.label.empty() && m.to_unit > 0);
            if (m.unit == "mm" || m.unit == "deg")
                QVERIFY(m.column.ends_with(m.unit));
        }
    }
};

QTEST_APPLESS_MAIN(TestMetrics)
#include "tst_metrics.moc"
