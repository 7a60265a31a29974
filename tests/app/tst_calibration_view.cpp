// Rig, Calibrate: a run of a train that differs in what is known here, through the window to a new revision.
#include "app/plot/map_plot.h"
#include "app/stations/rig/calibration_view.h"
#include "app/stations/rig/departures_view.h"
#include "app/stations/rig/rig_station.h"
#include "app/widgets/number_table.h"
#include "app_fixture.h"
#include "core/motion/sweep.h"

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QTabWidget>
#include <fmt/format.h>
#include <random>

using namespace bathmos;
using namespace bathmos::test;

namespace {

constexpr double kHigher_m = 0.9e-3; // than believed stands the spring that was spun
constexpr double kIndex_deg = 100;   // of the nose after the pulse

// A run as a sensor would write it: three cycles at each speed, a micron of noise.
QString made_run(const Train& believed, const QString& path, double higher_m = kHigher_m, double softer = 1) {
    Train true_train = with_run_options(believed);
    true_train.installed_height_m += higher_m;
    true_train.pushrod->end_stiffness_N_per_m *= softer;
    std::string text = "# format: bathmos-rig 1\n# samples_per_turn: 360\nrpm,cycle,crank_deg,lift_mm\n";
    std::mt19937 random(5);
    std::normal_distribution<double> noise(0, 1e-3);
    for (const double rpm : {4000.0, 5500.0, 6500.0, 7300.0, 7700.0, 8100.0}) {
        const Motion motion = simulate_one(true_train, rpm);
        for (int cycle = 1; cycle <= 3; ++cycle)
            for (int deg = 0; deg < 720; ++deg) {
                const double from_nose = std::remainder(deg - kIndex_deg, 720.0);
                const auto at = static_cast<std::size_t>(2 * (from_nose + 360));
                text += fmt::format("{},{},{},{:.4f}\n", rpm, cycle, deg,
                                    motion[Channel::Lift][at] * 1e3 + noise(random));
            }
    }
    write_test_file(path, QByteArray::fromStdString(text));
    return path;
}

struct Calibrating : ProjectFixture {
    explicit Calibrating(const QString& name, double higher_m = kHigher_m, double softer = 1)
        : ProjectFixture(name) {
        window->show_station("station_rig");
        window->rig().import(
            made_run(document().train(), folder().filePath(name + ".rig.csv"), higher_m, softer));
        wait_for_rig();
        QVERIFY2(window->rig().run(), qPrintable(window->rig().failure()));
        find<QTabWidget>("rig_tabs")->setCurrentIndex(1);
        wait_for_redraw();
    }
    NumberTable* numbers() { return find<NumberTable>("calibration_numbers"); }
    int row_of(const QString& label) {
        for (int row = 0; row < numbers()->rowCount(); ++row)
            if (numbers()->cell(row, 1) == label)
                return row;
        return -1;
    }
    /// Leaves only these free to move: few numbers are quick.
    void free_only(const QStringList& labels) {
        for (int row = 0; row < numbers()->rowCount(); ++row)
            numbers()->item(row, 0)->setCheckState(labels.contains(numbers()->cell(row, 1)) ? Qt::Checked
                                                                                            : Qt::Unchecked);
    }
    QString headline() { return find<QLabel>("calibration_headline")->text(); }
    void calibrate() {
        click("calibrate");
        QTRY_VERIFY_WITH_TIMEOUT(!window->calibration().running(), 400000);
        wait_for_redraw();
        QVERIFY2(window->calibration().reading(), qPrintable(window->calibration().failure()));
    }
};

const QStringList kFew = {"Installed height", "Lash"};

} // namespace

class TestCalibrationView : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    void a_height_that_is_not_as_believed_is_found_and_taken_over() {
        Calibrating f("height");
        QVERIFY(f.headline().startsWith("Not calibrated yet"));
        QVERIFY(!f.find<QPushButton>("calibration_accept")->isEnabled());
        const double believed_m = f.document().train().installed_height_m;
        const Id before = f.document().shown();
        f.free_only(kFew);
        f.calibrate();
        const int height = f.row_of("Installed height");
        NEAR(f.numbers()->cell(height, 3).toDouble(), (believed_m + kHigher_m) * 1e3, 0.12);
        QVERIFY(f.numbers()->cell(height, 6).toDouble() > 4);
        QVERIFY2(f.headline().startsWith("Spring, height or locks not as believed"),
                 qPrintable(f.headline()));
        QVERIFY(f.headline().contains("Limit"));
        // the pictures say the same
        auto* picture = f.find<DeparturesView>("departures");
        QCOMPARE(picture->labels().front(), QStringLiteral("Installed height"));
        QVERIFY(picture->pixel_of("installed_height_mm") > picture->pixel_of("lash_mm"));
        const Calibration& found = *f.window->calibration().calibration();
        for (const SpeedResidual& one : found.residuals)
            if (one.speed_rpm < 7500)
                QVERIFY(one.rms_m < 5e-6);
        auto* causes = f.find<NumberTable>("calibration_causes");
        QVERIFY(causes->cell(0, 0).contains("height or locks") && causes->cell(0, 1).toDouble() > 10);
        // kept as a record of the run
        const auto& kept = f.document().project().of(EntryKind::Calibration);
        QCOMPARE(kept.size(), std::size_t(1));
        QCOMPARE(kept.begin()->second.words.at("chosen"), std::string("spring_not_as_believed"));
        // the height alone is taken over; what is fitted stays within its tolerance
        for (int row = 0; row < f.numbers()->rowCount(); ++row)
            if (row != height && f.numbers()->item(row, 7)->flags() & Qt::ItemIsUserCheckable)
                f.numbers()->item(row, 7)->setCheckState(Qt::Unchecked);
        f.click("calibration_accept");
        const Train& now = f.document().train();
        QVERIFY(f.document().shown() != before);
        NEAR(now.installed_height_m, believed_m + kHigher_m, 0.12e-3);
        QVERIFY(now.tolerances.at("installed_height_mm").source == Source::Fitted);
        QVERIFY(!now.tolerances.contains("lash_mm") || now.tolerances.at("lash_mm").source != Source::Fitted);
        QVERIFY(now.camshaft && now.valve.elastic);
        const Revision& revision = f.document().project().revisions.at(f.document().shown());
        CONTAINS(revision.reason, "fitted to run");
        CONTAINS(revision.reason, "height.rig.csv");
        f.document().undo();
        NEAR(f.document().train().installed_height_m, believed_m, 1e-12);
        QVERIFY(!f.document().train().camshaft);
    }

    void two_that_depart_are_told_beside_each_other() {
        Calibrating f("two", 0.9e-3, 0.3);
        f.free_only({"Installed height", "Ball ends' stiffness", "Rocker stiffness",
                     "Loads of the springs, factor", "Lash"});
        f.calibrate();
        const QString told = f.headline();
        QVERIFY2(told.contains("beside it: that explains the run better"), qPrintable(told));
        QVERIFY2(told.contains("height or locks", Qt::CaseInsensitive) &&
                     told.contains("train too flexible", Qt::CaseInsensitive),
                 qPrintable(told));
        auto* causes = f.find<NumberTable>("calibration_causes");
        for (const int row : {0, 1}) { // each with what it costs, and neither once more alone
            QVERIFY(causes->cell(row, 1).toDouble() > 10);
            QVERIFY2(causes->cell(row, 2).startsWith("+"), qPrintable(causes->cell(row, 2)));
        }
        QVERIFY(causes->cell(0, 0) != causes->cell(1, 0));
        const Entry& kept = f.document().project().of(EntryKind::Calibration).begin()->second;
        QCOMPARE((std::set<std::string>{kept.words.at("chosen"), kept.words.at("chosen_with")}),
                 (std::set<std::string>{"spring_not_as_believed", "train_flexible"}));
    }

    void a_stop_changes_nothing() {
        Calibrating f("stopped");
        const Project before = f.edited();
        f.click("calibrate");
        QVERIFY(f.window->calibration().running());
        QCOMPARE(f.find<QPushButton>("calibrate")->text(), QStringLiteral("&Calibrate")); // until redrawn
        f.wait_for_redraw();
        QCOMPARE(f.find<QPushButton>("calibrate")->text(), QStringLiteral("Stop"));
        f.click("calibrate");
        QVERIFY(!f.window->calibration().running() && !f.window->calibration().calibration());
        f.wait_for_redraw();
        QVERIFY(f.headline().contains("stopped"));
        QVERIFY(f.edited() == before);
    }

    void an_edit_of_the_train_ends_a_calibration_of_what_it_was() {
        Calibrating f("edited");
        f.click("calibrate");
        Train next = f.document().train();
        next.lash_m += 0.05e-3;
        f.document().edit(next, "lash");
        QVERIFY(!f.window->calibration().running() && !f.window->calibration().calibration());
    }

    void a_link_of_the_verdict_leads_here() {
        Calibrating f("link");
        auto* tabs = f.find<QTabWidget>("rig_tabs");
        auto* station = f.find<RigStation>("station_rig");
        station->navigate("metric/loft_mm");
        QCOMPARE(tabs->currentIndex(), 0);
        station->navigate("calibrate");
        QCOMPARE(tabs->currentIndex(), 1);
    }

    // A thinner rod came in: fitted with the run before, the rod's ends are each one's own.
    void two_revisions_together_say_what_the_change_did() {
        Calibrating f("together", 0);
        QCOMPARE(f.find<QComboBox>("calibration_other")->count(), 1); // nothing to fit it with yet
        const Id before = f.document().shown();
        Train thinner = f.document().train();
        thinner.pushrod->wall_m *= 0.7;
        f.document().edit(thinner, "thinner rod");
        QVERIFY(f.document().shown() != before);
        f.window->rig().import(made_run(thinner, f.folder().filePath("thinner.rig.csv"), 0));
        f.wait_for_rig();
        f.wait_for_redraw();
        auto* other = f.find<QComboBox>("calibration_other");
        QCOMPARE(other->count(), 2);
        CONTAINS(other->itemText(1).toStdString(), "with r");
        other->setCurrentIndex(1);
        f.free_only({"Ball ends' stiffness"});
        f.calibrate();
        const ChangeEffect* change = f.window->calibration().change();
        QVERIFY(change && change->gain_rpm && change->p10_rpm && change->p90_rpm);
        const auto limit = [](const Train& train) {
            return sweep(with_run_options(train), {4000, 9700, 100}).summary.limit.speed_rpm;
        };
        const double truly_rpm =
            *limit(thinner) - *limit(f.document().project().revisions.at(before).assembly.train);
        QVERIFY2(*change->p10_rpm < truly_rpm && truly_rpm < *change->p90_rpm,
                 qPrintable(QString::number(truly_rpm)));
        QVERIFY(f.find<QLabel>("calibration_change")->isVisible()); // its page came to the front
        CONTAINS(f.find<QLabel>("calibration_change")->text().toStdString(), "The runs say");
        auto* own = f.find<NumberTable>("calibration_change_numbers");
        QCOMPARE(own->rowCount(), 2); // the ends of both
        QCOMPARE(own->cell(0, 0), own->cell(1, 0));
        QVERIFY(own->cell(0, 1) != own->cell(1, 1));
        const auto& kept = f.document().project().of(EntryKind::Calibration);
        QCOMPARE(kept.size(), std::size_t(1));
        CONTAINS(kept.begin()->second.words.at("change"), "The runs say");
    }

    void nothing_free_is_told() {
        Calibrating f("nothing");
        f.free_only({});
        f.click("calibrate");
        QVERIFY(!f.window->calibration().running());
        CONTAINS(f.window->message().toStdString(), "No number is free");
    }
};

QTEST_MAIN(TestCalibrationView)
#include "tst_calibration_view.moc"
