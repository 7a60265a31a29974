// What a calibrated run says, kept as a record and read back; and as evidence of a case.
#include "io/project/store.h"
#include "io/train/train_file.h"
#include "session/cases/case_input.h"
#include "session/rig/rig_runs.h"
#include "session/rig/run_record.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::session;
using namespace bathmos::test;

namespace {

RunReading reading() {
    RunReading out;
    out.chosen = "spring_weak";
    out.chosen_with = "train_flexible";
    out.limit_rpm = 8357.5;
    out.train_limit_rpm = 8600;
    out.p10_rpm = 8100;
    out.p90_rpm = 8600;
    out.onset_rpm = 8480;
    out.limit_metric = Metric::ContactLoss;
    out.onset_metric = Metric::LiftLoss;
    out.departures = {{"spring_weak", 16.7, 400.0}, {"train_flexible", 3.0, std::nullopt}};
    out.mechanisms = {{"surge", "springs damped twelve times as strongly", 139}};
    out.bind_margin_m = 5.32e-3;
    return out;
}

Project project_of(const Train& train) {
    Project out;
    out.builds[1] = {"intake", 0, ValveSide::Intake, 0, 1, ""};
    out.revisions[1] = {1, 0, "", "", "2026-01-01T00:00:00Z", {}};
    out.revisions[1].assembly.train = train;
    out.of(EntryKind::RigRun)[4] = {"spin.rig.csv", 1, "2026-01-02T00:00:00Z", "", "", {}, {}, {9}};
    return out;
}

} // namespace

class TestRunRecord : public QObject {
    Q_OBJECT
  private slots:
    void a_record_says_what_was_read() {
        Calibration c;
        c.numbers.push_back({{"installed_height_mm", "Installed height", false, 1e-4, Quantity::Length, ""}});
        c.numbers[0].departs_sigma = 5.5;
        const Entry record = calibration_record(c, reading(), 1, 4, "usual");
        QCOMPARE(record.revision, Id(1));
        NEAR(record.numbers.at("departs_installed_height_mm"), 5.5, 1e-12);
        const RunReading back = reading_of(record), was = reading();
        QCOMPARE(back.chosen, was.chosen);
        QCOMPARE(back.chosen_with, was.chosen_with);
        CONTAINS(record.name, "spring_weak with train_flexible");
        QVERIFY(back.train_limit_rpm == was.train_limit_rpm &&
                landing_moves_limit(back.limit_rpm, back.train_limit_rpm));
        QVERIFY(back.limit_rpm == was.limit_rpm && back.p10_rpm == was.p10_rpm &&
                back.p90_rpm == was.p90_rpm);
        QVERIFY(!back.p50_rpm && back.onset_rpm == was.onset_rpm);
        QVERIFY(back.limit_metric == was.limit_metric && back.onset_metric == was.onset_metric);
        QCOMPARE(back.departures.size(), std::size_t(2));
        QCOMPARE(back.departures[0].cause, std::string("spring_weak"));
        QVERIFY(back.departures[0].gain_rpm == 400.0 && !back.departures[1].gain_rpm);
        QCOMPARE(back.mechanisms[0].label, was.mechanisms[0].label);
        NEAR(back.mechanisms[0].gain_rpm, 139, 1e-12);
        NEAR(back.bind_margin_m, was.bind_margin_m, 1e-12);
    }

    void what_a_change_did_is_kept_with_it() {
        ToldChange told;
        told.other_run = 3;
        told.effect.believed_gain_rpm = -300;
        told.effect.gain_rpm = -520;
        told.effect.p10_rpm = -640;
        told.effect.p90_rpm = -410;
        Entry record = calibration_record({}, reading(), 1, 4, "usual");
        note_change(record, told);
        NEAR(record.numbers.at("other_run"), 3, 0);
        NEAR(record.numbers.at("change_rpm"), -520, 0);
        NEAR(record.numbers.at("change_p10_rpm"), -640, 0);
        CONTAINS(record.words.at("change"), "something else than was believed");
        QCOMPARE(reading_of(record).chosen, reading().chosen);
    }

    void runs_of_other_revisions_stand_beside() {
        Project p = project_of(starter_train());
        p.revisions[2] = {1, 1, "", "", "2026-01-03T00:00:00Z", {}};
        p.builds[2] = {"exhaust", 0, ValveSide::Exhaust, 0, 3, ""};
        p.revisions[3] = {2, 0, "", "", "2026-01-03T00:00:00Z", {}};
        p.of(EntryKind::RigRun)[5] = {"again.rig.csv", 1, "2026-01-02T00:00:00Z", "", "", {}, {}, {10}};
        p.of(EntryKind::RigRun)[6] = {"other.rig.csv", 3, "2026-01-02T00:00:00Z", "", "", {}, {}, {11}};
        QCOMPARE(runs_beside(p, 2), std::vector<Id>{5}); // the last of r1; the other build's is none of it
        QVERIFY(runs_beside(p, 1).empty());
        QVERIFY(runs_beside(p, 9).empty());
    }

    void the_newest_of_the_run_and_revision_counts() {
        Project p = project_of(starter_train());
        QVERIFY(!calibration_of(p, 4, 1, "usual"));
        p.of(EntryKind::Calibration)[1] = calibration_record({}, reading(), 1, 4, "usual");
        RunReading later = reading();
        later.chosen = "as_believed";
        p.of(EntryKind::Calibration)[2] = calibration_record({}, later, 1, 4, "usual");
        p.of(EntryKind::Calibration)[3] = calibration_record({}, reading(), 2, 4, "usual");
        QCOMPARE(calibration_of(p, 4, 1, "usual")->words.at("chosen"), std::string("as_believed"));
        QVERIFY(!calibration_of(p, 5, 1, "usual"));
        QVERIFY(!calibration_of(p, 4, 1, "endurance")); // its limit is of another set
        CONTAINS(fitted_to(p, 4), "fitted to run 4, spin.rig.csv");
        Project other = p;
        QVERIFY(same_evidence(p, other));
        other.of(EntryKind::Calibration).erase(2);
        QVERIFY(!same_evidence(p, other));
    }
};

QTEST_APPLESS_MAIN(TestRunRecord)
#include "tst_run_record.moc"
