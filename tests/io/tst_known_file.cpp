// What is known of a train as a file, there and back, and what is refused of it.
#include "core/start/start_train.h"
#include "io/train/known_json.h"
#include "io/train/train_file.h"
#include "support.h"

#include <QTemporaryDir>

using namespace bathmos;
using namespace bathmos::test;

namespace {

KnownTrain full() {
    KnownTrain known;
    known.name = "Bench";
    known.layout = Layout::Finger;
    known.metal = ValveMetal::Titanium;
    known.exhaust = known.hydraulic = true;
    known.follower = FollowerKind::Roller;
    known.nested = 2;
    known.numbers = {{"valve.mass_g", 0.0385}, {"spring.seat_load_N", 210}, {"engine.target_rpm", 9000}};
    known.lobe = LobeCard{5.7e-3, false, {{1e-3, radians(231.5), true}}};
    return known;
}

InputProblem refused(const std::string& text) {
    return problem_of([&] { io::known_from_json(io::parse_json(text)); });
}

std::string with(const std::string& more) {
    return "{\"format\": \"bathmos-known\", \"version\": 1, \"layout\": \"pushrod\", " + more + "}";
}

} // namespace

class TestKnownFile : public QObject {
    Q_OBJECT
  private slots:
    void it_comes_back_as_it_went() {
        const KnownTrain known = full(), back = io::known_from_json(io::known_json(known));
        QCOMPARE(back.name, known.name);
        QVERIFY(back.layout == known.layout && back.metal == known.metal && back.exhaust && back.hydraulic);
        QVERIFY(back.follower == known.follower && back.nested == 2);
        QCOMPARE(back.numbers.size(), known.numbers.size());
        for (const auto& [key, si] : known.numbers)
            NEAR(back.number(key).value_or(0), si, 1e-12);
        const auto& card = std::get<LobeCard>(back.lobe);
        NEAR(card.lift_m.value_or(0), 5.7e-3, 1e-12);
        QVERIFY(!card.lift_at_valve && card.durations.at(0).at_valve);
        NEAR(card.durations.at(0).duration_crank_rad, radians(231.5), 1e-9);
    }

    void readings_come_back_too() {
        KnownTrain known;
        LobeTable table;
        table.angle_unit = AngleUnit::CrankDegree;
        table.lift_unit = LiftUnit::Inch;
        table.angle = {0, 5, 10};
        table.lift = {0, 0.01, 0.02};
        known.lobe = table;
        const KnownTrain back = io::known_from_json(io::known_json(known));
        QVERIFY(std::get<LobeTable>(back.lobe) == table);
    }

    void what_cannot_be_is_refused_by_its_key() {
        QCOMPARE(refused("{}").location, std::string("format"));
        QCOMPARE(refused(with("\"known\": {\"valve.mass_g\": -3}")).location,
                 std::string("known.valve.mass_g"));
        QCOMPARE(refused(with("\"known\": {\"valve.mass_g\": \"88\"}")).location,
                 std::string("known.valve.mass_g"));
        QCOMPARE(refused(with("\"known\": {\"valve.colour\": 3}")).location,
                 std::string("known.valve.colour"));
        QCOMPARE(refused(with("\"known\": {}, \"springs_nested\": 7")).location,
                 std::string("springs_nested"));
        QCOMPARE(refused(with("\"known\": {}, \"exhaust\": 1")).location, std::string("exhaust"));
        QCOMPARE(refused(with("\"known\": {}, \"more\": 1")).location, std::string("more"));
        QCOMPARE(refused(with("\"known\": {}, \"card\": {\"durations\": [{\"at_mm\": 1}]}")).location,
                 std::string("card.durations[0].crank_deg"));
        QCOMPARE(refused(with("\"known\": {}, \"readings\": {\"angle\": [1, 2], \"lift\": [1]}")).location,
                 std::string("readings.lift"));
        QCOMPARE(
            refused("{\"format\": \"bathmos-known\", \"version\": 1, \"layout\": \"rotary\", \"known\": {}}")
                .location,
            std::string("layout"));
    }

    // What was assumed is assumed in the train's own file, too.
    void marks_outlive_the_train_file() {
        QTemporaryDir dir;
        const Train made = start_train(full()).train;
        const auto path = dir.filePath("t.train.json").toStdString();
        io::write_train(path, made);
        const Train back = io::read_train(path);
        QCOMPARE(back.tolerances.size(), made.tolerances.size());
        for (const auto& [key, tolerance] : made.tolerances) {
            QVERIFY2(back.tolerances.contains(key), key.c_str());
            QVERIFY(back.tolerances.at(key).source == tolerance.source);
            NEAR(back.tolerances.at(key).plus_minus, tolerance.plus_minus,
                 1e-9 + 1e-9 * tolerance.plus_minus);
        }
    }
};

QTEST_APPLESS_MAIN(TestKnownFile)
#include "tst_known_file.moc"
