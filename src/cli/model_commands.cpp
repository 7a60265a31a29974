// The commands of the model and the rig: simulate, sweep, uncertainty, hold, rig, compare.
#include "cli/arguments.h"
#include "core/problem/input_error.h"
#include "core/uncertainty/limit_uncertainty.h"
#include "io/file/safe_file.h"
#include "io/result/result_h5.h"
#include "io/result/result_text.h"
#include "io/rig/rig_file.h"
#include "io/text/encoding.h"
#include "io/train/train_file.h"

#include <filesystem>
#include <fmt/format.h>

namespace bathmos::cli {

namespace {

struct ModelOptions {
    std::string train, rig, out, summary;
    std::vector<std::string> rigs, trains_of;
    double speed_rpm = 0, step_deg = 0.5, seconds = 1;
    SpeedRange range;
    LimitsInForce limits;
    std::size_t trains = 200;
    unsigned seed = 1;
    bool reversed = false;
};

// A train, with what is asked back of it and what its rest says already.
Train read_train(const std::string& path) {
    Train train = io::read_train(path);
    for (const Finding& finding : cautions_of(train))
        note(in_words(finding));
    return train;
}

void simulate(const ModelOptions& o, const std::stop_token& stop) {
    require_apart({{"train", o.train}}, {{"--out", o.out}});
    const Train train = read_train(o.train);
    const Motion motion = simulate_one(train, o.speed_rpm, stop);
    if (!motion.finite)
        throw InputError({o.train, "", motion.trouble, "correct that part's numbers"});
    if (o.out.ends_with(".h5"))
        return io::write_motions_h5(o.out, {std::make_shared<const Motion>(motion)},
                                    MotionModel(train).chain().rigid_m, train.name, o.limits.name);
    io::write_file(o.out, io::motion_csv(motion, RigidMotion(train, curve_of(train.lobe)), o.step_deg));
}

void sweep_range(const ModelOptions& o, const std::stop_token& stop) {
    require_apart({{"train", o.train}}, {{"--out", o.out}, {"--summary", o.summary}});
    const Train train = read_train(o.train);
    const Sweep result = sweep(train, o.range, o.limits, {{}, terminal_progress("sweep"), stop});
    if (o.out.ends_with(".h5"))
        io::write_motions_h5(o.out, result.motions, MotionModel(train).chain().rigid_m, train.name,
                             o.limits.name);
    else
        write_if(o.out, io::sweep_csv(result));
    write_if(o.summary, io::sweep_json(result.summary, cautions_of(train)));
}

void uncertainty(const ModelOptions& o, const std::stop_token& stop) {
    require_apart({{"train", o.train}}, {{"--summary", o.summary}});
    const Train train = read_train(o.train);
    UncertaintyQuery query;
    query.range = o.range;
    query.limits = o.limits;
    query.trains = o.trains;
    query.seed = o.seed;
    UncertaintyWatch watch;
    watch.progress = terminal_progress("uncertainty");
    watch.stop = stop;
    io::write_file(o.summary, io::uncertainty_json(uncertainty_of(train, query, watch), o.limits.name));
}

void stiffness(const ModelOptions& o, const std::stop_token& stop) {
    require_apart({{"train", o.train}}, {{"--summary", o.summary}});
    const Train train = read_train(o.train);
    const StiffnessBudget budget =
        stiffness_budget(train, {o.range, o.limits, stop}, terminal_progress("stiffness"));
    if (!o.summary.empty())
        return io::write_file(o.summary, io::stiffness_json(budget, o.limits.name));
    const auto speed = [](const std::optional<double>& rpm) {
        return rpm ? fmt::format("{:+.0f}", *rpm) : std::string("-");
    };
    say(budget.limit_rpm ? fmt::format("limit of now: {:.0f} rev/min\n", *budget.limit_rpm)
                         : std::string("no limit in the range\n"));
    for (const StiffnessGain& link : budget.links)
        say(fmt::format("{}: {:.1f} % of the compliance; a tenth stiffer {} rev/min, with its mass {}\n",
                        link.part, 100 * link.share, speed(link.same_mass_rpm), speed(link.true_mass_rpm)));
    if (!budget.mend_first.empty())
        say(fmt::format("mend first: {}\n", budget.mend_first));
}

void hold_speed(const ModelOptions& o, const std::stop_token& stop) {
    require_apart({{"train", o.train}}, {{"--out", o.out}});
    const Train train = read_train(o.train);
    io::write_file(o.out, io::hold_csv(hold(train, o.speed_rpm, o.seconds, terminal_progress("hold"), stop)));
}

void rig(const ModelOptions& o, const std::stop_token& stop) {
    require_apart({{"trace", o.rig}, {"--train", o.train}}, {{"--out", o.out}, {"--summary", o.summary}});
    const Train train = read_train(o.train);
    const RigTrace trace = io::read_rig(o.rig, {terminal_progress("read"), stop});
    RigOptions options;
    options.reversed = o.reversed;
    options.limits = o.limits;
    options.progress = terminal_progress("reduce");
    options.stop = stop;
    const RigRun run = reduce(trace, train, options);
    write_if(o.out, io::rig_csv(run));
    write_if(o.summary, io::rig_json(run));
    for (const std::string warning : run.warnings)
        note(warning);
}

void compare(const ModelOptions& o, const std::stop_token& stop) {
    std::vector<NamedFile> inputs;
    for (const std::string& file : o.rigs)
        inputs.push_back({"trace", file});
    for (const std::string& file : o.trains_of)
        inputs.push_back({"--train", file});
    require_apart(inputs, {{"--summary", o.summary}});
    if (o.rigs.size() < 2)
        bad_argument("trace", "only one", "name two or more");
    if (o.trains_of.size() != 1 && o.trains_of.size() != o.rigs.size())
        bad_argument("--train", fmt::format("{} for {} traces", o.trains_of.size(), o.rigs.size()),
                     "name one for all, or one for each trace in their order");
    std::vector<Train> trains;
    for (const std::string& file : o.trains_of)
        trains.push_back(read_train(file));
    std::vector<RigRun> runs;
    for (std::size_t i = 0; i < o.rigs.size(); ++i) {
        RigOptions options;
        options.limits = o.limits;
        options.progress = terminal_progress("reduce");
        options.stop = stop;
        runs.push_back(reduce(io::read_rig(o.rigs[i], {terminal_progress("read"), stop}),
                              trains[std::min(i, trains.size() - 1)], options));
        for (const std::string warning : runs.back().warnings)
            note(warning);
    }
    std::vector<RunOfTrain> of_trains;
    for (std::size_t i = 0; i < runs.size(); ++i)
        of_trains.push_back({&runs[i], &trains[std::min(i, trains.size() - 1)],
                             io::shown_path(std::filesystem::path(o.rigs[i]).filename())});
    const RunComparison comparison = compare_runs(of_trains);
    for (const Told& one : comparison.told)
        note(one.rule + ": " + one.text.in_words());
    if (!o.summary.empty())
        return io::write_file(o.summary, io::compare_json(of_trains, comparison, durations_kept(o.limits)));
    for (const EdgeGain& gain : comparison.gains)
        say(fmt::format("{} to {}: {}\n", of_trains[gain.from].name, of_trains[gain.to].name,
                        !gain.rpm ? std::string("not known")
                                  : fmt::format("{:+.0f} +- {:.0f} rev/min{}", *gain.rpm, 2 * gain.sd_rpm,
                                                gain.claimed ? "" : ", no more than they are known to")));
}

} // namespace

void define_model_commands(CLI::App& app, const StopToken& stop) {
    const auto o = std::make_shared<ModelOptions>();
    const auto command = [&](const char* name, const char* help, auto run) {
        return add_command(app, name, help, o, stop, run);
    };
    CLI::App* one = command("simulate", "One reported cycle of a train at one speed", simulate);
    one->add_option("train", o->train, "Train file, *.train.json")->required();
    add_speed(one, o->speed_rpm)->required();
    one->add_option("--step-deg", o->step_deg, "Step of the output, crank degrees")
        ->check(between(0.05, 90.0));
    one->add_option("--out", o->out,
                    "File to write: CSV, or HDF5 with everything recorded when it ends in .h5")
        ->required();

    CLI::App* many = command("sweep", "Metrics over a range of speeds, and the limit speed", sweep_range);
    many->add_option("train", o->train, "Train file, *.train.json")->required();
    add_range(many, o->range)->required();
    many->add_option("--out", o->out,
                     "File to write, one row a speed; HDF5 with every motion when it ends in .h5");
    many->add_option("--summary", o->summary, "JSON to write: limit, crossings, onset, separation");
    add_limits(many, o->limits);

    CLI::App* sure =
        command("uncertainty", "How far the limit may be off over the train's tolerances", uncertainty);
    sure->alias("spread");
    sure->add_option("train", o->train, "Train file, *.train.json")->required();
    add_range(sure, o->range)->required();
    sure->add_option("--trains", o->trains, "Trains drawn, 200 unless given")->check(between(10, 100000));
    sure->add_option("--seed", o->seed, "Another draw for another seed; the same for the same");
    sure->add_option("--summary", o->summary, "JSON to write")->required();
    add_limits(sure, o->limits);

    CLI::App* gives = command(
        "stiffness", "Where a train gives way, and what the limit gains with each link a tenth stiffer",
        stiffness);
    gives->add_option("train", o->train, "Train file, *.train.json")->required();
    add_range(gives, o->range)->required();
    gives->add_option("--summary", o->summary, "JSON to write; in words without it");
    add_limits(gives, o->limits);

    CLI::App* held = command("hold", "Run on for seconds at one speed", hold_speed);
    held->add_option("train", o->train, "Train file, *.train.json")->required();
    add_speed(held, o->speed_rpm)->required();
    held->add_option("--seconds", o->seconds, "Time to run, 1 unless given")->check(between(1e-3, 600.0));
    held->add_option("--out", o->out, "CSV to write, one row a cycle")->required();

    CLI::App* run = command("rig", "Reduce a spin-rig trace: metrics, onset, limits", rig);
    run->add_option("trace", o->rig, "Rig trace, CSV or HDF5")->required();
    run->add_option("--train", o->train, "Train file of the train that was spun")->required();
    run->add_option("--out", o->out, "CSV to write, one row a speed");
    run->add_option("--summary", o->summary, "JSON to write");
    run->add_flag("--reversed", o->reversed, "The sensor's reading falls as the valve opens");
    add_limits(run, o->limits);

    CLI::App* runs =
        command("compare", "Rig runs against each other: what the edge gained, and whether it may be claimed",
                compare);
    runs->add_option("traces", o->rigs, "Rig traces, CSV or HDF5, two or more")->required();
    runs->add_option("--train", o->trains_of, "Train of each trace in their order, or one for all")
        ->required()
        ->allow_extra_args(false);
    runs->add_option("--summary", o->summary, "JSON to write; in words without it");
    add_limits(runs, o->limits);
}

} // namespace bathmos::cli
