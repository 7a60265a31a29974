#include "app_fixture.h"

#include <QLabel>
#include <QLayout>
#include <QMouseEvent>
#include <QWheelEvent>

using namespace bathmos;
using namespace bathmos::test;

class TestStrip : public QObject {
    Q_OBJECT
  private slots:
    void dragging_and_keys_move_the_speed_of_all_views() {
        Fixture f;
        ThresholdStrip& strip = f.window->strip();
        const int y = strip.height() - 30;
        QTest::mousePress(&strip, Qt::LeftButton, {}, QPoint(int(strip.pixel_of(5000)), y));
        NEAR(f.window->cursors().speed_rpm(), 5000, 10);
        QTest::mouseMove(&strip, QPoint(int(strip.pixel_of(6500)), y));
        NEAR(f.window->cursors().speed_rpm(), 6500, 10);
        QTest::mouseRelease(&strip, Qt::LeftButton, {}, QPoint(int(strip.pixel_of(6500)), y));
        f.window->cursors().set_speed(6000);
        strip.setFocus();
        QTest::keyClick(&strip, Qt::Key_Right);
        NEAR(f.window->cursors().speed_rpm(), 6010, 0);
        QTest::keyClick(&strip, Qt::Key_Left, Qt::ShiftModifier);
        NEAR(f.window->cursors().speed_rpm(), 5910, 0);
        QVERIFY(strip.accessibleName().contains("5910"));
    }

    void it_holds_model_rig_rigid_and_target_with_the_numbers_of_the_core() {
        Fixture f;
        f.open_demo();
        f.window->document().set_target(8600);
        f.window->rig().import(source_path("demo/ashgill-a22-intake-after.rig.csv"));
        f.wait_for_sweep();
        f.wait_for_rig();
        const auto mark = [&](StripMark::Kind kind) -> std::optional<StripMark> {
            for (const StripMark& m : f.window->strip().marks())
                if (m.kind == kind)
                    return m;
            return std::nullopt;
        };
        using Kind = StripMark::Kind;
        QCOMPARE(mark(Kind::Model)->speed_rpm, *f.window->sweep().summary()->limit.speed_rpm);
        const Sweep core = sweep(f.window->document().train(), f.window->sweep().range());
        NEAR(mark(Kind::Model)->speed_rpm, *core.summary.limit.speed_rpm, 1e-6);
        QVERIFY(mark(Kind::Model)->text.contains("duration change"));
        QCOMPARE(mark(Kind::RigOnset)->speed_rpm, *f.window->rig().run()->onset.onset.speed_rpm);
        QVERIFY(mark(Kind::RigOnset)->half_width_rpm > 50);
        // Model and rig agree on where the hard landing starts, though no number of the model was fitted: to
        // within a step of the rig and half a step of the sweep. A lobe that fits the readings within their
        // noise can move the model's onset by a hundred.
        QVERIFY(mark(Kind::ModelOnset)->text.contains("bounce"));
        NEAR(mark(Kind::ModelOnset)->speed_rpm, mark(Kind::RigOnset)->speed_rpm,
             2 * mark(Kind::RigOnset)->half_width_rpm + f.window->sweep().range().step_rpm / 2);
        QCOMPARE(mark(Kind::Rigid)->speed_rpm, f.window->document().figures()->separation->speed_rpm);
        NEAR(mark(Kind::Target)->speed_rpm, 8600, 0);
        for (const StripMark& m : f.window->strip().marks())
            QVERIFY(f.window->strip().pixel_of(m.speed_rpm) < f.window->strip().width());
    }

    // With the lobe smoothed by one weight, the rule that these two numbers were first held to.
    void with_one_weight_limit_and_edge_stand_where_they_stood() {
        Fixture f;
        f.open_demo();
        Train next = f.window->document().train();
        std::get<LobeTable>(next.lobe.shape).smoothing.rule = SmoothingRule::Even;
        f.window->document().edit(next, "one weight");
        f.window->rig().import(source_path("demo/ashgill-a22-intake-after.rig.csv"));
        f.wait_for_sweep();
        f.wait_for_rig();
        std::optional<double> limit, model_onset, rig_edge;
        for (const StripMark& m : f.window->strip().marks()) {
            if (m.kind == StripMark::Kind::Model)
                limit = m.speed_rpm;
            if (m.kind == StripMark::Kind::ModelOnset)
                model_onset = m.speed_rpm;
            if (m.kind == StripMark::Kind::RigOnset)
                rig_edge = m.speed_rpm;
        }
        NEAR(limit.value_or(0), 7959, 8);
        NEAR(model_onset.value_or(0), rig_edge.value_or(1e9), 200);
    }

    void marks_of_an_old_result_say_so() {
        Fixture f;
        f.open_demo();
        f.few_speeds();
        f.wait_for_sweep();
        Train next = f.window->document().train();
        next.valve.mass_kg += 0.01;
        f.window->document().edit(next, "mass");
        bool old = false;
        for (const StripMark& m : f.window->strip().marks())
            old = old || (m.kind == StripMark::Kind::Model && m.old && m.text.contains("old"));
        QVERIFY(old);
        f.wait_for_sweep();
        for (const StripMark& m : f.window->strip().marks())
            QVERIFY(!m.old);
    }

    // The demo while something is tried: nine numbers, six of them within 600 rev/min.
    void words_never_stand_on_each_other_and_all_are_spoken() {
        Fixture f;
        ThresholdStrip strip(f.window->theme(), f.window->cursors());
        strip.resize(1196, strip.sizeHint().height());
        using Kind = StripMark::Kind;
        QVector<StripMark> marks;
        const auto add = [&](Kind kind, double rpm, const char* metric) {
            marks.push_back({kind, rpm, 0, QString::number(rpm) + QLatin1Char(' ') + metric, false});
        };
        add(Kind::Rigid, 9800, "");
        add(Kind::Target, 8600, "");
        add(Kind::ModelForce, 8556, "contact loss");
        add(Kind::Trial, 8338, "duration change");
        add(Kind::Model, 7969, "duration change");
        add(Kind::DynoBreak, 7662, "");
        add(Kind::RigOnset, 7642, "bounce");
        add(Kind::RigLimit, 7441, "duration change");
        add(Kind::ModelOnset, 7438, "bounce");
        const auto apart = [&] {
            const QVector<QRectF> boxes = strip.word_boxes();
            for (int i = 0; i < boxes.size(); ++i)
                for (int k = i + 1; k < boxes.size(); ++k)
                    if (boxes[i].intersects(boxes[k]))
                        return false;
            return true;
        };
        strip.set_marks(marks);
        QVERIFY(apart());
        for (const QRectF& box : strip.word_boxes()) {
            QVERIFY(!box.isEmpty());
            QVERIFY(QRectF(strip.rect()).contains(box));
        }
        for (int more = 0; more < 6; ++more) // more than there is room for: left out, not printed over
            add(Kind::Compared, 7440 + more, "duration change");
        strip.set_marks(marks);
        QVERIFY(apart());
        for (const StripMark& mark : marks)
            QVERIFY2(strip.accessibleName().contains(mark.text), qPrintable(mark.text));
    }

    void words_never_cross_another_marks_line() {
        // Drawn strips, so that no arrangement is special.
        std::uint64_t state = 7;
        const auto dice = [&](double low, double high) {
            state = state * 6364136223846793005ULL + 1442695040888963407ULL;
            return low + (high - low) * static_cast<double>(state >> 40) / 16777216.0;
        };
        int placed = 0, all = 0;
        for (int strip = 0; strip < 200; ++strip) {
            QVector<LabelWish> wishes;
            for (int i = 0; i < 9; ++i)
                wishes.push_back({dice(250, 1150), dice(120, 200), dice(80, 110)});
            const LabelRoom room{1196, 6, 15, 6, 6, QRectF(8, 6, 300, 15)};
            const QVector<PlacedLabel> labels = place_labels(wishes, room);
            for (int i = 0; i < labels.size(); ++i) {
                ++all;
                if (labels[i].box.isEmpty())
                    continue;
                ++placed;
                QVERIFY(!labels[i].box.intersects(room.taken));
                for (int k = 0; k < labels.size(); ++k) {
                    if (k == i || labels[k].box.isEmpty())
                        continue;
                    QVERIFY(!labels[i].box.intersects(labels[k].box));
                    const QRectF line(wishes[k].x - 1, labels[k].box.top(), 2, 1000);
                    QVERIFY(!labels[i].box.intersects(line));
                }
            }
        }
        QVERIFY2(placed > 0.8 * all, qPrintable(QStringLiteral("%1 of %2").arg(placed).arg(all)));
    }

    void its_range_follows_the_claims_until_somebody_looks_elsewhere() {
        Fixture f;
        ThresholdStrip strip(f.window->theme(), f.window->cursors());
        strip.resize(1196, 138);
        strip.set_reach(1000, 9500);
        strip.set_marks(
            {{StripMark::Kind::Model, 7000, 0, "7000"}, {StripMark::Kind::Target, 9000, 0, "9000"}});
        NEAR(strip.low_rpm(), 0.85 * 7000, 1e-9);
        NEAR(strip.high_rpm(), 1.1 * 9000, 1e-9);
        strip.set_band(StripBand{6500, 7000, 9800, "band", false});
        NEAR(strip.low_rpm(), 0.85 * 6500, 1e-9);
        NEAR(strip.high_rpm(), 1.1 * 9800, 1e-9);
        const double under = 8000, x = strip.pixel_of(under);
        QWheelEvent wheel(QPointF(x, 60), strip.mapToGlobal(QPointF(x, 60)), {}, QPoint(0, 240), Qt::NoButton,
                          Qt::NoModifier, Qt::NoScrollPhase, false);
        QCoreApplication::sendEvent(&strip, &wheel);
        QVERIFY(strip.high_rpm() - strip.low_rpm() < 0.8 * (1.1 * 9800 - 0.85 * 6500));
        NEAR(strip.pixel_of(under), x, 1e-6); // what is under the hand stays there
        const double low = strip.low_rpm();
        strip.set_marks({{StripMark::Kind::Model, 5000, 0, "5000"}});
        NEAR(strip.low_rpm(), low, 1e-9); // looked at elsewhere: it stays
        QTest::keyClick(&strip, Qt::Key_0);
        NEAR(strip.low_rpm(), 0.85 * 5000, 1e-9);
        const double span = strip.high_rpm() - strip.low_rpm(), from = strip.low_rpm();
        QTest::mousePress(&strip, Qt::RightButton, {}, QPoint(600, 60));
        QMouseEvent move(QEvent::MouseMove, QPointF(500, 60), strip.mapToGlobal(QPointF(500, 60)),
                         Qt::NoButton, Qt::RightButton, Qt::NoModifier);
        QCoreApplication::sendEvent(&strip, &move);
        QVERIFY(strip.low_rpm() > from);
        NEAR(strip.high_rpm() - strip.low_rpm(), span, 1e-6);
    }

    void a_claim_says_where_it_comes_from_and_leads_there() {
        Fixture f;
        f.open_demo();
        f.few_speeds();
        f.wait_for_sweep();
        ThresholdStrip& strip = f.window->strip();
        QCOMPARE(strip.chosen(), -1);
        QVERIFY(strip.agreement().contains("Only the model speaks"));
        strip.setFocus();
        QTest::keyClick(&strip, Qt::Key_Down); // the fastest claim first
        QVERIFY(strip.chosen() >= 0);
        for (int i = 0; i < 8 && strip.marks()[strip.chosen()].kind != StripMark::Kind::Model; ++i)
            QTest::keyClick(&strip, Qt::Key_Down);
        QVERIFY(strip.marks()[strip.chosen()].kind == StripMark::Kind::Model);
        QVERIFY(strip.accessibleName().contains("swept from 5000 to 8600"));
        QTest::keyClick(&strip, Qt::Key_Return);
        QVERIFY(f.find<QWidget>("station_motion")->isVisible());
        // By mouse: a click chooses and puts the cursor there, a second one goes.
        QTest::keyClick(&strip, Qt::Key_Escape);
        QCOMPARE(strip.chosen(), -1);
        for (int i = 0; i < strip.marks().size(); ++i)
            if (strip.marks()[i].kind == StripMark::Kind::Rigid) {
                const QPoint at = strip.word_boxes()[i].center().toPoint();
                QTest::mouseClick(&strip, Qt::LeftButton, {}, at);
                QCOMPARE(strip.chosen(), i);
                NEAR(f.window->cursors().speed_rpm(), strip.marks()[i].speed_rpm, 5);
                QTest::mouseClick(&strip, Qt::LeftButton, {}, at);
            }
        QVERIFY(f.find<QWidget>("station_train")->isVisible());
    }

    void a_limit_that_is_a_band_says_where_it_goes_by() {
        Fixture f;
        f.open("tests/trains/ravenmoor-t14-intake-solid.train.json");
        f.window->sweep().set_range({7000, 8600, 200});
        f.wait_for_sweep();
        const QString said = "nothing over a limit again from 7800 to 8200";
        QVERIFY2(f.find<QLabel>("build_verdict")->toolTip().contains(said),
                 qPrintable(f.find<QLabel>("build_verdict")->toolTip()));
        ThresholdStrip& strip = f.window->strip();
        strip.setFocus();
        for (int i = 0; i < 8 && !strip.accessibleName().contains(said); ++i)
            QTest::keyClick(&strip, Qt::Key_Down);
        QVERIFY2(strip.accessibleName().contains(said), qPrintable(strip.accessibleName()));
        f.window->sweep().set_range({7000, 7600, 200}); // ends within the band
        f.wait_for_sweep();
        QVERIFY(!f.find<QLabel>("build_verdict")->toolTip().contains("over a limit"));
    }

    void three_sources_are_set_against_each_other() {
        Fixture f;
        f.open_demo();
        f.window->rig().import(source_path("demo/ashgill-a22-intake-after.rig.csv"));
        f.wait_for_sweep();
        f.wait_for_rig();
        QVERIFY2(f.window->strip().agreement().startsWith("Model and rig agree"),
                 qPrintable(f.window->strip().agreement()));
    }

    // Whatever a station's words would like to have: it stood 20 px lower after one order of events.
    void the_strip_keeps_its_height_on_every_station() {
        Fixture f;
        f.open_demo();
        f.window->resize(1280, 800);
        const int wanted = f.window->strip().sizeHint().height();
        for (const QString& station : station_names()) {
            f.window->show_station(station);
            auto* greedy = new QLabel(QString(4000, QLatin1Char('m')), f.find<QWidget>(station));
            greedy->setWordWrap(true);
            greedy->setMinimumHeight(2000);
            if (auto* layout = f.find<QWidget>(station)->layout())
                layout->addWidget(greedy);
            QCoreApplication::processEvents();
            QCoreApplication::processEvents();
            QCOMPARE(f.window->strip().height(), wanted);
            delete greedy;
        }
        QCOMPARE(f.window->height(), 800);
    }

    void cursors_are_rounded_and_kept_in_range() {
        Cursors c;
        QSignalSpy told(&c, &Cursors::speed_changed);
        c.set_speed(6500.4);
        NEAR(c.speed_rpm(), 6500, 0);
        c.set_speed(6500);
        QCOMPARE(told.count(), 1);
        c.set_speed(1e9);
        NEAR(c.speed_rpm(), 30000, 0);
        c.set_crank(12.3);
        NEAR(c.crank_deg(), 12.5, 0);
        c.set_crank(-500);
        NEAR(c.crank_deg(), -360, 0);
    }

    void init() { prepare_application(); }
};

QTEST_MAIN(TestStrip)
#include "tst_strip.moc"
