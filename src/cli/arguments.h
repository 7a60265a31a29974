// What all commands share: numbers with units, ranges, limits by name, progress on a terminal.
#pragma once

#include "core/motion/limits.h"
#include "core/motion/sweep.h"
#include "core/tasks/tasks.h"
#include "io/project/store.h"

#include <CLI/CLI.hpp>
#include <memory>
#include <stop_token>
#include <string>
#include <vector>

namespace bathmos::cli {

/// Defines commands; each runs from its own callback once the command line is read. `stop` is asked for then.
using StopToken = std::function<std::stop_token()>;
void define_model_commands(CLI::App& app, const StopToken& stop);
void define_calibration_commands(CLI::App& app, const StopToken& stop);
void define_bench_commands(CLI::App& app, const StopToken& stop);
void define_plan_commands(CLI::App& app, const StopToken& stop);
void define_live_commands(CLI::App& app, const StopToken& stop);
void define_lobe_commands(CLI::App& app, const StopToken& stop);
void define_log_commands(CLI::App& app, const StopToken& stop);
void define_project_commands(CLI::App& app, const StopToken& stop);
void define_report_commands(CLI::App& app, const StopToken& stop);
void define_start_commands(CLI::App& app, const StopToken& stop);
void define_dyno_commands(CLI::App& app, const StopToken& stop);

/// A command that runs with the options that its line has filled in.
template <class Options>
CLI::App* add_command(CLI::App& app, const char* name, const char* help,
                      const std::shared_ptr<Options>& options, const StopToken& stop,
                      void (*run)(const Options&, const std::stop_token&)) {
    CLI::App* out = app.add_subcommand(name, help);
    out->callback([options, run, stop] { run(*options, stop()); });
    return out;
}

/// A number within bounds, told plainly: "-5 is out of range; give 100 to 30000 rev/min".
CLI::Validator between(double low, double high, const std::string& unit = "");

/// An option in millimetres that wants its unit: 1.27mm, 0.050in, 50thou; above 0. Several where `into` is a
/// list.
CLI::Option* add_height(CLI::App* command, const std::string& name, std::vector<double>& into_mm,
                        const std::string& help);
/// FIRST:LAST:STEP in rev/min: 100 to 30000, at most 2000 speeds.
CLI::Option* add_range(CLI::App* command, SpeedRange& into);
/// A crank speed, 100 to 30000 rev/min.
CLI::Option* add_speed(CLI::App* command, double& into);
/// Numbers with colons between, just so many, each from `least` to `most`.
CLI::Option* add_numbers(CLI::App* command, const std::string& name, std::vector<double>& into,
                         std::size_t count, double least, double most, const std::string& help);
/// A finite number and nothing else. Throws CLI::ValidationError naming the option.
double plain_number(const std::string& text, const std::string& option);
/// --limits NAME, one of the named sets.
CLI::Option* add_limits(CLI::App* command, LimitsInForce& into);

/// Text for a person on standard output, without bytes that steer the terminal.
void say(const std::string& text);
/// A line on stderr that changes no result: "note: ...".
void note(const std::string& text);
/// An open project; what could not be backed up is noted.
io::Store open_project(const std::string& path);

/// A file of a command line, with the option that named it; "" is none.
struct NamedFile {
    std::string option, path;
};
/// Throws InputError where an output would replace an input, or another output.
void require_apart(const std::vector<NamedFile>& inputs, const std::vector<NamedFile>& outputs);

/// One line on stderr, rewritten, when a person looks.
ProgressSink terminal_progress(const std::string& what);
void write_if(const std::string& path, const std::string& text);
[[noreturn]] void bad_argument(const std::string& location, const std::string& what, const std::string& mend);

} // namespace bathmos::cli
