// bathmos-standin: plays an instrument of the bench over a pseudo-terminal or the loopback, so that the bench
// can be tried and tested without devices. It tells where on its output, and ends with its input.
#include "standin/program/served_instrument.h"

#include <CLI/CLI.hpp>
#include <QCoreApplication>
#include <QSocketNotifier>
#include <cstdio>
#include <fmt/format.h>
#include <unistd.h>

namespace {

using namespace bathmos::standin;

// Ends the program with whoever started it: their end of its input goes with them. Lines that come are
// commands.
void end_with_input(QCoreApplication& app, ServedInstrument& served) {
    auto* input = new QSocketNotifier(STDIN_FILENO, QSocketNotifier::Read, &app);
    QObject::connect(input, &QSocketNotifier::activated, &app, [&app, &served] {
        char bytes[512];
        const ssize_t got = ::read(STDIN_FILENO, bytes, sizeof bytes);
        if (got <= 0)
            app.quit();
        else
            served.hear({bytes, static_cast<std::size_t>(got)});
    });
}

template <class Enum>
CLI::Validator one_of(std::optional<Enum> (*find)(std::string_view), std::string names) {
    return CLI::Validator(
        [find, names](std::string& text) { return find(text) ? std::string() : "must be one of: " + names; },
        names);
}

} // namespace

int main(int argc, char** argv) {
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
    if (at.empty()) {
        fmt::print(stderr, "bathmos-standin: no {} to be had: {}\n", terminal ? "terminal" : "port",
                   served.problem());
        return 1;
    }
    fmt::print("{}\n", at);
    std::fflush(stdout);
    end_with_input(app, served);
    return app.exec();
}
