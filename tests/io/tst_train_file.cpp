#include "core/train/train_check.h"
#include "core/train/unusual.h"
#include "io/file/safe_file.h"
#include "io/train/train_file.h"
#include "support.h"

#include <QDir>
#include <QFile>
#include <QTemporaryDir>
#include <random>
#include <sys/stat.h>
#include <unistd.h>

using namespace bathmos;
using namespace bathmos::test;

namespace {

QStringList train_files() {
    QStringList out;
    for (const char* folder : {"tests/trains", "demo"})
        for (const QString& name :
             QDir(source_path(QLatin1String(folder))).entryList({QStringLiteral("*.train.json")}))
            out.push_back(source_path(QLatin1String(folder)) + QLatin1Char('/') + name);
    return out;
}

std::string demo_text() {
    return io::read_file(source_file("tests/trains/ashgill-a22-intake.train.json"));
}

std::string replaced(std::string text, const std::string& from, const std::string& to) {
    const auto at = text.find(from);
    return at == std::string::npos ? "missing: " + from : text.replace(at, from.size(), to);
}

} // namespace

class TestTrainFile : public QObject {
    Q_OBJECT
  private slots:
    void every_train_survives_a_round_trip_data() {
        QTest::addColumn<QString>("path");
        for (const QString& path : train_files())
            QTest::newRow(qPrintable(QFileInfo(path).fileName())) << path;
    }
    void every_train_survives_a_round_trip() {
        QFETCH(QString, path);
        const Train train = io::read_train(path.toStdString());
        const std::string text = io::train_text(train);
        const Train again = io::parse_train(text, "again");
        QCOMPARE(QString::fromStdString(io::train_text(again)), QString::fromStdString(text));
        QCOMPARE(again.springs.size(), train.springs.size());
        NEAR(again.valve.mass_kg, train.valve.mass_kg, 1e-12);
        QVERIFY(again.lobe == train.lobe);
    }

    void no_shipped_train_is_asked_whether_its_units_are_right_data() {
        every_train_survives_a_round_trip_data();
    }
    void no_shipped_train_is_asked_whether_its_units_are_right() {
        QFETCH(QString, path);
        for (const Finding& finding : unusual_numbers(io::read_train(path.toStdString())))
            QFAIL(in_words(finding).c_str());
    }

    void added_keys_survive_a_round_trip() {
        Train t = starter_train();
        RockerGeometry g;
        g.arms_angle_rad = radians(170);
        g.lifter_x_m = -23.9e-3;
        g.lifter_y_m = -203e-3;
        g.lifter_angle_rad = radians(90);
        g.valve_x_m = 35.5e-3;
        g.valve_angle_rad = radians(-90);
        t.rocker->ratio = g;
        auto& coil = std::get<CoilGeometry>(t.springs[0].kind);
        coil.wire_height_m = 4.2e-3;
        coil.free_length_m = 50.4e-3;
        coil.pitch_m = {9e-3, 10e-3, 11e-3};
        coil.pitch_scatter = 0.015;
        t.pressure_table = PressureTable{{radians(-360), radians(0)}, {1e3, -2e3}};
        t.tolerances["valve.mass_g"] = {Source::Estimate, 0.5e-3};
        t.tolerances["springs[0].wire_mm"] = {Source::Gauge, 0.03e-3};
        t.lash_at = LashAt::LoadedRest;
        t.camshaft = CamshaftTorsion{6500, 720, 0.04};
        t.valve.elastic = ElasticValve{38e6, 0.5, 0.02};
        t.drive_ripple = DriveRipple{0.001, -0.002, 0, 0.003};
        const Train again = io::parse_train(io::train_text(t), "again");
        QVERIFY(again.lash_at == LashAt::LoadedRest && again.drive_ripple == t.drive_ripple);
        QVERIFY(again.camshaft == t.camshaft && again.valve.elastic == t.valve.elastic);
        QVERIFY(std::get<RockerGeometry>(again.rocker->ratio).arms_angle_rad > 2.9);
        NEAR(*std::get<CoilGeometry>(again.springs[0].kind).wire_height_m, 4.2e-3, 1e-12);
        QCOMPARE(std::get<CoilGeometry>(again.springs[0].kind).pitch_m.size(), std::size_t{3});
        NEAR(*std::get<CoilGeometry>(again.springs[0].kind).pitch_scatter, 0.015, 1e-12);
        NEAR(again.pressure_table->pressure_Pa[1], -2e3, 1e-9);
        NEAR(again.tolerances.at("valve.mass_g").plus_minus, 0.5e-3, 1e-12);
        QVERIFY(again.tolerances.at("springs[0].wire_mm").source == Source::Gauge);
        QCOMPARE(io::train_text(again), io::train_text(t));
    }

    void options_of_the_model_are_off_unless_named_and_take_their_usual_numbers() {
        std::string text = demo_text();
        const Train plain = io::parse_train(text, "x");
        QVERIFY(!plain.camshaft && !plain.valve.elastic && !plain.drive_ripple);
        QVERIFY(plain.lash_at == LashAt::FirstTouch);
        QVERIFY(!std::get<CoilGeometry>(plain.springs[0].kind).pitch_scatter);
        QVERIFY(io::train_text(plain).find("pitch_scatter") == std::string::npos);
        const auto at = text.find("\"valve\": {");
        text.insert(at, "\"camshaft\": {}, ");
        text.insert(text.find("\"valve\": {") + 10, "\"stem_stiffness_N_per_mm\": 30000, ");
        const Train t = io::parse_train(text, "x");
        QVERIFY(t.camshaft == CamshaftTorsion{});
        NEAR(t.valve.elastic->stiffness_N_per_m, 30e6, 1e-3);
        NEAR(t.valve.elastic->head_share, 0.52, 1e-12);
        text.insert(at, "\"lash_at\": \"cold\", ");
        CONTAINS(problem_of([&] { io::parse_train(text, "x"); }).mend, "first_touch, loaded");
    }

    void left_out_keys_mean_their_defaults() {
        std::string text = demo_text();
        const auto from = text.find("\"contacts\""), to = text.find("\"friction\"");
        text.erase(from, to - from);
        const Train t = io::parse_train(text, "x");
        NEAR(t.contacts.cam_stiffness_N_per_m, 40e6, 1);
        NEAR(t.contacts.seat_damping_s_per_m, 1.5, 1e-12);
    }

    void errors_name_source_key_fault_and_mend_data() {
        QTest::addColumn<QString>("from");
        QTest::addColumn<QString>("to");
        QTest::addColumn<QString>("place");
        QTest::addColumn<QString>("says");
        const auto row = [](const char* name, const char* from, const char* to, const char* place,
                            const char* says) { QTest::newRow(name) << from << to << place << says; };
        row("unknown key", "\"lash_mm\"", "\"lash_mmm\": 1, \"lash_mm\"", "lash_mmm",
            "did you mean \"lash_mm\"?");
        row("missing key", "\"installed_height_mm\": 42.0,", "", "installed_height_mm", "is missing");
        row("text for number", "\"installed_height_mm\": 42.0", "\"installed_height_mm\": \"42\"",
            "installed_height_mm", "must be a number");
        row("negative mass", "\"valve\": {\n  \"mass_g\": 88", "\"valve\": {\n  \"mass_g\": -88",
            "valve.mass_g", "must be above 0");
        row("zero stiffness", "\"stiffness_N_per_mm\": 15000", "\"stiffness_N_per_mm\": 0",
            "rocker.stiffness_N_per_mm", "must be above 0");
        row("layout", "\"pushrod\",\n \"lobe\"", "\"overhead\",\n \"lobe\"", "layout", "must be one of");
        row("wrong version", "\"version\": 1", "\"version\": 9", "version", "use a newer one");
        row("wrong format", "bathmos-train", "bathmos-pull", "format", "a train file says");
        row("height below solid", "\"installed_height_mm\": 42.0", "\"installed_height_mm\": 20.0",
            "installed_height_mm", "solid height");
        row("lash over lift", "\"lift_mm\": 8.4", "\"lift_mm\": 4.0", "lash_mm", "whole lift");
        row("height in metres", "\"installed_height_mm\": 42.0", "\"installed_height_mm\": 0.042",
            "installed_height_mm", "solid height");
        row("spring key", "\"active_coils\": 3.9", "\"aktive_coils\": 3.9", "springs[0].active_coils",
            "is missing");
        row("no spring", "\"springs\": [", "\"springs\": [], \"old\": [", "springs", "at least one spring");
        row("two ways to say a ratio", "\"ratio\":", "\"geometry\": {}, \"ratio\":", "rocker.ratio",
            "exactly one");
        row("pressure twice", "\"back_pressure_kPa\": 0", "\"back_pressure_kPa\": 0, \"pressure_table\": {}",
            "back_pressure_kPa", "give one of them");
        row("tolerance of nothing", "\"lash_mm\"",
            "\"tolerances\": {\"valve.weight\": {\"plus_minus\": 1}}, \"lash_mm\"", "tolerances.valve.weight",
            "no number of this train");
        row("pitch that does not add up", "\"active_coils\": 3.9",
            "\"pitch_mm\": [20, 20], \"active_coils\": 3.9", "springs[0].pitch_mm", "agree within 3 %");
        row("both shapes", "\"analytic\": {", "\"table\": {}, \"analytic\": {", "lobe.table", "exactly one");
    }
    void errors_name_source_key_fault_and_mend() {
        QFETCH(QString, from);
        QFETCH(QString, to);
        QFETCH(QString, place);
        QFETCH(QString, says);
        std::string text = demo_text();
        if (place == QLatin1String("lash_mm"))
            text = replaced(text, "\"lash_mm\": 0.3", "\"lash_mm\": 8");
        text = replaced(text, from.toStdString(), to.toStdString());
        const InputProblem problem = problem_of([&] { io::parse_train(text, "my.train.json"); });
        QCOMPARE(QString::fromStdString(problem.source), QStringLiteral("my.train.json"));
        QCOMPARE(QString::fromStdString(problem.location), place);
        CONTAINS(problem.sentence(), says.toStdString());
        QVERIFY(!problem.mend.empty());
    }

    void text_that_is_no_train_is_refused_with_its_place() {
        CONTAINS(problem_of([] { io::parse_train("", "x"); }).what, "empty");
        CONTAINS(problem_of([] { io::parse_train("  \n ", "x"); }).what, "empty");
        const InputProblem cut = problem_of([] { io::parse_train(demo_text().substr(0, 600), "x"); });
        CONTAINS(cut.location, "line");
        CONTAINS(cut.mend, "cut short");
        QVERIFY(!problem_of([] { io::parse_train("[1, 2]", "x"); }).what.empty());
        QVERIFY(!problem_of([] {
                     io::parse_train(std::string("\x7f"
                                                 "ELF\x02\x01\x00\x00",
                                                 8),
                                     "x");
                 }).location.empty());
        CONTAINS(problem_of([] {
                     io::parse_train(replaced(demo_text(), "\"lash_mm\": 0.3", "\"lash_mm\": NaN"), "x");
                 }).location,
                 "line");
    }

    void a_byte_order_mark_does_no_harm() {
        QVERIFY(io::parse_train("\xEF\xBB\xBF" + demo_text(), "x") == io::parse_train(demo_text(), "x"));
    }

    // Bytes changed at random: always a train or a message, never anything else.
    void mutated_files_give_a_train_or_a_message() {
        std::mt19937 random(1);
        const std::string text = demo_text();
        int refused = 0;
        for (int i = 0; i < 400; ++i) {
            std::string bad = text;
            for (int k = 0; k < 3; ++k)
                bad[random() % bad.size()] = static_cast<char>(random() % 256);
            if (i % 4 == 0)
                bad.resize(random() % bad.size());
            try {
                io::parse_train(bad, "x");
            } catch (const InputError& error) {
                ++refused;
                QVERIFY(!error.problem().what.empty());
            }
        }
        QVERIFY(refused > 200);
    }

    void files_are_written_whole_or_not_at_all() {
        QTemporaryDir folder;
        const std::string path = folder.filePath(QStringLiteral("a.json")).toStdString();
        io::write_file(path, "old");
        io::write_file(path, "new");
        QCOMPARE(QString::fromStdString(io::read_file(path)), QStringLiteral("new"));
        QCOMPARE(QDir(folder.path()).entryList(QDir::Files).size(), 1); // no leftovers
        CONTAINS(problem_of([&] {
                     io::write_file(folder.filePath(QStringLiteral("none/b.json")).toStdString(), "x");
                 }).what,
                 "cannot be written");
        CONTAINS(
            problem_of([&] { io::read_file(folder.filePath(QStringLiteral("none")).toStdString()); }).what,
            "cannot be read");
        CONTAINS(problem_of([&] { io::read_file(folder.path().toStdString()); }).what, "cannot be read");
    }

    void a_full_disk_leaves_the_old_file() {
        // /dev/full refuses every byte, as a full disk does; a folder without room cannot be had in a test
        CONTAINS(problem_of([] { io::write_file("/dev/full", std::string(100000, 'x')); }).what,
                 "cannot be written");
    }

    void links_are_followed_and_permissions_kept() {
        QTemporaryDir folder;
        const std::string real = folder.filePath(QStringLiteral("real.json")).toStdString(),
                          link = folder.filePath(QStringLiteral("link.json")).toStdString();
        io::write_file(real, "1");
        chmod(real.c_str(), 0600);
        QCOMPARE(symlink(real.c_str(), link.c_str()), 0);
        io::write_file(link, "2");
        QCOMPARE(QString::fromStdString(io::read_file(real)), QStringLiteral("2"));
        struct stat info {};
        QCOMPARE(lstat(link.c_str(), &info), 0);
        QVERIFY(S_ISLNK(info.st_mode));
        stat(real.c_str(), &info);
        QCOMPARE(info.st_mode & 0777, mode_t{0600});
    }
};

QTEST_GUILESS_MAIN(TestTrainFile)
#include "tst_train_file.moc"
