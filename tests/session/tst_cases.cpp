// Case files made of a project: which pulls, which state before, one sweep and one reduction for all who ask.
#include "io/dyno/pull_file.h"
#include "io/rig/rig_file.h"
#include "io/train/train_file.h"
#include "io/verdict/verdict_json.h"
#include "session/cases/change_study.h"
#include "session/dyno/pull_states.h"
#include "session/project/keeping.h"
#include "session/results/sweep_range.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

namespace {

Id keep(io::Store& store, const Pull& pull, Id revision, const std::string& changed = "") {
    return session::keep_pulls(store, "pull.csv", {session::noted(pull, {revision, "", changed, "", {}})})
        .front();
}

// One build whose first revision carries this train.
io::Store store_with(const std::string& train_file) {
    Project next;
    next.builds[1] = {"intake", 0, ValveSide::Intake, 0, 1, ""};
    next.revisions[1] = {1, 0, "", "", "2026-01-01T00:00:00Z", {}};
    next.revisions[1].assembly.train = io::read_train(source_file(train_file));
    io::Store out = io::Store::create("");
    out.note({{io::RecordKind::Build, 1, io::record_text(next, io::RecordKind::Build, 1)},
              {io::RecordKind::Revision, 1, io::record_text(next, io::RecordKind::Revision, 1)}});
    return out;
}

} // namespace

class TstCases : public QObject {
    Q_OBJECT

  private slots:
    void a_case_takes_this_state_and_the_last_good_one() {
        io::Store store = io::Store::create("");
        Project next = store.project();
        const Train train = io::read_train(source_file("demo/ashgill-a22-intake-after.train.json"));
        next.builds[1] = {"intake", 0, ValveSide::Intake, 0, 3, ""};
        for (Id id = 1; id <= 3; ++id) {
            next.revisions[id] = {1, id - 1, "", "", "2026-01-01T00:00:00Z", {}};
            next.revisions[id].assembly.train = train;
        }
        std::vector<io::RecordChange> changes = {
            {io::RecordKind::Build, 1, io::record_text(next, io::RecordKind::Build, 1)}};
        for (Id id = 1; id <= 3; ++id)
            changes.push_back(
                {io::RecordKind::Revision, id, io::record_text(next, io::RecordKind::Revision, id)});
        store.commit("build", "", changes);
        const Pull pull = io::read_pulls(source_file("demo/ashgill-a22-after-1.pull.csv")).front();
        const auto gathered = [&](Id revision) {
            return session::gather_case(store.project(), revision, [&](Id id) { return store.trace(id); });
        };
        QVERIFY(gathered(3).pulls.empty() && gathered(3).before == 2);
        const Id old = keep(store, pull, 1), now = keep(store, pull, 3);
        QCOMPARE(gathered(3).pulls, std::vector<Id>{now});
        QCOMPARE(gathered(3).pulls_before, std::vector<Id>{old});
        QCOMPARE(gathered(3).before, Id{1}); // revision 2 was never pulled
        const Id pulley = keep(store, pull, 3, "smaller pulley");
        QCOMPARE(gathered(3).pulls, std::vector<Id>{pulley});
        QCOMPARE(gathered(3).pulls_before, std::vector<Id>{now});
        QCOMPARE(gathered(3).before, Id{3}); // the surroundings changed, the train did not
        QCOMPARE(gathered(3).traces.size(), std::size_t{2});
        CONTAINS(problem_of([&] { gathered(9); }).what, "is not there");
        // Words of an entry come back from the file's text.
        Project copy;
        io::put_record(copy, io::RecordKind::DynoPull, pulley,
                       io::record_text(store.project(), io::RecordKind::DynoPull, pulley));
        QVERIFY(copy.of(EntryKind::DynoPull).at(pulley) ==
                store.project().of(EntryKind::DynoPull).at(pulley));
    }

    // Three revisions of which the middle one breaks: the last says by its parts whose doing it was.
    void a_case_hears_of_the_states_that_came_after() {
        io::Store store = store_with("demo/ashgill-a22-intake-before.train.json");
        Project next = store.project();
        std::vector<io::RecordChange> changes;
        for (Id id = 2; id <= 4; ++id) {
            next.revisions[id] = {1, id - 1, "", "", "2026-01-02T00:00:00Z", {}};
            next.revisions[id].assembly.train =
                io::read_train(source_file(id == 2 ? "demo/ashgill-a22-intake-after.train.json"
                                                   : "demo/ashgill-a22-intake-before.train.json"));
            changes.push_back(
                {io::RecordKind::Revision, id, io::record_text(next, io::RecordKind::Revision, id)});
        }
        store.commit("revisions", "", changes);
        const auto pull = [](const char* file) { return io::read_pulls(source_file(file)).front(); };
        keep(store, pull("demo/ashgill-a22-before-1.pull.csv"), 1);
        keep(store, pull("demo/ashgill-a22-after-1.pull.csv"), 2);
        const Id last = keep(store, pull("demo/ashgill-a22-before-2.pull.csv"), 4);
        const session::CaseInput input =
            session::gather_case(store.project(), 2, [&](Id id) { return store.trace(id); });
        QCOMPARE(input.pulls_later, (std::map<Id, std::vector<Id>>{{4, {last}}})); // r3 was never pulled
        session::Results results;
        const CaseFile file = session::open_case(input, results);
        QCOMPARE(file.later.size(), std::size_t{1});
        QVERIFY(file.later[0].groups.contains(TrainGroup::Link) && !file.later[0].around);
        std::string said;
        for (const Evidence& e : evidence_of(file))
            said += e.link == "dyno/states" ? e.text.in_words() : "";
        CONTAINS(said, "the break goes with r4");
    }

    void an_opened_case_knows_whether_the_engine_is_charged() {
        io::Store store = store_with("demo/ashgill-a22-intake-before.train.json");
        session::Results results;
        const auto opened = [&] {
            session::CaseInput input =
                session::gather_case(store.project(), 1, [&](Id id) { return store.trace(id); });
            input.range = {7000, 9400, 400}; // seconds, not minutes
            return session::open_case(input, results);
        };
        const CaseFile bare = opened();
        QVERIFY(!bare.charged && bare.pulls.empty() && bare.model && bare.model->limit_rpm);
        Pull pull = io::read_pulls(source_file("demo/ashgill-a22-before-1.pull.csv")).front();
        keep(store, pull, 1);
        QVERIFY(opened().charged == false); // its manifold was logged
        for (double& value : pull[PullChannel::Manifold])
            value += 60e3;
        keep(store, pull, 1, "blower fitted");
        const CaseFile blown = opened();
        QVERIFY(blown.charged == true && blown.pulls.size() == 1 && blown.pulls_before.size() == 1);
        QVERIFY(blown.changes && blown.changes->nothing_in_the_train());
        // Its boost stands on the intake valve's head, in the model too; an exhaust valve's knows nothing of
        // it.
        QVERIFY(blown.model->head_Pa);
        NEAR(*blown.model->head_Pa, 60e3, 6e3);
        QVERIFY(*blown.model->limit_rpm < *bare.model->limit_rpm - 30);
        QVERIFY(blown.changes->boost && !bare.model->head_Pa);
        session::CaseInput exhaust =
            session::gather_case(store.project(), 1, [&](Id id) { return store.trace(id); });
        exhaust.range = {7000, 9400, 400};
        exhaust.project.builds[1].side = ValveSide::Exhaust;
        QVERIFY(!session::open_case(exhaust, results).model->head_Pa);
        // As text: every number that the verdict holds is there.
        const Verdict v = judge(blown);
        const std::string json = io::verdict_json(blown, v);
        for (const char* key :
             {"\"answer\"", "\"causes\"", "\"next\"", "\"missing\"", "\"model_limit_rpm\"", "\"advice\""})
            CONTAINS(json, key);
    }

    void corrected_and_uncorrected_pulls_of_a_state_are_refused() {
        Project next = store_with("demo/ashgill-a22-intake-before.train.json").project();
        const Pull pull = io::read_pulls(source_file("demo/ashgill-a22-before-1.pull.csv")).front();
        session::Results results;
        session::CaseInput input;
        for (Id id = 1; id <= 2; ++id) {
            Entry& entry = next.of(EntryKind::DynoPull)[id];
            entry = {"pull", 1, "2026-01-01T00:00:00Z", "", "", {}, {}, {id}, {}};
            if (id == 2)
                entry.numbers["corrected"] = 1;
            input.traces[id] = io::packed(io::trace_of(pull));
        }
        input.project = next;
        input.revision = 1;
        input.pulls = {1, 2};
        CONTAINS(problem_of([&] { session::open_case(input, results); }).what, "corrected");
    }

    void states_stand_in_the_order_they_were_pulled() {
        Project project;
        for (Id id = 1; id <= 4; ++id) {
            Entry& entry = project.of(EntryKind::DynoPull)[id];
            entry.revision = 7;
            entry.traces = {id};
            if (id == 2 || id == 4)
                entry.words["changed"] = "smaller pulley";
        }
        const auto states = session::pull_states(project, 7);
        QCOMPARE(states.size(), std::size_t{2});
        QCOMPARE(states[0].pulls, (std::vector<Id>{1, 3}));
        QCOMPARE(states[1].changed, std::string("smaller pulley"));
        QVERIFY(session::pull_states(project, 8).empty());
    }

    void the_verdict_is_made_of_the_very_sweep_that_the_strip_shows() {
        io::Store store = store_with("demo/ashgill-a22-intake-before.train.json");
        session::Results results;
        session::CaseInput input =
            session::gather_case(store.project(), 1, [&](Id id) { return store.trace(id); });
        input.range = {7000, 9400, 400};
        const auto strip =
            results.sweep({store.project().revisions.at(1).assembly.train, input.range, input.limits});
        QVERIFY(strip->summary.limit.speed_rpm.has_value());
        QCOMPARE(results.computed(), std::size_t{1});
        const CaseFile file = session::open_case(input, results);
        QCOMPARE(results.computed(), std::size_t{1}); // handed on
        QCOMPARE(*file.model->limit_rpm, *strip->summary.limit.speed_rpm);
        QCOMPARE(file.model->contact_loss_rpm, contact_loss_rpm(strip->summary.limit));
        QCOMPARE(QString::fromStdString(file.limits), QStringLiteral("usual"));
    }

    // The strip, the verdict and the study of changes name one onset of the model: beside the run.
    void beside_a_run_the_models_onset_is_that_of_the_runs_speeds() {
        io::Store store = store_with("demo/ashgill-a22-intake-after.train.json");
        session::keep_rig_run(
            store, {"run", 1, false},
            io::packed(io::trace_of(io::read_rig(source_file("demo/ashgill-a22-intake-after.rig.csv")))));
        session::Results results;
        session::CaseInput input =
            session::gather_case(store.project(), 1, [&](Id id) { return store.trace(id); });
        QVERIFY(input.rig_run != 0);
        input.range = {3000, 9300, 300};
        const CaseFile file = session::open_case(input, results);
        const auto strip =
            results.sweep({store.project().revisions.at(1).assembly.train, input.range, input.limits});
        const OnsetResult whole = strip->summary.onset,
                          beside = onset_beside(rows_of(strip->motions), whole, file.rig->rows);
        QVERIFY(beside.onset.speed_rpm && *beside.onset.speed_rpm != whole.onset.speed_rpm.value_or(0));
        QCOMPARE(file.model->onset_rpm, beside.onset.speed_rpm);
        QCOMPARE(file.model->onset_metric, beside.onset.metric);
        // A change that changes nothing gains nothing, by the same measure.
        const std::vector<TrainChange> nothing = {
            {"nothing", "none", 0, 0.0, 0, "", [](const Assembly& a) { return a; }}};
        ChangeStudyQuery query = session::change_study_query(input, file, judge(file));
        query.uncertainty_trains = 0;
        const ChangeOutcome same = try_changes(store.project().revisions.at(1).assembly, nothing, {0}, query);
        QCOMPARE(same.onset_rpm, file.model->onset_rpm);
    }

    void a_damaged_run_is_told_and_leaves_the_rest() {
        io::Store store = store_with("demo/ashgill-a22-intake-after.train.json");
        session::keep_rig_run(
            store, {"spoilt run", 1, false},
            io::packed(io::trace_of(io::read_rig(source_file("demo/ashgill-a22-intake-after.rig.csv")))));
        session::CaseInput input =
            session::gather_case(store.project(), 1, [&](Id id) { return store.trace(id); });
        input.range = {5000, 8000, 1000};
        input.traces.begin()->second.pieces.front().bytes.resize(10);
        session::Results results;
        const CaseFile file = session::open_case(input, results);
        QVERIFY(!file.rig && file.model);
        QCOMPARE(file.unread.size(), std::size_t(1));
        CONTAINS(file.unread.front(), "spoilt run cannot be used: its stored readings are damaged");
        const Verdict verdict = judge(file);
        QVERIFY(std::find(verdict.missing.begin(), verdict.missing.end(), file.unread.front()) !=
                verdict.missing.end());
        // nor does one whose readings cannot even be fetched
        const session::CaseInput without =
            session::gather_case(store.project(), 1, [](Id) -> io::PackedTrace {
                throw InputError({"", "", "is not there", ""});
            });
        QVERIFY(without.traces.empty());
    }

    void the_range_reaches_past_the_target_and_below_every_limit() {
        const Train train = io::read_train(source_file("demo/ashgill-a22-intake-after.train.json"));
        const TrainFigures figures = figures_of(train, RigidMotion(train, curve_of(train.lobe)));
        const SpeedRange range = session::usual_range(&figures, 0);
        NEAR(range.first_rpm, 3000, 0);
        QVERIFY(range.last_rpm <= figures.separation->speed_rpm);
        NEAR(session::usual_range(&figures, 12000).last_rpm, 12300, 0);
        NEAR(session::usual_range(nullptr, 0).last_rpm, 9000, 0);
    }
};

QTEST_APPLESS_MAIN(TstCases)
#include "tst_cases.moc"
