// Weighing against hand arithmetic, trials by their information, changes against the core's own sweep.
#include "core/verdict/changes.h"
#include "core/verdict/verdict.h"
#include "core/whatif/handles.h"
#include "support.h"

#include <QTest>
#include <numeric>
#include <set>

using namespace bathmos;
using namespace bathmos::test;

namespace {

Assembly starter() {
    Assembly out;
    out.train = starter_train();
    return out;
}

HelpQuery query_for(const Assembly& assembly) {
    HelpQuery out;
    out.range = {4000, 9400, 200};
    out.limit_rpm = sweep(assembly.train, out.range).summary.limit.speed_rpm.value();
    out.target_rpm = out.limit_rpm + 400;
    out.at_rpm = out.limit_rpm;
    return out;
}

} // namespace

class TstVerdict : public QObject {
    Q_OBJECT

  private slots:
    void priors_make_one_and_every_row_says_why() {
        double sum = 0;
        std::set<std::string_view> keys;
        for (std::size_t i = 0; i < kCauses; ++i) {
            const CauseInfo& cause = info(static_cast<Cause>(i));
            sum += cause.prior;
            keys.insert(cause.key);
            QVERIFY(!cause.prior_reason.empty() && !cause.predicts.empty() && !cause.sentence.empty());
            QVERIFY(find_cause(cause.key) == static_cast<Cause>(i));
        }
        NEAR(sum, 1, 1e-12);
        QCOMPARE(keys.size(), kCauses);
        for (std::size_t i = 0; i < kSigns; ++i) {
            const SignInfo& sign = info(static_cast<Sign>(i));
            QVERIFY2(!sign.source.empty() && !sign.label.empty() && !sign.under.empty(), sign.key.data());
            for (std::size_t c = 0; c < kCauses; ++c) {
                const double p = likelihood(static_cast<Sign>(i), static_cast<Cause>(c));
                QVERIFY(p >= 0.02 && p <= 0.98);
            }
        }
        // Signs of what was logged stand in the order of the confounders: evidence goes by that.
        QCOMPARE(info(static_cast<Sign>(static_cast<std::size_t>(Sign::BlowerFalls) + kConfounders - 1)).key,
                 std::string_view("limiter_cuts"));
    }

    void nothing_known_leaves_the_priors() {
        const Weighing w = weigh({});
        for (const WeighedCause& c : w.causes)
            NEAR(c.probability, info(c.cause).prior, 1e-12);
        NEAR(w.valve_train, 0.5, 1e-9);
    }

    void one_sign_is_bayes_rule() {
        const Weighing w = weigh({{Sign::BlowerFalls, 1, "", ""}});
        double sum = 0;
        for (std::size_t i = 0; i < kCauses; ++i)
            sum += info(static_cast<Cause>(i)).prior * likelihood(Sign::BlowerFalls, static_cast<Cause>(i));
        const double belt =
            info(Cause::BeltSlip).prior * likelihood(Sign::BlowerFalls, Cause::BeltSlip) / sum;
        NEAR(w.of(Cause::BeltSlip), belt, 1e-12);
        QVERIFY(w.causes.front().cause == Cause::BeltSlip);
        // Half sure says nothing; a sign that bears nothing says nothing.
        NEAR(weigh({{Sign::BlowerFalls, 0.5, "", ""}}).of(Cause::BeltSlip), info(Cause::BeltSlip).prior,
             1e-12);
        NEAR(weigh({{Sign::BlowerFalls, 1, "", "", 0}}).of(Cause::BeltSlip), info(Cause::BeltSlip).prior,
             1e-12);
    }

    void arguments_say_for_and_against() {
        const Weighing w =
            weigh({{Sign::BlowerFalls, 0.98, "falls", ""}, {Sign::KnockRises, 0.02, "still", ""}});
        for (const WeighedCause& c : w.causes)
            for (const Argument& a : c.arguments) {
                if (c.cause == Cause::BeltSlip && a.evidence == 0)
                    QVERIFY(a.weight > 1);
                if (c.cause == Cause::KnockRetard && a.evidence == 1)
                    QVERIFY(a.weight < -1);
            }
    }

    void what_the_engine_cannot_have_is_out() {
        CaseFile file;
        const auto out = impossible_causes(file);
        QVERIFY(std::count(out.begin(), out.end(), Cause::PumpUp) == 1);
        QVERIFY(std::count(out.begin(), out.end(), Cause::BeltSlip) == 1);
        file.charged = file.hydraulic = true;
        QVERIFY(impossible_causes(file).empty());
        NEAR(weigh({}, out).of(Cause::PumpUp), 0, 1e-12);
    }

    void the_next_test_tells_most_for_its_time() {
        // Belt or breathing, nothing else: the blower's speed would settle it.
        Weighing w;
        w.causes = {{Cause::BeltSlip, 0.5, {}}, {Cause::Breathing, 0.5, {}}};
        w.entropy_bit = 1;
        CaseFile file;
        file.charged = true;
        const auto ranked = rank_trials(w, {}, file);
        const auto blower = std::find_if(ranked.begin(), ranked.end(),
                                         [](const RankedTrial& t) { return t.trial->key == "log_blower"; });
        QVERIFY(blower != ranked.end());
        // Closed form for one sign of two even causes: 1 - [H(outcome | ...)], by hand from the table.
        const double a = likelihood(Sign::BlowerFalls, Cause::BeltSlip),
                     b = likelihood(Sign::BlowerFalls, Cause::Breathing);
        const auto h = [](double p) { return -p * std::log2(p) - (1 - p) * std::log2(1 - p); };
        const double seen = 0.5 * (a + b);
        const double after = seen * h(a / (a + b)) + (1 - seen) * h((1 - a) / (2 - a - b));
        NEAR(blower->information_bit, 1 - after, 1e-12);
        NEAR(blower->per_hour, blower->information_bit / blower->trial->hours, 1e-12);
        for (std::size_t i = 1; i < ranked.size(); ++i)
            QVERIFY(ranked[i - 1].per_hour >= ranked[i].per_hour);
        // What was looked for already is not asked again; a charged engine's tests are not asked of another.
        for (const RankedTrial& t : rank_trials(w, {{Sign::BlowerFalls, 0.9, "", ""}}, file))
            QVERIFY(t.trial->key != "log_blower");
        for (const RankedTrial& t : rank_trials(w, {}, CaseFile{}))
            QVERIFY(!t.trial->charged_only);
    }

    void missing_evidence_is_named_and_counts_nothing() {
        CaseFile file;
        file.build = "intake";
        file.state = "r1";
        const Verdict v = judge(file);
        QVERIFY(v.missing.size() >= 4);
        CONTAINS(v.answer, "Nothing stops this train");
        NEAR(v.weighing.valve_train, weigh(v.evidence, impossible_causes(file)).valve_train, 1e-12);
    }

    void a_model_that_is_far_off_says_little_of_the_mechanism() {
        CaseFile file;
        ModelFacts model;
        model.limit_rpm = 9000;
        model.limit_metric = Metric::ContactLoss;
        model.bind_margin_m = 2e-3;
        model.cures = {{"spring", "10 % more spring", 500}};
        file.model = model;
        RigFacts rig;
        rig.edge_rpm = 7000;
        rig.edge_metric = Metric::Bounce;
        file.rig = rig;
        bool below = false;
        for (const Evidence& e : evidence_of(file)) {
            QVERIFY(e.sign != Sign::SpringHelps);
            below |= e.sign == Sign::ModelBelow && e.seen > 0.9;
        }
        QVERIFY(below);
        file.rig->edge_rpm = 8950;
        bool helps = false;
        for (const Evidence& e : evidence_of(file))
            helps |= e.sign == Sign::SpringHelps && e.seen > 0.9 && e.bears > 0.9;
        QVERIFY(helps);
    }

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
        const HelpQuery query = query_for(assembly);
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

    void a_change_that_cannot_be_says_why() {
        const Assembly assembly = starter();
        const std::vector<TrainChange> all = {
            {"nothing left", "height", 0, 1.0, 1, "", [](const Assembly& a) {
                 Assembly next = a;
                 next.train.installed_height_m = 1e-3;
                 return next;
             }}};
        QVERIFY(!try_changes(assembly, all, {0}, query_for(assembly)).trouble.empty());
    }

    void parts_of_the_other_side_are_not_offered() {
        Project project;
        Part lobe = *part_from(starter().train, PartKind::Lobe);
        lobe.name = "exhaust grind";
        project.parts[1] = lobe;
        const auto offers = [&] {
            for (const TrainChange& c : possible_changes(project, starter(), ValveSide::Intake))
                if (c.part == 1)
                    return true;
            return false;
        };
        QVERIFY(offers());
        project.revisions[1] = {1, 0, "", "", "", fitted(starter(), 1, lobe)};
        project.builds[1] = {"exhaust", 0, ValveSide::Exhaust, 0, 1, ""};
        QVERIFY(!offers());
    }

    void combinations_reach_the_target_and_hold_no_smaller_one_that_does() {
        const Assembly assembly = starter();
        HelpQuery query = query_for(assembly);
        const std::vector<TrainChange> all = possible_changes(Project{}, assembly, ValveSide::Intake);
        std::vector<std::size_t> heard;
        query.found = [&](const ChangeOutcome& o) { heard.push_back(o.changes.front()); };
        const auto singles = what_would_help(assembly, all, query);
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
                places.insert(all[i].place);
            QCOMPARE(places.size(), o.changes.size());
            for (const ChangeOutcome& other : combined)
                QVERIFY(&other == &o || other.changes.size() >= o.changes.size() ||
                        !std::includes(o.changes.begin(), o.changes.end(), other.changes.begin(),
                                       other.changes.end()));
        }
    }

    void outcomes_are_sorted_as_asked() {
        ChangeOutcome cheap, strong, risky;
        cheap.gain_rpm = 100;
        cheap.cost = 5;
        strong.gain_rpm = 400;
        strong.cost = 900;
        risky.gain_rpm = 300;
        risky.cost = 100;
        risky.raised.push_back({Severity::Stop, "x", "t", "r"});
        std::vector<ChangeOutcome> list = {cheap, risky, strong};
        sort_outcomes(list, HelpOrder::Gain);
        QCOMPARE(list[0].gain_rpm, 400.0);
        sort_outcomes(list, HelpOrder::CostPerSpeed);
        QCOMPARE(list[0].gain_rpm, 100.0);
        sort_outcomes(list, HelpOrder::Risk);
        QCOMPARE(list[2].gain_rpm, 300.0);
    }

    void pressed_stop_ends_the_search() {
        const Assembly assembly = starter();
        HelpQuery query;
        std::stop_source stop;
        stop.request_stop();
        query.stop = stop.get_token();
        QVERIFY_EXCEPTION_THROWN(
            what_would_help(assembly, possible_changes(Project{}, assembly, ValveSide::Intake), query),
            Stopped);
    }
};

QTEST_APPLESS_MAIN(TstVerdict)
#include "tst_verdict.moc"
