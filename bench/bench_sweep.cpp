// The demo sweep 3000:8900:100 on one core against CVODE on one core, same equations, at equal error, in one
// run. Prints ratios; absolute times are those of the machine at hand.
#include "core/motion/sweep.h"
#include "independent/plain_train.h"
#include "io/train/train_file.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <fmt/format.h>
#include <tbb/global_control.h>

using namespace bathmos;
using namespace bathmos::independent;

namespace {

double seconds(const std::function<void()>& work) {
    const auto start = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

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
            const double s = seconds([&] {
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
    const Choice choice = best_cvode(plain, trial, std::max(own_error, 0.3));
    fmt::print("compared with: CVODE {} at {:.0e}\n", choice.name, choice.tolerance);

    std::size_t cycles = 0;
    double one_core = 0, first = 0, all_cores = 0, whole = 0;
    {
        const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
        one_core = seconds([&] { model.run(speeds, [&](Motion&& m) { cycles += m.cycles; }); });
    }
    all_cores = seconds([&] { model.run(speeds, [](Motion&&) {}); });
    whole = seconds([&] {
        const auto start = std::chrono::steady_clock::now();
        SweepWatch watch;
        watch.motion = [&](const auto&) {
            if (first == 0)
                first = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        };
        sweep(train, range, usual_limits(), watch);
    });
    long evaluations = 0;
    const double cvode = seconds([&] {
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
