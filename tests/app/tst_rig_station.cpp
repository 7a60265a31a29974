#include "app/plot/plot.h"
#include "app/stations/rig/rig_import_dialog.h"
#include "app/stations/rig/rig_station.h"
#include "app/widgets/number_table.h"
#include "app_fixture.h"

#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QTimer>

using namespace bathmos;
using namespace bathmos::test;

namespace {

const char* kRun = "demo/ashgill-a22-intake-after.rig.csv";

struct Rigs : Fixture {
    Rigs() {
        open_demo();
        few_speeds();
        window->show_station("station_rig");
    }
    void import(const QString& path) {
        window->rig().import(path);
        wait_for_rig();
        QVERIFY2(window->rig().run(), qPrintable(window->rig().failure()));
        wait_for_sweep();
        wait_for_redraw();
    }
    QString told(const QString& what) {
        auto* table = find<NumberTable>("rig_summary");
        for (int row = 0; row < table->rowCount(); ++row)
            if (table->cell(row, 0) == what)
                return table->cell(row, 1);
        return {};
    }
};

} // namespace

class TestRigStation : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    void asked_predicted_and_seen_stand_on_one_plot_at_the_named_speed() {
        Rigs f;
        f.import(source_path(kRun));
        f.window->cursors().set_speed(7850);
        QTRY_VERIFY(f.find<QLabel>("rig_shown")->text().contains("measured at 7798"));
        QVERIFY(f.find<QLabel>("rig_shown")->text().contains("predicted at"));
        auto* plot = f.find<Plot>("Kinematic, predicted, measured");
        const RigRun& run = *f.window->rig().run();
        const RigStep& step = run.steps[run.nearest(7850)];
        QCOMPARE(plot->points(2).size(), qsizetype(kGridPoints));
        for (int i = 0; i < int(kGridPoints); i += 37)
            NEAR(plot->points(2)[i].y(), step.lift_m[std::size_t(i)] * 1e3, 1e-9);
        QVERIFY(!plot->points(0).isEmpty() && !plot->points(1).isEmpty());
        const QVector<QPointF> seen = plot->points(2);
        f.window->cursors().set_speed(4000);
        QTRY_VERIFY(plot->points(2) != seen);
    }

    void summary_and_table_are_the_core_s_numbers() {
        Rigs f;
        f.import(source_path(kRun));
        const RigRun& run = *f.window->rig().run();
        QVERIFY(f.told("Onset").startsWith(QString::number(*run.onset.onset.speed_rpm, 'f', 0)));
        QVERIFY(f.told("Onset").contains("bounce"));
        QVERIFY(f.told("Cycles left out").contains("spike"));
        QVERIFY(f.told("File").contains("intake 3"));
        NEAR(f.told("Scale, rig over model").toDouble(), run.scale_ratio, 1e-4);
        auto* steps = f.find<NumberTable>("rig_steps");
        QCOMPARE(steps->rowCount(), int(run.steps.size()));
        NEAR(steps->cell(10, 4).toDouble(), *run.steps[10].metrics.in_unit(Metric::LiftLoss), 0.0006);
        steps->setFocus();
        steps->clearSelection();
        QTest::keyClick(steps, Qt::Key_C, Qt::ControlModifier);
        QCOMPARE(QApplication::clipboard()->text().count('\n'), 1 + steps->rowCount());
    }

    void model_and_rig_stand_together_over_speed() {
        Rigs f;
        f.import(source_path(kRun));
        auto* choice = f.find<QComboBox>("rig_metric");
        choice->setCurrentText("Lift loss");
        auto* plot = f.find<Plot>("Model and rig over speed");
        QCOMPARE(plot->points(0).size(), qsizetype(f.window->sweep().current().motions.size()));
        QCOMPARE(plot->points(1).size(), qsizetype(f.window->rig().run()->steps.size()));
        NEAR(plot->points(1)[3].y(), *f.window->rig().run()->steps[3].metrics.in_unit(Metric::LiftLoss),
             1e-9);
    }

    void enter_on_a_row_moves_the_speed_cursor() {
        Rigs f;
        f.import(source_path(kRun));
        auto* steps = f.find<NumberTable>("rig_steps");
        steps->setFocus();
        steps->setCurrentCell(5, 0);
        QTest::keyClick(steps, Qt::Key_Return);
        NEAR(f.window->cursors().speed_rpm(), std::round(f.window->rig().run()->steps[5].speed_rpm), 0);
    }

    void the_import_dialogue_maps_columns_and_units_and_previews() {
        Rigs f;
        f.next_path = source_path(kRun);
        int rows = 0;
        Press press("rig_import", [&](QDialog* dialog) {
            rows = dialog->findChild<NumberTable*>("rig_preview")->rowCount();
            QCOMPARE(dialog->findChild<QComboBox*>("import_lift")->currentText(), QStringLiteral("lift_mm"));
            QCOMPARE(dialog->findChild<QComboBox*>("import_angle")->currentText(),
                     QStringLiteral("crank_deg"));
            dialog->findChild<QPushButton*>("rig_accept")->click();
        });
        f.trigger("import_rig");
        QVERIFY(press.came);
        QVERIFY(rows >= 10);
        f.wait_for_rig();
        QVERIFY(f.window->rig().run());
        QCOMPARE(f.asked.last(), QByteArray("open_rig"));
    }

    void columns_with_other_names_are_chosen_by_hand() {
        const QString path = Fixture::folder().filePath("odd.csv");
        QFile in(source_path(kRun)), out(path);
        QVERIFY(in.open(QIODevice::ReadOnly) && out.open(QIODevice::WriteOnly));
        out.write(in.readAll().replace("rpm,cycle,crank_deg,lift_mm", "n,turn,pos,gap"));
        out.close();
        RigImportDialog dialog(path);
        QVERIFY(dialog.missing().contains("valve lift"));
        QVERIFY(!dialog.findChild<QPushButton*>("rig_accept")->isEnabled());
        dialog.findChild<QComboBox*>("import_lift")->setCurrentText("gap");
        dialog.findChild<QComboBox*>("import_rpm")->setCurrentText("n");
        dialog.findChild<QComboBox*>("import_cycle")->setCurrentText("turn");
        dialog.findChild<QComboBox*>("import_angle")->setCurrentText("pos");
        QCOMPARE(dialog.missing(), QString());
        QVERIFY(dialog.findChild<QPushButton*>("rig_accept")->isEnabled());
        dialog.findChild<QComboBox*>("import_lift_unit")->setCurrentText("in");
        NEAR(dialog.wanted().columns.lift_to_mm, 25.4, 0);
        dialog.findChild<QComboBox*>("import_lift_unit")->setCurrentText("mm");
        Rigs f;
        f.window->rig().import(dialog.wanted());
        f.wait_for_rig();
        QCOMPARE(f.window->rig().run()->steps.size(), std::size_t{29});
    }

    void a_time_based_trace_asks_for_time_and_index() {
        const QString path = source_path("demo/ashgill-a22-intake-after-time.rig.csv");
        RigImportDialog dialog(path);
        QCOMPARE(dialog.findChild<QComboBox*>("import_basis")->currentIndex(), 1);
        QVERIFY(!dialog.findChild<QComboBox*>("import_angle")->isEnabled());
        QCOMPARE(dialog.missing(), QString());
        dialog.findChild<QComboBox*>("import_index")->setCurrentIndex(0);
        QVERIFY(dialog.missing().contains("index pulse"));
        dialog.findChild<QComboBox*>("import_index")->setCurrentText("index");
        Rigs f;
        f.window->rig().import(dialog.wanted());
        f.wait_for_rig();
        QCOMPARE(f.window->rig().run()->steps.size(), std::size_t{6});
    }

    void an_hdf5_trace_needs_no_mapping() {
        Rigs f;
        static_cast<RigStation*>(f.find<QWidget>("station_rig"))
            ->import_file(source_path("demo/ashgill-a22-intake-before.rig.h5"));
        f.wait_for_rig();
        QCOMPARE(f.window->rig().run()->steps.size(), std::size_t{29});
    }

    void a_reversed_sensor_is_told_and_mended_in_the_dialogue() {
        const QString path = Fixture::folder().filePath("reversed.csv");
        QFile in(source_path(kRun)), out(path);
        QVERIFY(in.open(QIODevice::ReadOnly) && out.open(QIODevice::WriteOnly));
        for (QByteArray line : in.readAll().split('\n')) {
            const auto comma = line.lastIndexOf(',');
            if (comma > 0 && line.front() != '#' && line.front() != 'r' && comma + 1 < line.size())
                line = line.left(comma + 1) + QByteArray::number(-line.mid(comma + 1).toDouble(), 'f', 3);
            out.write(line + '\n');
        }
        out.close();
        Rigs f;
        f.window->rig().import(path);
        f.wait_for_rig();
        QVERIFY(!f.window->rig().run());
        QVERIFY(f.window->rig().failure().contains("reads backwards"));
        QTRY_VERIFY(f.find<QLabel>("rig_failure")->text().contains("reversed"));
        RigImportDialog dialog(path);
        dialog.findChild<QCheckBox*>("import_reversed")->setChecked(true);
        f.window->rig().import(dialog.wanted());
        f.wait_for_rig();
        QVERIFY(f.window->rig().run());
        QVERIFY(*f.window->rig().run()->onset.onset.speed_rpm > 7500);
    }

    void a_bad_file_leaves_the_run_in_hand_and_explains_itself() {
        Rigs f;
        f.import(source_path(kRun));
        const double onset = *f.window->rig().run()->onset.onset.speed_rpm;
        const QString path = Fixture::folder().filePath("bad.csv");
        QFile out(path);
        QVERIFY(out.open(QIODevice::WriteOnly));
        out.write("rpm,crank_deg,lift_mm\n3000,0,1\n3000,1,oops\n");
        out.close();
        f.window->rig().import(path);
        f.wait_for_rig();
        QVERIFY(f.window->rig().failure().contains("line 3"));
        NEAR(*f.window->rig().run()->onset.onset.speed_rpm, onset, 0);
        QFile binary(path);
        QVERIFY(binary.open(QIODevice::WriteOnly));
        binary.write(QByteArray(100, '\0'));
        binary.close();
        static_cast<RigStation*>(f.find<QWidget>("station_rig"))->import_file(path);
        QVERIFY(f.window->message().contains("not a text file"));
        NEAR(*f.window->rig().run()->onset.onset.speed_rpm, onset, 0);
    }

    void an_import_can_be_stopped() {
        const QString path = Fixture::folder().filePath("long.csv");
        QFile in(source_path(kRun)), out(path);
        QVERIFY(in.open(QIODevice::ReadOnly) && out.open(QIODevice::WriteOnly));
        const QByteArray once = in.readAll(), body = once.mid(once.indexOf("3005,1,0"));
        out.write(once);
        for (int i = 0; i < 20; ++i)
            out.write(body);
        out.close();
        Rigs f;
        f.window->rig().import(path);
        QTRY_VERIFY(f.window->rig().progress() > 0.02);
        QTRY_VERIFY(f.find<QPushButton>("rig_stop")->isVisible());
        QTest::mouseClick(f.find<QPushButton>("rig_stop"), Qt::LeftButton);
        QVERIFY(f.window->rig().state() == RigSession::State::Empty);
        QVERIFY(f.window->rig().failure().contains("Stopped"));
    }

    void an_edit_of_the_train_makes_the_run_old_until_it_is_reduced_again() {
        Rigs f;
        f.import(source_path(kRun));
        Train next = f.window->document().train();
        next.lash_m = 0.25e-3;
        f.window->document().edit(next, "lash");
        QVERIFY(f.window->rig().old());
        QTRY_VERIFY_WITH_TIMEOUT(
            !f.window->rig().old() && f.window->rig().state() == RigSession::State::Ready, kPatience_ms);
    }

    void an_edit_during_the_import_is_not_forgotten() {
        Rigs f;
        f.window->rig().import(source_path(kRun));
        Train next = f.window->document().train();
        next.lash_m = 0.2e-3;
        f.window->document().edit(next, "lash");
        QTRY_VERIFY_WITH_TIMEOUT(f.window->rig().run() && !f.window->rig().old() &&
                                     f.window->rig().state() == RigSession::State::Ready,
                                 kPatience_ms);
    }

    void without_a_train_the_import_says_what_to_do_first() {
        Fixture f;
        f.trigger("import_rig");
        QVERIFY(f.window->message().contains("Open a train first"));
        QVERIFY(f.asked.isEmpty());
    }
};

QTEST_MAIN(TestRigStation)
#include "tst_rig_station.moc"
