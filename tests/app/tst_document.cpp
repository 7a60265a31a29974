#include "app/desk/document.h"
#include "app/shell/recovery_slot.h"
#include "app_fixture.h"
#include "io/train/train_file.h"

#include <fmt/format.h>

using namespace bathmos;
using namespace bathmos::test;

namespace {
// As a file holds it: 12 digits.
Train kept(const Train& train) {
    return io::parse_train(io::train_text(train), "");
}
Train starter() {
    return kept(starter_train());
}

struct Edit {
    const char* name;
    std::function<void(Train&)> apply;
};
const std::vector<Edit> kEdits = {
    {"valve mass", [](Train& t) { t.valve.mass_kg = 0.08; }},
    {"name", [](Train& t) { t.name = "another"; }},
    {"layout", [](Train& t) { t = with_layout(t, Layout::Bucket); }},
    {"spring added", [](Train& t) { t.springs.push_back(starter_spring()); }},
    {"ratio table",
     [](Train& t) {
         t.rocker->ratio = RatioTable{{0, 4e-3, 8e-3}, {0, 6e-3, 12.2e-3}};
     }},
    {"lobe", [](Train& t) { std::get<AnalyticLobe>(t.lobe.shape).lift_m = 7.5e-3; }},
};
} // namespace

class TestDocument : public QObject {
    Q_OBJECT
  private slots:
    void each_edit_can_be_done_undone_redone_and_saved_data() {
        QTest::addColumn<int>("edit");
        for (std::size_t i = 0; i < kEdits.size(); ++i)
            QTest::newRow(kEdits[i].name) << static_cast<int>(i);
    }
    void each_edit_can_be_done_undone_redone_and_saved() {
        QFETCH(int, edit);
        const QString path = Fixture::folder().filePath(QStringLiteral("d%1.bathmos").arg(edit));
        QFile::remove(path);
        Document d;
        d.set_new(starter_train());
        const Train before = d.train();
        Train after = before;
        kEdits[static_cast<std::size_t>(edit)].apply(after);
        d.edit(after, "change");
        QVERIFY(d.train() == kept(after));
        QVERIFY(d.modified());
        d.keep_as(path);
        QVERIFY(!d.modified() && !d.draft());
        d.undo(); // undo outlives keeping
        QVERIFY(d.train() == before);
        d.redo();
        QVERIFY(d.train() == kept(after));
        Document again; // and closing: every edit is in the file
        again.open(path);
        QVERIFY(again.train() == kept(after));
        QVERIFY(!again.read_only_why().isEmpty()); // the first one still holds it
    }

    void keys_typed_into_one_field_are_one_step_and_a_return_to_the_start_is_none() {
        Document d;
        d.set_new(starter_train());
        for (const double mass : {0.09, 0.091, 0.0915}) {
            Train next = d.train();
            next.valve.mass_kg = mass;
            d.edit(next, "mass", "valve.mass_g");
        }
        QCOMPARE(d.project().revisions.size(), std::size_t(2)); // one revision more, not three
        const std::string reason =
            fmt::format("Valve mass {:g} → 91.5 g", starter_train().valve.mass_kg * 1e3);
        QCOMPARE(d.project().revisions.rbegin()->second.reason, reason);
        Train other = d.train();
        other.lash_m = 0.2e-3;
        d.edit(other, "lash", "lash_mm");
        QCOMPARE(d.project().revisions.size(), std::size_t(3));
        other.lash_m = starter_train().lash_m;
        d.edit(other, "lash", "lash_mm"); // back at the start: no revision, no step
        QCOMPARE(d.project().revisions.size(), std::size_t(2));
        d.undo();
        QVERIFY(d.train() == starter());
        QVERIFY(!d.can_undo());
    }

    void revision_grows_with_every_change_and_figures_follow() {
        Document d;
        d.set_new(starter_train());
        const auto first = d.revision();
        const double mass = d.figures()->equivalent_mass_total_kg;
        Train heavier = d.train();
        heavier.valve.mass_kg += 0.01;
        d.edit(heavier, "mass");
        QVERIFY(d.revision() > first);
        NEAR(d.figures()->equivalent_mass_total_kg, mass + 0.01, 1e-9);
    }

    void impossible_trains_have_problems_and_no_figures() {
        Document d;
        d.set_new(starter_train());
        Train bad = d.train();
        bad.installed_height_m = 15e-3;
        d.edit(bad, "height");
        QVERIFY(!d.problems().empty());
        QVERIFY(d.figures() == nullptr && d.rigid() == nullptr);
        d.undo();
        QVERIFY(d.problems().empty() && d.figures() != nullptr);
    }

    void a_file_that_cannot_be_read_changes_nothing() {
        Document d;
        d.set_new(starter_train());
        QVERIFY_THROWS_EXCEPTION(InputError, d.open("/nowhere.train.json"));
        QVERIFY(d.train() == starter());
        QVERIFY_THROWS_EXCEPTION(InputError, d.open("/nowhere.bathmos"));
        QVERIFY_THROWS_EXCEPTION(InputError, d.keep_as("/nowhere/x.bathmos"));
        QVERIFY_THROWS_EXCEPTION(InputError, d.export_train("/nowhere/x.train.json"));
        QVERIFY(d.draft());
    }

    void a_draft_outlives_a_kill_with_its_undo() {
        const QString path = Fixture::folder().filePath("kill.bathmos");
        QFile::remove(path);
        {
            Document d(path);
            d.set_new(starter_train());
            Train next = d.train();
            next.valve.mass_kg = 0.0777;
            d.edit(next, "mass");
        }
        Document again(path);
        QVERIFY(again.reopen_draft());
        NEAR(again.train().valve.mass_kg, 0.0777, 1e-12);
        QVERIFY(again.modified() && again.draft());
        again.undo();
        QVERIFY(again.train() == starter());
        const QString kept = Fixture::folder().filePath("kept.bathmos");
        QFile::remove(kept);
        again.keep_as(kept);
        QVERIFY(!QFile::exists(path)); // it has a name now
        QCOMPARE(again.redo_text(), QStringLiteral("mass"));
    }

    void a_draft_in_which_nothing_was_done_goes() {
        const QString path = Fixture::folder().filePath("idle.bathmos");
        {
            Document d(path);
            d.set_new(starter_train());
            QVERIFY(QFile::exists(path));
        }
        QVERIFY(!QFile::exists(path));
        Document again(path);
        QVERIFY(!again.reopen_draft());
    }

    void a_prediction_does_not_outlive_what_it_was_made_for() {
        Document d;
        d.set_new(starter_train());
        Train next = d.train();
        next.valve.mass_kg = 0.08;
        d.edit(next, "mass", "valve.mass_g");
        Prediction made;
        made.revision = d.shown();
        made.limit_rpm = 7000;
        d.note_prediction(made);
        QVERIFY(d.prediction_of(2) != nullptr);
        next.valve.mass_kg = 0.085;
        d.edit(next, "mass", "valve.mass_g"); // goes on with the same revision
        QCOMPARE(d.shown(), Id(2));
        QVERIFY(d.prediction_of(2) == nullptr);
        d.undo();
        QVERIFY(check_project(d.project()).empty());
    }

    void an_edit_at_an_older_revision_makes_a_branch() {
        Document d;
        d.set_new(starter_train());
        Train one = d.train();
        one.valve.mass_kg = 0.08;
        d.edit(one, "one", "valve.mass_g");
        d.show(1);
        QVERIFY(d.train() == starter());
        Train two = d.train();
        two.valve.mass_kg = 0.07;
        d.edit(two, "two", "valve.mass_g"); // same key, yet not the same revision
        QCOMPARE(d.project().children(1), (std::vector<Id>{2, 3}));
        QCOMPARE(d.shown(), Id(3));
        d.undo();
        QCOMPARE(d.shown(), Id(1));
        d.show(2);
        QVERIFY(d.train() == kept(one));
    }

    void a_run_freezes_the_revision_in_hand() {
        Document d;
        d.set_new(starter_train());
        Train next = d.train();
        next.valve.mass_kg = 0.08;
        d.edit(next, "mass", "valve.mass_g");
        d.add_rig_run("run.csv", io::packed(io::trace_of({"run.csv", "", {0, 1}, {0, 1}, {}, false})), true);
        QVERIFY(d.project().frozen(2));
        next.valve.mass_kg = 0.081;
        d.edit(next, "mass", "valve.mass_g"); // would have gone on with revision 2
        QCOMPARE(d.shown(), Id(3));
        NEAR(d.project().revisions.at(2).assembly.train.valve.mass_kg, 0.08, 1e-12);
        QCOMPARE(d.project().of(EntryKind::RigRun).at(1).revision, Id(2));
        d.undo();
        d.undo();
        QVERIFY(!d.project().frozen(2)); // the run is undone like any edit
    }

    void parts_are_fitted_and_shelved_and_stay_while_a_revision_carries_them() {
        Document d;
        d.set_new(starter_train());
        QSignalSpy refused(&d, &Document::refused);
        d.shelve_parts();
        const std::size_t shelved = d.project().parts.size();
        QVERIFY(shelved >= 7);
        QCOMPARE(d.assembly().parts.size(), shelved);
        Part thin = *part_from(d.train(), PartKind::Pushrod);
        thin.name = "thin";
        thin.piece.pushrod->wall_m = 0.9e-3;
        const Id id = d.add_part(thin);
        d.fit_part(id);
        NEAR(d.train().pushrod->wall_m, 0.9e-3, 1e-12);
        QVERIFY(!d.open_checks().empty());
        QVERIFY(!d.remove_part(id));
        QCOMPARE(refused.count(), 1);
        d.undo();
        QVERIFY(d.remove_part(id));
        d.undo();
        QVERIFY(d.project().parts.contains(id));
        d.shelve_parts();
        QCOMPARE(refused.count(), 2); // all are there already
    }

    void a_second_window_reads_and_refuses_edits() {
        const QString path = Fixture::folder().filePath("two.bathmos");
        QFile::remove(path);
        Document first;
        first.set_new(starter_train());
        first.keep_as(path);
        Document second;
        QSignalSpy refused(&second, &Document::refused);
        second.open(path);
        QVERIFY(second.read_only_why().contains("open elsewhere"));
        Train next = second.train();
        next.valve.mass_kg = 0.05;
        second.edit(next, "mass");
        QCOMPARE(refused.count(), 1);
        QVERIFY(second.train() == starter());
        QVERIFY(second.undo_text().isEmpty());
    }

    void findings_that_are_waived_no_longer_mark_predictions() {
        Document d;
        Train close = starter_train();
        d.set_new(close);
        close.installed_height_m -= d.figures()->bind_margin_m + 0.5e-3;
        d.edit(close, "height");
        QCOMPARE(d.stops(), std::vector<std::string>{"coil_bind"});
        d.close_checks(EntryKind::Waiver, {"finding:coil_bind"}, "one slow turn by hand");
        QVERIFY(d.stops().empty());
        d.undo();
        QCOMPARE(d.stops().size(), std::size_t(1));
    }

    void two_programs_keep_their_unsaved_edits_apart() {
        QTemporaryDir folder;
        const auto put = [](const QString& path) {
            QFile file(path);
            return file.open(QIODevice::WriteOnly) && file.write("edits") == 5;
        };
        QString first_path;
        {
            const RecoverySlot first(folder.path()), second(folder.path());
            first_path = first.path();
            QVERIFY(!first.path().isEmpty() && first.path() != second.path());
            QVERIFY(put(second.path())); // the second ends with edits unsaved
        }
        const RecoverySlot next(folder.path());
        QVERIFY(next.path() != first_path); // what was left behind comes first
        QVERIFY(QFile::exists(next.path()));
        const RecoverySlot other(folder.path());
        QCOMPARE(other.path(), first_path);
        QCOMPARE(RecoverySlot("/proc/nowhere").path(), QString());
    }

    // A file given on the command line goes into an empty slot: what was left behind stays, and is told.
    void a_file_that_is_opened_leaves_a_draft_where_it_is() {
        QTemporaryDir folder;
        {
            const RecoverySlot first(folder.path());
            QVERIFY(!first.others_left_behind());
            QFile draft(first.path());
            QVERIFY(draft.open(QIODevice::WriteOnly)); // and the program ends
        }
        const RecoverySlot given(folder.path(), RecoverySlot::First::Empty);
        QVERIFY(!given.path().isEmpty() && !QFile::exists(given.path()));
        QVERIFY(given.others_left_behind());
        const RecoverySlot window(folder.path()); // that of a window of its own
        QVERIFY(QFile::exists(window.path()));
        QVERIFY(!given.others_left_behind()); // somebody has it
    }

    void what_was_left_behind_is_offered() {
        int opened = 0;
        WindowOptions options;
        options.open_left_behind = [&] { ++opened; };
        MainWindow window(options);
        window.tell_left_behind();
        CONTAINS(window.message().toStdString(), "left behind");
        window.actions_by_id().run(QStringLiteral("open_left_behind"));
        QCOMPARE(opened, 1);
        // A file that could not be opened is told, too.
        QVERIFY(!window.open_train(QStringLiteral("/nowhere.bathmos")));
        window.tell_left_behind();
        CONTAINS(window.message().toStdString(), "nowhere.bathmos");
        CONTAINS(window.message().toStdString(), "left behind");
        QVERIFY(!MainWindow().actions_by_id().find(QStringLiteral("open_left_behind"))->isVisible());
    }

    void a_damaged_draft_is_put_aside() {
        const QString path = Fixture::folder().filePath("bad.bathmos");
        QFile file(path);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write("no project");
        file.close();
        QVERIFY(!Document(path).reopen_draft());
        QVERIFY(QFile::exists(path + ".damaged") && !QFile::exists(path));
    }

    void a_folder_that_refuses_is_told_and_work_goes_on() {
        Document d("/proc/nowhere/draft.bathmos");
        QSignalSpy told(&d, &Document::refused);
        d.set_new(starter_train());
        QCOMPARE(told.count(), 1);
        Train next = d.train();
        next.valve.mass_kg = 0.05;
        d.edit(next, "mass");
        NEAR(d.train().valve.mass_kg, 0.05, 1e-12);
    }

    void pulls_are_kept_noted_taken_out_and_come_back() {
        const QString path = Fixture::folder().filePath("pulls.bathmos");
        QFile::remove(path);
        Document d;
        d.set_new(starter_train());
        d.keep_as(path);
        const Id made = d.shown();
        io::Trace readings{
            "a.csv", "pull", "", {{"rpm", false, {}, {4000, 5000}}, {"power_kW", false, {}, {90, 110}}}};
        Entry entry;
        entry.name = "a.csv";
        entry.revision = made;
        entry.words["fuel"] = "102";
        QVERIFY(d.add_pulls("a.csv", {{entry, io::packed(readings)}, {entry, io::packed(readings)}}));
        const auto& pulls = d.project().of(EntryKind::DynoPull);
        QCOMPARE(pulls.size(), std::size_t{2}); // one edit for both
        QVERIFY(!pulls.begin()->second.when.empty() && d.project().frozen(made));
        const Id id = pulls.begin()->first;
        QCOMPARE(io::unpacked(d.trace(pulls.begin()->second.traces.front())).columns[1].numbers,
                 (std::vector<double>{90, 110}));
        Entry noted = pulls.begin()->second;
        noted.text = "cold oil";
        d.set_entry(EntryKind::DynoPull, id, noted, "noted");
        d.set_entry(EntryKind::DynoPull, id, noted, "noted"); // nothing new, no step
        d.remove_entry(EntryKind::DynoPull, id, "taken out");
        QCOMPARE(pulls.size(), std::size_t{1});
        d.undo();
        QCOMPARE(pulls.at(id).text, std::string("cold oil"));
        d.undo();
        QCOMPARE(pulls.at(id).text, std::string());
        d.undo();
        QVERIFY(pulls.empty() && !d.project().frozen(made));
        d.redo();
        QCOMPARE(pulls.size(), std::size_t{2});
        // An edit after a pull makes a new revision: the pulled one never changes.
        Train next = d.train();
        next.valve.mass_kg += 1e-3;
        d.edit(next, "heavier", "key");
        QVERIFY(d.shown() != made);
        Document again;
        again.open(path);
        QCOMPARE(again.project().of(EntryKind::DynoPull).size(), std::size_t{2});
        QCOMPARE(again.project().of(EntryKind::DynoPull).at(id).words.at("fuel"), std::string("102"));
    }

    void a_decision_is_verdict_and_revision_in_one_step() {
        Document d;
        d.set_new(starter_train());
        const Id judged = d.shown();
        Entry verdict;
        verdict.name = "Train too flexible";
        verdict.revision = judged;
        verdict.when = io::now_text();
        verdict.numbers["p_train_flexible"] = 0.9;
        Assembly next = d.assembly();
        next.train.pushrod->wall_m += 0.4e-3;
        d.decide(verdict, next, "stiffer, because");
        const Id now = d.shown();
        QVERIFY(now != judged);
        QCOMPARE(d.project().revisions.at(now).parent, judged);
        QCOMPARE(d.project().revisions.at(now).reason, std::string("stiffer, because"));
        NEAR(d.train().pushrod->wall_m, next.train.pushrod->wall_m, 1e-12);
        QCOMPARE(d.project().of(EntryKind::Verdict).size(), std::size_t{1});
        QVERIFY(d.undo_text().contains("Train too flexible"));
        d.undo();
        QCOMPARE(d.shown(), judged);
        QVERIFY(d.project().of(EntryKind::Verdict).empty());
        d.redo();
        QCOMPARE(d.shown(), now);
        QCOMPARE(d.project().of(EntryKind::Verdict).begin()->second.revision, judged);
        QVERIFY(check_project(d.project()).empty());
    }
};

QTEST_MAIN(TestDocument)
#include "tst_document.moc"
