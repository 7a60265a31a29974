// Files that are kept in a project by their hash: once whatever they are called, through folders, copies and
// a rescue; what is no longer what it was is told.
#include "io/file/content_hash.h"
#include "io/file/safe_file.h"
#include "io/project/project_folder.h"
#include "io/project/rescue.h"
#include "io/project/schema.h"
#include "io/project/store.h"
#include "support.h"

#include <QTemporaryDir>
#include <SQLiteCpp/SQLiteCpp.h>
#include <filesystem>

using namespace bathmos;
using namespace bathmos::test;
using io::Store;

namespace {

const std::string kPhoto = std::string("\xff\xd8\xff", 3) + std::string(5000, '\0') + "end";
const std::string kDrawing = "%PDF-1.4 a drawing";

} // namespace

class TstKeptFiles : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    std::filesystem::path at(const char* name) { return folder_.filePath(QLatin1String(name)).toStdString(); }
    Store with_files(const char* name) {
        Store out = Store::create(at(name));
        out.add_file(kPhoto);
        out.add_file(kDrawing);
        Project next;
        next.of(EntryKind::Log)[1] = {"photo", 0,  "2026-02-27T00:00:00Z", "", "", {},
                                      {},      {}, {{"kind", "note"}}};
        out.commit("photo", "", {{io::RecordKind::Log, 1, io::record_text(next, io::RecordKind::Log, 1)}});
        return out;
    }
    void has_both(const Store& store) {
        QCOMPARE(store.files().size(), std::size_t(2));
        QCOMPARE(store.file(io::content_hash(kPhoto)), kPhoto);
        QCOMPARE(store.file(io::content_hash(kDrawing)), kDrawing);
    }

  private slots:
    // XXH3 of nothing, with seed 0, as its authors publish it.
    void the_hash_is_the_published_one() {
        QCOMPARE(io::content_hash(""), std::string("99aa06d3014798d86001c324468d497f"));
        QVERIFY(io::content_hash("a") != io::content_hash("b"));
    }

    void a_file_is_kept_once_and_read_back() {
        {
            Store store = with_files("a.bathmos");
            QCOMPARE(store.add_file(kPhoto), io::content_hash(kPhoto)); // again: once
            has_both(store);
            QCOMPARE(store.add_file(""), io::content_hash(""));
            QCOMPARE(store.file(io::content_hash("")), std::string());
            store.undo(); // takes the record back, not the file
            QCOMPARE(store.files().size(), std::size_t(3));
        }
        const Store again = Store::open(at("a.bathmos"));
        QCOMPARE(again.file(io::content_hash(kPhoto)), kPhoto);
    }

    void what_is_not_there_or_too_large_is_told() {
        Store store = with_files("b.bathmos");
        CONTAINS(problem_of([&] { store.file("0123"); }).what, "is not there");
        CONTAINS(problem_of([&] { store.add_file(std::string((32u << 20) + 1, 'x')); }).what, "32 MB");
        has_both(store);
    }

    void folders_and_copies_carry_them() {
        const Store store = with_files("c.bathmos");
        io::export_project(store, at("c"));
        QCOMPARE(io::read_file(at("c") / "file" / io::content_hash(kDrawing)), kDrawing);
        io::import_project(at("c"), at("c2.bathmos"));
        has_both(Store::open(at("c2.bathmos")));
        store.save_copy(at("c3.bathmos"));
        has_both(Store::open(at("c3.bathmos")));
        QVERIFY(!io::backups_of(at("c3.bathmos")).empty());
        has_both(Store::open(io::backups_of(at("c3.bathmos")).front()));
        // Somebody paints on the photo in the folder.
        io::write_file(at("c") / "file" / io::content_hash(kPhoto), "painted");
        CONTAINS(problem_of([&] { io::import_project(at("c"), at("c4.bathmos")); }).what,
                 "is not what it was");
        QVERIFY(!std::filesystem::exists(at("c4.bathmos")));
    }

    void a_damaged_file_is_told_and_a_rescue_keeps_the_others() {
        with_files("d.bathmos");
        {
            SQLite::Database db(at("d.bathmos").string(), SQLite::OPEN_READWRITE);
            db.exec("UPDATE file SET data = x'00' WHERE id = 1");
        }
        {
            const Store store = Store::open(at("d.bathmos"));
            CONTAINS(problem_of([&] { store.file(io::content_hash(kPhoto)); }).what, "damaged");
            QCOMPARE(store.file(io::content_hash(kDrawing)), kDrawing);
        }
        const io::RescueReport report = io::rescue(at("d.bathmos"), at("d2.bathmos"));
        QVERIFY(
            std::ranges::any_of(report.lost, [](const std::string& one) { return contains(one, "file 1"); }));
        const Store rescued = Store::open(at("d2.bathmos"));
        QCOMPARE(rescued.files().size(), std::size_t(1));
        QCOMPARE(rescued.file(io::content_hash(kDrawing)), kDrawing);
        QCOMPARE(rescued.project().of(EntryKind::Log).size(), std::size_t(1));
    }

    // A project of before files: brought up to date where it may be written, read without them where not.
    void an_older_project_has_none_until_it_is_brought_up_to_date() {
        {
            SQLite::Database db(at("old.bathmos").string(), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
            io::migrate_to(db, 3);
            QVERIFY(!io::has_files(db));
        }
        Store store = Store::open(at("old.bathmos"));
        QVERIFY(store.files().empty());
        store.add_file(kPhoto);
        QCOMPARE(store.file(io::content_hash(kPhoto)), kPhoto);
    }
};

QTEST_APPLESS_MAIN(TstKeptFiles)
#include "tst_kept_files.moc"
