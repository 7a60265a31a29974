// Log station through the window: lines found and opened, a note by the key from anywhere, use that ages
// parts, a failure, what cannot be added; undone and reopened.
#include "app/app_fixture.h"
#include "app/stations/log/life_view.h"
#include "app/stations/log/log_station.h"
#include "core/life/part_life.h"

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QTabWidget>
#include <QTableWidget>
#include <fstream>

using namespace bathmos;
using namespace bathmos::test;

namespace {

class Logging : public ProjectFixture {
  public:
    explicit Logging(const QString& name) : ProjectFixture(name) {
        window->sweep().set_range({7000, 7400, 400});
        window->show_station(QStringLiteral("station_log"));
        station().life().set_today(*life::day_of("2026-04-20"));
        wait_for_redraw();
    }
    LogStation& station() { return *window->findChild<LogStation*>(); }
    QTableWidget& lines() { return *find<QTableWidget>("log_lines"); }
    QString line(int row, int column) { return lines().item(row, column)->text(); }
    void look_for(const QString& words) {
        find<QLineEdit>("log_words")->clear();
        type("log_words", words);
        wait_for_redraw();
    }
    void add() {
        click("note_add");
        wait_for_redraw();
    }
    QString used(const QString& part) {
        auto* table = find<QTableWidget>("life_parts");
        for (int row = 0; row < table->rowCount(); ++row)
            if (table->item(row, 0)->text().contains(part))
                return table->item(row, 6)->text();
        return QStringLiteral("no row");
    }
    std::size_t kept() { return document().project().of(EntryKind::Log).size(); }
};

} // namespace

class TstLogStation : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { prepare_application(); }

    void lines_are_found_by_words_kind_build_and_part() {
        Logging f("log_find");
        const int all = f.lines().rowCount();
        QVERIFY(all > 15);
        QVERIFY(f.find<QLabel>("log_count")->text().startsWith("lines: "));
        CONTAINS(f.find<QLabel>("log_count")->text().toStdString(), std::to_string(all));
        f.look_for("missed gear");
        QCOMPARE(f.lines().rowCount(), 1);
        QCOMPARE(f.line(0, 2), QString("Cold Beck"));
        QCOMPARE(f.line(0, 0), QString("2026-04-11 17:00"));
        f.look_for("");
        f.choose("log_kinds", "Failure");
        QCOMPARE(f.lines().rowCount(), 1);
        CONTAINS(f.line(0, 3).toStdString(), "A22 intake r2");
        f.choose("log_kinds", "Everything");
        f.choose("log_builds", "T14");
        QVERIFY(f.lines().rowCount() >= 1 && f.lines().rowCount() < 5);
        f.choose("log_builds", "All");
        f.choose("log_parts", "Locks, 7");
        for (int row = 0; row < f.lines().rowCount(); ++row)
            QVERIFY(f.line(row, 2) != "winter");
    }

    void a_line_opens_its_place_at_its_revision() {
        Logging f("log_open");
        QCOMPARE(f.document().shown(), Id(2));
        f.look_for("last season thin"); // nothing
        QCOMPARE(f.lines().rowCount(), 0);
        f.look_for("raced last season");
        QVERIFY(f.lines().rowCount() >= 1);
        int row = 0;
        while (f.line(row, 3) != "A22 intake r1 last season")
            ++row;
        f.lines().setCurrentCell(row, 0);
        emit f.lines().cellActivated(row, 0);
        QCOMPARE(f.document().shown(), Id(1));
        QVERIFY(f.find<QWidget>("station_train")->isVisible());
    }

    void a_note_is_added_from_anywhere_by_its_key_and_undone() {
        Logging f("log_note");
        const std::size_t before = f.kept();
        f.window->show_station(QStringLiteral("station_motion"));
        f.trigger("log_note");
        QVERIFY(f.find<QWidget>("station_log")->isVisible());
        auto* title = f.find<QLineEdit>("note_title");
        QTRY_VERIFY(title->hasFocus());
        QTest::keyClicks(title, "Rocker studs retorqued");
        QTest::keyClick(title, Qt::Key_Return);
        f.wait_for_redraw();
        QCOMPARE(f.kept(), before + 1);
        QCOMPARE(f.line(0, 2), QString("Rocker studs retorqued"));
        QVERIFY(title->text().isEmpty());
        f.trigger("undo");
        f.wait_for_redraw();
        QCOMPARE(f.kept(), before);
        f.trigger("redo");
        QCOMPARE(f.kept(), before + 1);
        f.wait_for_redraw();
        f.lines().setCurrentCell(0, 0);
        f.find<QAction>("log_remove")->trigger();
        QCOMPARE(f.kept(), before);
    }

    void a_photo_goes_with_a_note_is_shown_and_comes_back() {
        Logging f("log_photo");
        QImage photo(640, 480, QImage::Format_RGB32);
        photo.fill(qRgb(200, 40, 40));
        const QString path = f.folder().filePath("groove.png");
        QVERIFY(photo.save(path));
        f.next_path = path;
        f.click("note_files");
        CONTAINS(f.find<QPushButton>("note_files")->text().toStdString(), "groove.png");
        f.add(); // the name of the file will do
        QCOMPARE(f.line(0, 2), QString("groove.png"));
        f.lines().setCurrentCell(0, 0);
        f.wait_for_redraw();
        const QPixmap shown = f.find<QLabel>("log_photo")->pixmap();
        QCOMPARE(shown.width(), 290);
        QCOMPARE(shown.toImage().pixelColor(100, 100), QColor(200, 40, 40));
        f.next_path = f.folder().filePath("back.png");
        f.click("log_save_files");
        QFile before(path), after(f.next_path);
        QVERIFY(before.open(QIODevice::ReadOnly) && after.open(QIODevice::ReadOnly));
        QCOMPARE(after.readAll(), before.readAll());
        f.look_for("groove");
        QCOMPARE(f.lines().rowCount(), 1);
        // A line without one shows none.
        f.look_for("missed gear");
        f.lines().setCurrentCell(0, 0);
        f.wait_for_redraw();
        QVERIFY(f.find<QLabel>("log_photo")->pixmap().isNull());
        QVERIFY(!f.find<QPushButton>("log_save_files")->isVisible());
        // A file that is not there adds nothing.
        const std::size_t kept = f.kept();
        f.next_path = f.folder().filePath("nowhere.png");
        f.click("note_files");
        f.add();
        QCOMPARE(f.kept(), kept);
        CONTAINS(f.window->message().toStdString(), "nowhere.png");
    }

    void what_belongs_elsewhere_is_not_removed_here() {
        Logging f("log_remove");
        f.choose("log_kinds", "Revision");
        const std::size_t revisions = f.document().project().revisions.size();
        f.lines().setCurrentCell(0, 0);
        f.find<QAction>("log_remove")->trigger();
        CONTAINS(f.window->message().toStdString(), "not removed here");
        QCOMPARE(f.document().project().revisions.size(), revisions);
    }

    void use_ages_the_parts_and_the_due_ones_are_named() {
        Logging f("log_use");
        f.find<QTabWidget>("log_tabs")->setCurrentIndex(1);
        QTRY_VERIFY_WITH_TIMEOUT(!f.station().life().counting(), kPatience_ms);
        const std::string words = f.find<QLabel>("life_words")->text().toStdString();
        CONTAINS(words, "Locks, 7 degree");
        QVERIFY(!contains(words, "model is asked"));
        QCOMPARE(f.used("Locks"), QString("▲ 80 %")); // 64 of 80 runs
        const QString rods = f.used("thin wall");
        QCOMPARE(rods, QString("32 %")); // 19 of 60 runs
        f.choose("note_kind", "Engine use");
        f.type("note_use", "6000:60 7000:30,5");
        f.type("note_runs", "30");
        f.type("note_when", "2026-04-19");
        f.add();
        QCOMPARE(f.used("thin wall"), QString("▲ 82 %")); // 49 of 60
        // It is there when the project is opened again.
        f.window->open_train(f.path);
        f.wait_for_redraw();
        QCOMPARE(f.used("thin wall"), QString("▲ 82 %"));
    }

    void a_logger_s_file_is_use_and_a_failure_counts_for_its_part() {
        Logging f("log_logger");
        f.next_path = Fixture::folder().filePath("climb.csv");
        std::ofstream(f.next_path.toStdString()) << "time_s,rpm\n0,6000\n1,6000\n2,6000\n60,3000\n";
        f.choose("note_kind", "Engine use");
        f.click("note_logger");
        QTRY_VERIFY(!f.find<QPushButton>("note_logger")->text().startsWith("Reading"));
        CONTAINS(f.window->message().toStdString(), "1 gaps");
        CONTAINS(f.find<QPushButton>("note_logger")->text().toStdString(), "100 cycles");
        f.add();
        QCOMPARE(f.line(0, 2), QString("climb.csv"));
        CONTAINS(f.line(0, 4).toStdString(), "100 cycles");
        f.choose("note_kind", "Failure");
        f.choose("note_part", "9.53 x 0.89");
        f.choose("note_mode", "bent");
        f.type("note_place", "cylinder 2");
        f.add();
        CONTAINS(f.line(0, 2).toStdString(), "thin wall");
        CONTAINS(f.line(0, 2).toStdString(), "bent");
        CONTAINS(f.line(0, 4).toStdString(), "cylinder 2");
    }

    void what_cannot_be_added_changes_nothing_and_is_told() {
        Logging f("log_bad");
        const std::size_t before = f.kept();
        const auto refused = [&](const char* part) {
            f.add();
            QCOMPARE(f.kept(), before);
            CONTAINS(f.window->message().toStdString(), part);
        };
        refused("has no words");
        f.type("note_title", "x");
        f.type("note_when", "soon");
        refused("no date");
        f.find<QLineEdit>("note_when")->clear();
        f.choose("note_kind", "Engine use");
        refused("no time at a speed");
        f.type("note_use", "fast");
        refused("speed:seconds");
        f.type("note_use", "6000:-3");
        refused("no time");
        f.type("note_use", "6000:3");
        f.type("note_runs", "many");
        refused("no number");
        f.choose("note_kind", "Failure");
        f.choose("note_part", "none");
        refused("which part");
        f.next_path = source_path("README.md");
        f.choose("note_kind", "Engine use");
        f.click("note_logger");
        QTRY_VERIFY(!f.find<QPushButton>("note_logger")->text().startsWith("Reading"));
        CONTAINS(f.window->message().toStdString(), "README.md");
    }

    void what_runs_can_be_stopped_and_says_so() {
        Logging f("log_stop");
        QVERIFY(!f.station().life().counting()); // nobody looks at it yet
        f.station().navigate(QStringLiteral("life"));
        f.wait_for_redraw();
        QTRY_VERIFY_WITH_TIMEOUT(!f.station().life().counting(), kPatience_ms);
        f.choose("note_kind", "Engine use");
        QString speeds; // each a class of its own, so that there is something to count
        for (int rpm = 2000; rpm <= 9000; rpm += 250)
            speeds += QStringLiteral("%1:60 ").arg(rpm);
        f.type("note_use", speeds);
        f.click("note_add"); // the wires are asked for anew
        QTRY_VERIFY(f.station().life().counting());
        f.trigger("stop");
        QVERIFY(!f.station().life().counting());
        CONTAINS(f.find<QLabel>("life_words")->text().toStdString(), "it was stopped");
        // A logger's file of a million lines.
        f.next_path = Fixture::folder().filePath("long.csv");
        {
            std::ofstream file(f.next_path.toStdString());
            file << "time_s,rpm\n";
            for (int i = 0; i < 1'000'000; ++i)
                file << i << ",6000\n";
        }
        f.click("note_logger");
        QCOMPARE(f.find<QPushButton>("note_logger")->text(), QString("Reading …"));
        QVERIFY(!f.find<QPushButton>("note_add")->isEnabled());
        f.trigger("stop");
        QCOMPARE(f.find<QPushButton>("note_logger")->text(), QString("Logger's file…"));
        QVERIFY(f.find<QPushButton>("note_add")->isEnabled());
    }

    void without_a_project_the_station_offers_the_next_step() {
        Fixture f;
        f.window->show_station(QStringLiteral("station_log"));
        QVERIFY(f.find<QPushButton>("log_open")->isVisible());
        auto* station = f.window->findChild<LogStation*>();
        QVERIFY(station->help().contains("Makers"));
    }
};

QTEST_MAIN(TstLogStation)
#include "tst_log_station.moc"
