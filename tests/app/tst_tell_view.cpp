// Log, For others and Last good, first bad, through the window: a report looked at, cut and saved; a pack
// saved, an answer taken and undone; what lies between two states.
#include "app/app_fixture.h"
#include "app/stations/log/good_bad_view.h"
#include "app/stations/log/log_station.h"
#include "app/stations/log/tell_view.h"
#include "io/file/safe_file.h"
#include "io/pack/pack_files.h"

#include <QComboBox>
#include <QLabel>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QTextBrowser>

using namespace bathmos;
using namespace bathmos::test;

namespace {

class Telling : public ProjectFixture {
  public:
    explicit Telling(const QString& name, const QString& tab) : ProjectFixture(name) {
        window->sweep().set_range({7000, 8200, 600});
        window->show_station(QStringLiteral("station_log"));
        station().tell().set_today(QStringLiteral("2026-04-20"));
        station().navigate(tab);
        wait_for_redraw();
    }
    LogStation& station() { return *window->findChild<LogStation*>(); }
    QString page() { return find<QTextBrowser>("tell_page")->toPlainText(); }
    QString said() { return find<QLabel>("tell_words")->text(); }
    bool may(const char* button) { return find<QPushButton>(button)->isEnabled(); }
    void make() {
        click("tell_make");
        QTRY_VERIFY_WITH_TIMEOUT(!station().tell().making(), kPatience_ms);
        wait_for_redraw();
    }
    void save_as(const char* button, const QString& file) {
        next_path = folder().filePath(file);
        QFile::remove(next_path);
        click(button);
    }
    QString file(const QString& name) { return folder().filePath(name); }
};

} // namespace

class TstTellView : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { prepare_application(); }

    void a_report_is_made_looked_at_cut_and_saved() {
        Telling f("tell_report", "life");
        f.window->show_station(QStringLiteral("station_motion"));
        f.trigger("tell_others"); // its key, from anywhere
        f.wait_for_redraw();
        QVERIFY(f.find<QWidget>("tell_page")->isVisible());
        QVERIFY(!f.may("tell_pdf") && f.may("tell_make"));
        QVERIFY(f.page().isEmpty());
        f.make();
        QVERIFY(f.page().contains("Answer") && f.page().contains("Take care"));
        QVERIFY(f.page().contains("The valve train"));
        // Words and chapters change the page at once, without making it anew.
        f.find<QPlainTextEdit>("tell_question")->setPlainText("Where does it stop?");
        f.type("tell_who", "R. Sample");
        auto* chapters = f.find<QListWidget>("tell_chapters");
        for (int i = 0; i < chapters->count(); ++i)
            if (chapters->item(i)->text() == "The valve train")
                chapters->item(i)->setCheckState(Qt::Unchecked);
        f.wait_for_redraw();
        QVERIFY(f.page().contains("Where does it stop?") && f.page().contains("R. Sample"));
        QVERIFY(!f.page().contains("The valve train"));
        f.save_as("tell_html", "report.html");
        QVERIFY(f.window->message().contains("report.html"));
        const std::string html = io::read_file(f.file("report.html").toStdString());
        CONTAINS(html, "Where does it stop?");
        CONTAINS(html, "<svg");
        f.save_as("tell_pdf", "report.pdf");
        CONTAINS(io::read_file(f.file("report.pdf").toStdString()), "(D:20260420000000Z)");
        // Nowhere to write: told, and nothing else.
        f.next_path = f.file("no/such/report.pdf");
        f.click("tell_pdf");
        QVERIFY(f.window->message().contains("report.pdf"));
    }

    void what_is_shown_is_old_once_records_change() {
        Telling f("tell_old", "tell");
        f.make();
        QVERIFY(f.may("tell_pdf"));
        Train train = f.document().train();
        train.installed_height_m += 2e-4;
        f.document().edit(train, "height");
        f.wait_for_redraw();
        QVERIFY(!f.may("tell_pdf"));
        QVERIFY(f.said().contains("old"));
        f.trigger("undo");
        f.wait_for_redraw();
        QVERIFY(f.may("tell_pdf")); // of what is in hand again
    }

    void another_run_of_the_revision_can_be_chosen_and_makes_what_is_shown_old() {
        Telling f("tell_run", "tell");
        auto* runs = f.find<QComboBox>("tell_run");
        QCOMPARE(runs->itemText(0), QStringLiteral("no rig run of this revision"));
        QVERIFY(!runs->isEnabled());
        f.document().show(2);
        f.window->rig().import(source_path("demo/ashgill-a22-intake-after.rig.csv"));
        QTRY_VERIFY_WITH_TIMEOUT(f.window->rig().state() == RigSession::State::Ready, kPatience_ms);
        f.wait_for_redraw();
        const auto& [of_this, kept] = *f.document().project().of(EntryKind::RigRun).rbegin();
        QCOMPARE(kept.revision, f.document().shown());
        QCOMPARE(runs->itemText(0), QStringLiteral("its last rig run"));
        const int at = runs->findData(QVariant::fromValue(qlonglong(of_this)));
        QVERIFY(at > 0);
        f.make();
        QVERIFY(f.may("tell_html"));
        runs->setCurrentIndex(at);
        QVERIFY(!f.may("tell_html") && f.said().contains("old"));
        f.make();
        QVERIFY(f.may("tell_html"));
        f.document().show(1); // another revision has other runs
        f.wait_for_redraw();
        QCOMPARE(runs->currentIndex(), 0);
        QVERIFY(!f.may("tell_html"));
    }

    void what_is_made_can_be_stopped() {
        Telling f("tell_stop", "tell");
        f.click("tell_make");
        QVERIFY(f.station().tell().making());
        QVERIFY(f.find<QPushButton>("tell_make")->text().startsWith("Stop"));
        f.click("tell_make");
        QVERIFY(!f.station().tell().making());
        f.wait_for_redraw();
        QVERIFY(f.page().isEmpty() && !f.may("tell_pdf"));
    }

    void a_pack_is_saved_and_its_answer_taken_and_undone() {
        Telling f("tell_pack", "tell");
        f.choose("tell_what", "Pack for the spring maker");
        QVERIFY(!f.find<QPushButton>("tell_pdf")->isVisible());
        f.make();
        QVERIFY(f.page().contains("To the spring maker"));
        f.save_as("tell_zip", "pack.zip"); // nothing is asked
        QTRY_VERIFY_WITH_TIMEOUT(f.window->message().contains("question"), kPatience_ms);
        QVERIFY(!QFile::exists(f.file("pack.zip")));
        f.find<QPlainTextEdit>("tell_question")
            ->setPlainText("Which spring goes with Intake 46, hollow stem?");
        f.wait_for_redraw();
        QVERIFY(!f.page().contains("hollow stem")); // another maker's
        f.save_as("tell_zip", "pack.zip");
        QTRY_VERIFY_WITH_TIMEOUT(f.said().contains("\"Intake 46, hollow stem\" is another maker's"),
                                 kPatience_ms);
        const auto files = io::read_pack(f.file("pack.zip").toStdString());
        QCOMPARE(files.size(), std::size_t(6));
        std::string form = io::find_file(files, "answer.csv")->bytes;
        const std::size_t at = form.find("wire_mm,") + 8;
        form.replace(at, form.find('\n', at) - at, "4.55");
        f.next_path = f.file("answer.csv");
        io::write_file(f.next_path.toStdString(), form);
        const std::size_t before = f.document().project().parts.size();
        f.click("tell_answer");
        QCOMPARE(f.document().project().parts.size(), before + 1);
        QVERIFY(f.said().contains("1 new on the shelf"));
        f.click("tell_answer");
        QVERIFY(f.said().contains("0 new on the shelf, 1 known"));
        QCOMPARE(f.document().project().parts.size(), before + 1);
        f.trigger("undo");
        QCOMPARE(f.document().project().parts.size(), before);
        io::write_file(f.next_path.toStdString(), "rubbish");
        f.click("tell_answer");
        QVERIFY(f.window->message().contains("answer.csv"));
        QCOMPARE(f.document().project().parts.size(), before);
    }

    void between_two_states_stands_what_changed_and_what_it_does() {
        Telling f("tell_between", "life");
        f.trigger("between");
        f.wait_for_redraw();
        QVERIFY(f.find<QWidget>("between_states")->isVisible());
        const auto ready = [&] {
            QTRY_VERIFY_WITH_TIMEOUT(!f.station().between().looking(), kPatience_ms);
            f.wait_for_redraw();
        };
        ready();
        auto* states = f.find<QTableWidget>("between_states");
        QCOMPARE(states->rowCount(), 2);
        QVERIFY(states->item(1, 1)->text().contains("bad")); // the locks failed
        QVERIFY(states->item(1, 2)->text().contains("marked"));
        QVERIFY(f.find<QLabel>("between_words")->text().contains("No good state"));
        f.choose("between_good", "r1");
        f.choose("between_bad", "r2");
        ready();
        auto* changes = f.find<QTableWidget>("between_changes");
        QCOMPARE(changes->rowCount(), 1);
        QVERIFY(changes->item(0, 1)->text().contains("0.89"));
        QVERIFY(f.find<QTableWidget>("between_effects")->rowCount() > 3);
        QVERIFY(f.find<QLabel>("between_words")->text().contains("r1 last season"));
        const QString millimetres = changes->item(0, 1)->text();
        f.window->units().toggle();
        f.wait_for_redraw();
        QVERIFY(changes->item(0, 1)->text() != millimetres);
        f.choose("between_good", "r2"); // the same twice: nothing lies between
        QCOMPARE(changes->rowCount(), 0);
    }
};

QTEST_MAIN(TstTellView)
#include "tst_tell_view.moc"
