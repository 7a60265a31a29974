// Cases solved by an independent solver of the same laws (tests/reference/README.md).
#include "core/motion/sweep.h"
#include "io/train/train_file.h"
#include "support.h"

#include <QDir>
#include <fstream>
#include <nlohmann/json.hpp>

using namespace bathmos;
using namespace bathmos::test;
using Json = nlohmann::json;

namespace {

constexpr double kRms_um = 0.5, kMax_um = 3.0, kLimitShare = 0.001; // what the reference asks for

Json load(const QString& name) {
    std::ifstream file(source_file("tests/reference/" + name.toStdString() + ".json"));
    return Json::parse(file);
}

void list_cases(const char* kind) {
    QTest::addColumn<QString>("name");
    const QDir folder(source_path(QStringLiteral("tests/reference")));
    for (const QString& file : folder.entryList({QStringLiteral("*.json")})) {
        const QString name = file.chopped(5);
        if (load(name)["kind"] == kind)
            QTest::newRow(qPrintable(name)) << name;
    }
}

SpeedRange range_of(const std::string& text) {
    const auto a = text.find(':'), b = text.find(':', a + 1);
    return {std::stod(text.substr(0, a)), std::stod(text.substr(a + 1, b - a - 1)),
            std::stod(text.substr(b + 1))};
}

} // namespace

class TestReference : public QObject {
    Q_OBJECT
  private slots:
    void halving_the_step_changes_lift_of_the_demo_trains_by_less_than_a_micrometre_data() {
        QTest::addColumn<QString>("file");
        for (const QString& file :
             QDir(source_path(QStringLiteral("demo"))).entryList({QStringLiteral("*.train.json")}))
            QTest::newRow(qPrintable(file)) << file;
    }
    void halving_the_step_changes_lift_of_the_demo_trains_by_less_than_a_micrometre() {
        QFETCH(QString, file);
        const Train t = io::read_train(source_file("demo/" + file.toStdString()));
        const MotionModel model(t);
        for (const Motion& m : model.run({3000, 4500, 6000, 7200})) {
            if (!m.periodic || m.last_change_m > 0.1e-6)
                continue; // on the brink of not repeating, no two runs end in the same cycle
            const std::size_t substeps = substeps_for(model.chain(), m.speed_rpm) * (m.clashed ? 4 : 2);
            std::vector<double> finer;
            run_speeds(chain_of(t, model.rigid(), substeps), {m.speed_rpm},
                       [&](Motion&& x) { finer = x[Channel::Lift]; });
            double worst = 0;
            for (std::size_t i = 0; i < kGridPoints; ++i)
                worst = std::max(worst, std::abs(finer[i] - m[Channel::Lift][i]));
            QVERIFY2(worst < 1e-6,
                     qPrintable(QStringLiteral("%1 um at %2").arg(worst * 1e6).arg(m.speed_rpm)));
        }
    }

    void lift_agrees_data() { list_cases("motion"); }
    void lift_agrees() {
        QFETCH(QString, name);
        const Json wanted = load(name);
        const Train train = io::parse_train(wanted["train"].dump(), name.toStdString());
        const Motion motion = simulate_one(train, wanted["rpm"]);
        if (!wanted["periodic"]) { // beyond the edge only that fact and the order of the spread count
            QVERIFY(!motion.periodic);
            const double spread = wanted["metrics"]["cycle_spread_mm"],
                         ours = *motion.metrics.in_unit(Metric::CycleVariation);
            QVERIFY2(ours > spread / 3 && ours < spread * 3, qPrintable(QString::number(ours)));
            return;
        }
        QVERIFY(motion.periodic);
        const Json& lift = wanted["motion"]["lift_mm"];
        const double first = wanted["motion"]["crank_deg_first"], step = wanted["motion"]["crank_deg_step"];
        double squares = 0, worst = 0;
        for (std::size_t i = 0; i < lift.size(); ++i) {
            const double error =
                (lift_at(motion, first + step * static_cast<double>(i)) * 1e3 - lift[i].get<double>()) * 1e3;
            squares += error * error;
            worst = std::max(worst, std::abs(error));
        }
        const double rms = std::sqrt(squares / static_cast<double>(lift.size()));
        qInfo("%s: %.3f um RMS, %.3f um largest", qPrintable(name), rms, worst);
        QVERIFY2(rms <= kRms_um && worst <= kMax_um,
                 qPrintable(QStringLiteral("%1 um RMS, %2 um largest").arg(rms).arg(worst)));
        for (const auto& [metric, key, tolerance] : {std::tuple{Metric::LiftLoss, "lift_loss_mm", 1e-3},
                                                     {Metric::OpeningShift, "opening_shift_deg", 0.01},
                                                     {Metric::ClosingShift, "closing_shift_deg", 0.01},
                                                     {Metric::Seating, "seating_m_per_s", 0.005},
                                                     {Metric::Surge, "surge_mm", 5e-3},
                                                     {Metric::ContactLoss, "contact_loss_deg", 0.1}}) {
            const Json& expected = wanted["metrics"][key];
            QCOMPARE(motion.metrics[metric].has_value(), !expected.is_null());
            if (!expected.is_null())
                NEAR(*motion.metrics.in_unit(metric), expected.get<double>(), tolerance);
        }
    }

    void limits_agree_data() { list_cases("sweep"); }
    void limits_agree() {
        QFETCH(QString, name);
        const Json wanted = load(name), summary = wanted["summary"];
        const Train train = io::parse_train(wanted["train"].dump(), name.toStdString());
        const Sweep result = sweep(train, range_of(wanted["rpm"]));
        const double limit = summary["limit_rpm"];
        NEAR(*result.summary.limit.speed_rpm, limit, kLimitShare * limit);
        QCOMPARE(QString::fromUtf8(result.summary.limit.first->key.data()),
                 QString::fromStdString(summary["limit_metric"]));
        for (const Crossing& crossing : result.summary.limit.crossings) {
            const Json& expected = summary["crossings_rpm"][std::string(crossing.limit.key)];
            QVERIFY2(crossing.speed_rpm.has_value() == !expected.is_null(), crossing.limit.key.data());
            if (!expected.is_null())
                NEAR(*crossing.speed_rpm, expected.get<double>(), kLimitShare * expected.get<double>());
        }
        NEAR(result.summary.separation->speed_rpm, summary["separation_rpm"].get<double>(),
             kLimitShare * limit);
        NEAR(std::abs(result.summary.separation->crank_deg),
             std::abs(summary["separation_deg"].get<double>()), 0.2);
        NEAR(result.summary.low_speed_duration_change_deg,
             summary["low_speed_duration_change_deg"].get<double>(), 0.01);
    }

    void a_lobe_given_as_a_table_has_the_limit_of_its_formula() {
        const Sweep formula = sweep(io::read_train(source_file("tests/trains/corrie-500-intake.train.json")),
                                    {7500, 8700, 100});
        const Sweep table =
            sweep(io::read_train(source_file("tests/trains/corrie-500-intake-table.train.json")),
                  {7500, 8700, 100});
        NEAR(*table.summary.limit.speed_rpm, *formula.summary.limit.speed_rpm, kLimitShare * 8000);
    }
};

QTEST_GUILESS_MAIN(TestReference)
#include "tst_reference.moc"
