// Pulls from files as dynos write them.
#include "core/dyno/pull_analysis.h"
#include "io/dyno/pull_file.h"
#include "io/project/store.h"
#include "support.h"

#include <QTemporaryDir>
#include <QTest>
#include <random>

using namespace bathmos;
using namespace bathmos::test;

class TstPullFile : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    std::filesystem::path file(const char* name, const QByteArray& text) {
        return write_test_file(folder_.filePath(QString::fromUtf8(name)), text);
    }

  private slots:
    void the_shops_files_say_what_they_say() {
        for (const char* name : {"before-1", "before-2", "after-1", "after-2"}) {
            const auto pulls =
                io::read_pulls(source_file(std::string("demo/ashgill-a22-") + name + ".pull.csv"));
            QCOMPARE(pulls.size(), std::size_t{1});
            const PullAnalysis a = analyse(pulls.front());
            const bool after = std::string(name).starts_with("after");
            QVERIFY2((a.first_break() != nullptr) == after, name);
            if (after)
                NEAR(a.first_break()->speed_rpm, 7690, 100);
            QVERIFY2(a.rough_from_rpm.has_value() == after, name);
        }
    }

    void inch_units_and_a_decimal_comma_are_read() {
        const auto path = file(
            "inch.txt", "Dyno 3\nEngine Speed [rpm];Power (hp);MAP inHg;Intake air temp F;Oil psi;AFR\n"
                        "4000;100,5;29,9;68;60;12,5\n4200;106;29,8;69;61;12,6\n4400;111;29,8;70;61;12,5\n"
                        "4600;116;29,8;70;61;12,5\n4800;121;29,8;70;61;12,5\n5000;126;29,8;70;61;12,5\n");
        const io::TableShape shape = io::sniff_table(path);
        const io::PullMapping m = io::guess_pull_mapping(shape);
        const auto pulls = io::read_pulls(path, shape, m);
        QCOMPARE(pulls.size(), std::size_t{1});
        const Pull& p = pulls.front();
        NEAR(p[PullChannel::Power][0], 100.5 * 745.69987, 0.1);
        NEAR(p[PullChannel::Torque][0], 100.5 * 745.69987 / (4000 * kPi / 30), 1e-3);
        NEAR(p[PullChannel::Manifold][0], 29.9 * 3386.389, 1);
        NEAR(p[PullChannel::Air][0], 293.15, 1e-9);
        NEAR(p[PullChannel::Oil][0], 60 * 6894.757, 1);
        NEAR(p[PullChannel::Lambda][0], 12.5 / 14.7, 1e-9);
        // Remembered as text and back.
        QVERIFY(io::pull_mapping_of(io::pull_mapping_text(m)) == m);
        QVERIFY(!io::pull_mapping_of("no mapping"));
    }

    void a_heading_tells_channel_and_unit_data() {
        QTest::addColumn<QString>("heading");
        QTest::addColumn<int>("channel");
        QTest::addColumn<double>("value");
        QTest::addColumn<double>("si");
        const auto row = [](const char* heading, PullChannel channel, double value, double si) {
            QTest::newRow(heading) << QString::fromUtf8(heading) << static_cast<int>(channel) << value << si;
        };
        using C = PullChannel;
        row("Torque [lbf ft]", C::Torque, 180, 180 * 1.3558179483);
        row("Torque (kgm)", C::Torque, 25, 25 * 9.80665);
        row("torque_Nm", C::Torque, 240, 240);
        row("Power PS", C::Power, 150, 150 * 735.49875);
        row("Power [W]", C::Power, 1.2e5, 1.2e5);
        row("power_kW", C::Power, 120, 120e3);
        row("MAP bar", C::Manifold, 1.45, 145e3);
        row("MAP mbar", C::Manifold, 980, 98e3);
        row("Boost psi", C::Manifold, 8, 8 * 6894.757 + 101325);
        row("Boost bar", C::Manifold, 0.5, 50e3 + 101325);
        row("map_kPa", C::Manifold, 150, 150e3);
        row("Barometer inHg", C::Barometer, 29.92, 29.92 * 3386.389);
        row("Barometer hPa", C::Barometer, 1013, 101.3e3);
        row("Fuel pressure psi", C::FuelPressure, 58, 58 * 6894.757);
        row("Oil pressure [bar]", C::Oil, 4.5, 450e3);
        row("Intake air temp [F]", C::Air, 77, 298.15);
        row("Air temperature K", C::Air, 298.15, 298.15);
        row("air_C", C::Air, 25, 298.15);
        row("AFR", C::Lambda, 12.5, 12.5 / 14.7);
        row("lambda_1", C::Lambda, 0.86, 0.86);
        row("Throttle %", C::Throttle, 98, 0.98);
        row("Blower speed", C::Blower, 14400, 14400);
    }
    void a_heading_tells_channel_and_unit() {
        QFETCH(QString, heading);
        QFETCH(int, channel);
        QFETCH(double, value);
        QFETCH(double, si);
        const auto wanted = static_cast<PullChannel>(channel);
        const bool load = wanted == PullChannel::Power || wanted == PullChannel::Torque;
        QByteArray text = "Engine speed rpm," + heading.toUtf8() + (load ? "" : ",power_kW") + "\n";
        for (int rpm = 4000; rpm <= 6000; rpm += 100)
            text += QByteArray::number(rpm) + "," + QByteArray::number(value) + (load ? "" : ",100") + "\n";
        const Pull pull = io::read_pulls(file("heading.csv", text)).front();
        QVERIFY2(pull.has(wanted), qPrintable(heading));
        NEAR(pull[wanted][3], si, 1e-4 * si);
        // As the open format it comes back the same.
        const Pull again =
            io::read_pulls(file("again.csv", QByteArray::fromStdString(io::pull_csv(pull)))).front();
        NEAR(again[wanted][3], si, 1e-3 * si);
    }

    void a_heading_that_says_uncorrected_is_believed() {
        for (const auto& [heading, corrected] : {std::pair{"Uncorrected power kW", false},
                                                 {"Power kW (not corrected)", false},
                                                 {"Corrected power kW", true},
                                                 {"SAE power kW", true},
                                                 {"Power kW", false}}) {
            const auto path = file("said.csv", "rpm," + QByteArray(heading) + "\n4000,100\n4200,104\n");
            const io::TableShape shape = io::sniff_table(path);
            QVERIFY2(io::guess_pull_mapping(shape).corrected == corrected, heading);
        }
    }

    void a_damaged_file_is_read_or_refused_and_nothing_else() {
        QByteArray whole;
        QFile demo(source_path("demo/ashgill-a22-after-1.pull.csv"));
        QVERIFY(demo.open(QIODevice::ReadOnly));
        whole = demo.readAll();
        std::mt19937 dice(11);
        int read = 0, refused = 0;
        for (int i = 0; i < 60; ++i) {
            QByteArray text = whole;
            for (int k = 0; k < 1 + i % 2; ++k) {
                const auto at = static_cast<qsizetype>(dice() % static_cast<unsigned>(text.size()));
                switch (dice() % 4) {
                case 0:
                    text[at] = static_cast<char>(i % 3 ? '0' + dice() % 10 : dice());
                    break;
                case 1:
                    text.truncate(std::max<qsizetype>(1, at));
                    break;
                case 2:
                    text.remove(at, 1 + static_cast<qsizetype>(dice() % 40));
                    break;
                default:
                    text.insert(at, QByteArray("\0,nan\n;\"", 8));
                }
                if (text.isEmpty())
                    text = ",";
            }
            try {
                for (const Pull& pull : io::read_pulls(file("damaged.csv", text))) {
                    QVERIFY(pull.has(PullChannel::Speed) && pull.has(PullChannel::Power));
                    for (const auto& column : pull.columns)
                        QVERIFY(column.empty() || column.size() == pull.size());
                }
                ++read;
            } catch (const InputError& error) {
                QVERIFY(!error.problem().what.empty());
                ++refused;
            }
        }
        QVERIFY2(read > 5 && refused > 5, qPrintable(QString::number(read)));
    }

    void several_pulls_of_a_file_are_told_apart_by_number() {
        QByteArray text = "# format: bathmos-pull 1\nrun,rpm,torque_Nm\n";
        for (int run = 1; run <= 3; ++run)
            for (int rpm = 3000; rpm <= 6000; rpm += 100)
                text += QByteArray::number(run) + "," + QByteArray::number(rpm) + "," +
                        QByteArray::number(200 + run) + "\n";
        const auto pulls = io::read_pulls(file("three.csv", text));
        QCOMPARE(pulls.size(), std::size_t{3});
        NEAR(pulls[2][PullChannel::Torque][5], 203, 1e-9);
        CONTAINS(pulls[2].name, "3");
    }

    void what_the_header_says_about_correction_is_kept() {
        const QByteArray rows = "4000,200\n4200,201\n4400,202\n4600,203\n4800,203\n5000,202\n";
        const auto said = [&](const char* name, const QByteArray& head) {
            return io::read_pulls(file(name, head + rows)).front().corrected;
        };
        QVERIFY(!said("a.csv", "# correction: none, as recorded\nrpm,torque_Nm\n"));
        QVERIFY(said("b.csv", "# correction: SAE J1349\nrpm,torque_Nm\n"));
        QVERIFY(said("c.csv", "rpm,Corrected torque Nm\n"));
        QVERIFY(said("d.csv", "# correction: norm of the trade\nrpm,torque_Nm\n"));
        QVERIFY(!said("e.csv", "# correction: not corrected\nrpm,torque_Nm\n"));
        QVERIFY(said("f.csv", "# correction: SAE J1349, not smoothed\nrpm,torque_Nm\n"));
        QVERIFY(!said("g.csv", "# correction: as recorded, uncorrected\nrpm,torque_Nm\n"));
    }

    void a_bad_file_gets_one_clear_message() {
        CONTAINS(problem_of([&] { io::read_pulls(file("none.csv", "a,b\n1,2\n2,3\n")); }).what, "no speed");
        CONTAINS(
            problem_of([&] { io::read_pulls(file("only.csv", "rpm,map_kPa\n4000,99\n4100,98\n")); }).what,
            "neither torque nor power");
        const InputProblem p =
            problem_of([&] { io::read_pulls(file("word.csv", "rpm,torque_Nm\n4000,200\n4100,many\n")); });
        CONTAINS(p.location, "3");
        CONTAINS(p.what, "many");
        CONTAINS(problem_of([&] { io::read_pulls(file("gone.csv", "")); }).source, "gone.csv");
    }

    void the_open_format_and_the_project_give_back_what_they_took() {
        const Pull pull = io::read_pulls(source_file("demo/ashgill-a22-after-1.pull.csv")).front();
        const Pull again =
            io::read_pulls(file("again.csv", QByteArray::fromStdString(io::pull_csv(pull)))).front();
        const Pull kept = io::pull_of(io::unpacked(io::packed(io::trace_of(pull))), false);
        for (std::size_t c = 0; c < kPullChannels; ++c) {
            QCOMPARE(again.columns[c].size(), pull.columns[c].size());
            for (std::size_t i = 0; i < pull.columns[c].size(); ++i) {
                NEAR(again.columns[c][i] / pull.columns[c][i], 1, 1e-3);
                NEAR(kept.columns[c][i] / pull.columns[c][i], 1, 1e-12);
            }
        }
    }
};

QTEST_APPLESS_MAIN(TstPullFile)
#include "tst_pull_file.moc"
