// Runs of two revisions fitted together: what did not change is one number, and what the change did is told.
#include "core/calibration/change_effect.h"
#include "core/calibration/fit_model.h"
#include "core/calibration/run_reading.h"
#include "core/made_run.h"
#include "support.h"

#include <algorithm>

using namespace bathmos;
using namespace bathmos::test;

namespace {

const std::vector<double> kSpeeds_rpm = {3000, 4000, 5000, 5500, 6000};
constexpr double kSofter = 0.45;  // the ends of the rod that came in, over belief
constexpr double kSlimmer = 0.85; // the rocker of both, likewise

Train with_rod(double wall_m) {
    Train out = starter_train();
    out.pushrod->wall_m = wall_m;
    return out;
}

// Believed before and after a thinner rod, as they truly are, and a run of each.
struct Changed {
    Train before = with_rod(2e-3), after = with_rod(1.2e-3);
    Train true_before = with_run_options(before), true_after = with_run_options(after);
    RigRun run_before, run_after;

    Changed() {
        for (Train* one : {&true_before, &true_after})
            one->rocker->stiffness_N_per_m *= kSlimmer;
        true_after.pushrod->end_stiffness_N_per_m *= kSofter;
        run_before = run_of(true_before, kSpeeds_rpm);
        run_after = run_of(true_after, kSpeeds_rpm);
    }
    CalibrationQuery query() const {
        CalibrationQuery out{after, {&run_after}};
        out.free = {"pushrod.end_stiffness_N_per_mm", "rocker.stiffness_N_per_mm", "lash_mm"};
        out.draws = 6;
        out.other = OtherRevision{before, {&run_before}};
        return out;
    }
};

const FittedNumber& number(const Calibration& c, const std::string& name) {
    return *std::find_if(c.numbers.begin(), c.numbers.end(),
                         [&](const FittedNumber& n) { return name_of(n.number) == name; });
}

} // namespace

class TestChangeEffect : public QObject {
    Q_OBJECT
  private slots:
    void what_did_not_change_is_one_number() {
        const Changed it;
        const auto all = joint_numbers(with_run_options(it.before), with_run_options(it.after));
        const auto owners = [&](const std::string& key) {
            std::vector<std::optional<std::size_t>> out;
            for (const FreeNumber& one : all)
                if (one.key == key)
                    out.push_back(one.only);
            return out;
        };
        using Owners = std::vector<std::optional<std::size_t>>;
        QVERIFY((owners("rocker.stiffness_N_per_mm") == Owners{std::nullopt}));
        QVERIFY((owners("springs.load") == Owners{std::nullopt}));
        QVERIFY((owners("pushrod.end_stiffness_N_per_mm") == Owners{0, 1})); // the rod is another one
        QVERIFY((owners("lash_mm") == Owners{0, 1}));                        // it was set anew
        Train other_retainer = with_run_options(it.before);
        other_retainer.retainer_mass_kg *= 1.1;
        const auto apart = joint_numbers(with_run_options(it.before), other_retainer);
        QCOMPARE(std::count_if(apart.begin(), apart.end(),
                               [](const FreeNumber& n) { return n.key == "installed_height_mm"; }),
                 std::ptrdiff_t(2));
        const Train bucket = with_run_options(with_layout(starter_train(), Layout::Bucket));
        for (const FreeNumber& one : joint_numbers(with_run_options(it.before), bucket))
            if (one.key.starts_with("pushrod.") || one.key == "contacts.tip.stiffness_N_per_mm")
                QCOMPARE(*one.only, std::size_t(one.key.starts_with("pushrod.") ? 0 : 1));
        const auto same = joint_numbers(with_run_options(it.before), with_run_options(it.before));
        QVERIFY(std::none_of(same.begin(), same.end(), [](const FreeNumber& n) { return n.only; }));
    }

    void each_number_moves_the_train_it_is_of() {
        const Changed it;
        const std::vector<Train> both = {with_run_options(it.after), with_run_options(it.before)};
        std::vector<ObservedSpeed> seen = observe(it.run_after, 0, MotionModel(both[0]).chain().rigid_m);
        for (ObservedSpeed& one : observe(it.run_before, 1, MotionModel(both[1]).chain().rigid_m))
            seen.push_back(std::move(one));
        const FitModel model(
            both,
            joint_numbers(both[0], both[1], {"pushrod.end_stiffness_N_per_mm", "rocker.stiffness_N_per_mm"}),
            seen, {0, 1});
        QCOMPARE(model.trains(), std::size_t(2));
        QCOMPARE(model.size(), std::size_t(3 + 2 * 3));
        const std::size_t mine = model.place_of("pushrod.end_stiffness_N_per_mm", 0),
                          others = model.place_of("pushrod.end_stiffness_N_per_mm", 1);
        QCOMPARE(model.place_of("rocker.stiffness_N_per_mm", 0),
                 model.place_of("rocker.stiffness_N_per_mm", 1));
        Offsets x = Offsets::Zero(static_cast<Eigen::Index>(model.size()));
        x(static_cast<Eigen::Index>(mine)) = std::log(kSofter);
        NEAR(model.train_at(x, 0).pushrod->end_stiffness_N_per_m,
             it.true_after.pushrod->end_stiffness_N_per_m, 1e-3);
        NEAR(model.train_at(x, 1).pushrod->end_stiffness_N_per_m, it.before.pushrod->end_stiffness_N_per_m,
             1e-3);
        x(static_cast<Eigen::Index>(model.place_of("rocker.stiffness_N_per_mm", 0))) = std::log(kSlimmer);
        for (std::size_t run = 0; run < 2; ++run) // these sensors have no delay
            x(static_cast<Eigen::Index>(3 + FitModel::kSensor * run + 2)) = -3.5e-6;
        const Residuals at = model.residuals(x, true, {});
        for (std::size_t i = 0; i < seen.size(); ++i) {
            if (seen[i].held_out)
                continue;
            QVERIFY(at.of[i].norm() / std::sqrt(static_cast<double>(at.of[i].size())) < 0.6); // the truth
            const auto slope = [&](std::size_t k) {
                return at.by_offset[i].col(static_cast<Eigen::Index>(k)).norm();
            };
            QVERIFY((slope(mine) > 0) == (seen[i].run == 0));
            QVERIFY((slope(others) > 0) == (seen[i].run == 1));
        }
    }

    void what_the_change_did_is_told_with_its_band() {
        const Changed it;
        const CalibrationQuery query = it.query();
        const Calibration c = calibrate(query);
        QCOMPARE(c.chosen, std::string("train_flexible"));
        QVERIFY(c.chosen_only == std::optional<std::size_t>(0)); // the rod that came in, not the one before
        const FittedNumber& ends = number(c, "pushrod.end_stiffness_N_per_mm");
        NEAR(std::log(ends.value / it.true_after.pushrod->end_stiffness_N_per_m), 0, 0.12);
        NEAR(number(c, "other.pushrod.end_stiffness_N_per_mm").departs_sigma, 0, 2);
        CONTAINS(label_of(number(c, "other.pushrod.end_stiffness_N_per_mm").number), ", other");
        QVERIFY(!contains(label_of(ends.number), "other"));
        NEAR(number(c, "rocker.stiffness_N_per_mm").value, it.true_after.rocker->stiffness_N_per_m,
             2.5 * number(c, "rocker.stiffness_N_per_mm").sd);
        QVERIFY(c.other);
        NEAR(c.other->rocker->stiffness_N_per_m, c.train.rocker->stiffness_N_per_m, 1e-3);
        QCOMPARE(c.other_draws.size(), c.draws.size());
        QCOMPARE(c.residuals.size(), 2 * kSpeeds_rpm.size());
        QCOMPARE(c.residuals.back().run, std::size_t(1));

        const ChangeEffect effect = effect_of_change(query, c, {});
        const auto limit = [&](const Train& train) {
            return *sweep(train, {3000, 7200, 100}).summary.limit.speed_rpm;
        };
        QVERIFY(effect.gain_rpm && effect.believed_gain_rpm && effect.p10_rpm && effect.p90_rpm);
        const double truly_rpm = limit(it.true_after) - limit(it.true_before);
        NEAR(*effect.believed_gain_rpm,
             limit(with_run_options(it.after)) - limit(with_run_options(it.before)), 1);
        NEAR(*effect.gain_rpm, truly_rpm, 60);
        QVERIFY(*effect.p10_rpm < truly_rpm && truly_rpm < *effect.p90_rpm);

        const Train taken = accepted(c, it.after, {"rocker.stiffness_N_per_mm"}); // of this revision alone
        NEAR(taken.rocker->stiffness_N_per_m, c.train.rocker->stiffness_N_per_m, 1e-3);
        const RunReading reading = read_run(c, {}, {{4000, 7200, 200}, {}, {}});
        QCOMPARE(reading.chosen, std::string("train_flexible"));
        QCOMPARE(std::count_if(reading.departures.begin(), reading.departures.end(),
                               [](const RunDeparture& d) { return d.cause == "train_flexible"; }),
                 std::ptrdiff_t(1)); // the likeliest of this rod's and the shared rocker's
    }

    void the_sentence_says_whether_belief_held() {
        ChangeEffect effect;
        effect.believed_gain_rpm = -300;
        CONTAINS(said_of(effect), "one of the two reaches no limit");
        effect.gain_rpm = -520;
        effect.p10_rpm = -640;
        effect.p90_rpm = -410;
        CONTAINS(said_of(effect), "believed to move the limit by -300");
        CONTAINS(said_of(effect), "something else than was believed");
        effect.believed_gain_rpm = -450;
        CONTAINS(said_of(effect), "It did what was believed");
        effect.p90_rpm = 20;
        CONTAINS(said_of(effect), "Whether it moved the limit at all is not told");
    }

    void a_key_may_be_of_either_train() {
        const Train rod = with_run_options(with_rod(2e-3));
        const Train bucket = with_run_options(with_layout(starter_train(), Layout::Bucket));
        const auto ends = joint_numbers(bucket, rod, {"pushrod.end_stiffness_N_per_mm"});
        QCOMPARE(ends.size(), std::size_t(1));
        QVERIFY(ends.front().of_other());
        QCOMPARE(problem_of([&] { joint_numbers(bucket, rod, {"valve.colour"}); }).location,
                 std::string("valve.colour"));
    }

    // The first run fits; what is wrong with the other's is not hidden among its speeds.
    void a_run_that_is_of_neither_train_is_named() {
        const Changed it;
        Train stranger = it.true_before;
        std::get<AnalyticLobe>(stranger.lobe.shape).half_duration_rad *= 1.06;
        RigRun wrong = run_of(stranger, {3000, 4000, 5000});
        wrong.source = "stranger.rig.csv";
        CalibrationQuery query = it.query();
        query.free = {"lash_mm"};
        query.other->runs = {&wrong};
        const Calibration c = calibrate(query);
        QVERIFY(!c.warnings.empty());
        CONTAINS(c.warnings.front(), "stranger.rig.csv");
        CONTAINS(c.warnings.front(), "another train");
    }

    void a_change_whose_draws_reach_no_limit_has_no_band() {
        const Changed it;
        Calibration c;
        c.train = it.after;
        c.other = it.before;
        c.draws.assign(6, it.after);
        c.other_draws.assign(6, it.before);
        const CalibrationQuery query = it.query();
        QVERIFY(effect_of_change(query, c, {}).p10_rpm);
        c.draws.back().contacts.seat_stiffness_N_per_m = 1e18; // far too quick to follow
        const ChangeEffect effect = effect_of_change(query, c, {});
        QVERIFY(effect.gain_rpm && !effect.p10_rpm && !effect.p90_rpm);
        CONTAINS(said_of(effect), "how surely is not told");
    }

    void one_revision_alone_tells_of_no_change_and_each_needs_three_speeds() {
        const Changed it;
        CalibrationQuery alone{it.after, {&it.run_after}};
        CONTAINS(problem_of([&] { effect_of_change(alone, {}, {}); }).mend, "together with a run");
        RigRun thin = it.run_before;
        thin.steps.resize(2);
        thin.source = "before.rig.csv";
        CalibrationQuery both = it.query();
        both.other->runs = {&thin};
        const InputProblem problem = problem_of([&] { calibrate(both); });
        QCOMPARE(problem.source, std::string("before.rig.csv"));
        CONTAINS(problem.mend, "three speeds");
    }
};

QTEST_APPLESS_MAIN(TestChangeEffect)
#include "tst_change_effect.moc"
