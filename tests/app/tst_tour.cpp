// The demo opened as a copy, and the tour through it.
#include "app/shell/demo_project.h"
#include "app/shell/tour.h"
#include "app_fixture.h"

#include <QLabel>

using namespace bathmos;
using namespace bathmos::test;

class TestTour : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    QString shipped() {
        const QString path = folder_.filePath("shipped.bathmos");
        if (!QFile::exists(path))
            io::import_project(source_file("demo/project"), path.toStdString());
        return path;
    }
    std::unique_ptr<MainWindow> window(const QString& to) {
        WindowOptions options;
        options.demo = shipped();
        options.demo_folder = to;
        auto out = std::make_unique<MainWindow>(options);
        out->uncertainty().set_automatic(false);
        out->show();
        return out;
    }

  private slots:
    void init() { prepare_application(); }

    void the_demo_opens_as_a_copy_that_stays_the_users() {
        const QString copy = demo_copy(shipped(), folder_.filePath("mine"));
        QVERIFY(QFile::exists(copy));
        QVERIFY(QFileInfo(copy).isWritable());
        QFile file(copy);
        QVERIFY(file.open(QIODevice::Append));
        file.write("x");
        file.close();
        const auto size = QFileInfo(copy).size();
        QCOMPARE(demo_copy(shipped(), folder_.filePath("mine")), copy);
        QCOMPARE(QFileInfo(copy).size(), size); // what the user did to it is not copied over
        const QString wall = folder_.filePath("wall");
        write_test_file(wall, "a file, no folder");
        const InputProblem told = problem_of([&] { demo_copy(shipped(), wall + "/demo"); });
        CONTAINS(told.what, "could not be copied");
    }

    void six_steps_point_at_real_parts_of_the_window() {
        const auto w = window(folder_.filePath("walked"));
        QVERIFY(QTest::qWaitForWindowExposed(w.get()));
        QTest::mouseClick(find_in<QPushButton>(*w, "empty_demo"), Qt::LeftButton);
        QVERIFY2(w->document().has_train(), qPrintable(w->message()));
        QVERIFY(w->document().path().contains("walked"));
        auto* tour = w->findChild<Tour*>();
        QVERIFY(tour && tour->isVisible());
        const QVector<TourStep> steps = demo_tour();
        QCOMPARE(steps.size(), 6);
        auto* title = find_in<QLabel>(*tour, "tour_title");
        for (int i = 0; i < steps.size(); ++i) {
            QCOMPARE(tour->step(), i);
            QCOMPARE(title->text(), steps[i].title);
            auto* target = w->findChild<QWidget*>(steps[i].target);
            QVERIFY2(target && target->isVisible(), qPrintable(steps[i].target));
            QVERIFY(w->rect().contains(tour->geometry()));
            QVERIFY(tour->layout()->sizeHint().height() <= tour->height() + 1);
            QTest::keyClick(w->focusWidget(), Qt::Key_Space); // Next has the keyboard
        }
        QVERIFY(!tour->isVisible());
        QVERIFY(find_in<QWidget>(*w, "station_log")->isVisible());
    }

    void arrows_go_back_and_forth_and_escape_leaves() {
        const auto w = window(folder_.filePath("left"));
        w->actions_by_id().run(QStringLiteral("demo"));
        auto* tour = w->findChild<Tour*>();
        QVERIFY(tour);
        QTest::keyClick(tour, Qt::Key_Right);
        QTest::keyClick(tour, Qt::Key_Right);
        QCOMPARE(tour->step(), 2);
        QTest::keyClick(tour, Qt::Key_Left);
        QCOMPARE(tour->step(), 1);
        w->resize(1400, 900);
        QTRY_VERIFY(w->rect().contains(tour->geometry()));
        QTest::keyClick(tour, Qt::Key_Escape);
        QVERIFY(!tour->isVisible());
        w->actions_by_id().run(QStringLiteral("demo")); // it is open already: from the first step
        QCOMPARE(tour->step(), 0);
    }

    void without_a_demo_it_says_so() {
        Fixture f;
        f.trigger("demo");
        QVERIFY(f.window->message().contains("The demo is not beside the program") ||
                f.window->document().has_train());
    }
};

QTEST_MAIN(TestTour)
#include "tst_tour.moc"
