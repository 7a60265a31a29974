// What every importer of delimited text promises: the same numbers whatever way a lab writes them, and one
// message with its place for a damaged file, with nothing taken.
#include "core/dyno/pull.h"
#include "io/dyno/pull_file.h"
#include "io/lobe/gauge_file.h"
#include "io/rig/rig_file.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

namespace {

// Rows of a file whose columns are named, as one kind of importer reads it.
struct Sample {
    QStringList columns;
    QVector<QVector<double>> rows;
};

Sample rig_sample() {
    Sample out{{"rpm", "crank_deg", "lift_mm"}, {}};
    for (int turn = 0; turn < 2; ++turn)
        for (int deg = 0; deg < 720; deg += 2)
            out.rows.push_back(
                {3000.5, double(deg),
                 std::max(0.0, 9 * std::sin((deg - 200) * 3.14159 / 240)) * (deg > 200 && deg < 440)});
    return out;
}
Sample pull_sample() {
    Sample out{{"rpm", "torque_Nm", "power_kW"}, {}};
    for (int i = 0; i < 60; ++i) {
        const double rpm = 4000 + 70.5 * i, torque = 200 - 0.3 * i;
        out.rows.push_back({rpm, torque, torque * rpm * 3.14159265 / 30e3});
    }
    return out;
}
Sample gauge_sample() {
    Sample out{{"cam_deg", "lift_mm"}, {}};
    for (int deg = 0; deg < 360; ++deg) {
        const double x = std::abs(deg - 180) / 75.0;
        out.rows.push_back({double(deg), x < 1 ? 8.25 * std::pow(1 - x * x, 3) : 0});
    }
    return out;
}

QByteArray written(const Sample& sample, char delimiter, bool decimal_comma, const QByteArray& end = "\n") {
    QByteArray out = sample.columns.join(QLatin1Char(delimiter)).toUtf8() + end;
    for (const auto& row : sample.rows) {
        QStringList fields;
        for (const double value : row) {
            QString text = QString::number(value, 'f', 5);
            fields.push_back(decimal_comma ? text.replace('.', ',') : text);
        }
        out += fields.join(QLatin1Char(delimiter)).toUtf8() + end;
    }
    return out;
}

using Read = std::function<std::vector<double>(const std::filesystem::path&)>;

// Sum and largest of what was read: enough to tell two readings apart.
std::vector<double> rig_numbers(const std::filesystem::path& path) {
    const RigTrace trace = io::read_rig(path);
    double sum = 0;
    for (const float lift : trace.lift_mm)
        sum += double(lift);
    return {double(trace.turns.size()), double(trace.lift_mm.size()), sum, trace.turns.front().speed_rpm};
}
std::vector<double> pull_numbers(const std::filesystem::path& path) {
    const auto pulls = io::read_pulls(path);
    double sum = 0;
    for (const double power : pulls.front()[PullChannel::Power])
        sum += power;
    return {double(pulls.size()), double(pulls.front()[PullChannel::Speed].size()), sum};
}
std::vector<double> gauge_numbers(const std::filesystem::path& path) {
    const io::TableShape shape = io::sniff_table(path);
    const auto lobes = io::read_gauge(path, shape, io::guess_mapping(path, shape));
    double sum = 0;
    for (const auto& reading : lobes.front().passes.front().lift)
        sum += reading;
    return {double(lobes.size()), double(lobes.front().passes.front().lift.size()), sum};
}

struct Importer {
    const char* name;
    Sample (*sample)();
    std::vector<double> (*read)(const std::filesystem::path&);
};
const Importer kImporters[] = {{"rig", rig_sample, rig_numbers},
                               {"pull", pull_sample, pull_numbers},
                               {"gauge", gauge_sample, gauge_numbers}};

} // namespace

class TstImportContract : public QObject {
    Q_OBJECT

    QTemporaryDir dir_;
    std::filesystem::path file(const QByteArray& content) {
        return write_test_file(dir_.filePath("in.csv"), content);
    }

  private slots:
    void all_ways_of_writing_give_the_same_numbers_data() {
        QTest::addColumn<int>("importer");
        for (int i = 0; i < 3; ++i)
            QTest::newRow(kImporters[i].name) << i;
    }
    void all_ways_of_writing_give_the_same_numbers() {
        QFETCH(int, importer);
        const Importer& one = kImporters[importer];
        const Sample sample = one.sample();
        const std::vector<double> plain = one.read(file(written(sample, ',', false)));
        const QByteArray presets[] = {written(sample, ';', false),
                                      written(sample, ';', true),
                                      written(sample, '\t', false),
                                      written(sample, '\t', true),
                                      "\xEF\xBB\xBF" + written(sample, ',', false, "\r\n"),
                                      "# made for a test\n# valve: intake\n" + written(sample, ',', false),
                                      written(sample, ',', false) + "\n\n"};
        for (const QByteArray& preset : presets) {
            const std::vector<double> again = one.read(file(preset));
            QCOMPARE(again.size(), plain.size());
            for (std::size_t i = 0; i < plain.size(); ++i)
                NEAR(again[i], plain[i], 1e-6 * std::abs(plain[i]));
        }
    }

    void damaged_files_are_told_with_file_and_place_data() {
        all_ways_of_writing_give_the_same_numbers_data();
    }
    void damaged_files_are_told_with_file_and_place() {
        QFETCH(int, importer);
        const Importer& one = kImporters[importer];
        const QByteArray good = written(one.sample(), ',', false);
        const auto told = [&](const QByteArray& content) {
            const auto path = file(content);
            const InputProblem problem = problem_of([&] { one.read(path); });
            return std::pair(problem, contains(problem.source, "in.csv"));
        };
        QByteArray text = good;
        text.replace(text.lastIndexOf(','), 1, ",1.x");
        const auto [bad_number, named] = told(text);
        QVERIFY(named && contains(bad_number.location, "line") && contains(bad_number.what, "not a number"));
        const auto [cut, cut_named] = told(good.left(good.lastIndexOf(',')));
        QVERIFY(cut_named && !cut.what.empty() && cut.what != "nothing was thrown");
        for (const QByteArray& hopeless :
             {QByteArray(), QByteArray("\n \n"), QByteArray("only words\nand more of them\n"),
              QByteArray("\x7f"
                         "ELF\0\0\0",
                         7)}) {
            const auto [problem, with_name] = told(hopeless);
            QVERIFY2(with_name && !problem.what.empty() && problem.what != "nothing was thrown",
                     problem.sentence().c_str());
        }
        QVERIFY(told(QByteArray("a;b\n")).first.what != "nothing was thrown");
    }
};

QTEST_APPLESS_MAIN(TstImportContract)
#include "tst_import_contract.moc"
