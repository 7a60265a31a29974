// Bench sheets and runs against each other on the command line, as others run them.
#include "cli/run_cli.h"
#include "core/project/project.h"
#include "io/file/safe_file.h"
#include "io/project/store.h"
#include "support.h"

#include <QFile>
#include <QTemporaryDir>

using namespace bathmos;
using namespace bathmos::test;

namespace {

const QString kTrain = source_path(QStringLiteral("tests/trains/ashgill-a22-intake.train.json"));

} // namespace

class TstCliBench : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString at(const char* name) const { return folder_.filePath(QLatin1String(name)); }

  private slots:
    void a_bench_sheet_is_summed_up_or_refused_by_its_key() {
        const auto demo = [](const char* name) { return source_path(QStringLiteral("demo/") + name); };
        const Answer a = run({"sheet", demo("spring-set.sheet.json"), "--summary", at("set.json")});
        QCOMPARE(a.code, 0);
        const Json set = json_of(at("set.json"));
        QVERIFY(set["tired"] == Json({"A22-5"})); // the demo's story: one of the eight
        QVERIFY(set["reject"] == Json({"A22-5"}));
        QCOMPARE(set["pairs"].size(), std::size_t(6));
        const Answer words = run({"sheet", demo("height-lot-2.sheet.json")});
        QCOMPARE(words.code, 0);
        CONTAINS(words.out.toStdString(), "installed height: 42.5");
        CONTAINS(words.out.toStdString(), "shims");
        const Answer long_rod = run({"sheet", demo("ratio-long-rod.sheet.json"), "--summary", at("r.json")});
        CONTAINS(long_rod.error.toStdString(), "note: not_as_believed");
        NEAR(json_of(at("r.json"))["stiffness_N_per_mm"]["value"].get<double>(), 6200, 500);
        QCOMPARE(run({"sheet", demo("spring-5.sheet.json"), "--summary", at("s5.json")}).code, 0);
        QVERIFY(!json_of(at("s5.json"))["solid_mm"].is_null());

        io::write_file(
            at("bad.sheet.json").toStdString(),
            R"({"format": "bathmos-sheet", "version": 1, "kind": "stiffness", "force_N": [0, 1]})");
        const Answer bad = run({"sheet", at("bad.sheet.json"), "--summary", at("never.json")});
        QCOMPARE(bad.code, 2);
        CONTAINS(bad.error.toStdString(), "dial_mm");
        CONTAINS(bad.error.toStdString(), "bad.sheet.json");
        QVERIFY(!QFile::exists(at("never.json")));
        QCOMPARE(run({"sheet", at("set.json"), "--summary", at("set.json")}).code, 2); // over its own input
    }

    void a_sheet_that_needs_a_train_takes_one() {
        io::write_file(
            at("near.sheet.json").toStdString(),
            R"({"format": "bathmos-sheet", "version": 1, "kind": "near_solid", "margin_mm": 1.5})");
        const Answer bare = run({"sheet", at("near.sheet.json")});
        QCOMPARE(bare.code, 2);
        CONTAINS(bare.error.toStdString(), "--train");
        const Answer a =
            run({"sheet", at("near.sheet.json"), "--train", kTrain, "--summary", at("near.json")});
        QVERIFY2(a.code == 0, qPrintable(a.error));
        QVERIFY(json_of(at("near.json"))["height_mm"]["value"].get<double>() > 30);
        const Answer head = run({"sheet", source_path(QStringLiteral("demo/head.sheet.json"))});
        QCOMPARE(head.code, 0);
        CONTAINS(head.error.toStdString(), "retainer_differs"); // the demo's one that is not of the set
    }

    void runs_are_compared_with_what_the_gain_is_known_to() {
        const auto demo = [](const char* name) { return source_path(QStringLiteral("demo/") + name); };
        const QStringList asked = {"compare",
                                   demo("ashgill-a22-intake-before.rig.csv"),
                                   demo("ashgill-a22-intake-after.rig.csv"),
                                   "--train",
                                   demo("ashgill-a22-intake-before.train.json"),
                                   "--train",
                                   demo("ashgill-a22-intake-after.train.json")};
        const Answer a = run(asked + QStringList{"--summary", at("runs.json")});
        QVERIFY2(a.code == 0, qPrintable(a.error));
        const Json json = json_of(at("runs.json"));
        QCOMPARE(json["runs"].size(), std::size_t(2));
        QVERIFY(json["runs"][1]["edge_rpm"].is_number());
        QVERIFY(json["runs"][0]["edge_rpm"].is_null()); // last season's has no edge in range
        QVERIFY(json["gains"][0]["rpm"].is_null() && json["gains"][0]["claimed"] == false);
        CONTAINS(a.error.toStdString(), "no_edge");
        const Json& losses = json["runs"][1]["losses"];
        QCOMPARE(losses[0]["duration_deg"].size(), json["runs"][1]["heights_mm"].size());
        QVERIFY(losses.size() > 3 && losses[0]["duration_deg"][2] == 0.0); // the slowest has lost nothing
        CONTAINS(run(asked).out.toStdString(), "not known");
        QCOMPARE(run(asked.mid(0, 2) + asked.mid(3, 2)).code, 2);            // one trace
        QCOMPARE(run(asked + QStringList{"--train", asked.last()}).code, 2); // three trains for two
    }

    void a_sheet_is_kept_beside_its_revision() {
        QCOMPARE(run({"import", source_path(QStringLiteral("demo/project")), at("sheets.bathmos")}).code, 0);
        const QString sheet = source_path(QStringLiteral("demo/spring-set.sheet.json"));
        QCOMPARE(
            run({"keep-sheet", at("sheets.bathmos"), sheet, "--revision", "2", "--name", "the set"}).code, 0);
        const io::Store store = io::Store::open(at("sheets.bathmos").toStdString());
        const auto& kept = store.project().of(EntryKind::Sheet);
        QVERIFY(!kept.empty());
        const Entry& one = kept.rbegin()->second;
        QCOMPARE(one.name, std::string("the set"));
        QVERIFY(one.revision == 2 && one.closes.empty());
        CONTAINS(one.text, "A22-5");
        CONTAINS(one.words.at("sheet"), "spring_set");
        QCOMPARE(run({"keep-sheet", at("sheets.bathmos"), sheet, "--revision", "99"}).code, 2);
    }
};

QTEST_GUILESS_MAIN(TstCliBench)
#include "tst_cli_bench.moc"
