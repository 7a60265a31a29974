#include "core/start/start_train.h"

#include "core/problem/input_error.h"
#include "core/start/lobe_card.h"
#include "core/train/train_check.h"
#include "core/train/train_fields.h"
#include "core/train/train_starter.h"
#include "core/uncertainty/uncertain_inputs.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr double kSteel_kg_m3 = 7850, kSteel_Pa = 205e9, kSpringSteel_Pa = 79.3e9;

// How far an assumed number may be off: a share of it.
struct Wide {
    double share;
};

class Starter {
  public:
    explicit Starter(const KnownTrain& known) : known_(known) {}

    StartedTrain make() {
        check_known();
        Train& t = out_.train;
        t = with_layout(frame(), known_.layout);
        t.lash_at = LashAt::LoadedRest; // as a feeler gauge reads it
        add_valve();
        add_drive();
        add_lobe();
        add_springs();
        out_.target_rpm = known_.number("engine.target_rpm");
        require_valid(t);
        return std::move(out_);
    }

  private:
    void check_known() const {
        if (known_.hydraulic && known_.layout == Layout::Rocker)
            throw InputError({"", "hydraulic", "a rocker on the cam has no hydraulic follower here",
                              "leave it out, or choose another layout"});
        const std::vector<StartField> fields = start_fields(known_.layout, known_.hydraulic);
        for (const auto& number : known_.numbers) {
            const std::string& key = number.first;
            const auto field =
                std::find_if(fields.begin(), fields.end(), [&](const StartField& f) { return f.key == key; });
            if (field == fields.end())
                throw InputError({"", key, "is no number that is asked of this layout",
                                  "docs/start.md has the numbers of each layout"});
            const double value = number.second / unit_of(field->quantity).to_si;
            if (const std::string complaint = start_complaint(key, value); !complaint.empty())
                throw InputError({"", key, fmt::format("is {:g}", value), complaint});
        }
    }

    // The starter without what belongs to another layout.
    Train frame() const {
        Train t = starter_train();
        t.name = known_.name.empty() ? "New train" : known_.name;
        t.lifter.reset();
        t.pushrod.reset();
        t.rocker.reset();
        return t;
    }

    void assume(const std::string& key, double plus_minus) {
        out_.train.tolerances[key] = {Source::Estimate, plus_minus};
    }

    // What is known of a number of the train file, else what the rule gives, marked.
    double take(std::string_view key, double rule, Wide wide) {
        if (const auto number = known_.number(key)) {
            set_value(out_.train, std::string(key), *number);
            return *number;
        }
        set_value(out_.train, std::string(key), rule);
        assume(std::string(key), wide.share * std::abs(rule));
        return rule;
    }

    bool finger() const { return known_.layout == Layout::Finger; }
    bool bucket() const { return known_.layout == Layout::Bucket; }

    std::optional<double> known_valve_lift_m() const {
        const auto* card = std::get_if<LobeCard>(&known_.lobe);
        return card && card->lift_at_valve ? card->lift_m : std::nullopt;
    }

    void add_valve() {
        const double usual_head = known_.layout == Layout::Pushrod  ? 42e-3
                                  : known_.layout == Layout::Rocker ? 36e-3
                                                                    : 31e-3;
        const auto lift = known_valve_lift_m();
        const double head = take("valve.head_diameter_mm", lift ? 4 * *lift : usual_head, {0.2});
        const double stem = take("valve.stem_diameter_mm", (known_.exhaust ? 0.19 : 0.165) * head, {0.15});
        steel_valve_kg_ = (known_.exhaust ? 8e3 : 6.5e3) * head * head * stem;
        const double metal = known_.metal == ValveMetal::Titanium ? 0.6 : 1;
        const bool weighed = known_.number("valve.mass_g").has_value();
        const double valve = take("valve.mass_g", metal * steel_valve_kg_,
                                  {known_.number("valve.stem_diameter_mm") ? 0.3 : 0.45});
        take("retainer.mass_g", 0.2 * valve / metal, {weighed ? 0.4 : 0.6});
        take("locks.mass_g", 0.045 * valve / metal, {weighed ? 0.4 : 0.6});
        take("installed_height_mm", 25e-3 + 0.35 * head, {});
        if (!known_.number("installed_height_mm"))
            assume("installed_height_mm",
                   0.15e-3); // the loads are taken there, so that they do not hang on it
    }

    void add_drive() {
        Train& t = out_.train;
        if (known_.hydraulic) {
            if (!t.lifter)
                t.lifter = Lifter{};
            t.lifter->hydraulic = usual_hydraulic(known_.layout);
        }
        if (t.lifter && !finger())
            take("lifter.mass_g", (bucket() ? 0.8 : 1.0) * steel_valve_kg_, {0.5});
        if (t.pushrod)
            add_rod();
        if (t.rocker)
            add_rocker();
        const bool hydraulic = t.hydraulic();
        t.lash_m = 0;
        if (!hydraulic)
            take("lash_mm", known_.layout == Layout::Pushrod ? 0.25e-3 : 0.15e-3, {0.5});
    }

    void add_rod() {
        const double length = take("pushrod.length_mm", 0.2, {0.2});
        const double outer = take("pushrod.outer_diameter_mm", 8.7e-3, {0.1});
        constexpr double kEnds_kg = 8e-3, kThinnest_m = 0.3e-3;
        double wall = 1.4e-3;
        if (const auto mass = known_.number("pushrod.mass_g")) {
            // mass = rho pi (d w - w2) l + ends
            const double area = std::max(0.0, *mass - kEnds_kg) / (kSteel_kg_m3 * kPi * length);
            const double root = outer * outer - 4 * area;
            wall = root > 0 ? 0.5 * (outer - std::sqrt(root)) : 0.5 * outer;
            if ((wall < kThinnest_m || wall > 0.45 * outer) && !known_.number("pushrod.wall_mm"))
                out_.doubts.push_back(fmt::format("no steel tube of {:.0f} mm by {:.2f} mm weighs {:.1f} g: "
                                                  "look at the pushrod's mass, length "
                                                  "and diameter, or at its metal",
                                                  length * 1e3, outer * 1e3, *mass * 1e3));
        }
        wall = take("pushrod.wall_mm", std::clamp(wall, kThinnest_m, 0.45 * outer), {0.2});
        take("pushrod.mass_g", kSteel_kg_m3 * kPi * (outer - wall) * wall * length + kEnds_kg, {0.2});
        out_.train.pushrod->youngs_modulus_Pa = kSteel_Pa;
    }

    void add_rocker() {
        const bool pushrod = known_.layout == Layout::Pushrod;
        const double ratio = take("rocker.ratio", pushrod ? 1.5 : finger() ? 1.6 : 1.25, {0.05});
        const double input = take("rocker.input_arm_mm", pushrod ? 24e-3 : finger() ? 21e-3 : 27e-3, {0.15});
        out_.train.rocker->output_arm_m = ratio * input;
        if (!known_.number("rocker.input_arm_mm") || !known_.number("rocker.ratio"))
            assume("rocker.output_arm_mm", 0.15 * ratio * input);
        const double arm_mm = 1e3 * ratio * input;
        take("rocker.inertia_kg_mm2", 1e-6 * (finger() ? 4e-4 : 1e-3) * arm_mm * arm_mm * arm_mm, {0.5});
        take("rocker.stiffness_N_per_mm", 16e6, {0.4});
    }

    void add_lobe() {
        Lobe& lobe = out_.train.lobe;
        lobe.name = "Lobe of the card";
        lobe.follower = known_.follower.value_or(bucket() ? FollowerKind::Flat : FollowerKind::Roller);
        take("lobe.base_radius_mm", 16e-3, {0.15});
        if (const auto* table = std::get_if<LobeTable>(&known_.lobe)) {
            lobe.name = "Lobe as read";
            lobe.shape = *table;
        } else {
            add_card(std::get<LobeCard>(known_.lobe));
        }
        const double face = lobe.follower == FollowerKind::Flat ? flat_face_m() : finger() ? 8.5e-3 : 9.5e-3;
        take("lobe.follower.radius_mm", face, {0.2});
    }

    // The contact wanders off the middle of a flat face by the lift's slope.
    double flat_face_m() const {
        const LobePeaks peaks = peaks_of(curve_of(out_.train.lobe));
        return 1.1 * std::max(std::abs(peaks.opening_velocity.value), std::abs(peaks.closing_velocity.value));
    }

    double ratio() const {
        const auto* fixed = out_.train.rocker ? std::get_if<double>(&out_.train.rocker->ratio) : nullptr;
        return fixed ? *fixed : 1;
    }

    void add_card(const LobeCard& card) {
        const bool hydraulic = out_.train.hydraulic();
        const CardRatio through{ratio(), out_.train.lash_m};
        if (card.lift_m && !(*card.lift_m > 0 && *card.lift_m < 40e-3))
            throw InputError({"", "card.lift_mm", fmt::format("is {:g}", *card.lift_m * 1e3),
                              "give a lift between 0 and 40 mm"});
        AnalyticLobe start;
        start.ramp_height_m = hydraulic ? 0.2e-3 : 0.3e-3;
        start.ramp_velocity_m_per_rad = (hydraulic ? 0.009e-3 : 0.012e-3) / radians(1);
        const double valve_lift = card.lift_m.value_or(0.25 * out_.train.valve.head_diameter_m);
        start.lift_m =
            card.lift_m && !card.lift_at_valve ? *card.lift_m : (valve_lift + through.lash_m) / through.ratio;
        LobeCard claims = card;
        const bool timed = !claims.durations.empty();
        if (!timed)
            claims.durations.push_back({std::min(1.27e-3, 0.5 * start.lift_m), radians(250), false});
        const CardLobe found = lobe_of_card(claims, through, start);
        if (found.worst_crank_rad > radians(1))
            out_.doubts.push_back(
                fmt::format("the card's durations do not make one lobe: they are missed by up to "
                            "{:.1f} crank degrees; compare heights and sides, or gauge the lobe",
                            degrees(found.worst_crank_rad)));
        out_.train.lobe.shape = found.lobe;
        mark_card(card, found, timed);
    }

    void mark_card(const LobeCard& card, const CardLobe& found, bool timed) {
        auto& tolerances = out_.train.tolerances;
        const AnalyticLobe& lobe = found.lobe;
        if (card.lift_m)
            tolerances["lobe.analytic.lift_mm"] = {Source::Sheet, 0.05e-3};
        else
            assume("lobe.analytic.lift_mm", 0.15 * lobe.lift_m);
        if (timed) // a card's degree of crank is half of one at the cam, and a quarter on each side
            tolerances["lobe.analytic.half_duration_cam_deg"] = {Source::Sheet, radians(0.25)};
        else
            assume("lobe.analytic.half_duration_cam_deg", 0.1 * lobe.half_duration_rad);
        if (!timed || !found.fullness)
            assume("lobe.analytic.exponents.0", 0.25 * lobe.exponents[0]);
        const bool hydraulic = out_.train.hydraulic(); // flat or solid: anything is found under it
        assume("lobe.analytic.ramp_height_mm", (hydraulic ? 0.75 : 0.4) * lobe.ramp_height_m);
        if (!timed || !found.ramp)
            assume("lobe.analytic.ramp_velocity_mm_per_deg",
                   (hydraulic ? 0.6 : 0.3) * lobe.ramp_velocity_m_per_rad);
    }

    // ---- springs

    struct Loads {
        double seat_N, open_N, lift_m;
        bool seat_known, slope_known;
        double rate() const { return (open_N - seat_N) / lift_m; }
    };

    Loads loads() const {
        const Train& t = out_.train;
        Loads out{0, 0, RigidMotion(t, curve_of(t.lobe)).peak_m(), true, true};
        if (!(out.lift_m > 0.2e-3))
            throw InputError({"", "card.lift_mm",
                              fmt::format("the valve opens by {:.2f} mm", out.lift_m * 1e3),
                              "look at lift, ratio and lash"});
        const auto seat = known_.number("spring.seat_load_N"), open = known_.number("spring.open_load_N"),
                   rate = known_.number("spring.rate_N_per_mm");
        const double head = t.valve.head_diameter_m;
        out.seat_known = seat || (open && rate);
        out.slope_known = open || rate;
        out.seat_N = seat           ? *seat
                     : open && rate ? *open - *rate * out.lift_m
                     : open         ? *open / 2.5
                                    : 0.28e6 * kPi / 4 * head * head;
        out.open_N = open ? *open : rate ? out.seat_N + *rate * out.lift_m : 2.5 * out.seat_N;
        if (!(out.seat_N > 0))
            throw InputError({"", "spring.rate_N_per_mm",
                              fmt::format("leaves {:.0f} N on the seat", out.seat_N),
                              "look at load at full lift, rate and lift: the seat load must stay above 0"});
        if (!(out.open_N > out.seat_N))
            throw InputError(
                {"", "spring.open_load_N",
                 fmt::format("{:.0f} N is no more than the seat load, {:.0f} N", out.open_N, out.seat_N),
                 "give the load with the valve fully open"});
        return out;
    }

    void add_springs() {
        const Loads l = loads();
        if (const auto open = known_.number("spring.open_load_N"),
            rate = known_.number("spring.rate_N_per_mm");
            known_.number("spring.seat_load_N") && open && rate && std::abs(*rate / l.rate() - 1) > 0.05)
            out_.doubts.push_back(fmt::format("rate and loads disagree: from {:.0f} to {:.0f} N over {:.2f} "
                                              "mm is {:.1f} N/mm, the rate says "
                                              "{:.1f}; the loads are taken",
                                              l.seat_N, l.open_N, l.lift_m * 1e3, l.rate() * 1e-3,
                                              *rate * 1e-3));
        if (add_coil(l))
            return;
        add_table(l);
    }

    double open_height_m(const Loads& l) const { return out_.train.installed_height_m - l.lift_m; }

    // Wire and outer diameter make a spring of their own where they agree with the loads.
    bool add_coil(const Loads& l) {
        const auto wire = known_.number("spring.wire_mm"), outer = known_.number("spring.outer_diameter_mm");
        if ((wire || outer) && (!wire || !outer || known_.nested > 1))
            out_.doubts.push_back(
                known_.nested > 1 ? "wire and outer diameter count for one spring alone; they are left out"
                                  : "wire and outer diameter count together; the one of them is left out");
        if (!wire || !outer || known_.nested > 1)
            return false;
        CoilGeometry coil;
        coil.wire_m = *wire;
        coil.mean_diameter_m = {*outer - *wire};
        coil.shear_modulus_Pa = kSpringSteel_Pa;
        const double mean = *outer - *wire;
        if (mean > 2 * *wire)
            coil.active_coils = std::pow(*wire, 4) * kSpringSteel_Pa / (8 * mean * mean * mean * l.rate());
        const auto solid = known_.number("spring.solid_height_mm");
        coil.dead_coils = solid ? *solid / *wire - coil.active_coils : 2;
        coil.free_length_m = out_.train.installed_height_m + l.seat_N / l.rate();
        const double solid_m = *wire * (coil.active_coils + coil.dead_coils);
        if (!(coil.active_coils >= 1.5 && coil.active_coils <= 20) || coil.dead_coils < 0.5 ||
            coil.dead_coils > 4 || solid_m >= open_height_m(l)) {
            out_.doubts.push_back(fmt::format("wire and outer diameter would make {:.1f} active and {:.1f} "
                                              "dead coils, which loads and solid "
                                              "height do not bear out; the loads are taken, the wire is not",
                                              coil.active_coils, coil.dead_coils));
            return false;
        }
        const double weighs = (coil.active_coils + coil.dead_coils) * coil_mass_kg(coil, mean);
        if (const auto mass = known_.number("spring.mass_g"); mass && std::abs(weighs / *mass - 1) > 0.1)
            out_.doubts.push_back(
                fmt::format("these coils of steel would weigh {:.1f} g, not {:.1f} g; the coils "
                            "are taken",
                            weighs * 1e3, *mass * 1e3));
        out_.train.springs = {Spring{"spring", coil}};
        auto& tolerances = out_.train.tolerances;
        // Free length and coils carry how well the loads are known: seat load = rate times deflection.
        if (!l.seat_known)
            assume("springs[0].free_length_mm", 0.35 * l.seat_N / l.rate());
        if (!l.slope_known)
            assume("springs[0].active_coils", 0.2 * coil.active_coils);
        else
            tolerances["springs[0].active_coils"] = {Source::Tester, 0.03 * coil.active_coils};
        if (!solid)
            assume("springs[0].dead_coils", 0.5);
        return true;
    }

    void add_table(const Loads& l) {
        const double high = out_.train.installed_height_m, low = open_height_m(l);
        LoadTable table;
        const double solid = known_.number("spring.solid_height_mm").value_or(low - 2e-3);
        if (!(low > 3e-3))
            throw InputError(
                {"", "installed_height_mm",
                 fmt::format("{:.2f} mm leaves no room for a lift of {:.2f} mm", high * 1e3, l.lift_m * 1e3),
                 "look at installed height, lift and ratio"});
        if (!(solid > 0) || solid >= low)
            throw InputError({"", "spring.solid_height_mm",
                              fmt::format("{:.2f} mm is not under the height at full lift, {:.2f} mm",
                                          solid * 1e3, low * 1e3),
                              "look at solid height, installed height and lift"});
        const double higher = high + std::min(2e-3, 0.5 * l.seat_N / l.rate()); // still pressed there
        for (const double height : {0.5 * (solid + low), low, 0.5 * (low + high), high, higher}) {
            table.height_m.push_back(height);
            table.load_N.push_back(l.seat_N + l.rate() * (high - height));
        }
        table.solid_height_m = solid;
        const double stored_J = 0.5 * l.open_N * l.open_N / l.rate();
        constexpr double kStored_J_per_kg = 208; // tau2 / (4 G rho K2): 900 MPa, K = 1.25
        const auto mass = known_.number("spring.mass_g");
        table.moving_mass_kg = mass ? 0.68 * *mass : stored_J / kStored_J_per_kg;
        table.dead_mass_kg = mass ? 0.32 * *mass : 0.47 * table.moving_mass_kg;
        Spring spring{known_.nested > 1 ? "springs together" : "spring", table};
        if (known_.nested > 1) {
            spring.damping_ratio = 0.02;
            spring.friction_N = 0.04 * l.seat_N;
        }
        out_.train.springs = {spring};
        if (!l.seat_known || !l.slope_known)
            assume("springs[0].load_table", !l.seat_known && !l.slope_known ? 0.35 : 0.2);
        assume("springs[0].moving_mass_g", (mass ? 0.12 : 0.4) * table.moving_mass_kg);
        assume("springs[0].dead_mass_g", 0.3 * table.dead_mass_kg);
        if (!known_.number("spring.solid_height_mm"))
            assume("springs[0].solid_height_mm", 1.5e-3);
        if (known_.nested > 1)
            assume("springs[0].friction_N", 0.8 * spring.friction_N);
    }

    const KnownTrain& known_;
    StartedTrain out_;
    double steel_valve_kg_ = 0;
};

} // namespace

std::optional<StandIn> stands_for(const StartedTrain& started, const TrainFigures& figures,
                                  std::string_view key) {
    const Train& train = started.train;
    const auto off = [&](const std::string& place) {
        const auto at = train.tolerances.find(place);
        return at == train.tolerances.end() ? 0.0 : at->second.plus_minus;
    };
    const std::string place(key);
    if (const auto value = value_of(train, place))
        return StandIn{*value, off(place)};
    const double loads = off("springs[0].load_table");
    if (key == "spring.seat_load_N")
        return StandIn{figures.seat_load_N, loads * figures.seat_load_N};
    if (key == "spring.open_load_N")
        return StandIn{figures.open_load_N, loads * figures.open_load_N};
    if (key == "spring.rate_N_per_mm")
        return StandIn{figures.springs.front().rate_N_per_m, loads * figures.springs.front().rate_N_per_m};
    if (key == "spring.solid_height_mm")
        return StandIn{figures.springs.front().solid_height_m, off("springs[0].solid_height_mm")};
    if (key == "spring.mass_g") {
        const SpringStatics spring(train.springs.front());
        return StandIn{spring.active_mass_kg() + spring.dead_mass_kg(),
                       std::hypot(off("springs[0].moving_mass_g"), off("springs[0].dead_mass_g"))};
    }
    return std::nullopt;
}

StartedTrain start_train(const KnownTrain& known) {
    return Starter(known).make();
}

} // namespace bathmos
