// Dyno station: import with mapping, states, correction, marks, channels, difference, undo, as a person
// drives it.
#include "app/app_fixture.h"
#include "app/plot/plot.h"
#include "app/stations/dyno/dyno_station.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QSettings>
#include <QStandardPaths>
#include <QTableWidget>
#include <QTest>

using namespace bathmos;
using namespace bathmos::test;

namespace {

class DynoFixture : public ProjectFixture {
  public:
    explicit DynoFixture(const QString& name) : ProjectFixture(name) {
        window->show_station(QStringLiteral("station_dyno"));
    }
    void import_pull(const QString& file, std::function<void(QDialog*)> fill = {}) {
        next_path = QFileInfo(file).isAbsolute() ? file : source_path(file);
        Press press("pull_import", [fill](QDialog* dialog) {
            if (fill)
                fill(dialog);
            QTest::mouseClick(dialog->findChild<QPushButton*>("pull_accept"), Qt::LeftButton);
        });
        trigger("import_pull");
        QVERIFY(press.came);
        wait();
    }
    void wait() { QTRY_VERIFY_WITH_TIMEOUT(!window->dyno().running(), kPatience_ms); }
    /// The demo's two pulls of each state.
    void import_story() {
        for (const char* n : {"1", "2"})
            import_pull(QStringLiteral("demo/ashgill-a22-before-%1.pull.csv").arg(n), [](QDialog* dialog) {
                dialog->findChild<QComboBox*>("pull_revision")->setCurrentIndex(0);
            });
        for (const char* n : {"1", "2"})
            import_pull(QStringLiteral("demo/ashgill-a22-after-%1.pull.csv").arg(n));
    }
    Plot* plot(const QString& name) {
        for (Plot* p : window->findChildren<Plot*>())
            if (p->accessibleName().contains(name))
                return p;
        qFatal("no plot %s", qPrintable(name));
    }
    std::optional<StripMark> mark() const {
        for (const StripMark& m : window->strip().marks())
            if (m.kind == StripMark::Kind::DynoBreak)
                return m;
        return std::nullopt;
    }
};

} // namespace

class TstDynoStation : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() {
        prepare_application();
        QStandardPaths::setTestModeEnabled(true);
        QSettings(QSettings::IniFormat, QSettings::UserScope, "bathmos", "bathmos").remove("pull_mapping");
    }

    void an_empty_station_offers_the_next_step() {
        DynoFixture f("dyno-empty");
        auto* step = f.find<QPushButton>("dyno_import_first");
        QVERIFY(step->isVisible());
        f.next_path.clear();
        QTest::mouseClick(step, Qt::LeftButton);
        QCOMPARE(f.asked.last(), QByteArray("open_pull"));
    }

    void imported_pulls_show_their_break_on_curve_and_strip() {
        DynoFixture f("dyno-story");
        f.import_story();
        const DynoSession& dyno = f.window->dyno();
        QCOMPARE(dyno.states().size(), std::size_t{2});
        QVERIFY(dyno.shown()->label.starts_with("r2") && dyno.compared()->label.starts_with("r1"));
        QCOMPARE(dyno.shown()->pulls.size(), std::size_t{2});
        NEAR(dyno.shown()->first_break->speed_rpm, 7680, 80);
        QVERIFY(!dyno.compared()->first_break);
        QVERIFY(f.mark());
        NEAR(f.mark()->speed_rpm, dyno.shown()->first_break->speed_rpm, 1e-9);
        QVERIFY(!f.mark()->old);
        QTRY_VERIFY_WITH_TIMEOUT(f.find<QLabel>("dyno_words")->text().contains("breaks away from its trend"),
                                 kPatience_ms);
        QTRY_VERIFY_WITH_TIMEOUT(f.plot("Power over speed")->points(2).size() > 400,
                                 kPatience_ms); // two pulls and the gap between them
        // The revision that was pulled never changes from now on.
        QVERIFY(f.document().project().frozen(1) && f.document().project().frozen(2));
    }

    void all_states_stand_beside_each_other_and_the_break_has_its_story() {
        DynoFixture f("dyno-states");
        f.import_story();
        f.window->findChild<DynoStation*>()->navigate(QStringLiteral("states"));
        auto* table = f.find<QTableWidget>("dyno_states");
        QVERIFY(table->isVisible());
        QTRY_COMPARE_WITH_TIMEOUT(table->rowCount(), 2, kPatience_ms);
        CONTAINS(f.find<QLabel>("dyno_states_words")->text().toStdString(), "appears with r2");
        QCOMPARE(table->item(0, 1)->text(), QStringLiteral("–"));
        QTRY_COMPARE_WITH_TIMEOUT(table->item(1, 1)->text(),
                                  QString::number(f.window->dyno().shown()->first_break->speed_rpm, 'f', 0),
                                  kPatience_ms);
        QVERIFY(table->item(1, 2)->text().toDouble() > 5); // kW missing
        const auto change = f.window->dyno().change();
        for (int third = 0; third < 3; ++third) {
            const RangeGain& gain = change->thirds[static_cast<std::size_t>(third)];
            const QString value = QString::number(gain.gain_W / 1e3, 'f', 1);
            QCOMPARE(table->item(1, 3 + third)->text(), // in brackets: within scatter
                     std::abs(gain.gain_W) > *gain.plus_minus_W ? value : QStringLiteral("(%1)").arg(value));
        }
        QCOMPARE(table->item(0, 3)->text(), QStringLiteral("–")); // the reference itself
        emit table->cellActivated(0, 0);                          // as Enter on its row
        QCOMPARE(f.window->dyno().state(), 0);
    }

    void the_difference_has_its_band_and_is_told_by_range() {
        DynoFixture f("dyno-difference");
        f.import_story();
        const auto change = f.window->dyno().change();
        QVERIFY(change && !change->band_W.empty());
        QVERIFY(change->ranges.back().gain_W < -3e3); // the top lost
        auto* gains = f.find<QTableWidget>("dyno_gains");
        QTRY_VERIFY_WITH_TIMEOUT(gains->rowCount() == static_cast<int>(change->ranges.size()) + 1,
                                 kPatience_ms);
        QTRY_COMPARE_WITH_TIMEOUT(gains->item(gains->rowCount() - 1, 1)->text(),
                                  QString::number(change->all.gain_W / 1e3, 'f', 1), kPatience_ms);
        f.find<QComboBox>("dyno_below")->setCurrentIndex(1);
        QTRY_COMPARE_WITH_TIMEOUT(f.plot("Below")->points(1).size(), static_cast<int>(change->gain_W.size()),
                                  kPatience_ms);
        f.trigger("units");
        QTRY_COMPARE_WITH_TIMEOUT(gains->item(gains->rowCount() - 1, 1)->text(),
                                  QString::number(change->all.gain_W / 745.69987, 'f', 1), kPatience_ms);
    }

    void channels_stand_below_and_enter_on_a_row_shows_one() {
        DynoFixture f("dyno-channels");
        f.import_story();
        auto* confounders = f.find<QTableWidget>("dyno_confounders");
        QTRY_COMPARE_WITH_TIMEOUT(confounders->rowCount(), static_cast<int>(kConfounders), kPatience_ms);
        bool missing = false;
        for (int row = 0; row < confounders->rowCount(); ++row) {
            if (confounders->item(row, 0)->text() == "Mixture or fuel pressure moves") {
                QVERIFY(confounders->item(row, 1)->text().startsWith("clear"));
                emit confounders->cellActivated(row, 0);
            }
            missing |= confounders->item(row, 1)->text().contains("not logged");
        }
        QVERIFY(missing); // the throttle was not
        QCOMPARE(f.find<QComboBox>("dyno_below")->currentText(), QString("Lambda"));
        const auto points = f.plot("Below")->points(1);
        QVERIFY(points.size() > 100 && std::abs(points[10].y() - 0.865) < 0.02);
    }

    void correction_shows_its_factor_and_never_mixes() {
        DynoFixture f("dyno-correct");
        f.import_story();
        const double raw = f.window->dyno().shown()->pulls[0]->analysis.peak_W;
        f.find<QCheckBox>("dyno_correct")->setChecked(true);
        f.wait();
        const ShownPull& pull = *f.window->dyno().shown()->pulls[0];
        QVERIFY(pull.correction);
        NEAR(pull.analysis.peak_W / raw, pull.correction->factor, 1e-3);
        QTRY_VERIFY_WITH_TIMEOUT(f.find<QLabel>("dyno_correction")->text().contains("factor"), kPatience_ms);
        QVERIFY(f.find<QLabel>("dyno_correction")->text().contains("vapour not logged"));
        // One that the dyno had corrected stays out of the plot of those as recorded.
        f.find<QCheckBox>("dyno_correct")->setChecked(false);
        f.wait();
        f.import_pull("demo/ashgill-a22-after-1.pull.csv", [](QDialog* dialog) {
            dialog->findChild<QCheckBox*>("pull_corrected")->setChecked(true);
        });
        QCOMPARE(f.window->dyno().shown()->pulls.size(), std::size_t{2});
        QVERIFY(f.window->dyno().trouble().contains("corrected by the dyno"));
        // It stands in the list all the same, where it can be noted on or taken out.
        auto* pulls = f.find<QTableWidget>("dyno_pulls");
        QTRY_COMPARE_WITH_TIMEOUT(pulls->rowCount(), 5, kPatience_ms);
        QVERIFY(pulls->item(4, 1)->text().contains("not shown"));
        pulls->selectRow(4);
        f.click("dyno_remove");
        QTRY_COMPARE_WITH_TIMEOUT(pulls->rowCount(), 4, kPatience_ms);
    }

    void a_row_that_cannot_be_is_named_on_import() {
        DynoFixture f("dyno-absurd");
        const QString path = Fixture::folder().filePath("absurd.pull.csv");
        QByteArray text = "rpm,torque_Nm\n";
        for (int rpm = 3000; rpm <= 7000; rpm += 50)
            text += QByteArray::number(rpm) + (rpm == 5000 ? ",1e30\n" : ",200.5\n");
        write_test_file(path, text);
        f.import_pull(path);
        QVERIFY2(f.window->message().contains("taken as lost"), qPrintable(f.window->message()));
        QVERIFY(f.window->message().contains("Torque 1e+30"));
        QCOMPARE(f.window->dyno().shown()->pulls.size(), std::size_t{1});
        for (const double torque : f.window->dyno().shown()->pulls.front()->pull[PullChannel::Torque])
            QVERIFY(!(torque > 201));
    }

    void the_mapping_of_a_source_is_remembered() {
        DynoFixture f("dyno-mapping");
        const QString path = Fixture::folder().filePath("other.csv");
        QByteArray text = "n,P,x\n";
        for (int rpm = 3000; rpm <= 7000; rpm += 50)
            text += QByteArray::number(rpm) + "," + QByteArray::number(rpm / 50) + ",100\n";
        write_test_file(path, text);
        const auto import = [&](bool choose) {
            f.next_path = path;
            bool ready = false;
            Press press("pull_import", [&](QDialog* dialog) {
                auto* accept = dialog->findChild<QPushButton*>("pull_accept");
                if (choose) {
                    if (accept->isEnabled())
                        qFatal("nothing tells that P is power");
                    dialog->findChild<QComboBox*>("pull_column_speed")->setCurrentIndex(1);
                    dialog->findChild<QComboBox*>("pull_column_power")->setCurrentIndex(2);
                    dialog->findChild<QComboBox*>("pull_unit_power")->setCurrentText("hp");
                }
                ready = accept->isEnabled();
                QTest::mouseClick(accept, Qt::LeftButton);
            });
            f.trigger("import_pull");
            QVERIFY(press.came && ready);
            f.wait();
        };
        import(true);
        import(false);
        const auto& pulls = f.window->dyno().shown()->pulls;
        QCOMPARE(pulls.size(), std::size_t{2});
        NEAR(pulls[1]->pull[PullChannel::Power][0], 60 * 745.69987, 1);
    }

    void notes_make_states_and_everything_is_undone() {
        DynoFixture f("dyno-undo");
        f.import_story();
        auto* pulls = f.find<QTableWidget>("dyno_pulls");
        QTRY_COMPARE_WITH_TIMEOUT(pulls->rowCount(), 4, kPatience_ms);
        pulls->item(3, 4)->setText("smaller pulley");
        f.wait();
        QTRY_COMPARE_WITH_TIMEOUT(f.window->dyno().states().size(), std::size_t{3}, kPatience_ms);
        QVERIFY(f.window->dyno().shown()->label.find("smaller pulley") != std::string::npos);
        f.trigger("undo");
        f.wait();
        QTRY_COMPARE_WITH_TIMEOUT(f.window->dyno().states().size(), std::size_t{2}, kPatience_ms);
        QTRY_COMPARE_WITH_TIMEOUT(pulls->rowCount(), 4, kPatience_ms);
        pulls->item(0, 6)->setText("much");
        QVERIFY(f.window->message().contains("no number"));
        pulls->selectRow(3);
        f.click("dyno_remove");
        f.wait();
        QTRY_COMPARE_WITH_TIMEOUT(pulls->rowCount(), 3, kPatience_ms);
        f.trigger("undo");
        f.wait();
        QTRY_COMPARE_WITH_TIMEOUT(pulls->rowCount(), 4, kPatience_ms);
        // Reopened, all is there.
        QVERIFY(f.window->open_train(f.path));
        f.wait();
        QTRY_COMPARE_WITH_TIMEOUT(f.window->dyno().states().size(), std::size_t{2}, kPatience_ms);
    }

    void a_bad_file_changes_nothing_and_says_why() {
        DynoFixture f("dyno-bad");
        f.next_path = Fixture::folder().filePath("empty.csv");
        write_test_file(f.next_path, "");
        f.trigger("import_pull");
        QVERIFY(f.window->message().contains("empty.csv"));
        QVERIFY(f.document().project().of(EntryKind::DynoPull).empty());
    }

    void a_recording_of_several_pulls_comes_in_as_one_step() {
        DynoFixture f("dyno-several");
        const QString path = Fixture::folder().filePath("evening.csv");
        QByteArray text = "pull,speed_rpm,power_kW\n";
        for (int pull = 1; pull <= 3; ++pull)
            for (int rpm = 4000; rpm <= 8000; rpm += 40)
                text += QByteArray::number(pull) + "," + QByteArray::number(rpm) + "," +
                        QByteArray::number(0.02 * rpm + 0.1 * ((rpm / 40 + pull) % 3)) + "\n";
        write_test_file(path, text);
        f.import_pull(path);
        auto* pulls = f.find<QTableWidget>("dyno_pulls");
        QTRY_COMPARE_WITH_TIMEOUT(pulls->rowCount(), 3, kPatience_ms);
        for (int row = 0; row < 3; ++row)
            QVERIFY2(pulls->item(row, 0)->text().contains("evening"),
                     qPrintable(pulls->item(row, 0)->text()));
        QCOMPARE(f.window->dyno().shown()->pulls.size(), std::size_t{3}); // one state
        QTRY_VERIFY_WITH_TIMEOUT(f.find<QLabel>("dyno_words")->text().contains("No break is claimed"),
                                 kPatience_ms);
        f.trigger("undo");
        QTRY_COMPARE_WITH_TIMEOUT(pulls->rowCount(), 0, kPatience_ms);
        QVERIFY(f.find<QPushButton>("dyno_import_first")->isVisible());
        f.trigger("redo");
        QTRY_COMPARE_WITH_TIMEOUT(pulls->rowCount(), 3, kPatience_ms);
    }

    void a_revision_that_is_renamed_renames_its_state() {
        DynoFixture f("dyno-rename");
        f.import_story();
        auto* state = f.find<QComboBox>("dyno_state");
        QTRY_COMPARE_WITH_TIMEOUT(state->count(), 2, kPatience_ms);
        f.find<QComboBox>("dyno_state")->setCurrentIndex(0); // a choice that the new name must not take away
        QTRY_VERIFY_WITH_TIMEOUT(f.window->dyno().shown()->label.starts_with("r1"), kPatience_ms);
        f.document().name_revision(2, "thin rods", "what the shop calls them");
        QTRY_COMPARE_WITH_TIMEOUT(state->itemText(1), QString("r2 thin rods"), kPatience_ms);
        QVERIFY(f.window->dyno().shown()->label.starts_with("r1"));
        QVERIFY(!f.window->dyno().running()); // nothing was read again for it
        f.trigger("undo");
        QTRY_COMPARE_WITH_TIMEOUT(state->itemText(1), QString("r2 winter"), kPatience_ms);
    }

    void an_import_that_is_not_wanted_changes_nothing() {
        DynoFixture f("dyno-cancel");
        f.next_path = source_path("demo/ashgill-a22-after-1.pull.csv");
        Press press("pull_import", [](QDialog* dialog) { QTest::keyClick(dialog, Qt::Key_Escape); });
        f.trigger("import_pull");
        QVERIFY(press.came);
        QVERIFY(!f.window->dyno().running());
        QVERIFY(f.document().project().of(EntryKind::DynoPull).empty());
        QVERIFY(f.window->dyno().states().empty() && !f.mark());
    }

    void horsepower_and_pounds_follow_the_units() {
        DynoFixture f("dyno-inch");
        f.import_story();
        auto* summary = f.find<QTableWidget>("dyno_summary");
        QTRY_VERIFY_WITH_TIMEOUT(summary->rowCount() > 3, kPatience_ms);
        const PullAnalysis& a = f.window->dyno().shown()->pulls[0]->analysis;
        QVERIFY(summary->item(2, 1)->text().startsWith(QString::number(a.peak_W / 1e3, 'f', 1) + " kW"));
        const double top_kW = f.plot("Power over speed")->points(2)[100].y();
        f.trigger("units");
        QTRY_VERIFY_WITH_TIMEOUT(
            summary->item(2, 1)->text().startsWith(QString::number(a.peak_W / 745.69987, 'f', 1) + " hp"),
            kPatience_ms);
        QTRY_VERIFY_WITH_TIMEOUT(
            std::abs(f.plot("Power over speed")->points(2)[100].y() - top_kW * 1e3 / 745.69987) < 1e-6,
            kPatience_ms);
        QVERIFY(f.find<QTableWidget>("dyno_gains")->horizontalHeaderItem(1)->text().contains("hp"));
    }

    void one_pull_is_not_called_repeated() {
        DynoFixture f("dyno-one");
        f.import_pull("demo/ashgill-a22-after-2.pull.csv");
        auto* summary = f.find<QTableWidget>("dyno_summary");
        QTRY_VERIFY_WITH_TIMEOUT(summary->rowCount() > 1, kPatience_ms);
        QVERIFY(summary->item(0, 1)->text().contains("not repeated"));
        QCOMPARE(f.find<QComboBox>("dyno_against")->currentText(), QString("nothing"));
        QCOMPARE(f.find<QTableWidget>("dyno_gains")->rowCount(), 0);
    }

    void states_torque_and_marks_follow_the_choice() {
        DynoFixture f("dyno-choice");
        f.import_story();
        auto* state = f.find<QComboBox>("dyno_state");
        QTRY_COMPARE_WITH_TIMEOUT(state->count(), 2, kPatience_ms);
        const double top_kW = f.plot("Power over speed")->points(2)[100].y();
        f.find<QComboBox>("dyno_quantity")->setCurrentIndex(1);
        QTRY_VERIFY_WITH_TIMEOUT(std::abs(f.plot("Power over speed")->points(2)[100].y() - top_kW) > 50,
                                 kPatience_ms);
        const QPointF torque = f.plot("Power over speed")->points(2)[100];
        NEAR(torque.y() * torque.x() * kPi / 30 / 1e3, top_kW, 1e-6);
        // Last season's state: no break, and the strip says so.
        state->setCurrentIndex(0);
        QTRY_VERIFY_WITH_TIMEOUT(f.find<QLabel>("dyno_words")->text().contains("No break is claimed"),
                                 kPatience_ms);
        QVERIFY(!f.mark());
        state->setCurrentIndex(1);
        QTRY_VERIFY_WITH_TIMEOUT(f.mark().has_value(), kPatience_ms);
        // Seen from another revision the break is an old one.
        f.document().show(1);
        f.wait();
        f.window->dyno().choose(1, 0);
        QTRY_VERIFY_WITH_TIMEOUT(f.mark() && f.mark()->old, kPatience_ms);
    }

    void the_station_has_its_key_help_and_place() {
        DynoFixture f("dyno-key");
        f.window->show_station(QStringLiteral("station_train"));
        QTest::keyClick(f.window.get(), Qt::Key_7, Qt::ControlModifier);
        QVERIFY(f.find<QWidget>("station_dyno")->isVisible());
        auto* station = f.find<DynoStation>("station_dyno");
        for (const char* word : {"Break", "Difference", "not logged", "Caution"})
            QVERIFY2(station->help().contains(QLatin1String(word), Qt::CaseInsensitive), word);
    }
};

QTEST_MAIN(TstDynoStation)
#include "tst_dyno_station.moc"
