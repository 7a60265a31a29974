// A running rig listened to, over the loopback: all of it recorded, shown as it is reduced later, taken
// through a programme, stopped by its rules; a line that breaks, nonsense and a frame of gigabytes lose
// nothing.
#include "core/rig/hold_creep.h"
#include "session/live/live_session.h"
#include "session/rig_server.h"
#include "support.h"

#include <QTemporaryDir>
#include <algorithm>
#include <fstream>

using namespace bathmos;
using namespace bathmos::test;
using session::LiveSession;
using session::LiveSnapshot;
using session::LiveState;

namespace {

standin::LiveRigSetup believed_rig() {
    standin::LiveRigSetup out;
    out.believed = starter_train();
    out.as_believed = true;
    out.samples_a_turn = 720;
    out.rpm_per_s = 4000;
    return out;
}

class Listening {
  public:
    explicit Listening(const RigServer& server,
                       std::vector<live::StopLimit> stops = live::usual_stop_limits())
        : Listening(server.port(), std::move(stops)) {}
    explicit Listening(std::string port, std::vector<live::StopLimit> stops = live::usual_stop_limits()) {
        session::LiveSetup setup;
        setup.host = "127.0.0.1";
        setup.port = std::move(port);
        setup.train = starter_train();
        setup.recording = folder_.filePath("run.rig-stream").toStdString();
        setup.stops = std::move(stops);
        path = setup.recording;
        session.emplace(std::move(setup));
    }
    bool wait_until(const std::function<bool(const LiveSnapshot&)>& so, int milliseconds = 180'000) const {
        return QTest::qWaitFor([&] { return so(session->snapshot()); }, milliseconds);
    }
    bool told(const std::string& part) const {
        return std::ranges::any_of(session->snapshot().notes, [&](const session::LiveNote& note) {
            return contains(note.text.in_words(), part);
        });
    }
    std::optional<LiveSession> session;
    std::filesystem::path path;

  private:
    QTemporaryDir folder_;
};

} // namespace

class TstLiveSession : public QObject {
    Q_OBJECT

  private slots:
    void a_programme_is_run_recorded_and_reduced_as_the_file_is_later() {
        RigServer server(believed_rig());
        Listening rig(server);
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.pieces == 1; }));
        rig.session->start(live::steps_programme(2500, 3500, 500, 20));
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.programme_done; }));
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) {
            return now.run && std::abs(now.run->steps[now.run->nearest(3500)].speed_rpm - 3500) < 30;
        }));
        const LiveSnapshot now = rig.session->snapshot();
        QCOMPARE(now.lost, std::uint64_t(0));
        QCOMPARE(now.bad_cycles, std::uint64_t(0));
        QVERIFY(now.good_cycles >= 60);
        QVERIFY(!now.stopped);
        QCOMPARE(now.cycle.lift_m.size(), std::size_t(1441));
        QVERIFY(!now.orders.empty() && now.orders[0].amplitude_m.size() == live::kOrders);
        rig.session.reset();
        io::RecordingFacts facts;
        const RigTrace trace = io::read_recording(rig.path, &facts);
        QVERIFY(facts.samples >= now.samples && facts.lost == 0 && !facts.cut);
        const RigRun later = reduce(trace, starter_train());
        NEAR(later.scale_ratio, 1, 0.002);
        for (const double rpm : {2500.0, 3000.0, 3500.0}) {
            const RigStep &live_step = now.run->steps[now.run->nearest(rpm)],
                          &step = later.steps[later.nearest(rpm)];
            NEAR(live_step.speed_rpm, rpm, 30);
            NEAR(*live_step.metrics[Metric::ClosingShift], *step.metrics[Metric::ClosingShift], 0.1);
            const auto live_peak = std::ranges::max(live_step.lift_m), peak = std::ranges::max(step.lift_m);
            NEAR(live_peak, peak, 5e-6);
        }
    }

    void a_line_that_breaks_goes_on_as_a_second_piece() {
        RigServer server(believed_rig());
        Listening rig(server);
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.pieces == 1; }));
        rig.session->start(live::steps_programme(2500, 3000, 500, 60));
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.good_cycles > 20; }));
        server.cut_line();
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.state == LiveState::Lost; }));
        QVERIFY(rig.told("all up to here is kept"));
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.pieces == 2; }));
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.programme_done; }));
        rig.session.reset();
        io::RecordingFacts facts;
        const RigTrace trace = io::read_recording(rig.path, &facts);
        QCOMPARE(facts.pieces, std::size_t(2));
        // All but what was on the line when it was cut.
        QVERIFY(facts.samples <= server.samples() && facts.samples + 4000 > server.samples());
        QCOMPARE(reduce(trace, starter_train()).nearest(3000) > 0, true);
    }

    void nonsense_and_a_frame_of_gigabytes_are_told_and_lose_nothing() {
        RigServer server(believed_rig());
        Listening rig(server);
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.pieces == 1; }));
        rig.session->set_speed(2500);
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.good_cycles > 8; }));
        server.say({0xd8, 0x18, 0x5a, 0x80, 0, 0, 0, 1, 2, 3});
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.pieces == 2; }));
        QVERIFY(rig.told("a frame of 2147483648 bytes"));
        server.say({'G', 'E', 'T', ' ', '/'});
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.pieces == 3; }));
        QVERIFY(rig.told("no rig stream"));
        live::Block lies; // of another number of channels than was said
        lies.samples.assign(7, 1.0f);
        server.say(io::rig_frame(lies));
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.pieces == 4; }));
        const std::uint64_t before = rig.session->snapshot().good_cycles;
        QVERIFY(rig.wait_until([&](const LiveSnapshot& now) { return now.good_cycles > before + 5; }));
        rig.session.reset();
        io::RecordingFacts facts;
        QVERIFY(io::read_recording(rig.path, &facts).turns.size() > 13);
    }

    void a_bounce_that_stays_stops_the_rig_and_the_operator_s_word_wins() {
        standin::LiveRigSetup setup = believed_rig();
        setup.fault = standin::RigFault::Bounce;
        std::vector<live::StopLimit> stops = live::usual_stop_limits();
        for (live::StopLimit& one : stops)
            one.on = one.rule != live::StopRule::Loft; // it lofts at the same speed
        stops[0].above = 0.05e-3;
        RigServer server(setup);
        Listening rig(server, stops);
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.pieces == 1; }));
        rig.session->start(live::steps_programme(5000, 7000, 1000, 100));
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.stopped.has_value(); }));
        const live::StopReason why = *rig.session->snapshot().stopped;
        QVERIFY2(why.rule == live::StopRule::Bounce, why.told.in_words().c_str());
        QVERIFY(!rig.session->snapshot().programme);
        QVERIFY(QTest::qWaitFor([&] { return server.rpm() < 100; }, 60'000)); // the rig came down
        rig.session->set_speed(2000);
        QVERIFY(QTest::qWaitFor([&] { return server.rpm() > 1900; }, 60'000));
        rig.session->stop("enough");
        QVERIFY(QTest::qWaitFor([&] { return server.rpm() < 100; }, 60'000));
        QVERIFY(rig.told("enough"));
    }

    void a_device_beside_the_rig_is_recorded_shown_watched_and_missed() {
        RigServer server(believed_rig());
        Listening rig(server);
        LiveSession& session = *rig.session;
        session.hear_device({"dial", 0, 60}); // before the rig: shown, of no piece
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.pieces == 1; }));
        session.set_speed(2000);
        const auto until = [&](const live::DeviceReading& said, const auto& so) {
            return rig.wait_until([&](const LiveSnapshot& now) {
                session.hear_device(said);
                return so(now);
            });
        };
        QVERIFY(until({"dial", 2000, 77}, [](const LiveSnapshot& now) {
            return now.good_cycles > 40 && now.oil_C == 77.0 && std::abs(now.rpm - 2000) < 30;
        }));
        QVERIFY(!rig.told("pulse of the cam"));
        QVERIFY(until({"dial", 4000, 77}, [&](const LiveSnapshot&) { return rig.told("pulse of the cam"); }));
        QVERIFY(!session.snapshot().stopped);
        session.hear_device({"dial", {}, 77}); // one number a line is both
        session.hear_device({"dial", 4000, {}});
        QVERIFY(session.snapshot().oil_C == 77.0 && !rig.told("no temperature"));
        // Its temperature fails while its speed goes on: told, and not taken for what it was.
        QVERIFY(until({"dial", 4000, {}}, [](const LiveSnapshot& now) { return now.oil_C != 77.0; }));
        QVERIFY(rig.told("dial says no temperature now: it is not watched"));
        session.hear_device({"dial", {}, 77});
        for (int i = 0; i < 40; ++i)
            session.hear_device({"made up " + std::to_string(i), {}, 50});
        QCOMPARE(session.snapshot().devices.size(), session::kMostDevices);
        session.hear_device({"dial", {}, 77});
        QVERIFY(rig.wait_until([&](const LiveSnapshot& now) { return now.devices[0].silent; }));
        QVERIFY(rig.told("dial is silent: its temperature is not watched"));
        QVERIFY(session.snapshot().oil_C != 77.0); // the rig's own again
        QVERIFY(until({"dial", {}, 140}, [](const LiveSnapshot& now) { return now.stopped.has_value(); }));
        QVERIFY(session.snapshot().stopped->rule == live::StopRule::Temperature);
        session.hear_device({"dial", {}, 141}); // just before the end
        rig.session.reset();
        std::ifstream file(rig.path, std::ios::binary);
        const std::string bytes{std::istreambuf_iterator<char>(file), {}};
        const io::Bytes last = io::rig_content(live::DeviceReading{"dial", {}, 141});
        QVERIFY(bytes.find(std::string(last.begin(), last.end())) != std::string::npos);
        const RigTrace trace = io::read_recording(rig.path);
        QVERIFY(std::ranges::count(trace.turns, 77.0, &RigTurn::oil_C) > 40);
        const RigRun run = reduce(trace, starter_train());
        QCOMPARE(run.steps[run.nearest(2000)].oil_C, std::optional(77.0));
    }

    void what_this_rig_cannot_turn_is_refused_before_it_is_asked() {
        standin::LiveRigSetup setup = believed_rig();
        setup.most_rpm = 6000;
        {
            const std::string nobody = RigServer(setup).port(); // it has gone again
            Listening alone(nobody);
            CONTAINS(
                problem_of([&] { alone.session->start(live::steps_programme(2500, 3000, 500, 20)); }).what,
                "not connected");
        }
        RigServer server(setup);
        Listening rig(server);
        QVERIFY(rig.wait_until([](const LiveSnapshot& now) { return now.pieces == 1; }));
        QCOMPARE(
            problem_of([&] { rig.session->start(live::steps_programme(5000, 7000, 1000, 20)); }).location,
            std::string("legs[2].rpm"));
        rig.session->set_speed(9000);
        QVERIFY(rig.wait_until([&](const LiveSnapshot&) { return rig.told("the rig refuses"); }));
        session::LiveSetup again;
        again.train = starter_train();
        again.recording = rig.path;
        CONTAINS(problem_of([&] { LiveSession second(again); }).what, "there already");
    }
};

QTEST_GUILESS_MAIN(TstLiveSession)
#include "tst_live_session.moc"
