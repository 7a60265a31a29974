// bathmos-cli: the core without a display (formats.md). Exit 0 done, 2 bad input, 1 anything else.
#include "cli/dyno_commands.h"
#include "core/lobe/lobe_events.h"
#include "core/problem/input_error.h"
#include "core/units/units.h"
#include "io/file/safe_file.h"
#include "io/lobe/gauge_file.h"
#include "io/lobe/lobe_file.h"
#include "io/lobe/lobe_text.h"
#include "io/project/project_folder.h"
#include "io/project/rescue.h"
#include "io/result/result_h5.h"
#include "io/result/result_text.h"
#include "io/rig/rig_file.h"
#include "io/train/train_file.h"

#include <CLI/CLI.hpp>
#include <atomic>
#include <csignal>
#include <fmt/format.h>
#include <iostream>
#include <thread>
#include <unistd.h>

namespace {

using namespace bathmos;

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

// One line on stderr, rewritten, when a person looks.
ProgressSink terminal_progress(const std::string& what) {
    if (!isatty(STDERR_FILENO))
        return {};
    return [what, last = -1](double share) mutable {
        const int percent = static_cast<int>(100 * share);
        if (percent != last)
            fmt::print(stderr, "\r{} {:3d} %{}", what, percent, percent == 100 ? "\n" : "");
        last = percent;
    };
}

[[noreturn]] void bad_argument(const std::string& location, const std::string& what,
                               const std::string& mend) {
    throw InputError({"", location, what, mend});
}

double number(const std::string& text, const std::string& location) {
    try {
        std::size_t used = 0;
        const double value = std::stod(text, &used);
        if (used == text.size() && std::isfinite(value))
            return value;
    } catch (const std::exception&) {
    }
    bad_argument(location, fmt::format("\"{}\" is not a number", text), "give a plain number");
}

SpeedRange parse_range(const std::string& text) {
    std::vector<std::string> parts = CLI::detail::split(text, ':');
    if (parts.size() != 3)
        bad_argument("--rpm", fmt::format("\"{}\" is no range", text),
                     "give FIRST:LAST:STEP, such as 3000:9000:100");
    const SpeedRange range{number(parts[0], "--rpm"), number(parts[1], "--rpm"), number(parts[2], "--rpm")};
    if (!(range.first_rpm >= 100) || range.last_rpm < range.first_rpm || !(range.step_rpm >= 1))
        bad_argument("--rpm", fmt::format("\"{}\" is no range", text),
                     "FIRST at least 100, LAST not below FIRST, STEP at least 1 rev/min");
    if (range.last_rpm > 30000 || (range.last_rpm - range.first_rpm) / range.step_rpm > 2000)
        bad_argument("--rpm", fmt::format("\"{}\" is too much", text),
                     "at most 30000 rev/min and 2000 speeds");
    return range;
}

double parse_height_m(const std::string& text) {
    for (const auto& [unit, factor] : {std::pair{"mm", 1e-3}, {"in", kInch_m}, {"thou", kInch_m * 1e-3}})
        if (text.ends_with(unit)) {
            const double height =
                number(text.substr(0, text.size() - std::string_view(unit).size()), "--height");
            if (height > 0)
                return height * factor;
            bad_argument("--height", fmt::format("\"{}\" is not above 0", text),
                         "give a height such as 1.27mm");
        }
    bad_argument("--height", fmt::format("\"{}\" has no unit", text), "write 1.27mm, 0.050in or 50thou");
}

struct Options {
    std::string from, to; // of export, import and rescue
    std::string train, rig, lobe, out, summary, rpm;
    double speed_rpm = 0, step_deg = 0.5, seconds = 1;
    std::size_t trains = 200;
    unsigned seed = 1;
    long revision = 0;
    std::vector<std::string> heights;
    bool reversed = false;
    std::string exhaust, centrelines, engine; // of a pair
    double moved_deg = 0;
    std::string against, base, table, unit = "mm"; // of a lobe
    std::optional<double> advertised_deg, strength, noise_um;
    long lobe_number = 1;
    bool table_crank = false;
};

void write_if(const std::string& path, const std::string& text) {
    if (!path.empty())
        io::write_file(path, text);
}

void simulate_command(const Options& o, const std::stop_token& stop) {
    if (!(o.speed_rpm >= 100 && o.speed_rpm <= 30000))
        bad_argument("--rpm", fmt::format("{:g}", o.speed_rpm), "give a crank speed of 100 to 30000 rev/min");
    if (!(o.step_deg >= 0.05 && o.step_deg <= 90))
        bad_argument("--step-deg", fmt::format("{:g}", o.step_deg), "give 0.05 to 90 crank degrees");
    const Train train = io::read_train(o.train);
    const Motion motion = simulate_one(train, o.speed_rpm, stop);
    if (!motion.finite)
        throw InputError({o.train, "", motion.trouble, "correct that part's numbers"});
    if (o.out.ends_with(".h5"))
        return io::write_motions_h5(o.out, {std::make_shared<const Motion>(motion)},
                                    MotionModel(train).chain().rigid_m, train.name);
    io::write_file(o.out, io::motion_csv(motion, RigidMotion(train, curve_of(train.lobe)), o.step_deg));
}

void sweep_command(const Options& o, const std::stop_token& stop) {
    const SpeedRange range = parse_range(o.rpm);
    const Train train = io::read_train(o.train);
    const Sweep result = sweep(train, range, usual_limits(), {{}, terminal_progress("sweep"), stop});
    if (o.out.ends_with(".h5"))
        io::write_motions_h5(o.out, result.motions, MotionModel(train).chain().rigid_m, train.name);
    else
        write_if(o.out, io::sweep_csv(result));
    write_if(o.summary, io::sweep_json(result.summary));
}

void uncertainty_command(const Options& o, const std::stop_token& stop) {
    if (o.trains < 10 || o.trains > 100000)
        bad_argument("--trains", fmt::format("{}", o.trains), "give 10 to 100000");
    const Train train = io::read_train(o.train);
    UncertaintyQuery query;
    query.range = parse_range(o.rpm);
    query.trains = o.trains;
    query.seed = o.seed;
    UncertaintyWatch watch;
    watch.progress = terminal_progress("uncertainty");
    watch.stop = stop;
    io::write_file(o.summary, io::uncertainty_json(uncertainty_of(train, query, watch)));
}

void hold_command(const Options& o, const std::stop_token& stop) {
    if (!(o.speed_rpm >= 100 && o.speed_rpm <= 30000))
        bad_argument("--rpm", fmt::format("{:g}", o.speed_rpm), "give a crank speed of 100 to 30000 rev/min");
    if (!(o.seconds > 0 && o.seconds <= 600))
        bad_argument("--seconds", fmt::format("{:g}", o.seconds), "give above 0 and at most 600");
    const Train train = io::read_train(o.train);
    io::write_file(o.out, io::hold_csv(hold(train, o.speed_rpm, o.seconds, terminal_progress("hold"), stop)));
}

// "106:110" as numbers.
std::vector<double> parse_numbers(const std::string& text, std::size_t count, const std::string& location) {
    std::vector<double> out;
    for (const std::string& part : CLI::detail::split(text, ':'))
        out.push_back(number(part, location));
    if (out.size() != count)
        bad_argument(location, fmt::format("\"{}\"", text),
                     fmt::format("give {} numbers with colons between", count));
    return out;
}

// A lobe from a gauge's file or a train file, with the train where there is one.
struct LobeInput {
    Lobe lobe;
    std::optional<Train> train;
    std::optional<Repeatability> repeatability;
};

LobeInput read_lobe(const std::string& path, long which) {
    LobeInput out;
    if (path.ends_with(".json")) {
        out.train = io::read_train(path);
        out.lobe = out.train->lobe;
        return out;
    }
    if (which < 1)
        bad_argument("--lobe", fmt::format("{}", which), "count the file's lobes from 1");
    io::LobeFile file = io::read_lobe_csv(path, static_cast<std::size_t>(which) - 1);
    out.lobe = std::move(file.lobe);
    out.repeatability = file.repeatability;
    if (file.lobes > 1)
        fmt::print(stderr, "note: lobe {} of the file's {} is read; --lobe N reads another\n", which,
                   file.lobes);
    return out;
}

// What was chosen on the command line on top of the readings.
void choose_steps(const Options& o, Lobe& lobe) {
    auto* table = std::get_if<LobeTable>(&lobe.shape);
    if (!table) {
        if (o.strength || !o.base.empty() || o.noise_um)
            bad_argument("--strength, --base, --noise-um", "the lobe is a formula",
                         "only readings are smoothed and corrected");
        return;
    }
    if (o.strength) {
        if (!(*o.strength >= kLeastStrength && *o.strength <= kMostStrength))
            bad_argument("--strength", fmt::format("{:g}", *o.strength),
                         fmt::format("give {:g} to {:g}", kLeastStrength, kMostStrength));
        table->smoothing.strength = *o.strength;
    }
    if (o.noise_um) {
        if (!(*o.noise_um > 0 && *o.noise_um <= 100))
            bad_argument("--noise-um", fmt::format("{:g}", *o.noise_um), "give above 0, at most 100");
        table->noise_m = *o.noise_um * 1e-6;
    }
    if (o.base == "zeroed")
        table->base = BaseStep::Zeroed;
    else if (o.base == "runout_off")
        table->base = BaseStep::RunoutOff;
    else if (!o.base.empty() && o.base != "as_gauged")
        bad_argument("--base", "\"" + o.base + "\" is not known", "give as_gauged, zeroed or runout_off");
}

io::GaugeUnit parse_unit(const std::string& text) {
    for (const auto& [name, unit] : {std::pair{"mm", io::GaugeUnit::Millimetre},
                                     {"in", io::GaugeUnit::Inch},
                                     {"thou", io::GaugeUnit::Thou},
                                     {"um", io::GaugeUnit::Micron}})
        if (text == name)
            return unit;
    bad_argument("--unit", "\"" + text + "\" is no unit", "give mm, in, thou or um");
}

// Intake and exhaust on one cam, at the valves of train files, else at the lifters.
void pair_command(const Options& o) {
    std::vector<double> heights;
    for (const std::string& height : o.heights)
        heights.push_back(parse_height_m(height));
    if (heights.empty())
        heights = usual_check_heights_m();
    const std::vector<double> lines = parse_numbers(o.centrelines, 2, "--centrelines");
    Engine engine;
    if (!o.engine.empty()) {
        const std::vector<double> e = parse_numbers(o.engine, 4, "--engine");
        engine.bore_m = e[0] * 1e-3;
        engine.stroke_m = e[1] * 1e-3;
        engine.rod_m = e[2] * 1e-3;
        engine.compression_ratio = e[3];
        volume_ratio(engine, 0); // refuses what cannot be
    }
    const auto placed = [](const std::string& path, double line_deg) {
        const LobeInput input = read_lobe(path, 1);
        try {
            const LobeCurve curve = curve_of(input.lobe);
            return PlacedLobe{input.train ? LobeMotion(RigidMotion(*input.train, curve)) : LobeMotion(curve),
                              radians(line_deg)};
        } catch (const InputError& error) {
            throw error.in(path);
        }
    };
    io::write_file(o.summary, io::pair_json(placed(o.lobe, lines[0]), placed(o.exhaust, lines[1]), heights,
                                            radians(o.moved_deg), engine));
}

void lobe_command(const Options& o) {
    io::LobeSummaryOptions options;
    for (const std::string& height : o.heights)
        options.heights_m.push_back(parse_height_m(height));
    if (options.heights_m.empty())
        options.heights_m = usual_check_heights_m();
    if (o.advertised_deg) {
        if (!(*o.advertised_deg > 0 && *o.advertised_deg < 720))
            bad_argument("--advertised", fmt::format("{:g}", *o.advertised_deg),
                         "give crank degrees below 720");
        options.advertised_rad = radians(*o.advertised_deg);
    }
    LobeInput input = read_lobe(o.lobe, o.lobe_number);
    choose_steps(o, input.lobe);
    options.repeatability = input.repeatability;
    std::optional<Lobe> against;
    if (!o.against.empty()) {
        against = read_lobe(o.against, 1).lobe;
        options.against = &*against;
    }
    try {
        const LobeCurve curve = curve_of(input.lobe);
        std::optional<RigidMotion> valve;
        if (input.train)
            options.valve = &valve.emplace(*input.train, curve);
        const std::string summary = io::lobe_json(input.lobe, curve, options);
        const std::string table =
            o.table.empty()
                ? ""
                : io::gauge_csv(curve, o.table_crank ? AngleUnit::CrankDegree : AngleUnit::CamDegree,
                                o.step_deg, parse_unit(o.unit));
        write_if(o.out, io::lobe_csv(curve));
        write_if(o.table, table);
        write_if(o.summary, summary);
    } catch (const InputError& error) {
        throw error.in(o.lobe);
    }
}

void rig_command(const Options& o, const std::stop_token& stop) {
    const Train train = io::read_train(o.train);
    const RigTrace trace = io::read_rig(o.rig, {terminal_progress("read"), stop});
    RigOptions options;
    options.reversed = o.reversed;
    options.progress = terminal_progress("reduce");
    options.stop = stop;
    const RigRun run = reduce(trace, train, options);
    write_if(o.out, io::rig_csv(run));
    write_if(o.summary, io::rig_json(run));
    for (const std::string& warning : run.warnings)
        fmt::print(stderr, "note: {}\n", warning);
}

void export_command(const Options& o, const std::stop_token& stop) {
    const io::Store store = io::Store::open(o.from);
    io::export_project(store, o.to, {terminal_progress("export"), stop});
}

// Keeps a rig trace in a project, with the revision that it was made with.
void keep_command(const Options& o, const std::stop_token& stop) {
    const RigTrace trace = io::read_rig(o.rig, {terminal_progress("read"), stop});
    io::Store store = io::Store::open(o.from);
    const Id revision = static_cast<Id>(o.revision);
    if (!store.project().revisions.contains(revision))
        bad_argument("--revision", fmt::format("{}", o.revision),
                     "give the number of a revision of the project");
    Project next = store.project();
    const Id id = store.new_id(io::RecordKind::RigRun);
    Entry& run = next.of(EntryKind::RigRun)[id];
    run.name = std::filesystem::path(o.rig).filename().string();
    run.revision = revision;
    run.when = io::now_text();
    if (o.reversed)
        run.numbers["reversed"] = 1;
    run.traces = {store.add_trace(io::packed(io::trace_of(trace)))};
    store.commit("Rig run " + run.name, "",
                 {{io::RecordKind::RigRun, id, io::record_text(next, io::RecordKind::RigRun, id)}});
}

void rescue_command(const Options& o, const std::stop_token& stop) {
    const io::RescueReport report = io::rescue(o.from, o.to, stop);
    fmt::print("{} records and {} traces kept\n", report.records, report.traces);
    for (const std::string& lost : report.lost)
        fmt::print("lost: {}\n", lost);
}

void define(CLI::App& app, Options& o) {
    app.require_subcommand(1);
    CLI::App* simulate = app.add_subcommand("simulate", "One reported cycle of a train at one speed");
    simulate->add_option("train", o.train, "Train file, *.train.json")->required();
    simulate->add_option("--rpm", o.speed_rpm, "Crank speed, rev/min")->required();
    simulate->add_option("--step-deg", o.step_deg, "Step of the output, crank degrees");
    simulate
        ->add_option("--out", o.out,
                     "File to write: CSV, or HDF5 with everything recorded when it ends in .h5")
        ->required();

    CLI::App* sweep = app.add_subcommand("sweep", "Metrics over a range of speeds, and the limit speed");
    sweep->add_option("train", o.train, "Train file, *.train.json")->required();
    sweep->add_option("--rpm", o.rpm, "FIRST:LAST:STEP in rev/min")->required();
    sweep->add_option("--out", o.out,
                      "File to write, one row a speed; HDF5 with every motion when it ends in .h5");
    sweep->add_option("--summary", o.summary, "JSON to write: limit, crossings, onset, separation");

    CLI::App* uncertainty =
        app.add_subcommand("uncertainty", "How far the limit may be off over the train's tolerances");
    uncertainty->add_option("train", o.train, "Train file, *.train.json")->required();
    uncertainty->add_option("--rpm", o.rpm, "FIRST:LAST:STEP in rev/min")->required();
    uncertainty->add_option("--trains", o.trains, "Trains drawn, 200 unless given");
    uncertainty->add_option("--seed", o.seed, "Another draw for another seed; the same for the same");
    uncertainty->add_option("--summary", o.summary, "JSON to write")->required();

    CLI::App* hold = app.add_subcommand("hold", "Run on for seconds at one speed");
    hold->add_option("train", o.train, "Train file, *.train.json")->required();
    hold->add_option("--rpm", o.speed_rpm, "Crank speed, rev/min")->required();
    hold->add_option("--seconds", o.seconds, "Time to run, 1 unless given");
    hold->add_option("--out", o.out, "CSV to write, one row a cycle")->required();

    CLI::App* lobe = app.add_subcommand("lobe", "Events and peaks of a lobe");
    lobe->add_option("lobe", o.lobe, "Lobe table (CSV) or train file")->required();
    lobe->add_option("--height", o.heights,
                     "Check height with unit: 1.27mm, 0.050in, 50thou; may be repeated");
    lobe->add_option("--summary", o.summary, "JSON to write");
    lobe->add_option("--out", o.out, "CSV of cam lift and derivatives to write");
    lobe->add_option("--lobe", o.lobe_number, "Which of a file's lobes, from 1");
    lobe->add_option("--against", o.against,
                     "Another lobe (CSV or train file): flags what is over 1.25 times");
    lobe->add_option("--advertised", o.advertised_deg,
                     "A card's duration, crank degrees: finds the height that this lobe has it at");
    lobe->add_option("--noise-um", o.noise_um, "standard deviation noise of the gauge, um");
    lobe->add_option("--strength", o.strength, "Smoothing, times what the readings ask for");
    lobe->add_option("--base", o.base, "as_gauged, zeroed or runout_off");
    lobe->add_option("--table", o.table, "CSV of angle and lift to write");
    lobe->add_option("--step-deg", o.step_deg, "Step of that table");
    lobe->add_option("--unit", o.unit, "Its lift: mm, in, thou or um");
    lobe->add_flag("--crank", o.table_crank, "Its angles in crank degrees");

    CLI::App* pair = app.add_subcommand("pair", "Events of an intake and an exhaust lobe on their cam");
    pair->add_option("intake", o.lobe, "Intake lobe: table (CSV) or train file")->required();
    pair->add_option("exhaust", o.exhaust, "Exhaust lobe")->required();
    pair->add_option("--centrelines", o.centrelines,
                     "INTAKE:EXHAUST, crank degrees from the dead centre of overlap, such as 106:110")
        ->required();
    pair->add_option("--moved", o.moved_deg, "Cam moved later by so many crank degrees");
    pair->add_option("--engine", o.engine,
                     "BORE:STROKE:ROD:RATIO in mm, for compression from intake closing");
    pair->add_option("--height", o.heights, "Lift at which a valve counts as open; may be repeated");
    pair->add_option("--summary", o.summary, "JSON to write")->required();

    CLI::App* rig = app.add_subcommand("rig", "Reduce a spin-rig trace: metrics, onset, limits");
    rig->add_option("trace", o.rig, "Rig trace, CSV or HDF5")->required();
    rig->add_option("--train", o.train, "Train file of the train that was spun")->required();
    rig->add_option("--out", o.out, "CSV to write, one row a speed");
    rig->add_option("--summary", o.summary, "JSON to write");
    rig->add_flag("--reversed", o.reversed, "The sensor's reading falls as the valve opens");

    CLI::App* to_folder = app.add_subcommand("export", "A project as a folder of JSON and CSV");
    to_folder->add_option("project", o.from, "Project, *.bathmos")->required();
    to_folder->add_option("folder", o.to, "New or empty folder")->required();

    CLI::App* from_folder = app.add_subcommand("import", "A project from such a folder");
    from_folder->add_option("folder", o.from, "Folder that export has written")->required();
    from_folder->add_option("project", o.to, "Project to make, *.bathmos")->required();

    CLI::App* keep = app.add_subcommand("keep", "Keep a rig trace in a project, with its revision");
    keep->add_option("project", o.from, "Project, *.bathmos")->required();
    keep->add_option("trace", o.rig, "Rig trace, CSV or HDF5")->required();
    keep->add_option("--revision", o.revision, "Number of the revision that was spun")->required();
    keep->add_flag("--reversed", o.reversed, "The sensor's reading falls as the valve opens");

    CLI::App* rescue = app.add_subcommand("rescue", "What can still be read of a damaged project");
    rescue->add_option("damaged", o.from, "The damaged project; it is left as it is")->required();
    rescue->add_option("project", o.to, "Project to make, *.bathmos")->required();
}

int run(int argc, char** argv) {
    CLI::App app(
        "Bathmos: valve motion, limit speed and rig traces, without a display.\n"
        "Its results are advice: makers' instructions, local rules and a competent person come first.");
    Options options;
    define(app, options);
    cli::DynoOptions dyno;
    cli::define_dyno(app, dyno);
    try {
        app.parse(argc, argv);
    } catch (const CLI::Success& success) {
        return app.exit(success);
    } catch (const CLI::ParseError& error) {
        fmt::print(stderr, "bathmos-cli: {}; see bathmos-cli --help\n", error.what());
        return 2;
    }
    const Interrupt interrupt;
    const std::string command = app.get_subcommands().front()->get_name();
    if (cli::run_dyno(command, dyno, interrupt.token()))
        return 0;
    if (command == "simulate")
        simulate_command(options, interrupt.token());
    else if (command == "sweep")
        sweep_command(options, interrupt.token());
    else if (command == "uncertainty")
        uncertainty_command(options, interrupt.token());
    else if (command == "hold")
        hold_command(options, interrupt.token());
    else if (command == "pair")
        pair_command(options);
    else if (command == "lobe")
        lobe_command(options);
    else if (command == "export")
        export_command(options, interrupt.token());
    else if (command == "import")
        io::import_project(options.from, options.to, {terminal_progress("import"), interrupt.token()});
    else if (command == "keep")
        keep_command(options, interrupt.token());
    else if (command == "rescue")
        rescue_command(options, interrupt.token());
    else
        rig_command(options, interrupt.token());
    return 0;
}

} // namespace

int main(int argc, char** argv) {
    try {
        return run(argc, argv);
    } catch (const bathmos::InputError& error) {
        fmt::print(stderr, "bathmos-cli: {}\n", error.what());
        return 2;
    } catch (const bathmos::Stopped&) {
        fmt::print(stderr, "bathmos-cli: stopped; nothing was written\n");
        return 1;
    } catch (const std::exception& error) {
        fmt::print(stderr, "bathmos-cli: {}\n", error.what());
        return 1;
    }
}
