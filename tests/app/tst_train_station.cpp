#include "app/stations/train/train_view.h"
#include "app/widgets/list_edit.h"
#include "app/widgets/number_field.h"
#include "app/widgets/number_table.h"
#include "app_fixture.h"
#include "core/train/train_fields.h"
#include "io/train/train_file.h"

#include <QCheckBox>
#include <QComboBox>
#include <QListWidget>
#include <QPushButton>
#include <QSlider>

using namespace bathmos;
using namespace bathmos::test;

namespace {

QString figure(Fixture& f, const QString& what) {
    auto* table = f.find<NumberTable>("train_figures");
    for (int row = 0; row < table->rowCount(); ++row)
        if (table->cell(row, 0) == what)
            return table->cell(row, 1);
    return {};
}

} // namespace

class TestTrainStation : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    void typing_changes_the_train_and_all_that_follows_at_once() {
        Fixture f;
        f.open_demo();
        const QString before = figure(f, "Equivalent mass at the valve");
        NEAR(before.toDouble(), 208.5, 0.1);
        f.type("valve.mass_g", "66");
        NEAR(f.window->document().train().valve.mass_kg, 0.066, 1e-12);
        NEAR(figure(f, "Equivalent mass at the valve").toDouble(), before.toDouble() + 10, 0.11);
        QVERIFY(figure(f, "Separation, rigid").toDouble() < 9799);
        QVERIFY(f.window->document().modified());
        f.trigger("undo");
        NEAR(f.window->document().train().valve.mass_kg, 0.056, 1e-12);
        QCOMPARE(f.find<QLineEdit>("valve.mass_g")->text(), QStringLiteral("56"));
        f.trigger("redo");
        QCOMPARE(f.find<QLineEdit>("valve.mass_g")->text(), QStringLiteral("66"));
    }

    void a_comma_is_a_decimal_point() {
        Fixture f;
        f.open_demo();
        f.type("lash_mm", "0,25");
        NEAR(f.window->document().train().lash_m, 0.25e-3, 1e-12);
    }

    void a_number_that_cannot_be_is_marked_told_and_not_taken_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("says");
        QTest::newRow("negative") << "-5"
                                  << "must be above 0";
        QTest::newRow("zero") << "0"
                              << "must be above 0";
        QTest::newRow("word") << "heavy"
                              << "is not a number";
        QTest::newRow("too large") << "1e9"
                                   << "must be at most";
        QTest::newRow("nan") << "nan"
                             << "is not a number";
    }
    void a_number_that_cannot_be_is_marked_told_and_not_taken() {
        QFETCH(QString, text);
        QFETCH(QString, says);
        Fixture f;
        f.open_demo();
        const Train before = f.window->document().train();
        f.type("valve.head_diameter_mm", text);
        auto* edit = f.find<QLineEdit>("valve.head_diameter_mm");
        QVERIFY2(edit->toolTip().contains(says), qPrintable(edit->toolTip()));
        QVERIFY(edit->property("problem").toBool());
        if (text == "1e9") // its first key is a valid number on the way
            NEAR(f.window->document().train().valve.head_diameter_m, 1e-3, 1e-12);
        else
            QVERIFY(f.window->document().train() == before);
        f.type("valve.head_diameter_mm", "44");
        QVERIFY(!edit->property("problem").toBool());
    }

    void every_number_of_the_file_has_a_field_with_name_and_unit_data() {
        QTest::addColumn<QString>("path");
        for (const char* name : {"ashgill-a22-intake", "ashgill-a22-intake-calibrated",
                                 "ashgill-a22-intake-hydraulic", "ashgill-a22-exhaust-table",
                                 "corrie-500-intake-table", "skerrin-650-intake", "ravenmoor-t14-intake"})
            QTest::newRow(name) << QStringLiteral("tests/trains/%1.train.json").arg(name);
    }
    void every_number_of_the_file_has_a_field_with_name_and_unit() {
        QFETCH(QString, path);
        Fixture f;
        f.open(path);
        const Train& train = f.window->document().train();
        const auto check = [&](const QString& key, double file_value) {
            auto* edit = f.window->findChild<QLineEdit*>(key);
            QVERIFY2(edit, qPrintable(key));
            QVERIFY(!edit->accessibleName().isEmpty());
            NEAR(edit->text().toDouble(), file_value, 1e-5 * std::abs(file_value) + 1e-9);
        };
        for (const TrainField& field : train_fields())
            if (field.at_const(train))
                check(QString::fromUtf8(field.key.data(), qsizetype(field.key.size())),
                      field.file_value(train));
        for (std::size_t i = 0; i < train.springs.size(); ++i)
            for (const SpringField& field : spring_fields())
                if (field.at_const(train.springs[i]))
                    check(QStringLiteral("springs[%1].").arg(i) +
                              QString::fromUtf8(field.key.data(), qsizetype(field.key.size())),
                          field.file_value(train.springs[i]));
        for (const char* text : {"name", "lobe.name", "springs[0].name"})
            QVERIFY(!f.find<QLineEdit>(text)->text().isEmpty());
        if (std::holds_alternative<LobeTable>(train.lobe.shape))
            QCOMPARE(std::size_t(f.find<ListEdit>("lobe.table")->blockCount()),
                     std::get<LobeTable>(train.lobe.shape).angle.size());
        if (train.rocker && std::holds_alternative<RatioTable>(train.rocker->ratio))
            QVERIFY(f.find<ListEdit>("rocker.ratio_table")->blockCount() > 3);
    }

    void inch_at_a_key_never_a_mix_and_grams_on_both_sides() {
        Fixture f;
        f.open_demo();
        f.trigger("units");
        NEAR(f.find<QLineEdit>("installed_height_mm")->text().toDouble(), 42 / 25.4,
             0.5e-4); // five digits in inch
        NEAR(figure(f, "Seat load").toDouble(), 794 / 4.44822, 0.2);
        f.type("installed_height_mm", "1.70");
        NEAR(f.window->document().train().installed_height_m, 1.70 * kInch_m, 1e-12);
        auto* table = f.find<NumberTable>("train_figures");
        for (int row = 0; row < table->rowCount(); ++row)
            for (const char* metric : {"mm", "N", "N/mm"})
                QVERIFY(table->cell(row, 2) != QLatin1String(metric));
        f.trigger("units");
        NEAR(f.find<QLineEdit>("installed_height_mm")->text().toDouble(), 43.18, 1e-3);
    }

    void every_kind_of_part_can_be_chosen_and_leaves_a_train_that_computes() {
        Fixture f;
        f.open("tests/trains/ashgill-a22-intake.train.json");
        const auto choose = [&](const char* name, int index) {
            auto* combo = f.find<QComboBox>(QLatin1String(name));
            combo->setCurrentIndex(index);
            emit combo->activated(index);
            QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete); // the form is rebuilt
            QCoreApplication::processEvents();
        };
        const auto tick = [&](const char* name) {
            f.find<QCheckBox>(QLatin1String(name))->click();
            QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
            QCoreApplication::processEvents();
        };
        const auto train = [&]() -> const Train& { return f.window->document().train(); };
        const auto sound = [&] {
            return f.window->document().problems().empty()
                       ? std::string()
                       : f.window->document().problems().front().sentence();
        };
        choose("rocker.kind", 2);
        QVERIFY(std::holds_alternative<RockerGeometry>(train().rocker->ratio));
        QCOMPARE(sound(), std::string());
        f.type("rocker.geometry.valve_x_mm", "35");
        NEAR(std::get<RockerGeometry>(train().rocker->ratio).valve_x_m, 0.035, 1e-12);
        tick("springs[0].oval");
        QVERIFY(f.find<QLineEdit>("springs[0].wire_height_mm")->text().toDouble() > 1);
        tick("springs[0].uneven");
        QCOMPARE(f.find<ListEdit>("springs[0].pitch_mm")->blockCount(), 3);
        QCOMPARE(sound(), std::string());
        tick("springs[0].scatter");
        QCOMPARE(f.find<QLineEdit>("springs[0].pitch_scatter")->text().toDouble(), 0.012);
        QVERIFY(std::get<CoilGeometry>(train().springs[0].kind).pitch_scatter == 0.012);
        f.type("springs[0].pitch_scatter", "2"); // refused, as no spring is wound so
        QVERIFY(std::get<CoilGeometry>(train().springs[0].kind).pitch_scatter == 0.012);
        tick("springs[0].scatter");
        QVERIFY(!std::get<CoilGeometry>(train().springs[0].kind).pitch_scatter);
        choose("pressure.kind", 1);
        auto* pressure = f.find<ListEdit>("pressure_table");
        pressure->setPlainText("-300 0\n-100 40\n200 10");
        QCOMPARE(train().pressure_table->pressure_Pa.size(), std::size_t{3});
        NEAR(train().pressure_table->pressure_Pa[1], 40e3, 1e-6);
        tick("camshaft");
        f.type("camshaft.frequency_Hz", "800");
        NEAR(train().camshaft->frequency_Hz, 800, 1e-9);
        tick("valve.elastic");
        QCOMPARE(f.find<QLineEdit>("valve.stem_stiffness_N_per_mm")->text().toDouble(), 40000.0);
        tick("drive_ripple");
        f.type("drive_ripple.third_sin", "0.002");
        NEAR(train().drive_ripple->third_sin, 0.002, 1e-12);
        choose("lash_at", 1);
        QVERIFY(train().lash_at == LashAt::LoadedRest);
        QCOMPARE(sound(), std::string());
        tick("valve.elastic");
        QVERIFY(!train().valve.elastic && !f.window->findChild<QLineEdit*>("valve.stem_stiffness_N_per_mm"));
        tick("lifter.hydraulic");
        QVERIFY(train().hydraulic());
        QCOMPARE(sound(), std::string());
        choose("layout", 2);
        QVERIFY(!train().hydraulic());
        choose("rocker.kind", 0); // a geometry needs a pushrod
        tick("lifter.adjuster");
        QVERIFY(train().hydraulic() && f.find<QLineEdit>("lifter.hydraulic.supply_kPa")->text() == "180");
        QCOMPARE(sound(), std::string());
        while (f.window->document().can_undo())
            f.trigger("undo");
        QVERIFY(!train().hydraulic() && train().layout == Layout::Pushrod && !train().pressure_table);
    }

    void parts_follow_the_layout_and_undo_brings_them_back() {
        Fixture f;
        f.open_demo();
        auto* layout = f.find<QComboBox>("layout");
        layout->setCurrentIndex(3);
        emit layout->activated(3);
        QVERIFY(f.window->document().train().layout == Layout::Bucket);
        QTRY_VERIFY(!f.window->findChild<QLineEdit*>("pushrod.length_mm"));
        QVERIFY(f.window->findChild<QLineEdit*>("contacts.tip.stiffness_N_per_mm"));
        f.trigger("undo");
        QTRY_VERIFY(f.window->findChild<QLineEdit*>("pushrod.length_mm"));
        NEAR(f.find<QLineEdit>("pushrod.wall_mm")->text().toDouble(), 0.89, 1e-9);
    }

    void springs_are_added_changed_and_removed() {
        Fixture f;
        f.open_demo();
        QTest::mouseClick(f.find<QPushButton>("springs.add_table"), Qt::LeftButton);
        QCOMPARE(f.window->document().train().springs.size(), std::size_t{3});
        QTRY_VERIFY(f.window->findChild<ListEdit*>("springs[2].load_table"));
        auto* loads = f.find<ListEdit>("springs[2].load_table");
        loads->setFocus();
        loads->setPlainText("28 900\n35 650\n42 400\n46 250");
        QCOMPARE(std::get<LoadTable>(f.window->document().train().springs[2].kind).load_N.size(),
                 std::size_t{4});
        loads->setPlainText("28 900\n35 six\n");
        QVERIFY(loads->problem().contains("line 2"));
        QCOMPARE(std::get<LoadTable>(f.window->document().train().springs[2].kind).load_N.size(),
                 std::size_t{4});
        QTRY_VERIFY(f.find<QPushButton>("springs.remove")->isEnabled());
        f.find<QPushButton>("springs.remove")->click();
        QCOMPARE(f.window->document().train().springs.size(), std::size_t{2});
    }

    void a_varying_coil_diameter_is_a_list() {
        Fixture f;
        f.open("tests/trains/ashgill-a22-intake-beehive.train.json");
        auto* list = f.find<ListEdit>("springs[0].mean_diameter_mm");
        QCOMPARE(list->blockCount(), 8);
        list->setFocus();
        list->setPlainText("32\n31\n28");
        QCOMPARE(std::get<CoilGeometry>(f.window->document().train().springs[0].kind).mean_diameter_m.size(),
                 std::size_t{3});
    }

    void keeping_a_draft_names_it_and_reopening_shows_every_value() {
        Fixture f;
        f.open_demo();
        f.type("valve.mass_g", "61.5");
        f.type("name", "Hollin Beck trial 3");
        f.next_path = Fixture::folder().filePath("trial.bathmos");
        f.trigger("keep_project");
        QVERIFY(!f.window->document().modified());
        QCOMPARE(f.window->document().path(), f.next_path);
        f.type("lash_mm", "0.25"); // in the file without another word
        Fixture again;
        QVERIFY(again.window->open_train(f.next_path));
        QCOMPARE(again.find<QLineEdit>("valve.mass_g")->text(), QStringLiteral("61.5"));
        QCOMPARE(again.find<QLineEdit>("name")->text(), QStringLiteral("Hollin Beck trial 3"));
        QCOMPARE(again.find<QLineEdit>("lash_mm")->text(), QStringLiteral("0.25"));
        QVERIFY(again.window->document().train() == f.window->document().train());
        QVERIFY(again.window->message().contains("read only"));
        f.trigger("keep_project");
        QVERIFY(f.window->message().contains("nothing to save"));
    }

    void an_impossible_train_shows_its_problem_and_is_not_exported() {
        Fixture f;
        f.open_demo();
        f.type("installed_height_mm", "20");
        auto* findings = f.find<QListWidget>("findings");
        QVERIFY(findings->count() >= 1);
        QVERIFY2(findings->item(0)->text().contains("solid height"), qPrintable(findings->item(0)->text()));
        QVERIFY(findings->item(0)->text().startsWith(QStringLiteral("■")));
        f.next_path = Fixture::folder().filePath("impossible.train.json");
        f.trigger("export_train");
        QVERIFY(f.window->message().contains("not exported"));
        QVERIFY(!QFile::exists(f.next_path));
        f.trigger("undo");
        QCOMPARE(findings->item(0)->text(), QStringLiteral("none"));
    }

    void the_drawing_follows_both_cursors() {
        Fixture f;
        f.open_demo();
        f.few_speeds();
        auto* view = f.find<TrainView>("train_view");
        f.window->cursors().set_crank(0);
        NEAR(view->pose().lift_m, 12.41e-3, 0.01e-3); // rigid while nothing is computed there
        f.wait_for_sweep();
        f.window->cursors().set_speed(8000);
        const double computed = view->pose().lift_m;
        QVERIFY(computed < 12.35e-3 && computed > 11.5e-3);
        QVERIFY(view->pose_source().contains("8000"));
        auto* slider = f.find<QSlider>("crank_slider");
        slider->setFocus();
        QTest::keyClick(slider, Qt::Key_PageUp);
        NEAR(f.window->cursors().crank_deg(), 10, 0);
        QVERIFY(view->pose().lift_m < computed);
        const QImage at_ten = view->grab().toImage();
        f.window->cursors().set_crank(300);
        QVERIFY(view->grab().toImage() != at_ten);
        QVERIFY(view->accessibleName().contains("300"));
    }

    void numbers_can_be_copied() {
        Fixture f;
        f.open_demo();
        auto* table = f.find<NumberTable>("train_figures");
        QVERIFY(table->as_text().startsWith("What the parts add up to\tValue\tUnit\n"));
        QVERIFY(table->as_text().contains("Equivalent mass at the valve\t208.5\tg\n"));
    }
};

QTEST_MAIN(TestTrainStation)
#include "tst_train_station.moc"
