// Station Bench as a person with a tester beside the keyboard has it: sheets typed without the mouse, what
// they say at once, what they change, undo, what was taken over.
#include "app/app_fixture.h"
#include "app/plot/plot.h"
#include "app/stations/bench/bench_station.h"
#include "app/stations/bench/reading_table.h"
#include "app/stations/bench/sheet_drawing.h"
#include "app/stations/bench/sheet_page.h"
#include "app/stations/bench/tester_import_dialog.h"
#include "io/sheet/sheet_file.h"

#include <QAction>
#include <QClipboard>
#include <QComboBox>
#include <QLabel>
#include <QListWidget>

using namespace bathmos;
using namespace bathmos::test;

namespace {

class BenchFixture : public Fixture {
  public:
    BenchFixture() {
        few_speeds();
        open_demo();
        window->show_station(QStringLiteral("station_bench"));
    }
    Document& document() { return window->document(); }
    void begin(const QString& kind) {
        auto* kinds = find<QComboBox>("bench_kind");
        kinds->setCurrentIndex(kinds->findData(kind));
        QTest::mouseClick(find<QPushButton>("bench_new"), Qt::LeftButton);
        wait_for_redraw();
    }
    /// Typed into the field, and Enter.
    void type(const QString& key, const QString& text) {
        auto* edit = find<QLineEdit>(QStringLiteral("bench_") + key);
        edit->setFocus();
        edit->selectAll();
        QTest::keyClicks(edit, text);
        QTest::keyClick(edit, Qt::Key_Return);
        wait_for_redraw();
    }
    ReadingTable& readings() { return *find<ReadingTable>("bench_readings"); }
    /// Each text into the cell that has the cursor, Enter after it.
    void read(const QStringList& texts) {
        for (const QString& text : texts) {
            QTest::keyClicks(&readings(), text.left(1));
            QLineEdit* editor = nullptr; // those of earlier cells go with the next turn of the event loop
            for (QLineEdit* one : readings().findChildren<QLineEdit*>())
                editor = one->isVisible() ? one : editor;
            QVERIFY(editor);
            editor->selectAll();
            QTest::keyClicks(editor, text);
            QTest::keyClick(editor, Qt::Key_Return);
            QCoreApplication::processEvents();
        }
        wait_for_redraw();
    }
    QString says() { return find<QLabel>("bench_says")->text(); }
    QTableWidget& changes() { return *find<QTableWidget>("bench_changes"); }
    const std::map<Id, Entry>& kept() { return document().project().of(EntryKind::Sheet); }
};

} // namespace

class TstBenchStation : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { prepare_application(); }

    void an_empty_station_offers_the_next_step() {
        Fixture f;
        f.window->show_station(QStringLiteral("station_bench"));
        auto* step = f.find<QPushButton>("bench_open");
        QVERIFY(step->isVisible());
        f.next_path.clear();
        QTest::mouseClick(step, Qt::LeftButton);
        QCOMPARE(f.asked.last(), QByteArray("open_train"));
    }

    void a_height_is_worked_out_while_it_is_typed_and_taken_over() {
        BenchFixture f;
        const double before_m = f.document().train().installed_height_m;
        f.begin("height");
        QCOMPARE(f.kept().size(), std::size_t(1)); // it is on disk from the start
        CONTAINS(f.says().toStdString(), "Not yet");
        QVERIFY(f.find<QLabel>("bench_caution")->text().contains("eye protection"));
        for (const auto& [key, text] : {std::pair{"old_height_mm", "46.00"},
                                        {"old.step_mm", "4.00"},
                                        {"old.ball_depth_mm", "2.10"},
                                        {"old.taper_deg", "5"},
                                        {"new.step_mm", "4,60"},
                                        {"new.ball_depth_mm", "2.35 2.36 2.34"},
                                        {"new.taper_deg", "5"},
                                        {"lock_taper_deg", "5"},
                                        {"ball_mm", "10"},
                                        {"wanted_mm", "44.5"},
                                        {"shims_mm", "0.38 0.76 1.52"}})
            f.type(key, text);
        CONTAINS(f.says().toStdString(), "45.650 mm");
        CONTAINS(f.says().toStdString(), "shims 0.760 mm + 0.380 mm make 44.510 mm");
        QCOMPARE(f.find<SheetDrawing>("bench_drawing")->pointed_at().isEmpty(), false);
        QCOMPARE(f.changes().rowCount(), 1);
        QCOMPARE(f.changes().item(0, 3)->text(), QStringLiteral("44.510"));
        CONTAINS(f.find<QLabel>("bench_closes")->text().toStdString(), "Installed height");
        const Id before = f.document().shown();
        QTest::mouseClick(f.find<QPushButton>("bench_take_over"), Qt::LeftButton);
        f.wait_for_redraw();
        NEAR(f.document().train().installed_height_m, 44.51e-3, 1e-9);
        QVERIFY(f.document().shown() != before);
        QVERIFY(f.document().train().tolerances.at("installed_height_mm").source == Source::Gauge);
        for (const OpenCheck& open : f.document().open_checks())
            QVERIFY(open.check != Check::InstalledHeight); // the change asked for it, the sheet answers it
        QVERIFY(!f.find<QPushButton>("bench_take_over")->isEnabled());
        QCOMPARE(f.kept().begin()->second.revision, f.document().shown());
        // what was taken over stays
        f.type("old_height_mm", "47");
        CONTAINS(f.window->message().toStdString(), "stays as it is");
        f.trigger("undo"); // number, checks and mark at once
        f.wait_for_redraw();
        NEAR(f.document().train().installed_height_m, before_m, 1e-9);
        QVERIFY(f.find<QPushButton>("bench_take_over")->isEnabled());
    }

    // What is unticked stays so through a change of units, is not taken, and its check stays open.
    void what_is_left_out_is_neither_taken_nor_closed() {
        BenchFixture f;
        const double before = f.document().train().rocker->inertia_kg_m2;
        f.begin("rocker_inertia");
        f.type("swing_s", "3.6");
        f.type("mass_g", "110");
        f.type("pivot_to_centre_mm", "14");
        QCOMPARE(f.changes().rowCount(), 1);
        f.changes().item(0, 0)->setCheckState(Qt::Unchecked);
        f.trigger("units");
        f.wait_for_redraw();
        QCOMPARE(f.changes().item(0, 0)->checkState(), Qt::Unchecked);
        QTest::mouseClick(f.find<QPushButton>("bench_take_over"), Qt::LeftButton);
        f.wait_for_redraw();
        NEAR(f.document().train().rocker->inertia_kg_m2, before, 1e-12);
        QVERIFY(f.kept().begin()->second.closes.empty());
        QVERIFY(!f.find<QPushButton>("bench_remove")->isEnabled());
    }

    void a_spring_is_typed_without_the_mouse() {
        BenchFixture f;
        f.begin("spring");
        f.type("installed_height_mm", "44");
        f.type("valve_lift_mm", "14");
        f.readings().setFocus();
        f.readings().setCurrentCell(0, 0);
        f.read({"46", "272 273", "42", "408", "38", "544", "34", "680", "30", "816", "27.5", "901", "27.2",
                "1900", "26.9", "3100"});
        CONTAINS(f.says().toStdString(), "seat load: 340 N");
        CONTAINS(f.says().toStdString(), "rate: 34.0 N/mm");
        CONTAINS(f.says().toStdString(), "solid height: 27.");
        QCOMPARE(f.readings().rowCount(), 9); // and an empty one to go on
        auto* picture = f.window->findChild<BenchStation*>()->findChild<Plot*>();
        QVERIFY(picture->isVisible());
        QCOMPARE(picture->points(1).size(), 8); // what was read, on its curve
        QCOMPARE(picture->points(0).size(), 6); // above solid
        QCOMPARE(f.kept().begin()->second.words.at("kind"), std::string("spring"));
        CONTAINS(f.kept().begin()->second.words.at("sheet"), "816");
        // nonsense is told, and changes nothing
        f.read({"abc"});
        CONTAINS(f.window->message().toStdString(), "was not taken");
        QCOMPARE(f.readings().rowCount(), 9);
        // undo takes back reading by reading
        f.trigger("undo");
        f.wait_for_redraw();
        QVERIFY(!contains(f.kept().begin()->second.words.at("sheet"), "3100"));
        f.trigger("redo");
        f.wait_for_redraw();
        QCOMPARE(f.readings().item(7, 1)->text(), QStringLiteral("3100"));
        // the direction turns with a blank, a row goes with Ctrl+Delete
        f.readings().setCurrentCell(0, 2);
        QTest::keyClick(&f.readings(), Qt::Key_Space);
        f.wait_for_redraw();
        QCOMPARE(f.readings().item(0, 2)->text(), QStringLiteral("up"));
        f.readings().setCurrentCell(7, 0);
        QTest::keyClick(&f.readings(), Qt::Key_Delete, Qt::ControlModifier);
        f.wait_for_redraw();
        QCOMPARE(f.readings().rowCount(), 8);
        // inches at a key, never a mix
        f.trigger("units");
        f.wait_for_redraw();
        QCOMPARE(f.readings().horizontalHeaderItem(1)->text(), QStringLiteral("load, lbf"));
        QCOMPARE(f.readings().item(1, 0)->text(), QStringLiteral("1.6535"));
        QVERIFY(!f.says().contains(" N"));
    }

    void the_spring_as_tested_is_what_the_model_uses() {
        BenchFixture f;
        f.begin("spring");
        f.type("installed_height_mm", QString::number(1e3 * f.document().train().installed_height_m));
        f.type("valve_lift_mm", "10");
        f.readings().setFocus();
        f.readings().setCurrentCell(0, 0);
        const double height_mm = 1e3 * f.document().train().installed_height_m;
        for (int k = -1; k < 5; ++k)
            f.read({QString::number(height_mm - 3 * k), QString::number(500 + 100 * k)});
        QCOMPARE(f.changes().rowCount(), 1);
        QTest::mouseClick(f.find<QPushButton>("bench_take_over"), Qt::LeftButton);
        f.wait_for_redraw();
        const Spring& spring = f.document().train().springs.front();
        QVERIFY(std::holds_alternative<LoadTable>(spring.kind));
        NEAR(SpringStatics(spring).load_N(f.document().train().installed_height_m), 500, 0.5);
        QVERIFY(f.document().problems().empty());
        QVERIFY(f.document().train().tolerances.at("springs[0].load_table").source == Source::Tester);
    }

    void a_set_of_sixteen_springs_is_entered_by_keys_alone() {
        BenchFixture f;
        f.begin("spring_set");
        f.type("valves", "1a,1b,2a,2b,3a,3b,4a,4b");
        f.readings().setFocus();
        f.readings().setCurrentCell(0, 0);
        for (int i = 0; i < 16; ++i)
            f.read({QStringLiteral("s%1").arg(i), QString::number(i == 5 ? 310 : 340 + i % 4)});
        QCOMPARE(f.readings().rowCount(), 17);
        CONTAINS(f.says().toStdString(), "spring s5");
        CONTAINS(f.says().toStdString(), "valve 4b");
        QVERIFY(!f.find<QPushButton>("bench_take_over")->isEnabled()); // it changes no number
        QCOMPARE(f.find<QListWidget>("bench_sheets")->count(), 1);
        f.begin("stiffness");
        QCOMPARE(f.find<QListWidget>("bench_sheets")->count(), 2);
        f.find<QListWidget>("bench_sheets")->setCurrentRow(0);
        f.wait_for_redraw();
        QCOMPARE(f.readings().rowCount(), 17); // as it was left
        QTest::mouseClick(f.find<QPushButton>("bench_remove"), Qt::LeftButton);
        f.wait_for_redraw();
        QCOMPARE(f.find<QListWidget>("bench_sheets")->count(), 1);
        f.trigger("undo");
        f.wait_for_redraw();
        QCOMPARE(f.find<QListWidget>("bench_sheets")->count(), 2);
    }

    void rows_of_a_table_elsewhere_are_pasted_or_refused_whole() {
        BenchFixture f;
        f.begin("spring");
        f.readings().setFocus();
        f.readings().setCurrentCell(0, 0);
        QApplication::clipboard()->setText("46\t272,5\tdown\n42\t408\tdown\n38\t544\tdown\n38\t532\tup\n");
        QTest::keySequence(&f.readings(), QKeySequence::Paste);
        f.wait_for_redraw();
        QCOMPARE(f.readings().rowCount(), 5);
        QCOMPARE(f.readings().item(0, 1)->text(), QStringLiteral("272.5"));
        QCOMPARE(f.readings().item(3, 2)->text(), QStringLiteral("up"));
        CONTAINS(f.says().toStdString(), "seat load");
        QApplication::clipboard()->setText("34;680\nheight;load\n");
        QTest::keySequence(&f.readings(), QKeySequence::Paste);
        f.wait_for_redraw();
        QCOMPARE(f.readings().rowCount(), 5);
        CONTAINS(f.window->message().toStdString(), "line 2");
        f.trigger("undo");
        f.wait_for_redraw();
        QCOMPARE(f.readings().rowCount(), 1);
    }

    void masses_are_taken_over_by_part() {
        BenchFixture f;
        f.begin("weigh");
        f.type("zero_before_mass_g", "0.10");
        f.type("valve_g", "80.10 80.12 80.11");
        f.type("retainer_g", "18.1");
        f.type("locks_g", "4.1");
        CONTAINS(f.says().toStdString(), "moves with the valve");
        QCOMPARE(f.changes().rowCount(), 3);
        QTest::mouseClick(f.find<QPushButton>("bench_take_over"), Qt::LeftButton);
        f.wait_for_redraw();
        NEAR(f.document().train().valve.mass_kg, 80.01e-3, 1e-9);
        QVERIFY(f.document().train().tolerances.at("valve.mass_g").source == Source::Scale);
        for (const OpenCheck& open : f.document().open_checks())
            QVERIFY(open.check != Check::Mass);
    }

    void a_second_column_that_was_filled_once_is_gone_on_with() {
        BenchFixture f;
        f.begin("lash");
        f.readings().setFocus();
        f.readings().setCurrentCell(0, 0);
        f.read({"1i", "0.40"});
        QCOMPARE(f.readings().currentRow(), 1); // hot is not asked for
        f.readings().setCurrentCell(0, 2);
        f.read({"0.45"});
        f.readings().setCurrentCell(1, 0);
        f.read({"1e", "0.41"});
        QCOMPARE(f.readings().currentColumn(), 2); // now it is
        f.read({"0.47"});
        CONTAINS(f.says().toStdString(), "1e: grows from cold to hot 0.06");
    }

    void files_of_a_tester_become_sheets_in_one_edit() {
        BenchFixture f;
        QStringList paths;
        for (int file = 0; file < 3; ++file) {
            QByteArray text = "spring;height (in);load (lbf)\n";
            for (const char* spring : {"7", "8"})
                for (int k = 0; k < 5; ++k)
                    text += QByteArray(spring) + ";" + QByteArray::number(1.8 - 0.15 * k) + ";" +
                            QByteArray::number(67 + 30 * k) + "\n";
            paths << Fixture::folder().filePath(QStringLiteral("tester%1.csv").arg(file));
            write_test_file(paths.back(), text);
        }
        f.next_path = paths.join(QLatin1Char('\n'));
        QTimer::singleShot(0, [] { // the dialogue of the first file; the others have the same columns
            auto* dialog = qobject_cast<TesterImportDialog*>(QApplication::activeModalWidget());
            QVERIFY(dialog);
            QCOMPARE(dialog->springs().size(), std::size_t(2));
            QCOMPARE(find_in<QComboBox>(*dialog, "tester_load_unit")->currentText(), QStringLiteral("lbf"));
            dialog->accept();
        });
        f.find<QAction>("bench_import")->trigger();
        f.wait_for_redraw();
        QCOMPARE(f.kept().size(), std::size_t(6));
        CONTAINS(f.kept().begin()->second.name, "Spring 7, tester0.csv");
        CONTAINS(f.says().toStdString(), "seat load");
        f.trigger("undo");
        f.wait_for_redraw();
        QVERIFY(f.kept().empty());
        // one that is no table changes nothing
        write_test_file(paths[0], "nothing of the kind");
        f.next_path = paths[0];
        f.find<QAction>("bench_import")->trigger();
        f.wait_for_redraw();
        QVERIFY(f.kept().empty());
        CONTAINS(f.window->message().toStdString(), "Nothing was imported");
    }

    void a_sheet_goes_out_as_a_file_and_on_paper_and_comes_back() {
        BenchFixture f;
        f.begin("mark");
        f.type("width_mm", "1.2");
        f.type("offset_mm", "0.35");
        f.type("tip_mm", "8");
        const QString file = Fixture::folder().filePath("mark.sheet.json"),
                      paper = Fixture::folder().filePath("mark.pdf");
        f.next_path = file;
        f.find<QAction>("bench_export")->trigger();
        QVERIFY(std::holds_alternative<bench::KeyedSheet>(io::read_sheet(file.toStdString())));
        for (const char* page : {"bench_pdf", "bench_blank"}) {
            QFile::remove(paper);
            f.next_path = paper;
            f.find<QAction>(page)->trigger();
            QFile pdf(paper);
            QVERIFY(pdf.open(QIODevice::ReadOnly));
            QVERIFY(pdf.readAll().startsWith("%PDF"));
        }
        f.next_path = Fixture::folder().filePath("nowhere/mark.pdf");
        f.find<QAction>("bench_pdf")->trigger();
        CONTAINS(f.window->message().toStdString(), "was not written");
        f.next_path = file;
        f.find<QAction>("bench_import")->trigger();
        f.wait_for_redraw();
        QCOMPARE(f.kept().size(), std::size_t(2));
        CONTAINS(f.says().toStdString(), "mark's edge to the tip's edge: 3.05");
    }

    void a_sheet_is_set_against_another_of_its_kind() {
        BenchFixture f;
        const auto type_spring = [&](double seat_N) {
            f.begin("spring");
            f.type("installed_height_mm", "44");
            f.type("valve_lift_mm", "12");
            f.readings().setFocus();
            f.readings().setCurrentCell(0, 0);
            for (int k = 0; k < 5; ++k)
                f.read({QString::number(46 - 4 * k), QString::number(seat_N + 140 * k)});
        };
        type_spring(300);
        auto* against = f.find<QComboBox>("bench_against");
        QVERIFY(!against->isVisible()); // there is no other
        type_spring(270);
        QVERIFY(against->isVisible());
        QCOMPARE(against->count(), 2);
        QVERIFY(!f.find<QLabel>("bench_differs")->isVisible());
        against->setCurrentIndex(1);
        emit against->activated(1);
        f.wait_for_redraw();
        const std::string said = f.find<QLabel>("bench_differs")->text().toStdString();
        CONTAINS(said, "seat load: -30 N against it, -8.1 %");
        CONTAINS(said, "tired");
        CONTAINS(said, "N/mm against it");
        CONTAINS(said, "no more than both are known to"); // the rate is the same
        auto* picture = f.window->findChild<BenchStation*>()->findChild<Plot*>();
        QCOMPARE(picture->points(2).size(), 5);
    }

    void the_page_holds_what_was_read_and_a_blank_one_only_asks() {
        bench::SheetDraft draft{
            "lash", {{"wanted_mm", {0.45e-3}}}, {{"<1i>", {{0.40e-3}, {}, {}}, false}}, ""};
        DisplayUnits units;
        const PagedSheet sheet{"Lash", "Ashgill, 2", "2026-01-01", draft,
                               session::judged(draft, starter_train())};
        const std::string filled = sheet_page(sheet, units, false).toStdString(),
                          blank = sheet_page(sheet, units, true).toStdString();
        CONTAINS(filled, "&lt;1i&gt;"); // a name is text
        CONTAINS(filled, "0.45");
        CONTAINS(filled, "What it says");
        CONTAINS(filled, "Hot oil");
        QVERIFY(!contains(blank, "0.45") && !contains(blank, "What it says"));
        CONTAINS(blank, "Hot oil");
        CONTAINS(blank, "Feeler that drags");
    }

    void every_kind_can_be_begun_and_names_what_it_lacks() {
        BenchFixture f;
        auto* kinds = f.find<QComboBox>("bench_kind");
        for (int i = 0; i < kinds->count(); ++i) {
            f.begin(kinds->itemData(i).toString());
            QVERIFY(!f.find<QLabel>("bench_title")->text().isEmpty());
            if (kinds->itemData(i).toString() == "near_solid") { // the train knows all that it asks for
                CONTAINS(f.says().toStdString(), "installed height");
                continue;
            }
            CONTAINS(f.says().toStdString(), "Not yet");
            QVERIFY(!f.find<QPushButton>("bench_take_over")->isEnabled());
        }
        QCOMPARE(f.kept().size(), static_cast<std::size_t>(kinds->count()));
        f.window->findChild<BenchStation*>()->navigate(QStringLiteral("sheet/1"));
        f.wait_for_redraw();
        QCOMPARE(f.find<QLabel>("bench_title")->text(), kinds->itemText(0));
    }
};

QTEST_MAIN(TstBenchStation)
#include "tst_bench_station.moc"
