#include "app/plot/map_plot.h"
#include "app/plot/plot.h"
#include "app/plot/series.h"
#include "app_fixture.h"

#include <QApplication>
#include <QClipboard>
#include <QFile>
#include <QImage>
#include <cmath>

using namespace bathmos;
using namespace bathmos::test;

namespace {

// Pixels in a picture that are close to a colour.
int count_near(const QImage& picture, const QColor& color, int tolerance = 40) {
    int count = 0;
    for (int y = 0; y < picture.height(); ++y)
        for (int x = 0; x < picture.width(); ++x) {
            const QColor c = picture.pixelColor(x, y);
            count += std::abs(c.red() - color.red()) + std::abs(c.green() - color.green()) +
                         std::abs(c.blue() - color.blue()) <
                     tolerance;
        }
    return count;
}

struct Shown {
    Theme theme;
    Plot plot{theme, "P"};
    int curve;
    Shown() {
        prepare_application();
        theme.set_look(Look::Light);
        plot.resize(500, 320);
        plot.set_axes("x", "y, mm");
        curve = plot.add_curve("a", Role::Measured);
        plot.set_curve(curve, {0, 50, 100}, {0, 10, 0});
        plot.show();
        (void)QTest::qWaitForWindowExposed(&plot);
        plot.fit();
        QCoreApplication::processEvents(); // queued replots
    }
    QWidget* canvas() { return plot.findChild<QWidget*>(); }
};

} // namespace

class TestPlot : public QObject {
    Q_OBJECT
  private slots:
    void a_curve_is_drawn_in_the_colour_of_its_role_in_both_looks() {
        Shown s;
        const QImage light = s.plot.grab().toImage();
        QVERIFY(count_near(light, color_of(Role::Measured, Look::Light)) > 300);
        s.theme.set_look(Look::Dark);
        QCoreApplication::processEvents(); // queued replots
        const QImage dark = s.plot.grab().toImage();
        QVERIFY(count_near(dark, color_of(Role::Measured, Look::Dark)) > 300);
        QVERIFY(count_near(dark, color_of(Role::Panel, Look::Dark), 10) > dark.width() * dark.height() / 2);
        s.plot.clear_curve(s.curve); // and a picture without it must differ
        s.plot.redraw();
        QCoreApplication::processEvents(); // queued replots
        QVERIFY(count_near(s.plot.grab().toImage(), color_of(Role::Measured, Look::Dark)) < 50);
    }

    void names_of_marks_stand_where_the_curve_is_not() {
        Shown s;
        const QColor colour = color_of(Role::LimitMark, Look::Light);
        const auto inked = [&](Plot::MarkWords words) { // upper and lower half
            s.plot.set_marks({{90, "one mark", Role::LimitMark}, {95, "another mark", Role::LimitMark}},
                             words);
            s.plot.redraw();
            QCoreApplication::processEvents(); // queued replots
            const QImage all = s.plot.grab().toImage();
            const int half = all.height() / 2;
            return std::pair(count_near(all.copy(0, 0, all.width(), half), colour),
                             count_near(all.copy(0, half, all.width(), half), colour));
        };
        const auto top = inked(Plot::MarkWords::Top), foot = inked(Plot::MarkWords::Foot);
        QVERIFY(top.first > top.second + 50); // lines run through both, words stand in one
        QVERIFY(foot.second > foot.first + 50);
    }

    void a_click_moves_the_cursor_there() {
        Shown s;
        QSignalSpy moved(&s.plot, &Plot::cursor_moved);
        QTest::mouseClick(s.canvas(), Qt::LeftButton, {}, s.plot.pixel_of(70, 4).toPoint());
        QCOMPARE(moved.count(), 1);
        NEAR(moved[0][0].toDouble(), 70, 0.5);
    }

    void dragging_the_cursor_line_moves_it_dragging_elsewhere_zooms() {
        Shown s;
        s.plot.set_cursor(30);
        QSignalSpy moved(&s.plot, &Plot::cursor_moved);
        const QPoint line = s.plot.pixel_of(30, 5).toPoint(), to = s.plot.pixel_of(60, 5).toPoint();
        QTest::mousePress(s.canvas(), Qt::LeftButton, {}, line);
        QTest::mouseMove(s.canvas(), to);
        QTest::mouseRelease(s.canvas(), Qt::LeftButton, {}, to);
        QVERIFY(moved.count() >= 1);
        NEAR(moved.last()[0].toDouble(), 60, 0.5);
        moved.clear();
        const double before = s.plot.pixel_of(80, 0).x() - s.plot.pixel_of(60, 0).x();
        const QPoint a = s.plot.pixel_of(55, 9).toPoint(), b = s.plot.pixel_of(85, 1).toPoint();
        QTest::mousePress(s.canvas(), Qt::LeftButton, {}, a);
        QTest::mouseMove(s.canvas(), b);
        QTest::mouseRelease(s.canvas(), Qt::LeftButton, {}, b);
        QCOMPARE(moved.count(), 0);
        const double after = s.plot.pixel_of(80, 0).x() - s.plot.pixel_of(60, 0).x();
        QVERIFY2(after > 2.5 * before, qPrintable(QString::number(after / before)));
        QTest::mouseDClick(s.canvas(), Qt::LeftButton, {}, a);
        QCoreApplication::processEvents(); // queued replots
        NEAR(s.plot.pixel_of(80, 0).x() - s.plot.pixel_of(60, 0).x(), before, 1.5);
    }

    void keys_move_zoom_fit_and_copy() {
        Shown s;
        s.plot.set_cursor_step(2);
        s.plot.set_cursor(10);
        QSignalSpy moved(&s.plot, &Plot::cursor_moved);
        QTest::keyClick(&s.plot, Qt::Key_Right);
        QTest::keyClick(&s.plot, Qt::Key_Left, Qt::ShiftModifier);
        NEAR(moved[0][0].toDouble(), 12, 1e-9);
        NEAR(moved[1][0].toDouble(), -10, 1e-9);
        const double before = s.plot.pixel_of(100, 0).x() - s.plot.pixel_of(0, 0).x();
        QTest::keyClick(&s.plot, Qt::Key_Plus);
        QVERIFY(s.plot.pixel_of(100, 0).x() - s.plot.pixel_of(0, 0).x() > 1.1 * before);
        QTest::keyClick(&s.plot, Qt::Key_Home);
        NEAR(s.plot.pixel_of(100, 0).x() - s.plot.pixel_of(0, 0).x(), before, 1.5);
        QTest::keyClick(&s.plot, Qt::Key_C, Qt::ControlModifier);
        QCOMPARE(QApplication::clipboard()->text(), QStringLiteral("x\ta (y, mm)\n0\t0\n50\t10\n100\t0\n"));
    }

    void exports_are_written_in_every_format() {
        Shown s;
        for (const auto& [ending, start] :
             {std::pair{"png", "\x89PNG"}, {"svg", "<?xml"}, {"pdf", "%PDF"}, {"csv", "x,a (y, mm)"}}) {
            const QString path = Fixture::folder().filePath(QStringLiteral("plot.") + ending);
            QVERIFY(s.plot.export_to(path));
            QFile file(path);
            QVERIFY(file.open(QIODevice::ReadOnly));
            QVERIFY(file.readAll().startsWith(start));
        }
        QVERIFY(!s.plot.export_to("/nowhere/p.csv"));
    }

    void a_gap_is_not_bridged_and_not_zero() {
        Shown s;
        s.plot.set_curve(s.curve, {0, 1, 2}, {1, std::nan(""), 3});
        QVERIFY(std::isnan(s.plot.points(s.curve)[1].y()));
        QVERIFY(s.plot.table().contains("1\t\n"));
    }

    void the_map_gives_back_its_values() {
        prepare_application();
        Theme theme;
        MapPlot map(theme, "M");
        map.set_values(3000, 3200, -10, 10, {{1, 2, 3}, {4, 5, 6}, {7, 8, 9}});
        NEAR(map.value_at(-10, 3000), 1, 0);
        NEAR(map.value_at(0, 3100), 5, 0);
        NEAR(map.value_at(10, 3200), 9, 0);
        QVERIFY(std::isnan(map.value_at(30, 3100)));
    }

    void every_role_has_contrast_in_both_looks() {
        for (const Look look : {Look::Light, Look::Dark})
            for (const Role role : {Role::Ink, Role::Faint, Role::Kinematic, Role::Predicted, Role::Measured,
                                    Role::Third, Role::LimitMark, Role::StopMark})
                for (const Role back : {Role::Paper, Role::Panel}) {
                    const double ratio = contrast(color_of(role, look), color_of(back, look));
                    QVERIFY2(
                        ratio >= 4.5,
                        qPrintable(
                            QStringLiteral("role %1 on %2: %3").arg(int(role)).arg(int(back)).arg(ratio)));
                }
        NEAR(contrast(Qt::black, Qt::white), 21, 1e-6);
    }

    void series_carry_units_and_gaps() {
        DisplayUnits units;
        std::vector<SpeedMetrics> rows(2);
        rows[0].speed_rpm = 3000;
        rows[0].metrics[Metric::Loft] = 0.254e-3;
        rows[1].speed_rpm = 3100;
        NEAR(metric_series(units, Metric::Loft, rows).value[0], 0.254, 1e-12);
        QVERIFY(std::isnan(metric_series(units, Metric::Loft, rows).value[1]));
        units.toggle();
        NEAR(metric_series(units, Metric::Loft, rows).value[0], 0.01, 1e-12);
        NEAR(*shown_limit(units, {}, Metric::Loft, 0).above, 0.25 / 25.4, 1e-9);
        NEAR(*shown_limit(units, {}, Metric::DurationChange, -6).below, -16, 1e-9);
        QVERIFY(!shown_limit(units, {}, Metric::Surge, 0).above.has_value());
    }
};

QTEST_MAIN(TestPlot)
#include "tst_plot.moc"
