// The window comes back as it was left, and the projects that were open last are at hand; a window that shall
// not remember leaves nothing behind.
#include "app/app_fixture.h"
#include "app/shell/window_memory.h"
#include "app/widgets/remembered.h"

#include <QHeaderView>
#include <QMenu>
#include <QMenuBar>
#include <QSplitter>
#include <QTableView>

using namespace bathmos;
using namespace bathmos::test;

class TstWindowMemory : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;

    QString project(const QString& name) {
        const QString path = folder_.filePath(name);
        if (!QFile::exists(path))
            io::import_project(source_file("demo/project"), path.toStdString());
        return path;
    }
    static WindowOptions remembering() {
        WindowOptions out;
        out.remember = true;
        return out;
    }
    static QString station(MainWindow& window) {
        for (const char* name : {"train", "lobe", "bench", "motion", "plan", "rig", "dyno", "verdict", "log"})
            if (find_in<QWidget>(window, QStringLiteral("station_%1").arg(QLatin1String(name)))->isVisible())
                return QLatin1String(name);
        return {};
    }

  private slots:
    void initTestCase() { prepare_application(); }
    void init() {
        QSettings::setPath(QSettings::IniFormat, QSettings::UserScope, folder_.path());
        QFile::remove(remembered().fileName());
    }

    void a_window_comes_back_as_it_was_left() {
        QSize left;
        {
            MainWindow window(remembering());
            window.show();
            window.resize(1310, 860); // not the size of a new one
            left = window.size();
            window.show_station(QStringLiteral("station_log"));
            find_in<QTabWidget>(window, QStringLiteral("log_tabs"))->setCurrentIndex(1);
            window.units().set_system(UnitSystem::Inch);
            window.actions_by_id().run(QStringLiteral("look"));
            QVERIFY(window.close());
        }
        MainWindow window(remembering());
        window.show();
        QCOMPARE(window.size(), left);
        QVERIFY(left != MainWindow().size());
        QCOMPARE(station(window), QStringLiteral("log"));
        QCOMPARE(find_in<QTabWidget>(window, QStringLiteral("log_tabs"))->currentIndex(), 1);
        QVERIFY(window.units().system() == UnitSystem::Inch);
        QVERIFY(window.theme().look() == Look::Dark);
        window.theme().set_look(Look::Light);
    }

    void the_look_is_the_desktops_until_somebody_chooses() {
        QPalette dark;
        dark.setColor(QPalette::Window, QColor(20, 25, 29));
        dark.setColor(QPalette::WindowText, QColor(230, 227, 220));
        QVERIFY(look_of(dark) == Look::Dark);
        QVERIFY(look_of(QPalette(Qt::white)) == Look::Light);
        {
            MainWindow window(remembering());
            QVERIFY(window.close());
        }
        QVERIFY(!remembered().contains(QStringLiteral("window/look")));
    }

    void splitters_stand_where_they_were_dragged() {
        const auto of_log = [](MainWindow& window) {
            return find_in<QWidget>(window, QStringLiteral("station_log"))
                ->findChildren<QSplitter*>()
                .first();
        };
        QByteArray dragged;
        {
            MainWindow window(remembering());
            window.show();
            of_log(window)->setSizes({300, 500});
            dragged = of_log(window)->saveState();
            QVERIFY(window.close());
        }
        MainWindow window(remembering());
        QCOMPARE(of_log(window)->saveState(), dragged);
    }

    void columns_are_as_wide_as_they_were_dragged() {
        const auto of_shelf = [](MainWindow& window) {
            return find_in<QTableView>(window, QStringLiteral("shelf_list"))->horizontalHeader();
        };
        int wide = 0;
        {
            MainWindow window(remembering());
            window.show();
            wide = of_shelf(window)->sectionSize(0) + 37;
            of_shelf(window)->resizeSection(0, wide);
            QVERIFY(window.close());
        }
        MainWindow window(remembering());
        QCOMPARE(of_shelf(window)->sectionSize(0), wide);
    }

    void settings_that_are_rubbish_change_nothing() {
        QSettings settings = remembered();
        for (const char* key : {"window/geometry", "window/station", "window/tab_log_tabs", "window/units"})
            settings.setValue(QLatin1String(key), QByteArray("\x01rubbish"));
        settings.sync();
        MainWindow window(remembering());
        window.show();
        QCOMPARE(station(window), QStringLiteral("train"));
        QVERIFY(window.units().system() == UnitSystem::Metric);
    }

    void a_window_that_shall_not_remember_keeps_nothing() {
        {
            MainWindow window;
            window.show();
            window.show_station(QStringLiteral("station_dyno"));
            QVERIFY(window.open_train(project("a.bathmos")));
            QVERIFY(window.close());
        }
        QVERIFY(remembered().allKeys().isEmpty());
        QVERIFY(recent_projects().isEmpty());
    }

    void what_was_open_last_is_at_hand() {
        MainWindow window(remembering());
        window.show();
        QVERIFY(window.open_train(project("a.bathmos")));
        QVERIFY(window.open_train(project("b.bathmos")));
        const QStringList both = {project("b.bathmos"), project("a.bathmos")};
        QCOMPARE(recent_projects(), both);
        QMenu* menu = nullptr;
        for (QMenu* one : window.findChildren<QMenu*>())
            if (one->menuAction()->objectName() == "open_recent")
                menu = one;
        QVERIFY(menu);
        emit menu->aboutToShow();
        QCOMPARE(menu->actions().size(), 2);
        menu->actions()[1]->trigger();
        QCOMPARE(window.document().path(), project("a.bathmos"));
        QCOMPARE(recent_projects().first(), project("a.bathmos"));
        // One that is gone is not offered; an edit writes nothing anew.
        QVERIFY(QFile::remove(project("b.bathmos")));
        QCOMPARE(recent_projects(), QStringList{project("a.bathmos")});
    }

    void eight_at_most_each_once() {
        for (int i = 0; i < 12; ++i) {
            QFile file(folder_.filePath(QStringLiteral("p%1.bathmos").arg(i % 10)));
            QVERIFY(file.open(QIODevice::WriteOnly));
            note_recent(file.fileName());
        }
        const QStringList recent = recent_projects();
        QCOMPARE(recent.size(), qsizetype(kRecentProjects));
        QVERIFY(recent.first().endsWith("p1.bathmos"));
        QCOMPARE(QSet<QString>(recent.begin(), recent.end()).size(), recent.size());
    }
};

QTEST_MAIN(TstWindowMemory)
#include "tst_window_memory.moc"
