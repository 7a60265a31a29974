// A result is kept by the hash of its inputs, so whatever changes a result must change the hash.
#include "core/train/train_fields.h"
#include "io/train/train_file.h"
#include "session/results/input_hash.h"
#include "support.h"

#include <QDir>
#include <set>

using namespace bathmos;
using namespace bathmos::test;

namespace {

// A number that a file writes differently, though nobody could measure the difference.
double next_to(double value) {
    return value == 0 ? 1e-9 : value * (1 + 1e-9);
}

RigTrace small_trace() {
    return {"a.csv", "", {0, 1, 2, 3}, {0, 1, 2, 0}, {{6000, 0, 2, true}, {6010, 2, 2, true}}, false};
}

} // namespace

class TstInputHash : public QObject {
    Q_OBJECT
  private slots:
    void equal_inputs_read_twice_have_one_hash_data() {
        QTest::addColumn<QString>("file");
        for (const QString& file : QDir(source_path("tests/trains")).entryList({"*.train.json"}))
            QTest::newRow(qPrintable(file)) << file;
    }
    void equal_inputs_read_twice_have_one_hash() {
        QFETCH(QString, file);
        const std::string path = source_path("tests/trains/" + file).toStdString();
        const session::SweepInputs a{io::read_train(path), {3000, 9000, 100}, {}},
            b{io::read_train(path), {3000, 9000, 100}, {}};
        QCOMPARE(session::hash_of(a), session::hash_of(b));
        QCOMPARE(session::hash_of(a).size(), std::size_t{32});
    }

    void no_two_trains_have_the_same_hash() {
        std::set<std::string> seen;
        const QStringList files = QDir(source_path("tests/trains")).entryList({"*.train.json"});
        for (const QString& file : files)
            seen.insert(session::hash_of(
                {io::read_train(source_path("tests/trains/" + file).toStdString()), {3000, 9000, 100}, {}}));
        QCOMPARE(seen.size(), static_cast<std::size_t>(files.size()));
    }

    void every_number_of_a_train_counts_data() { equal_inputs_read_twice_have_one_hash_data(); }
    void every_number_of_a_train_counts() {
        QFETCH(QString, file);
        const Train train = io::read_train(source_path("tests/trains/" + file).toStdString());
        const SpeedRange range{3000, 9000, 100};
        std::set<std::string> seen{session::hash_of({train, range, {}})};
        std::size_t numbers = 1;
        for (const TrainField& field : train_fields()) {
            Train changed = train;
            double* value = field.at(changed);
            if (!value)
                continue;
            *value = next_to(*value);
            ++numbers;
            seen.insert(session::hash_of({changed, range, {}}));
            QVERIFY2(seen.size() == numbers, field.key.data());
        }
        for (std::size_t spring = 0; spring < train.springs.size(); ++spring)
            for (const SpringField& field : spring_fields()) {
                Train changed = train;
                double* value = field.at(changed.springs[spring]);
                if (!value)
                    continue;
                *value = next_to(*value);
                ++numbers;
                seen.insert(session::hash_of({changed, range, {}}));
                QVERIFY2(seen.size() == numbers, field.key.data());
            }
        QVERIFY(numbers > 25);
    }

    void range_and_limits_count_each_by_itself() {
        const session::SweepInputs a{starter_train(), {3000, 9000, 100}, {}};
        std::vector<session::SweepInputs> all{a};
        const auto with = [&](auto change) {
            all.push_back(a);
            change(all.back());
        };
        with([](auto& b) { b.range.first_rpm = 3100; });
        with([](auto& b) { b.range.last_rpm = 9100; });
        with([](auto& b) { b.range.step_rpm = 50; });
        with([](auto& b) { b.limits.name = "another"; });
        with([](auto& b) { b.limits.check_lift_m = 1e-3; });
        for (std::size_t i = 0; i < a.limits.list.size(); ++i) {
            with([&](auto& b) { b.limits.list[i].above *= 1.001; });
            with([&](auto& b) {
                b.limits.list.erase(b.limits.list.begin() + static_cast<std::ptrdiff_t>(i));
            });
            if (a.limits.list[i].below)
                with([&](auto& b) { *b.limits.list[i].below *= 1.001; });
        }
        std::set<std::string> seen;
        for (const auto& inputs : all)
            seen.insert(session::hash_of(inputs));
        QCOMPARE(seen.size(), all.size());
    }

    void every_reading_and_turn_of_a_run_counts() {
        const Train train = starter_train();
        std::set<std::string> seen;
        std::size_t runs = 0;
        const auto take = [&](const RigTrace& trace, bool reversed = false) {
            seen.insert(session::hash_of(trace, train, reversed, {}));
            ++runs;
            QCOMPARE(seen.size(), runs);
        };
        take(small_trace());
        take(small_trace(), true);
        for (std::size_t i = 0; i < 4; ++i) {
            RigTrace t = small_trace();
            t.lift_mm[i] += 1e-6F;
            take(t);
            t = small_trace();
            t.crank_deg[i] += 1e-3F;
            take(t);
        }
        for (std::size_t i = 0; i < 2; ++i) {
            RigTrace t = small_trace();
            t.turns[i].speed_rpm += 0.5;
            take(t);
            t = small_trace();
            t.turns[i].follows_on = false;
            take(t);
        }
        RigTrace t = small_trace();
        t.turns[0].count = 1;
        take(t);
        t = small_trace();
        t.once_per_crank_turn = true;
        take(t);
    }

    void a_run_s_train_and_limits_count() {
        const RigTrace trace = small_trace();
        Train train = starter_train();
        const std::string first = session::hash_of(trace, train, false, {});
        LimitsInForce limits;
        limits.check_lift_m = 1e-3;
        QVERIFY(session::hash_of(trace, train, false, limits) != first);
        train.lash_m += 1e-6;
        QVERIFY(session::hash_of(trace, train, false, {}) != first);
    }
};

QTEST_APPLESS_MAIN(TstInputHash)
#include "tst_input_hash.moc"
