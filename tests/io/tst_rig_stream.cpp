// The rig stream's bytes: messages there and back, frames cut from any pieces, what no rig can mean refused;
// a recording that a kill, a full disk or nonsense cuts loses nothing before.
#include "io/live/programme_file.h"
#include "io/live/recording.h"
#include "support.h"

#include <QTemporaryDir>
#include <algorithm>
#include <csignal>
#include <fstream>
#include <random>
#include <sys/resource.h>

using namespace bathmos;
using namespace bathmos::test;
using namespace bathmos::io;

namespace {

live::Hello hello() {
    live::Hello out;
    out.rig = "made up";
    out.valve = "intake 2";
    out.channels = {{"lift", "mm"}};
    out.samples_a_turn = 360;
    out.most_rpm = 9000;
    return out;
}
live::Block turns_of(std::uint64_t first, std::size_t turns, float rpm = 3000) {
    live::Block out;
    out.first = first;
    for (std::size_t i = 0; i < 360 * turns; ++i) {
        if (i % 360 == 0) {
            out.pulses.push_back(static_cast<std::uint32_t>(i));
            out.pulse_rpm.push_back(rpm);
        }
        out.samples.push_back(i % 360 > 100 && i % 360 < 200 ? 9.0f : 0.2f);
    }
    return out;
}
Bytes content_of(const live::Message& message) {
    FrameSplitter frames;
    frames.add(rig_frame(message));
    return *frames.next();
}
template <class T>
T there_and_back(const T& message) {
    return std::get<T>(*rig_message(content_of(message)));
}
Bytes file_bytes(const std::filesystem::path& path) {
    std::ifstream file(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(file), {}};
}
void write_bytes(const std::filesystem::path& path, const Bytes& bytes) {
    std::ofstream(path, std::ios::binary)
        .write(reinterpret_cast<const char*>(bytes.data()), std::streamsize(bytes.size()));
}

} // namespace

class TstRigStream : public QObject {
    Q_OBJECT

  private slots:
    void messages_go_there_and_back() {
        QVERIFY(there_and_back(hello()) == hello());
        live::Hello by_time = hello();
        by_time.samples_a_turn = 0;
        by_time.rate_Hz = 200'000;
        by_time.once_per_crank_turn = true;
        QVERIFY(there_and_back(by_time) == by_time);
        QVERIFY(there_and_back(turns_of(123'456'789'012, 2)) == turns_of(123'456'789'012, 2));
        QVERIFY(there_and_back(live::Reading{3.5, 6000, 92}) == (live::Reading{3.5, 6000, 92}));
        QVERIFY(there_and_back(live::Reading{3.5, 6000, {}}) == (live::Reading{3.5, 6000, {}}));
        for (const live::DeviceReading& reading :
             {live::DeviceReading{"dial", 3000, 92}, {"dial", 3000, {}}, {"dial", {}, 92}, {"dial", {}, {}}})
            QVERIFY(there_and_back(reading) == reading);
        const live::RigEvent event{"interlock", "door öffnet"};
        QVERIFY(there_and_back(event) == event);
        const live::Request request{live::Request::Kind::SetSpeed, 7, 6000, 250, ""};
        QVERIFY(there_and_back(request) == request);
        const live::Answer answer{7, true, "to 6000"};
        QVERIFY(there_and_back(answer) == answer);
    }

    void frames_are_cut_from_any_pieces() {
        Bytes stream;
        for (int i = 0; i < 40; ++i) {
            const Bytes frame = rig_frame(turns_of(std::uint64_t(720) * i, 2));
            stream.insert(stream.end(), frame.begin(), frame.end());
        }
        std::mt19937 engine(5);
        FrameSplitter frames;
        std::size_t found = 0;
        for (std::size_t at = 0; at < stream.size();) {
            const std::size_t piece = std::min<std::size_t>(1 + engine() % 3000, stream.size() - at);
            frames.add({stream.data() + at, piece});
            at += piece;
            while (const auto content = frames.next())
                QCOMPARE(std::get<live::Block>(*rig_message(*content)).first, std::uint64_t(720) * found++);
        }
        QCOMPARE(found, std::size_t(40));
        QCOMPARE(frames.waiting(), std::size_t(0));
    }

    void what_begins_no_frame_and_what_is_too_long_is_refused_at_once() {
        const auto refused = [](const Bytes& bytes) {
            FrameSplitter frames;
            frames.add(bytes);
            return QString::fromStdString(problem_of([&] { frames.next(); }).what);
        };
        QCOMPARE(refused({'H', 'T', 'T', 'P'}), "is no rig stream");
        QCOMPARE(refused({0xd8, 0x18, 0x83}), "holds no frame");
        QCOMPARE(refused({0xd8, 0x18, 0x5a, 0x80, 0, 0, 0}), "a frame of 2147483648 bytes");
        QCOMPARE(refused({0xd8, 0x18, 0x5b, 0x7f, 0, 0, 0, 0, 0, 0, 0}),
                 "a frame of 9151314442816847872 bytes");
        FrameSplitter waits;
        waits.add(Bytes{0xd8});
        QVERIFY(!waits.next());
    }

    void content_that_lies_is_refused_before_it_takes_memory_or_stack() {
        const auto refused = [](const Bytes& bytes) {
            return QString::fromStdString(problem_of([&] { rig_message(bytes); }).what);
        };
        Bytes nested(100'000, 0x81); // arrays of one, within each other
        nested.push_back(0);
        CONTAINS(refused(nested).toStdString(), "nested deeper");
        CONTAINS(refused({0x9b, 0xff, 0xff, 0xff, 0xff, 0, 0, 0, 0}).toStdString(), "ends within");
        Bytes pairs(9, 0); // 2^63 pairs: twice as many is 0 in 64 bits
        pairs[0] = 0xbb;
        pairs[1] = 0x80;
        CONTAINS(refused(pairs).toStdString(), "ends within");
        CONTAINS(refused({0x5a, 0x7f, 0, 0, 0}).toStdString(), "bytes less");
        CONTAINS(refused({0xa1, 0x61}).toStdString(), "bytes less");
        CONTAINS(refused({0x9f, 0xff}).toStdString(), "not stated");
        CONTAINS(refused({0x01}).toStdString(), "no map of one key");
        QVERIFY(!rig_message(Bytes{0xa1, 0x63, 'n', 'e', 'w', 0xa0})); // of a later version: passed over
        Bytes two = content_of(live::RigEvent{"a", "b"});
        two.push_back(0);
        CONTAINS(refused(two).toStdString(), "more than one message");
        live::Hello no_lift = hello();
        no_lift.channels = {{"oil", "C"}};
        CONTAINS(refused(content_of(no_lift)).toStdString(), "none is called");
    }

    void whatever_bytes_come_it_is_a_message_or_an_error() {
        std::mt19937 engine(17);
        const Bytes good = content_of(turns_of(720, 1));
        for (int round = 0; round < 3000; ++round) {
            Bytes bytes = good;
            for (int i = 0; i < 1 + int(engine() % 6); ++i)
                bytes[engine() % std::min<std::size_t>(bytes.size(), 80)] = std::uint8_t(engine());
            if (round % 3 == 0)
                bytes.resize(engine() % bytes.size());
            try {
                rig_message(bytes);
            } catch (const InputError&) {
                continue;
            }
        }
    }

    void a_recording_gives_its_turns_again_in_pieces() {
        QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("a.rig-stream").toStdString();
        {
            Recorder recorder(path);
            recorder.add(content_of(hello()));
            recorder.add(content_of(turns_of(0, 5)));
            recorder.add(content_of(live::RigEvent{"holding", ""}));
            recorder.add(content_of(hello())); // the line was lost and came again
            recorder.add(content_of(turns_of(9000, 4, 3500)));
            QVERIFY(recorder.problem().empty());
        }
        RecordingFacts facts;
        const RigTrace trace = read_recording(path, &facts);
        QCOMPARE(trace.turns.size(), std::size_t(4 + 3)); // the last of each piece has no end
        QCOMPARE(trace.valve, std::string("intake 2"));
        QVERIFY(!trace.turns[4].follows_on);
        QCOMPARE(trace.turns[4].speed_rpm, 3500.0);
        QCOMPARE(facts.pieces, std::size_t(2));
        QCOMPARE(facts.events.size(), std::size_t(1));
        QVERIFY(!facts.cut && facts.broken.empty() && facts.lost == 0);
        QCOMPARE(read_rig(path).turns.size(), trace.turns.size()); // as any other trace
        QCOMPARE(problem_of([&] { Recorder again(path); }).what, std::string("is there already"));
    }

    void the_oil_of_a_turn_is_the_device_s_until_it_falls_silent() {
        QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("a.rig-stream").toStdString();
        {
            Recorder recorder(path);
            std::uint64_t first = 0;
            const auto turn_after = [&](const live::Message& message) {
                recorder.add(content_of(message));
                recorder.add(content_of(turns_of(360 * first++, 1)));
            };
            turn_after(hello()); // begins turn 0, which is whole with the next block
            turn_after(live::RigEvent{"holding", ""});
            turn_after(live::Reading{1, 3000, 70});
            turn_after(live::DeviceReading{"thermometer", {}, 80});
            turn_after(live::Reading{2, 3000, 71});
            turn_after(live::DeviceReading{"tachometer", {}, {}});    // another one's silence
            turn_after(live::DeviceReading{"thermometer", 3000, {}}); // its other number goes on
            turn_after(hello());                                      // a new piece knows nothing
        }
        const RigTrace trace = read_recording(path);
        QCOMPARE(trace.turns.size(), std::size_t(6));
        QVERIFY(std::isnan(trace.turns[0].oil_C));
        const double oil_C[] = {70, 80, 80, 80, 71};
        for (std::size_t i = 0; i < 5; ++i)
            NEAR(trace.turns[i + 1].oil_C, oil_C[i], 1e-12);
    }

    void wherever_a_recording_is_cut_all_before_it_is_there() {
        QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("a.rig-stream").toStdString(),
                                    cut = folder.filePath("b.rig-stream").toStdString();
        std::vector<std::size_t> ends; // of the file after each block
        {
            Recorder recorder(path);
            recorder.add(content_of(hello()));
            for (int i = 0; i < 12; ++i) {
                recorder.add(content_of(turns_of(std::uint64_t(720) * i, 2)));
                recorder.settle();
                ends.push_back(recorder.bytes());
            }
        }
        const Bytes all = file_bytes(path);
        QCOMPARE(all.size(), ends.back());
        std::mt19937 engine(8);
        for (int round = 0; round < 60; ++round) {
            const std::size_t at = ends[1] + engine() % (all.size() - ends[1]);
            write_bytes(cut, {all.begin(), all.begin() + std::ptrdiff_t(at)});
            const auto blocks = std::size_t(std::ranges::upper_bound(ends, at) - ends.begin());
            RecordingFacts facts;
            QCOMPARE(read_recording(cut, &facts).turns.size(), 2 * blocks - 1);
            QCOMPARE(facts.cut, at != ends[blocks - 1]);
        }
        Bytes spoilt = all;
        spoilt[ends[7] + 1] = 0; // nonsense from there on
        write_bytes(cut, spoilt);
        RecordingFacts facts;
        QCOMPARE(read_recording(cut, &facts).turns.size(), std::size_t(15));
        CONTAINS(facts.broken, "no rig stream");
        write_bytes(cut, {all.begin(), all.begin() + 40});
        CONTAINS(problem_of([&] { read_recording(cut); }).what, "no whole turn");
        write_bytes(cut, {'a', 'b', 'c'});
        CONTAINS(problem_of([&] { read_recording(cut); }).what, "no rig stream");
    }

    void a_full_disk_ends_with_a_whole_frame_and_goes_on_when_there_is_room() {
        QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("a.rig-stream").toStdString();
        ::signal(SIGXFSZ, SIG_IGN);
        rlimit before{};
        ::getrlimit(RLIMIT_FSIZE, &before);
        {
            Recorder recorder(path);
            recorder.add(content_of(hello()));
            recorder.add(content_of(turns_of(0, 20)));
            recorder.settle();
            const std::uint64_t whole = recorder.bytes();
            rlimit small{whole + 1000, before.rlim_max};
            ::setrlimit(RLIMIT_FSIZE, &small);
            recorder.add(content_of(turns_of(7200, 20)));
            recorder.settle();
            QVERIFY(!recorder.problem().empty());
            QCOMPARE(recorder.bytes(), whole);
            QCOMPARE(std::filesystem::file_size(path), whole);
            ::setrlimit(RLIMIT_FSIZE, &before);
            recorder.add(content_of(turns_of(14400, 20)));
            recorder.settle();
            QVERIFY(recorder.problem().empty());
            QCOMPARE(recorder.not_kept(), std::uint64_t(0));
        }
        RecordingFacts facts;
        QCOMPARE(read_recording(path, &facts).turns.size(), std::size_t(59));
        QCOMPARE(facts.lost, std::uint64_t(0));
    }

    void a_programme_is_read_as_it_was_written_and_its_faults_are_named() {
        live::Programme programme = live::steps_programme(3000, 4000, 500, 16);
        programme.legs.push_back({live::LegKind::Hold, 4000, 250, 10, 0});
        programme.times = 2;
        QVERIFY(parse_programme(programme_text(programme), "made up") == programme);
        const auto at = [](const char* text) {
            return QString::fromStdString(problem_of([&] { parse_programme(text, "made up"); }).location);
        };
        QCOMPARE(at(R"({"format": "else", "version": 1, "legs": []})"), "format");
        QCOMPARE(
            at(R"({"format": "bathmos-programme", "version": 1, "legs": [{"kind": "jump", "rpm": 3000}]})"),
            "legs[0].kind");
        QCOMPARE(
            at(R"({"format": "bathmos-programme", "version": 1, "legs": [{"kind": "hold", "rpm": 3000}]})"),
            "legs[0].seconds");
        QCOMPARE(
            at(R"({"format": "bathmos-programme", "version": 1, "legs": [{"kind": "ramp", "rpm": 3000, "to": 1}]})"),
            "legs[0].to");
    }
};

QTEST_APPLESS_MAIN(TstRigStream)
#include "tst_rig_stream.moc"
