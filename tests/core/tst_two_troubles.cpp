// A trouble of the train beside one elsewhere: how a pair is weighed, which is the first, and what of a loss
// a drift explains.
#include "core/verdict/two_troubles.h"
#include "core/verdict_support.h"

using namespace bathmos;
using namespace bathmos::test;

class TstTwoTroubles : public QObject {
    Q_OBJECT

  private slots:
    void two_troubles_share_a_loss_where_each_shows_itself() {
        // A rig that lets go at the break, and a blower that falls: each alone leaves one of them unsaid.
        const std::vector<Evidence> both = {{Symptom::RigNear, 0.97, "", ""},
                                            {Symptom::SofterLink, 0.95, "", ""},
                                            {Symptom::BlowerFalls, 0.97, "", ""}};
        const Weighing w = weigh(both);
        QVERIFY(!w.pairs.empty());
        QVERIFY(w.pairs.front().first == Cause::BeltSlip && w.pairs.front().second == Cause::TrainFlexible);
        // an engine that somebody worked on has two sooner: sooner than one of them alone
        const Weighing changed = weigh(both, {{}, true});
        QVERIFY(changed.pairs.front().probability > w.pairs.front().probability + 0.05);
        double train_alone = changed.valve_train;
        for (const WeighedPair& pair : changed.pairs)
            train_alone -= pair.probability;
        QVERIFY(changed.pairs.front().probability > train_alone);
        double sum = 0;
        for (const WeighedCause& c : changed.causes)
            sum += c.probability;
        NEAR(sum, 1, 1e-12);
        // a train that rig and model call healthy is not blamed beside a drift
        const Weighing healthy = weigh({{Symptom::RigNear, 0.02, "", ""},
                                        {Symptom::ModelNear, 0.02, "", ""},
                                        {Symptom::ModelBelow, 0.98, "", ""},
                                        {Symptom::BlowerFalls, 0.97, "", ""}},
                                       {{}, true});
        QVERIFY(healthy.causes.front().cause == Cause::BeltSlip);
        QVERIFY(healthy.valve_train < 0.15);
        // what nobody sees makes no pair
        QVERIFY(weigh({{Symptom::RigNear, 0.97, "", ""}}).pairs.empty());
    }

    void a_drift_that_begins_above_the_break_is_the_second_trouble() {
        StateBreak at;
        at.speed_rpm = 7000;
        at.scatter_rpm = 40;
        ConfounderTest drift{Confounder::Mixture, TestStatus::Seen, 0.95, 7300, PullChannel::Lambda, "lean"};
        drift.begins = Beginning{7300, 60};
        QVERIFY(!begins_too_late(drift, at)); // within two sigma: 335
        drift.begins = Beginning{7400, 60};
        QVERIFY(begins_too_late(drift, at));
        QVERIFY(!begins_too_late(drift, std::nullopt));
        drift.begins->sd_rpm = 400; // nobody knows where that began
        QVERIFY(!begins_too_late(drift, at));
        std::vector<Evidence> signs = {{Symptom::MixtureMoves, 0.95, "", ""}, {Symptom::Break, 0.95, "", ""}};
        QVERIFY(weigh(signs).causes.front().cause == Cause::Mixture);
        signs.front().too_late = true;
        const Weighing w = weigh(signs);
        QVERIFY(w.of(Cause::Mixture) < 0.01);
        QVERIFY(w.pairs.front().second == Cause::Mixture);
        QVERIFY(info(w.pairs.front().first).valve_train);
    }

    // A train that lets go at the break, and a mixture that goes lean well above it.
    void the_answer_names_the_second_trouble_and_from_where() {
        CaseFile file;
        RigFacts rig;
        rig.onset_rpm = 7000;
        rig.onset_metric = Metric::Loft;
        rig.half_step_rpm = 50;
        file.rig = rig;
        ChangeFacts changes;
        changes.from = "r1";
        changes.to = "r2";
        changes.changes = {{PartKind::Spring, "spring: another", std::nullopt}};
        changes.spring = true;
        file.changes = changes;
        for (const unsigned seed : {1U, 2U}) {
            file.pulls.push_back(pull_case(7000, 0.10, 0, seed));
            ConfounderTest& lean = file.pulls.back().tests[static_cast<std::size_t>(Confounder::Mixture)];
            lean = {Confounder::Mixture, TestStatus::Seen, 0.97, 7900, PullChannel::Lambda, "lean"};
            lean.begins = Beginning{7800, 60};
        }
        const Verdict v = judge(file);
        QVERIFY(info(v.weighing.causes.front().cause).valve_train);
        QVERIFY(!v.weighing.pairs.empty() && v.weighing.pairs.front().second == Cause::Mixture);
        double two = 0;
        for (const WeighedPair& pair : v.weighing.pairs)
            two += pair.probability;
        QVERIFY2(two > 0.5, qPrintable(QString::number(two)));
        CONTAINS(v.answer, "two troubles at once");
        CONTAINS(v.answer, "from about 7800 rev/min also the mixture moves away");
    }

    void nothing_is_innocent_while_a_loss_is_larger_than_its_drift() {
        CaseFile file;
        file.pulls = {pull_case(7000, 0.12)};
        ConfounderTest drift{Confounder::BeltSlip, TestStatus::Seen, 0.97, 6900,
                             PullChannel::Blower,  "slips"};
        drift.begins = Beginning{6800, 60};
        drift.takes = 0.02;
        file.pulls.front().tests = {drift};
        const auto lost = lost_power(file, {drift});
        QVERIFY(lost && lost->unexplained());
        NEAR(lost->share, 0.12, 0.03);
        drift.takes = 0.1;
        QVERIFY(!lost_power(file, {drift})->unexplained());
        drift.takes.reset(); // it does not say what it takes
        QVERIFY(!lost_power(file, {drift}));
    }
};

QTEST_GUILESS_MAIN(TstTwoTroubles)
#include "tst_two_troubles.moc"
