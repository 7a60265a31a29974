// A running rig's parts: turns cut from blocks, programmes walked, stop rules, holds that creep, surge
// orders, a run that grows to what its recording gives.
#include "core/dynamics/chain.h"
#include "core/live/live_run.h"
#include "core/live/programme.h"
#include "core/live/stop_rules.h"
#include "core/rig/hold_creep.h"
#include "support.h"

#include <algorithm>
#include <numbers>
#include <random>

using namespace bathmos;
using namespace bathmos::test;
using namespace bathmos::live;

namespace {

Hello hello_by_angle(double samples = 360) {
    Hello out;
    out.rig = "made up";
    out.channels = {{"motor", "A"}, {"lift", "um"}};
    out.samples_a_turn = samples;
    return out;
}

// Samples 0, 1, 2 ... as lift in um, two channels, pulses where `every` divides the sample's number.
Block counted(std::uint64_t first, std::size_t count, std::size_t every, float rpm = 3000) {
    Block out;
    out.first = first;
    for (std::size_t i = 0; i < count; ++i) {
        if ((first + i) % every == 0) {
            out.pulses.push_back(static_cast<std::uint32_t>(i));
            out.pulse_rpm.push_back(rpm);
        }
        out.samples.push_back(1);
        out.samples.push_back(static_cast<float>(first + i));
    }
    return out;
}

SeenCycle seen(double time_s, double peak_m, double bounce_m = 0, double rpm = 6000) {
    SeenCycle out;
    out.speed_rpm = rpm;
    out.time_s = time_s;
    out.metrics[Metric::Bounce] = bounce_m;
    out.lift_m.assign(kGridPoints, 0.0);
    out.lift_m[kGridSteps / 2] = peak_m;
    return out;
}

} // namespace

class TstLive : public QObject {
    Q_OBJECT

  private slots:
    void blocks_of_any_length_give_the_same_turns() {
        std::vector<Turn> whole = TurnCutter(hello_by_angle()).add(counted(0, 1500, 360));
        QCOMPARE(whole.size(), std::size_t(4));
        QCOMPARE(whole[0].lift_mm.size(), std::size_t(360));
        NEAR(whole[1].lift_mm[3], 0.363, 1e-6); // micrometres
        NEAR(whole[1].crank_deg[90], 180, 1e-4);
        QVERIFY(!whole[0].follows_on && whole[1].follows_on);
        QCOMPARE(whole[0].speed_rpm, 3000.0);
        TurnCutter cutter(hello_by_angle());
        std::vector<Turn> pieces;
        for (std::uint64_t first = 0; first < 1500;) {
            const std::size_t count = std::min<std::size_t>(1 + first % 97, 1500 - first);
            for (Turn& turn : cutter.add(counted(first, count, 360)))
                pieces.push_back(std::move(turn));
            first += count;
        }
        QCOMPARE(pieces.size(), whole.size());
        for (std::size_t i = 0; i < whole.size(); ++i)
            QVERIFY(pieces[i].lift_mm == whole[i].lift_mm && pieces[i].crank_deg == whole[i].crank_deg);
        QCOMPARE(cutter.lost(), std::uint64_t(0));
    }

    void samples_by_time_give_the_speed_by_their_pulses() {
        Hello hello = hello_by_angle();
        hello.samples_a_turn = 0;
        hello.rate_Hz = 50'000;
        hello.channels[1].unit = "in";
        Block block = counted(0, 5001, 1000);
        block.pulse_rpm.clear();
        const std::vector<Turn> turns = TurnCutter(hello).add(block);
        QCOMPARE(turns.size(), std::size_t(5));
        NEAR(turns[0].speed_rpm, 120 * 50'000.0 / 1000, 1e-9); // a cam turn is two of the crank
        NEAR(turns[4].time_s, 0.1, 1e-12);
        NEAR(turns[0].lift_mm[2], 2 * 25.4, 1e-4);
        hello.once_per_crank_turn = true;
        const std::vector<Turn> halves = TurnCutter(hello).add(block);
        NEAR(halves[0].speed_rpm, 60 * 50'000.0 / 1000, 1e-9);
        NEAR(halves[0].crank_deg[500], 180, 1e-4);
    }

    void a_gap_loses_its_turn_and_nothing_else() {
        TurnCutter cutter(hello_by_angle());
        QCOMPARE(cutter.add(counted(7000, 400, 360)).size(), std::size_t(0)); // who comes late lost nothing
        QCOMPARE(cutter.lost(), std::uint64_t(0));
        const std::vector<Turn> after = cutter.add(counted(7500, 1200, 360));
        QCOMPARE(cutter.lost(), std::uint64_t(100));
        QCOMPARE(after.size(), std::size_t(3));
        QVERIFY(!after[0].follows_on && after[1].follows_on);
        NEAR(after[0].lift_mm[0], 7.56, 1e-6);
        // A missed pulse makes a turn of two, which is none.
        Block missed = counted(8700, 1440, 360);
        missed.pulses.erase(missed.pulses.begin() + 1);
        missed.pulse_rpm.erase(missed.pulse_rpm.begin() + 1);
        for (const Turn& turn : cutter.add(missed))
            QCOMPARE(turn.lift_mm.size(), std::size_t(360));
    }

    void what_contradicts_the_hello_is_refused() {
        const auto refused = [](const std::function<void(Hello&)>& spoil) {
            Hello hello = hello_by_angle();
            spoil(hello);
            return QString::fromStdString(problem_of([&] { TurnCutter cutter(hello); }).location);
        };
        QCOMPARE(refused([](Hello& h) { h.channels.pop_back(); }), "hello.channels");
        QCOMPARE(refused([](Hello& h) { h.channels[1].unit = "kg"; }), "hello.channels");
        QCOMPARE(refused([](Hello& h) { h.rate_Hz = 1000; }), "hello");
        QCOMPARE(refused([](Hello& h) { h.samples_a_turn = 3; }), "hello.samples_a_turn");
        TurnCutter cutter(hello_by_angle());
        Block block = counted(0, 400, 360);
        block.samples.pop_back();
        CONTAINS(problem_of([&] { cutter.add(block); }).what, "no whole samples");
        block = counted(0, 400, 360);
        block.pulse_rpm.pop_back();
        CONTAINS(problem_of([&] { cutter.add(block); }).what, "speeds");
        block = counted(0, 400, 360);
        block.pulses[1] = 900;
        CONTAINS(problem_of([&] { cutter.add(block); }).what, "a pulse at 900");
        TurnCutter later(hello_by_angle());
        later.add(counted(0, 400, 360));
        CONTAINS(problem_of([&] { later.add(counted(100, 400, 360)); }).what, "400 was the last");
    }

    void a_programme_waits_for_speed_cycles_and_time() {
        Programme programme;
        programme.legs = {{LegKind::Step, 3000, 0, 0, 16},
                          {LegKind::Ramp, 4000, 100, 0, 0},
                          {LegKind::Hold, 4000, 0, 5, 0}};
        ProgrammeRunner runner(programme);
        std::vector<Request> asked = runner.go_on({0, 0, 0});
        QCOMPARE(asked.size(), std::size_t(1));
        QCOMPARE(asked[0].rpm, 3000.0);
        QVERIFY(runner.go_on({5, 2500, 100}).empty()); // not there yet; those cycles do not count
        QVERIFY(runner.go_on({6, 3001, 100}).empty());
        QVERIFY(runner.go_on({6.6, 3000, 110}).empty());
        QVERIFY(runner.at_speed());
        QVERIFY(runner.go_on({8, 3000, 125}).empty());
        asked = runner.go_on({9, 3000, 126});
        QCOMPARE(asked.size(), std::size_t(1));
        QCOMPARE(asked[0].rpm, 4000.0);
        QCOMPARE(asked[0].rpm_per_s, 100.0);
        QVERIFY(runner.go_on({14, 3500, 300}).empty());
        asked = runner.go_on({19, 3999, 500}); // the ramp is over, the hold begins where it ended
        QCOMPARE(asked.back().rpm, 4000.0);
        asked = runner.go_on({20, 4000, 540});
        QCOMPARE(asked.size(), std::size_t(1));
        QVERIFY(asked[0].kind == Request::Kind::Hold);
        QVERIFY(runner.go_on({24, 4000, 700}).empty());
        runner.ask_again(); // the line was lost
        asked = runner.go_on({24.1, 3990, 700});
        QCOMPARE(asked[0].rpm, 4000.0);
        runner.go_on({25, 4000, 720});
        asked = runner.go_on({31, 4000, 900});
        QVERIFY(asked.back().kind == Request::Kind::Stop);
        QVERIFY(runner.done());
        QVERIFY(runner.go_on({40, 0, 900}).empty());
    }

    void back_to_back_is_run_as_often_as_it_says() {
        Programme programme;
        programme.legs = {{LegKind::Hold, 5000, 0, 1, 0}, {LegKind::Hold, 3000, 0, 1, 0}};
        programme.times = 3;
        ProgrammeRunner runner(programme);
        std::vector<double> speeds;
        double now = 3000;
        for (double t = 0; t < 60 && !runner.done(); t += 0.25)
            for (const Request& one : runner.go_on({t, now, 0}))
                if (one.kind == Request::Kind::SetSpeed) {
                    speeds.push_back(one.rpm);
                    now = one.rpm;
                }
        QVERIFY(runner.done());
        QCOMPARE(speeds, (std::vector<double>{5000, 3000, 5000, 3000, 5000, 3000}));
        QVERIFY(about_seconds(programme) > 6 && about_seconds(programme) < 60);
    }

    void a_programme_that_no_rig_is_asked_for_is_refused() {
        const auto at = [](const std::function<void(Programme&)>& spoil, double most = 9000) {
            Programme programme = steps_programme(3000, 4000, 500, 16);
            spoil(programme);
            return QString::fromStdString(problem_of([&] { check_programme(programme, most); }).location);
        };
        QCOMPARE(steps_programme(3000, 4000, 500, 16).legs.size(), std::size_t(3));
        QCOMPARE(at([](Programme& p) { p.legs.clear(); }), "legs");
        QCOMPARE(at([](Programme& p) { p.legs[1].rpm = 9500; }), "legs[1].rpm");
        QCOMPARE(at([](Programme& p) { p.legs[1].rpm = std::nan(""); }), "legs[1].rpm");
        QCOMPARE(at([](Programme& p) { p.legs[0].cycles = 3; }), "legs[0].cycles");
        QCOMPARE(at([](Programme& p) { p.legs[2] = {LegKind::Hold, 3000, 0, 0, 0}; }), "legs[2].seconds");
        QCOMPARE(at([](Programme& p) { p.times = 0; }), "times");
    }

    void bounce_stops_a_rig_when_it_stays_and_a_spike_does_not() {
        StopWatch watch(usual_stop_limits());
        for (int i = 0; i < 20; ++i)
            QVERIFY(!watch.look(seen(i * 0.02, 12e-3, i % 3 == 0 ? 0.9e-3 : 0.1e-3)));
        std::optional<StopReason> reason;
        for (int i = 0; i < 5 && !reason; ++i)
            reason = watch.look(seen(1 + i * 0.02, 12e-3, 0.7e-3));
        QVERIFY(reason && reason->rule == StopRule::Bounce);
        CONTAINS(reason->told.in_words(), "Bounce 0.7");
        CONTAINS(reason->told.in_words(), "at 6000 rev/min");
        std::vector<StopLimit> off = usual_stop_limits();
        off[0].on = false;
        StopWatch blind(off);
        for (int i = 0; i < 20; ++i)
            QVERIFY(!blind.look(seen(i * 0.02, 12e-3, 2e-3)));
    }

    void a_fast_ramp_hides_no_bounce() {
        StopWatch watch(usual_stop_limits());
        std::optional<StopReason> reason;
        int cycles = 0;
        for (double rpm = 5000; rpm < 8000 && !reason;
             rpm += 60, ++cycles) // each cycle at a speed of its own
            reason = watch.look(seen(cycles * 0.02, 12e-3, rpm > 6000 ? 0.9e-3 : 0.1e-3, rpm));
        QVERIFY(reason && reason->rule == StopRule::Bounce);
        QVERIFY2(cycles < 25, qPrintable(QString::number(cycles)));
    }

    void spread_sensor_and_oil_stop_a_rig() {
        StopWatch watch(usual_stop_limits());
        std::optional<StopReason> reason;
        for (int i = 0; i < 12 && !reason; ++i)
            reason = watch.look(seen(i * 0.02, 12e-3 + (i % 2 ? 0.6e-3 : -0.6e-3)));
        QVERIFY(reason && reason->rule == StopRule::Spread);
        StopWatch lies(usual_stop_limits());
        reason.reset();
        for (int i = 0; i < 60 && !reason; ++i) {
            SeenCycle cycle = seen(i * 0.02, 12e-3);
            cycle.good = i % 3 != 0;
            reason = lies.look(cycle);
        }
        QVERIFY(reason && reason->rule == StopRule::Sensor);
        QVERIFY(!watch.look_at_oil(129) && watch.look_at_oil(131));
    }

    void a_hold_that_creeps_stops_and_a_new_speed_begins_anew() {
        std::mt19937 engine(3);
        std::normal_distribution<double> noise(0, 4e-6);
        StopWatch watch(usual_stop_limits());
        std::optional<StopReason> reason;
        for (int i = 0; i < 600; ++i) // still at one speed, elsewhere by 0.3 mm at the next
            QVERIFY(!watch.look(seen(i * 0.02, 12e-3 + noise(engine))));
        for (int i = 0; i < 600; ++i)
            QVERIFY(!watch.look(seen(12 + i * 0.02, 12.3e-3 + noise(engine), 0, 6500)));
        double at_s = 0;
        for (int i = 0; i < 2000 && !reason; ++i) {
            at_s = i * 0.02;
            reason = watch.look(seen(30 + at_s, 12e-3 - 10e-6 * at_s + noise(engine), 0, 7000));
        }
        QVERIFY(reason && reason->rule == StopRule::Creep);
        QVERIFY2(at_s > 9 && at_s < 12, qPrintable(QString::number(at_s))); // 0.1 mm at 10 um a second
    }

    void a_creep_s_deviation_counts_what_neighbours_share() {
        // Independent noise: slope and deviation of least squares in closed form.
        std::mt19937 engine(9);
        std::normal_distribution<double> normal;
        int beyond = 0, beyond_shared = 0, found = 0;
        for (int round = 0; round < 400; ++round) {
            std::vector<double> time, alone, shared, creeping;
            double state = 0;
            for (int i = 0; i < 300; ++i) {
                time.push_back(0.02 * i);
                alone.push_back(normal(engine));
                state = 0.6 * state + 0.8 * normal(engine); // deviation 1, neighbours 0.6
                shared.push_back(state);
                creeping.push_back(0.4 * time.back() + state);
            }
            beyond += rig::creep_of(time, alone).creeps;
            beyond_shared += rig::creep_of(time, shared).creeps;
            found += rig::creep_of(time, creeping).creeps;
        }
        QVERIFY2(beyond <= 6 && beyond_shared <= 10,
                 qPrintable(QString("%1 %2").arg(beyond).arg(beyond_shared)));
        QVERIFY2(found >= 380, qPrintable(QString::number(found)));
        const rig::Creep exact = rig::creep_of({0, 1, 2, 3}, {1, 3, 5, 7.5});
        NEAR(exact.per_s, 2.15, 1e-12);
        NEAR(exact.over_hold, 6.45, 1e-12);
    }

    void a_ringing_seat_shows_its_order() {
        std::vector<double> lift(kGridPoints, 0.0);
        for (std::size_t i = 0; i < kGridPoints; ++i) {
            double turn = 2 * std::numbers::pi * double(i) / kGridSteps;
            turn -= turn > std::numbers::pi ? 2 * std::numbers::pi : 0; // no step where the valve is seated
            lift[i] = 3e-6 * std::cos(17 * turn + 0.4) + 1e-4 + 2e-5 * turn; // and a level that drifts
        }
        const std::vector<double> orders = seated_orders(lift);
        const auto most = std::ranges::max_element(orders) - orders.begin() + 1;
        QCOMPARE(most, std::ptrdiff_t(17));
        NEAR(orders[16], 3e-6, 0.1e-6);
        QVERIFY(orders[40] < 0.1e-6);
    }
};

QTEST_APPLESS_MAIN(TstLive)
#include "tst_live.moc"
