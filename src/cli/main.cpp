// bathmos-cli: the core without a display (docs/format.md). Exit 0 done, 2 bad input, 1 anything else.
#include "cli/arguments.h"
#include "core/problem/input_error.h"
#include "io/text/encoding.h"

#include <atomic>
#include <csignal>
#include <fmt/format.h>
#include <thread>

namespace {

std::atomic<bool> interrupted{false}; // set by the signal handler, the one thing it may do

// Turns Ctrl-C into a request to stop, so that no half-written file is left.
class Interrupt {
  public:
    Interrupt() {
        std::signal(SIGINT, [](int) { interrupted = true; });
        std::signal(SIGTERM, [](int) { interrupted = true; });
        watcher_ = std::jthread([this](const std::stop_token& end) {
            while (!end.stop_requested() && !interrupted)
                std::this_thread::sleep_for(std::chrono::milliseconds(20));
            if (interrupted)
                source_.request_stop();
        });
    }
    std::stop_token token() const { return source_.get_token(); }

  private:
    std::stop_source source_;
    std::jthread watcher_;
};

// Whatever a file holds: letters on the terminal, no bytes that steer it.
void complain(const std::string& text) {
    fmt::print(stderr, "bathmos-cli: {}\n",
               bathmos::io::printable(bathmos::io::to_utf8(text, bathmos::io::Encoding::Utf8)));
}

int run(int argc, char** argv) {
    CLI::App app(
        "Bathmos: valve motion, limit speed and rig traces, without a display.\n"
        "Its results are advice: makers' instructions, local rules and a competent person come first.");
    app.require_subcommand(1);
    app.set_version_flag("--version", "bathmos-cli " BATHMOS_VERSION);
    std::optional<Interrupt> interrupt; // listens once there is something to interrupt
    const auto stop = [&] { return interrupt.emplace().token(); };
    bathmos::cli::define_model_commands(app, stop);
    bathmos::cli::define_calibration_commands(app, stop);
    bathmos::cli::define_bench_commands(app, stop);
    bathmos::cli::define_plan_commands(app, stop);
    bathmos::cli::define_live_commands(app, stop);
    bathmos::cli::define_lobe_commands(app, stop);
    bathmos::cli::define_log_commands(app, stop);
    bathmos::cli::define_project_commands(app, stop);
    bathmos::cli::define_report_commands(app, stop);
    bathmos::cli::define_start_commands(app, stop);
    bathmos::cli::define_dyno_commands(app, stop);
    try {
        app.parse(argc, argv);
    } catch (const CLI::Success& success) {
        return app.exit(success);
    } catch (const CLI::ParseError& error) {
        complain(fmt::format("{}; see bathmos-cli --help", error.what()));
        return 2;
    }
    return 0;
}

} // namespace

int main(int argc, char** argv) {
    try {
        return run(argc, argv);
    } catch (const bathmos::InputError& error) {
        complain(error.what());
        return 2;
    } catch (const bathmos::Stopped&) {
        complain("stopped; nothing was written");
        return 1;
    } catch (const std::bad_alloc&) {
        complain("there is not enough memory for this; nothing was written");
        return 1;
    } catch (const std::exception& error) {
        complain(error.what());
        return 1;
    }
}
