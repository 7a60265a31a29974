// The commands of lobes: lobe, pair.
#include "cli/arguments.h"
#include "core/lobe/lobe_events.h"
#include "core/problem/input_error.h"
#include "core/train/unusual.h"
#include "core/units/units.h"
#include "io/file/safe_file.h"
#include "io/lobe/gauge_file.h"
#include "io/lobe/lobe_file.h"
#include "io/lobe/lobe_text.h"
#include "io/train/train_file.h"

#include <fmt/format.h>

namespace bathmos::cli {

namespace {

struct LobeOptions {
    std::string lobe, against, same_as, table, out, summary, exhaust;
    std::vector<double> heights_mm, centrelines, engine;
    std::optional<double> advertised_deg, strength, noise_um;
    std::optional<BaseStep> base;
    io::GaugeUnit unit = io::GaugeUnit::Millimetre;
    double step_deg = 1, moved_deg = 0;
    long lobe_number = 1;
    bool table_crank = false;
};

std::vector<double> heights_m(const LobeOptions& o) {
    std::vector<double> out;
    for (const double mm : o.heights_mm)
        out.push_back(mm * 1e-3);
    return out.empty() ? usual_check_heights_m() : out;
}

// A lobe from a gauge's file or a train file, with the train where there is one.
struct LobeInput {
    Lobe lobe;
    std::optional<Train> train;
    std::optional<Repeatability> repeatability;
};

LobeInput read_lobe(const std::string& path, long which, const std::stop_token& stop) {
    LobeInput out;
    if (path.ends_with(".json")) {
        out.train = io::read_train(path);
        out.lobe = out.train->lobe;
        return out;
    }
    io::LobeFile file = io::read_lobe_csv(path, static_cast<std::size_t>(which) - 1, stop);
    out.lobe = std::move(file.lobe);
    out.repeatability = file.repeatability;
    if (file.lobes > 1)
        note(fmt::format("lobe {} of the file's {} is read; --lobe N reads another", which, file.lobes));
    return out;
}

// What was chosen on the command line on top of the readings.
void choose_steps(const LobeOptions& o, Lobe& lobe) {
    auto* table = std::get_if<LobeTable>(&lobe.shape);
    if (!table) {
        if (o.strength || o.base || o.noise_um)
            bad_argument("--strength, --base, --noise-um", "the lobe is a formula",
                         "only readings are smoothed and corrected");
        return;
    }
    if (o.strength)
        table->smoothing.strength = *o.strength;
    if (o.noise_um)
        table->noise_m = *o.noise_um * 1e-6;
    if (o.base)
        table->base = *o.base;
}

// Intake and exhaust on one cam, at the valves of train files, else at the lifters.
void pair(const LobeOptions& o, const std::stop_token& stop) {
    require_apart({{"intake", o.lobe}, {"exhaust", o.exhaust}}, {{"--summary", o.summary}});
    const std::vector<double> heights = heights_m(o);
    const std::vector<double>& lines = o.centrelines;
    Engine engine;
    if (!o.engine.empty()) {
        const std::vector<double>& e = o.engine;
        engine.bore_m = e[0] * 1e-3;
        engine.stroke_m = e[1] * 1e-3;
        engine.rod_m = e[2] * 1e-3;
        engine.compression_ratio = e[3];
        volume_ratio(engine, 0); // refuses what cannot be
    }
    const auto placed = [&](const std::string& path, double line_deg) {
        const LobeInput input = read_lobe(path, 1, stop);
        try {
            const LobeCurve curve = curve_of(input.lobe);
            if (const auto asked = unusual_lobe_lift(curve.lift_m()))
                note(path + ": " + in_words(*asked));
            throw_if_stopped(stop);
            return PlacedLobe{input.train ? LobeMotion(RigidMotion(*input.train, curve)) : LobeMotion(curve),
                              radians(line_deg)};
        } catch (const InputError& error) {
            throw error.in(path);
        }
    };
    io::write_file(o.summary, io::pair_json(placed(o.lobe, lines[0]), placed(o.exhaust, lines[1]), heights,
                                            radians(o.moved_deg), engine));
}

// A lobe to set beside the first, if one is named; what cannot be is told of its own file.
std::optional<Lobe> read_other(const std::string& path, const std::stop_token& stop) {
    if (path.empty())
        return std::nullopt;
    Lobe other = read_lobe(path, 1, stop).lobe;
    try {
        curve_of(other);
    } catch (const InputError& error) {
        throw error.in(path);
    }
    return other;
}

void lobe(const LobeOptions& o, const std::stop_token& stop) {
    require_apart({{"lobe", o.lobe}, {"--against", o.against}, {"--same-as", o.same_as}},
                  {{"--out", o.out}, {"--table", o.table}, {"--summary", o.summary}});
    io::LobeSummaryOptions options;
    options.heights_m = heights_m(o);
    if (o.advertised_deg)
        options.advertised_rad = radians(*o.advertised_deg);
    LobeInput input = read_lobe(o.lobe, o.lobe_number, stop);
    choose_steps(o, input.lobe);
    options.repeatability = input.repeatability;
    const std::optional<Lobe> against = read_other(o.against, stop);
    const std::optional<Lobe> same_as = read_other(o.same_as, stop);
    options.against = against ? &*against : nullptr;
    options.same_as = same_as ? &*same_as : nullptr;
    try {
        const LobeCurve curve = curve_of(input.lobe);
        if (const auto asked = unusual_lobe_lift(curve.lift_m()))
            note(in_words(*asked));
        std::optional<RigidMotion> valve;
        if (input.train)
            options.valve = &valve.emplace(*input.train, curve);
        const std::string summary = io::lobe_json(input.lobe, curve, options);
        const std::string table =
            o.table.empty()
                ? ""
                : io::gauge_csv(curve, o.table_crank ? AngleUnit::CrankDegree : AngleUnit::CamDegree,
                                o.step_deg, o.unit);
        write_if(o.out, io::lobe_csv(curve));
        write_if(o.table, table);
        write_if(o.summary, summary);
    } catch (const InputError& error) {
        throw error.in(o.lobe);
    }
}

} // namespace

void define_lobe_commands(CLI::App& app, const StopToken& stop) {
    const auto o = std::make_shared<LobeOptions>();
    const std::map<std::string, BaseStep> bases = {
        {"as_gauged", BaseStep::AsGauged}, {"zeroed", BaseStep::Zeroed}, {"runout_off", BaseStep::RunoutOff}};
    const std::map<std::string, io::GaugeUnit> units = {{"mm", io::GaugeUnit::Millimetre},
                                                        {"in", io::GaugeUnit::Inch},
                                                        {"thou", io::GaugeUnit::Thou},
                                                        {"um", io::GaugeUnit::Micron}};
    const auto command = [&](const char* name, const char* help, auto run) {
        return add_command(app, name, help, o, stop, run);
    };
    CLI::App* one = command("lobe", "Events and peaks of a lobe", lobe);
    one->add_option("lobe", o->lobe, "Lobe table (CSV) or train file")->required();
    add_height(one, "--height", o->heights_mm,
               "Check height with unit: 1.27mm, 0.050in, 50thou; may be repeated");
    one->add_option("--summary", o->summary, "JSON to write");
    one->add_option("--out", o->out, "CSV of cam lift and derivatives to write");
    one->add_option("--lobe", o->lobe_number, "Which of a file's lobes, from 1")->check(between(1, 1000));
    one->add_option("--against", o->against,
                    "Another lobe (CSV or train file): flags what is over 1.25 times");
    one->add_option("--same-as", o->same_as,
                    "The same lobe as another machine gauged it (CSV or train file): what the two differ by");
    one->add_option("--advertised", o->advertised_deg,
                    "A card's duration, crank degrees: finds the height that this lobe has it at")
        ->check(between(0.1, 719.9));
    one->add_option("--noise-um", o->noise_um, "Standard deviation of the gauge's noise, um")
        ->check(between(1e-6, 100.0));
    one->add_option("--strength", o->strength, "Smoothing, times what the readings ask for")
        ->check(between(kLeastStrength, kMostStrength));
    one->add_option("--base", o->base, "as_gauged, zeroed or runout_off")
        ->transform(CLI::CheckedTransformer(bases));
    one->add_option("--table", o->table, "CSV of angle and lift to write");
    one->add_option("--step-deg", o->step_deg, "Step of that table")->check(between(0.05, 10, "degrees"));
    one->add_option("--unit", o->unit, "Its lift: mm, in, thou or um")
        ->transform(CLI::CheckedTransformer(units));
    one->add_flag("--crank", o->table_crank, "Its angles in crank degrees");

    CLI::App* two = command("pair", "Events of an intake and an exhaust lobe on their cam", pair);
    two->add_option("intake", o->lobe, "Intake lobe: table (CSV) or train file")->required();
    two->add_option("exhaust", o->exhaust, "Exhaust lobe")->required();
    add_numbers(two, "--centrelines", o->centrelines, 2, -360, 360,
                "INTAKE:EXHAUST, crank degrees from the dead centre of overlap, such as 106:110")
        ->required();
    two->add_option("--moved", o->moved_deg, "Cam moved later by so many crank degrees")
        ->check(between(-180, 180, "degrees"));
    add_numbers(two, "--engine", o->engine, 4, 1, 1000,
                "BORE:STROKE:ROD:RATIO in mm, for compression from intake closing");
    add_height(two, "--height", o->heights_mm, "Lift at which a valve counts as open; may be repeated");
    two->add_option("--summary", o->summary, "JSON to write")->required();
}

} // namespace bathmos::cli
