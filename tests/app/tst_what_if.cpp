// Values that are pulled, the spread and the hold, as a person meets them in the window.
#include "app/plot/plot.h"
#include "app/stations/motion/handles_panel.h"
#include "app/stations/train/train_station.h"
#include "app/widgets/number_field.h"
#include "app/widgets/number_table.h"
#include "app_fixture.h"
#include "core/motion/hold.h"

#include <QCheckBox>
#include <QComboBox>
#include <QElapsedTimer>
#include <QLabel>
#include <QPushButton>
#include <QTabWidget>
#include <hdf5.h>

using namespace bathmos;
using namespace bathmos::test;

namespace {

struct Dragged : Fixture {
    Dragged() {
        open_demo();
        window->sweep().set_range({7000, 8800, 100});
        window->show_station("station_motion");
        wait_for_sweep();
        wait_for_redraw();
    }
    NumberField* field(const QString& key) {
        return static_cast<NumberField*>(find<QLineEdit>(key)->parentWidget());
    }
    // Takes hold of a field's name and pulls it; the button stays down.
    void drag(const QString& key, int pixels) {
        DragName* name = field(key)->name();
        QTest::mousePress(name, Qt::LeftButton, {}, QPoint(4, 4));
        move(name, pixels);
    }
    void move(DragName* name, int pixels) {
        const QPointF at = QPointF(4 + pixels, 4);
        QMouseEvent event(QEvent::MouseMove, at, name->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(name, &event);
    }
    void let_go(const QString& key, int pixels) {
        QTest::mouseRelease(field(key)->name(), Qt::LeftButton, {}, QPoint(4 + pixels, 4));
    }
    std::optional<double> mark(StripMark::Kind kind) {
        for (const StripMark& m : window->strip().marks())
            if (m.kind == kind)
                return m.speed_rpm;
        return std::nullopt;
    }
    double limit() { return *window->sweep().summary()->limit.speed_rpm; }
    QString answer() { return find<QLabel>("what_if_answer")->text(); }
};

} // namespace

class TestWhatIf : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    void pulling_a_name_moves_limit_and_curve_before_anything_is_decided() {
        Dragged f;
        f.window->cursors().set_speed(7800);
        const double before = f.limit();
        const Train untouched = f.window->document().train();
        f.drag("handle.pushrod_wall", 40); // ten steps of 0.05 mm
        QVERIFY(f.window->document().train() == untouched);
        QTRY_VERIFY_WITH_TIMEOUT(f.mark(StripMark::Kind::Trial).has_value(), kPatience_ms);
        QTRY_VERIFY_WITH_TIMEOUT(f.window->what_if().stage() == WhatIf::Stage::Refined, kPatience_ms);
        QVERIFY(*f.mark(StripMark::Kind::Trial) > before + 50); // a stiffer rod runs faster here
        NEAR(*f.mark(StripMark::Kind::Model), before, 1e-9);    // and what was before stands beside it
        QVERIFY2(f.answer().contains("before") && f.answer().contains("→"), qPrintable(f.answer()));
        QTRY_VERIFY(!f.find<Plot>("Lift")->points(2).isEmpty()); // the trial's own curve
        f.let_go("handle.pushrod_wall", 40);
        NEAR(f.window->document().train().pushrod->wall_m, untouched.pushrod->wall_m + 0.5e-3, 1e-9);
        QVERIFY(f.window->document().train().pushrod->mass_kg > untouched.pushrod->mass_kg);
        f.wait_for_sweep();
        NEAR(*f.mark(StripMark::Kind::Before), before, 1e-9);
        QVERIFY(f.limit() > before + 50);
        QVERIFY(!f.mark(StripMark::Kind::Trial).has_value());
        QTest::mouseClick(f.find<QPushButton>("forget_before"), Qt::LeftButton);
        QVERIFY(!f.mark(StripMark::Kind::Before).has_value());
        f.trigger("undo");
        QVERIFY(f.window->document().train() == untouched);
    }

    void the_refined_trial_is_what_a_sweep_of_it_gives() {
        Dragged f;
        f.drag("handle.valve_mass", 20);
        QTRY_VERIFY_WITH_TIMEOUT(f.window->what_if().stage() == WhatIf::Stage::Refined, kPatience_ms);
        const double trial = f.window->what_if().limit()->speed_rpm;
        f.let_go("handle.valve_mass", 20);
        f.wait_for_sweep();
        NEAR(f.limit(), trial, 1e-6);
    }

    void escape_leaves_all_as_it_was() {
        Dragged f;
        const Train untouched = f.window->document().train();
        const QString shown = f.find<QLineEdit>("handle.lash")->text();
        f.drag("handle.lash", 24);
        QVERIFY(f.find<QLineEdit>("handle.lash")->text() != shown);
        QTest::keyClick(f.field("handle.lash")->name(), Qt::Key_Escape);
        QVERIFY(!f.window->what_if().active());
        QCOMPARE(f.find<QLineEdit>("handle.lash")->text(), shown);
        f.let_go("handle.lash", 24);
        QVERIFY(f.window->document().train() == untouched);
        QVERIFY(!f.window->document().modified());
    }

    void keys_step_a_value_as_one_undoable_edit() {
        Dragged f;
        const double before = f.window->document().train().valve.mass_kg;
        auto* edit = f.find<QLineEdit>("handle.valve_mass");
        edit->setFocus();
        QTest::keyClick(edit, Qt::Key_Down);
        QTest::keyClick(edit, Qt::Key_Down);
        NEAR(f.window->document().train().valve.mass_kg, before - 2e-3, 1e-12);
        f.trigger("undo");
        NEAR(f.window->document().train().valve.mass_kg, before, 1e-12);
    }

    void a_trial_that_cannot_be_says_so_and_keeps_the_train() {
        Dragged f;
        f.drag("handle.installed_height", -4 * 250); // 25 mm of shims: the springs are solid
        QTRY_VERIFY(f.answer().contains("solid height"));
        QVERIFY(!f.mark(StripMark::Kind::Trial).has_value());
        QTest::keyClick(f.field("handle.installed_height")->name(), Qt::Key_Escape);
        QVERIFY(f.window->document().problems().empty());
    }

    void a_change_of_a_train_whose_lobe_is_none_is_told_and_moves_nothing() {
        Dragged f;
        Train flat = f.window->document().train();
        LobeTable none;
        for (int deg = -180; deg < 180; ++deg) {
            none.angle.push_back(deg);
            none.lift.push_back(0);
        }
        flat.lobe.shape = none;
        f.window->document().edit(flat, QString(), QStringLiteral("a flat lobe"));
        f.wait_for_redraw();
        const Train before = f.window->document().train();
        f.type("handle.load_same_margin", "900");
        f.wait_for_redraw();
        QVERIFY2(f.answer().startsWith("Not changed."), qPrintable(f.answer()));
        CONTAINS(f.answer().toStdString(), "the lift is only");
        QVERIFY(f.window->document().train() == before);
    }

    void a_hand_that_does_not_rest_is_followed() {
        Dragged f;
        f.drag("handle.spring_rate", 4);
        int seen = 0;
        QObject::connect(&f.window->what_if(), &WhatIf::changed, f.window.get(),
                         [&] { seen += f.window->what_if().stage() == WhatIf::Stage::Coarse; });
        QElapsedTimer patience;
        patience.start();
        int at = 4;
        for (int i = 0; seen < 3 && patience.elapsed() < kPatience_ms; ++i) {
            at = 8 + 4 * (i % 58);
            f.move(f.field("handle.spring_rate")->name(), at);
            QTest::qWait(25);
        }
        QVERIFY2(seen >= 3, qPrintable(QString::number(seen))); // answers came while it moved
        QTRY_VERIFY_WITH_TIMEOUT(f.window->what_if().stage() == WhatIf::Stage::Refined, kPatience_ms);
        f.let_go("handle.spring_rate", at);
    }

    void numbers_of_the_train_form_can_be_pulled_too() {
        Dragged f;
        f.window->show_station("station_train");
        f.drag("rocker.stiffness_N_per_mm", -80); // ten per cent down
        QTRY_VERIFY_WITH_TIMEOUT(f.window->what_if().stage() == WhatIf::Stage::Refined, kPatience_ms);
        const double before = f.window->document().train().rocker->stiffness_N_per_m;
        f.let_go("rocker.stiffness_N_per_mm", -80);
        NEAR(f.window->document().train().rocker->stiffness_N_per_m, 0.9 * before, 0.001 * before);
    }

    void the_spread_stands_on_the_strip_and_names_its_drivers() {
        Dragged f;
        f.window->uncertainty().set_trains(40);
        f.window->uncertainty().start();
        QTRY_VERIFY_WITH_TIMEOUT(!f.window->uncertainty().running(), 4 * kPatience_ms);
        const LimitUncertainty* s = f.window->uncertainty().uncertainty();
        QVERIFY(s && s->trains == 40);
        QVERIFY(f.window->strip().band().has_value());
        NEAR(*f.window->strip().band()->low_rpm, *s->low_rpm, 0);
        QVERIFY(f.window->strip().accessibleName().contains("over tolerances"));
        f.find<QTabWidget>("motion_tabs")->setCurrentIndex(1);
        auto* table = f.find<NumberTable>("uncertainty_table");
        QTRY_VERIFY(table->cell(0, 5).contains("%"));
        QCOMPARE(table->cell(0, 0), QString::fromStdString(s->drivers.front().input.label));
        QVERIFY(f.find<QLabel>("uncertainty_headline")->text().contains("40 trains"));
        f.type("handle.valve_mass", "70");
        QVERIFY(f.window->uncertainty().old() && f.window->strip().band()->old);
    }

    void a_tolerance_is_an_edit_that_is_saved_and_undone() {
        Dragged f;
        f.find<QTabWidget>("motion_tabs")->setCurrentIndex(1);
        auto* table = f.find<NumberTable>("uncertainty_table");
        QTRY_VERIFY(table->rowCount() > 20);
        int row = 0;
        while (table->cell(row, 0) != "Lash")
            ++row;
        table->setCurrentCell(row, 0);
        f.type("tolerance", "0.08");
        NEAR(f.window->document().train().tolerances.at("lash_mm").plus_minus, 0.08e-3, 1e-12);
        QTRY_VERIFY(table->cell(table->currentRow(), 4).contains("set"));
        f.next_path = Fixture::folder().filePath("tolerance.bathmos");
        f.trigger("keep_project");
        QVERIFY(!f.window->document().modified());
        f.trigger("undo");
        QVERIFY(f.window->document().train().tolerances.empty());
    }

    void a_hold_shows_how_things_develop_and_grows_old_with_an_edit() {
        Dragged f;
        f.window->cursors().set_speed(7300);
        f.find<QTabWidget>("motion_tabs")->setCurrentIndex(2);
        f.type("hold_seconds", "0.2");
        QTest::mouseClick(f.find<QPushButton>("run_hold"), Qt::LeftButton);
        auto* words = f.find<QLabel>("hold_words");
        QTRY_VERIFY_WITH_TIMEOUT(words->text().contains("12 cycles at 7300"), kPatience_ms);
        const Hold truth = hold(f.window->document().train(), 7300, 0.2);
        auto* plot = f.find<Plot>("Hold");
        QCOMPARE(plot->points(0).size(), 12);
        NEAR(plot->points(0).last().y(), truth.points.back().peak_m * 1e3, 1e-9);
        f.find<QComboBox>("hold_what")->setCurrentIndex(4);
        NEAR(plot->points(0).last().y(), truth.points.back().seat_load_N, 1e-6);
        f.type("handle.valve_mass", "60");
        QVERIFY(plot->note().contains("old"));
    }

    void stop_ends_everything_within_a_blink() {
        Dragged f;
        f.type("hold_seconds", "20");
        f.find<QTabWidget>("motion_tabs")->setCurrentIndex(2);
        QTest::mouseClick(f.find<QPushButton>("run_hold"), Qt::LeftButton);
        f.window->uncertainty().start();
        f.window->sweep().restart();
        QTRY_VERIFY(f.window->uncertainty().running() &&
                    f.window->sweep().state() == SweepRunner::State::Running);
        f.trigger("stop");
        QVERIFY(!f.window->uncertainty().running());
        QVERIFY(f.window->sweep().state() == SweepRunner::State::Stopped);
        QVERIFY(f.find<QLabel>("hold_words")->text().contains("stopped"));
    }

    void motion_that_does_not_repeat_is_a_cloud_and_no_curve() {
        Dragged f;
        for (const auto& [rpm, motion] : f.window->sweep().current().motions)
            if (!motion->periodic)
                f.window->cursors().set_speed(rpm);
        QTRY_VERIFY(f.find<QLabel>("motion_shown")->text().contains("does not repeat"));
        QVERIFY(f.find<Plot>("Lift")->points(1).isEmpty());
        QVERIFY(f.find<Plot>("Lift")->note().contains("last 8 cycles"));
        QVERIFY(f.find<NumberTable>("metric_table")->cell(0, 1).contains("±"));
    }

    void results_go_out_as_tables_and_hdf5() {
        Dragged f;
        f.window->cursors().set_speed(7500);
        f.next_path = Fixture::folder().filePath("motion.csv");
        f.trigger("export_results");
        QFile csv(f.next_path);
        QVERIFY(csv.open(QIODevice::ReadOnly));
        const QStringList lines = QString::fromUtf8(csv.readAll()).split('\n');
        QCOMPARE(lines[0], "# rpm: 7500");
        QVERIFY(lines[2].startsWith("crank_deg,kinematic_mm,lift_mm") && lines[2].contains("coil_18_mm"));
        QCOMPARE(lines.size(), 3 + 1441 + 1);
        const Motion& m = *f.window->sweep().current().motions.at(7500);
        NEAR(lines[3 + 720].split(',')[2].toDouble(), m[Channel::Lift][720] * 1e3, 1e-4);
        f.next_path = Fixture::folder().filePath("motions.h5");
        f.trigger("export_results");
        const hid_t file = H5Fopen(qPrintable(f.next_path), H5F_ACC_RDONLY, H5P_DEFAULT);
        QVERIFY(file >= 0);
        const hid_t set = H5Dopen2(file, "/speed_07500/spring_N", H5P_DEFAULT);
        std::vector<double> spring(kGridPoints);
        QVERIFY(H5Dread(set, H5T_NATIVE_DOUBLE, H5S_ALL, H5S_ALL, H5P_DEFAULT, spring.data()) >= 0);
        QVERIFY(spring == m[Channel::SpringForce]);
        QVERIFY(H5Lexists(file, "/speed_08800/coils_mm", H5P_DEFAULT) > 0);
        H5Dclose(set);
        H5Fclose(file);
        f.next_path = "/nowhere/motions.h5";
        f.trigger("export_results");
        QVERIFY(f.window->message().contains("not exported"));
    }

    void slow_motion_turns_the_crank_and_says_its_scale() {
        Dragged f;
        f.window->show_station("station_train");
        f.window->cursors().set_speed(7800);
        f.window->cursors().set_crank(0);
        QTest::mouseClick(f.find<QPushButton>("play"), Qt::LeftButton);
        QTRY_VERIFY(f.window->cursors().crank_deg() > 10);
        QTest::mouseClick(f.find<QPushButton>("play"), Qt::LeftButton);
        const double at = f.window->cursors().crank_deg();
        QVERIFY(!f.find<TrainStation>("station_train")->playing()); // no tick will come
        QCoreApplication::processEvents();
        NEAR(f.window->cursors().crank_deg(), at, 0);
        auto* view = f.find<QWidget>("train_view");
        f.window->cursors().set_crank(0);
        const QString plain = view->accessibleName();
        f.find<QComboBox>("exaggeration")->setCurrentIndex(2);
        QVERIFY(view->accessibleName() != plain); // ten times the flex: another lift
        QTest::mouseClick(f.find<QPushButton>("play"), Qt::LeftButton);
        f.window->show_station("station_motion"); // nobody looks: it ends by itself
        QTRY_VERIFY(!f.find<QPushButton>("play")->isChecked());
    }
};

QTEST_MAIN(TestWhatIf)
#include "tst_what_if.moc"
