#include "core/rig/rig_run.h"
#include "io/file/h5_reader.h"
#include "io/rig/rig_file.h"
#include "support.h"

#include <QTemporaryDir>
#include <functional>

using namespace bathmos;
using namespace bathmos::io;
using namespace bathmos::test;

namespace {

constexpr hsize_t kCycles = 3, kSamples = 360;

// A run of one speed, with whatever attributes `add` puts to its group and set.
class RunFile {
  public:
    std::vector<float> lift_mm = std::vector<float>(kCycles * kSamples, 1.0f);
    hsize_t cycles = kCycles, samples = kSamples;
    bool written = true, chunked = false;
    std::function<void(hid_t group, hid_t set)> add = [](hid_t group, hid_t) {
        numbers(group, "rpm", {3000});
    };

    static void numbers(hid_t object, const char* name, const std::vector<double>& values) {
        const hsize_t size = values.size();
        const H5Handle space(values.size() == 1 ? H5Screate(H5S_SCALAR) : H5Screate_simple(1, &size, nullptr),
                             H5Sclose);
        const H5Handle out(H5Acreate2(object, name, H5T_IEEE_F64LE, space.get(), H5P_DEFAULT, H5P_DEFAULT),
                           H5Aclose);
        H5Awrite(out.get(), H5T_NATIVE_DOUBLE, values.data());
    }
    static void texts(hid_t object, const char* name, hsize_t count, std::size_t each) {
        const H5Handle space(count == 1 ? H5Screate(H5S_SCALAR) : H5Screate_simple(1, &count, nullptr),
                             H5Sclose);
        const H5Handle type(H5Tcopy(H5T_C_S1), H5Tclose);
        H5Tset_size(type.get(), each);
        const H5Handle out(H5Acreate2(object, name, type.get(), space.get(), H5P_DEFAULT, H5P_DEFAULT),
                           H5Aclose);
        std::string all(count * each, '\0');
        for (hsize_t i = 0; i < count; ++i)
            all.replace(i * each, 2, "mm");
        H5Awrite(out.get(), type.get(), all.data());
    }
    std::filesystem::path write(const QTemporaryDir& dir) const {
        const std::string path = dir.filePath(QStringLiteral("run.h5")).toStdString();
        const H5Handle file(H5Fcreate(path.c_str(), H5F_ACC_TRUNC, H5P_DEFAULT, H5P_DEFAULT), H5Fclose);
        const H5Handle group(H5Gcreate2(file.get(), "speed_03000", H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT),
                             H5Gclose);
        const hsize_t size[2] = {cycles, samples}, chunk[2] = {1, kSamples};
        const H5Handle space(H5Screate_simple(2, size, nullptr), H5Sclose);
        const H5Handle how(H5Pcreate(H5P_DATASET_CREATE), H5Pclose);
        if (chunked)
            H5Pset_chunk(how.get(), 2, chunk);
        const H5Handle set(H5Dcreate2(group.get(), "lift_mm", H5T_IEEE_F32LE, space.get(), H5P_DEFAULT,
                                      how.get(), H5P_DEFAULT),
                           H5Dclose);
        if (written)
            H5Dwrite(set.get(), H5T_NATIVE_FLOAT, H5S_ALL, H5S_ALL, H5P_DEFAULT, lift_mm.data());
        add(group.get(), set.get());
        return path;
    }
};

} // namespace

// HDF5 files that hold other than what a run has: read if it makes sense, else told; never beyond what was
// made room for.
class TestHdf5 : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;

  private slots:
    void a_speed_per_cycle_is_each_cycles_speed() {
        RunFile run;
        run.add = [](hid_t group, hid_t) { RunFile::numbers(group, "rpm", {3000, 3010, 3020}); };
        const RigTrace trace = read_rig_hdf5(run.write(dir_));
        QCOMPARE(trace.turns.size(), std::size_t(3));
        NEAR(trace.turns[2].speed_rpm, 3020, 0);
    }

    void oil_may_be_said_once_or_of_each_cycle_or_not_at_all() {
        const auto oil_of = [&](std::vector<double> said) {
            RunFile run;
            run.add = [said = std::move(said)](hid_t group, hid_t) {
                RunFile::numbers(group, "rpm", {3000});
                if (!said.empty())
                    RunFile::numbers(group, "oil_C", said);
            };
            return read_rig_hdf5(run.write(dir_)).turns[2].oil_C;
        };
        NEAR(oil_of({92}), 92, 0);
        NEAR(oil_of({90, 91, 93}), 93, 0);
        QVERIFY(std::isnan(oil_of({})));
        CONTAINS(problem_of([&] { oil_of({90, 91}); }).what, "oil_C: 2 numbers for 3 cycles");
    }

    void attributes_of_another_extent_are_told_data() {
        QTest::addColumn<int>("which");
        QTest::addColumn<QString>("said");
        QTest::newRow("twenty speeds for three cycles") << 0 << "holds 20 numbers";
        QTest::newRow("two speeds for three cycles") << 1 << "2 numbers for 3 cycles";
        QTest::newRow("a hundred units") << 2 << "holds 100 texts";
        QTest::newRow("a unit of 5 kB") << 3 << "text of 5000 bytes";
        QTest::newRow("a speed that is text") << 4 << "is no number";
        QTest::newRow("no speed") << 5 << "0 numbers for 3 cycles";
        QTest::newRow("a speed below zero") << 6 << "rpm is -1";
        QTest::newRow("a speed that is none") << 7 << "rpm is nan";
    }
    void attributes_of_another_extent_are_told() {
        QFETCH(int, which);
        QFETCH(QString, said);
        RunFile run;
        run.add = [&](hid_t group, hid_t set) {
            if (which == 0)
                RunFile::numbers(group, "rpm", std::vector<double>(20, 3000));
            else if (which == 1)
                RunFile::numbers(group, "rpm", {3000, 3001});
            else if (which == 4)
                RunFile::texts(group, "rpm", 1, 8);
            else if (which == 6 || which == 7)
                RunFile::numbers(group, "rpm", {which == 6 ? -1.0 : std::nan("")});
            else if (which != 5)
                RunFile::numbers(group, "rpm", {3000});
            if (which == 2 || which == 3)
                RunFile::texts(set, "units", which == 2 ? 100 : 1, which == 2 ? 8 : 5000);
        };
        const InputProblem problem = problem_of([&] { read_rig_hdf5(run.write(dir_)); });
        CONTAINS(problem.what, said.toStdString());
        CONTAINS(problem.location, "/speed_03000");
        CONTAINS(problem.source, "run.h5");
    }

    void sets_that_claim_more_than_the_file_holds_are_told() {
        RunFile run;
        run.cycles = 1000000; // 1.4 GB of which nothing was written
        run.written = false;
        run.chunked = true;
        const InputProblem problem = problem_of([&] { read_rig_hdf5(run.write(dir_)); });
        CONTAINS(problem.what, "the file holds 0 bytes of them");
    }

    void readings_that_cannot_be_are_lost_ones() {
        const std::filesystem::path path = source_file("demo/ashgill-a22-intake-before.rig.h5");
        RigTrace trace = read_rig_hdf5(path);
        const std::size_t slowest = trace.turns.front().count * 8;
        for (std::size_t i = 0; i < slowest; ++i)
            trace.lift_mm[i] = i % 2 ? INFINITY : 1e30f;
        const RigRun run = reduce(trace, starter_train());
        QVERIFY(!run.warnings.empty());
        CONTAINS(run.warnings.front().in_words(), "lie beyond a metre");
        QVERIFY(run.steps.size() > 3);
        for (const RigStep& step : run.steps)
            for (const double lift : step.lift_m)
                QVERIFY(std::abs(lift) < 0.05);
    }
};

QTEST_GUILESS_MAIN(TestHdf5)
#include "tst_hdf5.moc"
