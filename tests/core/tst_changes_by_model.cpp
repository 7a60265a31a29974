// What the full model says of changes, made and undone, against plain sweeps of the same trains. Many sweeps:
// not run under sanitizers.
#include "core/verdict_support.h"
#include "core/whatif/handles.h"
#include "io/train/train_file.h"

#include <QTest>
#include <set>

using namespace bathmos;
using namespace bathmos::test;

class TstChangesByModel : public QObject {
    Q_OBJECT

  private slots:
    void a_change_undone_tells_what_it_cost() {
        const Assembly before = starter();
        Assembly after = before;
        after.train.pushrod->end_stiffness_N_per_m = 9e6;
        FactsQuery query;
        query.range = {4000, 9400, 200};
        const auto limit = sweep(after.train, query.range).summary.limit.speed_rpm;
        const ChangeFacts c = change_facts(before, after, limit, query);
        QVERIFY(c.softer_link && !c.spring && !c.heavier && !c.lobe);
        QCOMPARE(c.changes.size(), std::size_t{1});
        QVERIFY(c.changes[0].kind == PartKind::Pushrod && c.changes[0].undone_gain_rpm);
        const auto was = sweep(before.train, query.range).summary.limit.speed_rpm;
        NEAR(*c.changes[0].undone_gain_rpm, was.value_or(9400) - limit.value_or(9400), 30);
    }

    void a_change_is_computed_as_a_sweep_would() {
        const Assembly assembly = starter();
        const ChangeStudyQuery query = query_for(assembly);
        std::vector<TrainChange> all = possible_changes(Project{}, assembly, ValveSide::Intake);
        const auto shim = std::find_if(all.begin(), all.end(),
                                       [](const TrainChange& c) { return c.label == "a 0.5 mm shim more"; });
        QVERIFY(shim != all.end());
        const auto index = static_cast<std::size_t>(shim - all.begin());
        const ChangeOutcome o = try_changes(assembly, all, {index}, query);
        QVERIFY2(o.trouble.empty(), o.trouble.c_str());
        const Assembly shimmed = shim->apply(assembly);
        NEAR(shimmed.train.installed_height_m, assembly.train.installed_height_m - 0.5e-3, 1e-12);
        const auto limit = sweep(shimmed.train, query.range).summary.limit.speed_rpm;
        QVERIFY(limit && o.limit_rpm);
        NEAR(*o.limit_rpm, *limit, 0.001 * *limit);
        NEAR(o.gain_rpm, *o.limit_rpm - query.limit_rpm, 1e-9);
        NEAR(o.bind_before_m - o.bind_margin_m, 0.5e-3, 1e-9);
        QVERIFY(o.cost_per_100_rpm().has_value() == (o.gain_rpm > 5));
        QVERIFY(!o.school.empty());
    }

    void combinations_reach_the_target_and_hold_no_smaller_one_that_does() {
        const Assembly assembly = starter();
        ChangeStudyQuery query = query_for(assembly);
        const std::vector<TrainChange> all = possible_changes(Project{}, assembly, ValveSide::Intake);
        std::vector<std::size_t> heard;
        query.found = [&](const ChangeOutcome& o) { heard.push_back(o.changes.front()); };
        const auto singles = study_single_changes(assembly, all, query);
        QCOMPARE(heard.size(), all.size());
        for (std::size_t i = 1; i < singles.size(); ++i)
            QVERIFY(!singles[i].trouble.empty() || singles[i - 1].gain_rpm >= singles[i].gain_rpm);
        // A target that no single change reaches but the best two might.
        query.target_rpm = query.limit_rpm + singles.front().gain_rpm + 60;
        query.most_combinations = 12;
        query.found = {};
        const auto combined = combinations_that_reach(assembly, all, singles, query);
        QVERIFY(!combined.empty());
        for (const ChangeOutcome& o : combined) {
            QVERIFY(o.changes.size() == 2 || o.changes.size() == 3);
            QVERIFY(o.beyond_range || *o.limit_rpm >= query.target_rpm);
            std::set<std::string> places;
            for (std::size_t i : o.changes)
                places.insert(all[i].location);
            QCOMPARE(places.size(), o.changes.size());
            for (const ChangeOutcome& other : combined)
                QVERIFY(&other == &o || other.changes.size() >= o.changes.size() ||
                        !std::includes(o.changes.begin(), o.changes.end(), other.changes.begin(),
                                       other.changes.end()));
        }
    }

    void a_hydraulic_follower_brings_its_lash_and_is_no_change_of_the_lobe() {
        Assembly after;
        after.train = io::read_train(source_file("tests/trains/ravenmoor-t14-intake.train.json"));
        Assembly before = after;
        before.train.lifter.reset(); // on a solid pivot, with lash
        before.train.lash_m = 0.15e-3;
        FactsQuery query;
        query.range = {5600, 8000, 200};
        CaseFile file;
        file.hydraulic = true;
        file.model = model_facts(after.train, query);
        file.changes = change_facts(before, after, file.model->limit_rpm, query);
        QVERIFY(file.changes->follower && !file.changes->lobe);
        const auto follower = std::find_if(file.changes->changes.begin(), file.changes->changes.end(),
                                           [](const StateChange& c) { return c.kind == PartKind::Lifter; });
        QVERIFY(follower != file.changes->changes.end());
        // Undone with its lash, it is the solid train itself.
        Sweep solid = sweep(before.train, {5600, 8000, 100});
        QVERIFY(solid.summary.limit.speed_rpm);
        NEAR(*follower->undone_gain_rpm, *solid.summary.limit.speed_rpm - *file.model->limit_rpm, 60);
        QVERIFY(found(file, Symptom::FollowerChanged)->seen > 0.9);
        QVERIFY(found(file, Symptom::LobeChanged)->seen < 0.1);
        CONTAINS(follower->text, " more"); // a dozen numbers are told in short
        for (const Evidence& e : evidence_of(file))
            QVERIFY2(!e.text.empty(), info(e.symptom).key.data());
        file.hydraulic = false; // nobody asks a solid train for its followers
        QVERIFY(!found(file, Symptom::FollowerChanged));
    }

    void a_part_is_named_before_its_numbers() {
        const Assembly before = starter();
        Assembly after = before;
        after.train.lobe =
            io::read_train(source_file("tests/trains/ashgill-a22-intake-harsh.train.json")).lobe;
        FactsQuery query;
        query.range = {6000, 7000, 500};
        const ChangeFacts facts = change_facts(before, after, 6500, query);
        QCOMPARE(facts.changes.size(), std::size_t{1});
        const std::string& text = facts.changes.front().text;
        CONTAINS(text, "A22 intake, harsh");
        CONTAINS(text, " more");
        QVERIFY2(text.find("A22 intake, harsh") < text.find(" more"), text.c_str());
        QVERIFY2(text.starts_with("Lobe"), text.c_str());
    }

    void a_change_of_lash_is_judged_by_undoing_it_alone() {
        const Assembly before = starter();
        Assembly after = before;
        after.train.lash_m = before.train.lash_m + 0.6e-3; // off its ramp
        after.train.retainer_mass_kg += 4e-3;
        FactsQuery query;
        query.range = {4000, 9400, 200};
        CaseFile file;
        file.model = model_facts(after.train, query);
        file.changes = change_facts(before, after, file.model->limit_rpm, query);
        QVERIFY(file.changes->lobe && !file.changes->follower);
        std::optional<double> gain;
        for (const StateChange& c : file.changes->changes)
            if (c.key == "lash_mm")
                gain = c.undone_gain_rpm;
        QVERIFY(gain);
        Train undone = after.train;
        undone.lash_m = before.train.lash_m;
        NEAR(*gain, *sweep(undone, {4000, 9400, 100}).summary.limit.speed_rpm - *file.model->limit_rpm, 60);
        QVERIFY(*gain > 200);
        const auto changed = found(file, Symptom::LobeChanged);
        QVERIFY(changed && changed->seen > 0.8);
        CONTAINS(changed->text, "ash");
        CONTAINS(changed->text, "undone, the model's limit moves by +");
    }

    void only_what_a_change_brings_is_raised() {
        const Assembly assembly = starter();
        const ChangeStudyQuery query = query_for(assembly);
        const std::vector<TrainChange> all = {
            {"nothing", "none", 0, 0.0, 0, "", [](const Assembly& a) { return a; }},
            {"nearly solid", "height", 0, 0.0, 0, "", [](const Assembly& a) {
                 Assembly next = a;
                 const double margin =
                     figures_of(a.train, RigidMotion(a.train, curve_of(a.train.lobe))).bind_margin_m;
                 next.train.installed_height_m -= margin - 0.9e-3;
                 return next;
             }}};
        const ChangeOutcome same = try_changes(assembly, all, {0}, query);
        QVERIFY(same.raised.empty());
        NEAR(same.gain_rpm, 0, 5);
        const ChangeOutcome close = try_changes(assembly, all, {1}, query);
        NEAR(close.bind_margin_m, 0.9e-3, 1e-6);
        QVERIFY(!close.raised.empty() && close.risk() >= 3);
        CONTAINS(close.near.back(), "bind margin 0.900 mm");
        QVERIFY(close.cam_N && *close.cam_N > 500 && close.stress_Pa && *close.stress_Pa > 1e8);
    }
};

QTEST_APPLESS_MAIN(TstChangesByModel)
#include "tst_changes_by_model.moc"
