// log and life as others run them: lines found and added, ages as JSON, a logger's file against a train, what
// is wrong told with exit 2.
#include "support.h"

#include <QProcess>
#include <QTemporaryDir>
#include <fstream>
#include <nlohmann/json.hpp>

using namespace bathmos::test;
using Json = nlohmann::json;

namespace {

struct Ran {
    int code = -1;
    std::string out, err;
};
Ran run(const QStringList& arguments) {
    QProcess process;
    process.start(BATHMOS_CLI, arguments);
    Ran out;
    if (!process.waitForFinished(120'000))
        return out;
    out.code = process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -2;
    out.out = process.readAllStandardOutput().toStdString();
    out.err = process.readAllStandardError().toStdString();
    return out;
}
Json json_of(const QString& path) {
    std::ifstream file(path.toStdString());
    return Json::parse(file);
}

} // namespace

class TstCliLog : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString project_ = folder_.filePath("demo.bathmos"), summary_ = folder_.filePath("s.json");

    Json summary(QStringList arguments) {
        const Ran ran = run(arguments << "--summary" << summary_);
        if (ran.code != 0)
            qFatal("%s", ran.err.c_str());
        return json_of(summary_);
    }

  private slots:
    void initTestCase() {
        const Ran ran = run({"import", source_path("demo/project"), project_});
        QVERIFY2(ran.code == 0, ran.err.c_str());
    }

    void lines_are_found_and_added() {
        Json found = summary({"log", project_, "--words", "missed gear"});
        QCOMPARE(found.size(), std::size_t(1));
        QCOMPARE(found[0]["title"].get<std::string>(), std::string("Cold Beck"));
        QCOMPARE(found[0]["kind"].get<std::string>(), std::string("use"));
        Ran ran = run({"log", project_, "--add", "note", "--title", "Seals changed", "--text",
                       "eight new ones", "--revision", "2", "--when", "2026-05-01"});
        QVERIFY2(ran.code == 0, ran.err.c_str());
        CONTAINS(ran.out, "log entry");
        ran = run({"log", project_, "--add", "failure", "--part", "bag 3", "--mode", "walked", "--place",
                   "cylinder 4", "--revision", "2", "--when", "2026-05-02"});
        QVERIFY2(ran.code == 0, ran.err.c_str());
        found = summary({"log", project_});
        CONTAINS(found[0]["title"].get<std::string>(), "walked");
        QCOMPARE(found[1]["title"].get<std::string>(), std::string("Seals changed"));
        QVERIFY(summary({"log", project_, "--kind", "failure", "--part", "bag 3"}).size() >= 2);
        CONTAINS(run({"log", project_, "--words", "seals"}).out, "Seals changed");
    }

    void a_file_is_kept_with_a_line_and_taken_out_again() {
        const QString photo = folder_.filePath("tip.jpg"), back = folder_.filePath("back.jpg");
        std::ofstream(photo.toStdString()) << "\xff\xd8 a photo";
        Ran ran = run({"log", project_, "--add", "note", "--title", "Tip blued", "--file", photo, "--when",
                       "2026-05-20"});
        QVERIFY2(ran.code == 0, ran.err.c_str());
        const Json line = summary({"log", project_, "--words", "tip.jpg"})[0];
        QCOMPARE(line["files"][0]["name"].get<std::string>(), std::string("tip.jpg"));
        const QString hash = QString::fromStdString(line["files"][0]["hash"].get<std::string>());
        QCOMPARE(run({"log", project_, "--take", hash, "--out", back}).code, 0);
        std::ifstream file(back.toStdString());
        QCOMPARE(std::string(std::istreambuf_iterator<char>(file), {}), std::string("\xff\xd8 a photo"));
        QCOMPARE(run({"log", project_, "--take", "0123", "--out", back}).code, 2);
        QCOMPARE(run({"log", project_, "--take", hash}).code, 2);
        const std::size_t lines = summary({"log", project_}).size();
        QCOMPARE(run({"log", project_, "--add", "note", "--title", "x", "--file", folder_.filePath("no.jpg")})
                     .code,
                 2);
        QCOMPARE(summary({"log", project_}).size(), lines);
    }

    void a_use_ages_the_parts() {
        const auto cycles = [&] {
            const Json ages = summary({"life", project_, "--today", "2026-05-05", "--without-wire"});
            for (const Json& part : ages["parts"])
                if (part["name"] == "Dual spring 640" && part["serial"] == "pair 11")
                    return part["cycles"].get<double>();
            return 0.0;
        };
        const double before = cycles();
        const QString logger = folder_.filePath("climb.csv");
        std::ofstream(logger.toStdString()) << "time_s,rpm\n0,6000\n2,6000\n4,6000\n";
        const Ran ran = run({"log", project_, "--add", "use", "--revision", "2", "--use", logger, "--at",
                             "3000:40", "--runs", "1", "--when", "2026-05-03"});
        QVERIFY2(ran.code == 0, ran.err.c_str());
        NEAR(cycles() - before, 200 + 1000, 0.5);
        const Json ages = summary({"life", project_, "--today", "2026-05-05"});
        bool wire = false;
        for (const Json& claim : ages["parts"][1]["claims"])
            wire = wire || claim["rule"] == "wire";
        for (const Json& part : ages["parts"])
            for (const Json& claim : part["claims"])
                if (claim["rule"] == "wire") {
                    wire = true;
                    QVERIFY(claim["estimated"].get<bool>());
                }
        QVERIFY(wire);
        CONTAINS(run({"life", project_, "--today", "2026-05-05", "--without-wire"}).out,
                 "Locks, 7 degree bag 3");
    }

    void a_logger_s_file_is_told_with_what_it_cost_a_train() {
        const QString logger = folder_.filePath("over.csv");
        std::ofstream(logger.toStdString()) << "time_s,rpm\n0,7000\n2,7000\n3,9000\n4,7000\n6,7000\n";
        const Json told =
            summary({"life", "--use", logger, "--train",
                     source_path("demo/ashgill-a22-intake-after.train.json"), "--limit", "8000"});
        NEAR(told["cycles"].get<double>(), (7000 * 4 + 8000 * 2) / 120.0, 0.06);
        QCOMPARE(told["excursions"].size(), std::size_t(1));
        NEAR(told["excursions"][0]["seconds"].get<double>(), 1, 1e-9);
        QCOMPARE(told["excursions"][0]["highest_rpm"].get<double>(), 9000.0);
        QVERIFY(told["springs"].size() >= 1);
        QVERIFY(told["springs"][0]["share"].get<double>() > 0);
        QVERIFY(told["springs"][0]["by_speed"][0]["high_MPa"].get<double>() > 400);
    }

    void what_is_wrong_is_told_and_changes_nothing() {
        const std::size_t before = summary({"log", project_}).size();
        const auto refused = [&](const QStringList& arguments, const char* part) {
            const Ran ran = run(arguments);
            QCOMPARE(ran.code, 2);
            CONTAINS(ran.err, part);
        };
        refused({"log", project_, "--add", "note"}, "no words");
        refused({"log", project_, "--add", "use", "--at", "6000:10"}, "which revision");
        refused({"log", project_, "--add", "use", "--revision", "2", "--at", "fast"}, "RPM:SECONDS");
        refused({"log", project_, "--add", "use", "--revision", "2", "--at", "nan:3"}, "--at");
        refused({"log", project_, "--add", "failure", "--part", "nobody", "--mode", "bent"},
                "not on the shelf");
        refused({"log", project_, "--add", "failure", "--mode", "evaporated"}, "--mode");
        refused({"log", project_, "--add", "note", "--title", "x", "--when", "soon"}, "no date");
        refused({"log", project_, "--summary", project_}, "--summary");
        refused({"life", project_, "--today", "soon"}, "no date");
        refused({"life"}, "project");
        refused({"life", "--use", source_path("README.md")}, "README.md");
        QCOMPARE(summary({"log", project_}).size(), before);
    }
};

QTEST_GUILESS_MAIN(TstCliLog)
#include "tst_cli_log.moc"
