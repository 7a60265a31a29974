// Weighing against hand arithmetic, evidence and answer of cases with known facts, trials by their
// information. What needs many sweeps stands in tst_changes_by_model.
#include "core/verdict/two_troubles.h"
#include "core/verdict_support.h"

#include <QTest>
#include <set>

using namespace bathmos;
using namespace bathmos::test;

namespace {

// Not inlined: the compiler would suspect the vectors in an optional that was empty of being unset.
[[gnu::noinline]] CaseFile case_with_limit(double limit_rpm) {
    ModelFacts facts;
    facts.limit_rpm = limit_rpm;
    CaseFile out;
    out.model = facts;
    return out;
}

} // namespace

class TstVerdict : public QObject {
    Q_OBJECT

  private slots:
    // Shares make one; a departure counts as far as it costs what is missing, the rest goes to mechanisms, or
    // to nobody where the speed is reached.
    void a_run_shares_the_blame_by_what_is_missing() {
        RunReading r;
        r.limit_rpm = 8000;
        r.bind_margin_m = 3e-3;
        r.departures = {{"spring_weak", 60, 800}, {"surge", 0, std::nullopt}};
        r.mechanisms = {{"surge", "damped", 720}, {"hard_landing", "no limit on seating", 0}};
        const auto sum = [](const RunShares& s) {
            double out = s.healthy;
            for (const double share : s.of)
                out += share;
            return out;
        };
        const auto of = [](const RunShares& s, Cause c) { return s.of[static_cast<std::size_t>(c)]; };
        const RunShares whole = run_shares(r, 8800); // 9.1 % missing, 10 % found
        NEAR(sum(whole), 1, 1e-12);
        NEAR(of(whole, Cause::SpringWeak), 1, 1e-9);
        QVERIFY(whole.first() == Cause::SpringWeak);
        const RunShares half = run_shares(r, 10000); // 20 % missing, half of it found
        NEAR(sum(half), 1, 1e-12);
        NEAR(of(half, Cause::SpringWeak), 0.5 + 0.5 * 0.01 / (0.01 + 0.05), 1e-6);
        NEAR(of(half, Cause::Surge), 0.5 * 0.05 / (0.01 + 0.05), 1e-6); // 9 % less the 4 % of any train
        r.departures[0].log_evidence = 5;                               // belief is given up for ten
        const RunShares believed = run_shares(r, 7000);
        QVERIFY(of(believed, Cause::SpringWeak) < 0.01 && believed.healthy > 0.98);
        QVERIFY(!believed.first());
        r.limit_rpm.reset();
        NEAR(run_shares(r, 9000).healthy, 1, 1e-12); // no limit at all
    }

    // Two that depart at once are both as likely as their explanation, whichever of them it needs more.
    void two_departures_at_once_share_the_blame_by_what_they_cost() {
        RunReading r;
        r.limit_rpm = 8000;
        r.bind_margin_m = 3e-3;
        r.chosen = "spring_weak";
        r.chosen_with = "train_flexible";
        r.departures = {{"spring_weak", 48, 320}, {"train_flexible", 16, 160}, {"surge", 2, std::nullopt}};
        const auto of = [](const RunShares& s, Cause c) { return s.of[static_cast<std::size_t>(c)]; };
        const RunShares part = run_shares(r, 10000); // 20 % missing: 4 % by the springs, 2 % by the links
        NEAR(of(part, Cause::TrainFlexible), 0.1, 1e-6);
        NEAR(of(part, Cause::SpringWeak), 0.2 + 0.7, 1e-6); // and what nothing explains
        const RunShares all = run_shares(r, 8400);          // 4.8 % missing, more than that found
        NEAR(of(all, Cause::SpringWeak), 2.0 / 3, 1e-6);
        NEAR(of(all, Cause::TrainFlexible), 1.0 / 3, 1e-6);
        const std::string said = said_by_run(r, all);
        CONTAINS(said, "beside it departs: " + std::string(info(Cause::TrainFlexible).label));
        r.departures[0].gain_rpm = 0; // it is not what costs the speed
        const RunShares links = run_shares(r, 8250);
        QVERIFY(links.first() == Cause::TrainFlexible);
        CONTAINS(said_by_run(r, links), "beside it departs: " + std::string(info(Cause::SpringWeak).label));
        r.chosen_with.clear(); // the same evidence of single ones: the surer alone
        QVERIFY(of(run_shares(r, 8400), Cause::TrainFlexible) < 1e-6);
    }

    void boost_and_oil_of_the_pulls_count_as_changes() {
        const auto pull = [](double map_kPa, double oil_kPa) {
            PullCase one;
            Pull raw;
            for (double rpm = 3000; rpm <= 6000; rpm += 100) {
                raw[PullChannel::Speed].push_back(rpm);
                raw[PullChannel::Manifold].push_back((rpm < 5000 ? 90 : map_kPa) * 1e3);
                raw[PullChannel::Barometer].push_back(100e3);
                raw[PullChannel::Oil].push_back(oil_kPa * 1e3);
            }
            read_pressures(raw, one);
            return one;
        };
        NEAR(*pull(250, 400).head_Pa, 150e3, 1);
        NEAR(*pull(250, 400).oil_Pa, 400e3, 1);
        CaseFile file;
        file.hydraulic = true;
        file.pulls = {pull(250, 600)};
        file.pulls_before = {pull(190, 400)};
        file.changes.emplace();
        note_pressures(file, "");
        QVERIFY(file.changes->boost && file.changes->oil);
        CONTAINS(file.changes->boost_text.in_words(), "90");
        CONTAINS(file.changes->boost_text.in_words(), "150");
        CONTAINS(file.changes->oil_text.in_words(), "600");
        file.changes.emplace();
        file.pulls = {pull(192, 405)};
        note_pressures(file, "Thicker OIL; ");
        QVERIFY(!file.changes->boost && file.changes->oil);
        CONTAINS(file.changes->oil_text.in_words(), "Thicker OIL");
        for (const char* notes : {"", "other coil springs", "foil gasket"}) {
            file.changes.emplace();
            note_pressures(file, notes);
            QVERIFY2(!file.changes->boost && !file.changes->oil, notes);
        }
        const Train plain = starter_train();
        NEAR(under_pressure(plain, 60e3).back_pressure_Pa, 60e3, 1e-9);
        QVERIFY(under_pressure(plain, {}) == plain);
        Train own = plain;
        own.back_pressure_Pa = 20e3;
        QVERIFY(under_pressure(own, 60e3) == own);
    }

    void what_a_run_says_is_weighed_with_one_in_ten_wrong() {
        RunShares s;
        s.of[static_cast<std::size_t>(Cause::TrainFlexible)] = 1;
        const auto likely = run_likelihoods(s);
        NEAR(likely[static_cast<std::size_t>(Cause::TrainFlexible)], 1, 1e-12);
        const double prior = info(Cause::TrainFlexible).prior;
        NEAR(likely[static_cast<std::size_t>(Cause::Mixture)], 0.1 / (0.9 / prior + 0.1), 1e-12);
        CaseFile file;
        file.rig.emplace();
        file.calibrated.emplace();
        file.calibrated->limit_rpm = 8000;
        file.target_rpm = 8800;
        file.calibrated->departures = {{"train_flexible", 80, 900}};
        file.rig->onset_rpm = 8000;
        file.rig->onset_metric = Metric::Bounce;
        const Verdict v = judge(file);
        QVERIFY(v.weighing.causes.front().cause == Cause::TrainFlexible);
        QVERIFY(v.weighing.causes.front().probability > 0.8);
        CONTAINS(v.valve_answer, "from about 8000 rev/min, 800 below the target");
        CONTAINS(v.valve_answer, "Train too flexible, 100 %: departs from belief (evidence 80)");
        for (const RankedTrial& t : rank_trials(v.weighing, v.evidence, file)) // it has been spun
            QVERIFY2(t.trial->key != "spin", t.trial->key.data());
        file.rig->onset_rpm.reset(); // a limit that was crossed gradually says what it does, too
        file.rig->limit_rpm = 7900;
        file.rig->limit_metric = Metric::HeldOpen;
        CONTAINS(judge(file).valve_answer, "is held open from about 7900 rev/min");
        file.rig->limit_rpm.reset();
        file.calibrated->departures.clear();
        file.target_rpm = 7000;
        QVERIFY(judge(file).weighing.valve_train < v.weighing.valve_train);
    }

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
        for (std::size_t i = 0; i < kSymptoms; ++i) {
            const SymptomInfo& symptom = info(static_cast<Symptom>(i));
            const bool reading_of_its_own =
                static_cast<Symptom>(i) == Symptom::RunReads || static_cast<Symptom>(i) == Symptom::Failed;
            QVERIFY2(!symptom.source.empty() && !symptom.label.empty() &&
                         symptom.under.empty() == reading_of_its_own,
                     symptom.key.data());
            for (std::size_t c = 0; c < kCauses; ++c) {
                const double p = likelihood(static_cast<Symptom>(i), static_cast<Cause>(c));
                QVERIFY(p >= 0.02 && p <= 0.98);
            }
        }
        // Signs of what was logged stand in the order of the confounders: evidence goes by that.
        QCOMPARE(
            info(static_cast<Symptom>(static_cast<std::size_t>(Symptom::BlowerFalls) + kConfounders - 1)).key,
            std::string_view("limiter_cuts"));
    }

    void nothing_known_leaves_the_priors() {
        const Weighing w = weigh({});
        for (const WeighedCause& c : w.causes)
            NEAR(c.probability, info(c.cause).prior, 1e-12);
        NEAR(w.valve_train, 0.5, 1e-9);
    }

    void one_sign_is_bayes_rule() {
        const Weighing w = weigh({{Symptom::BlowerFalls, 1, "", ""}});
        const auto shown = [](Cause cause) { return likelihood(Symptom::BlowerFalls, cause); };
        double sum = 0, pairs = 0;
        for (std::size_t i = 0; i < kCauses; ++i) {
            const auto cause = static_cast<Cause>(i);
            sum += info(cause).prior * shown(cause);
            if (info(cause).valve_train)
                pairs += info(cause).prior * info(Cause::BeltSlip).prior *
                         (1 - (1 - shown(cause)) * (1 - shown(Cause::BeltSlip)));
        }
        const double belt = info(Cause::BeltSlip).prior * shown(Cause::BeltSlip);
        NEAR(w.of(Cause::BeltSlip), (belt + pairs) / (sum + pairs), 1e-12);
        QVERIFY(w.causes.front().cause == Cause::BeltSlip);
        // Half sure says nothing; a symptom of no relevance says nothing.
        NEAR(weigh({{Symptom::BlowerFalls, 0.5, "", ""}}).of(Cause::BeltSlip), info(Cause::BeltSlip).prior,
             1e-12);
        NEAR(weigh({{Symptom::BlowerFalls, 1, "", "", 0}}).of(Cause::BeltSlip), info(Cause::BeltSlip).prior,
             1e-12);
    }

    void arguments_say_for_and_against() {
        const Weighing w =
            weigh({{Symptom::BlowerFalls, 0.98, "falls", ""}, {Symptom::KnockRises, 0.02, "still", ""}});
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
        const auto unknown = impossible_causes(file); // nothing tells whether it is charged
        QVERIFY(std::count(unknown.begin(), unknown.end(), Cause::BeltSlip) == 0);
        file.charged = false;
        const auto out = impossible_causes(file);
        QVERIFY(std::count(out.begin(), out.end(), Cause::PumpUp) == 1);
        QVERIFY(std::count(out.begin(), out.end(), Cause::BeltSlip) == 1);
        file.charged = file.hydraulic = true;
        QVERIFY(impossible_causes(file).empty());
        NEAR(weigh({}, {out}).of(Cause::PumpUp), 0, 1e-12);
    }

    void what_is_settled_is_a_share_of_what_could_be_open() {
        Weighing w;
        w.causes = {{Cause::BeltSlip, 0.25, {}},
                    {Cause::Breathing, 0.25, {}},
                    {Cause::Mixture, 0.25, {}},
                    {Cause::Surge, 0.25, {}}};
        w.entropy_bit = 2; // of four alike
        NEAR(w.settled(), 0, 1e-12);
        NEAR(w.share_settled_by(0.5), 0.25, 1e-12);
        w.entropy_bit = 0;
        NEAR(w.settled(), 1, 1e-12);
        QCOMPARE(w.share_settled_by(0.5), 0.0); // nothing is open any more
        const Weighing none = weigh({});
        QVERIFY(none.settled() > 0 && none.settled() < 0.15); // the priors know a little
        QVERIFY(weigh({{Symptom::BlowerFalls, 0.98, "", ""}}).settled() > none.settled() + 0.2);
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
        // Closed form for one symptom of two even causes: 1 - [H(outcome | ...)], by hand from the table.
        const double a = likelihood(Symptom::BlowerFalls, Cause::BeltSlip),
                     b = likelihood(Symptom::BlowerFalls, Cause::Breathing);
        const auto h = [](double p) { return -p * std::log2(p) - (1 - p) * std::log2(1 - p); };
        const double seen = 0.5 * (a + b);
        const double after = seen * h(a / (a + b)) + (1 - seen) * h((1 - a) / (2 - a - b));
        NEAR(blower->information_bit, 1 - after, 1e-12);
        NEAR(blower->per_hour, blower->information_bit / blower->trial->hours, 1e-12);
        for (std::size_t i = 1; i < ranked.size(); ++i)
            QVERIFY(ranked[i - 1].per_hour >= ranked[i].per_hour);
        // What was looked for already is not asked again; a charged engine's tests are not asked of another.
        for (const RankedTrial& t : rank_trials(w, {{Symptom::BlowerFalls, 0.9, "", ""}}, file))
            QVERIFY(t.trial->key != "log_blower");
        file.charged = false;
        for (const RankedTrial& t : rank_trials(w, {}, file))
            QVERIFY(!t.trial->charged_only);
    }

    void missing_evidence_is_named_and_counts_nothing() {
        CaseFile file;
        file.build = "intake";
        file.state = "r1";
        const Verdict v = judge(file);
        QVERIFY(v.missing.size() >= 4);
        CONTAINS(v.answer, "Nothing stops this train");
        NEAR(v.weighing.valve_train,
             weigh(v.evidence, {impossible_causes(file), just_changed(file)}).valve_train, 1e-12);
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
        rig.onset_rpm = 7000;
        rig.onset_metric = Metric::Bounce;
        file.rig = rig;
        bool below = false;
        for (const Evidence& e : evidence_of(file)) {
            QVERIFY(e.symptom != Symptom::SpringHelps);
            below |= e.symptom == Symptom::ModelBelow && e.seen > 0.9;
        }
        QVERIFY(below);
        file.rig->onset_rpm = 8950;
        bool helps = false;
        for (const Evidence& e : evidence_of(file))
            helps |= e.symptom == Symptom::SpringHelps && e.seen > 0.9 && e.relevance > 0.9;
        QVERIFY(helps);
    }

    // Seating and bounce that grow with the square of speed leave no trend: their limits tell.
    void a_rig_that_crosses_its_limits_gradually_is_evidence() {
        CaseFile file;
        RigFacts rig;
        rig.limit_rpm = 6900;
        rig.limit_metric = Metric::Bounce;
        file.rig = rig;
        QCOMPARE(question_speed(file).from, std::string("rig"));
        NEAR(*question_speed(file).rpm, 6900, 0);
        const auto seen = [&](Symptom symptom) {
            for (const Evidence& e : evidence_of(file))
                if (e.symptom == symptom)
                    return e.seen;
            return -1.0;
        };
        QVERIFY(seen(Symptom::RigLandsFirst) > 0.9);
        QVERIFY(seen(Symptom::RigLoftFirst) < 0.1);
        // With a dyno's break above it the run is no longer passed over, and breathing is not blamed.
        file.pulls = {pull_case(7600, 0.10), pull_case(7600, 0.10, 0, 2)};
        QVERIFY(seen(Symptom::RigNear) > 0.5);
        file.rig->limit_rpm.reset();
        file.rig->limit_metric.reset();
        QVERIFY(seen(Symptom::RigNear) < 0.1);
        file.rig->onset_rpm = 5000; // an onset comes before a limit that is crossed later
        file.rig->onset_metric = Metric::Loft;
        file.rig->limit_rpm = 5600;
        file.rig->limit_metric = Metric::Bounce;
        QVERIFY(seen(Symptom::RigLoftFirst) > 0.9);
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
        sort_outcomes(list, ChangeOrder::Gain);
        QCOMPARE(list[0].gain_rpm, 400.0);
        sort_outcomes(list, ChangeOrder::CostPerSpeed);
        QCOMPARE(list[0].gain_rpm, 100.0);
        sort_outcomes(list, ChangeOrder::Risk);
        QCOMPARE(list[2].gain_rpm, 300.0);
    }

    void pressed_stop_ends_the_search() {
        const Assembly assembly = starter();
        ChangeStudyQuery query;
        std::stop_source stop;
        stop.request_stop();
        query.stop = stop.get_token();
        QVERIFY_THROWS_EXCEPTION(
            Stopped,
            study_single_changes(assembly, possible_changes(Project{}, assembly, ValveSide::Intake), query));
    }

    // Whatever the table says, a cause whose every symptom shows as it predicts must come out first.
    void every_cause_comes_first_on_its_own_signs_data() {
        QTest::addColumn<int>("cause");
        for (std::size_t i = 0; i < kCauses; ++i)
            QTest::newRow(info(static_cast<Cause>(i)).key.data()) << static_cast<int>(i);
    }
    void every_cause_comes_first_on_its_own_signs() {
        QFETCH(int, cause);
        std::vector<Evidence> evidence;
        for (std::size_t s = 0; s < kSymptoms; ++s) {
            const double p = likelihood(static_cast<Symptom>(s), static_cast<Cause>(cause));
            if (p > 0.7 || p < 0.3)
                evidence.push_back({static_cast<Symptom>(s), p > 0.5 ? 0.95 : 0.05, "", ""});
        }
        const Weighing w = weigh(evidence);
        QCOMPARE(info(w.causes.front().cause).key, info(static_cast<Cause>(cause)).key);
    }

    void an_innocent_train_is_called_so_only_where_it_is() {
        CaseFile file;
        file.build = "intake";
        file.state = "r2";
        file.charged = true;
        file.pulls = {pull_case(9999, 0, 0.3)};
        auto& belt = file.pulls[0].tests[static_cast<std::size_t>(Confounder::BeltSlip)];
        belt.status = TestStatus::Seen;
        belt.seen = 0.98;
        belt.text = "the ratio falls";
        for (ConfounderTest& t : file.pulls[0].tests)
            if (t.status == TestStatus::NotLogged) {
                t.status = TestStatus::Clear;
                t.seen = 0.02;
            }
        const Verdict sure = judge(file);
        QVERIFY(sure.weighing.causes.front().cause == Cause::BeltSlip);
        CONTAINS(sure.answer, "the blower's belt slips");
        CONTAINS(sure.answer, "The valve train is innocent.");
        // A symptom that is hardly there, beside a rig that sees the valve land hard: not cleared.
        belt.seen = 0.55;
        RigFacts rig;
        rig.onset_rpm = 7600;
        rig.onset_metric = Metric::Bounce;
        file.rig = rig;
        const Verdict open = judge(file);
        if (!info(open.weighing.causes.front().cause).valve_train && open.weighing.valve_train > 0.15)
            CONTAINS(open.answer, "is not cleared");
        QVERIFY(open.weighing.valve_train > sure.weighing.valve_train);
    }

    void an_answer_that_is_not_settled_says_so() {
        CaseFile file;
        file.pulls = {pull_case(7400, 0.06)};
        const Verdict v = judge(file);
        QVERIFY(v.dyno_break);
        NEAR(*v.speed.rpm, 7400, 120);
        QVERIFY(v.weighing.causes.front().probability < 0.5); // one pull, nothing logged
        CONTAINS(v.answer, "Not settled");
        QVERIFY(v.missing.size() > kConfounders - 3);
    }

    void pulls_that_lose_nothing_raise_no_question() {
        CaseFile file = case_with_limit(8800);
        file.pulls = {pull_case(9999, 0), pull_case(9999, 0, 0, 2)};
        QVERIFY(!question_speed(file).rpm);
        const Verdict v = judge(file);
        CONTAINS(v.answer, "lose nothing up to 8580");
        CONTAINS(v.answer, "limit is 8800");
        file.pulls = {pull_case(9999, 0, 0.3)};
        QVERIFY(question_speed(file).rpm); // its peak lies behind it
    }

    void the_speed_in_question_is_the_dynos_then_the_rigs_then_the_models() {
        CaseFile file = case_with_limit(8800);
        QCOMPARE(question_speed(file).from, std::string("model"));
        file.rig = RigFacts{};
        file.rig->onset_rpm = 8000;
        QCOMPARE(*question_speed(file).rpm, 8000.0);
        file.pulls = {pull_case(7400, 0.06)};
        QCOMPARE(question_speed(file).from, std::string("dyno"));
        NEAR(*question_speed(file).rpm, 7400, 120);
    }

    void only_pulls_that_note_their_fuel_or_boost_are_a_trial() {
        CaseFile file;
        file.pulls = {pull_case(7400, 0.06, 0, 1), pull_case(7400, 0.06, 0, 2)};
        file.pulls[1].fuel = "102";
        QVERIFY(!found(file, Symptom::StaysWithBoost)); // what the first one burnt is unknown
        file.pulls[0].fuel = "98";
        const auto stays = found(file, Symptom::StaysWithBoost);
        QVERIFY(stays && stays->seen > 0.8);
        file.pulls[1] = pull_case(7900, 0.06, 0, 3);
        file.pulls[1].fuel = "102";
        QVERIFY(found(file, Symptom::StaysWithBoost)->seen < 0.2);
        file.pulls[0].fuel = file.pulls[1].fuel = "";
        file.pulls[0].boost_Pa = 40e3;
        file.pulls[1].boost_Pa = 60e3;
        QVERIFY(found(file, Symptom::StaysWithBoost)->seen < 0.2);
    }

    void the_state_before_tells_what_is_new() {
        CaseFile file;
        file.pulls = {pull_case(7300, 0.06)};
        file.pulls_before = {pull_case(9999, 0, 0, 4)};
        QVERIFY(found(file, Symptom::NewInThisState)->seen > 0.9);
        file.pulls_before = {pull_case(7300, 0.06, 0, 5)};
        QVERIFY(found(file, Symptom::NewInThisState)->seen < 0.3);
        QVERIFY(!found(file, Symptom::MovesWithTrain)); // no change is known
        file.changes = ChangeFacts{};
        file.changes->changes.push_back({PartKind::Spring, "spring", std::nullopt});
        QVERIFY(found(file, Symptom::MovesWithTrain)->seen < 0.2);
    }

    void the_rig_lends_its_edge_and_how_late_it_opens() {
        CaseFile file;
        file.pulls = {pull_case(7400, 0.06)};
        RigFacts rig;
        rig.onset_rpm = 7450;
        rig.half_step_rpm = 100;
        rig.onset_metric = Metric::Loft;
        for (double rpm = 3000; rpm <= 8000; rpm += 200) {
            Metrics m;
            m[Metric::OpeningShift] = 0.5 + 3.5 * std::pow((rpm - 3000) / 4200, 2);
            rig.rows.push_back({rpm, m});
        }
        file.rig = rig;
        QVERIFY(found(file, Symptom::RigNear)->seen > 0.9);
        QVERIFY(found(file, Symptom::RigLoftFirst)->seen > 0.9 &&
                found(file, Symptom::RigLandsFirst)->seen < 0.1);
        QVERIFY(found(file, Symptom::RigOpensLate)->seen > 0.9);
        file.rig->onset_rpm = 8600;
        for (SpeedMetrics& row : file.rig->rows)
            row.metrics[Metric::OpeningShift] = 0.5;
        QVERIFY(found(file, Symptom::RigNear)->seen < 0.1);
        QVERIFY(!found(file, Symptom::RigOpensLate) || found(file, Symptom::RigOpensLate)->seen < 0.1);
    }

    void a_hold_that_creeps_speaks_for_pump_up_and_a_still_one_only_where_something_was_to_be_seen() {
        CaseFile file;
        file.rig = RigFacts{};
        file.rig->onset_rpm = 7000;
        file.rig->onset_metric = Metric::Loft;
        QVERIFY(!found(file, Symptom::RigCreeps)); // nothing was held
        rig::HeldSpeed hold;
        hold.speed_rpm = 6000;
        hold.seconds = 8;
        file.rig->holds = {hold};
        QVERIFY(!found(file, Symptom::RigCreeps)); // below the onset: nothing to be seen there
        file.rig->holds.front().speed_rpm = 7100;
        QVERIFY(found(file, Symptom::RigCreeps)->seen < 0.1);
        file.rig->holds.push_back(hold);
        file.rig->holds.back().peak_m = {4e-6, 0.5e-6, 32e-6, 8, true};
        const auto creeps = found(file, Symptom::RigCreeps);
        QVERIFY(creeps->seen > 0.9);
        CONTAINS(creeps->text.in_words(),
                 "held at 6000 rev/min for 8 s it creeps: its highest lift by +4.0 um");
        QVERIFY(likelihood(Symptom::RigCreeps, Cause::PumpUp) >
                3 * likelihood(Symptom::RigCreeps, Cause::Surge));
    }

    void a_change_that_cannot_be_computed_says_nothing() {
        Assembly before = starter();
        const Assembly after = before;
        before.train.rocker->stiffness_N_per_m = 0; // a card that was never filled in
        FactsQuery query;
        query.range = {6000, 7000, 500};
        const ChangeFacts c = change_facts(before, after, 6500, query);
        bool rocker = false;
        for (const StateChange& change : c.changes)
            if (change.kind == PartKind::Rocker) {
                rocker = true;
                QVERIFY(!change.undone_gain_rpm); // not "gains up to the end of the range"
            }
        QVERIFY(rocker);
    }

    void a_step_starts_from_what_another_change_left() {
        const Assembly assembly = starter();
        const auto all = possible_changes(Project{}, assembly, ValveSide::Intake);
        const auto shim = std::find_if(all.begin(), all.end(),
                                       [](const TrainChange& c) { return c.label == "a 0.5 mm shim more"; });
        Assembly lowered = assembly; // a retainer with a deeper step, say
        lowered.train.installed_height_m -= 0.7e-3;
        NEAR(shim->apply(lowered).train.installed_height_m, assembly.train.installed_height_m - 1.2e-3,
             1e-12);
    }

    void a_change_reaches_a_target_or_does_not() {
        ChangeOutcome o;
        QVERIFY(!o.reaches(8000)); // nothing is known of it
        o.limit_rpm = 8000;
        QVERIFY(o.reaches(8000) && !o.reaches(8001));
        o.limit_rpm.reset();
        o.beyond_range = true;
        QVERIFY(o.reaches(9000));
        o.trouble = "cannot be";
        QVERIFY(!o.reaches(1));
    }
};

QTEST_APPLESS_MAIN(TstVerdict)
#include "tst_verdict.moc"
