// The command of a running rig: record.
#include "cli/arguments.h"
#include "core/problem/input_error.h"
#include "io/live/programme_file.h"
#include "io/live/recording.h"
#include "io/result/result_text.h"
#include "io/text/encoding.h"
#include "io/text/range_text.h"
#include "io/train/train_file.h"
#include "session/live/live_session.h"
#include "session/project/keeping.h"

#include <fmt/format.h>
#include <thread>

namespace bathmos::cli {

namespace {

using namespace std::chrono_literals;

struct RecordOptions {
    std::string address, out, train, programme, steps, summary, project, name;
    LimitsInForce limits{};
    std::size_t cycles = 16;
    double seconds = 0, wait_s = 10;
    bool reversed = false;
    Id revision = 0;
};

std::optional<live::Programme> programme_of(const RecordOptions& o) {
    if (!o.programme.empty() && !o.steps.empty())
        bad_argument("--steps", "stands beside --programme", "give one of them");
    if (!o.programme.empty())
        return io::read_programme(o.programme);
    if (o.steps.empty())
        return std::nullopt;
    try {
        const SpeedRange range = io::range_of(o.steps);
        return live::steps_programme(range.first_rpm, range.last_rpm, range.step_rpm, o.cycles);
    } catch (const InputError& error) {
        bad_argument("--steps", error.problem().what, error.problem().mend);
    }
}

// Notes that were not told yet, as lines on stderr.
void tell_new(const session::LiveSnapshot& now, std::size_t& told, double& last_s) {
    for (const session::LiveNote& one : now.notes)
        if (one.time_s > last_s) {
            last_s = one.time_s;
            ++told;
            note(one.kind + ": " + one.text.in_words());
        }
}

// Until the programme is done, a rule has stopped it, the time is up, or somebody says stop.
session::LiveSnapshot follow(session::LiveSession& session, const RecordOptions& o,
                             const std::optional<live::Programme>& programme, const std::stop_token& stop) {
    const auto begun = std::chrono::steady_clock::now();
    const auto gone_s = [&] {
        return std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
    };
    bool started = false;
    std::size_t told = 0;
    double last_s = -1, still_s = 0;
    while (true) {
        const session::LiveSnapshot now = session.snapshot();
        tell_new(now, told, last_s);
        if (now.pieces == 0 && gone_s() > o.wait_s)
            throw InputError({o.address, "", "no rig answers", "start it, or give its address as HOST:PORT"});
        if (programme && !started && now.pieces > 0) {
            session.start(*programme);
            started = true;
        }
        if (stop.stop_requested())
            session.stop("stopped by hand");
        const bool over = stop.stop_requested() || now.programme_done || now.stopped.has_value() ||
                          (started && !now.programme) || (o.seconds > 0 && gone_s() > o.seconds) ||
                          (o.seconds <= 0 && !programme && now.state == session::LiveState::Lost);
        if (over && still_s == 0)
            still_s = gone_s();
        if (over && gone_s() - still_s > 0.5) // what is on the line still comes
            return session.snapshot();
        std::this_thread::sleep_for(50ms);
    }
}

void record(const RecordOptions& o, const std::stop_token& stop) {
    require_apart({{"--train", o.train}, {"--programme", o.programme}},
                  {{"recording", o.out}, {"--summary", o.summary}});
    if (!io::is_recording(o.out))
        bad_argument("recording", fmt::format("\"{}\" has another ending", o.out), "name it *.rig-stream");
    if (!o.project.empty() && o.revision == 0)
        bad_argument("--revision", "is missing", "say which revision of the project is on the rig");
    session::LiveSetup setup;
    std::tie(setup.host, setup.port) = io::host_and_port(o.address);
    setup.train = io::read_train(o.train);
    setup.limits = o.limits;
    setup.reversed = o.reversed;
    setup.recording = o.out;
    const std::optional<live::Programme> programme = programme_of(o);
    session::LiveSnapshot last;
    {
        session::LiveSession session(setup);
        last = follow(session, o, programme, stop);
    }
    throw_if_stopped(stop); // the recording is whole
    const RigTrace trace = io::read_recording(o.out, nullptr, {terminal_progress("read"), stop});
    const RigRun run = reduce(trace, setup.train, {o.reversed, o.limits, terminal_progress("reduce"), stop});
    write_if(o.summary,
             io::recorded_json(run, {last.samples, last.lost, last.good_cycles, last.bad_cycles, last.pieces,
                                     last.stopped ? last.stopped->told.in_words() : ""}));
    if (o.project.empty())
        return;
    io::Store store = open_project(o.project);
    const std::string file = io::shown_path(std::filesystem::path(o.out).filename());
    session::keep_rig_run(store, {o.name.empty() ? file : o.name, o.revision, o.reversed},
                          io::packed(io::trace_of(trace), stop));
}

} // namespace

void define_live_commands(CLI::App& app, const StopToken& stop) {
    const auto o = std::make_shared<RecordOptions>();
    CLI::App* command =
        add_command(app, "record",
                    "Listen to a running rig, take it through steps, keep all as it comes "
                    "(docs/rig-stream.md). A request is no safety device: guards and interlock first",
                    o, stop, record);
    command->add_option("address", o->address, "The rig, HOST:PORT")->required();
    command->add_option("recording", o->out, "File to make, *.rig-stream")->required();
    command->add_option("--train", o->train, "Train as believed, *.train.json")->required();
    command->add_option("--programme", o->programme, "Steps, ramps, holds: *.programme.json");
    command->add_option("--steps", o->steps, "FIRST:LAST:STEP in rev/min, in place of a programme");
    command->add_option("--cycles", o->cycles, "Good cycles at each step")->check(between(8, 100000));
    command->add_option("--seconds", o->seconds, "Ends after so long")->check(between(0, 1e6, "s"));
    command->add_option("--wait", o->wait_s, "Gives up where no rig answers for so long")
        ->check(between(0, 1e6, "s"));
    command->add_flag("--reversed", o->reversed, "The sensor's reading falls as the valve opens");
    command->add_option("--summary", o->summary, "JSON to write");
    command->add_option("--project", o->project, "Project to keep the run in, *.bathmos");
    command->add_option("--revision", o->revision, "Number of the revision that was run");
    command->add_option("--name", o->name, "How it is listed; the file's name unless given");
    add_limits(command, o->limits);
}

} // namespace bathmos::cli
