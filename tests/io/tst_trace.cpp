// Raw readings in a project come back as they went in, and damage is told; who may write is one.
#include "io/project/trace.h"
#include "io/project/write_lock.h"
#include "support.h"

#include <QTemporaryDir>
#include <limits>
#include <random>

using namespace bathmos;
using namespace bathmos::test;

namespace {

constexpr double kNone = std::numeric_limits<double>::quiet_NaN();

// Columns of every kind, with numbers that are hard to write down.
io::Trace hard_trace(std::size_t many) {
    std::mt19937_64 dice(4711);
    std::uniform_real_distribution<double> size(-300, 300), mantissa(-1, 1);
    io::TraceColumn numbers{
        "torque_Nm", false, {}, {0, -0.0, 5e-324, 1.7976931348623157e308, 1.0 / 3, kNone}};
    io::TraceColumn readings{"lift_mm", true, {0.1F, -0.0F, 1e-45F, 3.4e38F}, {}};
    readings.readings.push_back(std::numeric_limits<float>::quiet_NaN());
    for (std::size_t i = 0; i < many; ++i) {
        numbers.numbers.push_back(mantissa(dice) * std::pow(10, size(dice)));
        readings.readings.push_back(static_cast<float>(mantissa(dice)));
    }
    return {"hard.csv", "rig", "intake 3", {numbers, readings, {"empty", false, {}, {}}}};
}

// Bit for bit, but that one "no reading" is as good as another.
template <class T>
bool same(const std::vector<T>& a, const std::vector<T>& b) {
    return a.size() == b.size() && std::equal(a.begin(), a.end(), b.begin(), [](T x, T y) {
               return std::isnan(x) ? std::isnan(y) : x == y && std::signbit(x) == std::signbit(y);
           });
}
bool same(const io::Trace& a, const io::Trace& b) {
    return a.name == b.name && a.kind == b.kind && a.valve == b.valve &&
           a.columns.size() == b.columns.size() &&
           std::equal(a.columns.begin(), a.columns.end(), b.columns.begin(),
                      [](const io::TraceColumn& x, const io::TraceColumn& y) {
                          return x.name == y.name && x.single == y.single && same(x.readings, y.readings) &&
                                 same(x.numbers, y.numbers);
                      });
}

// The same columns without numbers, as a folder's list of them gives.
io::Trace heads_of(io::Trace trace) {
    for (io::TraceColumn& c : trace.columns) {
        c.readings.clear();
        c.numbers.clear();
    }
    return trace;
}

} // namespace

class TstTrace : public QObject {
    Q_OBJECT
  private slots:
    void packed_readings_come_back_bit_for_bit() {
        const io::Trace trace = hard_trace(1000);
        QVERIFY(same(io::unpacked(io::packed(trace)), trace));
    }

    void a_long_trace_is_stored_in_pieces_and_comes_back_whole() {
        const io::Trace trace = hard_trace(600000);
        const io::PackedTrace packed = io::packed(trace);
        QVERIFY(packed.pieces.size() > 4);
        QVERIFY(same(io::unpacked(packed), trace));
    }

    void readings_that_change_little_take_little_room() {
        io::TraceColumn lift{"lift_mm", true, {}, {}};
        for (int i = 0; i < 100000; ++i)
            lift.readings.push_back(static_cast<float>(8 * std::sin(i * 1e-3)));
        const io::PackedTrace packed = io::packed({"a", "rig", "", {lift}});
        std::size_t bytes = 0;
        constexpr std::size_t plain = 100000 * sizeof(float);
        for (const auto& piece : packed.pieces)
            bytes += piece.bytes.size();
        QVERIFY2(bytes < plain - plain / 5, qPrintable(QString::number(bytes)));
    }

    void a_changed_byte_in_the_head_of_a_piece_is_told() {
        io::PackedTrace packed = io::packed(hard_trace(100));
        packed.pieces[0].bytes[0] = static_cast<char>(packed.pieces[0].bytes[0] ^ 0x55);
        CONTAINS(problem_of([&] { io::unpacked(packed); }).what, "damaged");
    }

    void every_shortened_piece_is_told() {
        const io::PackedTrace packed = io::packed(hard_trace(100));
        const std::string whole = packed.pieces[0].bytes;
        for (std::size_t length = 0; length < whole.size(); length += 7) {
            io::PackedTrace cut = packed;
            cut.pieces[0].bytes = whole.substr(0, length);
            CONTAINS(problem_of([&] { io::unpacked(cut); }).what, "damaged");
        }
    }

    void a_piece_that_is_missing_is_told_with_its_column() {
        io::PackedTrace packed = io::packed(hard_trace(100));
        packed.pieces.erase(packed.pieces.begin());
        const InputProblem problem = problem_of([&] { io::unpacked(packed); });
        CONTAINS(problem.what, "missing");
        QCOMPARE(problem.location, std::string("torque_Nm"));
        QVERIFY(!problem.mend.empty());
    }

    void text_reads_back_as_the_same_numbers() {
        const io::Trace trace = hard_trace(2000);
        io::Trace read = heads_of(trace);
        io::read_trace_csv(io::trace_csv(trace), read);
        QVERIFY(same(read, trace));
    }

    void text_that_is_no_trace_is_told_with_its_line_data() {
        QTest::addColumn<QByteArray>("text");
        QTest::addColumn<QByteArray>("where");
        QTest::newRow("other columns") << QByteArray("a,b\n1,2\n") << QByteArray("line 1");
        QTest::newRow("a word") << QByteArray("turn_rpm,lift_mm\n1,2\n3,four\n") << QByteArray("line 3");
        QTest::newRow("nothing") << QByteArray() << QByteArray("line 1");
    }
    void text_that_is_no_trace_is_told_with_its_line() {
        QFETCH(QByteArray, text);
        QFETCH(QByteArray, where);
        io::Trace trace{"a", "rig", "", {{"turn_rpm", false, {}, {}}, {"lift_mm", true, {}, {}}}};
        const InputProblem problem = problem_of([&] { io::read_trace_csv(text.toStdString(), trace); });
        CONTAINS(problem.location, where.toStdString());
    }

    void a_rig_s_trace_becomes_columns_and_back() {
        const RigTrace rig{"run.csv",
                           "exhaust 1",
                           {0, 90, 180, 0.5F},
                           {0, 4.25F, 0, NAN},
                           {{6000.25, 0, 3, true}, {6100.5, 3, 1, false}},
                           true};
        const RigTrace back = io::rig_of(io::unpacked(io::packed(io::trace_of(rig))));
        QCOMPARE(back.source, rig.source);
        QCOMPARE(back.valve, rig.valve);
        QVERIFY(same(back.crank_deg, rig.crank_deg) && same(back.lift_mm, rig.lift_mm));
        QVERIFY(back.once_per_crank_turn);
        QCOMPARE(back.turns.size(), std::size_t{2});
        QVERIFY(back.turns[1].speed_rpm == 6100.5 && back.turns[1].first == 3 && back.turns[1].count == 1 &&
                !back.turns[1].follows_on && std::isnan(back.turns[1].oil_C));
        RigTrace warm = rig;
        warm.turns[1].oil_C = 91.5;
        io::Trace kept = io::trace_of(warm);
        const RigTrace again = io::rig_of(kept);
        QVERIFY(std::isnan(again.turns[0].oil_C) && again.turns[1].oil_C == 91.5);
        QVERIFY(io::trace_csv(kept).starts_with("crank_deg,lift_mm,turn_rpm,turn_first,turn_count,"
                                                "turn_follows_on,once_per_crank_turn,turn_oil_C\n"));
        kept.columns.back().numbers.pop_back();
        CONTAINS(problem_of([&] { io::rig_of(kept); }).what, "as long as the turns'");
    }

    void turns_outside_of_the_readings_are_told_data() {
        QTest::addColumn<int>("column");
        QTest::addColumn<double>("value");
        QTest::newRow("first beyond") << 3 << 1e12;
        QTest::newRow("count beyond") << 4 << 1e9;
        QTest::newRow("first below zero") << 3 << -1.0;
        QTest::newRow("count that is none") << 4 << std::nan("");
        QTest::newRow("half a reading") << 3 << 0.5;
    }
    void turns_outside_of_the_readings_are_told() {
        QFETCH(int, column);
        QFETCH(double, value);
        io::Trace trace = io::trace_of({"run.csv", "", {0, 90, 180}, {0, 1, 0}, {{6000, 0, 3, true}}, false});
        QCOMPARE(io::rig_of(trace).turns.size(), std::size_t(1));
        trace.columns.at(static_cast<std::size_t>(column)).numbers.at(0) = value;
        const InputProblem problem = problem_of([&] { io::rig_of(trace); });
        QCOMPARE(problem.location, trace.columns.at(static_cast<std::size_t>(column)).name);
        CONTAINS(problem.what, "the trace has 3 readings");
        trace.columns.at(static_cast<std::size_t>(column)).numbers.clear();
        CONTAINS(problem_of([&] { io::rig_of(trace); }).what, "not of one length");
    }

    void a_trace_of_another_kind_is_no_rig_run() {
        CONTAINS(problem_of([&] { io::rig_of(hard_trace(1)); }).what, "no column");
    }

    void one_writes_and_others_are_told_who() {
        const QTemporaryDir folder;
        const std::filesystem::path project = folder.filePath("a.bathmos").toStdString();
        io::WriteLock first(project, io::FolderOf::ThisMachine);
        QVERIFY(first.held());
        {
            const io::WriteLock second(project, io::FolderOf::ThisMachine);
            QVERIFY(!second.held());
            QVERIFY(!second.holder().empty());
        }
        QVERIFY(first.held()); // one that was refused takes nothing away
        io::WriteLock moved(std::move(first));
        QVERIFY(moved.held() && !io::WriteLock(project, io::FolderOf::ThisMachine).held());
        moved = io::WriteLock();
        QVERIFY(io::WriteLock(project, io::FolderOf::ThisMachine).held());
    }

    void a_lock_that_cannot_be_made_is_not_held() {
        QVERIFY(!io::WriteLock("/no/such/folder/a.bathmos", io::FolderOf::ThisMachine).held());
    }
};

QTEST_APPLESS_MAIN(TstTrace)
#include "tst_trace.moc"
