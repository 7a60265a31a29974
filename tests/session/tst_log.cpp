// The record: one time line of everything, found by words, part and build; what is added by hand; how old the
// parts are by it, with loads from the tester and wires by the model.
#include "io/life/use_file.h"
#include "io/project/project_folder.h"
#include "io/sheet/sheet_draft.h"
#include "session/log/log_json.h"
#include "session/plan/campaign_record.h"
#include "session/project/keeping.h"
#include "session/project/revision_judgement.h"
#include "support.h"

#include <QElapsedTimer>
#include <QTemporaryDir>
#include <algorithm>
#include <fstream>
#include <nlohmann/json.hpp>

using namespace bathmos;
using namespace bathmos::test;
using namespace bathmos::session;

namespace {

Project demo() {
    QTemporaryDir folder;
    const std::filesystem::path path = folder.filePath("demo.bathmos").toStdString();
    io::import_project(source_file("demo/project"), path);
    return io::Store::open(path).project();
}
const AgedPart& aged(const PartAges& ages, const std::string& name) {
    for (const AgedPart& one : ages.parts)
        if (contains(one.name + " " + one.serial, name))
            return one;
    throw std::runtime_error("no age of " + name);
}
LogNote note(const std::string& title, const std::string& when = {}) {
    LogNote out;
    out.title = title;
    out.when = when;
    return out;
}
std::string titles(const Log& log, const LogFilter& filter) {
    std::string out;
    for (const std::size_t i : log.find(filter))
        out += log.lines()[i].title + "|";
    return out;
}

} // namespace

class TstLog : public QObject {
    Q_OBJECT

  private slots:
    void everything_stands_on_one_line_of_time_the_newest_first() {
        const Project project = demo();
        const std::vector<LogLine> lines = time_line(project);
        std::size_t records = project.revisions.size();
        for (const auto& of_kind : project.entries)
            records += of_kind.size();
        QVERIFY(lines.size() >= records); // limits too, where they say when
        QVERIFY(std::ranges::is_sorted(lines, std::greater<>(), &LogLine::when));
        const auto winter = std::ranges::find(lines, "winter", &LogLine::title);
        QVERIFY(winter != lines.end() && winter->kind == LineKind::Revision);
        CONTAINS(winter->text, "thin-wall pushrods");
        CONTAINS(winter->text, "mm"); // what changed, in numbers
        CONTAINS(winter->where, "A22 intake r2");
    }

    void a_campaign_names_what_is_near_its_end() {
        Project project = demo();
        plan::Campaign campaign;
        campaign.factors = {{"spring", 1, {"Dual spring 640 pair 11", "Dual spring 640 pair 14"}, {}}};
        const auto said = [&] {
            std::string out;
            for (const Told& one : worn_parts(project, campaign))
                out += one.text.in_words() + "|";
            return out;
        };
        QCOMPARE(said(), std::string("Dual spring 640 pair 14 has used 88 % of its life|"));
        for (auto& [id, part] : project.parts) // nobody says how long it lasts
            part.facts.numbers.erase("rated_cycles");
        QCOMPARE(said(), std::string()); // the locks are due, but none of them is tried
    }

    void a_combination_costs_what_its_new_parts_do_and_is_as_old_as_its_oldest() {
        Project project = demo();
        plan::Campaign campaign;
        campaign.factors = {{"spring", 1, {"Dual spring 640 pair 11", "Dual spring 640 pair 14"}, {}},
                            {"pushrod", 1, {"as it is", "no such rod"}, {}}};
        campaign.baseline = campaign.mounted = {0, 0};
        for (auto& [id, part] : project.parts)
            if (part.kind == PartKind::Spring)
                part.cost = part.serial == "pair 14" ? 240.0 : 310.0;
        const LevelPrices prices(project, campaign);
        const CombinationPrice as_it_is = prices.of({0, 0}), worn = prices.of({1, 0}),
                               unknown = prices.of({1, 1});
        NEAR(*as_it_is.cost, 0, 1e-12); // what is fitted is not bought
        NEAR(*worn.cost, 240, 1e-12);
        NEAR(worn.used, 0.88, 0.005);
        QCOMPARE(worn.oldest, std::string("Dual spring 640 pair 14"));
        QVERIFY(!unknown.cost); // of one nobody says what it costs
        QVERIFY(as_it_is.used < worn.used);
    }

    void words_kinds_builds_and_parts_find_their_lines() {
        const Project project = demo();
        const Log log(project);
        QCOMPARE(titles(log, {.words = "missed gear"}), std::string("Cold Beck|"));
        QCOMPARE(titles(log, {.words = "MISS gea"}), std::string("Cold Beck|")); // beginnings, any case
        QCOMPARE(titles(log, {.words = "missed unicorn"}), std::string());
        QCOMPARE(log.find({.words = "\"; DROP TABLE line; --"}).size(), std::size_t(0));
        QCOMPARE(log.find({.words = " * ( "}).size(), log.lines().size()); // no word at all
        QVERIFY(log.find({.kinds = {LineKind::Use}}).size() >= 10);
        for (const std::size_t i : log.find({.build = 3}))
            QCOMPARE(log.lines()[i].build, Id(3));
        // The locks: revisions that brought them, what ran with them, and how they failed.
        const std::string locks = titles(log, {.part = 11});
        CONTAINS(locks, "marked|");
        CONTAINS(locks, "last season|");
        CONTAINS(locks, "Long Drove|");
        QVERIFY(!contains(locks, "winter|")); // they stayed in
        // The thin rods came in the winter: what ran before is none of theirs.
        const std::string rods = titles(log, {.part = 4});
        CONTAINS(rods, "winter|");
        QVERIFY(!contains(rods, "Long Drove, last"));
    }

    void what_is_added_says_what_it_lacks() {
        const Project project = demo();
        const auto refused = [&](const LogNote& n) {
            return QString::fromStdString(problem_of([&] { log_entry(n, project); }).location);
        };
        QCOMPARE(refused(note("")), "text");
        QCOMPARE(refused(note("x", "yesterday")), "when");
        LogNote n = note("ran");
        n.kind = LineKind::Use;
        QCOMPARE(refused(n), "use");
        n.use.add(6000, 60);
        QCOMPARE(refused(n), "revision");
        n.revision = 99;
        QCOMPARE(refused(n), "revision");
        n.revision = 2;
        n.runs = -1;
        QCOMPARE(refused(n), "runs");
        n.runs = 3;
        const Entry use = log_entry(n, project);
        QCOMPARE(use.numbers.at("runs"), 3.0);
        QVERIFY(line_kind_of(use) == LineKind::Use && !use.when.empty());
        LogNote failure = note("");
        failure.kind = LineKind::Failure;
        failure.mode = "evaporated";
        QCOMPARE(refused(failure), "mode");
        failure.mode = "worn";
        QCOMPARE(refused(failure), "part");
        failure.part = 11;
        QCOMPARE(refused(failure), "revision");
        failure.revision = 4; // of the other engine, which has none of these
        QCOMPARE(refused(failure), "part");
        failure.revision = 2;
        CONTAINS(log_entry(failure, project).name, "Locks");
        failure.kind = LineKind::Revision;
        QCOMPARE(refused(failure), "kind");
    }

    void a_season_ages_the_parts_that_were_in_the_engine() {
        const Project project = demo();
        const PartAges ages = part_ages(project, *life::day_of("2026-04-20"));
        double runs = 0, cycles = 0;
        for (const auto& [id, entry] : project.of(EntryKind::Log))
            if (const auto use = life::use_in(entry)) {
                runs += use->runs;
                cycles += use->use.cycles();
            }
        const AgedPart& locks = aged(ages, "Locks");
        QCOMPARE(locks.life.runs, runs); // of intake and exhaust, and once all the same
        QCOMPARE(locks.failures, std::size_t(1));
        const AgedPart& spring = aged(ages, "Dual spring 640 pair 11");
        NEAR(spring.life.cycles, 11.2e6 + cycles, 1);
        NEAR(spring.life.claims.front().used, spring.life.cycles / 30e6, 1e-9);
        const AgedPart& rods = aged(ages, "thin wall");
        QCOMPARE(rods.life.runs, 19.0); // since the winter
        // The most urgent stands first.
        QVERIFY(std::ranges::is_sorted(ages.parts, std::greater<>(), [](const AgedPart& one) {
            return one.life.claims.empty() ? -1.0 : one.life.claims.front().used;
        }));
        const auto json = nlohmann::json::parse(ages_json(ages));
        QCOMPARE(json["parts"].size(), ages.parts.size());
        QCOMPARE(json["parts"][0]["claims"][0]["estimated"].get<bool>(), false);
    }

    void wires_are_counted_by_the_model_of_each_revision() {
        const Project project = demo();
        const life::UseByPart use = life::use_by_part(project);
        double told = 0;
        const FatigueByRevision fatigue =
            fatigue_by_revision(project, use, [&](double share) { told = share; });
        QCOMPARE(told, 1.0);
        QVERIFY(fatigue.contains(1) && fatigue.contains(2));
        const PartAges ages = part_ages(project, *life::day_of("2026-04-20"), &fatigue);
        const auto& claims = aged(ages, "Dual spring 640 pair 11").life.claims;
        const auto wire = std::ranges::find(claims, life::LifeRule::Wire, &life::LifeClaim::rule);
        QVERIFY(wire != claims.end() && wire->estimated);
        double expected = 0; // by hand: each use by its own revision's worst spring
        for (const life::DatedUse& one : use.parts.at(12)) {
            double worst = 0;
            for (const life::SpringFatigue& spring : fatigue.at(one.revision))
                worst = std::max(worst, spring.share(one.use));
            expected += worst;
        }
        NEAR(wire->used, expected, 1e-12);
    }

    void the_model_is_asked_anew_where_a_train_or_its_use_is_another() {
        Project project = demo();
        const auto asked = [&] { return fatigue_asked(project, life::use_by_part(project)); };
        const std::string before = asked();
        QCOMPARE(asked(), before);
        project.of(EntryKind::Log)[900] = log_entry(note("seen"), project);
        QCOMPARE(asked(), before); // a note turns nothing
        project.revisions.at(2).assembly.train.installed_height_m -= 1e-4;
        const std::string lower = asked();
        QVERIFY(lower != before);
        project.revisions.at(2).assembly.parts.at(PartKind::Spring).facts.words["wire"] = "music";
        QVERIFY(asked() != lower);
        QVERIFY(fatigue_asked(Project(), {}).empty());
    }

    void cycles_beyond_the_computed_limit_are_counted() {
        Project project = demo();
        project.predictions.clear();
        QCOMPARE(aged(part_ages(project, 20'600), "pair 11").over_limit, 0.0); // nobody computed one
        Prediction made;
        made.revision = 2;
        made.limit_rpm = 7400;
        project.predictions[1] = made;
        double expected = 0;
        const life::UseByPart all = life::use_by_part(project);
        for (const life::DatedUse& use : all.parts.at(12))
            if (use.revision == 2)
                expected += use.use.cycles_above(7400);
        QVERIFY(expected > 0); // the missed gear
        NEAR(aged(part_ages(project, 20'600), "pair 11").over_limit, expected, 1e-6);
        CONTAINS(ages_json(part_ages(project, 20'600)), "over_limit_cycles");
    }

    void a_pull_s_time_counts_where_its_file_says_it() {
        QTemporaryDir folder;
        std::string text = "time_s,rpm,torque_Nm\n";
        for (int i = 0; i <= 80; ++i) // 10 s from 4000 to 8000
            text += std::to_string(i * 0.125) + "," + std::to_string(4000 + 50 * i) + ",210\n";
        const auto path = write_test_file(folder.filePath("timed.pull.csv"), QByteArray::fromStdString(text));
        std::vector<NotedPull> pulls = {{}};
        note_use(pulls, path);
        const auto use = life::use_in(pulls.front().entry);
        QVERIFY(use);
        NEAR(use->use.cycles(), 10 * 6000.0 / 120, 0.5);
        QCOMPARE(use->runs, 0.0); // no run from start to stop
        pulls = {{}};
        note_use(pulls, source_file("demo/ashgill-a22-after-1.pull.csv")); // speeds alone
        QVERIFY(pulls.front().entry.numbers.empty());
    }

    void a_record_that_cannot_be_read_leaves_the_log_usable() {
        Project project = demo();
        Entry& bad = project.of(EntryKind::Log)[900];
        bad.name = "odd";
        bad.revision = 2;
        bad.words["kind"] = "use";
        bad.numbers = {{"s_at_1e9", 3}, {"part", 1e300}};
        const Log log(project);
        QCOMPARE(titles(log, {.words = "odd"}), std::string("odd|"));
        QCOMPARE(part_ages(project, 20'000).silent, std::size_t(1));
    }

    void a_spring_by_its_loads_has_no_wire_to_count() {
        Project project = demo();
        for (auto& [id, revision] : project.revisions)
            for (Spring& spring : revision.assembly.train.springs)
                spring.kind = LoadTable{{0.028, 0.045}, {1500, 600}, 0.05, 0.026, 0.01};
        const FatigueByRevision fatigue = fatigue_by_revision(project, life::use_by_part(project));
        for (const AgedPart& part : part_ages(project, 20'600, &fatigue).parts)
            QVERIFY(std::ranges::none_of(part.life.claims, [](const life::LifeClaim& claim) {
                return claim.rule == life::LifeRule::Wire;
            }));
    }

    void loads_of_the_tester_and_lash_readings_drift() {
        Project project = demo();
        std::vector<life::DatedUse> use = life::use_by_part(project).parts.at(12);
        const auto add_set = [&](const std::string& when, double load_N) {
            bench::SheetDraft draft;
            draft.kind = "spring_set";
            draft.fields["seat_height_mm"] = {0.048};
            draft.rows = {{"5", {{load_N}, {1500}}, false}, {"6", {{load_N + 10}, {1500}}, false}};
            Entry sheet;
            sheet.name = "set";
            sheet.revision = 2;
            sheet.when = when;
            sheet.words["kind"] = "spring_set";
            sheet.words["sheet"] = io::kept_text(draft);
            project.of(EntryKind::Sheet)[Id(100 + project.of(EntryKind::Sheet).size())] = sheet;
        };
        add_set("2026-03-01", 600);
        add_set("2026-04-15", 585);
        const auto loads = loads_of(project, 12, use);
        QCOMPARE(loads.size(), std::size_t(2));
        NEAR(loads[0].load_N, 605, 1e-9);
        NEAR(loads[1].load_N, 590, 1e-9);
        QVERIFY(loads[1].cycles > loads[0].cycles + 100'000);
        // Nearly 5 % gone: the fitted spring is a finding, whatever it is rated for.
        const auto tired = [&] {
            const PartRecord record = part_record(project);
            std::string out;
            for (const FoundFit& found :
                 judge_revision(project, 2, facts_of(project.revisions.at(2).assembly.train), nullptr,
                                nullptr, &record)
                     .findings)
                if (found.finding.rule == "spring_life")
                    out += told(found.finding).in_words() + "|";
            return out;
        };
        QVERIFY(!contains(tired(), "load lost"));
        add_set("2026-04-16", 545);
        CONTAINS(tired(), "load lost");
        const auto lash = [&](const std::string& when, double mm) {
            Entry sheet;
            sheet.name = "lash";
            sheet.revision = 2;
            sheet.when = when;
            sheet.numbers["lash_mm"] = mm;
            project.of(EntryKind::Sheet)[Id(200 + project.of(EntryKind::Sheet).size())] = sheet;
        };
        QVERIFY(!lash_trend(project, 1)); // one sheet says nothing of a trend
        lash("2026-03-15", 0.29);
        lash("2026-03-29", 0.27);
        lash("2026-04-12", 0.25);
        const auto trend = lash_trend(project, 1);
        QVERIFY(trend.has_value());
        QVERIFY(trend->trend.per_unit < 0);
        QCOMPARE(trend->lash_m.size(), std::size_t(4));
    }

    void a_kept_rig_run_says_what_it_cost() {
        QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("demo.bathmos").toStdString();
        io::import_project(source_file("demo/project"), path);
        io::Store store = io::Store::open(path);
        RigTrace trace;
        trace.source = "made up";
        for (int i = 0; i < 60; ++i) {
            trace.turns.push_back({6000, trace.lift_mm.size(), 4, i > 0});
            for (int k = 0; k < 4; ++k) {
                trace.crank_deg.push_back(float(180 * k));
                trace.lift_mm.push_back(float(k));
            }
        }
        const Id id = keep_rig_run(store, {"made up", 2, false}, io::packed(io::trace_of(trace)));
        const auto use = life::use_in(store.project().of(EntryKind::RigRun).at(id));
        QVERIFY(use.has_value());
        NEAR(use->use.cycles(), 60, 1e-6); // a turn of the cam each
        NEAR(use->use.seconds(), 1.2, 1e-6);
        trace.once_per_crank_turn = true;
        const Id half = keep_rig_run(store, {"made up", 2, false}, io::packed(io::trace_of(trace)));
        NEAR(life::use_in(store.project().of(EntryKind::RigRun).at(half))->use.cycles(), 30, 1e-6);
        const Id dated =
            keep_rig_run(store, {"of spring", 2, false, "2026-04-16"}, io::packed(io::trace_of(trace)));
        QCOMPARE(store.project().of(EntryKind::RigRun).at(dated).when, std::string("2026-04-16"));
        CONTAINS(problem_of([&] {
                     keep_rig_run(store, {"x", 2, false, "soon"}, io::packed(io::trace_of(trace)));
                 }).what,
                 "no date");
        const Id line = keep_log_entry(store, log_entry(note("Seen"), store.project()));
        QCOMPARE(store.project().of(EntryKind::Log).at(line).name, std::string("Seen"));
        Entry of_none;
        of_none.revision = 77;
        CONTAINS(problem_of([&] { keep_log_entry(store, of_none); }).what, "77 is not there");
    }

    void a_logger_s_columns_are_found_by_their_names() {
        QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("log.csv").toStdString();
        const auto cycles = [&](const std::string& text) {
            std::ofstream(path) << text;
            return io::read_use(path).use.cycles();
        };
        NEAR(cycles("time_s,rpm\n0,6000\n1,6000\n2,6000\n"), 100, 1e-9);
        NEAR(cycles("Engine Speed [1/min];oil;Time (ms)\n6000;90;0\n6000;90;1000\n6000;90;2000\n"), 100,
             1e-9);
        NEAR(cycles("t;n\n0;6000,0\n1,5;6000,0\n2;6000,0\n"), 100, 1e-9);
        NEAR(cycles("0 6000\n1 6000\n2 6000\n"), 100, 1e-9);
        NEAR(cycles("time_s,rpm\n0,6000\n1,\n2,6000\n"), 100, 1e-9); // one left out, no gap
        NEAR(cycles("time_s,rpm\n0,6000\n1,-1\n2,6000\n"), 100, 1e-9);
        const auto refused = [&](const std::string& text) {
            std::ofstream(path) << text;
            return problem_of([&] { io::read_use(path); });
        };
        CONTAINS(refused("time_s,rpm\n0,6000\n2,6000\n1,6000\n").what, "comes after");
        QCOMPARE(refused("time_s,rpm\n0,6000\n2,6000\n1,6000\n").location, std::string("line 4"));
        CONTAINS(refused("time_s\n0\n1\n").what, "two or more");
        CONTAINS(refused("time_s,rpm\n0,fast\n1,2\n").source + refused("time_s,rpm\n0,1\n1,fast\n").what,
                 "fast");
        QVERIFY(!refused("").source.empty());
    }

    void of_ten_years_of_lines_those_that_hold_the_words_are_found() {
        Project project = demo();
        for (Id i = 0; i < 5000; ++i) {
            Entry entry;
            entry.name = "Line " + std::to_string(i);
            entry.text = i % 100 ? "nothing to tell, run as planned" : "a rocker stud was found loose";
            entry.when = "2020-01-01T00:00:00Z";
            entry.revision = 1;
            entry.numbers["s_at_6000"] = 60;
            entry.words["kind"] = "use";
            project.of(EntryKind::Log)[1000 + i] = entry;
        }
        const Log log(project);
        QCOMPARE(log.find({.words = "stud loo"}).size(), std::size_t(50));
        QCOMPARE(log.find({.kinds = {LineKind::Use}, .words = "line 77"}).size(),
                 std::size_t(11)); // 77 and 770 to 779
    }
};

QTEST_GUILESS_MAIN(TstLog)
#include "tst_log.moc"
