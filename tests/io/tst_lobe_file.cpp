// Files of profile gauges and degree wheels, the table of a lobe, and what is written of one.
#include "core/cam/lobe_motion.h"
#include "core/lobe/lobe_fit.h"
#include "io/lobe/gauge_file.h"
#include "io/lobe/lobe_file.h"
#include "io/lobe/lobe_text.h"
#include "io/train/train_file.h"
#include "support.h"

#include <QTemporaryDir>
#include <functional>
#include <nlohmann/json.hpp>

using namespace bathmos;
using namespace bathmos::test;
using Json = nlohmann::json;

namespace {

LobeCurve truth() {
    return curve_of(starter_train().lobe);
}

QByteArray row(const QList<double>& values, const char* separator, int decimals, bool comma = false) {
    QByteArray out;
    for (double value : values)
        out += (out.isEmpty() ? "" : separator) + QByteArray::number(value, 'f', decimals);
    if (comma)
        out.replace('.', ',');
    return out + "\n";
}

} // namespace

class TestLobeFile : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    std::filesystem::path file(const QByteArray& content, const char* name = "lobe.csv") {
        return write_test_file(folder_.filePath(QLatin1String(name)), content);
    }
    LobeCurve read(const QByteArray& content, std::size_t which = 0) {
        return curve_of(io::read_lobe_csv(file(content), which).lobe);
    }

  private slots:
    // One lobe, as different benches write it.
    void every_way_of_writing_a_lobe_gives_the_same_lobe_data() {
        QTest::addColumn<QByteArray>("content");
        QTest::addColumn<double>("within_um");
        const LobeCurve lobe = truth();
        const auto make = [&](const QByteArray& head, double from, double to, double step, bool crank,
                              const std::function<QByteArray(double, double)>& line) {
            QByteArray out = head;
            for (double at = from; step > 0 ? at <= to + 1e-9 : at >= to - 1e-9; at += step)
                out += line(at, lobe.at(radians(crank ? at / 2 : at)));
            return out;
        };
        QTest::newRow("comma, mm, cam") << make("cam_deg,lift_mm\n", -180, 179, 1, false,
                                                [](double a, double s) {
                                                    return row({a, s * 1e3}, ",", 4);
                                                })
                                        << 2.0;
        QTest::newRow("turned columns, semicolon, decimal comma, crank, inch")
            << make("lift (in);crank_deg\r\n", -360, 359, 1, true,
                    [](double a, double s) {
                        return row({s / kInch_m, a}, ";", 6, true).replace("\n", "\r\n");
                    })
            << 2.0;
        QTest::newRow("thou, tabs, falling angle, half degrees")
            << make("Angle cam deg\tRise thou\n", 179.5, -180, -0.5, false,
                    [](double a, double s) {
                        return row({a, s / kInch_m * 1e3}, "\t", 3);
                    })
            << 2.0;
        QTest::newRow("micron, blanks, event only, no names") << make("", -118, 118, 1, false,
                                                                      [](double a, double s) {
                                                                          return row({a, s * 1e6}, "  ", 1);
                                                                      })
                                                              << 3.0;
        QTest::newRow("head lines, byte-order mark, tenth degrees")
            << make("\xEF\xBB\xBF"
                    "Gauge 2\n# operator: none\nAngle,Lift mm\n",
                    0, 359.9, 0.1, false,
                    [&](double a, double) {
                        return row({a, lobe.at(radians(a - 100)) * 1e3}, ",", 4);
                    })
            << 2.0;
        QTest::newRow("crank degrees told by their span") << make("", -300, 300, 2, true,
                                                                  [](double a, double s) {
                                                                      return row({a, s * 1e3}, " ", 4);
                                                                  })
                                                          << 3.0;
        QByteArray uneven = "cam_deg,lift_mm\n"; // closer on the flanks
        for (double a = -178; a <= 178; a += std::abs(a) > 20 && std::abs(a) < 80 ? 0.7 : 2.3)
            uneven += row({a, lobe.at(radians(a)) * 1e3}, ",", 4);
        QTest::newRow("uneven step") << uneven << 4.0;
    }
    void every_way_of_writing_a_lobe_gives_the_same_lobe() {
        QFETCH(QByteArray, content);
        QFETCH(double, within_um);
        const LobeCurve found = read(content), is = truth();
        for (double theta = -kPi; theta < kPi; theta += 0.05)
            NEAR(found.at(theta), is.at(theta), within_um * 1e-6);
    }

    // A few dozen readings by hand, to a thousandth of an inch.
    void a_degree_wheel_is_enough_for_durations() {
        const LobeCurve is = truth();
        QByteArray content("crank_deg lift_in\n");
        for (int deg = -240; deg <= 240; deg += 8)
            content += QByteArray::number(deg) + ' ' +
                       QByteArray::number(is.at(radians(deg / 2.0)) / kInch_m, 'f', 3) + '\n';
        const LobeCurve found = read(content);
        const auto duration = [](const LobeCurve& c) {
            return crossings_at([&](double t) { return c.at(t); }, 1.27e-3)->duration_crank_deg();
        };
        NEAR(found.lift_m(), is.lift_m(), 15e-6);
        NEAR(duration(found), duration(is), 0.6);
        QVERIFY(found.smoothing()->noise_m > 5e-6); // a thousandth of an inch is read, not a micron
    }

    void several_lobes_of_a_file_are_told_apart() {
        const LobeCurve is = truth();
        QByteArray columns("cam_deg,intake mm,exhaust mm\n"), stacked("cylinder,cam_deg,rise_mm\n");
        for (int deg = 0; deg < 360; ++deg) {
            const double a = is.at(radians(deg - 120)) * 1e3, b = 0.9 * is.at(radians(deg - 230)) * 1e3;
            columns += row({double(deg), a, b}, ",", 4);
            stacked += row({3, double(deg), a}, ",", 4);
        }
        for (int deg = 0; deg < 360; ++deg)
            stacked += row({4, double(deg), 0.9 * is.at(radians(deg - 230)) * 1e3}, ",", 4);
        for (const QByteArray& content : {columns, stacked}) {
            const auto path = file(content, "cam-7.csv");
            const io::TableShape shape = io::sniff_table(path);
            const auto lobes = io::read_gauge(path, shape, io::guess_mapping(path, shape));
            QCOMPARE(lobes.size(), std::size_t{2});
            QVERIFY(lobes[0].name != lobes[1].name);
            NEAR(read(content, 0).lift_m(), is.lift_m(), 2e-6);
            NEAR(read(content, 1).lift_m(), 0.9 * is.lift_m(), 2e-6);
        }
        CONTAINS(problem_of([&] { read(columns, 2); }).what, "has 2 lobes");
    }

    void the_demo_files_read_without_a_word() {
        for (const auto& [name, lift_mm] : {std::pair{"gauge-two-lobes.csv", 8.75},
                                            {"gauge-three-passes.csv", 8.75},
                                            {"gauge-second-machine.csv", 8.237},
                                            {"degree-wheel.csv", 8.75}}) {
            const io::LobeFile found = io::read_lobe_csv(source_file(std::string("demo/") + name));
            NEAR(curve_of(found.lobe).lift_m() * 1e3, lift_mm, 0.02);
            if (std::string(name) == "gauge-three-passes.csv") {
                QCOMPARE(found.repeatability.passes, std::size_t{3});
                NEAR(found.repeatability.sd_m, 1.6e-6, 0.4e-6);
            }
        }
    }

    void a_mapping_is_remembered_as_it_was() {
        io::GaugeMapping mapping;
        mapping.angle = 2;
        mapping.angle_unit = AngleUnit::CrankDegree;
        mapping.rises = {0, 3};
        mapping.passes = true;
        mapping.unit = io::GaugeUnit::Thou;
        mapping.mirrored = true;
        QVERIFY(io::mapping_of(io::mapping_text(mapping)) == mapping);
        mapping.lobe = 1;
        QVERIFY(io::mapping_of(io::mapping_text(mapping)) == mapping);
        QVERIFY(!io::mapping_of("{\"angle\": 1}"));
        QVERIFY(!io::mapping_of("nonsense"));
    }

    void what_cannot_be_read_is_told_with_its_place_data() {
        QTest::addColumn<QByteArray>("content");
        QTest::addColumn<QString>("place");
        QTest::addColumn<QString>("what");
        QByteArray good("cam_deg,lift_mm\n");
        for (int deg = 0; deg < 360; ++deg)
            good += row({double(deg), truth().at(radians(deg - 180)) * 1e3}, ",", 4);
        QByteArray word = good;
        word.replace("\n200.", "\nabout 200.");
        QTest::newRow("a word") << word << "line 202, column 1"
                                << "is not a number";
        QByteArray cut = good;
        cut.truncate(cut.indexOf("\n300.") + 4);
        QTest::newRow("cut line") << cut << "line 302"
                                  << "too few columns";
        QTest::newRow("empty") << QByteArray() << ""
                               << "empty";
        QTest::newRow("prose") << QByteArray("see the other\nsheet please\n") << ""
                               << "no row of two";
        QByteArray half = good.left(good.indexOf("\n180.") + 1);
        QTest::newRow("half a lobe") << half << "lobe.table.lift"
                                     << "not closed";
        QTest::newRow("few") << QByteArray("cam_deg,lift_mm\n0,0\n10,5\n20,0\n") << "lobe.table"
                             << "only 3";
    }
    void what_cannot_be_read_is_told_with_its_place() {
        QFETCH(QByteArray, content);
        QFETCH(QString, place);
        QFETCH(QString, what);
        const InputProblem problem = problem_of([&] { read(content); });
        CONTAINS(problem.location, place.toStdString());
        CONTAINS(problem.what, what.toStdString());
        QVERIFY(!problem.mend.empty());
    }

    void a_lost_reading_is_passed_over() {
        QByteArray content("cam_deg,lift_mm\n");
        for (int deg = 0; deg < 360; ++deg)
            content += deg == 90 ? QByteArray("90,\n")
                                 : row({double(deg), truth().at(radians(deg - 180)) * 1e3}, ",", 4);
        const io::LobeFile found = io::read_lobe_csv(file(content));
        QCOMPARE(std::get<LobeTable>(found.lobe.shape).angle.size(), std::size_t{359});
    }

    void a_table_reads_back_in_every_step_and_unit() {
        const LobeCurve is = truth();
        for (const AngleUnit angle : {AngleUnit::CamDegree, AngleUnit::CrankDegree})
            for (const io::GaugeUnit unit :
                 {io::GaugeUnit::Millimetre, io::GaugeUnit::Inch, io::GaugeUnit::Thou, io::GaugeUnit::Micron})
                for (const double step : {0.5, 1.0, 2.0}) {
                    const std::string text = io::gauge_csv(is, angle, step, unit);
                    const LobeCurve found = read(QByteArray::fromStdString(text));
                    for (double theta : {-1.3, -0.5, 0.0, 0.4, 1.6})
                        NEAR(found.at(theta), is.at(theta), 1.5e-6);
                }
        CONTAINS(
            problem_of([&] { io::gauge_csv(is, AngleUnit::CamDegree, 0, io::GaugeUnit::Inch); }).location,
            "step");
    }

    void a_step_on_a_table_goes_into_train_files_and_back() {
        Train train = starter_train();
        LobeTable table;
        for (int deg = -180; deg < 180; ++deg) {
            table.angle.push_back(deg);
            table.lift.push_back(std::round(truth().at(radians(deg)) * 1e6) / 1e3);
        }
        train.lobe.shape = table;
        const std::string plain = io::train_text(train);
        QVERIFY(!contains(plain, "smoothing") && !contains(plain, "left_out") &&
                !contains(plain, "\"base\""));
        table.base = BaseStep::RunoutOff;
        table.left_out = {3, 200};
        table.smoothing = {SmoothingRule::Even, 2.5, "gauge tip was worn"};
        train.lobe.shape = table;
        QVERIFY(io::parse_train(io::train_text(train), "t").lobe == train.lobe);
        std::string wrong = io::train_text(train);
        wrong.replace(wrong.find("200"), 3, "999");
        QVERIFY(!problem_of([&] { io::parse_train(wrong, "t"); }).mend.empty());
    }

    void the_summary_holds_every_number() {
        const Train train = io::read_train(source_file("demo/ashgill-a22-intake-after.train.json"));
        const LobeCurve curve = curve_of(train.lobe);
        const RigidMotion rigid(train, curve);
        io::LobeSummaryOptions options;
        options.heights_m = {1.27e-3};
        options.valve = &rigid;
        options.advertised_rad = radians(300);
        Lobe other = starter_train().lobe;
        options.against = &other;
        const Json json = Json::parse(io::lobe_json(train.lobe, curve, options));
        for (const char* key : {"lift_mm", "events", "peaks", "figures", "lift_area_mm_cam_deg", "advertised",
                                "smoothing", "gauge", "cutting", "against"})
            QVERIFY2(json.contains(key), key);
        NEAR(json["figures"]["opening_velocity"]["mm_per_deg"].get<double>(),
             peaks_of(curve).opening_velocity.value * 1e3 * kPi / 180, 2e-6);
        const double height = json["advertised"]["would_be_at_mm"].get<double>() * 1e-3;
        NEAR(crossings_at([&](double t) { return curve.at(t); }, height)->duration_crank_deg(), 300, 0.01);
        QVERIFY(json["cutting"]["pressure_angle_opening_deg"].get<double>() > 5);
        QVERIFY(json["gauge"]["base_circle_readings"].get<int>() > 50);
        QVERIFY(json["events"]["valve"][0]["duration_crank_deg"].get<double>() > 200);
    }

    void curves_side_by_side_are_laid_where_asked() {
        const LobeMotion motion{truth()};
        const QStringList lines =
            QString::fromStdString(io::lobes_csv({"a", "b, c"}, {motion, motion}, {0, radians(10)}))
                .split('\n', Qt::SkipEmptyParts);
        QCOMPARE(lines.size(), 721);
        QCOMPARE(lines[0].count(','), 8);
        const QStringList at_zero = lines[361].split(',');
        NEAR(at_zero[1].toDouble(), motion.lift_m() * 1e3, 1e-6);
        NEAR(at_zero[5].toDouble(), motion.at(radians(10)) * 1e3, 1e-6);
    }
};

QTEST_APPLESS_MAIN(TestLobeFile)
#include "tst_lobe_file.moc"
