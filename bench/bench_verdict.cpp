// Pulls and the verdict: a logger's file of 100 000 rows read and judged, a case weighed, and what one change
// costs by the guided search of its limit against a plain sweep that finds the same limit.
#include "core/train/train_starter.h"
#include "core/verdict/changes.h"
#include "core/verdict/verdict.h"
#include "core/whatif/handles.h"
#include "io/dyno/pull_file.h"
#include "standin/dyno/dyno.h"
#include "timing.h"

#include <filesystem>
#include <fmt/format.h>
#include <fstream>

using namespace bathmos;
using namespace bathmos::bench;

namespace {

constexpr SpeedRange kRange{4400, 9600, 200};
constexpr double kPlainStep_rpm = 4; // the guided search halves brackets down to as much

Pull pull_of(std::size_t rows, unsigned seed) {
    standin::PullSetup setup;
    setup.rows = rows;
    setup.seed = seed;
    setup.logged = standin::all_channels(setup.engine);
    setup.loss = {{4000, 0, 0}, {7500, 0, 0}, {7800, 0.04, 0.01}, {8800, 0.09, 0.02}};
    return standin::run_pull(setup);
}

std::filesystem::path file_of(const Pull& pull) {
    const auto path = std::filesystem::temp_directory_path() / "bathmos-bench.pull.csv";
    std::ofstream file(path);
    file << "speed_rpm,power_kW\n";
    for (std::size_t i = 0; i < pull.size(); ++i)
        file << fmt::format("{:.2f},{:.3f}\n", pull[PullChannel::Speed][i],
                            pull[PullChannel::Power][i] / 1e3);
    return path;
}

double limit_by_guided_search(const Train& train) {
    QuickLimitQuery quick;
    quick.range = kRange;
    const MotionModel model(train);
    return refine_limit(model, after_estimate(quick, estimate_limit(model, quick, {})), {})
        .speed_rpm.value_or(0);
}

double limit_by_plain_sweep(const Train& train) {
    SpeedRange range = kRange;
    range.step_rpm = kPlainStep_rpm;
    return sweep(train, range).summary.limit.speed_rpm.value_or(0);
}

} // namespace

int main() {
    const auto path = file_of(pull_of(100000, 1));
    Pull read;
    fmt::print("100 000 rows: read {:.0f} ms, ", median_ms(5, [&] { read = io::read_pulls(path).front(); }));
    PullAnalysis analysis;
    fmt::print("judged {:.0f} ms\n", median_ms(5, [&] { analysis = analyse(read); }));
    const Pull usual = pull_of(250, 2);
    fmt::print("250 rows, all channels: judged {:.0f} ms, break at {:.0f}\n",
               median_ms(11,
                         [&] {
                             analysis = analyse(usual);
                             test_confounders(usual, analysis);
                         }),
               analysis.first_break() ? analysis.first_break()->speed_rpm : 0);

    const Train train = starter_train();
    CaseFile file;
    FactsQuery query;
    query.range = kRange;
    fmt::print("what the model says of a train {:.2f} s\n",
               seconds_of([&] { file.model = model_facts(train, query); }));
    file.pulls.push_back({"pull", analysis, test_confounders(usual, analysis), "", std::nullopt});
    fmt::print("all weighed {:.2f} ms\n", median_ms(101, [&] { judge(file); }));

    Train lighter = train;
    scale_loads(lighter, 1.05);
    double guided_rpm = 0, plain_rpm = 0;
    const double guided = median_ms(5, [&] { guided_rpm = limit_by_guided_search(lighter); });
    const double plain = median_ms(3, [&] { plain_rpm = limit_by_plain_sweep(lighter); });
    fmt::print(
        "limit of a changed train: {:.0f} ms ({:.0f} rev/min), by a sweep every {:.0f} rev/min {:.0f} ms "
        "({:.0f} rev/min): {:.1f} times\n",
        guided, guided_rpm, kPlainStep_rpm, plain, plain_rpm, plain / guided);
    std::filesystem::remove(path);
}
