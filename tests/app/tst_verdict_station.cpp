// Verdict station: the demo's two stories, evidence that leads to its plot, changes tried, a decision
// recorded and undone.
#include "app/app_fixture.h"
#include "app/stations/verdict/verdict_station.h"
#include "io/dyno/pull_file.h"
#include "io/project/store.h"
#include "io/rig/rig_file.h"

#include <QClipboard>
#include <QComboBox>
#include <QLabel>
#include <QListWidget>
#include <QTabWidget>
#include <QTableWidget>
#include <QTest>

using namespace bathmos;
using namespace bathmos::test;

namespace {

// The demo project with its pulls and the rig run of the winter.
class StoryFixture : public Fixture {
  public:
    explicit StoryFixture(const QString& name) {
        path = folder().filePath(name + ".bathmos");
        QFile::remove(path);
        io::import_project(source_file("demo/project"), path.toStdString());
        {
            io::Store store = io::Store::open(path.toStdString());
            Project next = store.project();
            const auto add = [&](io::RecordKind kind, EntryKind entry_kind, Id revision,
                                 const std::string& file, const io::Trace& trace,
                                 const std::string& changed) {
                const Id id = store.new_id(kind);
                Entry& entry = next.of(entry_kind)[id];
                entry.name = file;
                entry.revision = revision;
                entry.when = io::now_text();
                if (!changed.empty())
                    entry.words["changed"] = changed;
                entry.traces = {store.add_trace(io::packed(trace))};
                store.commit(file, "", {{kind, id, io::record_text(next, kind, id)}});
            };
            const auto pull = [&](Id revision, const std::string& file, const std::string& changed = "") {
                add(io::RecordKind::DynoPull, EntryKind::DynoPull, revision, file,
                    io::trace_of(io::read_pulls(source_file("demo/" + file)).front()), changed);
            };
            for (const char* n : {"1", "2"}) {
                pull(1, std::string("ashgill-a22-before-") + n + ".pull.csv");
                pull(2, std::string("ashgill-a22-after-") + n + ".pull.csv");
                pull(4, std::string("ravenmoor-t14-before-") + n + ".pull.csv");
            }
            for (const char* n : {"1", "2"})
                pull(4, std::string("ravenmoor-t14-after-") + n + ".pull.csv", "blower pulley 5 mm smaller");
            add(io::RecordKind::RigRun, EntryKind::RigRun, 2, "ashgill-a22-intake-after.rig.csv",
                io::trace_of(io::read_rig(source_file("demo/ashgill-a22-intake-after.rig.csv"))), "");
        }
        QVERIFY2(window->open_train(path), qPrintable(window->message()));
        window->sweep().set_range({7000, 8600, 400});
    }
    QString answer() { return find<QLabel>("verdict_answer")->text(); }
    void weigh() {
        window->show_station(QStringLiteral("station_verdict"));
        QTRY_VERIFY_WITH_TIMEOUT(!answer().isEmpty() && !answer().startsWith("Weighing") &&
                                     find<QPushButton>("verdict_record")->isEnabled(),
                                 kPatience_ms);
    }
    QTableWidget* table(const char* name) { return find<QTableWidget>(name); }
    QString path;
};

} // namespace

class TstVerdictStation : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { prepare_application(); }

    void the_story_of_the_thin_pushrods_comes_out_right() {
        StoryFixture f("verdict-story");
        f.weigh();
        const QString answer = f.answer();
        for (const char* part : {"From about 76", "the intake valve", "opening flex", "pushrod"})
            QVERIFY2(answer.contains(part), qPrintable(answer));
        QCOMPARE(f.table("verdict_causes")->item(0, 1)->text(), QString("Train too flexible"));
        QVERIFY(f.table("verdict_causes")->item(0, 0)->text().toDouble() > 70);
        // Evidence of all kinds stands beside it; Enter on a line leads to the plot.
        auto* evidence = f.table("verdict_evidence");
        QSet<QString> groups;
        int rig = -1;
        for (int row = 0; row < evidence->rowCount(); ++row) {
            groups.insert(evidence->item(row, 1)->text());
            if (evidence->item(row, 0)->data(Qt::UserRole).toString() == "rig/metric/opening_shift_deg")
                rig = row;
        }
        for (const char* group : {"dyno", "model", "rig", "changes"})
            QVERIFY2(groups.contains(group), group);
        QVERIFY(rig >= 0);
        emit evidence->cellActivated(rig, 0);
        QVERIFY(f.find<QWidget>("station_rig")->isVisible());
        QCOMPARE(f.find<QComboBox>("rig_metric")->currentText(), QString("Opening shift"));
        NEAR(f.window->cursors().speed_rpm(), 7670, 60);
        auto* next = f.table("verdict_next");
        QVERIFY(next->rowCount() >= 1);
        QVERIFY(!next->item(0, 0)->text().isEmpty());
        for (int k = 0; k < next->rowCount(); ++k) { // share of what is open, best by the hour first
            const double hours = next->item(k, 1)->text().toDouble(),
                         share = next->item(k, 2)->text().toDouble();
            QVERIFY(hours > 0 && share >= 0 && share <= 100);
            NEAR(next->item(k, 3)->text().toDouble(), share / hours, 0.05 + 0.05 / hours + 1e-9);
            QVERIFY(!k || next->item(k, 3)->text().toDouble() <= next->item(k - 1, 3)->text().toDouble());
        }
        auto* missing = f.find<QListWidget>("verdict_missing");
        QStringList told;
        for (int row = 0; row < missing->count(); ++row)
            told.push_back(missing->item(row)->text());
        QVERIFY(told.join(QLatin1Char('\n')).contains("not logged"));
        QVERIFY(told.join(QLatin1Char('\n')).contains("not calibrated"));
        QVERIFY(f.find<QLabel>("verdict_valve")->text().contains("Calibrate the run"));
    }

    void evidence_of_the_bench_and_of_changes_leads_to_its_place() {
        StoryFixture f("verdict-links");
        f.weigh();
        auto* causes = f.table("verdict_causes");
        auto* evidence = f.table("verdict_evidence");
        const auto follow = [&](const QString& link) {
            f.window->show_station(QStringLiteral("station_verdict"));
            for (int cause = 0; cause < causes->rowCount(); ++cause) {
                causes->selectRow(cause);
                for (int row = 0; row < evidence->rowCount(); ++row)
                    if (evidence->item(row, 0)->data(Qt::UserRole).toString() == link) {
                        emit evidence->cellActivated(row, 0);
                        return true;
                    }
            }
            return false;
        };
        auto* tabs = f.find<QTabWidget>("train_tabs");
        tabs->setCurrentIndex(0);
        QVERIFY(follow("train/revisions"));
        QVERIFY(f.find<QWidget>("station_train")->isVisible());
        QCOMPARE(tabs->tabText(tabs->currentIndex()), QString("Revisions"));
        QVERIFY(follow("train/checks"));
        QVERIFY(f.find<QWidget>("station_train")->isVisible());
        QTRY_VERIFY(f.find<QWidget>("open_checks")->hasFocus());
        QVERIFY(follow("motion/sweep"));
        QVERIFY(f.find<QWidget>("station_motion")->isVisible());
        QVERIFY(follow("dyno/rough"));
        QVERIFY(f.find<QWidget>("station_dyno")->isVisible());
        QVERIFY(f.find<QComboBox>("dyno_below")->currentText().startsWith("Roughness"));
        QVERIFY(follow("dyno/channel/lambda") || follow("dyno/channel/oil") ||
                follow("dyno/channel/manifold"));
        QVERIFY(!f.find<QComboBox>("dyno_below")->currentText().startsWith("Roughness"));
    }

    void causes_add_up_and_can_be_copied() {
        StoryFixture f("verdict-table");
        f.weigh();
        auto* causes = f.table("verdict_causes");
        double sum = 0, last = 101;
        bool train = false;
        for (int row = 0; row < causes->rowCount(); ++row) {
            const double percent = causes->item(row, 0)->text().toDouble();
            QVERIFY(percent <= last);
            last = percent;
            sum += percent;
            const QString where = causes->item(row, 3)->text();
            QVERIFY(where == "valve train" || where == "elsewhere");
            train |= where == "valve train";
        }
        NEAR(sum, 100, 0.5); // what is under 0.05 % is not listed
        QVERIFY(train);
        causes->clearSelection();
        causes->setFocus();
        QTest::keySequence(causes, QKeySequence::Copy);
        const QString copied = QApplication::clipboard()->text();
        QVERIFY2(copied.startsWith("%\tCause\thow sure\twhere\n"), qPrintable(copied.left(60)));
        QCOMPARE(copied.count('\n'), causes->rowCount() + 1);
        const QString status = f.find<QLabel>("verdict_status")->text();
        QVERIFY2(status.contains("settled to") && status.contains("competent person"), qPrintable(status));
    }

    void without_pull_or_run_the_model_alone_is_asked() {
        ProjectFixture f("verdict-model");
        f.window->show_station(QStringLiteral("station_verdict"));
        auto* answer = f.find<QLabel>("verdict_answer");
        QTRY_VERIFY_WITH_TIMEOUT(f.find<QPushButton>("verdict_record")->isEnabled(), kPatience_ms);
        QVERIFY2(answer->text().contains("model"), qPrintable(answer->text()));
        auto* missing = f.find<QListWidget>("verdict_missing");
        QString all;
        for (int row = 0; row < missing->count(); ++row)
            all += missing->item(row)->text() + '\n';
        QVERIFY2(all.contains("pull") && all.contains("rig"), qPrintable(all));
        auto* evidence = f.find<QTableWidget>("verdict_evidence");
        for (int row = 0; row < evidence->rowCount(); ++row) {
            QVERIFY(evidence->item(row, 1)->text() != "dyno");
            QVERIFY(evidence->item(row, 1)->text() != "rig");
        }
        // The cheapest look at what is missing is offered.
        QVERIFY(f.find<QTableWidget>("verdict_next")->rowCount() > 3);
    }

    void the_story_of_the_blower_leaves_the_valves_innocent() {
        StoryFixture f("verdict-innocent");
        f.window->document().show(4);
        f.weigh();
        QVERIFY2(f.answer().contains("the blower's belt slips") && f.answer().contains("innocent"),
                 qPrintable(f.answer()));
        QCOMPARE(f.table("verdict_causes")->item(0, 1)->text(), QString("Drive belt slips"));
        QCOMPARE(f.table("verdict_causes")->item(0, 3)->text(), QString("elsewhere"));
    }

    void an_edit_makes_the_verdict_old_and_a_look_makes_it_anew() {
        StoryFixture f("verdict-old");
        f.weigh();
        Train next = f.window->document().train();
        next.lash_m += 0.02e-3;
        f.window->document().edit(next, "lash");
        QTRY_VERIFY_WITH_TIMEOUT(f.find<QLabel>("verdict_status")->text().startsWith("old"), kPatience_ms);
        QVERIFY(!f.find<QPushButton>("verdict_record")->isEnabled());
        for (const char* name : {"verdict_causes", "verdict_evidence", "verdict_next"}) // greyed, not gone
            QVERIFY2(!f.table(name)->isEnabled() && f.table(name)->rowCount() > 0, name);
        f.window->show_station(QStringLiteral("station_train"));
        f.weigh();
        QVERIFY(!f.find<QLabel>("verdict_status")->text().startsWith("old"));
    }

    void a_verdict_is_recorded_with_its_reasons_and_undone() {
        StoryFixture f("verdict-record");
        f.weigh();
        f.next_words.clear();
        QTest::mouseClick(f.find<QPushButton>("verdict_record"), Qt::LeftButton); // no reason, no record
        QVERIFY(f.window->document().project().of(EntryKind::Verdict).empty());
        f.next_words = "seen on the rig, too";
        QTest::mouseClick(f.find<QPushButton>("verdict_record"), Qt::LeftButton);
        const auto& verdicts = f.window->document().project().of(EntryKind::Verdict);
        QCOMPARE(verdicts.size(), std::size_t{1});
        const Entry& entry = verdicts.begin()->second;
        QCOMPARE(entry.revision, f.window->document().shown());
        QCOMPARE(entry.words.at("cause"), std::string("train_flexible"));
        QCOMPARE(entry.text, std::string("seen on the rig, too"));
        QVERIFY(entry.numbers.at("p_train_flexible") > 0.7);
        auto* decisions = f.table("verdict_decisions");
        QTRY_COMPARE_WITH_TIMEOUT(decisions->rowCount(), 1, kPatience_ms);
        QCOMPARE(decisions->item(0, 2)->text(), QString("Train too flexible: no change"));
        QVERIFY(decisions->item(0, 3)->text().startsWith("seen on the rig, too"));
        // Another project and back: it was kept.
        ProjectFixture other("verdict-other");
        QVERIFY(f.window->open_train(other.path));
        QTRY_COMPARE_WITH_TIMEOUT(decisions->rowCount(), 0, kPatience_ms);
        QVERIFY(f.window->open_train(f.path));
        QTRY_COMPARE_WITH_TIMEOUT(decisions->rowCount(), 1, kPatience_ms);
        QVERIFY(decisions->item(0, 3)->text().contains("opening flex"));
        f.trigger("undo");
        QVERIFY(f.window->document().project().of(EntryKind::Verdict).empty());
        QTRY_COMPARE_WITH_TIMEOUT(f.table("verdict_decisions")->rowCount(), 0, kPatience_ms);
    }

    void a_change_that_was_tried_is_decided_on_and_becomes_a_revision() {
        StoryFixture f("verdict-decide");
        f.weigh();
        QTest::mouseClick(f.find<QPushButton>("verdict_try"), Qt::LeftButton);
        auto* outcomes = f.table("verdict_outcomes");
        QTRY_VERIFY_WITH_TIMEOUT(outcomes->rowCount() >= 4, 3 * kPatience_ms); // they come one by one
        f.trigger("stop");
        QTRY_VERIFY_WITH_TIMEOUT(!f.find<QPushButton>("verdict_stop")->isVisible(), kPatience_ms);
        int row = -1;
        for (int k = 0; k < outcomes->rowCount(); ++k)
            if (outcomes->item(k, 0)->text().contains("screwed tips (2019 set)"))
                row = k;
        QVERIFY(row >= 0);
        const auto gain = [&](int k) { return outcomes->item(k, 2)->text().remove("≥ ").toDouble(); };
        for (int k = 1; k < outcomes->rowCount(); ++k) // one order for single changes and combinations
            QVERIFY(outcomes->item(k, 2)->text() == "–" || gain(k) <= gain(k - 1));
        QVERIFY2(gain(row) > 400, qPrintable(outcomes->item(row, 2)->text())); // beyond the range: "≥"
        outcomes->selectRow(row);
        // The choice stays with its change when the order puts it elsewhere.
        for (int order : {2, 1, 0, 2}) {
            f.find<QComboBox>("verdict_order")->setCurrentIndex(order);
            QCOMPARE(outcomes->selectedItems().size(), outcomes->columnCount());
            QVERIFY(outcomes->item(outcomes->currentRow(), 0)->text().contains("screwed tips (2019 set)"));
        }
        // Inches are inches in heading and row.
        const int bind = 6;
        const double bind_mm = outcomes->item(outcomes->currentRow(), bind)->text().toDouble();
        f.trigger("units");
        QTRY_COMPARE_WITH_TIMEOUT(outcomes->horizontalHeaderItem(bind)->text(), QString("bind\nin"),
                                  kPatience_ms);
        NEAR(outcomes->item(outcomes->currentRow(), bind)->text().toDouble() * 25.4, bind_mm, 0.03);
        f.trigger("units");
        QTRY_COMPARE_WITH_TIMEOUT(outcomes->horizontalHeaderItem(bind)->text(), QString("bind\nmm"),
                                  kPatience_ms);
        QVERIFY(f.find<QPushButton>("verdict_decide")->isEnabled());
        const Id judged = f.window->document().shown();
        f.next_words = "back to what held";
        QTest::mouseClick(f.find<QPushButton>("verdict_decide"), Qt::LeftButton);
        const Project& project = f.window->document().project();
        const Id now = f.window->document().shown();
        QVERIFY(now != judged);
        QCOMPARE(project.revisions.at(now).parent, judged);
        QVERIFY(QString::fromStdString(project.revisions.at(now).reason).contains("back to what held"));
        NEAR(project.revisions.at(now).assembly.train.pushrod->wall_m, 1.24e-3, 1e-9);
        QCOMPARE(project.of(EntryKind::Verdict).begin()->second.revision, judged);
        f.trigger("undo"); // one step takes back both
        QCOMPARE(f.window->document().shown(), judged);
        QVERIFY(f.window->document().project().of(EntryKind::Verdict).empty());
    }

    void the_station_has_its_key_and_help() {
        ProjectFixture f("verdict-key");
        QTest::keyClick(f.window.get(), Qt::Key_8, Qt::ControlModifier);
        auto* station = f.find<VerdictStation>("station_verdict");
        QVERIFY(station->isVisible());
        for (const char* word : {"Change study", "Next test", "Bayes", "counts nothing", "Caution"})
            QVERIFY2(station->help().contains(QLatin1String(word)), word);
        QStringList tabs;
        for (int i = 0; i < f.find<QTabWidget>("verdict_tabs")->count(); ++i)
            tabs.push_back(f.find<QTabWidget>("verdict_tabs")->tabText(i));
        QCOMPARE(tabs, QStringList({"Change study", "Next test", "Missing", "Decisions"}));
    }

    void without_a_train_the_station_offers_the_next_step() {
        Fixture f;
        f.window->show_station(QStringLiteral("station_verdict"));
        QVERIFY(f.find<QPushButton>("verdict_open")->isVisible());
    }

    void a_verdict_in_the_making_can_be_stopped() {
        StoryFixture f("verdict-stop");
        f.window->show_station(QStringLiteral("station_verdict"));
        auto* stop = f.find<QPushButton>("verdict_stop");
        QTRY_VERIFY_WITH_TIMEOUT(stop->isVisible(), kPatience_ms);
        QTest::mouseClick(stop, Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(!stop->isVisible(), kPatience_ms);
        QVERIFY(!f.find<QPushButton>("verdict_record")->isEnabled());
        QTest::mouseClick(f.find<QPushButton>("verdict_weigh"), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(f.find<QPushButton>("verdict_record")->isEnabled(), kPatience_ms);
        QVERIFY(f.answer().contains("opening flex"));
    }
};

QTEST_MAIN(TstVerdictStation)
#include "tst_verdict_station.moc"
