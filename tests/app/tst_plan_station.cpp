// The station Plan as its users work with it: a campaign from the shelf, factors and hours edited, planned,
// results entered, taken back, undone, reopened, saved as a file and on paper.
#include "app/app_fixture.h"
#include "app/stations/plan/campaign_form.h"
#include "app/stations/plan/plan_chart.h"
#include "app/stations/plan/plan_station.h"
#include "app/widgets/number_table.h"
#include "io/plan/campaign_file.h"

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

class Planning : public ProjectFixture {
  public:
    Planning() : ProjectFixture(QStringLiteral("planning")) {
        few_speeds();
        window->show_station(QStringLiteral("station_plan"));
        station().set_draws(4);
        wait_for_redraw();
    }
    PlanStation& station() { return *window->findChild<PlanStation*>(); }
    CampaignForm& form() { return *window->findChild<CampaignForm*>(); }
    const plan::Campaign& campaign() { return form().campaign().campaign; }
    void click(const char* name) {
        QTest::mouseClick(find<QPushButton>(name), Qt::LeftButton);
        wait_for_redraw();
    }
    // Two rods alone: the model is asked for two combinations.
    void two_rods() {
        click("plan_new");
        while (campaign().factors.size() > 1) {
            find<QTableWidget>("plan_factors")->setCurrentCell(0, 0);
            click("plan_remove_factor");
        }
        while (campaign().factors[0].levels.size() > 2) {
            find<QListWidget>("plan_levels")->setCurrentRow(int(campaign().factors[0].levels.size()) - 1);
            click("plan_leave_out");
        }
    }
    void run() {
        click("plan_run");
        QVERIFY(QTest::qWaitFor([&] { return station().plan() && !station().planning(); }, 300'000));
        wait_for_redraw();
    }
    QString said() { return find<QLabel>("plan_words")->text(); }
    void enter(const QString& limit) {
        find<QTabWidget>("plan_tabs")->setCurrentIndex(1);
        find<QLineEdit>("plan_limit")->setText(limit);
        click("plan_take");
        QVERIFY(QTest::qWaitFor([&] { return !station().planning(); }, 60'000));
        wait_for_redraw();
    }
};

} // namespace

class TstPlanStation : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { prepare_application(); }

    void the_demo_s_campaign_is_there_with_its_factors() {
        Planning f;
        QCOMPARE(f.campaign().factors.size(), std::size_t(3));
        QCOMPARE(f.campaign().factors[0].levels.size(), std::size_t(4));
        auto* table = f.find<QTableWidget>("plan_factors");
        QCOMPARE(table->item(0, 0)->text(), QStringLiteral("lobe"));
        QCOMPARE(table->item(0, 4)->text(), QStringLiteral("pushrod"));
        CONTAINS(f.said().toStdString(), "24 combinations");
    }

    void a_campaign_takes_its_levels_from_the_shelf_and_edits_can_be_undone() {
        Planning f;
        f.click("plan_new");
        QCOMPARE(f.campaign().factors[0].name, std::string("lobe"));
        const std::vector<std::string>& lobes = f.campaign().factors[0].levels;
        QVERIFY(std::ranges::any_of(lobes, [](const std::string& one) { return contains(one, "Trial 11"); }));
        QVERIFY(std::ranges::none_of(
                    lobes, [](const std::string& one) { return contains(one, "exhaust, grind"); }) ||
                lobes.size() > 3);
        auto* table = f.find<QTableWidget>("plan_factors");
        table->item(0, 1)->setText(QStringLiteral("2,5"));
        f.wait_for_redraw();
        QCOMPARE(f.campaign().factors[0].change_h, 2.5);
        table->item(0, 1)->setText(QStringLiteral("soon"));
        f.wait_for_redraw();
        QCOMPARE(f.campaign().factors[0].change_h, 2.5); // bad input changes nothing
        CONTAINS(f.window->message().toStdString(), "factors[0].change_h");
        QCOMPARE(table->item(0, 1)->text(), QStringLiteral("2.5"));
        table->item(0, 4)->setText(QStringLiteral("elbow"));
        f.wait_for_redraw();
        CONTAINS(f.window->message().toStdString(), "is no other factor");
        auto* days = f.find<QLineEdit>("plan_days");
        days->clear();
        QTest::keyClicks(days, "6 7.5 4");
        QTest::keyClick(days, Qt::Key_Return);
        f.wait_for_redraw();
        QCOMPARE(f.campaign().day_h, (std::vector<double>{6, 7.5, 4}));
        f.trigger("undo");
        f.wait_for_redraw();
        QCOMPARE(f.campaign().day_h, (std::vector<double>{8, 8}));
        f.trigger("undo");
        f.wait_for_redraw();
        QCOMPARE(f.campaign().factors[0].change_h, 3.0);
    }

    void a_plan_is_made_shown_and_made_anew_when_hours_change() {
        Planning f;
        f.two_rods();
        f.run();
        auto* runs = f.find<QTableWidget>("plan_runs");
        QVERIFY(runs->rowCount() >= 2);
        QCOMPARE(runs->item(0, 3)->text(), QStringLiteral("baseline"));
        CONTAINS(f.said().toStdString(), "Expected best");
        auto* chart = f.find<PlanChart>("plan_chart");
        CONTAINS(chart->accessibleDescription().toStdString(), "day 1, hour 4.0: baseline");
        QSignalSpy chosen(chart, &PlanChart::run_chosen);
        QTest::mouseClick(chart, Qt::LeftButton, {}, QPoint(50, 12)); // the set-up: no run
        QCOMPARE(chosen.size(), qsizetype(0));
        const double hours = f.station().plan()->hours;
        auto* run_h = f.find<QLineEdit>("plan_run_h");
        run_h->clear();
        QTest::keyClicks(run_h, "1");
        QTest::keyClick(run_h, Qt::Key_Return);
        f.wait_for_redraw();
        QVERIFY(QTest::qWaitFor([&] { return !f.station().planning() && f.station().plan()->hours > hours; },
                                60'000));
        auto* all = f.find<QTableWidget>("plan_all");
        QCOMPARE(all->rowCount(), 2);
        for (int row = 0; row < 2; ++row) { // what moves, what it costs to buy
            QVERIFY2(all->item(row, 6)->text().toDouble() > 50, qPrintable(all->item(row, 6)->text()));
            QVERIFY(!all->item(row, 7)->text().isEmpty());
        }
    }

    void results_move_the_belief_and_can_be_taken_back() {
        Planning f;
        f.two_rods();
        f.run();
        const double expected = f.station().plan()->candidates[0].limit_rpm,
                     other = f.station().plan()->candidates[1].limit_rpm;
        f.enter("x");
        CONTAINS(f.window->message().toStdString(), "numbers above 0");
        f.enter("1e9"); // a record of it could not be read again
        CONTAINS(f.window->message().toStdString(), "give the limit in rev/min");
        QCOMPARE(f.find<QLineEdit>("plan_limit")->text(), QStringLiteral("1e9"));
        QCOMPARE(f.campaign().measured.size(), std::size_t(0));
        f.find<QComboBox>("plan_which")->setCurrentIndex(0);
        f.enter(QString::number(expected - 150, 'f', 0));
        QCOMPARE(f.campaign().measured.size(), std::size_t(1));
        NEAR(f.station().plan()->candidates[0].limit_rpm, expected - 150, 25);
        QVERIFY(f.station().plan()->candidates[1].limit_rpm < other - 50); // it says of its like, too
        auto* results = f.find<QTableWidget>("plan_results");
        QCOMPARE(results->rowCount(), 1);
        CONTAINS(results->item(0, 4)->text().toStdString(), "150");
        CONTAINS(f.said().toStdString(), "Best that was run");
        f.click("plan_back");
        QVERIFY(QTest::qWaitFor([&] { return !f.station().planning(); }, 60'000));
        QCOMPARE(f.campaign().measured.size(), std::size_t(0));
    }

    void a_kept_campaign_that_is_none_is_told_and_breaks_nothing() {
        Planning f;
        f.two_rods();
        io::CampaignDraft draft = f.form().campaign();
        draft.campaign.measured.push_back({draft.campaign.baseline, 1e9, 20});
        Document& document = f.document();
        const Id newest = document.project().of(EntryKind::Plan).rbegin()->first;
        document.set_entry(EntryKind::Plan, newest,
                           session::campaign_record(draft, "as of old", document.shown()), "as of old");
        f.wait_for_redraw();
        CONTAINS(f.window->message().toStdString(), "give the limit in rev/min");
        QVERIFY(!f.form().isEnabled() && !f.find<QPushButton>("plan_take")->isEnabled());
        for (const char* button : {"plan_run", "plan_back", "plan_save", "plan_take"})
            f.click(button);
        f.trigger("undo");
        f.wait_for_redraw();
        QVERIFY(f.form().isEnabled() && f.find<QPushButton>("plan_take")->isEnabled());
        QVERIFY(f.campaign().measured.empty());
    }

    void what_a_run_has_taught_moves_the_forecasts_of_all_that_share_its_parts() {
        Planning f;
        f.two_rods();
        f.run();
        auto* use = f.find<QCheckBox>("plan_use_fit");
        QVERIFY(!use->isVisible()); // nothing was calibrated
        const double first = f.station().plan()->candidates[0].limit_rpm,
                     second = f.station().plan()->candidates[1].limit_rpm;
        const Id before = f.document().shown();
        Train fitted = f.document().train();
        for (Spring& spring : fitted.springs)
            std::get<CoilGeometry>(spring.kind).shear_modulus_Pa *= 0.9;
        fitted.tolerances["springs[0].shear_modulus_GPa"] = {Source::Fitted, 1e9};
        f.document().edit(fitted, "", "fitted to run 1");
        QVERIFY(f.document().shown() != before);
        f.wait_for_redraw();
        QVERIFY(use->isVisible() && use->isChecked());
        CONTAINS(use->text().toStdString(), "1 numbers");
        CONTAINS(f.said().toStdString(), "old");
        f.run();
        QVERIFY(f.station().plan()->candidates[0].limit_rpm < first - 50);
        QVERIFY(f.station().plan()->candidates[1].limit_rpm < second - 50);
        const double with_fit = f.station().plan()->candidates[0].limit_rpm;
        fitted.valve.mass_kg *= 0.8; // built on: no run has said that of the campaign's valve
        f.document().edit(fitted, "", "a lighter valve");
        f.wait_for_redraw();
        CONTAINS(use->text().toStdString(), "1 numbers");
        f.run();
        NEAR(f.station().plan()->candidates[0].limit_rpm, with_fit, 1e-6);
        QTest::mouseClick(use, Qt::LeftButton, {}, QPoint(8, use->height() / 2));
        f.wait_for_redraw();
        QVERIFY(!f.form().campaign().use_fit);
        f.run();
        NEAR(f.station().plan()->candidates[0].limit_rpm, first, 1e-6);
        f.document().undo();
        f.wait_for_redraw();
        QVERIFY(f.form().campaign().use_fit && use->isChecked());
        f.click("plan_new"); // of the fitted revision, which has it all already
        QVERIFY(!use->isVisible());
        QVERIFY(!f.station().plan()); // the one before was of other combinations
    }

    void a_campaign_goes_out_as_a_file_and_paper_and_comes_back() {
        Planning f;
        f.two_rods();
        f.run();
        f.next_path = Fixture::folder().filePath("two rods.campaign.json");
        f.click("plan_save");
        const io::CampaignDraft read = io::read_campaign(f.next_path.toStdString());
        QVERIFY(read.campaign == f.campaign());
        f.next_path = Fixture::folder().filePath("sheets.pdf");
        f.click("plan_sheets");
        QFile paper(f.next_path);
        QVERIFY(paper.open(QIODevice::ReadOnly));
        QVERIFY(paper.read(5) == "%PDF-");
        const int before = f.find<QComboBox>("plan_campaigns")->count();
        f.next_path = Fixture::folder().filePath("two rods.campaign.json");
        f.click("plan_open");
        QCOMPARE(f.find<QComboBox>("plan_campaigns")->count(), before + 1);
        f.next_path = QString::fromStdString(write_test_file(Fixture::folder().filePath("bad.campaign.json"),
                                                             "{\"format\": \"bathmos-campaign\"}")
                                                 .string());
        f.click("plan_open");
        CONTAINS(f.window->message().toStdString(), "version");
        QCOMPARE(f.find<QComboBox>("plan_campaigns")->count(), before + 1);
        f.click("plan_remove");
        QCOMPARE(f.find<QComboBox>("plan_campaigns")->count(), before);
    }

    void without_a_project_it_says_what_it_is_for() {
        Fixture f;
        f.window->show_station(QStringLiteral("station_plan"));
        QVERIFY(!f.find<QPushButton>("plan_begin")->isEnabled());
    }
};

QTEST_MAIN(TstPlanStation)
#include "tst_plan_station.moc"
