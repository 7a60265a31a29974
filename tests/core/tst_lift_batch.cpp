// Many trains side by side in single precision: each must come out as the full model has it.
#include "core/calibration/free_numbers.h"
#include "core/dynamics/lane_chain.h"
#include "core/motion/lift_batch.h"
#include "io/train/train_file.h"
#include "support.h"

#include <QDir>
#include <cmath>
#include <limits>

using namespace bathmos;
using namespace bathmos::test;

namespace {

constexpr double kRms_m = 0.1e-6; // less than 1440 steps a cycle leave anyway

CycleRule rule_of(std::size_t least_substeps = 1) {
    CycleRule rule;
    rule.halve_at_clash = false;
    rule.close_step = 1;
    rule.least_substeps = least_substeps;
    rule.most_with_oil = 40;
    return rule;
}

double rms_m(const std::vector<double>& a, const std::vector<double>& b) {
    if (a.size() != kGridPoints || b.size() != kGridPoints)
        return std::numeric_limits<double>::infinity();
    double sum = 0;
    for (std::size_t i = 0; i < kGridPoints; ++i)
        sum += (a[i] - b[i]) * (a[i] - b[i]);
    return std::sqrt(sum / kGridPoints);
}

std::shared_ptr<CamTables> tables_of(const Train& t) {
    return std::make_shared<CamTables>(curve_of(t.lobe));
}

// Empty where the motion does not repeat: no two such runs are the same.
std::vector<double> lift_in_double(const Train& t, double speed_rpm, const CycleRule& rule = rule_of()) {
    const Motion m = std::move(MotionModel(t).run({speed_rpm}, {}, rule).front());
    return m.periodic ? m[Channel::Lift] : std::vector<double>{};
}

} // namespace

class TestLiftBatch : public QObject {
    Q_OBJECT
  private slots:
    void every_layout_moves_as_in_double_precision_data() {
        QTest::addColumn<QString>("file");
        QTest::addColumn<bool>("options");
        for (const QString& file :
             QDir(source_path(QStringLiteral("tests/trains"))).entryList({QStringLiteral("*.train.json")}))
            for (const bool options : {false, true})
                QTest::newRow(qPrintable(file + (options ? " with options" : ""))) << file << options;
    }
    void every_layout_moves_as_in_double_precision() {
        QFETCH(QString, file);
        QFETCH(bool, options);
        Train t = io::read_train(source_file("tests/trains/" + file.toStdString()));
        if (options)
            t = with_run_options(t);
        LiftModel model(t, tables_of(t));
        const std::vector<double> speeds = {3000, 4500, 6000};
        std::vector<LiftTask> tasks;
        for (const double speed : speeds)
            tasks.push_back(model.task(speed, rule_of()));
        const std::vector<LiftOfTask> found = run_lifts(tasks, rule_of(), {});
        int compared = 0;
        for (std::size_t i = 0; i < speeds.size(); ++i) {
            const std::vector<double> wanted = lift_in_double(t, speeds[i]);
            if (wanted.empty())
                continue;
            ++compared;
            QVERIFY(found[i].finite);
            const double off = rms_m(found[i].lift_m, wanted);
            QVERIFY2(off < kRms_m,
                     qPrintable(QStringLiteral("%1 rev/min: %2 um").arg(speeds[i]).arg(off * 1e6)));
        }
        QVERIFY(compared >= 2);
    }

    void each_train_of_a_batch_keeps_its_own_numbers() {
        const Train t = with_run_options(starter_train());
        const auto tables = tables_of(t);
        std::vector<Train> trains;
        std::vector<LiftTask> tasks;
        for (int i = 0; i < 40; ++i) { // more than lanes: some wait for a free one
            Train one = t;
            one.rocker->stiffness_N_per_m *= 1 - 0.002 * i;
            std::get<CoilGeometry>(one.springs.front().kind).density_kg_m3 *= 1 + 0.002 * i;
            one.lash_m += 1e-6 * i;
            trains.push_back(one);
            tasks.push_back(LiftModel(one, tables).task(3000 + 40.0 * i, rule_of()));
        }
        const std::vector<LiftOfTask> found = run_lifts(tasks, rule_of(), {});
        for (const std::size_t i : {0U, 7U, 20U, 39U}) {
            const double off = rms_m(found[i].lift_m, lift_in_double(trains[i], tasks[i].speed_rpm));
            QVERIFY2(off < kRms_m, qPrintable(QStringLiteral("train %1: %2 um").arg(i).arg(off * 1e6)));
        }
        QVERIFY(rms_m(found[0].lift_m, found[39].lift_m) > 2e-6); // or the comparison says nothing
    }

    // A ripple kept apart from the cam's table must turn the cam as one that is in it.
    void a_drives_ripple_moves_the_cam_beside_its_table() {
        Train t = with_run_options(starter_train());
        const auto tables = tables_of(t);
        const LiftTask even = LiftModel(t, tables).task(5000, rule_of());
        t.drive_ripple = DriveRipple{0.004, -0.003, 0.002, 0.003};
        const LiftTask uneven = LiftModel(t, tables).task(5000, rule_of());
        QVERIFY(uneven.chain->cam_table == even.chain->cam_table);
        const std::vector<LiftOfTask> found = run_lifts({even, uneven}, rule_of(), {});
        QVERIFY(rms_m(found[1].lift_m, lift_in_double(t, 5000)) < kRms_m);
        QVERIFY(rms_m(found[0].lift_m, found[1].lift_m) > 3e-6);
    }

    void trains_of_unlike_form_do_not_share_lanes() {
        Train t = starter_train();
        const auto tables = tables_of(t);
        const LiftTask plain = LiftModel(t, tables).task(3000, rule_of());
        QVERIFY(of_one_form(*plain.chain, *LiftModel(t, tables).task(3000, rule_of()).chain));
        QVERIFY(!of_one_form(*plain.chain, *LiftModel(t, tables).task(3000, rule_of(2)).chain));
        Train rubbing = t;
        rubbing.friction.coulomb_N = 5;
        QVERIFY(!of_one_form(*plain.chain, *LiftModel(rubbing, tables).task(3000, rule_of()).chain));
        Train longer = t;
        std::get<CoilGeometry>(longer.springs.front().kind).active_coils += 2;
        QVERIFY(!of_one_form(*plain.chain, *LiftModel(longer, tables).task(3000, rule_of()).chain));
        rubbing.name = "other";
        const std::vector<LiftOfTask> found =
            run_lifts({plain, LiftModel(rubbing, tables).task(3000, rule_of())}, rule_of(), {});
        QVERIFY(rms_m(found[0].lift_m, lift_in_double(t, 3000)) < kRms_m);
        QVERIFY(rms_m(found[1].lift_m, lift_in_double(rubbing, 3000)) < kRms_m);
    }

    // From where a train much like it ended a train settles in fewer cycles, at the same lift.
    void a_start_near_the_end_gives_the_same_lift() {
        const Train t = with_run_options(starter_train());
        LiftModel model(t, tables_of(t));
        const LiftOfTask first = run_lifts({model.task(5000, rule_of())}, rule_of(), {}).front();
        CycleRule two = rule_of();
        two.least = two.most = 2;
        const LiftOfTask again = run_lifts({model.task(5000, rule_of(), &first.end)}, two, {}).front();
        QVERIFY(rms_m(first.lift_m, again.lift_m) < kRms_m);
        QVERIFY(rms_m(first.lift_m, run_lifts({model.task(5000, rule_of())}, two, {}).front().lift_m) >
                kRms_m);
    }

    void numbers_that_run_away_are_told_and_leave_the_neighbours_alone() {
        const Train t = with_run_options(starter_train());
        const auto tables = tables_of(t);
        Train stiff = t;
        stiff.contacts.seat_stiffness_N_per_m *= 400;
        CycleRule blind = rule_of();
        blind.close_step = 100; // steps far too long for it
        const std::vector<LiftOfTask> found = run_lifts(
            {LiftModel(t, tables).task(3000, blind), LiftModel(stiff, tables).task(2000, blind)}, blind, {});
        QVERIFY(found[0].finite);
        QVERIFY(rms_m(found[0].lift_m, lift_in_double(t, 3000, blind)) < kRms_m);
        QVERIFY(!found[1].finite);
    }

    // The lane of a train that ran away serves the next one; and whoever shares the registers, a train comes
    // out the same to the last bit.
    void a_train_comes_out_the_same_whoever_was_in_its_lane_and_is_beside_it() {
        const Train t = with_run_options(starter_train());
        const auto tables = tables_of(t);
        Train stiff = t, clashing = t;
        stiff.contacts.seat_stiffness_N_per_m *= 400;
        clashing.installed_height_m -= 2.5e-3; // its coils meet: the laws are then worked out the longer way
        CycleRule blind = rule_of();
        blind.close_step = 100;
        LiftModel model(t, tables);
        const std::vector<double> alone_m = run_lifts({model.task(3000, blind)}, blind, {}, 1).front().lift_m;
        std::vector<LiftTask> tasks;
        for (std::size_t i = 0; i < 3 * kMostLiftLanes; ++i)
            tasks.push_back(LiftModel(i % 2 ? stiff : clashing, tables).task(3100, blind));
        for (std::size_t i = 0; i < 2 * kMostLiftLanes; ++i)
            tasks.push_back(model.task(3000, blind));
        const std::vector<LiftOfTask> found = run_lifts(tasks, blind, {});
        QVERIFY(!found[1].finite && found[0].finite);
        for (std::size_t i = 3 * kMostLiftLanes; i < tasks.size(); ++i) {
            QVERIFY(found[i].finite);
            QVERIFY(found[i].lift_m == alone_m);
        }
    }

    void a_stop_is_heard() {
        const Train t = starter_train();
        std::stop_source stop;
        stop.request_stop();
        LiftModel model(t, tables_of(t));
        QVERIFY_THROWS_EXCEPTION(Stopped,
                                 run_lifts({model.task(3000, rule_of())}, rule_of(), stop.get_token()));
    }
};

QTEST_APPLESS_MAIN(TestLiftBatch)
#include "tst_lift_batch.moc"
