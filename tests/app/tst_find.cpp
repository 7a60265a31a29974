// Finding by a few letters, and files dropped onto the window.
#include "app/shell/file_drop.h"
#include "app/shell/find_index.h"
#include "app_fixture.h"
#include "io/file/file_kind.h"

#include <QDropEvent>
#include <QLabel>
#include <QListWidget>
#include <QMimeData>
#include <QTextBrowser>
#include <QUrl>

using namespace bathmos;
using namespace bathmos::test;

namespace {

QStringList titles(const QVector<Findable>& found) {
    QStringList out;
    for (const Findable& one : found)
        out << one.title;
    return out;
}

void drop(QWidget* on, const QStringList& paths) {
    QMimeData data;
    QList<QUrl> urls;
    for (const QString& path : paths)
        urls << QUrl::fromLocalFile(path);
    data.setUrls(urls);
    QDragEnterEvent enter(QPoint(10, 10), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QCoreApplication::sendEvent(on, &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent event(QPointF(10, 10), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QCoreApplication::sendEvent(on, &event);
    QVERIFY(event.isAccepted());
    QCoreApplication::processEvents();
}

io::FileKind kind(const char* path) {
    return io::kind_of_file(source_file(path));
}

} // namespace

class TestFind : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    void what_is_typed_is_found_best_first() {
        const QVector<Findable> among = {
            {Findable::Kind::Help, "Rig", "the lift of a rig", "the lift of a rig"},
            {Findable::Kind::Word, "lash", "clearance at the valve tip",
             "clearance at the valve tip valve clearance, gap"},
            {Findable::Kind::Action, "Import lobe profile…", "", ""},
            {Findable::Kind::Action, "Lobe", "", ""}};
        QCOMPARE(titles(find_all(among, "lobe")), QStringList({"Lobe", "Import lobe profile…"}));
        QCOMPARE(titles(find_all(among, "GAP")), QStringList({"lash"})); // a synonym
        QCOMPARE(titles(find_all(among, "rig lift")), QStringList({"Rig"}));
        QCOMPARE(titles(find_all(among, "")), QStringList({"Import lobe profile…", "Lobe", "lash"}));
        QVERIFY(find_all(among, "nothing like it").isEmpty());
        QCOMPARE(find_all(among, "l", 2).size(), 2);
    }

    void the_glossary_gives_terms_with_their_synonyms() {
        const auto words =
            words_of_glossary("# Words\n\n| term | what it is | unit | also searched for |\n"
                              "| --- | --- | --- | --- |\n| loft | valve above | mm | float, jump |\n");
        QCOMPARE(words.size(), 1);
        QCOMPARE(words[0].title, QStringLiteral("loft"));
        QVERIFY(words[0].searched.contains("jump"));
    }

    void an_action_is_found_and_done_by_keys() {
        Fixture f;
        QTest::keyClick(f.window.get(), Qt::Key_K, Qt::ControlModifier);
        auto* query = f.find<QLineEdit>("find_query");
        auto* list = f.find<QListWidget>("find_list");
        QVERIFY(list->count() > 30);
        QTest::keyClicks(query, QStringLiteral("metric"));
        QVERIFY(list->item(0)->text().startsWith("Metric or inch"));
        QTest::keyClick(query, Qt::Key_Return);
        QVERIFY(f.window->units().system() == UnitSystem::Inch);
        QTRY_VERIFY(!f.window->findChild<QLineEdit*>("find_query"));
    }

    void a_word_is_found_by_its_synonym_and_shown() {
        Fixture f;
        QTest::keyClick(f.window.get(), Qt::Key_K, Qt::ControlModifier);
        auto* query = f.find<QLineEdit>("find_query");
        QTest::keyClicks(query, QStringLiteral("valve clearance"));
        auto* list = f.find<QListWidget>("find_list");
        QVERIFY(list->item(0)->text().contains("lash"));
        QTest::keyClick(query, Qt::Key_Return);
        auto* help = f.find<QTextBrowser>("help");
        QVERIFY(help->isVisible());
        QVERIFY(help->textCursor().selectedText().contains("lash", Qt::CaseInsensitive));
    }

    void help_is_found_in_its_station() {
        Fixture f;
        QTest::keyClick(f.window.get(), Qt::Key_K, Qt::ControlModifier);
        auto* query = f.find<QLineEdit>("find_query");
        QTest::keyClicks(query, QStringLiteral("flying locks injure"));
        auto* list = f.find<QListWidget>("find_list");
        QVERIFY(list->item(0)->text().contains("Train"));
        QTest::keyClick(query, Qt::Key_Down);
        QTest::keyClick(query, Qt::Key_Up);
        QTest::keyClick(query, Qt::Key_Return);
        QVERIFY(f.find<QTextBrowser>("help")->isVisible());
        QVERIFY(f.find<QTextBrowser>("help")->toPlainText().contains("flying locks injure"));
    }

    // ---- dropped files

    void files_are_told_apart() {
        using K = io::FileKind;
        QCOMPARE(kind("demo/ashgill-a22-intake-after.train.json"), K::Train);
        QCOMPARE(kind("demo/ashgill-a22-intake-after.rig.csv"), K::Rig);
        QCOMPARE(kind("tests/practice/102/rig.csv"), K::Rig);
        QCOMPARE(kind("tests/practice/102/before.pull.csv"), K::Pull);
        QTemporaryDir dir;
        const auto write = [&](const char* name, const char* text) {
            return io::kind_of_file(write_test_file(dir.filePath(QLatin1String(name)), text));
        };
        QCOMPARE(write("a.csv", "Cam angle [deg];Lift [mm]\n-90;0.1\n0;8\n90;0.1\n"), K::Lobe);
        QCOMPARE(write("b.txt", "RPM,Power (hp),Boost\n3000,80,1\n3100,82,1\n"), K::Pull);
        QCOMPARE(write("c.csv", "Height mm,Load N\n42,400\n35,700\n"), K::Sheet);
        QCOMPARE(write("d.json", "{\"format\": \"bathmos-sheet\"}"), K::Sheet);
        QCOMPARE(write("e.json", "{\"format\": \"else\"}"), K::Unknown);
        QCOMPARE(write("f.PNG", "x"), K::Picture);
        QVERIFY(contains(problem_of([&] { write("g.csv", "no table at all"); }).source, "g.csv"));
    }

    void a_dropped_train_opens_wherever_it_falls() {
        Fixture f;
        drop(f.window->centralWidget(), {source_path("tests/trains/skerrin-650-intake.train.json")});
        QVERIFY(f.window->document().has_train());
        QVERIFY(f.window->document().train().layout == Layout::Bucket);
        f.type("valve.mass_g", "30"); // a field of text takes no file's name
        auto* edit = f.find<QLineEdit>("valve.mass_g");
        f.unsaved = Unsaved::Discard;
        drop(edit, {source_path("tests/trains/corrie-500-intake.train.json")});
        QVERIFY(f.window->document().train().layout == Layout::Rocker);
        QVERIFY(!edit || !edit->text().contains("corrie"));
    }

    void photos_go_with_the_next_line_of_the_log() {
        Fixture f;
        f.open_demo();
        const QString photo = Fixture::folder().filePath("seat.png");
        write_test_file(photo, "not really");
        drop(f.window->centralWidget(), {photo});
        QVERIFY(f.find<QWidget>("station_log")->isVisible());
        bool named = false;
        for (QPushButton* button : f.find<QWidget>("station_log")->findChildren<QPushButton*>())
            named = named || button->text().contains("seat.png");
        QVERIFY(named);
    }

    void a_dropped_campaign_is_planned() {
        Fixture f;
        f.open_demo();
        drop(f.window->centralWidget(), {source_path("tests/fuzz/cases/campaign/two-factors.json")});
        QVERIFY(f.find<QWidget>("station_plan")->isVisible());
        QCOMPARE(f.window->document().project().of(EntryKind::Plan).size(), std::size_t{1});
    }

    void what_cannot_be_taken_is_told() {
        Fixture f;
        const QString nothing = Fixture::folder().filePath("words.csv");
        write_test_file(nothing, "only words\n");
        drop(f.window->centralWidget(), {nothing});
        QVERIFY(f.window->message().contains("words.csv"));
        drop(f.window->centralWidget(), {source_path("tests/practice/102/rig.csv")});
        QVERIFY(f.window->message().contains("Open a project or a train first"));
    }
};

QTEST_MAIN(TestFind)
#include "tst_find.moc"
