// An hour of a rig at 200 000 samples a second, as fast as the loopback takes it: what is lost, how memory
// stands at the beginning and the end, what it costs.
#include "core/train/train_starter.h"
#include "process_memory.h"
#include "rig_feeder.h"
#include "session/live/live_session.h"
#include "timing.h"

#include <filesystem>
#include <fmt/format.h>
#include <unistd.h>

using namespace bathmos;
using test::memory_MB;

namespace {

constexpr double kRate = 200'000;

} // namespace

int main(int argc, char** argv) {
    const double hours = argc > 1 ? std::atof(argv[1]) : 1.0;
    const std::filesystem::path file =
        std::filesystem::temp_directory_path() / fmt::format("bathmos-bench-{}.rig-stream", ::getpid());
    {
        bench::RigFeeder feeder(starter_train(), {.seconds_each = hours * 3600, .rate_Hz = kRate});
        session::LiveSetup setup;
        setup.host = "127.0.0.1";
        setup.port = feeder.port;
        setup.train = starter_train();
        setup.recording = file;
        session::LiveSession session(setup);
        const auto wanted = static_cast<std::uint64_t>(hours * 3600 * kRate);
        double early = 0;
        const double seconds = bench::seconds_of([&] {
            while (session.snapshot().samples < wanted) {
                std::this_thread::sleep_for(std::chrono::milliseconds(20));
                if (early == 0 && session.snapshot().samples > wanted / 20)
                    early = memory_MB();
            }
        });
        const session::LiveSnapshot now = session.snapshot();
        fmt::print("{:.2f} hours at {:.0f} samples/s in {:.1f} s ({:.0f} times as fast as it came)\n", hours,
                   kRate, seconds, hours * 3600 / seconds);
        fmt::print("samples {}, lost {}, cycles shown {}, not shown {}\n", now.samples, now.lost,
                   now.good_cycles + now.bad_cycles, now.not_shown);
        fmt::print("memory {:.0f} MB after a twentieth, {:.0f} MB at the end\n", early, memory_MB());
    }
    fmt::print("recording {:.0f} MB\n", static_cast<double>(std::filesystem::file_size(file)) / 1e6);
    std::filesystem::remove(file);
}
