// Pulls of the stand-in kept in a project and diagnosed, by the headless program.
#include "cli/run_cli.h"
#include "support.h"

#include <QTemporaryDir>

using namespace bathmos;
using namespace bathmos::test;

class TestCliVerdict : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString at(const char* name) const { return folder_.filePath(QLatin1String(name)); }

  private slots:
    void stand_in_pulls_are_made_and_diagnosed() {
        const QString train = source_path("demo/ravenmoor-t14-intake.train.json");
        for (const char* name : {"good", "slip"}) {
            QStringList words = {"stand-in-pull", train,     "--boost-kPa", "60",     "--torque",
                                 "110",           "--first", "2800",        "--last", "6700",
                                 "--rows",        "160",     "--out",       at(name)};
            if (std::string(name) == "slip")
                words += {"--fault", "belt_slip@5300", "--not-logged", "knock_deg"};
            const Answer answer = run(words);
            QVERIFY2(answer.code == 0, qPrintable(answer.error));
        }
        QCOMPARE(run({"stand-in-pull", train, "--out", at("x"), "--fault", "gremlin@5000"}).code, 2);
        QVERIFY(!QFile::exists(at("x")));
        QCOMPARE(run({"import", source_path("demo/project"), at("p.bathmos")}).code, 0);
        QCOMPARE(run({"keep-pull", at("p.bathmos"), at("good"), "--revision", "4"}).code, 0);
        QCOMPARE(
            run({"keep-pull", at("p.bathmos"), at("slip"), "--revision", "4", "--changed", "smaller pulley"})
                .code,
            0);
        QCOMPARE(run({"keep-pull", at("p.bathmos"), at("slip"), "--revision", "99"}).code, 2);
        const Answer answer = run({"diagnose", at("p.bathmos"), "--build", "T14 intake", "--json"});
        QVERIFY2(answer.code == 0, qPrintable(answer.error));
        const Json json = Json::parse(answer.out.toStdString());
        QCOMPARE(json["causes"][0]["key"].get<std::string>(), std::string("belt_slip"));
        QVERIFY(json["valve_train"].get<double>() < 0.1);
        CONTAINS(json["answer"].get<std::string>(), "valve train is innocent");
        QVERIFY(!json["next"].empty() && !json["causes"][0]["for"].empty());
        const Answer plain = run({"diagnose", at("p.bathmos"), "--build", "T14 intake"});
        QVERIFY2(plain.code == 0, qPrintable(plain.error));
        QVERIFY(plain.out.contains("Drive belt slips") && plain.out.contains("Next:"));
        const Answer none = run({"diagnose", at("p.bathmos"), "--build", "no such build", "--json"});
        QCOMPARE(none.code, 2);
        QVERIFY(none.error.contains("A22 intake"));
    }
};

QTEST_GUILESS_MAIN(TestCliVerdict)
#include "tst_cli_verdict.moc"
