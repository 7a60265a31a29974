#include "standin/fault_cases.h"

#include "core/uncertainty/uncertain_inputs.h"
#include "core/whatif/handles.h"
#include "io/train/train_file.h"

#include <algorithm>
#include <cmath>

namespace bathmos::test {

namespace {

using Dice = std::mt19937_64;
double evenly(Dice& dice, double low, double high) {
    return std::uniform_real_distribution<double>(low, high)(dice);
}

// The true train is never the one on paper: every number off by its tolerance, as it falls.
Train as_it_is(Train paper, Dice& dice) {
    std::normal_distribution<double> normal;
    for (const UncertainInput& input : uncertain_inputs(paper))
        paper = moved(std::move(paper), input, 0.5 * std::clamp(normal(dice), -2.0, 2.0));
    return paper;
}

FactsQuery query() {
    FactsQuery out;
    out.range = {4400, 9600, 200};
    return out;
}

std::vector<SpeedMetrics> rows_of_truth(const Train& train) {
    return rows_of(sweep(train, query().range).motions);
}

Assembly assembly_of(const Train& train) {
    Assembly out;
    out.train = train;
    return out;
}

TrainScene make_scene(std::string name, std::optional<Cause> cause, const Train& before, const Train& paper,
                      const Train& truth, double suspect, bool charged, Dice& dice) {
    TrainScene scene;
    scene.name = std::move(name);
    scene.cause = cause;
    scene.charged = charged;
    scene.hydraulic = paper.hydraulic();
    scene.suspect_share = suspect;
    scene.model = model_facts(paper, query());
    scene.changes = change_facts(assembly_of(before), assembly_of(paper), scene.model.limit_rpm, query());
    scene.changes.from = "r1";
    scene.changes.to = "r2";
    scene.truth = rows_of_truth(as_it_is(truth, dice));
    scene.truth_before = rows_of_truth(as_it_is(before, dice));
    return scene;
}

} // namespace

std::vector<TrainScene> make_scenes(const std::string& folder, unsigned seed) {
    Dice dice(seed);
    const Train stiff = io::read_train(folder + "/ashgill-a22-intake-before.train.json");
    const Train thin = io::read_train(folder + "/ashgill-a22-intake-after.train.json");
    std::vector<TrainScene> out;
    const auto add = [&](std::string name, std::optional<Cause> cause, const Train& before,
                         const Train& paper, Train truth, double suspect, bool charged = false) {
        out.push_back(make_scene(std::move(name), cause, before, paper, truth, suspect, charged, dice));
    };
    add("nothing changed", std::nullopt, stiff, stiff, stiff, 0.15);
    add("nothing changed, charged", std::nullopt, stiff, stiff, stiff, 0.15, true);
    Train lighter = stiff;
    lighter.retainer_mass_kg -= 2e-3;
    add("lighter retainer", std::nullopt, stiff, lighter, lighter, 0.3);

    add("thin pushrod", Cause::TrainFlexible, stiff, thin, thin, 0.15);
    Train softer = thin;
    softer.pushrod->end_stiffness_N_per_m *= evenly(dice, 0.75, 0.9);
    add("thin pushrod, ends softer than the sheet", Cause::TrainFlexible, stiff, thin, softer, 0.15);
    Train rocker = thin;
    rocker.rocker->stiffness_N_per_m *= 0.6;
    rocker.rocker->inertia_kg_m2 *= 0.92;
    add("thin pushrod and slim rocker", Cause::TrainFlexible, stiff, rocker, rocker, 0.15);

    Train heavy = stiff;
    heavy.valve.mass_kg += 52e-3;
    add("heavy valve", Cause::SpringWeak, stiff, heavy, heavy, 0.15);
    Train soft = stiff;
    scale_loads(soft, 0.62);
    add("softer spring fitted", Cause::SpringWeak, stiff, soft, soft, 0.25);

    Train tired = stiff;
    scale_loads(tired, 0.64);
    add("tired spring", Cause::SpringNotAsBelieved, stiff, stiff, tired, 0.75);
    Train tall = stiff;
    tall.installed_height_m += 4.6e-3;
    scale_loads(tall, 0.85);
    Train swapped = stiff;
    swapped.retainer_mass_kg += 0.5e-3;
    add("another retainer, height never checked", Cause::SpringNotAsBelieved, stiff, swapped, tall, 0.9);

    Train boosted = stiff;
    boosted.back_pressure_Pa = 330e3;
    add("boost raised", Cause::BoostOnHead, stiff, boosted, boosted, 0.15, true);
    return out;
}

std::vector<TrainScene> make_rarer_scenes(const std::string& demo, const std::string& trains, unsigned seed) {
    Dice dice(seed);
    std::vector<TrainScene> out;
    const Train stiff = io::read_train(demo + "/ashgill-a22-intake-before.train.json");
    const Lobe harsh = io::read_train(trains + "/ashgill-a22-intake-harsh.train.json").lobe;
    for (double more_kg : {25e-3, 30e-3, 35e-3}) {
        Train before = stiff;
        before.valve.mass_kg += more_kg; // as it was before, too
        Train after = before;
        after.lobe = harsh;
        out.push_back(make_scene("harsh lobe", Cause::HarshLobe, before, after, after, 0.15, false, dice));
    }
    const Train hydraulic = io::read_train(trains + "/ravenmoor-t14-intake.train.json");
    Train solid = hydraulic;
    solid.lifter.reset();
    solid.lash_m = 0.15e-3;
    out.push_back(make_scene("hydraulic followers fitted", Cause::PumpUp, solid, hydraulic, hydraulic, 0.15,
                             true, dice));
    Train more_oil = hydraulic;
    more_oil.lifter->hydraulic->supply_Pa *= 1.4;
    out.push_back(make_scene("hydraulic followers, oil pressure up", Cause::PumpUp, solid, hydraulic,
                             more_oil, 0.15, true, dice));
    return out;
}

namespace {

FaultCase case_of(const TrainScene& scene, std::optional<Confounder> fault, Dice& dice, double logged);

} // namespace

FaultCase draw_case(const TrainScene& scene, unsigned seed, double logged) {
    Dice dice(seed);
    return case_of(scene, std::nullopt, dice, logged);
}

FaultCase draw_case(const std::vector<TrainScene>& scenes, unsigned seed, double logged) {
    Dice dice(seed);
    // One of the nine faults of the dyno, or of the valve train's four causes, each as likely.
    const auto pick = static_cast<std::size_t>(evenly(dice, 0, kConfounders + 4 - 1e-9));
    const bool valve = pick >= kConfounders;
    constexpr Cause kValve[] = {Cause::TrainFlexible, Cause::SpringWeak, Cause::SpringNotAsBelieved,
                                Cause::BoostOnHead};
    const Confounder kind = static_cast<Confounder>(std::min(pick, kConfounders - 1));
    std::vector<const TrainScene*> fitting;
    for (const TrainScene& s : scenes)
        if (valve ? s.cause == kValve[pick - kConfounders]
                  : !s.cause && (kind == Confounder::BeltSlip ? s.charged : true))
            fitting.push_back(&s);
    const TrainScene& scene =
        *fitting[static_cast<std::size_t>(evenly(dice, 0, 0.9999) * static_cast<double>(fitting.size()))];
    return case_of(scene, valve ? std::nullopt : std::optional(kind), dice, logged);
}

namespace {

FaultCase case_of(const TrainScene& scene, std::optional<Confounder> fault, Dice& dice, double logged) {
    const auto chance = [&](double p) { return evenly(dice, 0, 1) < p; };
    standin::PullSetup setup;
    standin::EngineModel& e = setup.engine;
    e.charged = scene.charged;
    e.torque_peak_Nm = evenly(dice, 150, 380);
    e.torque_peak_rpm = evenly(dice, 5200, 6600);
    e.hump_rpm = evenly(dice, 4600, 6400);
    e.wave_share = evenly(dice, 0.001, 0.009);
    e.wave_rpm = evenly(dice, 1400, 2400);
    e.wave_phase = evenly(dice, 0, 1);
    e.boost_Pa = evenly(dice, 35e3, 90e3);
    e.lambda = evenly(dice, 0.84, 0.90);
    setup.first_rpm = evenly(dice, 3500, 4500);
    setup.last_rpm = evenly(dice, 8450, 8900);
    setup.rows = static_cast<std::size_t>(evenly(dice, 120, 400));
    setup.noise = evenly(dice, 0.002, 0.006);
    setup.scatter = evenly(dice, 0.002, 0.008);
    setup.weather_Pa = evenly(dice, 96e3, 103e3);
    setup.weather_K = evenly(dice, 283, 303);
    for (PullChannel c : standin::all_channels(e))
        if (chance(logged))
            setup.logged.insert(c);

    FaultCase out;
    out.scene = scene.name;
    out.truth =
        fault
            ? static_cast<Cause>(static_cast<std::size_t>(Cause::BeltSlip) + static_cast<std::size_t>(*fault))
            : *scene.cause;
    CaseFile& file = out.file;
    file.build = "intake";
    file.state = "r2";
    file.target_rpm = 8600;
    file.charged = scene.charged;
    file.hydraulic = scene.hydraulic;
    file.model = scene.model;
    file.changes = scene.changes;
    const auto pulls = [&](const standin::PullSetup& base, std::size_t count, std::vector<PullCase>& to) {
        for (std::size_t i = 0; i < count; ++i) {
            standin::PullSetup one = base;
            one.seed = static_cast<unsigned>(dice());
            one.weather_K += evenly(dice, -1.5, 1.5);
            const Pull pull = standin::run_pull(one);
            PullCase p{"pull", analyse(pull), {}, "", std::nullopt};
            p.tests = test_confounders(pull, p.analysis);
            to.push_back(std::move(p));
        }
    };
    setup.loss = standin::motion_loss(scene.truth_before);
    pulls(setup, 2, file.pulls_before);
    setup.loss = standin::motion_loss(scene.truth);
    if (fault)
        setup.faults = {{*fault, evenly(dice, 6300, 7600), evenly(dice, 0.7, 1.6)}};
    pulls(setup, 2 + (chance(0.5) ? 1 : 0), file.pulls);

    if (chance(scene.suspect_share))
        file.open.push_back({Check::InstalledHeight, 2, "retainer"});
    if (chance(0.4)) {
        RigFacts rig;
        rig.name = "rig";
        rig.rows = scene.truth;
        std::normal_distribution<double> normal;
        Metrics noise;
        for (Metric m : {Metric::LiftLoss, Metric::Loft, Metric::Bounce, Metric::CycleVariation})
            noise[m] = 4e-6;
        noise[Metric::DurationChange] = 0.12;
        std::erase_if(rig.rows, [](const SpeedMetrics& row) { return row.speed_rpm > 8650; });
        for (SpeedMetrics& row : rig.rows)
            for (Metric m : {Metric::LiftLoss, Metric::Loft, Metric::Bounce, Metric::DurationChange,
                             Metric::OpeningShift, Metric::CycleVariation})
                if (row.metrics[m])
                    *row.metrics[m] += (noise[m] ? *noise[m] : 0.1) * normal(dice);
        const OnsetResult onset = find_onset(rig.rows, noise);
        rig.onset_rpm = onset.onset.speed_rpm;
        rig.onset_metric = onset.onset.metric;
        rig.half_step_rpm = onset.onset.half_step_rpm;
        rig.bands = onset.bands;
        std::vector<Limit> held;
        for (const Limit& limit : query().limits)
            if (limit.metric == Metric::HeldOpen)
                held.push_back(limit);
        rig.held_open_rpm = limit_speed(rig.rows, held, 0).speed_rpm;
        file.rig = std::move(rig);
    }
    return out;
}

} // namespace

} // namespace bathmos::test
