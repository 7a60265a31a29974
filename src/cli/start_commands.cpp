// start: a train from the few numbers that somebody knows.
#include "cli/arguments.h"
#include "core/problem/input_error.h"
#include "core/start/assumption_rules.h"
#include "core/start/start_train.h"
#include "core/start/worth_knowing.h"
#include "core/train/assumed.h"
#include "core/units/measured_text.h"
#include "io/train/known_json.h"
#include "io/train/train_file.h"
#include "session/results/sweep_range.h"

#include <fmt/format.h>

namespace bathmos::cli {

namespace {

struct StartOptions {
    std::string known, out;
    std::size_t trains = 100;
    bool quick = false;
};

void tell_assumed(const Train& train) {
    for (const AssumedNumber& one : assumed_numbers(train))
        say(one.key.ends_with("load_table")
                ? fmt::format("assumed: {}, within {:.0f} %: {}\n", one.label, 100 * one.plus_minus,
                              rule_of(one.key))
                : fmt::format("assumed: {} {} within {}: {}\n", one.label,
                              quantity_text(one.quantity, one.value),
                              quantity_text(one.quantity, one.plus_minus), rule_of(one.key)));
}

void tell_band(const Train& train, const StartOptions& o, const std::optional<double>& target,
               const std::stop_token& stop) {
    UncertaintyQuery query;
    const TrainFigures figures = figures_of(train, RigidMotion(train, curve_of(train.lobe)));
    query.range = session::usual_range(&figures, target.value_or(0));
    query.trains = o.trains;
    UncertaintyWatch watch;
    watch.progress = terminal_progress("limit");
    watch.stop = stop;
    const LimitUncertainty found = uncertainty_of(train, query, watch);
    const auto speed = [](const std::optional<double>& rpm) {
        return rpm ? fmt::format("{:.0f}", *rpm) : std::string("above the range");
    };
    say(fmt::format("limit: 10 % below {}, half below {}, 90 % below {} rev/min\n", speed(found.low_rpm),
                    speed(found.middle_rpm), speed(found.high_rpm)));
    for (const WorthKnowing& one : worth_knowing(found))
        say(fmt::format("worth knowing: {}: {:.0f} % of the spread; leaves a band of {:.0f} rev/min\n",
                        one.act, 100 * one.share, one.width_rpm));
}

void start(const StartOptions& o, const std::stop_token& stop) {
    require_apart({{"known", o.known}}, {{"--out", o.out}});
    StartedTrain started;
    try {
        started = start_train(io::read_known(o.known));
    } catch (const InputError& error) {
        throw error.problem().source.empty() ? error.in(o.known) : error;
    }
    for (const std::string& doubt : started.doubts)
        note(doubt);
    tell_assumed(started.train);
    if (!o.quick)
        tell_band(started.train, o, started.target_rpm, stop);
    if (!o.out.empty())
        io::write_train(o.out, started.train);
}

} // namespace

void define_start_commands(CLI::App& app, const StopToken& stop) {
    const auto o = std::make_shared<StartOptions>();
    CLI::App* command =
        add_command(app, "start", "A train from what is known of it; the rest is assumed by rules and marked",
                    o, stop, start);
    command->add_option("known", o->known, "JSON file of what is known (docs/start.md)")->required();
    command->add_option("--out", o->out, "train file to write");
    command->add_option("--trains", o->trains, "trains drawn for the band")->check(between(20, 2000));
    command->add_flag("--quick", o->quick, "no band of the limit");
}

} // namespace bathmos::cli
