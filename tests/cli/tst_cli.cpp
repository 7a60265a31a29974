// The headless program as others run it.
#include "cli/run_cli.h"
#include "core/project/project.h"
#include "io/file/safe_file.h"
#include "io/project/store.h"
#include "io/train/train_file.h"
#include "support.h"

#include <QDir>
#include <QFile>
#include <QProcess>
#include <QTemporaryDir>
#include <csignal>
#include <filesystem>
#include <nlohmann/json.hpp>

using namespace bathmos;
using namespace bathmos::test;

namespace {

// Whether a process has a handler of its own for Ctrl-C, as the kernel tells.
bool catches_interrupts(qint64 process) {
    for (const QString& line : lines_of(QStringLiteral("/proc/%1/status").arg(process)))
        if (line.startsWith(QLatin1String("SigCgt:")))
            return (line.mid(7).trimmed().toULongLong(nullptr, 16) >> (SIGINT - 1)) & 1;
    return false;
}

const QString kTrain = source_path(QStringLiteral("tests/trains/ashgill-a22-intake.train.json"));

} // namespace

class TestCli : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString at(const char* name) const { return folder_.filePath(QLatin1String(name)); }

  private slots:
    void simulate_writes_one_cycle() {
        const Answer a = run({"simulate", kTrain, "--rpm", "7000", "--out", at("m.csv")});
        QCOMPARE(a.code, 0);
        QCOMPARE(a.error, QString());
        const QStringList lines = lines_of(at("m.csv"));
        QCOMPARE(lines.size(), 1 + 1441);
        double peak = 0;
        for (const QString& line : lines.mid(1))
            peak = std::max(peak, line.section(',', 1, 1).toDouble());
        NEAR(peak, 12.72 - 0.1943, 0.001); // the reference's lift loss at 7000
    }

    void sweep_writes_rows_and_a_summary() {
        const Answer a =
            run({"sweep", kTrain, "--rpm", "7000:8000:100", "--out", at("s.csv"), "--summary", at("s.json")});
        QCOMPARE(a.code, 0);
        QCOMPARE(lines_of(at("s.csv")).size(), 1 + 11);
        const Json s = json_of(at("s.json"));
        NEAR(s["limit_rpm"].get<double>(), 7780.4, 7.8);
        QCOMPARE(QString::fromStdString(s["limit_metric"]), QStringLiteral("contact_loss"));
        NEAR(s["separation_rpm"].get<double>(), 8513, 8.5);
        for (const char* key :
             {"loft", "bounce", "contact_loss", "duration_change", "seating", "cycle_spread", "held_open"})
            QVERIFY(s["crossings_rpm"].contains(key));
        for (const char* key : {"edge_rpm", "separation_deg", "low_speed_duration_change_deg"})
            QVERIFY(s.contains(key));
        QVERIFY(s["crossings_rpm"]["held_open"].is_null());
        QVERIFY(s["free_again_rpm"].is_null());
    }

    void a_limit_that_is_a_band_says_where_it_goes_by() {
        QCOMPARE(run({"sweep", source_path("tests/trains/ravenmoor-t14-intake-solid.train.json"), "--rpm",
                      "7000:8600:200", "--summary", at("b.json")})
                     .code,
                 0);
        const Json s = json_of(at("b.json"));
        NEAR(s["limit_rpm"].get<double>(), 7434, 40);
        NEAR(s["free_again_rpm"]["from"].get<double>(), 7800, 0);
        NEAR(s["free_again_rpm"]["to"].get<double>(), 8200, 0);
    }

    void one_speed_is_a_range_too() {
        QCOMPARE(run({"sweep", kTrain, "--rpm", "6000:6000:100", "--out", at("one.csv")}).code, 0);
        QCOMPARE(lines_of(at("one.csv")).size(), 2);
    }

    void lobe_gives_events_and_peaks() {
        const Answer a = run({"lobe", kTrain, "--height", "1.27mm", "--height", "0.35mm", "--height",
                              "0.050in", "--summary", at("l.json"), "--out", at("l.csv")});
        QCOMPARE(a.code, 0);
        const Json s = json_of(at("l.json"));
        QCOMPARE(s["events"]["lifter"].size(), std::size_t{3});
        NEAR(s["events"]["lifter"][1]["duration_crank_deg"].get<double>(), 4 * 87.63,
             0.01); // at the ramp's height
        NEAR(s["events"]["lifter"][0]["duration_crank_deg"].get<double>(),
             s["events"]["lifter"][2]["duration_crank_deg"].get<double>(), 1e-6);
        QVERIFY(s["peaks"]["deceleration"]["mm_per_deg2"].get<double>() < 0);
        QCOMPARE(lines_of(at("l.csv")).size(), 1 + 720);
    }

    void rig_gives_metrics_and_the_edge() {
        const Answer a =
            run({"rig", source_path(QStringLiteral("demo/ashgill-a22-intake-after.rig.csv")), "--train",
                 source_path(QStringLiteral("demo/ashgill-a22-intake-after.train.json")), "--out",
                 at("r.csv"), "--summary", at("r.json")});
        QCOMPARE(a.code, 0);
        const Json s = json_of(at("r.json"));
        for (const char* key : {"edge_rpm", "edge_metric", "edge_half_step_rpm", "bands_rpm", "limit_rpm",
                                "crossings_rpm", "phase_deg", "scale_ratio", "noise_mm", "dropped"})
            QVERIFY2(s.contains(key), key);
        QCOMPARE(QString::fromStdString(s["edge_metric"]), QStringLiteral("bounce"));
        QCOMPARE(lines_of(at("r.csv")).size(), 1 + 29);
        QVERIFY(!lines_of(at("r.csv"))[0].contains(QLatin1String("seat_ripple_N")));
    }

    void calibrate_gives_values_with_deviations_and_a_train_that_is_read_again() {
        // the demo's thin rods as one would believe who has not pressed them: with the ends of the thick ones
        Json stiff = json_of(source_path(QStringLiteral("demo/ashgill-a22-intake-after.train.json")));
        const double soft_N_per_mm = stiff["pushrod"]["end_stiffness_N_per_mm"];
        stiff["pushrod"]["end_stiffness_N_per_mm"] = 60000;
        const QString believed = at("believed.train.json");
        write_test_file(believed, QByteArray::fromStdString(stiff.dump()));
        const Answer a = run({"calibrate", believed, "--rig",
                              source_path(QStringLiteral("demo/ashgill-a22-intake-after.rig.csv")), "--free",
                              "pushrod.end_stiffness_N_per_mm", "--free", "lash_mm", "--out",
                              at("c.train.json"), "--summary", at("c.json")});
        QVERIFY2(a.code == 0, qPrintable(a.error));
        const Json s = json_of(at("c.json"));
        for (const char* key :
             {"parameters", "correlations", "not_told", "residual_mm", "limit_rpm", "limit_metric",
              "train_limit_rpm", "edge_rpm", "p10_rpm", "p50_rpm", "p90_rpm", "edge_p10_rpm", "edge_p90_rpm",
              "causes", "chosen", "warnings", "lobe_seen"})
            QVERIFY2(s.contains(key), key);
        QVERIFY(s["lobe_seen"]["speeds"] > 2 && !s["lobe_seen"].contains("departs")); // it is the file's
        QCOMPARE(s["lobe_seen"]["cam_deg"].size(), s["lobe_seen"]["difference_um"].size());
        QCOMPARE(s["parameters"].size(), std::size_t(2));
        const Json& ends = s["parameters"][0];
        QCOMPARE(QString::fromStdString(ends["key"]), QStringLiteral("pushrod.end_stiffness_N_per_mm"));
        NEAR(std::log(ends["value"].get<double>() / soft_N_per_mm), 0, 0.3); // they come out soft
        QVERIFY(ends["departs_sigma"].get<double>() < -4);
        QCOMPARE(QString::fromStdString(s["chosen"]), QStringLiteral("train_flexible"));
        const Json train = json_of(at("c.train.json"));
        NEAR(train["pushrod"]["end_stiffness_N_per_mm"].get<double>(), ends["value"].get<double>(), 1e-6);
        QCOMPARE(QString::fromStdString(train["tolerances"]["lash_mm"]["source"]), QStringLiteral("fitted"));
        QCOMPARE(run({"simulate", at("c.train.json"), "--rpm", "5000", "--out", at("m.csv")}).code, 0);
    }

    void bad_input_exits_2_with_one_line_and_writes_nothing_data() {
        QTest::addColumn<QStringList>("arguments");
        QTest::addColumn<QString>("says");
        QTest::newRow("no free number")
            << QStringList{"calibrate", kTrain,
                           "--rig",     source_path(QStringLiteral("demo/ashgill-a22-intake-after.rig.csv")),
                           "--free",    "rod.colour",
                           "--out",     "OUT"}
            << "rod.colour";
        QTest::newRow("another revision without its run")
            << QStringList{"calibrate", kTrain,
                           "--rig",     source_path(QStringLiteral("demo/ashgill-a22-intake-after.rig.csv")),
                           "--other",   kTrain,
                           "--out",     "OUT"}
            << "--other-rig";
        QTest::newRow("no such file")
            << QStringList{"sweep", "/nowhere.train.json", "--rpm", "3000:4000:100", "--out", "OUT"}
            << "cannot be read";
        QTest::newRow("not a train") << QStringList{"sweep", source_path(QStringLiteral("README.md")),
                                                    "--rpm", "3000:4000:100",
                                                    "--out", "OUT"}
                                     << "not JSON";
        QTest::newRow("range") << QStringList{"sweep", kTrain, "--rpm", "3000-4000", "--out", "OUT"}
                               << "FIRST:LAST:STEP";
        QTest::newRow("range backwards")
            << QStringList{"sweep", kTrain, "--rpm", "5000:4000:100", "--out", "OUT"}
            << "LAST not below FIRST";
        QTest::newRow("step 0") << QStringList{"sweep", kTrain, "--rpm", "3000:4000:0", "--out", "OUT"}
                                << "STEP at least 1";
        QTest::newRow("speed") << QStringList{"simulate", kTrain, "--rpm", "-5", "--out", "OUT"}
                               << "100 to 30000";
        QTest::newRow("height") << QStringList{"lobe", kTrain, "--height", "1.27", "--out", "OUT"}
                                << "has no unit";
        QTest::newRow("train as trace")
            << QStringList{"rig", kTrain, "--train", kTrain, "--out", "OUT"} << "no ";
        QTest::newRow("no command") << QStringList{} << "--help";
        QTest::newRow("unknown option") << QStringList{"sweep", kTrain, "--speed", "1"} << "--help";
        const QString pull = source_path(QStringLiteral("demo/ashgill-a22-after-1.pull.csv"));
        const auto option = [&](const char* name, QStringList verb, const char* value, const char* says) {
            QTest::newRow(name) << verb + QStringList{QLatin1String(value)} << QString::fromLatin1(says);
        };
        const QStringList pair = {"pair", kTrain, kTrain, "--summary", "OUT", "--centrelines"};
        option("centre lines beyond a turn", pair, "1e308:1", "out of range");
        option("centre lines that are none", pair, "nan:110", "not a number");
        option("endless centre lines", pair, "inf:110", "not a number");
        option("moved by nothing", pair + QStringList{"106:110", "--moved"}, "nan", "out of range");
        option("an engine of nothing", pair + QStringList{"106:110", "--engine"}, "nan:80:130:10",
               "not a number");
        option("advertised", {"lobe", kTrain, "--summary", "OUT", "--advertised"}, "inf", "out of range");
        option("strength", {"lobe", kTrain, "--summary", "OUT", "--strength"}, "nan", "out of range");
        option("step of a table", {"lobe", kTrain, "--table", "OUT", "--step-deg"}, "nan", "out of range");
        option("speed that is none", {"simulate", kTrain, "--out", "OUT", "--rpm"}, "nan", "out of range");
        option("range without end", {"sweep", kTrain, "--out", "OUT", "--rpm"}, "3000:inf:100",
               "not a number");
        option("boost", {"stand-in-pull", kTrain, "--out", "OUT", "--boost-kPa"}, "nan", "out of range");
        option("torque", {"stand-in-pull", kTrain, "--out", "OUT", "--torque"}, "inf", "out of range");
        option("fault", {"stand-in-pull", kTrain, "--out", "OUT", "--fault"}, "belt_slip@6200abc",
               "is no fault");
        option("endless fault", {"stand-in-pull", kTrain, "--out", "OUT", "--fault"}, "belt_slip@inf",
               "is no fault");
        QTest::newRow("out over its own input")
            << QStringList{"sweep", kTrain, "--rpm", "3000:4000:500", "--out", kTrain}
            << "would replace the input train";
        QTest::newRow("two outputs in one file")
            << QStringList{"pull", pull, "--out", "OUT", "--summary", "OUT"} << "is the file of --out too";
        QTest::newRow("no folder") << QStringList{"simulate", kTrain,  "--rpm",
                                                  "3000",     "--out", "/nowhere/m.csv"}
                                   << "cannot be written";
    }
    void bad_input_exits_2_with_one_line_and_writes_nothing() {
        QFETCH(QStringList, arguments);
        QFETCH(QString, says);
        arguments.replaceInStrings(QStringLiteral("OUT"), at("never.csv"));
        const Answer a = run(arguments);
        QCOMPARE(a.code, 2);
        QVERIFY2(a.error.contains(says), qPrintable(a.error));
        QCOMPARE(a.error.count(QLatin1Char('\n')), 1);
        QVERIFY(!QFile::exists(at("never.csv")));
    }

    void numbers_that_run_away_are_bad_input_with_the_part_named() {
        Train t = io::read_train(kTrain.toStdString());
        t.pushrod->damping_s = 1;
        io::write_train(at("stiff.train.json").toStdString(), t);
        for (const QStringList& command :
             {QStringList{"simulate", at("stiff.train.json"), "--rpm", "3000", "--out", at("never.csv")},
              QStringList{"sweep", at("stiff.train.json"), "--rpm", "3000:3200:100", "--out",
                          at("never.csv")}}) {
            const Answer a = run(command);
            QCOMPARE(a.code, 2);
            QVERIFY2(a.error.contains("stiffest part"), qPrintable(a.error));
            QVERIFY(!QFile::exists(at("never.csv")));
        }
    }

    void hydraulic_trains_and_hdf5_work_like_any_other() {
        const QString train = source_path(QStringLiteral("tests/trains/ravenmoor-t14-intake.train.json"));
        QCOMPARE(run({"simulate", train, "--rpm", "5000", "--out", at("oil.h5")}).code, 0);
        QVERIFY(QFile(at("oil.h5")).size() > 100000);
        const Answer a = run(
            {"sweep", train, "--rpm", "6800:7000:100", "--out", at("oil.csv"), "--summary", at("oil.json")});
        QCOMPARE(a.code, 0);
        QVERIFY(io::read_file(at("oil.json").toStdString()).find("held_open") != std::string::npos);
    }

    void stiffness_says_where_a_train_gives_and_what_stiffer_links_gain() {
        const Answer said = run({"stiffness", kTrain, "--rpm", "6000:9500:250"});
        QCOMPARE(said.code, 0);
        CONTAINS(said.out.toStdString(), "mend first: pushrod");
        const QString file = at("stiffness.json");
        QCOMPARE(run({"stiffness", kTrain, "--rpm", "6000:9500:250", "--summary", file}).code, 0);
        const Json json = json_of(file);
        QCOMPARE(json["links"][0]["part"].get<std::string>(), std::string("pushrod"));
        QVERIFY(json["links"][0]["same_mass_rpm"].get<double>() >
                json["links"][2]["same_mass_rpm"].get<double>());
        QVERIFY(json["links"].back()["part"] != "cam" || json["links"].back()["true_mass_rpm"].is_null());
        QCOMPARE(run({"stiffness", kTrain}).code, 2); // no range
        QCOMPARE(run({"stiffness", kTrain, "--rpm", "6000:9500:250", "--summary", kTrain}).code, 2);
    }

    void spread_and_hold_write_what_the_core_finds() {
        const Answer a = run({"uncertainty", kTrain, "--rpm", "7000:8500:100", "--trains", "20", "--seed",
                              "3", "--summary", at("spread.json")});
        QVERIFY2(a.code == 0, qPrintable(a.error));
        const auto json = nlohmann::json::parse(io::read_file(at("spread.json").toStdString()));
        QCOMPARE(json["trains"].get<int>(), 20);
        QVERIFY(json["p10"]["rpm"] < json["p50"]["rpm"] && json["p50"]["rpm"] < json["p90"]["rpm"]);
        QVERIFY(json["drivers"].size() > 20);
        QCOMPARE(run({"hold", kTrain, "--rpm", "6000", "--seconds", "0.1", "--out", at("hold.csv")}).code, 0);
        const QStringList lines = lines_of(at("hold.csv"));
        QVERIFY(lines[0].startsWith("time_s,peak_mm,seat_load_N"));
        QCOMPARE(lines.size(), 6); // five cycles of 0.02 s
        QCOMPARE(run({"hold", kTrain, "--rpm", "6000", "--seconds", "-1", "--out", at("never.csv")}).code, 2);
        QCOMPARE(run({"uncertainty", kTrain, "--rpm", "7000:8500:100", "--trains", "2", "--summary",
                      at("never.csv")})
                     .code,
                 2);
        QVERIFY(!QFile::exists(at("never.csv")));
    }

    void a_lobe_is_read_compared_and_written_as_a_table() {
        const QString passes = source_path(QStringLiteral("demo/gauge-three-passes.csv"));
        Answer a = run({"lobe", passes, "--against", source_path(QStringLiteral("demo/gauge-two-lobes.csv")),
                        "--advertised", "292", "--base", "runout_off", "--summary", at("l.json"), "--out",
                        at("l.csv"), "--table", at("t.csv"), "--step-deg", "2", "--unit", "thou", "--crank"});
        QVERIFY2(a.code == 0, qPrintable(a.error));
        const Json json = json_of(at("l.json"));
        QCOMPARE(json["gauge"]["repeatability"]["passes"].get<int>(), 3);
        QCOMPARE(json["gauge"]["outstanding"].size(), std::size_t{1});
        NEAR(json["gauge"]["runout_um"].get<double>(), 18, 2);
        QVERIFY(json["advertised"]["would_be_at_mm"].get<double>() > 0.1);
        bool said = false;
        for (const Json& flag : json["against"]["flags"])
            said |= flag["figure"] == "closing_acceleration" && flag["factor"].get<double>() > 1.6;
        QVERIFY(said);
        QVERIFY(lines_of(at("l.csv")).first().contains("jerk_sd_mm_per_deg3"));
        QCOMPARE(lines_of(at("t.csv")).first(), QStringLiteral("crank_deg,lift_thou"));
        QCOMPARE(lines_of(at("t.csv")).size(), 1 + 360);
        // the written table is the same lobe again
        a = run({"lobe", at("t.csv"), "--summary", at("again.json")});
        QCOMPARE(a.code, 0);
        NEAR(json_of(at("again.json"))["lift_mm"].get<double>(), json["lift_mm"].get<double>(), 0.002);
        for (const QStringList& wrong : {QStringList{"--base", "flat"},
                                         {"--unit", "yard", "--table", at("n.csv")},
                                         {"--lobe", "9"},
                                         {"--strength", "0"},
                                         {"--advertised", "800"},
                                         {"--step-deg", "0", "--table", at("n.csv")}}) {
            a = run(QStringList{"lobe", passes, "--summary", at("n.json")} + wrong);
            QCOMPARE(a.code, 2);
            QCOMPARE(a.error.count('\n'), 1);
            QVERIFY(!QFile::exists(at("n.json")) && !QFile::exists(at("n.csv")));
        }
    }

    void one_lobe_by_two_machines_is_told_apart_by_scale_and_runout() {
        const QString other = source_path(QStringLiteral("demo/gauge-second-machine.csv"));
        const QString after = source_path(QStringLiteral("demo/ashgill-a22-intake-after.train.json"));
        Answer a = run({"lobe", after, "--same-as", other, "--summary", at("two.json")});
        QVERIFY2(a.code == 0, qPrintable(a.error));
        const Json two = json_of(at("two.json"))["same_as"];
        NEAR(two["scale"]["value"].get<double>(), 1.003, 0.0003);
        NEAR(two["runout_um"]["value"].get<double>(), 6, 1);
        NEAR(two["offset_um"]["value"].get<double>(), 12, 1);
        QVERIFY(!two["agree"].get<bool>() && !two["mirrored"].get<bool>());
        QCOMPARE(two["told"].size(), std::size_t{2});
        QVERIFY(two["told"][0].get<std::string>().find("more lift") != std::string::npos);
        QCOMPARE(run({"lobe", after, "--same-as", after, "--summary", at("one.json")}).code, 0);
        const Json one = json_of(at("one.json"))["same_as"];
        QVERIFY(one["agree"].get<bool>());
        NEAR(one["scale"]["value"].get<double>(), 1, 1e-5);
        const QString pull = source_path(QStringLiteral("demo/ashgill-a22-after-1.pull.csv"));
        for (const char* beside : {"--same-as", "--against"}) {
            a = run({"lobe", after, beside, pull, "--summary", at("never.json")});
            QCOMPARE(a.code, 2);
            QVERIFY2(a.error.contains("bathmos-cli: " + pull + ": "), qPrintable(a.error));
        }
        QVERIFY(!QFile::exists(at("never.json")));
    }

    void a_pair_of_lobes_gives_its_events_as_installed_and_moved() {
        const QString exhaust = source_path(QStringLiteral("tests/trains/ashgill-a22-exhaust.train.json"));
        const QStringList asked = {"pair", kTrain, exhaust, "--centrelines", "106:110", "--summary"};
        Answer a = run(asked + QStringList{at("p.json"), "--moved", "4", "--engine", "86:94.6:152:12.2",
                                           "--height", "1.27mm"});
        QVERIFY2(a.code == 0, qPrintable(a.error));
        const Json json = json_of(at("p.json"));
        const Json& now = json["heights"][0]["as_installed"];
        const Json& moved = json["heights"][0]["as_moved"];
        NEAR(moved["intake"]["closes_after_bottom_deg"].get<double>() -
                 now["intake"]["closes_after_bottom_deg"].get<double>(),
             4, 2e-3);
        NEAR(now["overlap_crank_deg"].get<double>(),
             now["intake"]["opens_before_top_deg"].get<double>() +
                 now["exhaust"]["closes_after_top_deg"].get<double>(),
             2e-3);
        QVERIFY(moved["dynamic_compression_ratio"].get<double>() <
                now["dynamic_compression_ratio"].get<double>());
        NEAR(json["separation_cam_deg"].get<double>(), 54, 1e-9);
        CONTAINS(json["reading"][0].get<std::string>(), "closes 4 degrees later");
        a = run(asked +
                QStringList{at("q.json"), "--engine", "86:94.6:20:12.2"}); // a rod shorter than the crank
        QCOMPARE(a.code, 2);
        a = run({"pair", kTrain, exhaust, "--centrelines", "106", "--summary", at("q.json")});
        QCOMPARE(a.code, 2);
        QVERIFY(!QFile::exists(at("q.json")));
    }

    void help_stands_on_every_command() {
        for (const QStringList& command : {QStringList{"--help"},
                                           {"simulate", "--help"},
                                           {"sweep", "--help"},
                                           {"lobe", "--help"},
                                           {"rig", "--help"}}) {
            const Answer a = run(command);
            QCOMPARE(a.code, 0);
            QVERIFY(a.out.size() > 100);
        }
    }

    void output_may_go_to_a_pipe() {
        const Answer a = run({"simulate", kTrain, "--rpm", "5000", "--out", "/dev/stdout"});
        QCOMPARE(a.code, 0);
        QVERIFY(a.out.startsWith(QLatin1String("crank_deg,")));
        QCOMPARE(a.out.count(QLatin1Char('\n')), 1442);
    }

    void an_interrupt_stops_soon_and_leaves_no_file() {
        QProcess process;
        process.start(QStringLiteral(BATHMOS_CLI),
                      {"sweep", kTrain, "--rpm", "3000:9000:5", "--out", at("stopped.csv")});
        QVERIFY(process.waitForStarted());
        // Until the program listens, the signal ends it as it would any other; a busy machine takes its time.
        QTRY_VERIFY_WITH_TIMEOUT(catches_interrupts(process.processId()), 60000);
        QTest::qWait(300); // well into a sweep of 1200 speeds
        kill(static_cast<pid_t>(process.processId()), SIGINT);
        QVERIFY(process.waitForFinished(10000));
        QCOMPARE(process.exitCode(), 1);
        QVERIFY(process.readAllStandardError().contains("stopped"));
        QVERIFY(QDir(folder_.path()).entryList({QStringLiteral("stopped*")}).isEmpty());
    }

    // A file that takes seconds, a verb that reads it, and what it may not leave behind.
    void a_long_read_is_left_soon_and_leaves_nothing_data() {
        QTest::addColumn<QStringList>("arguments");
        QByteArray rows("rpm,torque_Nm\n");
        for (int i = 0; i < 600000; ++i)
            rows += QByteArray::number(3000 + i % 6000) + ",200.5\n";
        write_test_file(at("long.pull.csv"), rows);
        QTest::newRow("pull") << QStringList{"pull", at("long.pull.csv"), "--summary", "OUT"};
        QByteArray turns("rpm,cycle,crank_deg,lift_mm\n");
        for (int i = 0; i < 900000; ++i)
            turns += "3000," + QByteArray::number(i / 720) + ',' + QByteArray::number(i % 720) + ",1.2345\n";
        write_test_file(at("long.rig.csv"), turns);
        QTest::newRow("rig") << QStringList{"rig", at("long.rig.csv"), "--train", kTrain, "--summary", "OUT"};
        QByteArray gauge("cam_deg,lift_mm\n");
        for (int i = 0; i < 900000; ++i)
            gauge += QByteArray::number(0.0004 * i) + ",1.2345\n";
        write_test_file(at("long.gauge.csv"), gauge);
        QTest::newRow("lobe") << QStringList{"lobe", at("long.gauge.csv"), "--summary", "OUT"};
        const std::string project = at("long.bathmos").toStdString();
        if (!QFile::exists(at("long.bathmos"))) {
            io::Store store = io::Store::create(project);
            io::Trace trace{"run", "rig", "", {}};
            trace.columns.push_back({"lift_mm", true, std::vector<float>(3000000), {}});
            for (std::size_t i = 0; i < trace.columns[0].readings.size(); ++i)
                trace.columns[0].readings[i] = 1e-3f * static_cast<float>((i * 7919) % 10007);
            store.add_trace(io::packed(trace));
        }
        QTest::newRow("export") << QStringList{"export", at("long.bathmos"), "OUT"};
    }
    void a_long_read_is_left_soon_and_leaves_nothing() {
        QFETCH(QStringList, arguments);
        QDir(at("left")).removeRecursively();
        QVERIFY(QDir().mkpath(at("left")));
        arguments.replaceInStrings(QStringLiteral("OUT"), at("left/out"));
        QProcess process;
        process.start(QStringLiteral(BATHMOS_CLI), arguments);
        QVERIFY(process.waitForStarted());
        QTRY_VERIFY_WITH_TIMEOUT(catches_interrupts(process.processId()), 60000);
        kill(static_cast<pid_t>(process.processId()), SIGTERM);
        QVERIFY(process.waitForFinished(20000)); // a second, but for the sanitizers
        QCOMPARE(process.exitCode(), 1);
        QVERIFY(process.readAllStandardError().contains("stopped"));
        QCOMPARE(QDir(at("left")).entryList(QDir::AllEntries | QDir::NoDotAndDotDot).size(), 0);
    }

    void what_is_asked_back_stands_beside_the_result() {
        Train train = io::read_train(kTrain.toStdString());
        train.valve.mass_kg *= 1e-3;
        io::write_train(at("kg.train.json").toStdString(), train);
        const Answer a =
            run({"sweep", at("kg.train.json"), "--rpm", "5000:6000:500", "--summary", at("kg.json")});
        QCOMPARE(a.code, 0);
        QVERIFY(a.error.contains(QStringLiteral("note: Valve mass is")));
        const Json s = json_of(at("kg.json"));
        QCOMPARE(s["cautions"][0]["key"].get<std::string>(), std::string("valve.mass_g"));
        QCOMPARE(s["cautions"][0]["rule"].get<std::string>(), std::string("unusual"));
    }

    void a_full_disk_is_told_and_nothing_crashes_after_it() {
        const QString full = at("full.h5");
        QFile::link(QStringLiteral("/dev/full"), full);
        const Answer a = run({"sweep", kTrain, "--rpm", "5000:6000:500", "--out", full});
        QCOMPARE(a.code, 2); // not a signal
        QVERIFY2(a.error.contains(QStringLiteral("No space left on device")), qPrintable(a.error));
        QCOMPARE(a.error.count(QLatin1Char('\n')), 1);
    }

    void a_train_that_opens_no_valve_exits_2() {
        Train train = io::read_train(kTrain.toStdString());
        train.contacts.cam_stiffness_N_per_m = 1e-3;
        io::write_train(at("soft.train.json").toStdString(), train);
        const Answer a =
            run({"sweep", at("soft.train.json"), "--rpm", "5000:6000:500", "--summary", at("soft.json")});
        QCOMPARE(a.code, 2);
        QVERIFY(a.error.contains(QStringLiteral("does not open")));
        QVERIFY(!QFile::exists(at("soft.json")));
    }

    void a_lobe_of_874_mm_is_asked_back() {
        QByteArray gauge("cam_deg,lift_mm\n");
        for (int i = -180; i < 180; i += 2)
            gauge += QByteArray::number(i) + ',' + QByteArray::number(874 * std::exp(-i * i / 1500.0)) + '\n';
        write_test_file(at("high.csv"), gauge);
        const Answer a = run({"lobe", at("high.csv"), "--summary", at("high.json")});
        QCOMPARE(a.code, 0);
        QVERIFY2(a.error.contains(QStringLiteral("is its unit right?")), qPrintable(a.error));
    }

    void words_of_another_encoding_are_kept_and_exported() {
        QByteArray run_file;
        QFile demo(source_path(QStringLiteral("demo/ashgill-a22-intake-after.rig.csv")));
        QVERIFY(demo.open(QIODevice::ReadOnly));
        run_file = "# valve: Einla\xDF 3\n" + demo.readAll(); // Windows-1252
        const QString project = at("words.bathmos"), folder = at("words");
        {
            io::Store store = io::Store::create(project.toStdString());
            Project p;
            p.engines[1].name = "e";
            p.builds[1] = {"intake", 1, ValveSide::Intake, 0, 1, ""};
            p.revisions[1] = {1, 0, "", "first", io::now_text(), {starter_train(), {}}};
            std::vector<io::RecordChange> all;
            for (const auto kind : {io::RecordKind::Engine, io::RecordKind::Build, io::RecordKind::Revision})
                all.push_back({kind, 1, io::record_text(p, kind, 1)});
            store.note(all);
        }
        const std::string raw_name = folder_.path().toStdString() + "/S\xFC"
                                                                    "d.rig.csv";
        io::write_file(raw_name, std::string(run_file.data(), static_cast<std::size_t>(run_file.size())));
        QProcess keep;
        keep.start(QStringLiteral("sh"),
                   {"-c", QStringLiteral("exec \"$0\" keep \"$1\" \"$2\"/S*d.rig.csv --revision 1"),
                    QStringLiteral(BATHMOS_CLI), project, folder_.path()});
        QVERIFY(keep.waitForFinished(60000));
        QCOMPARE(keep.exitCode(), 0);
        QVERIFY(std::filesystem::remove(raw_name)); // QTemporaryDir cannot
        const Answer out = run({"export", project, folder});
        QCOMPARE(out.code, 0);
        const Json head = json_of(folder + QStringLiteral("/trace/0001.json"));
        QCOMPARE(QString::fromStdString(head["valve"].get<std::string>()), QStringLiteral("Einlaß 3"));
        QCOMPARE(run({"import", folder, at("again.bathmos")}).code, 0);
    }

    void pull_says_peaks_break_roughness_and_what_else() {
        const Answer answer = run({"pull", source_path("demo/ashgill-a22-after-1.pull.csv"), "--against",
                                   source_path("demo/ashgill-a22-before-1.pull.csv"), "--summary",
                                   at("pull.json"), "--out", at("pull.csv")});
        QVERIFY2(answer.code == 0, qPrintable(answer.error));
        const Json json = json_of(at("pull.json"));
        NEAR(json["break_rpm"].get<double>(), 7690, 100);
        NEAR(json["peak_kW"].get<double>(), 176.8, 1);
        QVERIFY(json["break_confidence"].get<double>() > 0.8 && json["break_depth_kW"].get<double>() > 1);
        QVERIFY(json["roughness"].size() > 10 && json["findings"].size() == 9);
        QVERIFY(json["difference"]["all"]["gain_kW"].get<double>() < 0);
        QVERIFY(json["difference"]["all"]["plus_minus_kW"].is_null()); // one pull a state
        QVERIFY(lines_of(at("pull.csv")).size() > 200);
        const Answer before = run({"pull", source_path("demo/ashgill-a22-before-1.pull.csv"), "--correct",
                                   "--summary", at("before.json")});
        QVERIFY2(before.code == 0, qPrintable(before.error));
        QVERIFY(json_of(at("before.json"))["break_rpm"].is_null());
        QVERIFY(json_of(at("before.json"))["correction"]["factor"].is_number());
        const Answer bad = run({"pull", source_path("demo/README.md"), "--summary", at("bad.json")});
        QCOMPARE(bad.code, 2);
        QVERIFY(!QFile::exists(at("bad.json")));
    }

    void several_pulls_of_a_file_are_told_one_by_one_and_together() {
        QStringList all = lines_of(source_path("demo/ashgill-a22-after-1.pull.csv"));
        const QStringList second = lines_of(source_path("demo/ashgill-a22-after-2.pull.csv"));
        all += second.mid(3); // its head stays away
        QFile file(at("both.csv"));
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(all.join(QLatin1Char('\n')).toUtf8());
        file.close();
        const Answer answer =
            run({"pull", at("both.csv"), "--against", source_path("demo/ashgill-a22-before-1.pull.csv"),
                 "--summary", at("both.json")});
        QVERIFY2(answer.code == 0, qPrintable(answer.error));
        const Json json = json_of(at("both.json"));
        QCOMPARE(json["pulls"].size(), std::size_t{2});
        QCOMPARE(json["state_break"]["pulls"].get<int>(), 2);
        NEAR(json["state_break"]["rpm"].get<double>(), 7680, 80);
        QVERIFY(json["difference"]["all"]["plus_minus_kW"].is_number()); // one state was repeated
        // One file corrected and one not are never compared.
        QFile other(at("corrected.csv"));
        QVERIFY(other.open(QIODevice::WriteOnly));
        other.write(all.join(QLatin1Char('\n')).replace("none, as recorded", "SAE J1349").toUtf8());
        other.close();
        const Answer mixed =
            run({"pull", at("corrected.csv"), "--against", source_path("demo/ashgill-a22-before-1.pull.csv"),
                 "--summary", at("mixed.json")});
        QCOMPARE(mixed.code, 2);
        QVERIFY2(mixed.error.contains("ashgill-a22-before-1") && mixed.error.contains("corrected"),
                 qPrintable(mixed.error));
        QVERIFY(!QFile::exists(at("mixed.json")));
        QCOMPARE(run({"pull", at("corrected.csv"), "--correct", "--summary", at("mixed.json")}).code,
                 2); // never twice
    }
};

QTEST_GUILESS_MAIN(TestCli)
#include "tst_cli.moc"
