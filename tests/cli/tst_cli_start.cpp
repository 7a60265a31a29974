// start as others run it: a train from what is known, what is assumed told, bad input with exit 2.
#include "cli/run_cli.h"
#include "core/train/assumed.h"
#include "io/train/train_file.h"
#include "support.h"

#include <QTemporaryDir>

using namespace bathmos;
using namespace bathmos::test;

class TstCliStart : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString at(const char* name) const { return folder_.filePath(QLatin1String(name)); }
    QString known(const char* more) {
        const QString path = at("known.json");
        write_test_file(
            path, QByteArray("{\"format\": \"bathmos-known\", \"version\": 1, \"layout\": \"bucket\", ") +
                      more + "}");
        return path;
    }

  private slots:
    void a_train_is_written_and_what_is_assumed_told() {
        const Answer ran =
            run({"start",
                 known("\"known\": {\"valve.mass_g\": 29, \"spring.seat_load_N\": 260}, "
                       "\"card\": {\"lift_mm\": 9.2, \"durations\": [{\"at_mm\": 1, \"crank_deg\": 240}]}"),
                 "--out", at("new.train.json"), "--quick"});
        QVERIFY2(ran.code == 0, qPrintable(ran.error));
        QVERIFY(ran.out.contains("assumed: Retainer mass"));
        QVERIFY(!ran.out.contains("assumed: Valve mass"));
        QVERIFY(!ran.out.contains("limit:"));
        const Train train = io::read_train(at("new.train.json").toStdString());
        NEAR(train.valve.mass_kg, 0.029, 1e-12);
        QVERIFY(!assumed_numbers(train).empty());
    }

    void the_band_and_what_is_worth_knowing_stand_beside_it() {
        const Answer ran = run({"start", known("\"known\": {}"), "--trains", "20"});
        QVERIFY2(ran.code == 0, qPrintable(ran.error));
        QVERIFY(ran.out.contains("limit: 10 % below "));
    }

    void a_project_made_for_a_package_hangs_on_its_date_alone() {
        qputenv("SOURCE_DATE_EPOCH", "1790000000");
        QByteArray made[2];
        for (int i = 0; i < 2; ++i) {
            const QString project = at(i == 0 ? "one.bathmos" : "two.bathmos");
            for (const QStringList& step :
                 {QStringList{"import", source_path("demo/project"), project},
                  QStringList{"keep-sheet", project, source_path("demo/spring-5.sheet.json"), "--revision",
                              "2", "--when", "2026-04-19", "--name", "Spring 5"}}) {
                const Answer ran = run(step);
                QVERIFY2(ran.code == 0, qPrintable(ran.error));
            }
            QFile file(project);
            QVERIFY(file.open(QIODevice::ReadOnly));
            made[i] = file.readAll();
            QTest::qWait(1100); // the clock goes on
        }
        qunsetenv("SOURCE_DATE_EPOCH");
        QVERIFY(made[0] == made[1]);
    }

    void bad_input_exits_with_two_and_writes_nothing() {
        Answer ran =
            run({"start", known("\"known\": {\"valve.mass_g\": -1}"), "--out", at("bad.train.json")});
        QCOMPARE(ran.code, 2);
        QVERIFY(ran.error.contains("known.json") && ran.error.contains("valve.mass_g"));
        QVERIFY(!QFile::exists(at("bad.train.json")));
        ran = run({"start", known("\"known\": {\"spring.seat_load_N\": 500, \"spring.open_load_N\": 300}"),
                   "--quick"});
        QCOMPARE(ran.code, 2);
        QVERIFY(ran.error.contains("known.json: spring.open_load_N"));
        ran = run({"start", at("none.json")});
        QCOMPARE(ran.code, 2);
        const QString same = known("\"known\": {}");
        ran = run({"start", same, "--quick", "--out", same});
        QCOMPARE(ran.code, 2);
    }
};

QTEST_GUILESS_MAIN(TstCliStart)
#include "tst_cli_start.moc"
