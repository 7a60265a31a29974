// The command of the model and runs joined: calibrate.
#include "cli/arguments.h"
#include "core/calibration/calibrated_limit.h"
#include "core/problem/input_error.h"
#include "io/file/safe_file.h"
#include "io/result/result_text.h"
#include "io/rig/rig_file.h"
#include "io/train/train_file.h"

#include <fmt/format.h>

namespace bathmos::cli {

namespace {

struct CalibrationOptions {
    std::string train, out, summary, other, other_out;
    std::vector<std::string> rigs, other_rigs, free;
    LimitsInForce limits;
};

std::vector<RigRun> read_runs(const std::vector<std::string>& files, const Train& train,
                              const LimitsInForce& limits, const std::stop_token& stop) {
    std::vector<RigRun> out;
    for (const std::string& file : files) {
        RigOptions options;
        options.limits = limits;
        options.stop = stop;
        out.push_back(reduce(io::read_rig(file, {terminal_progress("read"), stop}), train, options));
        for (const std::string warning : out.back().warnings)
            note(warning);
    }
    return out;
}

std::vector<const RigRun*> places_of(const std::vector<RigRun>& runs) {
    std::vector<const RigRun*> out;
    for (const RigRun& run : runs)
        out.push_back(&run);
    return out;
}

void require_free(const CalibrationQuery& query) {
    const Train believed = with_run_options(query.believed);
    if (query.other)
        joint_numbers(believed, with_run_options(query.other->believed), query.free);
    else
        free_numbers(believed, query.free);
}

// What the runs leave open, and what would tell it.
void note_what_is_not_told(const Calibration& calibration) {
    for (const FittedNumber& one : calibration.numbers)
        if (!one.told)
            note(fmt::format("the run hardly tells {}: {}", label_of(one.number), one.number.bench));
    for (const Correlated& one : calibration.correlations)
        note(fmt::format("the run hardly parts {} and {}: more of one passes for {} of the other", one.a,
                         one.b, one.r < 0 ? "more" : "less"));
    for (const std::string& warning : calibration.warnings)
        note(warning);
}

void calibrate_train(const CalibrationOptions& o, const std::stop_token& stop) {
    std::vector<NamedFile> inputs = {{"train", o.train}};
    for (const std::string& rig : o.rigs)
        inputs.push_back({"--rig", rig});
    if (!o.other.empty())
        inputs.push_back({"--other", o.other});
    for (const std::string& rig : o.other_rigs)
        inputs.push_back({"--other-rig", rig});
    require_apart(inputs, {{"--out", o.out}, {"--other-out", o.other_out}, {"--summary", o.summary}});
    CalibrationQuery query;
    query.believed = io::read_train(o.train);
    query.free = o.free;
    if (!o.other.empty())
        query.other = OtherRevision{io::read_train(o.other), {}};
    require_free(query); // a wrong key is told before the work
    for (const Train* train : {&query.believed, query.other ? &query.other->believed : nullptr})
        for (const Finding& finding : train ? cautions_of(*train) : std::vector<Finding>{})
            note(in_words(finding));
    const std::vector<RigRun> runs = read_runs(o.rigs, query.believed, o.limits, stop);
    query.runs = places_of(runs);
    std::vector<RigRun> other_runs;
    if (query.other) {
        other_runs = read_runs(o.other_rigs, query.other->believed, o.limits, stop);
        query.other->runs = places_of(other_runs);
    }
    const CalibrationWatch watch{terminal_progress("calibrate"), {}, stop};
    const Calibration found = calibrate(query, watch);
    const CalibratedLimit limit = limit_of(found, query.runs, o.limits, watch);
    std::optional<ChangeEffect> change;
    if (query.other) {
        change = effect_of_change(query, found, o.limits, stop);
        note(said_of(*change));
    }
    if (landing_moves_limit(limit.limit.speed_rpm, limit.train_limit_rpm))
        note(fmt::format(
            "the valve lands otherwise in the run than the fitted train has it, which the limit of "
            "{:.0f} rev/min counts: the train by itself would reach {:.0f}",
            *limit.limit.speed_rpm, *limit.train_limit_rpm));
    note_what_is_not_told(found);
    if (!o.out.empty())
        io::write_train(o.out, found.train);
    if (!o.other_out.empty())
        io::write_train(o.other_out, *found.other);
    write_if(o.summary, io::calibration_json(found, limit, o.limits.name, change ? &*change : nullptr));
}

} // namespace

void define_calibration_commands(CLI::App& app, const StopToken& stop) {
    const auto o = std::make_shared<CalibrationOptions>();
    CLI::App* fit =
        add_command(app, "calibrate", "Fit a train to rig runs of it, and tell what departs from belief", o,
                    stop, calibrate_train);
    fit->add_option("train", o->train, "Train file as it is believed, *.train.json")->required();
    fit->add_option("--rig", o->rigs, "Rig trace of this train, CSV or HDF5; may be given again")->required();
    CLI::Option* other =
        fit->add_option("--other", o->other,
                        "Train file of another revision: fitted together, what did not change is one number");
    CLI::Option* other_rig =
        fit->add_option("--other-rig", o->other_rigs, "Rig trace of that train; may be given again");
    other->needs(other_rig);
    other_rig->needs(other);
    fit->add_option("--other-out", o->other_out, "Train file of that revision to write, likewise")
        ->needs(other);
    fit->add_option("--free", o->free,
                    "Key of a number that may move, as in the train file; all usual ones unless given");
    fit->add_option("--out", o->out, "Train file to write: values fitted, tolerances of source fitted");
    fit->add_option("--summary", o->summary, "JSON to write");
    add_limits(fit, o->limits);
}

} // namespace bathmos::cli
