#include "standin/rich_engines.h"

#include "core/motion/limit_gain.h"
#include "core/motion/sweep.h"
#include "core/problem/input_error.h"
#include "core/train/train_figures.h"
#include "core/whatif/handles.h"
#include "io/train/train_file.h"
#include "standin/dyno/dyno.h"
#include "standin/rig/live_rig.h"
#include "standin/rig/spin.h"

#include <algorithm>
#include <cmath>
#include <random>

namespace bathmos::test {

namespace {

using Dice = std::mt19937_64;
double evenly(Dice& dice, double low, double high) {
    return std::uniform_real_distribution<double>(low, high)(dice);
}
double normally(Dice& dice) { // a tail that no shop would miss is cut
    return std::clamp(std::normal_distribution<double>()(dice), -2.0, 2.0);
}

constexpr double kPitchScatter = 0.012, kGauge_m = 1.5e-6;
constexpr double kPullsEnd = 1.02; // of the target

// Each coil's pitch off a little, as wound.
void scatter_coils(Train& train, Dice& dice) {
    for (Spring& spring : train.springs) {
        auto* coil = std::get_if<CoilGeometry>(&spring.kind);
        if (!coil || !coil->pitch_m.empty())
            continue;
        const double even_m =
            (coil->free_length_m - coil->dead_coils * axial_wire_m(*coil)) / coil->active_coils;
        for (int i = 0; i < static_cast<int>(std::lround(2 * coil->active_coils)); ++i)
            coil->pitch_m.push_back(even_m * (1 + kPitchScatter * normally(dice)));
    }
}

// As a profile gauge gives it: a reading a cam degree, with noise.
Lobe gauged(const Lobe& lobe, Dice& dice) {
    const LobeCurve curve = curve_of(lobe);
    std::normal_distribution<double> noise(0, kGauge_m);
    LobeTable table;
    for (int degree = -180; degree < 180; ++degree) {
        table.angle.push_back(degree);
        const double lift_mm = 1e3 * (curve.at(radians(degree)) + noise(dice));
        table.lift.push_back(std::round(lift_mm * 1e4) / 1e4);
    }
    Lobe out = lobe;
    out.shape = std::move(table);
    return out;
}

// What is wrong, more and more of it: on paper too where it is the design, else in the train alone.
struct Trouble {
    bool on_paper;
    std::function<bool(Train&, double)> apply; ///< strength 0..1; false: not with this train
};

bool soften(Train& t, double strength) {
    const double factor = std::exp(-0.5 - 1.2 * strength);
    if (t.pushrod)
        t.pushrod->end_stiffness_N_per_m *= factor;
    else if (t.rocker)
        t.rocker->stiffness_N_per_m *= std::sqrt(factor);
    else
        t.contacts.tip_stiffness_N_per_m *= std::sqrt(factor);
    return true;
}

bool harden_the_lobe(Train& t, double strength) {
    auto* lobe = std::get_if<AnalyticLobe>(&t.lobe.shape);
    if (!lobe)
        return false;
    const double more = 1 + 1.2 * strength;
    for (double& power : lobe->exponents)
        power = 2 * std::round(power * more / 2);
    lobe->half_duration_rad *= 1 - 0.06 * strength; // fuller flanks: the same duration higher up
    return true;
}

bool near_bind(Train& t, double strength) {
    const double margin = figures_of(t, RigidMotion(t, curve_of(t.lobe))).bind_margin_m;
    const double wanted_m = 0.75e-3 - 0.55e-3 * strength, less_m = margin - wanted_m;
    if (less_m <= 0)
        return false;
    t.installed_height_m -= less_m;
    for (Spring& spring : t.springs)
        if (auto* coil = std::get_if<CoilGeometry>(&spring.kind))
            coil->free_length_m -= less_m;
    return true;
}

Trouble trouble_of(Cause cause) {
    switch (cause) {
    case Cause::SpringWeak:
        return {false, [](Train& t, double s) {
                    scale_loads(t, 1 - 0.03 - 0.09 * s);
                    for (Spring& spring : t.springs)
                        if (auto* coil = std::get_if<CoilGeometry>(&spring.kind))
                            coil->free_length_m -= 0.4e-3 + 2.6e-3 * s;
                    return true;
                }};
    case Cause::SpringNotAsBelieved:
        return {false, [](Train& t, double s) {
                    t.installed_height_m += 0.7e-3 + 2.3e-3 * s;
                    return true;
                }};
    case Cause::TrainFlexible:
        return {false, soften};
    case Cause::Surge:
        return {true, [](Train& t, double s) {
                    scale_spring_damping(t, std::exp(-1 - 2.5 * s), 0);
                    for (Spring& spring : t.springs) // more and thicker coils for the same rate
                        if (auto* coil = std::get_if<CoilGeometry>(&spring.kind))
                            coil->density_kg_m3 *= 1 + s;
                    return true;
                }};
    case Cause::HardLanding:
        return {true, [](Train& t, double s) {
                    auto* lobe = std::get_if<AnalyticLobe>(&t.lobe.shape);
                    if (lobe)
                        lobe->ramp_velocity_m_per_rad *= 1.5 + 3 * s;
                    return lobe != nullptr;
                }};
    case Cause::HarshLobe:
        return {true, harden_the_lobe};
    case Cause::CoilBind:
        return {true, near_bind};
    case Cause::PumpUp:
        return {false, [](Train& t, double s) {
                    if (!t.hydraulic())
                        return false;
                    t.lifter->hydraulic->supply_Pa *= 1.3 + 1.5 * s;
                    return true;
                }};
    case Cause::BoostOnHead:
        return {false, [](Train& t, double s) {
                    t.back_pressure_Pa = 90e3 + 200e3 * s;
                    return true;
                }};
    default:
        return {false, {}};
    }
}

// The dyno's fault that a cause outside of the train stands for.
std::optional<Confounder> fault_of(Cause cause) {
    const auto first = static_cast<std::size_t>(Cause::BeltSlip), at = static_cast<std::size_t>(cause);
    return at < first ? std::nullopt : std::optional(static_cast<Confounder>(at - first));
}

LimitQuestion question() {
    return {{3000, 12000, 250}, {}, {}};
}

double limit_of(const Train& train, double near_rpm) {
    return limit_within(train, question(), near_rpm).value_or(0);
}

Train base_of(Cause cause, const std::string& trains, Dice& dice) {
    std::vector<std::string> names = {"ashgill-a22-intake", "ashgill-a22-exhaust", "corrie-500-intake",
                                      "skerrin-650-intake", "ravenmoor-t14-intake-solid"};
    if (cause == Cause::PumpUp)
        names = {"ravenmoor-t14-intake", "ashgill-a22-intake-hydraulic"};
    if (cause == Cause::BoostOnHead || cause == Cause::BeltSlip)
        names = {"ravenmoor-t14-intake-solid", "ashgill-a22-intake"};
    if (cause == Cause::TrainFlexible) // the others have little that gives
        names = {"ashgill-a22-intake", "ashgill-a22-exhaust"};
    const auto pick = static_cast<std::size_t>(evenly(dice, 0, 0.9999) * static_cast<double>(names.size()));
    Train out = io::read_train(trains + "/" + names[pick] + ".train.json");
    out.valve.mass_kg *= evenly(dice, 0.95, 1.12); // no two engines alike
    scale_loads(out, evenly(dice, 0.95, 1.08));
    return out;
}

struct Drawn {
    Train before, paper, truth, truth_before;
    double limit_rpm = 0, limit_before_rpm = 0;
};

// What a sweep up to the end of the pulls costs in power, and how unevenly.
std::vector<standin::MotionLoss> loss_of(const Train& truth, double target_rpm) {
    return standin::motion_loss(rows_of(sweep(truth, {0.5 * target_rpm, 1.1 * target_rpm, 150}).motions));
}

double target_of(const Drawn& drawn, bool innocent) {
    return 50 * std::round((innocent ? 0.94 : 0.985) * drawn.limit_before_rpm / 50);
}

// A trouble that makes springs surge is a surge as well; one that costs no power within the pulls is none on
// a dyno. Neither has one answer.
bool is_to_blame(Cause cause, const Drawn& drawn) {
    Train damped = drawn.truth;
    scale_spring_damping(damped, 12, 0.1);
    const double won_back =
        (limit_of(damped, drawn.limit_rpm) - drawn.limit_rpm) / (drawn.limit_before_rpm - drawn.limit_rpm);
    if (cause == Cause::Surge ? won_back < 0.6 : won_back > 0.5)
        return false;
    if (cause == Cause::HardLanding) // hurts parts before it costs power
        return true;
    constexpr double kLeastLost = 0.02;
    const double target_rpm = target_of(drawn, false);
    for (const standin::MotionLoss& loss : loss_of(drawn.truth, target_rpm))
        if (loss.speed_rpm < kPullsEnd * target_rpm && loss.lost > kLeastLost)
            return true;
    return false;
}

// Another trouble beside the first; none where this train has no place for it, or hardly runs with both.
std::optional<Drawn> with_second(Drawn drawn, std::optional<Cause> second) {
    constexpr double kMiddling = 0.4, kLeastLimit_rpm = 3500;
    if (!second)
        return drawn;
    try {
        if (!trouble_of(*second).apply(drawn.truth, kMiddling))
            return std::nullopt;
        drawn.limit_rpm = limit_of(drawn.truth, 0.9 * drawn.limit_rpm);
    } catch (const InputError&) {
        return std::nullopt;
    }
    return drawn.limit_rpm > kLeastLimit_rpm ? std::optional(std::move(drawn)) : std::nullopt;
}

// As little trouble as counts as one.
std::optional<Drawn> draw_trains(Cause cause, const std::string& trains, Dice& dice,
                                 std::optional<Cause> second) {
    constexpr double kLeastCost = 0.05, kMostCost = 0.45;
    Drawn out;
    out.before = out.paper = base_of(cause, trains, dice);
    out.truth = out.truth_before = standin::hidden_twin(out.before, dice);
    out.limit_rpm = out.limit_before_rpm = limit_of(out.truth, 7500);
    if (out.limit_rpm <= 4000 || out.limit_rpm >= question().range.last_rpm)
        return std::nullopt;
    const Trouble trouble = trouble_of(cause);
    if (!trouble.apply)
        return out;
    for (const double strength : {0.2, 0.5, 0.8, 1.1, 1.4}) {
        out.truth = out.truth_before;
        out.paper = out.before;
        try {
            if (!trouble.apply(out.truth, strength) ||
                (trouble.on_paper && !trouble.apply(out.paper, strength)))
                return std::nullopt;
            out.limit_rpm = limit_of(out.truth, 0.9 * out.limit_before_rpm);
        } catch (const InputError&) {
            return std::nullopt;
        }
        const double cost = 1 - out.limit_rpm / out.limit_before_rpm;
        if (cost > kMostCost)
            return std::nullopt;
        if (cost > kLeastCost && is_to_blame(cause, out))
            return with_second(std::move(out), second);
    }
    return std::nullopt;
}

std::vector<double> rig_speeds(double limit_rpm, Dice& dice) {
    const double first = 0.4 * limit_rpm, last = evenly(dice, 1.04, 1.1) * limit_rpm;
    std::vector<double> out;
    for (int i = 0; i < 15; ++i)
        out.push_back(50 * std::round((first + (last - first) * i / 14.0) / 50));
    return out;
}

std::vector<Pull> pulls_of(standin::PullSetup setup, std::size_t count, Dice& dice) {
    std::vector<Pull> out;
    for (std::size_t i = 0; i < count; ++i) {
        setup.seed = static_cast<unsigned>(dice());
        setup.weather_K += evenly(dice, -1.5, 1.5);
        out.push_back(standin::run_pull(setup));
    }
    return out;
}

void drive(RichEngine& engine, const Drawn& drawn, Dice& dice) {
    const bool charged = engine.truth == Cause::BoostOnHead || engine.truth == Cause::BeltSlip;
    standin::PullSetup setup;
    setup.engine.charged = charged;
    setup.engine.torque_peak_rpm = evenly(dice, 0.62, 0.72) * engine.target_rpm;
    setup.engine.torque_peak_Nm = evenly(dice, 150, 350);
    setup.engine.hump_rpm = 0.93 * setup.engine.torque_peak_rpm;
    setup.engine.boost_Pa = 40e3;
    setup.first_rpm = 0.5 * engine.target_rpm;
    setup.last_rpm = kPullsEnd * engine.target_rpm;
    setup.noise = evenly(dice, 0.002, 0.005);
    setup.logged = standin::all_channels(setup.engine);
    setup.loss = loss_of(drawn.truth_before, engine.target_rpm);
    session::PullNote note;
    note.revision = 1;
    engine.entered.keep_pulls("before", pulls_of(setup, 2, dice), note);
    setup.loss = loss_of(drawn.truth, engine.target_rpm);
    if (engine.truth == Cause::BoostOnHead)
        setup.engine.boost_Pa = drawn.truth.back_pressure_Pa;
    if (engine.truth == Cause::PumpUp)
        setup.engine.oil_Pa *=
            drawn.truth.lifter->hydraulic->supply_Pa / drawn.truth_before.lifter->hydraulic->supply_Pa;
    if (const auto fault = fault_of(engine.truth))
        setup.faults = {{*fault, evenly(dice, 0.78, 0.9) * engine.target_rpm, evenly(dice, 0.8, 1.6)}};
    note.revision = engine.entered.now;
    note.changed = drawn.before == drawn.paper ? "30 runs later" : "";
    engine.entered.keep_pulls("now", pulls_of(setup, 3, dice), note);
}

} // namespace

const std::vector<Cause>& rich_causes() {
    static const std::vector<Cause> kCausesDrawn = {Cause::SpringWeak,    Cause::SpringNotAsBelieved,
                                                    Cause::TrainFlexible, Cause::Surge,
                                                    Cause::HardLanding,   Cause::HarshLobe,
                                                    Cause::CoilBind,      Cause::PumpUp,
                                                    Cause::BoostOnHead,   Cause::BeltSlip,
                                                    Cause::Mixture,       Cause::SparkBreakUp};
    return kCausesDrawn;
}

std::optional<RichEngine> draw_engine(Cause cause, const std::string& trains, unsigned seed,
                                      std::optional<Cause> second) {
    Dice dice(seed);
    std::optional<Drawn> drawn = draw_trains(cause, trains, dice, second);
    if (!drawn)
        return std::nullopt;
    scatter_coils(drawn->truth, dice);
    const Lobe before = gauged(drawn->before.lobe, dice);
    const bool other = drawn->paper.lobe != drawn->before.lobe;
    const Lobe now = other ? gauged(drawn->paper.lobe, dice) : before;
    drawn->paper.lobe = now;
    drawn->before.lobe = before;
    const bool innocent = fault_of(cause).has_value();
    const double target_rpm = target_of(*drawn, innocent);
    std::vector<Train> states = {drawn->paper};
    if (!(drawn->before == drawn->paper))
        states.insert(states.begin(), drawn->before);
    Train on_the_rig = drawn->truth;
    on_the_rig.back_pressure_Pa = 0;
    standin::SpinSetup rig;
    rig.truth = on_the_rig;
    const double rig_limit_rpm = limit_of(on_the_rig, drawn->limit_rpm);
    rig.speeds_rpm = rig_speeds(rig_limit_rpm, dice);
    rig.sensor.gain = 0.006 * normally(dice);
    rig.sensor.delay_s += 1.5e-6 * normally(dice);
    rig.sensor.phase_deg = evenly(dice, 10, 200);
    rig.seed = static_cast<unsigned>(dice());
    RichEngine out{drawn->paper.name,
                   cause,
                   {cause},
                   drawn->paper,
                   on_the_rig,
                   target_rpm,
                   rig_limit_rpm,
                   standin::spin(rig),
                   EnteredEngine(drawn->paper.name, target_rpm, states)};
    if (cause == Cause::SpringWeak)
        out.as_right.push_back(Cause::SpringNotAsBelieved);
    if (cause == Cause::SpringNotAsBelieved)
        out.as_right.push_back(Cause::SpringWeak);
    out.entered.keep_rig(out.trace);
    drive(out, *drawn, dice);
    return out;
}

} // namespace bathmos::test
