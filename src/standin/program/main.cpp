// bathmos-standin: plays an instrument of the bench over a pseudo-terminal or the loopback, or a running spin
// rig, so that bench and rig can be tried and tested without devices. It tells where on its output, and ends
// with its input.
#include "core/problem/input_error.h"
#include "io/train/train_file.h"
#include "standin/program/served_instrument.h"
#include "standin/program/served_rig.h"

#include <CLI/CLI.hpp>
#include <QCoreApplication>
#include <QSocketNotifier>
#include <cstdio>
#include <fmt/format.h>
#include <functional>
#include <unistd.h>

namespace {

using namespace bathmos::standin;

// Ends the program with whoever started it: their end of its input goes with them. What comes is heard.
void end_with_input(QCoreApplication& app, const std::function<void(std::string_view)>& hear) {
    auto* input = new QSocketNotifier(STDIN_FILENO, QSocketNotifier::Read, &app);
    QObject::connect(input, &QSocketNotifier::activated, &app, [&app, hear] {
        char bytes[512];
        const ssize_t got = ::read(STDIN_FILENO, bytes, sizeof bytes);
        if (got <= 0)
            app.quit();
        else
            hear({bytes, static_cast<std::size_t>(got)});
    });
}

int tell_where(const std::string& at, const std::string& wanted, const std::string& problem) {
    if (at.empty()) {
        fmt::print(stderr, "bathmos-standin: no {} to be had: {}\n", wanted, problem);
        return 1;
    }
    fmt::print("{}\n", at);
    std::fflush(stdout);
    return 0;
}

template <class Enum>
CLI::Validator one_of(std::optional<Enum> (*find)(std::string_view), std::string names) {
    return CLI::Validator(
        [find, names](std::string& text) { return find(text) ? std::string() : "must be one of: " + names; },
        names);
}

// bathmos-standin rig TRAIN: a running spin rig.
int play_rig(int argc, char** argv) {
    std::string train, fault = "none";
    bool fast = false;
    double seconds = 0;
    unsigned port = 0, lines_port = 0;
    LiveRigSetup setup;
    CLI::App options("Plays a running spin rig over the loopback (docs/rig-stream.md)",
                     "bathmos-standin rig");
    std::string faults;
    for (const RigFault one : all_rig_faults())
        faults += (faults.empty() ? "" : ", ") + std::string(name_of(one));
    options.add_option("train", train, "Train as believed, *.train.json; the rig's own differs")->required();
    options.add_option("--seed", setup.seed, "Which hidden twin, and which errors");
    options.add_option("--fault", fault, faults)->check(one_of(find_rig_fault, faults));
    options.add_option("--samples", setup.samples_a_turn, "Samples a cam turn, by the encoder")
        ->check(CLI::Range(180.0, 20000.0));
    options.add_option("--rate", setup.rate_Hz, "Samples a second, by time, in place of the encoder's")
        ->check(CLI::Range(1000.0, 1e6));
    options.add_flag("--crank-index", setup.once_per_crank_turn, "Index once a crank turn");
    options.add_option("--most", setup.most_rpm, "Highest speed, rev/min")->check(CLI::Range(500.0, 20000.0));
    options.add_option("--from", setup.from_rpm, "It turns already, rev/min")
        ->check(CLI::Range(0.0, 20000.0));
    options.add_option("--port", port, "Port of the loopback; any free one unless given")
        ->check(CLI::Range(0u, 65535u));
    options.add_option("--lines", lines_port, "A port that says speed and oil as lines of text, too")
        ->check(CLI::Range(1u, 65535u));
    options.add_option("--seconds", seconds, "Ends after so long")->check(CLI::Range(0.0, 1e6));
    options.add_flag("--fast", fast, "As fast as it is read, not in real time");
    CLI11_PARSE(options, argc, argv);
    setup.fault = *find_rig_fault(fault);
    QCoreApplication app(argc, argv);
    try {
        setup.believed = bathmos::io::read_train(train);
        ServedRig served(setup, fast, seconds);
        if (lines_port > 0 && !served.say_lines(static_cast<quint16>(lines_port)))
            return tell_where({}, "port for lines", served.problem());
        if (tell_where(served.listen(static_cast<quint16>(port)), "port", served.problem()) != 0)
            return 1;
        end_with_input(app, [](std::string_view) {});
        return app.exec();
    } catch (const bathmos::InputError& error) {
        fmt::print(stderr, "bathmos-standin: {}\n", error.what());
        return 2;
    }
}

} // namespace

int main(int argc, char** argv) {
    if (argc > 1 && std::string_view(argv[1]) == "rig")
        return play_rig(argc - 1, argv + 1);
    std::string kind, slip = "none";
    bool terminal = false;
    double every_s = 0.1;
    InstrumentSetup setup;
    CLI::App options("Plays an instrument of the bench: a stand-in, for trying and testing");
    std::string kinds;
    for (const Instrument one : all_instruments())
        kinds += (kinds.empty() ? "" : ", ") + std::string(name_of(one));
    options.add_option("instrument", kind, kinds)->required()->check(one_of(find_instrument, kinds));
    options.add_option("--seed", setup.seed, "Which hidden part, and which errors");
    options.add_option("--slip", slip, "What the hand does wrong")
        ->check(one_of(find_slip, "none, tired_spring, wrong_ball, swapped_steps, dial_moved, bent_rod"));
    options.add_option("--parts", setup.parts, "Springs of a set, parts to weigh")
        ->check(CLI::Range(1, 1000));
    options.add_option("--at", setup.at_mm, "Heights of the spring tester, mm")->delimiter(',');
    options.add_option("--every", every_s, "Seconds between two lines")->check(CLI::Range(0.005, 10.0));
    options.add_flag("--terminal", terminal, "A pseudo-terminal in place of a port of the loopback");
    CLI11_PARSE(options, argc, argv);
    setup.kind = *find_instrument(kind);
    setup.slip = *find_slip(slip);

    QCoreApplication app(argc, argv);
    ServedInstrument served(setup, every_s);
    const std::string at = terminal ? served.open_terminal() : served.listen();
    if (tell_where(at, terminal ? "terminal" : "port", served.problem()) != 0)
        return 1;
    end_with_input(app, [&served](std::string_view bytes) { served.hear(bytes); });
    return app.exec();
}
