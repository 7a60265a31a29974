#include "io/file/safe_file.h"
#include "io/project/project_opening.h"
#include "io/project/store.h"
#include "io/project/write_lock.h"
#include "support.h"

#include <QTemporaryDir>
#include <SQLiteCpp/SQLiteCpp.h>
#include <sys/wait.h>
#include <unistd.h>

using namespace bathmos;
using namespace bathmos::io;
using namespace bathmos::test;
namespace fs = std::filesystem;

// Two writers, and a file that changes under one: nobody's work is lost, whoever comes second is told.
class TestWriters : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    int files_ = 0;

    fs::path fresh() { return folder_.filePath(QStringLiteral("p%1.bathmos").arg(++files_)).toStdString(); }

    static RecordChange engine(Id id, const std::string& name) {
        Project p;
        p.engines[id].name = name;
        return {RecordKind::Engine, id, record_text(p, RecordKind::Engine, id)};
    }
    // What another user of this machine is told who opens the file: "" where it may be written.
    static std::string told_to_another_user(const fs::path& path) {
        int ends[2];
        if (pipe(ends) != 0)
            return "no pipe";
        const pid_t other = fork();
        if (other == 0) {
            std::string said;
            if (setgid(65534) != 0 || setuid(65534) != 0)
                said = "still the same user";
            try {
                if (said.empty()) {
                    Store store = Store::open(path);
                    said = store.read_only_why();
                    if (said.empty())
                        store.commit("theirs", "", {engine(9, "theirs")});
                }
            } catch (const std::exception& error) {
                said = std::string("failed: ") + error.what();
            }
            const bool written = write(ends[1], said.data(), said.size()) == ssize_t(said.size());
            _exit(written ? 0 : 1); // nothing of the parent's is let go
        }
        close(ends[1]);
        std::string said(4096, 0);
        const ssize_t size = read(ends[0], said.data(), said.size());
        close(ends[0]);
        int status = 0;
        waitpid(other, &status, 0);
        said.resize(size > 0 ? std::size_t(size) : 0);
        return status == 0 ? said : "the other program ended badly";
    }
    static void make(const fs::path& path) {
        Store store = Store::create(path);
        store.commit("first", "", {engine(1, "first")});
    }

  private slots:
    void a_second_window_reads_only_by_whatever_name_it_comes_data() {
        QTest::addColumn<QString>("way");
        for (const char* way : {"same name", "symbolic link", "link to the folder", "dots"})
            QTest::newRow(way) << way;
    }
    void a_second_window_reads_only_by_whatever_name_it_comes() {
        QFETCH(QString, way);
        const fs::path path = fresh();
        make(path);
        fs::path other = path;
        if (way == QStringLiteral("symbolic link")) {
            other = path.string() + "-link.bathmos";
            fs::create_symlink(path, other);
        } else if (way == QStringLiteral("link to the folder")) {
            const fs::path link = folder_.filePath(QStringLiteral("folder-link")).toStdString();
            fs::create_directory_symlink(path.parent_path(), link);
            other = link / path.filename();
        } else if (way == QStringLiteral("dots")) {
            other = path.parent_path() / "." / path.filename();
        }
        std::optional<Store> first = Store::open(path);
        QVERIFY(first->read_only_why().empty());
        {
            Store second = Store::open(other);
            CONTAINS(second.read_only_why(), "open elsewhere");
            CONTAINS(problem_of([&] { second.commit("x", "", {engine(2, "second")}); }).what, "read only");
        }
        first->commit("on", "",
                      {engine(2, "mine")}); // the other's coming and going let go of nothing of ours
        const Store third = Store::open(other);
        CONTAINS(third.read_only_why(), "open elsewhere");
        first.reset();
        QVERIFY(Store::open(other).read_only_why().empty());
        QCOMPARE(Store::open(path).project().engines.at(2).name, std::string("mine"));
    }

    void a_hard_link_is_no_second_way_in() {
        const fs::path path = fresh(), folder = folder_.filePath(QStringLiteral("elsewhere")).toStdString(),
                       other = folder / "hard.bathmos";
        make(path);
        fs::create_directory(folder);
        {
            Store first = Store::open(path);
            fs::create_hard_link(path, other);
            CONTAINS(problem_of([&] { Store::open(other); }).what, "under another name");
            first.commit("on", "",
                         {engine(2, "mine")}); // the other's coming and going let go of nothing of ours
            CONTAINS(problem_of([&] { Store::open(other); }).what, "under another name");
            CONTAINS(Store::open(path).read_only_why(), "several names");
        }
        CONTAINS(Store::open(other).read_only_why(), "several names");
        fs::remove(other);
        QVERIFY(Store::open(path).read_only_why().empty());
    }

    void what_another_program_wrote_past_the_lock_is_not_overwritten() {
        const fs::path path = fresh();
        make(path);
        Store store = Store::open(path);
        {
            SQLite::Database other(path.string(), SQLite::OPEN_READWRITE, 2000);
            other.exec("INSERT INTO engine (id, body) VALUES (2, '{\"name\": \"theirs\"}')");
            other.exec("UPDATE about SET value = CAST(value AS INTEGER) + 1 WHERE key = 'writes'");
        }
        QVERIFY_THROWS_EXCEPTION(FileChanged, store.commit("mine", "", {engine(2, "mine")}));
        QVERIFY_THROWS_EXCEPTION(FileChanged, store.note({engine(3, "mine")}));
        const fs::path copy = fresh();
        store.save_copy(copy);
        QCOMPARE(Store::open(path).project().engines.size(), std::size_t(2));
        QCOMPARE(Store::open(copy).project().engines.at(1).name, std::string("first"));
    }

    void a_file_that_is_gone_or_replaced_keeps_no_edit_data() {
        QTest::addColumn<QString>("what");
        QTest::addColumn<QString>("said");
        QTest::newRow("deleted") << "deleted"
                                 << "no longer there";
        QTest::newRow("moved") << "moved"
                               << "no longer there";
        QTest::newRow("replaced") << "replaced"
                                  << "is another file now";
    }
    void a_file_that_is_gone_or_replaced_keeps_no_edit() {
        QFETCH(QString, what);
        QFETCH(QString, said);
        const fs::path path = fresh(), other = fresh();
        make(path);
        make(other);
        Store store = Store::open(path);
        store.commit("second", "", {engine(2, "second")});
        if (what == QStringLiteral("deleted"))
            fs::remove(path);
        else if (what == QStringLiteral("moved"))
            fs::rename(path, path.string() + ".moved");
        else
            fs::rename(other, path);
        const InputProblem problem = problem_of([&] { store.commit("third", "", {engine(3, "third")}); });
        CONTAINS(problem.what, said.toStdString());
        CONTAINS(problem.mend, "save a copy");
        QCOMPARE(store.project().engines.size(), std::size_t(2)); // what is in hand is what was kept
        QVERIFY_THROWS_EXCEPTION(FileChanged, store.undo());
        const fs::path copy = fresh();
        store.save_copy(copy);
        QCOMPARE(Store::open(copy).project().engines.at(2).name, std::string("second"));
    }

    void a_copy_in_place_of_a_damaged_file_is_not_spoilt_by_the_old_log() {
        const fs::path path = fresh();
        std::string log;
        {
            Store store = Store::create(path);
            store.commit("first", "", {engine(1, "first")});
        }
        { Store store = Store::open(path); } // keeps a copy
        {
            Store store = Store::open(path);
            for (int i = 0; i < 50; ++i)
                store.commit("edit", "", {engine(1, std::string(3000, 'x') + std::to_string(i))});
            log = read_file(path.string() + "-wal");
        }
        QVERIFY(log.size() > 10000);
        QVERIFY(!backups_of(path).empty());
        fs::copy_file(backups_of(path).front(), path, fs::copy_options::overwrite_existing);
        write_file(path.string() + "-wal", log);
        const Store store = Store::open(path);
        QCOMPARE(store.project().engines.at(1).name, std::string("first"));
        QCOMPARE(store.notes().size(), std::size_t(1));
        CONTAINS(store.notes().front(), "belonged to another file");
        QVERIFY(fs::exists(path.string() + "-wal.of-another-file"));
    }

    void copies_that_were_never_finished_go() {
        const fs::path path = fresh();
        make(path);
        for (const char* end : {".backup-new", ".part"})
            write_file(path.string() + end, "half");
        { Store store = Store::open(path); }
        QVERIFY(!fs::exists(path.string() + ".backup-new"));
        QVERIFY(!fs::exists(path.string() + ".part"));
    }

    void damage_of_what_is_about_the_file_is_told_or_lived_with() {
        const fs::path path = fresh();
        make(path);
        const auto change = [&](const char* sql) {
            SQLite::Database db(path.string(), SQLite::OPEN_READWRITE, 2000);
            db.exec(sql);
        };
        change("UPDATE about SET value = 'twelve' WHERE key = 'edits'");
        {
            Store store = Store::open(path);
            QCOMPARE(store.edits(), std::int64_t(0));
            store.commit("on", "", {engine(2, "second")});
        }
        change("PRAGMA user_version = -1");
        CONTAINS(problem_of([&] { Store::open(path); }).what, "of version -1");
        change("PRAGMA user_version = 4");
        change("DROP TABLE edit");
        const InputProblem problem = problem_of([&] { Store::open(path); });
        CONTAINS(problem.location, "edit");
        CONTAINS(problem.what, "is missing: the file is damaged");
    }

    void where_other_machines_come_the_file_beside_it_is_the_lock() {
        const fs::path path = fresh(), beside = path.string() + ".lock";
        make(path);
        const auto taken = [&] { return WriteLock(path, FolderOf::SeveralMachines); };
        {
            const WriteLock first = taken();
            QVERIFY(first.held());
            const WriteLock second = taken();
            QVERIFY(!second.held());
            CONTAINS(second.holder(), std::to_string(getpid()));
            CONTAINS(second.holder(), "delete " + beside.filename().string());
        }
        QVERIFY(!fs::exists(beside));
        std::string here;
        {
            const WriteLock first = taken();
            here = read_file(beside);
        }
        const std::string mine = std::to_string(getpid()), before = here.substr(0, here.size() - mine.size());
        const pid_t ended = fork();
        if (ended == 0)
            _exit(0);
        waitpid(ended, nullptr, 0);
        for (const auto& [words, ours] : std::vector<std::pair<std::string, bool>>{
                 {before + std::to_string(ended), true}, // a program of this machine that was killed
                 {before + "1", false},                  // one that runs
                 {before + mine + "x", false},
                 {"miller on bench-two, process " + std::to_string(ended), false},
                 {"", false}}) {
            write_file(beside, words);
            const WriteLock lock = taken();
            QVERIFY2(lock.held() == ours, words.c_str());
            if (!ours)
                QCOMPARE(read_file(beside), words); // another's lock is not touched
            fs::remove(beside);
        }
        QVERIFY(taken().held());
    }

    void where_other_machines_come_no_log_lies_beside_a_project() {
        const fs::path path = fresh();
        make(path);
        SQLite::Database db(path.string(), SQLite::OPEN_READWRITE, 2000);
        QCOMPARE(db.execAndGet("PRAGMA journal_mode").getString(), std::string("wal"));
        set_up_for_writing(db, FolderOf::SeveralMachines);
        QCOMPARE(db.execAndGet("PRAGMA journal_mode").getString(), std::string("delete"));
        db.exec("UPDATE about SET value = value WHERE key = 'writes'");
        QVERIFY(!fs::exists(path.string() + "-wal") && !fs::exists(path.string() + "-shm"));
        QCOMPARE(folder_of(path), FolderOf::ThisMachine);
        QCOMPARE(folder_of("/no/such/folder/p.bathmos"), FolderOf::ThisMachine);
    }

    void another_user_reads_until_the_project_is_free_and_theirs_to_write() {
        if (getuid() != 0)
            QSKIP("only the administrator may become another user");
        const fs::path shared = folder_.filePath(QStringLiteral("shared")).toStdString(),
                       path = shared / "p.bathmos";
        fs::create_directory(shared);
        fs::permissions(folder_.path().toStdString(), fs::perms(0755));
        fs::permissions(shared, fs::perms::all);
        make(path);
        {
            Store store = Store::open(path);
            CONTAINS(told_to_another_user(path), "open elsewhere: root on ");
            store.commit("on", "", {engine(2, "mine")});
        }
        CONTAINS(told_to_another_user(path), "cannot be written"); // the file is the first user's own
        fs::permissions(path, fs::perms(0666));
        write_file(path.string() + ".lock", "root on here, killed");
        QCOMPARE(told_to_another_user(path),
                 std::string()); // a lock left behind by the first is no hindrance
        const Store after = Store::open(path);
        QCOMPARE(after.read_only_why(), std::string());
        QCOMPARE(after.project().engines.at(2).name, std::string("mine"));
        QCOMPARE(after.project().engines.at(9).name, std::string("theirs"));
    }

    void a_lock_left_behind_locks_nothing() {
        const fs::path path = fresh();
        make(path);
        write_file(path.string() + ".lock", "somebody, long ago");
        fs::permissions(path.string() + ".lock",
                        fs::perms::owner_read | fs::perms::group_read | fs::perms::others_read);
        QVERIFY(Store::open(path).read_only_why().empty());
        QVERIFY(!fs::exists(path.string() + ".lock"));
    }
};

QTEST_GUILESS_MAIN(TestWriters)
#include "tst_writers.moc"
