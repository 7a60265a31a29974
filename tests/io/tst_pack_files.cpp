// Files that go out together: folder and zip are the same, whole or not at all, the same bytes each time.
#include "io/file/safe_file.h"
#include "io/pack/pack_files.h"
#include "support.h"

#include <QTemporaryDir>
#include <filesystem>

using namespace bathmos;
using namespace bathmos::test;
using io::PackFile;

namespace {

bool same(const std::vector<PackFile>& a, const std::vector<PackFile>& b) {
    return std::ranges::equal(
        a, b, [](const PackFile& x, const PackFile& y) { return x.name == y.name && x.bytes == y.bytes; });
}
// In the order of their names.
std::vector<PackFile> three() {
    return {{"answer.csv", "part,kind\n"},
            {"motions.h5", std::string(70'000, '\0') + "\x89HDF"},
            {"page.html", ""}};
}

} // namespace

class TstPackFiles : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    std::filesystem::path at(const char* name) { return folder_.filePath(QLatin1String(name)).toStdString(); }

  private slots:
    void folder_and_zip_hold_the_same_files() {
        io::write_pack_folder(at("pack"), three());
        io::write_pack_zip(at("pack.zip"), three(), "2026-02-27");
        QVERIFY(same(io::read_pack(at("pack")), three()));
        QVERIFY(same(io::read_pack(at("pack.zip")), three()));
        QVERIFY(std::filesystem::file_size(at("pack.zip")) < 2000); // it is pressed
        QVERIFY(!std::filesystem::exists(at("pack.part")));
    }

    void the_same_files_make_the_same_zip_and_its_date_is_given() {
        io::write_pack_zip(at("a.zip"), three(), "2026-02-27");
        io::write_pack_zip(at("b.zip"), three(), "2026-02-27");
        io::write_pack_zip(at("c.zip"), three(), "2026-02-28");
        QCOMPARE(io::read_file(at("a.zip")), io::read_file(at("b.zip")));
        QVERIFY(io::read_file(at("a.zip")) != io::read_file(at("c.zip")));
        // 2026-02-27 as a zip keeps days: 46 << 9 | 2 << 5 | 27, low byte first.
        CONTAINS(io::read_file(at("a.zip")), std::string("\x5b\x5c", 2));
    }

    void what_is_there_is_not_overwritten() {
        std::filesystem::create_directory(at("full"));
        io::write_file(at("full") / "mine.txt", "mine");
        const InputProblem problem = problem_of([&] { io::write_pack_folder(at("full"), three()); });
        CONTAINS(problem.what, "holds something already");
        QCOMPARE(io::read_file(at("full") / "mine.txt"), std::string("mine"));
        QVERIFY(!std::filesystem::exists(at("full") / "page.html"));
        std::filesystem::create_directory(at("empty"));
        io::write_pack_folder(at("empty") / "", three()); // with a slash behind
        QVERIFY(same(io::read_pack(at("empty")), three()));
    }

    void a_file_that_cannot_be_written_leaves_nothing() {
        std::vector<PackFile> bad = three();
        bad.push_back({"no/such/folder.txt", "x"});
        QVERIFY(!problem_of([&] { io::write_pack_folder(at("half"), bad); }).what.empty());
        QVERIFY(!std::filesystem::exists(at("half")) && !std::filesystem::exists(at("half.part")));
        CONTAINS(problem_of([&] { io::write_pack_zip(at("gone") / "x" / "p.zip", three(), ""); }).source,
                 "p.zip");
    }

    void what_is_no_pack_is_refused() {
        io::write_file(at("text.zip"), "no zip at all");
        CONTAINS(problem_of([&] { io::read_pack(at("text.zip")); }).what, "no zip");
        CONTAINS(problem_of([&] { io::read_pack(at("nowhere.zip")); }).what, "no zip");
        io::write_pack_zip(at("cut.zip"), three(), "2026-02-27");
        const std::string whole = io::read_file(at("cut.zip"));
        for (std::size_t length = 0; length < whole.size(); length += 13) {
            io::write_file(at("cut.zip"), whole.substr(0, length));
            QVERIFY(!problem_of([&] { io::read_pack(at("cut.zip")); }).what.empty());
        }
        std::string damaged = whole;
        damaged[damaged.find("motions.h5") + 14] ^= 0x40; // within its pressed bytes
        io::write_file(at("cut.zip"), damaged);
        bool told = false;
        try {
            told = !same(io::read_pack(at("cut.zip")), three());
        } catch (const InputError&) {
            told = true;
        }
        QVERIFY(told);
    }

    // Sizes are claimed before anything is unpacked: 300 MB of nothing are a few kilobytes.
    void a_zip_that_unpacks_to_more_than_a_pack_holds_is_refused() {
        const std::vector<PackFile> big = {{"a", std::string(150u << 20, '\0')},
                                           {"b", std::string(150u << 20, '\0')}};
        io::write_pack_zip(at("bomb.zip"), big, "2026-02-27");
        QVERIFY(std::filesystem::file_size(at("bomb.zip")) < 1u << 20);
        CONTAINS(problem_of([&] { io::read_pack(at("bomb.zip")); }).what, "256 MB");
    }
};

QTEST_APPLESS_MAIN(TstPackFiles)
#include "tst_pack_files.moc"
