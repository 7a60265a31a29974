// Papers as values: round scales, the range of a chart, pictures in their order.
#include "core/paper/paper.h"
#include "support.h"

#include <limits>

using namespace bathmos;
using namespace bathmos::paper;

class TstPaper : public QObject {
    Q_OBJECT

  private slots:
    void scales_step_by_one_two_or_five() {
        const Scale speeds = round_scale(3007, 8600, 8);
        QCOMPARE(speeds.step, 500.0);
        QCOMPARE(speeds.first, 3000.0);
        QCOMPARE(speeds.last, 9000.0);
        QCOMPARE(speeds.decimals, 0);
        const Scale small = round_scale(0, 0.0031, 5);
        NEAR(small.step, 0.0005, 1e-12);
        QCOMPARE(small.decimals, 4);
        NEAR(small.last, 0.0035, 1e-12);
        const Scale below = round_scale(-0.24, 0.1, 5);
        NEAR(below.first, -0.25, 1e-12);
        NEAR(below.step, 0.05, 1e-12);
        // What lies on a step needs no step more.
        const Scale even = round_scale(0, 10, 5);
        QCOMPARE(even.first, 0.0);
        QCOMPARE(even.last, 10.0);
    }

    void any_range_is_held_by_few_steps() {
        for (double size = 1e-6; size < 1e7; size *= 3.7)
            for (double from = -2 * size; from <= 2 * size; from += 0.31 * size) {
                const Scale scale = round_scale(from, from + size, 6);
                QVERIFY(scale.first <= from + 1e-9 * size && scale.last >= from + size - 1e-9 * size);
                const double steps = (scale.last - scale.first) / scale.step;
                QVERIFY2(steps >= 3 && steps <= 11, qPrintable(QString::number(steps)));
                NEAR(std::remainder(scale.first, scale.step), 0, 1e-6 * scale.step);
            }
    }

    void one_value_gets_room_and_what_is_counted_whole_steps() {
        const Scale one = round_scale(7, 7, 5);
        QVERIFY(one.first < 7 && one.last > 7);
        QVERIFY(round_scale(0, 0, 5).last > 0);
        QCOMPARE(round_scale(1, 2, 8, 1).step, 1.0);
        QCOMPARE(round_scale(1, 40, 8, 1).step, 5.0);
    }

    void the_range_of_a_chart_holds_curves_and_marks() {
        const double none = std::numeric_limits<double>::quiet_NaN();
        Chart chart;
        QCOMPARE(range_of(chart).x_to, 1.0); // empty
        chart.curves = {{"a", {1, 2, none, 4}, {5, none, 9, 7}, Pen::Firm}, {"b", {3}, {100}, Pen::Marks}};
        chart.upright = {{6, "limit"}};
        chart.level = {{-1, "zero"}};
        QCOMPARE(range_of(chart).x_from, 1.0);
        QCOMPARE(range_of(chart).x_to, 6.0);
        QCOMPARE(range_of(chart).y_from, -1.0);
        QCOMPARE(range_of(chart).y_to, 100.0);
        chart.most_y = 20;
        QCOMPARE(range_of(chart).y_to, 20.0);
    }

    void pictures_come_in_their_order() {
        Paper paper;
        paper.heading("one");
        paper.add(Chart{"first", "", "", {}});
        paper.words("between");
        paper.add(Chart{"second", "", "", {}});
        const auto charts = charts_of(paper);
        QCOMPARE(charts.size(), std::size_t(2));
        QCOMPARE(charts[1]->title, std::string("second"));
    }
};

QTEST_APPLESS_MAIN(TstPaper)
#include "tst_paper.moc"
