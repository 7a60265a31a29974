// A calibration's time: for each train and rig run given, how long until the first answer, the best numbers
// and the limit with its band, and what that took.
//
//     bench_calibrate TRAIN RUN [TRAIN RUN ...]
#include "core/calibration/calibrated_limit.h"
#include "core/rig/rig_run.h"
#include "io/rig/rig_file.h"
#include "io/train/train_file.h"
#include "timing.h"

#include <algorithm>
#include <fmt/format.h>

using namespace bathmos;
using namespace bathmos::bench;

namespace {

void time_one(const char* train_path, const char* run_path) {
    const Train train = io::read_train(train_path);
    const RigRun run = reduce(io::read_rig(run_path), train);
    double first_s = 0;
    const auto start = std::chrono::steady_clock::now();
    CalibrationWatch watch;
    watch.estimate = [&](const Calibration&) {
        if (first_s == 0)
            first_s = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    };
    Calibration found;
    const double numbers_s = seconds_of([&] { found = calibrate({train, {&run}}, watch); });
    CalibratedLimit limit;
    const double limit_s = seconds_of([&] { limit = limit_of(found, {&run}, LimitsInForce{}); });
    const auto fitted = std::count_if(found.residuals.begin(), found.residuals.end(),
                                      [](const SpeedResidual& one) { return !one.held_out; });
    fmt::print("{:44} {:3} numbers {:3} speeds {:5} trains  first {:5.1f} s  all {:6.1f} s  limit {:5.1f} s  "
               "{} {:.0f} rev/min",
               train_path, found.numbers.size(), fitted, found.trains_run, first_s, numbers_s, limit_s,
               found.chosen, limit.limit.speed_rpm.value_or(0));
    for (const Hypothesis& one : found.hypotheses)
        fmt::print(" {}:{:.1f}", one.cause, one.log_evidence);
    fmt::print("\n");
    std::fflush(stdout);
}

} // namespace

int main(int count, char** words) {
    for (int i = 1; i + 1 < count; i += 2)
        time_one(words[i], words[i + 1]);
}
