// plan as others run it: a table, a summary, what a calibrated run has taught, what is wrong with exit 2.
#include "cli/run_cli.h"
#include "io/train/train_file.h"
#include "support.h"

#include <QTemporaryDir>

using namespace bathmos;
using namespace bathmos::test;

class TstCliCampaign : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString campaign_ = folder_.filePath("c.campaign.json"), fitted_ = folder_.filePath("f.train.json"),
            summary_ = folder_.filePath("s.json");

    void write(const QString& path, const std::string& text) {
        QFile file(path);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(QByteArray::fromStdString(text));
    }
    // Expected limit of the baseline, the first run.
    double baseline_rpm(QStringList more) {
        const Answer answer =
            run(QStringList{"plan", campaign_, "--draws", "4", "--summary", summary_} + more);
        if (answer.code != 0)
            qFatal("%s", qPrintable(answer.error));
        return json_of(summary_).at("runs")[0].at("predicted_rpm").get<double>();
    }

  private slots:
    void initTestCase() {
        const Json train = Json::parse(io::train_text(starter_train()));
        const Json campaign = {
            {"format", "bathmos-campaign"},
            {"version", 1},
            {"train", train},
            {"rpm", "5000:10000:250"},
            {"factors",
             {{{"name", "valve"},
               {"change_h", 1},
               {"levels",
                {{{"name", "as it is"}}, {{"name", "light"}, {"patch", {{"valve", {{"mass_g", 90}}}}}}}}}}},
            {"mounted", {{"valve", "as it is"}}},
            {"baseline", {{"valve", "as it is"}}},
            {"hours", {8}},
            {"run_h", 0.5}};
        write(campaign_, campaign.dump());
        Train fitted = starter_train();
        for (Spring& spring : fitted.springs)
            std::get<CoilGeometry>(spring.kind).shear_modulus_Pa *= 0.9;
        fitted.tolerances["springs[0].shear_modulus_GPa"] = {Source::Fitted, 1e9};
        io::write_train(fitted_.toStdString(), fitted);
    }

    void a_plan_is_a_table_or_a_summary() {
        const Answer table = run({"plan", campaign_, "--draws", "4"});
        QVERIFY2(table.code == 0, qPrintable(table.error));
        QVERIFY(table.out.contains("baseline: ") && table.out.contains("of 8.0 hours booked"));
        QVERIFY(baseline_rpm({}) > 5000);
    }

    void what_a_run_has_taught_is_in_the_forecast() {
        const double as_believed = baseline_rpm({}), fitted = baseline_rpm({"--fitted", fitted_});
        QVERIFY2(fitted < as_believed - 50, qPrintable(QString::number(as_believed - fitted)));
        // Fitted from a train of other springs it holds for none of these.
        Train other = starter_train();
        std::get<CoilGeometry>(other.springs[0].kind).wire_m *= 1.01;
        const QString believed = folder_.filePath("b.train.json");
        io::write_train(believed.toStdString(), other);
        NEAR(baseline_rpm({"--fitted", fitted_, "--believed", believed}), as_believed, 1e-6);
    }

    void what_is_wrong_is_told_with_exit_2() {
        const auto told = [&](const QStringList& arguments, const char* what) {
            const Answer answer = run(QStringList{"plan", campaign_} + arguments);
            return answer.code == 2 && answer.error.contains(what);
        };
        const QString plain = folder_.filePath("p.train.json");
        io::write_train(plain.toStdString(), starter_train());
        QVERIFY(told({"--fitted", plain}, "no number of it was fitted"));
        QVERIFY(told({"--believed", plain}, "stands without --fitted"));
        QVERIFY(told({"--fitted", campaign_}, "train"));
        QVERIFY(told({"--fitted", fitted_, "--summary", fitted_}, "--summary"));
        QVERIFY(told({"--draws", "2"}, "--draws"));
    }
};

QTEST_GUILESS_MAIN(TstCliCampaign)
#include "tst_cli_campaign.moc"
