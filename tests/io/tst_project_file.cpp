// The project file: edits and their undo across reopening, who may write, damage, full disks, older and newer
// files, copies, traces and folders.
#include "io/file/safe_file.h"
#include "io/project/project_folder.h"
#include "io/project/rescue.h"
#include "io/project/schema.h"
#include "support.h"

#include <QProcess>
#include <QTemporaryDir>
#include <cmath>
#include <sys/stat.h>
#include <unistd.h>

using namespace bathmos;
using namespace bathmos::test;
using namespace bathmos::io;
namespace fs = std::filesystem;

namespace {

template <class Change>
RecordChange changed(Store& store, RecordKind kind, Id id, Change change) {
    Project scratch = store.project();
    change(scratch);
    return {kind, id, record_text(scratch, kind, id)};
}

RecordChange engine(Store& store, Id id, const std::string& name) {
    return changed(store, RecordKind::Engine, id, [&](Project& p) { p.engines[id].name = name; });
}

// An engine, a part, a build with two revisions, a rig run with its trace, a waiver.
void fill(Store& store) {
    Project p;
    p.engines[1].name = "Ashgill A22";
    p.engines[1].stroke_m = 0.086;
    p.engines[1].exhaust_angle_rad = radians(12);
    p.parts[1] = *part_from(starter_train(), PartKind::Pushrod);
    p.parts[1].name = "thin";
    p.parts[1].cost = 120;
    p.parts[1].history_known = false;
    p.parts[2] = *part_from(starter_train(), PartKind::Spring);
    p.parts[2].facts.numbers["rated_cycles"] = 12.5;
    p.parts[2].facts.words["close_wound"] = "down";
    p.parts[3].kind = PartKind::Shim;
    p.parts[3].name = "shim";
    p.parts[3].facts.numbers["thickness_mm"] = 0.5e-3;
    p.builds[1] = {"intake", 1, ValveSide::Intake, radians(108), 2, "note"};
    p.revisions[1] = {1, 0, "", "as bought", now_text(), {starter_train(), {}}};
    p.revisions[2] = {1, 1, "thin", "lighter", now_text(), fitted(p.revisions[1].assembly, 1, p.parts[1])};
    p.predictions[1] = {"abc",  2,  now_text(), "1", "usual", "loft", 7700,
                        7812.5, {}, 7000,       {},  8000,    9000,   {"lock_angle"}};
    p.limits[2] = {"mine", {{"loft", 0.3, {}}}, 1e-3, "sprint", now_text()};
    p.limits[1] = {"usual", {{"loft", 0.25, {}}, {"duration_change", 4, -10}}};
    Trace trace{"run.csv", "rig", "intake 3", {}};
    trace.columns.push_back({"lift_mm", true, {0.1f, std::nanf(""), 3.3333333f}, {}});
    trace.columns.push_back({"turn_rpm", false, {}, {1234.5678901234567}});
    const Id id = store.add_trace(packed(trace));
    p.of(EntryKind::RigRun)[1] = {"run", 2, now_text(), "hands", "text", {{"height_mm", 46.125}}, {}, {id}};
    p.of(EntryKind::Waiver)[1] = {"waiver", 2, now_text(), "", "why", {}, {"ratio"}, {}};
    std::vector<RecordChange> all;
    for (std::size_t kind = 0; kind < kRecordKinds; ++kind)
        for (const Id record : record_ids(p, static_cast<RecordKind>(kind)))
            all.push_back({static_cast<RecordKind>(kind), record,
                           record_text(p, static_cast<RecordKind>(kind), record)});
    store.commit("fill", "", all);
}

} // namespace

class TestProjectFile : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    int made_ = 0;

    fs::path fresh() { return (dir_.path() + QStringLiteral("/p%1.bathmos").arg(++made_)).toStdString(); }

  private slots:
    void records_come_back_as_they_were() {
        const fs::path path = fresh();
        Project before;
        {
            Store store = Store::create(path);
            fill(store);
            before = store.project();
            QVERIFY(check_project(before).empty());
        }
        const Store again = Store::open(path);
        QVERIFY(again.project() == before);
        QVERIFY(again.project().frozen(2));
        QCOMPARE(again.read_only_why(), std::string());
        QCOMPARE(fs::exists(path.string() + "-wal"), true);
    }

    void an_edit_is_on_disk_when_commit_returns() {
        const fs::path path = fresh();
        Store store = Store::create(path);
        store.commit("name", "", {engine(store, 1, "one")});
        const Store reader = Store::open(path); // another window, while the first still holds it
        QCOMPARE(reader.project().engines.at(1).name, std::string("one"));
    }

    void undo_and_redo_go_on_after_reopening() {
        const fs::path path = fresh();
        {
            Store store = Store::create(path);
            store.commit("first", "", {engine(store, 1, "one")});
            store.commit("second", "", {engine(store, 1, "two"), engine(store, 2, "other")});
            store.commit("third", "", {{RecordKind::Engine, 1, ""}});
            QCOMPARE(store.undo_text(), std::string("third"));
            QCOMPARE(store.redo_text(), std::string());
            QCOMPARE(store.undo().size(), std::size_t(1));
        }
        Store store = Store::open(path);
        QCOMPARE(store.undo_text(), std::string("second"));
        QCOMPARE(store.redo_text(), std::string("third"));
        QCOMPARE(store.undo().size(), std::size_t(2));
        QCOMPARE(store.project().engines.size(), std::size_t(1));
        QCOMPARE(store.project().engines.at(1).name, std::string("one"));
        store.redo();
        store.redo();
        QVERIFY(!store.project().engines.contains(1) && store.project().engines.contains(2));
        QVERIFY(store.redo().empty());
        for (int i = 0; i < 3; ++i)
            store.undo();
        QVERIFY(store.project().engines.empty() && store.undo().empty());
        store.commit("other way", "", {engine(store, store.new_id(RecordKind::Engine), "new")});
        QCOMPARE(store.redo_text(), std::string());   // what was undone is gone
        QVERIFY(store.project().engines.contains(3)); // and its number is not given out again
    }

    void edits_with_one_key_become_one_step_and_none_when_they_end_where_they_began() {
        Store store = Store::create({});
        store.commit("start", "", {engine(store, 1, "a")});
        for (const char* name : {"b", "c", "d"})
            store.commit("name", "engine.name", {engine(store, 1, name)});
        store.undo();
        QCOMPARE(store.project().engines.at(1).name, std::string("a"));
        store.redo();
        store.commit("name", "engine.name", {engine(store, 1, "e")}); // after undo or redo a step of its own
        store.undo();
        QCOMPARE(store.project().engines.at(1).name, std::string("d"));
        store.redo();
        store.end_step();
        store.commit("name", "k", {engine(store, 1, "f")});
        store.commit("name", "k", {engine(store, 1, "e")});
        QCOMPARE(store.undo_text(), std::string("name"));
        store.undo();
        QCOMPARE(store.project().engines.at(1).name, std::string("d"));
    }

    void undone_revisions_take_their_predictions_along() {
        Store store = Store::create({});
        fill(store);
        Project p = store.project();
        p.revisions[3] = p.revisions[2];
        p.revisions[3].parent = 2;
        store.commit("swap", "", {{RecordKind::Revision, 3, record_text(p, RecordKind::Revision, 3)}});
        p.predictions[2] = p.predictions[1];
        p.predictions[2].revision = 3;
        store.note({{RecordKind::Prediction, 2, record_text(p, RecordKind::Prediction, 2)}});
        QCOMPARE(store.undo_text(), std::string("swap")); // a prediction is no edit
        store.undo();
        QCOMPARE(store.project().predictions.size(), std::size_t(1));
        QVERIFY(check_project(store.project()).empty());
    }

    void the_second_window_reads_and_says_who_writes() {
        const fs::path path = fresh();
        Store first = Store::create(path);
        fill(first);
        Store second = Store::open(path);
        CONTAINS(second.read_only_why(), std::to_string(getpid()));
        QVERIFY(second.project() == first.project());
        const InputProblem problem = problem_of([&] { second.commit("x", "", {engine(second, 1, "mine")}); });
        CONTAINS(problem.what, "open elsewhere");
        QCOMPARE(first.project().engines.at(1).name, std::string("Ashgill A22"));
    }

    void a_folder_that_cannot_be_written_is_read() {
        if (geteuid() == 0)
            QSKIP("permissions do not bind the superuser");
        const fs::path folder = fs::path(dir_.path().toStdString()) / "locked", path = folder / "p.bathmos";
        fs::create_directory(folder);
        {
            Store store = Store::create(path);
            fill(store);
        }
        fs::permissions(folder, fs::perms::owner_read | fs::perms::owner_exec);
        {
            const Store store = Store::open(path);
            CONTAINS(store.read_only_why(), "cannot be written");
            QCOMPARE(store.project().parts.size(), std::size_t(3));
        }
        fs::permissions(folder, fs::perms::owner_all);
    }

    void a_full_disk_keeps_what_was_there_and_says_so() {
        const fs::path path = fresh();
        {
            Store store = Store::create(path);
            fill(store);
            store.limit_pages(0); // not one more page
            Project big = store.project();
            big.engines[1].name = std::string(200000, 'x');
            const InputProblem problem = problem_of([&] {
                store.commit("big", "", {{RecordKind::Engine, 1, record_text(big, RecordKind::Engine, 1)}});
            });
            CONTAINS(problem.what, "disk is full");
            QCOMPARE(store.project().engines.at(1).name, std::string("Ashgill A22"));
            QCOMPARE(store.undo_text(), std::string("fill"));
        }
        QCOMPARE(Store::open(path).project().engines.at(1).name, std::string("Ashgill A22"));
    }

    void other_files_and_newer_ones_are_refused_untouched() {
        const auto text =
            write_test_file(dir_.path() + QStringLiteral("/text.bathmos"), "not a project at all");
        CONTAINS(problem_of([&] { Store::open(text); }).what, "damaged, or no project");
        QCOMPARE(read_file(text), std::string("not a project at all"));
        const fs::path path = fresh();
        { Store store = Store::create(path); }
        {
            SQLite::Database db(path.string(), SQLite::OPEN_READWRITE);
            db.exec("PRAGMA user_version = 99");
        }
        CONTAINS(problem_of([&] { Store::open(path); }).what, "newer program (version 99");
        {
            SQLite::Database db(path.string(), SQLite::OPEN_READWRITE);
            QCOMPARE(db.execAndGet("PRAGMA user_version").getInt(), 99);
            db.exec("PRAGMA user_version = 1; PRAGMA application_id = 7");
        }
        CONTAINS(problem_of([&] { Store::open(path); }).what, "no project of this program");
        CONTAINS(problem_of([&] { Store::open(dir_.path().toStdString() + "/none.bathmos"); }).what,
                 "not there");
        CONTAINS(problem_of([&] { Store::create(path); }).what, "there already");
    }

    // A file as each earlier version wrote it is brought up to date; version 0 is an empty file.
    void files_of_every_earlier_version_open() {
        for (int version = 0; version < newest_version(); ++version) {
            SQLite::Database db(":memory:", SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
            migrate_to(db, version);
            QCOMPARE(db.execAndGet("PRAGMA user_version").getInt(), version);
            migrate(db);
            QCOMPARE(db.execAndGet("PRAGMA user_version").getInt(), newest_version());
            QCOMPARE(db.execAndGet("SELECT count(*) FROM revision").getInt(), 0);
        }
    }

    // A file that may only be read (here for its second name) is not brought up to date.
    void a_file_of_before_opens_also_where_it_may_only_be_read() {
        const fs::path path = fresh(), other = path.string() + ".other-name";
        Project was;
        {
            Store store = Store::create(path);
            fill(store);
            was = store.project();
        }
        {
            SQLite::Database db(path.string(), SQLite::OPEN_READWRITE);
            db.exec("DROP TABLE calibration; DROP TABLE file; PRAGMA user_version = 2");
        }
        fs::create_hard_link(path, other);
        {
            const Store read = Store::open(path);
            QVERIFY(!read.read_only_why().empty());
            QVERIFY(read.project() == was);
        }
        fs::remove(other);
        Store store = Store::open(path);
        store.commit("calibration", "", {{RecordKind::Calibration, 1, R"({"name": "c", "when": "2026"})"}});
        QCOMPARE(store.project().of(EntryKind::Calibration).at(1).name, std::string("c"));
    }

    void tables_show_their_columns_to_other_programs() {
        const fs::path path = fresh();
        {
            Store store = Store::create(path);
            fill(store);
        }
        SQLite::Database db(path.string(), SQLite::OPEN_READONLY);
        QCOMPARE(db.execAndGet("SELECT name FROM part WHERE kind = 'pushrod'").getString(),
                 std::string("thin"));
        QCOMPARE(db.execAndGet("SELECT parent FROM revision WHERE id = 2").getInt(), 1);
        QCOMPARE(db.execAndGet("SELECT limit_rpm FROM prediction").getDouble(), 7812.5);
    }

    void the_last_good_copies_stand_beside_it() {
        const fs::path path = fresh();
        {
            Store store = Store::create(path);
            fill(store);
        }
        QVERIFY(backups_of(path).empty());
        for (int i = 0; i < kBackups + 2; ++i) {
            Store store = Store::open(path); // keeps what the last one left
            QVERIFY(store.notes().empty());
            store.commit("edit", "", {engine(store, 1, "edit " + std::to_string(i))});
        }
        const auto copies = backups_of(path);
        QCOMPARE(copies.size(), std::size_t(kBackups));
        QCOMPARE(Store::open(copies.front()).project().engines.at(1).name,
                 "edit " + std::to_string(kBackups));
        QCOMPARE(unpacked(Store::open(copies.front()).trace(1)).columns.size(), std::size_t(2));
        { Store store = Store::open(path); }
        const auto when = fs::last_write_time(copies.front());
        {
            Store store = Store::open(path); // nothing new: nothing copied
        }
        QVERIFY(fs::last_write_time(copies.front()) == when);
    }

    void a_damaged_project_is_rescued_as_far_as_it_is_readable() {
        const fs::path path = fresh(), to = fresh();
        {
            Store store = Store::create(path);
            fill(store);
            Project p = store.project();
            std::vector<RecordChange> more;
            for (Id id = 10; id < 200; ++id) {
                p.parts[id] = p.parts[1];
                more.push_back({RecordKind::Part, id, record_text(p, RecordKind::Part, id)});
            }
            store.commit("many", "", more);
        }
        { // one revision has lost its content, and a page in the middle of the parts is overwritten
            SQLite::Database db(path.string(), SQLite::OPEN_READWRITE);
            db.exec("UPDATE revision SET body = '{\"build\": 1}' WHERE id = 1");
            db.exec("PRAGMA wal_checkpoint(TRUNCATE)");
        }
        std::string bytes = read_file(path);
        const auto hit = bytes.rfind("\"thin\"");
        QVERIFY(hit != std::string::npos);
        const std::size_t page = hit / 4096 * 4096;
        bytes.replace(page, 4096, std::string(4096, '\x5a'));
        write_file(path, bytes);
        CONTAINS(problem_of([&] { Store::open(path); }).sentence(), path.string());
        const RescueReport report = rescue(path, to);
        QVERIFY(report.lost.size() >= 2);
        QCOMPARE(report.traces, std::size_t(1));
        const Store store = Store::open(to);
        QVERIFY(check_project(store.project()).empty());
        QVERIFY2(store.project().parts.size() > 120, "a page holds a few parts only");
        QCOMPARE(store.project().revisions.size(), std::size_t(1));
        QCOMPARE(store.project().revisions.at(2).parent, Id(0));
        QCOMPARE(store.project().builds.at(1).head, Id(2));
        QCOMPARE(unpacked(store.trace(1)).columns[0].readings[2], 3.3333333f);
        QVERIFY(problem_of([&] { rescue(path, to); }).what.ends_with("there already"));
    }

    void traces_are_kept_to_the_last_bit() {
        const fs::path path = fresh();
        Trace trace{"long", "rig", "", {}};
        TraceColumn lift{"lift_mm", true, {}, {}}, time{"time_s", false, {}, {}};
        for (int i = 0; i < 600000; ++i) { // several pieces
            lift.readings.push_back(static_cast<float>(std::sin(i * 1e-3)) * 11.1f);
            time.numbers.push_back(i * 1e-5 + 1e-17);
        }
        lift.readings[5] = std::nanf("");
        trace.columns = {lift, time};
        Id id = 0;
        {
            Store store = Store::create(path);
            id = store.add_trace(packed(trace));
        }
        const Store store = Store::open(path);
        const Trace back = unpacked(store.trace(id));
        QVERIFY(back.columns[1].numbers == time.numbers);
        QVERIFY(std::isnan(back.columns[0].readings[5]));
        QVERIFY(
            std::equal(lift.readings.begin() + 6, lift.readings.end(), back.columns[0].readings.begin() + 6));
        QVERIFY2(fs::file_size(path) < 600000 * 12, "it is compressed");
        CONTAINS(problem_of([&] { store.trace(44); }).location, "trace 44");
        PackedTrace broken = store.trace(id);
        broken.pieces.pop_back();
        CONTAINS(problem_of([&] { unpacked(broken); }).what, "missing");
        broken = store.trace(id);
        broken.pieces[0].bytes[20] = static_cast<char>(broken.pieces[0].bytes[20] ^ 0x55);
        broken.pieces[0].bytes.resize(broken.pieces[0].bytes.size() / 2);
        CONTAINS(problem_of([&] { unpacked(broken); }).what, "damaged");
    }

    void a_folder_makes_an_equal_project() {
        const fs::path path = fresh(), again = fresh(), folder = path.string() + ".folder";
        {
            Store store = Store::create(path);
            fill(store);
        }
        const QString cli = QStringLiteral(BATHMOS_CLI);
        const auto run = [&](const char* command, const fs::path& from, const fs::path& to) {
            return QProcess::execute(cli, {QLatin1String(command), QString::fromStdString(from.string()),
                                           QString::fromStdString(to.string())});
        };
        QCOMPARE(run("export", path, folder), 0);
        QCOMPARE(run("import", folder, again), 0);
        const Store a = Store::open(path), b = Store::open(again);
        QVERIFY(a.project() == b.project());
        QCOMPARE(trace_csv(unpacked(a.trace(1))), trace_csv(unpacked(b.trace(1))));
        // a second export is the same text
        const fs::path second = folder.string() + "2";
        export_project(b, second);
        std::size_t files = 0;
        for (const auto& file : fs::recursive_directory_iterator(folder)) {
            if (!file.is_regular_file())
                continue;
            ++files;
            QCOMPARE(read_file(second / fs::relative(file.path(), folder)), read_file(file.path()));
        }
        QVERIFY(files >= 12);
        QCOMPARE(run("export", path, folder), 2);  // not empty
        QCOMPARE(run("import", folder, again), 2); // there already
    }

    void a_folder_that_passed_through_another_system_is_read_alike() {
        const fs::path path = fresh(), folder = path.string() + ".folder", to = fresh();
        {
            Store store = Store::create(path);
            fill(store);
            export_project(store, folder);
        }
        for (const auto& file : fs::recursive_directory_iterator(folder)) {
            if (!file.is_regular_file())
                continue;
            std::string text = "\xEF\xBB\xBF"; // a mark, and lines that end in CR LF
            for (const char c : read_file(file.path()))
                text += c == '\n' ? std::string("\r\n") : std::string(1, c);
            write_file(file.path(), text);
        }
        import_project(folder, to);
        QVERIFY(Store::open(to).project() == Store::open(path).project());
        write_file(folder / "engine" / "0001.json", "{\"name\": \"a\", \"name\": \"b\"}");
        const InputProblem twice = problem_of([&] { import_project(folder, fresh()); });
        CONTAINS(twice.sentence(), "0001.json: name: stands twice");
    }

    void a_stopped_export_leaves_no_folder() {
        const fs::path path = fresh(), folder = path.string() + ".folder";
        Store store = Store::create(path);
        fill(store);
        std::stop_source source;
        source.request_stop();
        QVERIFY_THROWS_EXCEPTION(Stopped, export_project(store, folder, {{}, source.get_token()}));
        QVERIFY(!fs::exists(folder));
        for (const auto& file : fs::directory_iterator(path.parent_path()))
            QVERIFY2(!contains(file.path().string(), path.string() + ".folder"), file.path().c_str());
    }

    void folders_that_cannot_be_imported_leave_nothing_behind() {
        const fs::path path = fresh(), folder = path.string() + ".folder", to = fresh();
        {
            Store store = Store::create(path);
            fill(store);
            export_project(store, folder);
        }
        const auto spoilt = [&](const char* file, const std::string& from, const std::string& with) {
            const std::string whole = read_file(folder / file);
            std::string bad = whole;
            bad.replace(bad.find(from), from.size(), with);
            write_file(folder / file, bad);
            const std::string sentence = problem_of([&] { import_project(folder, to); }).sentence();
            write_file(folder / file, whole);
            return sentence;
        };
        CONTAINS(spoilt("revision/0002.json", "\"wall_mm\"", "\"wall_cm\""), "0002.json: revision 2");
        CONTAINS(spoilt("part/0001.json", "\"thin\"", "thin"), "part/0001.json");
        CONTAINS(spoilt("build/0001.json", "\"engine\": 1", "\"engine\": 9"),
                 "build 1: engine 9 is not there");
        CONTAINS(spoilt("trace/0001.csv", "1234", "12x4"), "line 2, column turn_rpm");
        CONTAINS(spoilt("project.json", "bathmos-project", "other"), "format");
        CONTAINS(problem_of([&] { import_project(folder / "part", to); }).location, "project.json");
        QVERIFY(!fs::exists(to) && !fs::exists(to.string() + ".part"));
        import_project(folder, to);
        QVERIFY(fs::exists(to));
    }

    void a_copy_is_a_project_of_its_own() {
        const fs::path path = fresh(), copy = fresh();
        Store store = Store::create(path);
        fill(store);
        store.save_copy(copy);
        Store other = Store::open(copy);
        QVERIFY(other.project() == store.project());
        QCOMPARE(other.undo_text(), std::string("fill"));
        other.commit("x", "", {engine(other, 1, "other")});
        QCOMPARE(store.project().engines.at(1).name, std::string("Ashgill A22"));
        QCOMPARE(unpacked(other.trace(1)).valve, std::string("intake 3"));
        CONTAINS(problem_of([&] { store.save_copy("/nowhere/at/all.bathmos"); }).sentence(), "/nowhere");
    }

    void a_copy_over_a_dead_project_does_not_take_its_log() {
        const fs::path path = fresh(), dead = fresh();
        {
            Store store = Store::create(dead);
            store.commit("x", "", {engine(store, 1, "dead")});
            fs::copy(dead.string() + "-wal", dead.string() + "-kept"); // as a kill would leave it
        }
        fs::rename(dead.string() + "-kept", dead.string() + "-wal");
        Store store = Store::create(path);
        fill(store);
        store.save_copy(dead);
        QVERIFY(Store::open(dead).project() == store.project());
    }

    void a_stopped_import_leaves_nothing() {
        const fs::path path = fresh(), folder = path.string() + ".folder", to = fresh();
        {
            Store store = Store::create(path);
            fill(store);
            export_project(store, folder);
        }
        std::stop_source source;
        source.request_stop();
        QVERIFY_THROWS_EXCEPTION(Stopped, rescue(path, to, source.get_token()));
        QVERIFY(!fs::exists(to));
        QVERIFY_THROWS_EXCEPTION(Stopped, import_project(folder, to, {{}, source.get_token()}));
        QVERIFY(!fs::exists(to) && !fs::exists(to.string() + ".part"));
        double last = -1;
        import_project(folder, to, {[&](double share) { last = share; }, {}});
        QVERIFY(last >= 0);
        QVERIFY(looks_like_project(to) && !looks_like_project(folder / "project.json"));
    }

    void what_cannot_be_read_again_is_not_kept() {
        Store store = Store::create({});
        fill(store);
        QVERIFY(!problem_of([&] {
                     store.commit("bad", "", {{RecordKind::Part, 1, "{\"kind\": \"wheel\"}"}});
                 }).what.empty());
        QCOMPARE(store.undo_text(), std::string("fill"));
        QCOMPARE(store.project().parts.at(1).name, std::string("thin"));
    }
};

QTEST_GUILESS_MAIN(TestProjectFile)
#include "tst_project_file.moc"
