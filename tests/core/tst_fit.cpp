// Each fit and safety rule: a case that triggers it and one beside it that does not; clearances against
// closed forms; waivers.
#include "core/fit/fit_rules.h"
#include "core/train/train_starter.h"
#include "support.h"

#include <functional>
#include <set>

using namespace bathmos;
using namespace bathmos::test;

namespace {

using K = PartKind;

// An assembly with parts of which nothing is said, and an engine.
struct Bench {
    Assembly assembly{starter_train(), {}};
    TrainFigures figures =
        figures_of(assembly.train, RigidMotion(assembly.train, curve_of(assembly.train.lobe)));
    Engine engine;

    Bench() {
        for (const PartKindInfo& kind : part_kinds())
            if (kind.kind != K::Cap && kind.kind != K::Shim)
                assembly.parts[kind.kind] = {1, std::string(kind.label), "", true, {}};
        assembly.train.lobe.follower = FollowerKind::Roller;
        engine.name = "engine";
    }
    Facts& facts(K kind) { return assembly.parts[kind].facts; }
};

// Worst finding of a rule after a change; empty when it says nothing.
std::optional<Severity> found(const char* rule, const std::function<void(Bench&, FitInput&)>& change) {
    Bench bench;
    FitInput input{bench.assembly, bench.figures, &bench.engine};
    change(bench, input);
    std::optional<Severity> worst;
    for (const Finding& finding : fit_findings(input))
        if (finding.rule == rule) {
            worst = worst ? std::max(*worst, finding.severity) : finding.severity;
            if (in_words(finding).find("{}") != std::string::npos || finding.reason.empty())
                return std::nullopt;
        }
    return worst;
}

#define SAYS(rule, severity, ...)                                                                            \
    QVERIFY2(found(rule,                                                                                     \
                   [](Bench& b, FitInput& in) {                                                              \
                       (void)b;                                                                              \
                       (void)in;                                                                             \
                       __VA_ARGS__;                                                                          \
                   }) == severity,                                                                           \
             rule)
constexpr std::optional<Severity> kStop = Severity::Stop, kWarn = Severity::Warn, kNothing = std::nullopt;

} // namespace

class TestFit : public QObject {
    Q_OBJECT
  private slots:
    void rules_have_keys_labels_and_sources() {
        std::set<std::string_view> keys;
        for (const FitRule& rule : fit_rules()) {
            QVERIFY(keys.insert(rule.key).second);
            QVERIFY(!rule.label.empty() && !rule.source.empty());
            QCOMPARE(find_fit_rule(rule.key), &rule);
        }
        QVERIFY(!find_fit_rule("nothing"));
    }

    void a_plain_assembly_has_no_fit_findings() {
        for (const FitRule& rule : fit_rules())
            if (rule.look)
                QVERIFY2(!found(rule.key.data(), [](Bench&, FitInput&) {}), rule.key.data());
    }

    void lock_and_retainer_tapers_must_agree() {
        SAYS("lock_angle", kStop, b.facts(K::Retainer).numbers["angle_deg"] = radians(10));
        SAYS("lock_angle", kNothing,
             b.facts(K::Retainer).numbers["angle_deg"] = b.assembly.train.locks_angle_rad);
    }
    void a_lobe_runs_under_the_follower_it_was_cut_for() {
        SAYS("follower_kind", kStop, b.facts(K::Lobe).words["cut_for"] = "flat");
        SAYS("follower_kind", kNothing, b.facts(K::Lobe).words["cut_for"] = "roller");
        SAYS("follower_kind", kStop, b.facts(K::Lobe).words["cut_for"] = "roller";
             b.facts(K::Lifter).words["face"] = "flat");
    }
    void followers_and_rockers_bear_what_their_makers_say() {
        SAYS("follower_load", kStop, b.facts(K::Lifter).numbers["rated_load_N"] = 500);
        SAYS("follower_load", kNothing, b.facts(K::Lifter).numbers["rated_load_N"] = 9000);
        // The trade states the flat follower's load at the valve, where the ratio does not count.
        SAYS("follower_load", kWarn, b.assembly.train.lobe.follower = FollowerKind::Flat;
             b.figures.open_load_N = 1700);
        SAYS("follower_load", kNothing, b.assembly.train.lobe.follower = FollowerKind::Flat;
             b.figures.open_load_N = 1500);
        // A rated load says its side: 1000 N at the valve are 1500 and more at the cam.
        SAYS("follower_load", kStop, b.facts(K::Lifter).numbers["rated_load_N"] = 1200;
             b.figures.open_load_N = 1000);
        SAYS("follower_load", kNothing, b.facts(K::Lifter).numbers["rated_load_N"] = 1200;
             b.facts(K::Lifter).words["rated_load_side"] = "valve"; b.figures.open_load_N = 1000);
        SAYS("rocker_load", kStop, b.facts(K::Rocker).numbers["rated_load_N"] = 1200;
             b.facts(K::Rocker).words["rated_load_side"] = "cam"; b.figures.open_load_N = 1000);
        SAYS("follower_load", kNothing, b.assembly.train.lobe.follower = FollowerKind::Flat;
             b.figures.open_load_N = 500);
        SAYS("rocker_load", kStop, b.facts(K::Rocker).numbers["rated_load_N"] = 500);
        SAYS("rocker_load", kNothing, b.facts(K::Rocker).numbers["rated_load_N"] = 5000);
        SAYS("rated_lift", kStop, b.facts(K::Rocker).numbers["rated_lift_mm"] = 10e-3);
        SAYS("rated_lift", kNothing, b.facts(K::Rocker).numbers["rated_lift_mm"] = 20e-3);
    }
    void seat_and_retainer_steps_locate_the_spring() {
        const auto seat = [](double step, const char* where) {
            return found("seat_step", [=](Bench& b, FitInput&) {
                b.facts(K::Spring).numbers = {{"inner_mm", 25e-3}, {"outer_mm", 36e-3}};
                b.facts(K::Seat).numbers["locates_mm"] = step;
                b.facts(K::Seat).words["locates"] = where;
            });
        };
        QVERIFY(seat(24.6e-3, "inside") == kNothing);
        QVERIFY(seat(25.2e-3, "inside") == kStop); // does not go in
        QVERIFY(seat(23.5e-3, "inside") == kWarn); // walks
        QVERIFY(seat(36.5e-3, "outside") == kNothing);
        QVERIFY(seat(35.8e-3, "outside") == kStop);
        SAYS("retainer_step", kStop, b.facts(K::Spring).numbers["inner_mm"] = 25e-3;
             b.facts(K::Retainer).numbers["locates_mm"] = 25.5e-3);
        SAYS("retainer_step", kNothing, b.facts(K::Spring).numbers["inner_mm"] = 25e-3;
             b.facts(K::Retainer).numbers["locates_mm"] = 24.8e-3);
        // without a measured diameter: mean diameter less one wire of the widest spring
        double wide = 0;
        for (const Spring& spring : starter_train().springs)
            if (const auto* coil = std::get_if<CoilGeometry>(&spring.kind))
                wide = std::max(wide, coil->mean_diameter_m.front() - coil->wire_m);
        QVERIFY(found("retainer_step", [=](Bench& b, FitInput&) {
                    b.facts(K::Retainer).numbers["locates_mm"] = wide + 0.1e-3;
                }) == kStop);
        QVERIFY(found("retainer_step", [=](Bench& b, FitInput&) {
                    b.facts(K::Retainer).numbers["locates_mm"] = wide - 0.1e-3;
                }) == kNothing);
    }
    void springs_stand_right_way_up_on_a_hard_seat() {
        SAYS("close_wound", kWarn, b.facts(K::Spring).words["close_wound"] = "up");
        SAYS("close_wound", kNothing, b.facts(K::Spring).words["close_wound"] = "down");
        SAYS("bare_head", kStop, b.engine.head_material = "aluminium"; b.assembly.parts.erase(K::Seat));
        SAYS("bare_head", kNothing, b.engine.head_material = "aluminium");
        SAYS("bare_head", kNothing, b.engine.head_material = "iron"; b.assembly.parts.erase(K::Seat));
        // a seal with a hard seat of its own is a seat
        SAYS("bare_head", kNothing, b.engine.head_material = "aluminium"; b.assembly.parts.erase(K::Seat);
             b.facts(K::Seal).words["spring_seat"] = "combined");
        SAYS("bare_head", kStop, b.engine.head_material = "aluminium"; b.assembly.parts.erase(K::Seat);
             b.facts(K::Seal).words["spring_seat"] = "none");
    }
    void the_retainer_clears_seal_and_rocker() {
        SAYS("retainer_seal", kStop,
             b.facts(K::Retainer).numbers["to_seal_mm"] = in.figures.peak_lift_m + 0.7e-3);
        SAYS("retainer_seal", kWarn,
             b.facts(K::Retainer).numbers["to_seal_mm"] = in.figures.peak_lift_m + 1.2e-3);
        SAYS("retainer_seal", kNothing,
             b.facts(K::Retainer).numbers["to_seal_mm"] = in.figures.peak_lift_m + 1.4e-3);
        SAYS("retainer_seal", kStop,
             b.facts(K::Retainer).numbers["to_seal_mm"] = in.figures.peak_lift_m + 1.4e-3;
             in.peak_lift_m = in.figures.peak_lift_m + 0.9e-3); // loft at speed eats it
        SAYS("retainer_rocker", kStop, b.facts(K::Retainer).numbers["to_rocker_mm"] = 0.4e-3);
        SAYS("retainer_rocker", kWarn, b.facts(K::Retainer).numbers["to_rocker_mm"] = 0.9e-3);
        SAYS("retainer_rocker", kNothing, b.facts(K::Retainer).numbers["to_rocker_mm"] = 1.1e-3);
    }
    void loft_eats_bind_margin() {
        SAYS("bind_at_speed", kWarn,
             in.peak_lift_m = in.figures.peak_lift_m + in.figures.bind_margin_m + 0.1e-3);
        SAYS("bind_at_speed", kNothing,
             in.peak_lift_m = in.figures.peak_lift_m + in.figures.bind_margin_m - 0.1e-3);
        SAYS("bind_at_speed", kWarn, in.peak_lift_m = in.figures.peak_lift_m; in.clashes_at_rpm = 8600);
    }
    // Coils that meet with room left meet by surge; no room left is loft. Each says so.
    void coils_that_meet_say_by_what() {
        const auto says = [](double beyond_margin_m) {
            Bench bench;
            FitInput input{bench.assembly, bench.figures, &bench.engine};
            input.peak_lift_m = input.figures.peak_lift_m + input.figures.bind_margin_m + beyond_margin_m;
            input.clashes_at_rpm = 8600;
            for (const Finding& finding : fit_findings(input))
                if (finding.rule == "bind_at_speed")
                    return in_words(finding);
            return std::string();
        };
        CONTAINS(says(-0.5e-3), "coils meet at 8600 rev/min by surge, though 0.500 mm are left");
        CONTAINS(says(0.1e-3), "coils meet at 8600 rev/min, bind margin there -0.100 mm");
        CONTAINS(says(0.1e-3), "loft");
    }
    void valves_keep_clear_of_piston_and_each_other() {
        SAYS("piston", kStop, in.piston = Clearance{0.9e-3, 0});
        SAYS("piston", kWarn, in.piston = Clearance{1.9e-3, 0});
        SAYS("piston", kNothing, in.piston = Clearance{2.1e-3, 0});
        SAYS("piston", kWarn, in.piston = Clearance{2.1e-3, 0}; in.side = ValveSide::Exhaust);
        SAYS("valves", kStop, in.other_valve = Clearance{0.5e-3, 0});
        SAYS("valves", kNothing, in.other_valve = Clearance{1.6e-3, 0});
    }
    void titanium_runs_on_what_it_bears() {
        SAYS("titanium_guide", kStop, b.facts(K::Valve).words["material"] = "titanium";
             b.facts(K::Guide).words["material"] = "iron");
        SAYS("titanium_guide", kNothing, b.facts(K::Valve).words["material"] = "titanium";
             b.facts(K::Guide).words["material"] = "bronze");
        SAYS("titanium_guide", kNothing, b.facts(K::Guide).words["material"] = "iron");
        SAYS("titanium_seal", kStop, b.facts(K::Valve).words["material"] = "titanium";
             b.facts(K::Seal).words["titanium_fit"] = "no");
        SAYS("titanium_seal", kNothing, b.facts(K::Valve).words["material"] = "titanium";
             b.facts(K::Seal).words["titanium_fit"] = "yes");
        SAYS("titanium_seat", kStop, b.facts(K::Valve).words["material"] = "titanium";
             b.engine.valve_seat_material = "iron");
        SAYS("titanium_seat", kNothing, b.facts(K::Valve).words["material"] = "titanium";
             b.engine.valve_seat_material = "bronze");
    }
    void springs_are_replaced_in_time() {
        const auto life = [](double run) {
            return found("spring_life", [=](Bench& b, FitInput&) {
                b.facts(K::Spring).numbers = {{"rated_cycles", 10}, {"run_cycles", run}};
            });
        };
        QVERIFY(life(7.9) == kNothing);
        QVERIFY(life(8.5) == kWarn);
        QVERIFY(life(10) == kStop);
    }
    void parts_are_replaced_in_time_by_the_record_of_their_use() {
        const auto aged = [](const char* rule, K kind, double used) {
            return found(rule, [=](Bench& b, FitInput& in) {
                b.facts(K::Spring).numbers = {{"rated_cycles", 10},
                                              {"run_cycles", 9.9}}; // the record knows better
                in.ages[kind] = {used, "66 of 80 runs"};
            });
        };
        QVERIFY(aged("part_life", K::Locks, 0.79) == kNothing);
        QVERIFY(aged("part_life", K::Locks, 0.8) == kWarn);
        QVERIFY(aged("part_life", K::Retainer, 1) == kStop);
        QVERIFY(aged("spring_life", K::Spring, 0.5) == kNothing);
        QVERIFY(aged("spring_life", K::Spring, 1.2) == kStop);
        QVERIFY(aged("part_life", K::Spring, 1.2) == kNothing); // told once
    }
    void the_witness_mark_stays_on_the_tip() {
        const auto mark = [](double middle, double width) {
            return found("tip_mark", [=](Bench& b, FitInput&) {
                b.facts(K::Valve).numbers = {
                    {"tip_mm", 7e-3}, {"mark_offset_mm", middle}, {"mark_width_mm", width}};
            });
        };
        QVERIFY(mark(0, 3e-3) == kNothing);
        QVERIFY(mark(-1.5e-3, 3e-3) == kWarn); // 0.5 mm of edge
        QVERIFY(mark(2.5e-3, 3e-3) == kStop);
        SAYS("tip_mark", kNothing, b.assembly.parts[K::Cap] = {};
             b.facts(K::Valve).numbers = {{"tip_mm", 7e-3}, {"mark_offset_mm", 3e-3}}); // a cap widens it
    }
    void unknown_pasts_and_open_checks_are_told() {
        SAYS("history", kWarn, b.assembly.parts[K::Spring].history_known = false);
        SAYS("history", kNothing, b.assembly.parts[K::Spring].history_known = true);
        SAYS("unchecked", kWarn, in.open.push_back({Check::Lash, 2, "swapped"}));
        SAYS("unchecked", kNothing, in.open.clear());
    }

    void the_piston_follows_crank_and_rod() {
        Engine engine;
        engine.stroke_m = 80e-3;
        engine.rod_m = 150e-3;
        NEAR(piston_drop_m(engine, 0), 0, 1e-15);
        NEAR(piston_drop_m(engine, kPi), 80e-3, 1e-15);
        NEAR(piston_drop_m(engine, kPi / 2), 0.04 + 0.15 - std::sqrt(0.15 * 0.15 - 0.04 * 0.04), 1e-15);
    }

    void piston_clearance_is_drop_plus_piston_less_lift() {
        Engine engine;
        engine.stroke_m = 80e-3;
        engine.rod_m = 150e-3;
        engine.intake_drop_m = engine.exhaust_drop_m = 6e-3;
        Build build;
        build.centreline_rad = radians(108);
        // a triangle of a lift that stands at 2 mm at dead centre and rises 0.1 mm a degree: the piston runs
        // away slower at first
        const LiftOf lift = [](double nose_deg) {
            return std::max(0.0, 12.8e-3 - 0.1e-3 * std::abs(nose_deg));
        };
        const auto gap = piston_clearance(engine, build, lift);
        QVERIFY(gap.has_value());
        double least = 1, where = 0;
        for (double deg = -20; deg <= 252; deg += 0.5) {
            const double g = 6e-3 + piston_drop_m(engine, radians(deg)) - lift(deg - 108);
            if (g < least) {
                least = g;
                where = deg;
            }
        }
        NEAR(gap->least_m, least, 1e-9);
        NEAR(gap->crank_deg, where, 0.51);
        // an exhaust valve is the mirror image
        build.side = ValveSide::Exhaust;
        const auto mirrored =
            piston_clearance(engine, build, [&](double nose_deg) { return lift(-nose_deg); });
        NEAR(mirrored->least_m, least, 1e-9);
        NEAR(mirrored->crank_deg, -where, 0.51);
        engine.intake_drop_m = engine.exhaust_drop_m = 0;
        QVERIFY(!piston_clearance(engine, build, lift)); // not given, nothing claimed
    }

    void valves_that_lean_to_each_other_come_close() {
        Engine engine;
        engine.heads_apart_m = 44e-3;
        Build intake, exhaust;
        exhaust.side = ValveSide::Exhaust;
        intake.centreline_rad = exhaust.centreline_rad = radians(108);
        const LiftOf closed = [](double) { return 0.0; }, ten = [](double) { return 10e-3; };
        const auto gap = [&](const LiftOf& in, const LiftOf& ex) {
            return valve_clearance(engine, intake, 46e-3, in, exhaust, 38e-3, ex)->least_m;
        };
        NEAR(gap(closed, closed), 44e-3 - 42e-3, 1e-12);       // edges 2 mm apart
        NEAR(gap(ten, closed), std::hypot(2e-3, 10e-3), 1e-9); // parallel: it passes below
        engine.intake_angle_rad = engine.exhaust_angle_rad = radians(20);
        const double at_rest = gap(closed, closed);
        QVERIFY(gap(ten, ten) < at_rest); // both run to the middle
        // by hand: edges at rest rise towards each other by the tilt
        NEAR(at_rest,
             std::hypot(44e-3 - 42e-3 * std::cos(radians(20)), (23e-3 - 19e-3) * std::sin(radians(20))),
             1e-9);
        engine.heads_apart_m = 30e-3;
        NEAR(gap(ten, ten), 0, 1e-12); // they cross
    }

    void a_waiver_holds_until_its_parts_change() {
        Project p;
        const Bench bench;
        p.revisions[1] = {1, 0, "", "", "", bench.assembly};
        p.revisions[2] = {1, 1, "", "", "", bench.assembly};
        p.revisions[2].assembly.train.lash_m += 1e-4;
        p.revisions[3] = {1, 1, "", "", "", bench.assembly};
        p.revisions[3].assembly.train.locks_mass_kg += 1e-3;
        const FitRule& rule = *find_fit_rule("lock_angle");
        QCOMPARE(waiver_of(p, 1, rule), Id(0));
        p.of(EntryKind::Waiver)[5] = {"waiver", 1, "", "", "measured again", {}, {waiver_key(rule)}, {}};
        QCOMPARE(waiver_of(p, 1, rule), Id(5));
        QCOMPARE(waiver_of(p, 2, rule), Id(5)); // lash is no part of the rule
        QCOMPARE(waiver_of(p, 3, rule), Id(0)); // the locks changed
        p.of(EntryKind::Waiver)[6] = p.of(EntryKind::Waiver)[5];
        p.of(EntryKind::Waiver)[6].revision = 3;
        QCOMPARE(waiver_of(p, 3, rule), Id(6));
        QCOMPARE(waiver_of(p, 1, *find_fit_rule("piston")), Id(0));
        // a height is no part, yet it is what coil bind is about
        const FitRule& bind = *find_fit_rule("coil_bind");
        p.of(EntryKind::Waiver)[7] = {"waiver", 1, "", "", "short run", {}, {waiver_key(bind)}, {}};
        QCOMPARE(waiver_of(p, 2, bind), Id(7));
        p.revisions[2].assembly.train.installed_height_m -= 1e-3;
        QCOMPARE(waiver_of(p, 2, bind), Id(0));
    }
};

QTEST_APPLESS_MAIN(TestFit)
#include "tst_fit.moc"
