#include "app/plot/map_plot.h"
#include "app/plot/plot.h"
#include "app/stations/motion/motion_station.h"
#include "app/stations/motion/spring_need_panel.h"
#include "app/widgets/number_table.h"
#include "app_fixture.h"

#include <QElapsedTimer>
#include <QLabel>

using namespace bathmos;
using namespace bathmos::test;

namespace {

struct Motions : Fixture {
    Motions() {
        open_demo();
        few_speeds();
        window->show_station("station_motion");
        wait_for_sweep();
        wait_for_redraw();
    }
    Plot* lift() { return find<Plot>("Lift"); }
    QVector<QPointF> predicted() { return lift()->points(1); }
};

double largest_difference(const QVector<QPointF>& points, const std::vector<double>& si) {
    double worst = points.size() == qsizetype(si.size()) ? 0 : 1e9;
    for (qsizetype i = 0; i < points.size() && worst < 1e9; ++i)
        worst = std::max(worst, std::abs(points[i].y() - si[std::size_t(i)] * 1e3));
    return worst;
}

} // namespace

class TestMotionStation : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    void curves_are_the_computed_motion_at_the_speed_nearest_the_cursor() {
        Motions f;
        f.window->cursors().set_speed(6790);
        QTRY_VERIFY(f.find<QLabel>("motion_shown")->text().contains("6800"));
        QVERIFY(f.find<QLabel>("motion_shown")->text().contains("nearest the cursor"));
        const Motion& m = *f.window->sweep().current().motions.at(6800);
        NEAR(largest_difference(f.predicted(), m[Channel::Lift]), 0, 1e-9);
        NEAR(largest_difference(f.lift()->points(0), f.window->sweep().current().rigid_m), 0, 1e-9);
        f.window->cursors().set_speed(5000);
        QTRY_VERIFY(largest_difference(f.predicted(),
                                       f.window->sweep().current().motions.at(5000)->channel[0]) < 1e-9);
    }

    void the_spring_that_the_target_needs_stands_among_lines_of_equal_limit() {
        Motions f;
        auto* panel = f.window->findChild<SpringNeedPanel*>();
        f.find<QTabWidget>("motion_tabs")->setCurrentWidget(panel);
        panel->set_steps(2);
        auto* words = f.find<QLabel>("need_words");
        QVERIFY(words->text().contains("keep the target"));
        f.window->document().set_target(7000);
        QTest::mouseClick(f.find<QPushButton>("need_run"), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(words->text().contains("Most margin"), kPatience_ms);
        QVERIFY(words->text().contains("Tolerances are not counted"));
        const Plot* plot = panel->findChild<Plot*>();
        const SpringPoint now = spring_point(f.window->document().train());
        const QVector<QPointF> drawn = plot->points(6); // behind the target's line and five
        QCOMPARE(drawn.size(), 1);
        NEAR(drawn[0].x(), now.rate_N_per_m * 1e-3, 1e-6);
        NEAR(drawn[0].y(), now.seat_N, 1e-6);
        // A bound that no spring keeps.
        auto* open = f.find<QLineEdit>("need_open");
        open->setFocus();
        open->selectAll();
        QTest::keyClicks(open, "1");
        QTest::keyClick(open, Qt::Key_Return);
        QTest::mouseClick(f.find<QPushButton>("need_run"), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(words->text().contains("None of the springs tried"), kPatience_ms);
        // After an edit it is of before.
        Train next = f.window->document().train();
        next.lash_m += 0.05e-3;
        f.window->document().edit(next, "wider");
        QVERIFY(words->text().contains("old"));
    }

    void moving_the_speed_cursor_redraws_at_once() {
        Motions f;
        QElapsedTimer clock;
        clock.start();
        for (int i = 0; i < 10; ++i) {
            f.window->cursors().set_speed(i % 2 ? 5000 : 8000);
            const Motion& m = *f.window->sweep().current().motions.at(i % 2 ? 5000 : 8000);
            QTRY_VERIFY(largest_difference(f.predicted(), m[Channel::Lift]) < 1e-9);
        }
        QVERIFY2(clock.elapsed() < 5000,
                 qPrintable(QString::number(clock.elapsed()))); // no sweep was waited for
    }

    void an_edit_shows_old_results_as_old_until_the_new_ones_are_there() {
        Motions f;
        f.window->cursors().set_speed(8000);
        QTRY_VERIFY(f.find<QLabel>("motion_shown")->text().contains("8000"));
        const QVector<QPointF> before = f.predicted();
        Train next = f.window->document().train();
        next.pushrod->end_stiffness_N_per_m = 200e6;
        QElapsedTimer clock;
        clock.start();
        f.window->document().edit(next, "stiffer");
        // before any event is handled: what is shown is the earlier result, and called old
        QVERIFY(f.window->sweep().shown_at(8000).motion && f.window->sweep().shown_at(8000).old);
        QTRY_VERIFY(f.lift()->is_faded(1) || f.window->sweep().current().motions.size() > 0);
        if (f.lift()->is_faded(1)) {
            QVERIFY(f.lift()->note().contains("old"));
            QVERIFY(f.find<NumberTable>("metric_table")->horizontalHeaderItem(1)->text().contains("old"));
            QCOMPARE(f.predicted(), before);
        }
        f.wait_for_sweep();
        QTRY_VERIFY(!f.lift()->is_faded(1) && f.lift()->note().isEmpty());
        QTRY_VERIFY(f.predicted() != before);
        // plots gather their redraws: the nearest speed that was done first may stand there for a moment
        QTRY_VERIFY(largest_difference(f.predicted(),
                                       f.window->sweep().current().motions.at(8000)->channel[0]) < 1e-9);
    }

    void results_of_an_earlier_edit_never_appear() {
        Motions f;
        for (const double mass : {0.060, 0.065, 0.070, 0.075}) { // each edit overtakes the sweep before it
            Train next = f.window->document().train();
            next.valve.mass_kg = mass;
            f.window->document().edit(next, "mass");
            QTRY_VERIFY_WITH_TIMEOUT(!f.window->sweep().current().motions.empty(), kPatience_ms); // it runs
        }
        f.wait_for_sweep();
        const Motion truth = simulate_one(f.window->document().train(), 8000);
        QVERIFY(f.window->sweep().current().motions.at(8000)->channel[0] == truth[Channel::Lift]);
        QCOMPARE(f.window->sweep().current().revision, f.window->document().revision());
    }

    void the_metric_table_tells_value_limit_and_crossing() {
        Motions f;
        f.window->cursors().set_speed(8600);
        auto* table = f.find<NumberTable>("metric_table");
        const SweepSummary& s = *f.window->sweep().summary();
        QTRY_COMPARE(
            table->cell(2, 1),
            QString::number(*f.window->sweep().current().motions.at(8600)->metrics[Metric::Seating], 'f', 2));
        for (int row = 0; row < 7; ++row)
            for (const Crossing& c : s.limit.crossings)
                if (table->cell(row, 0) == QString::fromUtf8(info(c.limit.metric).label.data()))
                    QCOMPARE(table->cell(row, 4), c.speed_rpm ? QString::number(*c.speed_rpm, 'f', 0)
                                                              : QStringLiteral("not in range"));
        QCOMPARE(table->cell(0, 3), QStringLiteral("6.00"));
    }

    void choosing_a_metric_by_key_shows_it_over_speed() {
        Motions f;
        auto* table = f.find<NumberTable>("metric_table");
        table->setFocus();
        table->setCurrentCell(0, 0);
        QTest::keyClick(table, Qt::Key_Down);
        QTest::keyClick(table, Qt::Key_Down);
        QVERIFY(static_cast<MotionStation*>(f.find<QWidget>("station_motion"))->selected_metric() ==
                Metric::Seating);
        const QVector<QPointF> points = f.find<Plot>("Metric over speed")->points(1);
        QCOMPARE(points.size(), qsizetype(f.window->sweep().current().motions.size()));
        for (const QPointF& p : points)
            NEAR(p.y(), *f.window->sweep().current().motions.at(p.x())->metrics[Metric::Seating], 1e-12);
    }

    void the_map_is_valve_less_asked() {
        Motions f;
        auto* map = f.find<MapPlot>("Valve less kinematic lift, by speed and angle");
        const SweepResult& r = f.window->sweep().current();
        const std::size_t i = std::size_t((0 + 360) / 0.5);
        QTRY_VERIFY(std::abs(map->value_at(0, 8000) -
                             (r.motions.at(8000)->channel[0][i] - r.rigid_m[i]) * 1e3) < 1e-9);
    }

    void a_place_in_the_map_moves_both_cursors() {
        Motions f;
        auto* map = f.find<MapPlot>("Valve less kinematic lift, by speed and angle");
        QTest::mouseClick(map->findChild<QWidget*>(), Qt::LeftButton, {}, map->pixel_of(60, 6500).toPoint());
        NEAR(f.window->cursors().crank_deg(), 60, 3);
        NEAR(f.window->cursors().speed_rpm(), 6500, 60);
        map->setFocus();
        const double before = f.window->cursors().speed_rpm();
        QTest::keyClick(map, Qt::Key_Up);
        NEAR(f.window->cursors().speed_rpm(), before + 10, 0);
        QTest::keyClick(map, Qt::Key_Down, Qt::ShiftModifier);
        NEAR(f.window->cursors().speed_rpm(), before - 90, 0);
    }

    void the_metric_that_limits_is_shown_first() {
        Motions f;
        const Metric limiting = f.window->sweep().summary()->limit.first->metric;
        QTRY_VERIFY(static_cast<MotionStation*>(f.find<QWidget>("station_motion"))->selected_metric() ==
                    limiting);
    }

    void clicking_in_a_plot_moves_the_crank_angle_of_all() {
        Motions f;
        Plot* forces = f.find<Plot>("Forces");
        QTest::mouseClick(forces->findChild<QWidget*>(), Qt::LeftButton, {},
                          forces->pixel_of(90, 1000).toPoint());
        NEAR(f.window->cursors().crank_deg(), 90, 2);
        NEAR(f.lift()->cursor(), f.window->cursors().crank_deg(), 0);
        NEAR(f.find<Plot>("Coils")->cursor(), f.window->cursors().crank_deg(), 0);
    }

    void a_stopped_sweep_keeps_what_it_has_and_can_be_run_again() {
        Motions f;
        f.window->sweep().set_range({3000, 9000, 10});
        QTRY_VERIFY_WITH_TIMEOUT(f.window->sweep().current().motions.size() > 5, kPatience_ms);
        f.trigger("stop");
        QVERIFY(f.window->sweep().state() == SweepRunner::State::Stopped);
        const std::size_t kept = f.window->sweep().current().motions.size();
        QCoreApplication::processEvents(); // what was posted before the stop would come now
        QCOMPARE(f.window->sweep().current().motions.size(), kept);
        f.few_speeds();
        f.wait_for_sweep();
    }

    void inch_changes_every_plot() {
        Motions f;
        f.window->cursors().set_speed(8000);
        QTRY_VERIFY(f.find<QLabel>("motion_shown")->text().contains("8000"));
        const double mm = f.predicted()[720].y();
        f.trigger("units");
        QTRY_VERIFY(std::abs(f.predicted()[720].y() - mm / 25.4) < 1e-9);
        QVERIFY(f.lift()->table().contains("valve lift, in"));
    }
};

QTEST_MAIN(TestMotionStation)
#include "tst_motion_station.moc"
