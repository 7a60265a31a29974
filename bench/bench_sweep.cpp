// The demo train against CVODE, same equations, error of 1 um, in one run: eight speeds in one vector, and
// the sweep 3000:8900:100; costs by springs, coils, speeds and cycles; the limit alone; stops. Prints ratios;
// absolute times are those of the machine at hand.
#include "core/motion/quick_limit.h"
#include "independent/plain_train.h"
#include "io/train/train_file.h"
#include "timing.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <fmt/format.h>
#include <tbb/global_control.h>
#include <thread>

using namespace bathmos;
using namespace bathmos::bench;
using namespace bathmos::independent;

namespace {

double largest_difference_um(const std::vector<double>& a, const std::vector<double>& b) {
    double worst = 0;
    for (std::size_t i = 0; i < a.size(); ++i)
        worst = std::max(worst, std::abs(a[i] - b[i]));
    return worst * 1e6;
}

struct Choice {
    Method method;
    double tolerance;
    const char* name;
};

// The cheapest setting of CVODE whose error against a tight run is no more than allowed, over trial speeds.
Choice best_cvode(const PlainTrain& plain, const std::vector<double>& trial_rpm, double allowed_um) {
    std::vector<std::vector<double>> exact;
    for (double rpm : trial_rpm)
        exact.push_back(run_cvode(plain, rpm, Method::Adams, 1e-9).lift_m);
    Choice best{Method::Adams, 1e-9, "Adams"};
    double best_s = 1e9;
    for (const auto& [method, name] : {std::pair{Method::Adams, "Adams"}, {Method::Bdf, "BDF"}})
        for (const double tolerance : {1e-4, 1e-5, 1e-6, 1e-7}) {
            double error = 0;
            const double s = seconds_of([&] {
                for (std::size_t i = 0; i < trial_rpm.size(); ++i)
                    error = std::max(
                        error, largest_difference_um(run_cvode(plain, trial_rpm[i], method, tolerance).lift_m,
                                                     exact[i]));
            });
            fmt::print("  CVODE {:5} tolerance {:.0e}: error {:7.3f} um, {:.2f} s for {} speeds\n", name,
                       tolerance, error, s, trial_rpm.size());
            if (error <= allowed_um && s < best_s) {
                best_s = s;
                best = {method, tolerance, name};
            }
        }
    return best;
}

// Eight speeds in one vector against the same eight one after another by CVODE; the same few cycles from
// rest, 2880 steps a cycle.
void quick_trial(const Train& train, const PlainTrain& plain, const Choice& choice) {
    constexpr std::size_t kCycles = 4;
    std::vector<double> speeds;
    for (std::size_t i = 0; i < lane_count(); ++i)
        speeds.push_back(6200 + 200 * static_cast<double>(i));
    const RigidMotion rigid(train, curve_of(train.lobe));
    const Chain chain = chain_of(train, rigid);
    LaneBlock block(chain, lane_count());
    const RestState rest = rest_of(chain);
    double own = 1e9, error = 0;
    for (int repeat = 0; repeat < 5; ++repeat) {
        for (std::size_t i = 0; i < speeds.size(); ++i)
            block.start(i, speeds[i], rest);
        own = std::min(own, seconds_of([&] {
                           for (std::size_t c = 0; c < kCycles; ++c)
                               advance_cycle(chain, block);
                       }));
    }
    double other = 0;
    for (std::size_t i = 0; i < speeds.size(); ++i) {
        CvodeResult result;
        other += seconds_of([&] {
            result = run_cvode(plain, speeds[i], choice.method, choice.tolerance, static_cast<int>(kCycles));
        });
        for (std::size_t p = 0; p < kGridPoints; ++p)
            error = std::max(error, std::abs(block.at(Channel::Lift, p, i) - result.lift_m[p]) * 1e6);
    }
    const double evaluations = 4.0 * kCycles * static_cast<double>(chain.steps());
    fmt::print("quick trial: {} speeds, {} cycles of {} steps: {:.4f} s, CVODE {:.3f} s, largest difference "
               "{:.2f} um\n",
               speeds.size(), kCycles, chain.steps(), own, other, error);
    fmt::print("  ratio, one core to one core: {:.1f}; {:.0f} ns an evaluation of {} dofs in {} lanes\n",
               other / own, own / evaluations * 1e9, chain.dof, lane_count());
}

// How the time of one block's cycle grows with what the train holds.
void costs(const Train& train) {
    const auto cycle_ms = [](const Train& t) {
        const RigidMotion rigid(t, curve_of(t.lobe));
        const Chain chain = chain_of(t, rigid);
        LaneBlock block(chain, lane_count());
        const RestState rest = rest_of(chain);
        for (std::size_t i = 0; i < lane_count(); ++i)
            block.start(i, 3000, rest); // far below coil clash
        double best = 1e9;
        for (int i = 0; i < 20; ++i)
            best = std::min(best, seconds_of([&] { advance_cycle(chain, block); }));
        return std::pair{best * 1e3, chain.dof};
    };
    fmt::print("a cycle of one block ({} speeds, 2880 steps):\n", lane_count());
    for (std::size_t n = 1; n <= 3; ++n) {
        Train t = train;
        t.springs.assign(n, train.springs[0]);
        const auto [ms, dof] = cycle_ms(t);
        fmt::print("  {} springs of 8 segments: {:.3f} ms ({} dofs)\n", n, ms, dof);
    }
    {
        Train t = train;
        t.springs.assign(2, train.springs[0]);
        t.camshaft.emplace();
        t.valve.elastic.emplace();
        const auto [ms, dof] = cycle_ms(t);
        fmt::print("  2 springs, camshaft torsion and an elastic valve: {:.3f} ms ({} dofs)\n", ms, dof);
    }
    for (const double coils : {4.0, 8.0, 16.0}) {
        Train t = train;
        t.springs.resize(1);
        auto& coil = std::get<CoilGeometry>(t.springs[0].kind);
        coil.wire_m = 1.5e-3;
        coil.active_coils = coils;
        coil.dead_coils = 1;
        coil.free_length_m = 60e-3;
        const auto [ms, dof] = cycle_ms(t);
        fmt::print("  1 spring of {} coils: {:.3f} ms ({} dofs)\n", coils, ms, dof);
    }
}

// Time of runs over more speeds, each for a fixed number of cycles.
void growth(const Chain& chain) {
    for (const std::size_t speeds : {16, 32, 64, 128})
        for (const std::size_t cycles : {4, 8}) {
            if (speeds != 64 && cycles != 4)
                continue;
            std::vector<double> list;
            for (std::size_t i = 0; i < speeds; ++i)
                list.push_back(6000 + 10 * static_cast<double>(i));
            CycleRule rule;
            rule.least = rule.most = cycles;
            const double s = seconds_of([&] {
                run_speeds(
                    chain, list, [](Motion&&) {}, {}, rule);
            });
            fmt::print("  {} speeds x {} cycles: {:.1f} ms\n", speeds, cycles, s * 1e3);
        }
}

// The limit alone, as while a value is dragged: the valve grows heavier by a gram a step.
void limits(const Train& train, const SpeedRange& range) {
    const Sweep known = sweep(train, range);
    QuickLimitQuery query;
    query.range = range;
    query.near_rpm = known.summary.limit.speed_rpm.value_or(0);
    query.low_speed_deg = known.summary.low_speed_duration_change_deg;
    double coarse = 0, fine = 0;
    constexpr int kSteps = 6;
    for (int i = 1; i <= kSteps; ++i) {
        Train t = train;
        t.valve.mass_kg += 1e-3 * i;
        const auto start = std::chrono::steady_clock::now();
        const auto since = [&] {
            return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        };
        const MotionModel model(t);
        const LimitSpeed estimate = estimate_limit(model, query);
        coarse += since() / kSteps;
        refine_limit(model, after_estimate(query, estimate));
        fine += since() / kSteps;
    }
    fmt::print("limit alone, all cores: estimate after {:.0f} ms, refined after {:.0f} ms\n", coarse * 1e3,
               fine * 1e3);
}

// Longest time from a stop to its being heard, over many moments of a sweep.
void stops(const Train& train, const SpeedRange& range) {
    double longest = 0;
    for (int i = 0; i < 25; ++i) {
        std::stop_source source;
        std::chrono::steady_clock::time_point asked;
        std::thread hand([&] {
            std::this_thread::sleep_for(std::chrono::milliseconds(5 + 11 * i));
            asked = std::chrono::steady_clock::now();
            source.request_stop();
        });
        SweepWatch watch;
        watch.stop = source.get_token();
        bool stopped = false;
        std::chrono::steady_clock::time_point ended;
        try {
            sweep(train, range, usual_limits(), watch);
        } catch (const Stopped&) {
            stopped = true;
            ended = std::chrono::steady_clock::now();
        }
        hand.join();
        if (stopped)
            longest = std::max(longest, std::chrono::duration<double>(ended - asked).count());
    }
    fmt::print("stop is heard after {:.1f} ms at most\n", longest * 1e3);
}

} // namespace

int main(int argc, char** argv) {
    const Train train = io::read_train(argc > 1 ? argv[1] : "demo/ashgill-a22-intake-after.train.json");
    const SpeedRange range{3000, 8900, 100};
    const std::vector<double> speeds = range.speeds_rpm(), trial = {3000, 4500, 6300, 7700};
    const PlainTrain plain(train);
    const MotionModel model(train);
    fmt::print("vector instructions: {}, {} speeds at once\n", lane_target(), lane_count());

    double own_error = 0;
    const std::vector<Motion> own = model.run(trial);
    for (std::size_t i = 0; i < trial.size(); ++i)
        own_error = std::max(own_error,
                             largest_difference_um(own[i][Channel::Lift],
                                                   run_cvode(plain, trial[i], Method::Adams, 1e-9).lift_m));
    fmt::print("error of this core on trial speeds, against CVODE at 1e-9: {:.3f} um\n", own_error);
    const Choice choice = best_cvode(plain, trial, 1.0);
    fmt::print("compared with: CVODE {} at {:.0e}\n", choice.name, choice.tolerance);

    {
        const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
        quick_trial(train, plain, choice);
        costs(train);
        growth(model.chain());
    }
    limits(train, range);
    stops(train, range);

    std::size_t cycles = 0;
    double one_core = 0, first = 0, all_cores = 0, whole = 0;
    {
        const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
        one_core = seconds_of([&] { model.run(speeds, [&](Motion&& m) { cycles += m.cycles; }); });
    }
    all_cores = seconds_of([&] { model.run(speeds, [](Motion&&) {}); });
    whole = seconds_of([&] {
        const auto start = std::chrono::steady_clock::now();
        SweepWatch watch;
        watch.motion = [&](const auto&) {
            if (first == 0)
                first = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        };
        sweep(train, range, usual_limits(), watch);
    });
    long evaluations = 0;
    const double cvode = seconds_of([&] {
        for (double rpm : speeds)
            evaluations += run_cvode(plain, rpm, choice.method, choice.tolerance).evaluations;
    });
    fmt::print("sweep 3000:8900:100, {} cycles\n", cycles);
    fmt::print("  this core, one core      {:8.3f} s\n", one_core);
    fmt::print("  this core, all cores     {:8.3f} s   ({:.2f} times one core)\n", all_cores,
               one_core / all_cores);
    fmt::print("  with limits and lobe     {:8.3f} s   (first speed after {:.3f} s)\n", whole, first);
    fmt::print("  CVODE, one core          {:8.3f} s   ({} evaluations)\n", cvode, evaluations);
    fmt::print("ratio, one core to one core: {:.1f}\n", cvode / one_core);
    return 0;
}
