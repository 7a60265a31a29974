// The commands of the model and the rig: simulate, sweep, uncertainty, hold, rig.
#include "cli/arguments.h"
#include "core/problem/input_error.h"
#include "core/uncertainty/limit_uncertainty.h"
#include "io/file/safe_file.h"
#include "io/result/result_h5.h"
#include "io/result/result_text.h"
#include "io/rig/rig_file.h"
#include "io/train/train_file.h"

#include <fmt/format.h>

namespace bathmos::cli {

namespace {

struct ModelOptions {
    std::string train, rig, out, summary;
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
}

} // namespace bathmos::cli
