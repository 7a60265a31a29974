// Rig, Runs, through the window: the demo's two runs over each other, the gain, a note and hiding as edits.
#include "app/app_fixture.h"
#include "app/stations/rig/runs_view.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QTabWidget>
#include <QTableWidget>

using namespace bathmos;
using namespace bathmos::test;

namespace {

class Runs : public ProjectFixture {
  public:
    Runs() : ProjectFixture(QStringLiteral("runs")) {
        few_speeds();
        for (const char* file :
             {"demo/ashgill-a22-intake-before.rig.csv", "demo/ashgill-a22-intake-after.rig.csv"}) {
            window->document().show(contains(file, "before") ? 1 : 2);
            window->rig().import(source_path(QLatin1String(file)));
            if (!QTest::qWaitFor([&] { return window->rig().state() == RigSession::State::Ready; }, 300'000))
                qFatal("not imported");
        }
        window->show_station(QStringLiteral("station_rig"));
        find<QTabWidget>("rig_tabs")->setCurrentIndex(2);
        wait_for_redraw();
        ready();
    }
    RunsView& view() { return *window->findChild<RunsView*>(); }
    void ready() {
        QTest::qWait(100);
        if (!QTest::qWaitFor([&] { return !view().working(); }, 300'000))
            qFatal("not reduced");
        wait_for_redraw();
    }
};

} // namespace

class TstRunsView : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { prepare_application(); }

    void two_runs_tell_what_the_change_did_to_the_onset() {
        Runs f;
        auto* list = f.find<QListWidget>("runs_list");
        QCOMPARE(list->count(), 2);
        QCOMPARE(f.view().runs().size(), std::size_t(2));
        auto* gains = f.find<QTableWidget>("runs_gains");
        QCOMPARE(gains->rowCount(), 1);
        CONTAINS(gains->item(0, 2)->text().toStdString(), "no onset"); // last season's has none in its range
        list->item(0)->setCheckState(Qt::Unchecked);
        f.ready();
        QCOMPARE(f.view().runs().size(), std::size_t(1));
        CONTAINS(f.find<QLabel>("runs_told")->text().toStdString(), "Tick two runs");
        CONTAINS(f.find<QLabel>("runs_response")->text().toStdString(), "three different steps");
        f.find<QComboBox>("runs_metric")->setCurrentIndex(0);
        f.wait_for_redraw();
    }

    void durations_at_each_height_stand_beside_the_metrics_and_say_how_far_a_run_is_useful() {
        Runs f;
        f.ready();
        auto* choice = f.find<QComboBox>("runs_metric");
        const int at = choice->findText("Duration lost at 1.27", Qt::MatchContains);
        QVERIFY(at > 0);
        choice->setCurrentIndex(at);
        f.wait_for_redraw();
        const std::string told = f.find<QLabel>("runs_told")->text().toStdString();
        CONTAINS(told, "r2 winter keeps its durations up to");
        CONTAINS(told, "over 10° shorter or 4° longer");
        Engine engine = *f.document().engine();
        engine.overspeed_rpm = 9900;
        f.document().set_engine(f.document().project().builds.at(f.document().build()).engine, engine);
        f.ready();
        const std::string now = f.find<QLabel>("runs_told")->text().toStdString();
        CONTAINS(now, "below the highest that the engine may see");
        QVERIFY2(f.find<QWidget>("threshold_strip")->accessibleName().contains("may see"),
                 qPrintable(f.find<QWidget>("threshold_strip")->accessibleName()));
        f.trigger("undo");
        QVERIFY(f.document().engine()->overspeed_rpm == 0);
    }

    void a_note_is_kept_and_a_hidden_run_comes_back() {
        Runs f;
        auto* list = f.find<QListWidget>("runs_list");
        list->setCurrentRow(1);
        auto* note = f.find<QLineEdit>("runs_note");
        note->setFocus();
        QTest::keyClicks(note, "oil 90 C, second morning");
        QTest::keyClick(note, Qt::Key_Return);
        f.ready();
        list->setFocus();
        const auto& runs = f.window->document().project().of(EntryKind::RigRun);
        QCOMPARE(runs.rbegin()->second.text, std::string("oil 90 C, second morning"));
        CONTAINS(list->item(1)->text().toStdString(), "second morning");
        QTest::mouseClick(f.find<QPushButton>("runs_hide"), Qt::LeftButton);
        f.ready();
        QCOMPARE(list->count(), 1);
        f.find<QCheckBox>("runs_hidden")->setChecked(true);
        f.ready();
        QCOMPARE(list->count(), 2);
        f.trigger("undo");
        f.ready();
        QVERIFY(!runs.rbegin()->second.words.contains("hidden"));
    }
};

QTEST_MAIN(TstRunsView)
#include "tst_runs_view.moc"
