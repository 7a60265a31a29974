// What stays of a run that ended by itself: the project opens again, and the log tells what was done, not
// with what.
#include "app/shell/log_file.h"
#include "app/shell/open_mark.h"
#include "app_fixture.h"

using namespace bathmos;
using namespace bathmos::test;

class TestReliability : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;

  private slots:
    void init() { prepare_application(); }

    void an_orderly_end_leaves_no_mark() {
        const QString at = folder_.filePath("orderly");
        {
            OpenMark mark(at);
            QVERIFY(mark.left_open().isEmpty());
            mark.hold("/engines/one.bathmos");
        }
        QVERIFY(OpenMark(at).left_open().isEmpty());
    }

    void what_was_open_is_known_after_an_end_that_nobody_wanted() {
        const QString at = folder_.filePath("broken");
        // A mark without its program: that is what a kill leaves.
        QVERIFY(QDir().mkpath(at));
        write_test_file(at + "/window-1.open", "/engines/one.bathmos");
        OpenMark mark(at);
        QCOMPARE(mark.left_open(), QStringLiteral("/engines/one.bathmos"));
        OpenMark second(at); // another window meanwhile: its own mark, and nothing to open twice
        QVERIFY(second.left_open().isEmpty());
    }

    void a_folder_that_cannot_be_used_changes_nothing() {
        const QString wall = folder_.filePath("wall");
        write_test_file(wall, "no folder");
        OpenMark mark(wall + "/data");
        mark.hold("/engines/one.bathmos");
        QVERIFY(mark.left_open().isEmpty());
        QVERIFY(begin_log(wall + "/log", "0").isEmpty());
    }

    void the_project_opens_again_and_says_why() {
        const QString project = folder_.filePath("again.bathmos");
        io::import_project(source_file("demo/project"), project.toStdString());
        Fixture f;
        f.window->open_again(folder_.filePath("gone.bathmos"));
        QVERIFY(!f.window->document().has_train());
        f.window->open_again(project);
        QVERIFY(f.window->document().has_train());
        QVERIFY(f.window->message().contains("ended by itself while again.bathmos was open"));
    }

    void the_log_names_actions_and_nothing_of_the_engine() {
        const QString path = begin_log(folder_.filePath("log"), "9.8.7");
        QVERIFY(!path.isEmpty());
        {
            Fixture f;
            f.open_demo();
            f.trigger("units");
            f.trigger("units");
            f.type("valve.mass_g", "57.25");
            f.window->show_message("Ashgill could not be kept");
        }
        end_log();
        QFile file(path);
        QVERIFY(file.open(QIODevice::ReadOnly));
        const QString text = QString::fromUtf8(file.readAll());
        QVERIFY(text.contains("version 9.8.7"));
        QVERIFY(text.contains("action: units"));
        QVERIFY(text.contains("ended"));
        for (const char* kept_out : {"Ashgill", "ashgill", "57.25", "bathmos-cli", "/tmp"})
            QVERIFY2(!text.contains(QLatin1String(kept_out)), kept_out);
        log_event("after the end"); // into nothing
    }
};

QTEST_MAIN(TestReliability)
#include "tst_reliability.moc"
