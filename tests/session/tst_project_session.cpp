// What a person does with a project, without a window.
#include "io/project/project_folder.h"
#include "io/rig/rig_file.h"
#include "io/train/train_file.h"
#include "session/compare/revision_comparison.h"
#include "session/project/project_session.h"
#include "session/results/predictions.h"
#include "support.h"

#include <sqlite3.h>

using namespace bathmos;
using namespace bathmos::test;
using session::Event;
using session::ProjectSession;

namespace {

std::string text_of(sqlite3* db, const char* sql) {
    sqlite3_stmt* row = nullptr;
    sqlite3_prepare_v2(db, sql, -1, &row, nullptr);
    std::string out;
    if (sqlite3_step(row) == SQLITE_ROW && sqlite3_column_text(row, 0))
        out = reinterpret_cast<const char*>(sqlite3_column_text(row, 0));
    sqlite3_finalize(row);
    return out;
}

} // namespace

class TstProjectSession : public QObject {
    Q_OBJECT

    QTemporaryDir dir_;
    std::filesystem::path at(const char* name) { return dir_.filePath(QLatin1String(name)).toStdString(); }
    std::filesystem::path demo(const char* name) {
        std::filesystem::remove(at(name));
        io::import_project(source_file("demo/project"), at(name));
        return at(name);
    }

  private slots:
    void an_edit_is_a_revision_with_its_reason_and_is_told_in_order() {
        std::vector<Event> told;
        ProjectSession s({}, [&](Event event) { told.push_back(event); });
        s.set_new(starter_train());
        QVERIFY(!s.modified());
        told.clear();
        Train next = s.train();
        next.valve.mass_kg = 0.08;
        s.edit(next, "mass");
        QCOMPARE(told, (std::vector<Event>{Event::Train, Event::Records, Event::File}));
        QVERIFY(s.modified());
        QCOMPARE(s.shown(), Id{2});
        CONTAINS(s.project().revisions.at(2).reason, "Valve mass 90");
        told.clear();
        s.edit(s.train(), "nothing"); // no edit, no step, nobody told
        QVERIFY(told.empty());
        s.undo();
        QCOMPARE(s.shown(), Id{1});
        s.redo();
        NEAR(s.train().valve.mass_kg, 0.08, 1e-12);
        QVERIFY(s.redo_text().empty());
    }

    void edits_under_one_key_are_one_revision_and_one_step() {
        ProjectSession s;
        s.set_new(starter_train());
        Train next = s.train();
        const double before = next.valve.mass_kg;
        for (const double mass : {0.081, 0.082, 0.083}) {
            next.valve.mass_kg = mass;
            s.edit(next, "mass", "valve.mass_g");
        }
        QCOMPARE(s.project().revisions.size(), std::size_t{2});
        next.valve.mass_kg = before;
        s.edit(next, "mass", "valve.mass_g"); // back where it began
        QCOMPARE(s.project().revisions.size(), std::size_t{1});
        QVERIFY(s.undo_text().empty());
    }

    void an_edit_writes_its_revision_once() {
        const auto path = at("once.bathmos");
        ProjectSession s;
        s.set_new(starter_train());
        s.keep_as(path);
        Train next = s.train();
        next.valve.mass_kg = 0.0812345;
        s.edit(next, "mass");
        sqlite3* db = nullptr;
        QCOMPARE(sqlite3_open(path.c_str(), &db), SQLITE_OK);
        const auto holding = [&](const char* column) {
            return text_of(
                db,
                (std::string("SELECT count(*) FROM change WHERE ") + column + " LIKE '%81.2345%'").c_str());
        };
        QCOMPARE(text_of(db, "SELECT count(*) FROM revision WHERE body LIKE '%81.2345%'"), std::string("1"));
        QCOMPARE(holding("before"), std::string("0"));
        QCOMPARE(holding("after"), std::string("0"));
        s.undo(); // now the way back needs it
        QCOMPARE(text_of(db, "SELECT count(*) FROM revision WHERE body LIKE '%81.2345%'"), std::string("0"));
        QCOMPARE(holding("after"), std::string("1"));
        s.redo();
        NEAR(s.train().valve.mass_kg, 0.0812345, 1e-12);
        sqlite3_close(db);
    }

    void undo_of_the_first_step_never_empties_an_imported_project() {
        ProjectSession s;
        s.open(demo("imported.bathmos"));
        const std::size_t revisions = s.project().revisions.size();
        QVERIFY(revisions > 1 && s.undo_text().empty());
        s.undo();
        QCOMPARE(s.project().revisions.size(), revisions);
        s.name_revision(s.shown(), "looked at", "");
        s.undo();
        s.undo();
        QCOMPARE(s.project().revisions.size(), revisions);
    }

    void a_new_project_takes_neither_target_nor_range_nor_limits_of_the_former_one() {
        ProjectSession s;
        s.open(demo("former.bathmos"));
        NEAR(s.target_rpm(), 8600, 0);
        s.set_range({5000, 6000, 50});
        s.set_limits(find_named_limits("lofts on purpose")->set, "sprint");
        s.set_new(starter_train());
        NEAR(s.target_rpm(), 0, 0);
        NEAR(s.range().first_rpm, 3000, 0);
        QCOMPARE(s.limits().name, std::string("usual"));
        s.set_target(7000);
        s.set_new(starter_train());
        NEAR(s.target_rpm(), 0, 0);
    }

    void limits_belong_to_the_project_and_age_its_results() {
        ProjectSession s;
        s.open(demo("limits.bathmos"));
        const session::SweepInputs before = s.sweep_inputs();
        const auto number = s.number();
        Prediction made;
        made.revision = s.shown();
        made.hash = session::hash_of(before);
        s.note_prediction(made);
        QVERIFY(s.current(*s.prediction_of(s.shown())));
        s.set_limits(find_named_limits("no bounce that can be seen")->set, "endurance seats");
        QVERIFY(s.number() > number);
        QVERIFY(!s.current(*s.prediction_of(s.shown())));
        QVERIFY(session::hash_of(before) != session::hash_of(s.sweep_inputs()));
        NEAR(s.limits().find("bounce")->above, 0.05, 1e-12);
        QCOMPARE(s.limit_set().reason, std::string("endurance seats"));
        const auto path = s.path();
        ProjectSession again;
        s.set_new(starter_train()); // lets go of the file
        again.open(path);
        QCOMPARE(again.limits().name, std::string("no bounce that can be seen"));
        again.undo();
        QCOMPARE(again.limits().name, std::string("usual"));
        LimitSet none;
        CONTAINS(problem_of([&] { again.set_limits(none, "why"); }).what, "no limit");
        QCOMPARE(again.limits().name, std::string("usual"));
    }

    void the_same_inputs_have_the_same_hash_and_no_others() {
        const session::SweepInputs a{starter_train(), {3000, 9000, 100}, {}};
        session::SweepInputs b = a;
        QCOMPARE(session::hash_of(a), session::hash_of(b));
        b.range.last_rpm = 9100;
        QVERIFY(session::hash_of(a) != session::hash_of(b));
        b = a;
        b.train.valve.mass_kg += 1e-6;
        QVERIFY(session::hash_of(a) != session::hash_of(b));
        b = a;
        b.limits.check_lift_m = 1e-3;
        QVERIFY(session::hash_of(a) != session::hash_of(b));
        RigTrace trace{"a.csv", "", {0, 1, 2}, {0, 1, 0}, {{6000, 0, 3, true}}, false};
        const std::string first = session::hash_of(trace, a.train, false, a.limits);
        trace.lift_mm[1] = 1.0001F;
        QVERIFY(first != session::hash_of(trace, a.train, false, a.limits));
    }

    void a_read_only_project_refuses_edits_and_stays_as_it_is() {
        const auto path = demo("twice.bathmos");
        ProjectSession first, second;
        first.open(path);
        second.open(path);
        QVERIFY(!second.read_only_why().empty());
        Train next = second.train();
        next.valve.mass_kg = 0.05;
        CONTAINS(problem_of([&] { second.edit(next, "mass"); }).what, "open elsewhere");
        QVERIFY(second.train() == first.train());
        QVERIFY(second.undo_text().empty());
    }

    void runs_and_pulls_are_kept_the_same_way_whoever_keeps_them() {
        ProjectSession s;
        s.set_new(starter_train());
        const io::PackedTrace trace = io::packed(io::trace_of({"run.csv", "", {0, 1}, {0, 1}, {}, false}));
        s.add_rig_run("run.csv", trace, true);
        const Entry& run = s.project().of(EntryKind::RigRun).at(1);
        QVERIFY(run.numbers.contains("reversed") && run.revision == s.shown() &&
                s.project().frozen(s.shown()));
        io::Store store = io::Store::create({});
        CONTAINS(problem_of([&] { session::keep_rig_run(store, {"x", 7, false}, trace); }).what, "not there");
        QVERIFY(store.traces().empty()); // refused before anything was written
    }

    void revisions_are_compared_with_what_they_do() {
        ProjectSession s;
        s.open(demo("compare.bathmos"));
        const auto both = session::compare_revisions(s.project(), 1, 2);
        QVERIFY(!both.differences.empty());
        bool stiffness = false;
        for (const Difference& d : both.effects)
            stiffness = stiffness || (d.key == "stiffness" && *d.after < *d.before);
        QVERIFY(stiffness);
        QCOMPARE(session::set_against(s.project(), 2, 0), Id{1});
        QCOMPARE(session::set_against(s.project(), 2, 3), Id{3});
        CONTAINS(problem_of([&] { session::compare_revisions(s.project(), 1, 99); }).what, "99 is not there");
    }

    void a_project_whose_limits_cannot_be_judged_by_is_refused() {
        const auto path = demo("bad-limits.bathmos");
        {
            io::Store store = io::Store::open(path);
            Project next;
            next.limits[9] = {"odd", {{"loft", 0.2, {}}, {"loft", 0.3, {}}}};
            store.note({{io::RecordKind::LimitSet, 9, io::record_text(next, io::RecordKind::LimitSet, 9)}});
        }
        ProjectSession s;
        s.set_new(starter_train());
        CONTAINS(problem_of([&] { s.open(path); }).what, "twice");
        QVERIFY(s.draft()); // what was open stays open
    }
};

QTEST_APPLESS_MAIN(TstProjectSession)
#include "tst_project_session.moc"
