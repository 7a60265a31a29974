#include "core/project/assembly.h"
#include "io/file/safe_file.h"
#include "io/project/rescue.h"
#include "io/project/store.h"
#include "support.h"

#include <QTemporaryDir>
#include <SQLiteCpp/SQLiteCpp.h>
#include <random>

using namespace bathmos;
using namespace bathmos::io;
using namespace bathmos::test;
namespace fs = std::filesystem;

namespace {

constexpr std::size_t kPage = 4096;

// A project of a season: engines, a shelf, a long line of revisions, runs with their readings.
std::size_t fill(const fs::path& path) {
    Store store = Store::create(path);
    Project p;
    p.engines[1].name = "Ashgill A22";
    for (Id id = 1; id <= 60; ++id) {
        p.parts[id] = *part_from(starter_train(), id % 2 ? PartKind::Spring : PartKind::Pushrod);
        p.parts[id].name = "part " + std::to_string(id);
    }
    p.builds[1] = {"intake", 1, ValveSide::Intake, radians(108), 40, ""};
    for (Id id = 1; id <= 40; ++id) {
        p.revisions[id] = {1, id - 1, "", "step " + std::to_string(id), now_text(), {starter_train(), {}}};
        p.revisions[id].assembly.train.lash_m = 1e-5 * static_cast<double>(id);
    }
    for (Id id = 1; id <= 3; ++id) {
        Trace trace{"run.csv", "rig", "intake 3", {}};
        trace.columns.push_back({"lift_mm", true, std::vector<float>(40000), {}});
        for (std::size_t i = 0; i < 40000; ++i)
            trace.columns[0].readings[i] = static_cast<float>(static_cast<double>((i * 7919) % 1000) * 1e-3);
        trace.columns.push_back({"turn_rpm", false, {}, {1234.5}});
        p.of(EntryKind::RigRun)[id] = {"run",  2,  now_text(), "hands",
                                       "text", {}, {},         {store.add_trace(packed(trace))}};
    }
    std::vector<RecordChange> all;
    for (std::size_t kind = 0; kind < kRecordKinds; ++kind)
        for (const Id id : record_ids(p, static_cast<RecordKind>(kind)))
            all.push_back(
                {static_cast<RecordKind>(kind), id, record_text(p, static_cast<RecordKind>(kind), id)});
    store.commit("fill", "", all);
    return all.size();
}

enum class Damage { Flips, PageOfZeros, PageOfNoise, CutShort, NoHead, NoDirectory, Count };
constexpr const char* kNames[] = {"flipped bytes", "a page of zeros",      "a page of noise",
                                  "cut short",     "first 100 bytes gone", "first page gone"};

std::string damaged(std::string bytes, Damage kind, std::mt19937& random) {
    const auto pick = [&](std::size_t most) {
        return std::uniform_int_distribution<std::size_t>(0, most - 1)(random);
    };
    const std::size_t page = kPage * pick(bytes.size() / kPage);
    switch (kind) {
    case Damage::Flips:
        for (std::size_t i = 0; i < 1 + pick(100); ++i)
            bytes[pick(bytes.size())] = static_cast<char>(pick(256));
        break;
    case Damage::PageOfZeros:
        bytes.replace(page, kPage, std::string(kPage, '\0'));
        break;
    case Damage::PageOfNoise:
        for (std::size_t i = 0; i < kPage; ++i)
            bytes[page + i] = static_cast<char>(pick(256));
        break;
    case Damage::CutShort:
        bytes.resize(bytes.size() / 4 + pick(bytes.size() * 3 / 4));
        break;
    case Damage::NoHead:
        bytes.replace(0, 100, std::string(100, '\0'));
        break;
    case Damage::NoDirectory:
        bytes.replace(0, kPage, std::string(kPage, '\0'));
        break;
    case Damage::Count:
        break;
    }
    return bytes;
}

} // namespace

// What is left of damaged projects, counted.
class TestRescue : public QObject {
    Q_OBJECT
  private slots:
    // The table of calibrations lies anywhere in a file that was made before there was one.
    void a_calibration_is_rescued_from_a_file_of_before_without_its_first_page() {
        QTemporaryDir dir;
        const fs::path path = dir.filePath(QStringLiteral("before.bathmos")).toStdString(),
                       to = dir.filePath(QStringLiteral("rescued.bathmos")).toStdString();
        fill(path);
        {
            SQLite::Database db(path.string(), SQLite::OPEN_READWRITE);
            db.exec("DROP TABLE calibration; DROP TABLE file; PRAGMA user_version = 2");
        }
        Project whole;
        {
            Store store = Store::open(path);
            store.commit(
                "calibration", "",
                {{RecordKind::Calibration, 1,
                  R"({"name": "c", "revision": 2, "when": "2026", "numbers": {"run": 1, "evidence_surge": 3},
                               "words": {"chosen": "surge"}})"}});
            whole = store.project();
        }
        std::mt19937 random(1);
        write_file(path, damaged(read_file(path), Damage::NoDirectory, random));
        rescue(path, to);
        const Store back = Store::open(to);
        QVERIFY(back.project().of(EntryKind::Calibration) == whole.of(EntryKind::Calibration));
        QVERIFY(back.project().of(EntryKind::Sheet).empty());
        QVERIFY(back.project().revisions == whole.revisions && back.project().parts == whole.parts);
    }

    void damaged_projects_give_back_what_still_stands() {
        QTemporaryDir dir;
        const fs::path whole = dir.filePath(QStringLiteral("whole.bathmos")).toStdString(),
                       path = dir.filePath(QStringLiteral("damaged.bathmos")).toStdString(),
                       to = dir.filePath(QStringLiteral("rescued.bathmos")).toStdString();
        const std::size_t records = fill(whole);
        const std::string bytes = read_file(whole);
        std::mt19937 random(20);
        constexpr auto kinds = static_cast<std::size_t>(Damage::Count);
        std::array<double, kinds> shares{}, traces{}, tries{};
        for (int round = 0; round < drawn(BATHMOS_RESCUE_ROUNDS); ++round) {
            const std::size_t kind = static_cast<std::size_t>(round) % kinds;
            ++tries[kind];
            write_file(path, damaged(bytes, static_cast<Damage>(kind), random));
            try {
                const RescueReport report = rescue(path, to);
                const Store store = Store::open(to);
                QVERIFY(check_project(store.project()).empty());
                QCOMPARE(store.traces().size(), report.traces);
                shares[kind] +=
                    std::min(1.0, static_cast<double>(report.records) / static_cast<double>(records));
                traces[kind] += static_cast<double>(report.traces) / 3;
            } catch (const InputError& error) {
                QVERIFY2(!fs::exists(to), error.what()); // nothing readable leaves nothing behind
            }
            for (const char* end : {"", ".backup-1", "-wal", "-shm", ".lock"})
                fs::remove(to.string() + end);
        }
        for (std::size_t kind = 0; kind < kinds; ++kind) {
            shares[kind] /= tries[kind];
            traces[kind] /= tries[kind];
        }
        for (std::size_t kind = 0; kind < kinds; ++kind)
            qInfo("%s: %.1f %% of the records, %.1f %% of the traces", kNames[kind], 100 * shares[kind],
                  100 * traces[kind]);
        QVERIFY(shares[static_cast<std::size_t>(Damage::Flips)] > 0.9);
        QVERIFY(shares[static_cast<std::size_t>(Damage::PageOfZeros)] > 0.95);
        QVERIFY(shares[static_cast<std::size_t>(Damage::PageOfNoise)] > 0.95);
        QVERIFY(shares[static_cast<std::size_t>(Damage::CutShort)] > 0.3);
        QVERIFY(shares[static_cast<std::size_t>(Damage::NoHead)] > 0.99);
        QVERIFY(shares[static_cast<std::size_t>(Damage::NoDirectory)] > 0.99);
        QVERIFY(traces[static_cast<std::size_t>(Damage::NoDirectory)] > 0.99);
    }

    void what_is_no_project_at_all_leaves_no_file() {
        QTemporaryDir dir;
        const fs::path path = dir.filePath(QStringLiteral("noise")).toStdString(),
                       to = dir.filePath(QStringLiteral("to.bathmos")).toStdString();
        write_file(path, std::string(20000, 'x'));
        CONTAINS(problem_of([&] { rescue(path, to); }).what, "nothing in it can be read");
        QVERIFY(!fs::exists(to));
        CONTAINS(problem_of([&] { rescue(dir.filePath(QStringLiteral("none")).toStdString(), to); }).what,
                 "cannot be read");
        QVERIFY(!fs::exists(to));
    }

    void what_stands_in_the_log_alone_is_rescued_too() {
        QTemporaryDir dir;
        const fs::path path = dir.filePath(QStringLiteral("p.bathmos")).toStdString(),
                       copy = dir.filePath(QStringLiteral("copy.bathmos")).toStdString(),
                       to = dir.filePath(QStringLiteral("to.bathmos")).toStdString();
        fill(path);
        {
            Store store = Store::open(path);
            Project p = store.project();
            p.engines[1].name = "newest";
            store.commit("newest", "", {{RecordKind::Engine, 1, record_text(p, RecordKind::Engine, 1)}});
            std::string bytes = read_file(path);
            bytes.replace(0, 16, std::string(16, '\0')); // its library no longer knows it
            write_file(copy, bytes);
            write_file(copy.string() + "-wal", read_file(path.string() + "-wal"));
        }
        const RescueReport report = rescue(copy, to);
        QCOMPARE(Store::open(to).project().engines.at(1).name, std::string("newest"));
        QCOMPARE(report.traces, std::size_t(3));
    }
};

QTEST_GUILESS_MAIN(TestRescue)
#include "tst_rescue.moc"
