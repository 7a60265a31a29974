// Shelf, revisions, checks, engine and budget of the Train station, and projects as files, as a person uses
// them.
#include "app/stations/train/checks_panel.h"
#include "app/stations/train/shelf_panel.h"
#include "app/stations/train/train_view.h"
#include "app/widgets/number_table.h"
#include "app_fixture.h"
#include "io/file/safe_file.h"
#include "io/project/parts_csv.h"
#include "io/project/project_folder.h"

#include <QComboBox>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QTabWidget>
#include <QTableWidget>
#include <QTreeWidget>

using namespace bathmos;
using namespace bathmos::test;

namespace {

// The demo project, imported anew for each test.
QString all_text(const QListWidget* list) {
    QStringList out;
    for (int i = 0; i < list->count(); ++i)
        out << list->item(i)->text();
    return out.join('\n');
}

} // namespace

class TestRecords : public QObject {
    Q_OBJECT
  private slots:
    void initTestCase() { prepare_application(); }

    void the_demo_project_tells_its_story() {
        ProjectFixture f("story");
        QCOMPARE(f.document().project().revision_label(f.document().shown()), std::string("r2 winter"));
        NEAR(f.window->document().target_rpm(), 8600, 0); // the engine's
        QVERIFY(f.find<QLabel>("build_state")->text().contains("story.bathmos"));
        QVERIFY(f.find<QLabel>("build_state")->text().contains(QStringLiteral("▲ 2 warn")));
        QVERIFY(all_text(f.find<QListWidget>("open_checks")).contains("Lash"));
        QVERIFY(!all_text(f.find<QListWidget>("open_checks")).contains("Witness")); // the sheet closed it
        QVERIFY(f.document().piston().has_value());
        QVERIFY(f.document().other_valve().has_value());
    }

    void the_shelf_is_searched_sorted_and_narrowed() {
        ProjectFixture f("search");
        f.tab(1);
        const int all = f.rows();
        QCOMPARE(all, static_cast<int>(f.document().project().parts.size()));
        auto* search = f.find<QLineEdit>("shelf_search");
        QTest::keyClicks(search, "THIN");
        QCOMPARE(f.rows(), 1);
        search->clear();
        QTest::keyClicks(search, "everybody"); // in a note
        QCOMPARE(f.rows(), 1);
        search->clear();
        auto* kind = f.find<QComboBox>("shelf_kind");
        kind->setCurrentText("Shim");
        QCOMPARE(f.rows(), 2);
        f.list()->sortByColumn(3, Qt::DescendingOrder);
        QVERIFY(f.cell(0, 3).startsWith("0.8"));
        f.list()->sortByColumn(3, Qt::AscendingOrder);
        QVERIFY(f.cell(0, 3).startsWith("0.5"));
    }

    void what_is_chosen_on_the_shelf_stays_chosen_while_others_come_go_and_change() {
        ProjectFixture f("chosen");
        f.tab(1);
        const QString name = f.cell(2, 1);
        f.select(name);
        const Id id = f.id_of(name.toStdString());
        const auto chosen = [&] { return f.find<ShelfPanel>("shelf")->selected(); };
        QCOMPARE(chosen(), std::vector<Id>{id});
        Part other = f.document().project().parts.at(id);
        other.name = "another";
        f.document().add_part(other);
        const Id added = f.id_of("another");
        QCOMPARE(chosen(), std::vector<Id>{id});
        Part renamed = f.document().project().parts.at(id);
        renamed.name = "renamed";
        f.document().set_part(id, renamed);
        QCOMPARE(chosen(), std::vector<Id>{id});
        QCOMPARE(f.find<QLineEdit>("part_name")->text(), QStringLiteral("renamed"));
        f.select("another", true);
        QCOMPARE(chosen().size(), std::size_t{2});
        f.document().remove_part(added);
        QCOMPARE(chosen(), std::vector<Id>{id});
        f.find<QLineEdit>("shelf_search")->setText("no such part");
        QVERIFY(chosen().empty());
        QVERIFY(f.find<QLabel>("shelf_caption")->text().startsWith("Choose a part"));
    }

    void a_project_without_the_parts_that_are_chosen_takes_them_off_the_list() {
        ProjectFixture f("other");
        f.tab(1);
        for (int row = 0; row < 2; ++row)
            f.select(f.cell(row, 1), row > 0);
        f.open_demo(); // a train file: its shelf is empty
        QCOMPARE(f.rows(), 0);
        QVERIFY(f.find<QLabel>("shelf_caption")->text().startsWith("The shelf is empty"));
    }

    void fitting_a_part_makes_a_revision_with_checks_and_findings_and_undo_takes_it_back() {
        ProjectFixture f("fit");
        f.window->resize(1280, 800);
        f.tab(1);
        const Id before = f.document().shown();
        f.select("Retainer T, 10 degree");
        f.click("shelf_fit");
        QVERIFY(f.document().shown() != before);
        QCOMPARE(f.document().project().revisions.at(f.document().shown()).parent, before);
        // 7 degree locks in a 10 degree taper stop everything; depth 1.4 - 1.1, step 3.4 - 2.6: 0.5 mm lower
        NEAR(f.document().train().installed_height_m,
             f.document().project().revisions.at(before).assembly.train.installed_height_m - 0.5e-3, 1e-9);
        auto* findings = f.find<QListWidget>("findings");
        QVERIFY2(all_text(findings).contains(QStringLiteral("■ stop: the retainer's taper is 10.0")),
                 qPrintable(all_text(findings)));
        QVERIFY(all_text(f.find<QListWidget>("open_checks")).contains("Retainer to seal"));
        f.wait_for_sweep();
        QVERIFY(f.find<QLabel>("build_verdict")->text().startsWith(QStringLiteral("■ stop")));
        QCOMPARE(f.window->width(), 1280); // and the words fit a laptop
        QCOMPARE(f.document().prediction_of(f.document().shown())->stops,
                 std::vector<std::string>{"lock_angle"});
        bool marked = false;
        for (const StripMark& mark : f.window->strip().marks())
            marked |= mark.kind == StripMark::Kind::Model && mark.text.contains("stop");
        QVERIFY(marked);
        f.trigger("undo");
        QCOMPARE(f.document().shown(), before);
        QVERIFY(!all_text(findings).contains("taper"));
    }

    void a_finding_is_waived_with_a_reason_only() {
        ProjectFixture f("waive");
        f.document().fit_part(f.id_of("Retainer T, 10 degree"));
        auto* findings = f.find<QListWidget>("findings");
        for (int i = 0; i < findings->count(); ++i)
            if (findings->item(i)->text().contains("taper"))
                findings->setCurrentRow(i);
        f.next_words = "";
        f.click("waive_finding");
        QVERIFY(f.window->message().contains("needs its reason"));
        QVERIFY(!f.document().stops().empty());
        f.next_words = "measured: it is a 7 degree retainer";
        f.click("waive_finding");
        QVERIFY(f.document().stops().empty());
        QVERIFY(all_text(findings).contains("waived stop"));
        QCOMPARE(f.document().project().of(EntryKind::Waiver).rbegin()->second.text,
                 std::string("measured: it is a 7 degree retainer"));
    }

    void checks_are_closed_by_what_was_found() {
        ProjectFixture f("checks");
        auto* checks = f.find<QListWidget>("open_checks");
        const int open = checks->count();
        f.click("check_done");
        QVERIFY(f.window->message().contains("Choose one or more"));
        checks->setCurrentRow(0);
        f.next_words = "0.30 cold, twice";
        f.click("check_done");
        QCOMPARE(checks->count(), open - 1);
        const Entry& sheet = f.document().project().of(EntryKind::Sheet).rbegin()->second;
        QCOMPARE(sheet.closes, std::vector<std::string>{"lash"});
        QCOMPARE(sheet.text, std::string("0.30 cold, twice"));
        QVERIFY(sheet.revision == f.document().shown());
        f.trigger("undo");
        QCOMPARE(checks->count(), open);
    }

    void a_part_s_values_are_edited_with_source_and_spread() {
        ProjectFixture f("edit");
        f.tab(1);
        const Id id = f.id_of("Intake 46, hollow stem");
        f.select("Intake 46, hollow stem");
        auto* values = f.find<QTableWidget>("part_values");
        const auto row_of = [&](const QString& what) {
            for (int row = 0; row < values->rowCount(); ++row)
                if (values->item(row, 0)->text() == what)
                    return row;
            return -1;
        };
        values->item(row_of("Valve mass"), 1)->setText("55,4"); // a decimal comma is read
        NEAR(f.document().project().parts.at(id).piece.valve.mass_kg, 0.0554, 1e-12);
        values->item(row_of("Valve mass"), 3)->setText("0.3");
        NEAR(f.document().project().parts.at(id).piece.tolerances.at("valve.mass_g").plus_minus, 0.3e-3,
             1e-12);
        values->item(row_of("Valve mass"), 1)->setText("-5");
        QVERIFY(f.window->message().contains("was not changed"));
        NEAR(f.document().project().parts.at(id).piece.valve.mass_kg, 0.0554, 1e-12);
        values->item(row_of("Valve mass"), 1)->setText("heavy");
        QVERIFY(f.window->message().contains("is no number"));
        f.trigger("units");
        NEAR(values->item(row_of("Valve mass"), 1)->text().toDouble(), 55.4, 1e-9); // scales read grams
        NEAR(values->item(row_of("Stem diameter"), 1)->text().toDouble(),
             f.document().project().parts.at(id).piece.valve.stem_diameter_m / 0.0254, 1e-4);
        f.trigger("units");
        auto* material = f.find<QComboBox>("fact_material");
        material->setCurrentText("steel");
        emit material->activated(material->currentIndex());
        QCOMPARE(f.document().project().parts.at(id).facts.word("material"), std::string("steel"));
        QVERIFY(f.document().assembly().word(PartKind::Valve, "material") == "titanium"); // as it was fitted
        f.find<QLineEdit>("part_cost")->setText("-3");
        emit f.find<QLineEdit>("part_cost")->editingFinished();
        QVERIFY(f.window->message().contains("cost"));
        f.document().fit_part(id);
        NEAR(f.document().train().valve.mass_kg, 0.0554, 1e-12);
        QCOMPARE(f.document().train().tolerances.at("valve.mass_g").plus_minus, 0.3e-3);
    }

    void parts_are_duplicated_compared_and_taken_off() {
        ProjectFixture f("two");
        f.tab(1);
        const std::size_t parts = f.document().project().parts.size();
        f.click("shelf_duplicate");
        QVERIFY(f.window->message().contains("Choose one part"));
        f.select("Shim 0.5");
        f.click("shelf_duplicate");
        QCOMPARE(f.document().project().parts.size(), parts + 1);
        f.select("Retainer T, 7 degree");
        f.select("Retainer T, 10 degree", true);
        auto* values = f.find<QTableWidget>("part_values");
        QCOMPARE(values->horizontalHeaderItem(2)->text().left(8), QStringLiteral("Retainer"));
        bool bold = false;
        for (int row = 0; row < values->rowCount(); ++row)
            bold |= values->item(row, 0)->text() == "Taper" &&
                    (values->item(row, 0)->font().bold() || values->item(row, 0)->font().weight() > 500);
        QVERIFY(bold);
        f.select("Retainer T, 7 degree");
        f.click("shelf_remove");
        QVERIFY(f.window->message().contains("carries it"));
        f.select("Shim 0.5 (2)");
        f.click("shelf_remove");
        QCOMPARE(f.document().project().parts.size(), parts);
    }

    void the_shelf_goes_out_and_comes_in_as_a_table() {
        ProjectFixture f("csv");
        f.tab(1);
        f.next_path = Fixture::folder().filePath("shelf.csv");
        f.click("shelf_export");
        const std::string text = io::read_file(f.next_path.toStdString());
        const auto parts = io::parse_parts_csv(text, "shelf.csv");
        QCOMPARE(parts.size(), f.document().project().parts.size());
        std::size_t i = 0;
        for (const auto& [id, part] : f.document().project().parts)
            QVERIFY2(parts[i++] == part, part.name.c_str());
        const std::size_t before = f.document().project().parts.size();
        f.click("shelf_import");
        QCOMPARE(f.document().project().parts.size(), 2 * before);
        QVERIFY(f.window->message().contains("were put on the shelf"));
        f.trigger("undo"); // one step
        QCOMPARE(f.document().project().parts.size(), before);
        write_test_file(f.next_path, "part,kind,name,key,value\n1,pushrod,thin,pushrod/wall_mm,thick\n");
        f.click("shelf_import");
        QVERIFY2(f.window->message().contains("No part was imported"), qPrintable(f.window->message()));
        QVERIFY(f.window->message().contains("line 2"));
        QCOMPARE(f.document().project().parts.size(), before);
    }

    void revisions_are_looked_at_compared_and_named() {
        ProjectFixture f("tree");
        f.window->sweep().set_range({7000, 9400, 400});
        f.tab(2);
        auto* tree = f.find<QTreeWidget>("revision_tree");
        QCOMPARE(tree->topLevelItemCount(), 2); // a line of revisions is a list
        QCOMPARE(tree->topLevelItem(0)->childCount(), 0);
        tree->setCurrentItem(tree->topLevelItem(0));
        f.click("revision_compare");
        QCOMPARE(f.document().compared(), Id(1));
        QTRY_VERIFY_WITH_TIMEOUT(f.document().prediction_of(1) != nullptr, kPatience_ms); // computed for it
        bool on_strip = false;
        for (const StripMark& mark : f.window->strip().marks())
            on_strip |= mark.kind == StripMark::Kind::Compared && mark.speed_rpm > 8600;
        QVERIFY(on_strip);
        QTRY_VERIFY_WITH_TIMEOUT(f.window->comparison().motion() != nullptr, kPatience_ms);
        NEAR(f.window->comparison().motion()->speed_rpm, f.window->cursors().speed_rpm(), 1e-9);
        f.window->cursors().set_speed(7600);
        QTRY_VERIFY_WITH_TIMEOUT(f.window->comparison().motion() &&
                                     f.window->comparison().motion()->speed_rpm == 7600,
                                 kPatience_ms);
        auto* table = f.find<NumberTable>("revision_differences");
        QVERIFY(table->as_text().contains("Pushrod wall\t1.24\t0.89\tmm"));
        QVERIFY(table->as_text().contains("Seat load"));
        auto* figures = f.find<NumberTable>("train_figures");
        QCOMPARE(figures->cell(0, 3), QStringLiteral("213.8"));
        f.next_words = "the good one";
        tree->setCurrentItem(tree->topLevelItem(0));
        f.click("revision_name");
        QCOMPARE(f.document().project().revisions.at(1).name, std::string("the good one"));
        f.click("revision_show");
        QCOMPARE(f.document().shown(), Id(1));
        f.type("valve.mass_g", "50"); // a branch
        QCOMPARE(tree->topLevelItemCount(), 2);
        QCOMPARE(tree->topLevelItem(0)->childCount(), 1); // under the one that it branched off
        QCOMPARE(f.document().project().children(1).size(), std::size_t(2));
    }

    void the_build_bar_switches_builds() {
        ProjectFixture f("switch");
        auto* box = f.find<QComboBox>("revision_in_hand");
        const int exhaust = box->findData(QVariant::fromValue<qlonglong>(3));
        QVERIFY(exhaust >= 0);
        box->setCurrentIndex(exhaust);
        emit box->activated(exhaust);
        QTRY_COMPARE(f.document().shown(), Id(3));
        NEAR(f.document().train().valve.head_diameter_m, f.document().assembly().train.valve.head_diameter_m,
             0);
        Fixture again;
        QVERIFY(again.window->open_train(f.path)); // what was in hand is so again
        QVERIFY(again.window->document().project().builds.at(2).head == 3);
    }

    void a_run_of_the_project_is_shown_with_its_revision() {
        ProjectFixture f("run");
        f.window->rig().import(source_path("demo/ashgill-a22-intake-after.rig.csv"));
        f.wait_for_rig();
        QVERIFY(f.window->rig().run());
        QVERIFY(f.document().project().frozen(2));
        QVERIFY(f.find<QComboBox>("revision_in_hand")->currentText().startsWith(QStringLiteral("▣")));
        const double edge = *f.window->rig().run()->onset.onset.speed_rpm;
        f.trigger("undo"); // a run is undone like any edit, and gone from the screen
        QVERIFY(!f.window->rig().run() && !f.document().project().frozen(2));
        f.trigger("redo");
        QVERIFY(f.document().project().frozen(2));
        f.document().show(1);
        QVERIFY(!f.window->rig().run()); // none was made with it
        f.document().show(2);
        f.wait_for_rig();
        QVERIFY(f.window->rig().run());
        NEAR(*f.window->rig().run()->onset.onset.speed_rpm, edge, 1e-9); // from the stored trace
    }

    void engine_numbers_make_clearances() {
        ProjectFixture f("engine");
        f.tab(3);
        auto* drop = f.find<QLineEdit>("engine_intake_drop");
        const double gap = f.document().piston()->least_m;
        drop->setText("6.4");
        emit drop->editingFinished();
        NEAR(f.document().piston()->least_m, gap - 1e-3, 1e-9);
        drop->setText("80");
        emit drop->editingFinished();
        QVERIFY(f.window->message().contains("was not taken"));
        QCOMPARE(drop->text(), QStringLiteral("6.4"));
        drop->setText("2.5");
        emit drop->editingFinished();
        QVERIFY(all_text(f.find<QListWidget>("findings")).contains("valve to piston"));
        drop->clear();
        emit drop->editingFinished();
        QVERIFY(!f.document().piston().has_value());
        f.click("new_build");
        QCOMPARE(f.document().project().builds.size(), std::size_t(4));
        QCOMPARE(f.document().build(), Id(4));
        f.click("new_engine");
        QCOMPARE(f.document().project().engines.size(), std::size_t(3));
        f.trigger("undo");
        f.trigger("undo");
        f.trigger("undo");
        QCOMPARE(f.document().project().builds.size(), std::size_t(3));
    }

    void clearances_are_judged_with_the_motion_at_the_cursor() {
        ProjectFixture f("motion");
        const double still = f.document().piston()->least_m;
        f.wait_for_sweep();
        f.window->cursors().set_speed(8200);
        QVERIFY(f.document().judged_by_motion());
        QVERIFY(std::abs(f.document().piston()->least_m - still) > 0.05e-3); // the train flexes
        f.window->cursors().set_speed(1500);                                 // not computed there
        QVERIFY(!f.document().judged_by_motion());
        NEAR(f.document().piston()->least_m, still, 1e-12);
    }

    void parts_are_chosen_in_the_drawing_by_mouse_and_keys() {
        ProjectFixture f("pick");
        auto* view = f.find<TrainView>("train_view");
        const auto at = view->middle_of(PartKind::Lobe);
        QVERIFY(at.has_value());
        QTest::mouseClick(view, Qt::LeftButton, {}, at->toPoint() + QPoint(0, 14));
        QVERIFY(view->chosen() == PartKind::Lobe);
        QCOMPARE(f.find<QComboBox>("shelf_kind")->currentText(), QStringLiteral("Lobe"));
        view->setFocus();
        QTest::keyClick(view, Qt::Key_Down);
        QVERIFY(view->chosen() == PartKind::Lifter);
        QTest::keyClick(view, Qt::Key_Down);
        QVERIFY(view->chosen() == PartKind::Pushrod);
        QTest::keyClick(view, Qt::Key_Up);
        QVERIFY(view->chosen() == PartKind::Lifter);
    }

    void the_budget_says_where_mass_and_give_come_from() {
        ProjectFixture f("budget");
        f.find<QTabWidget>("train_pictures")->setCurrentIndex(1);
        auto* view = f.find<QWidget>("budget_view");
        QVERIFY2(view->accessibleName().contains("pushrod 78.7 %"), qPrintable(view->accessibleName()));
        const QImage alone = view->grab().toImage();
        f.document().compare(1);
        QVERIFY(view->grab().toImage() != alone);
    }

    void stiffer_links_are_tried_from_the_budget_and_age_with_an_edit() {
        ProjectFixture f("stiffer");
        f.find<QTabWidget>("train_pictures")->setCurrentIndex(1);
        auto* table = f.find<NumberTable>("stiffness_table");
        QVERIFY(!table->isVisible());
        auto* run = f.find<QPushButton>("stiffness_run");
        run->click();
        QCOMPARE(run->text(), QStringLiteral("Stop"));
        run->click(); // stopped: nothing of it arrives
        QCOMPARE(run->text(), QStringLiteral("Try stiffer links"));
        QVERIFY(!table->isVisible());
        run->click();
        QTRY_COMPARE_WITH_TIMEOUT(table->rowCount(), 3, 60000);
        QTRY_VERIFY_WITH_TIMEOUT(f.find<QLabel>("stiffness_words")->text().contains("Mend pushrod first"),
                                 60000);
        QCOMPARE(table->cell(0, 0), QStringLiteral("pushrod"));
        QCOMPARE(table->cell(0, 1), QStringLiteral("78.7 %"));
        QVERIFY2(table->cell(0, 2).toInt() > 20, qPrintable(table->cell(0, 2)));
        QVERIFY(table->cell(0, 3).toInt() < table->cell(0, 2).toInt());
        f.type("valve.mass_g", "52");
        QVERIFY(f.find<QLabel>("stiffness_words")->text().startsWith("(old"));
    }

    void projects_go_out_and_come_in_and_are_rescued_from_the_menu() {
        ProjectFixture f("menu");
        f.next_path = Fixture::folder().filePath("menu-folder");
        QDir(f.next_path).removeRecursively();
        f.trigger("export_folder");
        QTRY_VERIFY(f.window->message().contains("was exported as a folder"));
        QVERIFY(QFile::exists(f.next_path + "/project.json"));
        const QString folder = f.next_path;
        f.trigger("export_folder");
        QTRY_VERIFY(f.window->message().contains("not exported"));
        f.next_path = Fixture::folder().filePath("menu-copy.bathmos");
        QFile::remove(f.next_path);
        f.trigger("save_copy");
        QVERIFY(f.window->message().contains("A copy was written"));
        QCOMPARE(f.document().path(), f.path); // and work goes on in the first one
        QCOMPARE(f.document().path(), f.path);
        f.trigger("save_copy"); // over it: nobody has it open
        QVERIFY(f.window->message().contains("A copy was written"));
        Fixture other;
        QVERIFY(other.window->open_train(f.next_path));
        f.trigger("save_copy");
        QVERIFY2(f.window->message().contains("is open elsewhere"), qPrintable(f.window->message()));
        f.next_path = source_path("CMakeLists.txt");
        f.trigger("rescue");
        QTRY_VERIFY(f.window->message().contains("Nothing was rescued"));
        QCOMPARE(f.document().path(), f.path);
        f.next_path = folder; // taken as folder and as the project's name: refused as it is there
        f.trigger("import_folder");
        QTRY_VERIFY(f.window->message().contains("not imported"));
        QCOMPARE(f.document().path(), f.path);
    }

    void a_train_file_s_parts_are_put_on_the_shelf() {
        Fixture f;
        f.open_demo();
        f.find<QTabWidget>("train_tabs")->setCurrentIndex(1);
        QTest::mouseClick(f.find<QPushButton>("shelf_from_train"), Qt::LeftButton);
        QVERIFY(f.find<QTableView>("shelf_list")->model()->rowCount() >= 7);
        f.find<QComboBox>("shelf_kind")->setCurrentText("Shim");
        QTest::mouseClick(f.find<QPushButton>("shelf_new"), Qt::LeftButton);
        QCOMPARE(f.find<QTableView>("shelf_list")->model()->rowCount(), 1);
    }

    void another_engine_brings_its_own_target_and_range() {
        ProjectFixture f("engines");
        const double target = f.window->document().target_rpm();
        NEAR(target, 8600, 0);
        f.document().show(4); // the T14's intake
        NEAR(f.window->document().target_rpm(), 7300, 0);
        QVERIFY(f.window->sweep().range().last_rpm < 8600);
        f.document().show(1);
        NEAR(f.window->document().target_rpm(), target, 0);
        f.window->document().set_target(8000); // of one's own choosing
        f.document().show(2);                  // same engine: it stays
        NEAR(f.window->document().target_rpm(), 8000, 0);
    }
};

QTEST_MAIN(TestRecords)
#include "tst_records.moc"
