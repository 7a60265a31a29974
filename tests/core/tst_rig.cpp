#include "core/motion/sweep.h"
#include "core/rig/cycles.h"
#include "core/rig/hold_creep.h"
#include "core/rig/rig_run.h"
#include "support.h"

#include <random>

using namespace bathmos;
using namespace bathmos::test;

namespace {

// A rig made of the model's own motion: known phase, zero, scale and noise, and faults where asked.
struct Stand {
    std::vector<double> speeds = {3000, 4000, 5000, 6000, 7000};
    double phase_deg = 217.3, zero_mm = 0.8, zero_drift_mm = 0.02, scale = 0.995, noise_mm = 0.003;
    int cycles = 6;
    bool crank_index = false;

    RigTrace record() const {
        const Train train = starter_train();
        const Chain chain = chain_of(train, RigidMotion(train, curve_of(train.lobe)));
        const double seat_m = -rest_of(chain).position_m[chain.valve_dof];
        std::mt19937 random(11);
        std::normal_distribution<double> noise(0, noise_mm);
        RigTrace trace;
        trace.source = "stand";
        trace.once_per_crank_turn = crank_index;
        int step = 0;
        for (const Motion& m : MotionModel(train).run(speeds)) {
            for (int cycle = 0; cycle < cycles; ++cycle)
                for (int half = 0; half < (crank_index ? 2 : 1); ++half) {
                    const int from = crank_index ? 360 * half : 0, to = crank_index ? from + 360 : 720;
                    trace.turns.push_back({m.speed_rpm, trace.lift_mm.size(),
                                           static_cast<std::size_t>(to - from), cycle + half > 0});
                    for (int deg = from; deg < to; ++deg) {
                        const double lift = (lift_at(m, std::remainder(deg - phase_deg, 720)) + seat_m) * 1e3;
                        trace.crank_deg.push_back(static_cast<float>(deg - from));
                        trace.lift_mm.push_back(static_cast<float>(scale * lift + zero_mm +
                                                                   zero_drift_mm * step + noise(random)));
                    }
                }
            ++step;
        }
        return trace;
    }
};

std::size_t dropped(const RigRun& run, BadCycle reason) {
    return run.dropped[static_cast<std::size_t>(reason)];
}

} // namespace

class TestRig : public QObject {
    Q_OBJECT
  private slots:
    void phase_zero_scale_and_noise_are_found() {
        const Stand stand;
        const RigRun run = reduce(stand.record(), starter_train());
        QCOMPARE(run.steps.size(), stand.speeds.size());
        NEAR(run.phase_deg, stand.phase_deg, 0.02);
        NEAR(run.scale_ratio, stand.scale, 0.0005);
        NEAR(run.noise_m, stand.noise_mm * 1e-3, 0.4e-6);
        for (std::size_t i = 0; i < run.steps.size(); ++i)
            NEAR(run.steps[i].zero_mm, stand.zero_mm + stand.zero_drift_mm * static_cast<double>(i), 0.002);
    }

    void metrics_of_the_rig_are_those_of_the_motion_it_recorded() {
        Stand stand;
        stand.scale = 1;
        const RigRun run = reduce(stand.record(), starter_train());
        const std::vector<Motion> truth = MotionModel(starter_train()).run(stand.speeds);
        for (std::size_t i = 0; i < run.steps.size(); ++i) {
            NEAR(*run.steps[i].metrics[Metric::LiftLoss], *truth[i].metrics[Metric::LiftLoss], 6e-6);
            NEAR(*run.steps[i].metrics[Metric::DurationChange], *truth[i].metrics[Metric::DurationChange],
                 0.15);
            NEAR(*run.steps[i].metrics[Metric::Loft], *truth[i].metrics[Metric::Loft], 10e-6);
            QVERIFY(*run.steps[i].metrics[Metric::CycleVariation] < 15e-6);
            QVERIFY(!run.steps[i].metrics[Metric::ContactLoss].has_value()); // a sensor cannot see it
            for (std::size_t p = 0; p < kGridPoints; p += 10)
                NEAR(run.steps[i].lift_m[p], truth[i][Channel::Lift][p], 25e-6);
        }
    }

    void a_gain_error_is_warned_of_and_not_corrected() {
        Stand stand;
        stand.scale = 1.03;
        const RigRun run = reduce(stand.record(), starter_train());
        NEAR(run.scale_ratio, 1.03, 0.0005);
        QCOMPARE(run.warnings.size(), std::size_t{1});
        CONTAINS(run.warnings[0], "3.0 % more lift");
        QVERIFY(*run.steps[0].metrics[Metric::Loft] > 0.1e-3); // what was recorded stays what was recorded
    }

    void bad_cycles_are_left_out_and_counted_by_reason() {
        Stand stand;
        stand.cycles = 8;
        RigTrace trace = stand.record();
        const auto sample = [&](std::size_t turn, std::size_t deg) -> float& {
            return trace.lift_mm[trace.turns[turn].first + deg];
        };
        for (std::size_t deg = 300; deg < 304; ++deg)
            sample(1, deg) = NAN; // dropout of four
        sample(2, 500) += 1.5f;   // spike
        for (std::size_t deg = 150; deg < 155; ++deg)
            sample(3, deg) = sample(3, 149); // stuck on the flank
        const auto turn = trace.lift_mm.begin() + static_cast<std::ptrdiff_t>(trace.turns[4].first);
        std::rotate(turn, turn + 9, turn + 720); // index pulse nine degrees late
        sample(5, 400) = NAN;                    // one lost reading is bridged
        const RigRun run = reduce(trace, starter_train());
        QCOMPARE(dropped(run, BadCycle::Dropout), std::size_t{1});
        QCOMPARE(dropped(run, BadCycle::Spike), std::size_t{1});
        QCOMPARE(dropped(run, BadCycle::Stuck), std::size_t{1});
        QCOMPARE(dropped(run, BadCycle::Slipped), std::size_t{1});
        QCOMPARE(run.steps[0].used, std::size_t{4});
        QCOMPARE(run.steps[1].used, std::size_t{8});
        NEAR(*run.steps[0].metrics[Metric::CycleVariation], 0, 15e-6);
    }

    void motion_that_differs_from_cycle_to_cycle_is_not_a_fault() {
        Stand stand;
        RigTrace trace = stand.record();
        for (std::size_t turn = 24; turn < 30;
             ++turn) // bounces of different height at the last speed, 40 degrees wide
            for (std::size_t deg = 0; deg < 40; ++deg)
                trace.lift_mm[trace.turns[turn].first +
                              (static_cast<std::size_t>(stand.phase_deg) + 190 + deg) % 720] +=
                    static_cast<float>(0.06 * static_cast<double>(turn - 24) *
                                       std::sin(kPi * static_cast<double>(deg) / 40));
        const RigRun run = reduce(trace, starter_train());
        QCOMPARE(run.steps.back().used, std::size_t{6});
        QVERIFY(*run.steps.back().metrics[Metric::CycleVariation] > 0.08e-3);
    }

    void an_index_once_a_crank_turn_gives_the_same_answer() {
        Stand stand;
        const RigRun cam = reduce(stand.record(), starter_train());
        stand.crank_index = true;
        const RigRun crank = reduce(stand.record(), starter_train());
        QCOMPARE(crank.steps.size(), cam.steps.size());
        for (std::size_t i = 0; i < cam.steps.size(); ++i) {
            QCOMPARE(crank.steps[i].used, cam.steps[i].used);
            NEAR(crank.noise_m, cam.noise_m, 0.3e-6);
            NEAR(*crank.steps[i].metrics[Metric::LiftLoss], *cam.steps[i].metrics[Metric::LiftLoss], 3e-6);
        }
    }

    void a_lone_crank_turn_without_its_partner_is_not_a_cycle() {
        Stand stand;
        stand.crank_index = true;
        RigTrace trace = stand.record();
        trace.turns.erase(trace.turns.begin() + 12); // first half of the first cycle at the second speed
        for (std::size_t i = 12; i < trace.turns.size(); ++i)
            if (trace.turns[i].speed_rpm != trace.turns[i - 1].speed_rpm)
                trace.turns[i].follows_on = false;
        const RigRun run = reduce(trace, starter_train());
        QCOMPARE(run.steps.size(), stand.speeds.size());
        QVERIFY(*run.steps[1].metrics[Metric::LiftLoss] < 1e-3); // still aligned
    }

    void a_reversed_sensor_is_told_and_can_be_turned_round() {
        RigTrace trace = Stand().record();
        for (float& lift : trace.lift_mm)
            lift = -lift;
        CONTAINS(problem_of([&] { reduce(trace, starter_train()); }).what, "reads backwards");
        RigOptions options;
        options.reversed = true;
        NEAR(reduce(trace, starter_train(), options).phase_deg, Stand().phase_deg, 0.02);
    }

    void a_trace_that_hardly_moves_is_refused() {
        RigTrace trace = Stand().record();
        for (float& lift : trace.lift_mm)
            lift *= 0.001f;
        CONTAINS(problem_of([&] { reduce(trace, starter_train()); }).what, "moves by only");
    }

    void nothing_usable_is_refused_in_words() {
        RigTrace trace = Stand().record();
        for (float& lift : trace.lift_mm)
            lift = NAN;
        const InputProblem problem = problem_of([&] { reduce(trace, starter_train()); });
        CONTAINS(problem.what, "no whole cycle");
        QCOMPARE(QString::fromStdString(problem.source), QStringLiteral("stand"));
    }

    void one_speed_gives_metrics_but_no_edge() {
        Stand stand;
        stand.speeds = {5000};
        const RigRun run = reduce(stand.record(), starter_train());
        QCOMPARE(run.steps.size(), std::size_t{1});
        QVERIFY(run.steps[0].metrics[Metric::LiftLoss].has_value());
        QVERIFY(!run.onset.onset.speed_rpm.has_value());
    }

    void a_valve_that_never_seats_takes_its_zero_from_its_neighbour() {
        RigTrace trace = Stand().record();
        std::mt19937 random(2);
        std::normal_distribution<double> noise(0, 0.4);
        for (std::size_t turn = 24; turn < 30; ++turn) // hammering all the way round at the last speed
            for (std::size_t i = 0; i < 720; ++i)
                trace.lift_mm[trace.turns[turn].first + i] +=
                    1.0f + static_cast<float>(0.4 * std::sin(static_cast<double>(i) / 5));
        const RigRun run = reduce(trace, starter_train());
        QVERIFY(run.steps.back().zero_carried);
        NEAR(run.steps.back().zero_mm, run.steps[3].zero_mm, 1e-12);
        QVERIFY(!run.warnings.empty());
    }

    // A hydraulic follower that pumps up holds the valve open, quietly: its level is no zero. The same of a
    // solid one is a zero that jumped, and is told as that.
    void a_valve_held_open_quietly_is_not_taken_for_a_walking_zero() {
        RigTrace trace = Stand().record();
        const auto raise = [&](std::size_t first_turn, double by_mm) {
            for (std::size_t turn = first_turn; turn < first_turn + 6; ++turn)
                for (std::size_t i = 0; i < 720; ++i)
                    trace.lift_mm[trace.turns[turn].first + i] += static_cast<float>(by_mm);
        };
        raise(6, 0.012); // a walk
        raise(12, -0.02);
        raise(24, 0.3);
        Train pumped = starter_train();
        pumped.lifter->hydraulic =
            HydraulicFollower{16e-3, 800e-9, 4e-3, 2e-3, 400e3, 0.03e-12, 7e-6, 1.5e9, 0.02, 850, 0.025, 35};
        const RigRun held = reduce(trace, pumped);
        QVERIFY(held.steps.back().zero_carried);
        for (std::size_t i = 0; i + 1 < held.steps.size(); ++i)
            QVERIFY(!held.steps[i].zero_carried);
        NEAR(*held.steps.back().metrics[Metric::HeldOpen], 0.3e-3, 0.02e-3);
        NEAR(*held.steps[2].metrics[Metric::HeldOpen], 0, 0.01e-3);
        const RigRun solid = reduce(trace, starter_train());
        QVERIFY(!solid.steps.back().zero_carried);
        bool told = false;
        for (const std::string warning : solid.warnings)
            told = told || contains(warning, "the zero jumps");
        QVERIFY(told);
    }

    void a_valve_that_seats_at_no_speed_is_warned_of() {
        Stand stand;
        stand.speeds = {6000};
        RigTrace trace = stand.record();
        for (std::size_t i = 0; i < trace.lift_mm.size(); ++i)
            trace.lift_mm[i] += 1.0f + static_cast<float>(0.4 * std::sin(static_cast<double>(i % 720) / 5));
        const RigRun run = reduce(trace, starter_train());
        QVERIFY(!run.steps[0].zero_carried);
        bool told = false;
        for (const std::string warning : run.warnings)
            told = told || contains(warning, "seats at no speed");
        QVERIFY(told);
        for (const std::string warning : reduce(stand.record(), starter_train()).warnings)
            QVERIFY(!contains(warning, "seats at no speed"));
    }

    void wandering_speeds_are_grouped_within_a_percent() {
        RigTrace trace = Stand().record();
        for (std::size_t i = 0; i < trace.turns.size(); ++i)
            trace.turns[i].speed_rpm *= 1 + 0.003 * (i % 3 == 0 ? -1 : i % 3 == 1 ? 0 : 1);
        QCOMPARE(reduce(trace, starter_train()).steps.size(), std::size_t{5});
    }

    void a_limit_inside_the_noise_is_not_judged() {
        Stand stand;
        RigTrace trace = stand.record();
        RigOptions options;
        options.limits = std::vector<Limit>{{Metric::Bounce, "bounce", 0.0005}};
        const RigRun run = reduce(trace, starter_train(), options);
        QCOMPARE(run.not_judged.size(), std::size_t{1});
        QVERIFY(!run.limit.speed_rpm.has_value());
    }

    void a_sensor_that_is_dead_at_one_speed_makes_no_onset_there() {
        RigTrace trace = Stand().record();
        for (const RigTurn& turn : trace.turns)
            if (std::abs(turn.speed_rpm - 5000) < 100)
                std::fill_n(trace.lift_mm.begin() + static_cast<std::ptrdiff_t>(turn.first), turn.count,
                            0.8f);
        const RigRun run = reduce(trace, starter_train());
        QCOMPARE(run.steps.size(), std::size_t(4));
        CONTAINS(run.warnings.front().in_words(), "at 5000 rev/min the sensor shows 0 %");
    }

    void a_sensor_that_shows_less_at_one_speed_is_named() {
        RigTrace trace = Stand().record();
        for (const RigTurn& turn : trace.turns)
            if (std::abs(turn.speed_rpm - 4000) < 100)
                for (std::size_t i = turn.first; i < turn.first + turn.count; ++i)
                    trace.lift_mm[i] = 0.8f + 0.7f * (trace.lift_mm[i] - 0.8f);
        const RigRun run = reduce(trace, starter_train());
        QCOMPARE(run.steps.size(), std::size_t(5)); // shown, but not silently
        CONTAINS(run.warnings.front().in_words(), "at 4000 rev/min the sensor shows 7");
    }

    void a_speed_that_no_rig_turns_is_left_out_and_told() {
        RigTrace trace = Stand().record();
        for (RigTurn& turn : trace.turns)
            if (std::abs(turn.speed_rpm - 6000) < 100)
                turn.speed_rpm = 1e9;
        const RigRun run = reduce(trace, starter_train());
        QCOMPARE(run.steps.size(), std::size_t(4));
        CONTAINS(run.warnings.front().in_words(), "1e+09 rev/min is left out");
    }

    void cam_degrees_taken_for_crank_degrees_are_told() {
        Stand stand;
        stand.crank_index = true; // turns of 360 degrees ...
        RigTrace trace;
        trace.source = "stand";
        trace.once_per_crank_turn = true;
        const RigTrace whole = Stand().record();
        for (const RigTurn& turn : whole.turns) { // ... each of which holds a whole cycle
            trace.turns.push_back({turn.speed_rpm, trace.lift_mm.size(), turn.count / 2, turn.follows_on});
            for (std::size_t i = turn.first; i < turn.first + turn.count; i += 2) {
                trace.crank_deg.push_back(whole.crank_deg[i] / 2);
                trace.lift_mm.push_back(whole.lift_mm[i]);
            }
        }
        const InputProblem problem = problem_of([&] { reduce(trace, starter_train()); });
        CONTAINS(problem.what, "opens twice");
        CONTAINS(problem.mend, "cam_deg");
    }

    void turns_outside_of_the_readings_are_passed_over() {
        RigTrace trace = Stand().record();
        const std::size_t there = trace.turns.size();
        trace.turns.push_back({7000, trace.lift_mm.size() - 10, 1000, true});
        trace.turns.push_back({7000, std::size_t(-5), 10, true});
        std::size_t cycles = 0;
        for (const rig::CyclePlaces& places : rig::group_cycles(trace))
            cycles += places.turns.size();
        QCOMPARE(cycles, there);
    }

    void of_very_many_cycles_an_even_share_is_looked_at() {
        Stand stand;
        stand.speeds = {3000};
        stand.cycles = 3;
        RigTrace trace = stand.record();
        const std::vector<RigTurn> first = trace.turns;
        while (trace.turns.size() < 2 * rig::kMostCycles)
            trace.turns.push_back(first[trace.turns.size() % first.size()]);
        const std::vector<rig::CyclePlaces> places = rig::group_cycles(trace);
        const rig::SpeedGroup group = rig::read_group(trace, places.front(), {});
        QCOMPARE(group.cycles.size(), rig::kMostCycles);
        QCOMPARE(group.passed_over, trace.turns.size() - rig::kMostCycles);
    }

    void reduction_can_be_stopped() {
        std::stop_source source;
        source.request_stop();
        RigOptions options;
        options.stop = source.get_token();
        QVERIFY_THROWS_EXCEPTION(Stopped, reduce(Stand().record(), starter_train(), options));
    }

    void ring_interpolation_goes_through_its_points_and_wraps() {
        rig::RawCycle ring(kGridSteps);
        for (std::size_t i = 0; i < ring.size(); ++i)
            ring[i] = std::sin(2 * kPi * static_cast<double>(i) / static_cast<double>(ring.size()));
        NEAR(rig::ring_at(ring, 100), ring[200], 1e-12);
        NEAR(rig::ring_at(ring, 100.25), std::sin(2 * kPi * 100.25 / 720), 1e-7);
        NEAR(rig::ring_at(ring, 719.9), rig::ring_at(ring, -0.1), 1e-12);
    }

    void a_speed_that_was_visited_twice_is_two_holds() {
        Stand stand;
        stand.speeds = {3000, 4000, 3000};
        stand.cycles = 80;
        const RigTrace trace = stand.record();
        const Train train = starter_train();
        const RigRun run = reduce(trace, train);
        const auto holds = rig::holds_of(trace, run, MotionModel(train).chain().rigid_m, {}, 2);
        QCOMPARE(std::ranges::count_if(
                     holds, [](const rig::HeldSpeed& one) { return std::abs(one.speed_rpm - 3000) < 5; }),
                 std::ptrdiff_t(2));
        QCOMPARE(holds.size(), std::size_t(3));
        for (const rig::HeldSpeed& one : holds) {
            QVERIFY(one.passes()); // what differs is between the visits
            QVERIFY(one.cycles >= 70 && one.seconds < 3.5);
        }
    }
};

QTEST_APPLESS_MAIN(TestRig)
#include "tst_rig.moc"
