#include "core/motion/sweep.h"
#include "core/rig/rig_run.h"
#include "io/rig/rig_file.h"
#include "io/train/train_file.h"
#include "support.h"

#include <QElapsedTimer>
#include <QFile>
#include <QTemporaryDir>
#include <fstream>
#include <thread>

using namespace bathmos;
using namespace bathmos::test;

namespace {

#if defined(BATHMOS_SANITIZED)
constexpr bool kSanitized = true;
#else
constexpr bool kSanitized = false;
#endif

Train demo_train(const char* state) {
    return io::read_train(source_file(std::string("demo/ashgill-a22-intake-") + state + ".train.json"));
}
RigTrace demo_trace(const char* name) {
    return io::read_rig(source_file(std::string("demo/ashgill-a22-intake-") + name));
}

double peak_memory_MB() {
    std::ifstream status("/proc/self/status");
    std::string word;
    while (status >> word)
        if (word == "VmHWM:") {
            double kB;
            status >> kB;
            return kB / 1024;
        }
    return 0;
}

} // namespace

class TestRigFile : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;

    std::filesystem::path file(const QByteArray& content) {
        return write_test_file(folder_.filePath(QStringLiteral("r.csv")), content);
    }

  private slots:
    void the_demo_s_angle_based_run_reads_and_shows_its_edge() {
        const RigTrace trace = demo_trace("after.rig.csv");
        QCOMPARE(QString::fromStdString(trace.valve), QStringLiteral("intake 3"));
        QVERIFY(!trace.once_per_crank_turn);
        QCOMPARE(trace.turns.size(), std::size_t{232});
        const RigRun run = reduce(trace, demo_train("after"));
        QCOMPARE(run.steps.size(), std::size_t{29});
        QVERIFY(*run.onset.onset.speed_rpm > 7500 && *run.onset.onset.speed_rpm < 7800);
        QCOMPARE(*run.onset.onset.metric, Metric::Bounce);
        NEAR(run.scale_ratio, 1, 0.015);
        std::size_t used = 0, dropped = 0;
        for (const RigStep& step : run.steps) {
            used += step.used;
            for (std::size_t count : step.dropped)
                dropped += count;
        }
        QCOMPARE(used + dropped, std::size_t{232}); // every recorded cycle is accounted for
        QVERIFY(dropped > 20 && dropped < 100);
    }

    void before_the_winter_change_the_same_rig_shows_no_edge() {
        const RigRun run = reduce(demo_trace("before.rig.csv"), demo_train("before"));
        QVERIFY(!run.onset.onset.speed_rpm.has_value());
        QVERIFY(!run.limit.speed_rpm.has_value());
    }

    void the_time_based_run_agrees_with_the_angle_based_one() {
        const RigTrace trace = demo_trace("after-time.rig.csv");
        QVERIFY(!trace.once_per_crank_turn);
        const RigRun by_time = reduce(trace, demo_train("after")),
                     by_angle = reduce(demo_trace("after.rig.csv"), demo_train("after"));
        QCOMPARE(by_time.steps.size(), std::size_t{6});
        for (const RigStep& step : by_time.steps) {
            const RigStep& other = by_angle.steps[by_angle.nearest(step.speed_rpm)];
            NEAR(step.speed_rpm, other.speed_rpm, 20);
            NEAR(*step.metrics[Metric::LiftLoss], *other.metrics[Metric::LiftLoss], 20e-6);
            NEAR(*step.metrics[Metric::DurationChange], *other.metrics[Metric::DurationChange], 0.4);
        }
    }

    void the_hdf5_run_agrees_with_the_text_run() {
        const RigTrace trace = demo_trace("before.rig.h5");
        QVERIFY(!trace.once_per_crank_turn);
        const RigRun h5 = reduce(trace, demo_train("before")),
                     text = reduce(demo_trace("before.rig.csv"), demo_train("before"));
        QCOMPARE(h5.steps.size(), std::size_t{29});
        // Another day, another scale: durations shift as a whole, but change with speed alike.
        const auto change = [](const RigRun& run, std::size_t i) {
            return *run.steps[i].metrics[Metric::DurationChange] -
                   *run.steps[0].metrics[Metric::DurationChange];
        };
        for (std::size_t i = 0; i < h5.steps.size(); ++i)
            NEAR(change(h5, i), change(text, i), 0.5);
        NEAR(h5.scale_ratio, 1, 0.015); // scaled with a gauge block, good to 1 %
    }

    void names_are_mapped_and_units_follow() {
        const auto path = file("cycle,lift_in,cam_deg,rpm\n1,0.1,0,3000\n1,0.2,1,3000\n");
        const io::RigColumns c = io::guess_columns(io::sniff_table(path));
        QVERIFY(c.complete() && c.angle_unit == io::RigAngleUnit::CamDegree);
        NEAR(c.lift_to_mm, 25.4, 0);
        const RigTrace trace = io::read_rig(path);
        NEAR(static_cast<double>(trace.lift_mm[1]), 5.08, 1e-5);
        NEAR(static_cast<double>(trace.crank_deg[1]), 2, 1e-6);
    }

    void oil_is_taken_where_a_column_has_it_and_may_be_missing() {
        const RigTrace by_angle = io::read_rig(
            file("rpm,cycle,crank_deg,lift_mm,oil_C\n3000,1,0,0,80.5\n3000,1,360,1,80.5\n3000,2,0,0,\n"));
        QCOMPARE(by_angle.turns.size(), std::size_t(2));
        NEAR(by_angle.turns[0].oil_C, 80.5, 1e-12);
        QVERIFY(std::isnan(by_angle.turns[1].oil_C));
        const RigTrace by_time = io::read_rig(file("time_s,index,lift_mm,oil_C\n0,1,0,70\n0.01,0,1,70\n"
                                                   "0.02,0,0,71\n0.03,1,0,71\n0.04,0,1,72\n"));
        QCOMPARE(by_time.turns.size(), std::size_t(1));
        NEAR(by_time.turns[0].oil_C, 71, 1e-12); // as it was at the turn's end
        io::RigColumns columns =
            io::guess_columns(io::sniff_table(file("rpm,crank_deg,lift_mm,oil_C\n1,2,3,4\n")));
        QCOMPARE(io::rig_mapping_of(io::rig_mapping_text(columns, false))->columns.oil, columns.oil);
    }

    void what_is_missing_is_named_data() {
        QTest::addColumn<QByteArray>("content");
        QTest::addColumn<QString>("says");
        QTest::newRow("no lift") << QByteArray("rpm,cycle,crank_deg\n3000,1,0\n3000,1,1\n")
                                 << "no column with the valve lift";
        QTest::newRow("no angle or time")
            << QByteArray("rpm,lift_mm\n3000,1\n3000,2\n") << "no column with crank angle or time";
        QTest::newRow("no index") << QByteArray("time_s,lift_mm\n0.1,1\n0.2,2\n")
                                  << "no column with the index pulse";
        QTest::newRow("no speed") << QByteArray("crank_deg,lift_mm\n0,1\n1,2\n")
                                  << "no column with the speed";
        QTest::newRow("index never comes")
            << QByteArray("time_s,index,lift_mm\n0.1,0,1\n0.2,0,2\n") << "never shows a pulse";
        QTest::newRow("time goes back")
            << QByteArray("time_s,index,lift_mm\n0.2,1,1\n0.1,0,2\n") << "time must increase";
        QTest::newRow("one pulse") << QByteArray("time_s,index,lift_mm\n0.1,1,1\n0.2,0,2\n")
                                   << "no whole turn";
        QTest::newRow("zero speed") << QByteArray("rpm,crank_deg,lift_mm\n0,0,1\n0,1,2\n")
                                    << "speeds must be above 0";
        QTest::newRow("lost angle") << QByteArray("rpm,crank_deg,lift_mm\n3000,0,1\n3000,,2\n")
                                    << "only lift may be left empty";
        QTest::newRow("empty") << QByteArray() << "the file is empty";
    }
    void what_is_missing_is_named() {
        QFETCH(QByteArray, content);
        QFETCH(QString, says);
        const auto path = file(content);
        const InputProblem problem = problem_of([&] { io::read_rig(path); });
        CONTAINS(problem.sentence(), says.toStdString());
        QCOMPARE(QString::fromStdString(problem.source), QString::fromStdString(path.string()));
    }

    void crank_pulses_are_told_from_cam_pulses() {
        const Motion m = simulate_one(starter_train(), 6000);
        QByteArray content("time_s,index,lift_mm\n");
        const double step = 1e-5;
        for (int i = 0; i < 20000; ++i) { // ten crank turns of 10 ms
            const double t = i * step, crank = std::fmod(t * 6 * 6000, 720);
            content += QByteArray::number(t, 'f', 6) + (i % 1000 == 0 ? ",1," : ",0,") +
                       QByteArray::number(lift_at(m, std::remainder(crank - 100, 720)) * 1e3, 'f', 4) + '\n';
        }
        const RigTrace trace = io::read_rig(file(content));
        QVERIFY(trace.once_per_crank_turn);
        NEAR(trace.turns[0].speed_rpm, 6000, 1);
        const RigRun run = reduce(trace, starter_train());
        NEAR(run.steps[0].speed_rpm, 6000, 1);
        NEAR(*run.steps[0].metrics[Metric::LiftLoss], *m.metrics[Metric::LiftLoss], 5e-6);
    }

    void hdf5_files_that_are_none_are_refused() {
        const QString path = folder_.filePath(QStringLiteral("bad.h5"));
        QFile out(path);
        QVERIFY(out.open(QIODevice::WriteOnly));
        out.write("not hdf5 at all");
        out.close();
        CONTAINS(problem_of([&] { io::read_rig(path.toStdString()); }).what,
                 "cannot be opened as an HDF5 file");
        QFile whole(source_path(QStringLiteral("demo/ashgill-a22-intake-before.rig.h5")));
        QVERIFY(whole.open(QIODevice::ReadOnly));
        QVERIFY(out.open(QIODevice::WriteOnly));
        out.write(whole.read(100000)); // cut short
        out.close();
        QVERIFY(!problem_of([&] { io::read_rig(path.toStdString()); }).what.empty());
    }

    void two_hundred_megabytes_are_read_with_progress_stop_and_little_memory() {
        QFile demo(source_path(QStringLiteral("demo/ashgill-a22-intake-after.rig.csv")));
        QVERIFY(demo.open(QIODevice::ReadOnly));
        const QByteArray once = demo.readAll(), body = once.mid(once.indexOf("3005,1,0"));
        const qint64 wanted = kSanitized ? 20'000'000 : 200'000'000;
        const QString path = folder_.filePath(QStringLiteral("large.csv"));
        QFile large(path);
        QVERIFY(large.open(QIODevice::WriteOnly));
        large.write(once);
        while (large.size() < wanted)
            large.write(body);
        large.close();
        const double before_MB = peak_memory_MB(),
                     size_MB = static_cast<double>(large.size()) / (1024 * 1024);
        double last = 0;
        int calls = 0;
        const RigTrace trace = io::read_rig(path.toStdString(), {[&](double share) {
                                                                     last = share;
                                                                     ++calls;
                                                                 },
                                                                 {}});
        NEAR(last, 1, 1e-9);
        QVERIFY(calls > 10);
        QVERIFY(trace.lift_mm.size() > static_cast<std::size_t>(wanted / 20));
        if (!kSanitized)
            QVERIFY2(peak_memory_MB() - before_MB < 3 * size_MB,
                     qPrintable(QString::number(peak_memory_MB() - before_MB)));
        std::stop_source source;
        std::jthread stopper([&] {
            std::this_thread::sleep_for(std::chrono::milliseconds(60));
            source.request_stop();
        });
        QElapsedTimer clock;
        clock.start();
        QVERIFY_THROWS_EXCEPTION(Stopped, io::read_rig(path.toStdString(), {{}, source.get_token()}));
        QVERIFY(clock.elapsed() < 2000);
        QVERIFY(QFile::remove(path));
    }
};

QTEST_GUILESS_MAIN(TestRigFile)
#include "tst_rig_file.moc"
