// Sheets that are read by keys, against closed forms: masses, rocker, lash, mark, clearances, near solid,
// contact, degree wheel; and the slips that each must tell.
#include "core/bench/keyed_sheet.h"
#include "core/bench/sheet_effect.h"
#include "core/bench/sheet_kind.h"
#include "core/problem/input_error.h"
#include "core/rocker/rocker_geometry.h"
#include "core/train/train_starter.h"
#include "support.h"

#include <fmt/format.h>
#include <random>
#include <set>

using namespace bathmos;
using namespace bathmos::test;
using namespace bathmos::bench;

namespace {

using Fields = std::map<std::string, double>; // in the units of their kind

KeyedSheet sheet(const std::string& kind, const Fields& fields,
                 const std::vector<std::pair<std::string, Fields>>& rows = {}) {
    const SheetKind* known = find_sheet_kind(kind);
    const auto unit = [](const std::vector<SheetField>& of, const std::string& key) {
        for (const SheetField& field : of)
            if (field.key == key)
                return unit_of(field.quantity).to_si;
        qFatal("no key %s", key.c_str());
    };
    KeyedSheet out;
    out.kind = kind;
    for (const auto& [key, value] : fields)
        out.fields[key] = readings_of({value * unit(known->fields, key)});
    for (const auto& [name, cells] : rows) {
        KeyedSheet::Row row;
        row.name = name;
        for (const auto& [key, value] : cells)
            row.cells[key] = readings_of({value * unit(known->columns, key)});
        out.rows.push_back(std::move(row));
    }
    return out;
}

const AnswerValue& value(const KeyedAnswer& answer, const std::string& key) {
    for (const AnswerValue& one : answer.values)
        if (one.key == key)
            return one;
    qFatal("no answer %s", key.c_str());
}
double si(const KeyedAnswer& answer, const std::string& key) {
    return value(answer, key).figure->value;
}
double item(const KeyedAnswer& answer, std::size_t i, const std::string& key) {
    for (const AnswerValue& one : answer.items.at(i).values)
        if (one.key == key)
            return one.figure->value;
    qFatal("no item %s", key.c_str());
}
bool tells(const KeyedAnswer& answer, const std::string& rule) {
    return std::any_of(answer.told.begin(), answer.told.end(),
                       [&](const Told& one) { return one.rule == rule; });
}

Train train() {
    return starter_train();
}

#define REFUSED(statement, part)                                                                             \
    do {                                                                                                     \
        const InputProblem problem = problem_of([&] { statement; });                                         \
        CONTAINS(problem.location + ": " + problem.what + ", " + problem.mend, part);                        \
    } while (false)

} // namespace

class TstKeyedSheets : public QObject {
    Q_OBJECT

  private slots:
    void every_kind_that_is_listed_has_an_answer_or_a_reader_of_its_own() {
        std::set<std::string_view> own = {"spring", "spring_set", "height",
                                          "ratio",  "stiffness",  "rocker_inertia"};
        for (const SheetKind& kind : sheet_kinds())
            QVERIFY2(read_by_keys(kind.key) != own.contains(kind.key), std::string(kind.key).c_str());
        REFUSED(answer_of(sheet("lash", {}), nullptr), "no valve");
    }

    void masses_go_into_the_train_with_the_scales_zero_and_drift_taken_out() {
        const Fields read = {{"zero_before_mass_g", 0.2}, {"zero_after_mass_g", 0.4},
                             {"resolution_mass_g", 0.1},  {"valve_g", 80.3},
                             {"retainer_g", 18.3},        {"locks_g", 4.3},
                             {"spring_g", 60.3}};
        const KeyedAnswer answer = answer_of(sheet("weigh", read));
        NEAR(item(answer, 0, "mass_g"), 0.080,
             1e-9); // half of the drift of 0.2 g is over at a single reading
        // A spring without a train is all active: a third of it moves.
        NEAR(si(answer, "moving_g"), 0.080 + 0.018 + 0.004 + 0.060 / 3,
             1e-9); // the spring lay on the same scale
        QVERIFY(answer.closes == std::vector<Check>{Check::Mass});
        QVERIFY(value(answer, "moving_g").figure->sd > 0);
        Train heavy = train();
        const SheetEffect effect = effect_of(answer, heavy);
        QCOMPARE(effect.changes.size(), std::size_t(3));
        NEAR(effect.changes[0].after, 0.080, 1e-9);
        QVERIFY(effect.changes[0].tolerance.source == Source::Scale);
        heavy = with_changes(heavy, effect, {"valve.mass_g"});
        NEAR(heavy.valve.mass_kg, 0.080, 1e-9);
    }
    void kinetic_energy_is_half_of_mass_times_speed_squared() {
        const Train one = train();
        const KeyedAnswer answer = answer_of(sheet("weigh", {{"valve_g", 100}, {"speed_rpm", 6000}}), &one);
        const RigidMotion rigid(one, curve_of(one.lobe));
        double fastest = 0;
        for (double deg = -90; deg < 90; deg += 0.25)
            fastest =
                std::max(fastest, std::abs(rigid.lift_m(radians(deg + 0.25)) - rigid.lift_m(radians(deg))) /
                                      radians(0.25));
        fastest *= cam_speed_rad_s(6000);
        CONTAINS(answer.lines.front().in_words(), "50.0 openings a second");
        CONTAINS(answer.lines.front().in_words(),
                 fmt::format("{:.1f}", 0.05 * fastest * fastest).substr(0, 3));
    }
    void a_set_is_matched_to_the_lightest_and_another_part_is_left_out() {
        const KeyedAnswer answer = answer_of(sheet("weigh_set", {{"match_g", 0.05}},
                                                   {{"a", {{"mass_g", 18.40}}},
                                                    {"b", {{"mass_g", 18.22}}},
                                                    {"c", {{"mass_g", 18.25}}},
                                                    {"d", {{"mass_g", 16.10}}}}));
        NEAR(si(answer, "lightest_g"), 0.01822, 1e-9);
        NEAR(item(answer, 0, "take_off_g"), 0.18e-3, 1e-9);
        NEAR(item(answer, 2, "take_off_g"), 0, 1e-12); // alike within 0.05 g
        QVERIFY(tells(answer, "other_part"));
        REFUSED(answer_of(sheet("weigh_set", {}, {{"a", {{"mass_g", 18}}}})), "two parts");
    }
    void two_even_arms_have_the_inertia_of_two_bars() {
        // 60 g over 40 mm and 30 g over 25 mm: each bar's weight lies half at its end when rested on two
        // tips.
        const double m1 = 0.060, m2 = 0.030, a = 0.040, b = 0.025;
        const double centre = (m1 * a / 2 - m2 * b / 2) / (m1 + m2);
        const double end = (m1 + m2) * (centre + b) / (a + b);
        const KeyedAnswer answer = answer_of(
            sheet("rocker_scale",
                  {{"mass_g", 90}, {"valve_end_g", end * 1e3}, {"output_arm_mm", 40}, {"input_arm_mm", 25}}));
        NEAR(si(answer, "inertia_kg_mm2"), (m1 * a * a + m2 * b * b) / 3, 1e-10);
        NEAR(si(answer, "centre_mm"), centre, 1e-9);
        REFUSED(answer_of(sheet(
                    "rocker_scale",
                    {{"mass_g", 90}, {"valve_end_g", 89}, {"output_arm_mm", 40}, {"input_arm_mm", 25}})),
                "centre of mass");
    }

    void lash_says_what_to_turn_what_it_grows_by_and_what_wears() {
        const KeyedAnswer answer =
            answer_of(sheet("lash", {{"wanted_mm", 0.45}},
                            {{"1i", {{"cold_mm", 0.40}, {"hot_mm", 0.45}, {"before_mm", 0.40}}},
                             {"2i", {{"cold_mm", 0.52}, {"hot_mm", 0.57}, {"before_mm", 0.40}}},
                             {"3i", {{"cold_mm", 0.28}, {"hot_mm", 0.33}, {"before_mm", 0.40}}}}));
        NEAR(item(answer, 0, "grows_mm"), 0.05e-3, 1e-9);
        NEAR(item(answer, 1, "to_turn_mm"), 0.12e-3, 1e-9);
        NEAR(item(answer, 2, "moved_mm"), -0.12e-3, 1e-9);
        NEAR(si(answer, "lash_mm"), 0.45e-3, 1e-9);
        QVERIFY(tells(answer, "opens") && tells(answer, "closes") && tells(answer, "off"));
        QCOMPARE(std::count_if(answer.told.begin(), answer.told.end(),
                               [](const Told& one) { return one.rule == "off"; }),
                 2);
        QVERIFY(answer.closes.empty()); // what is to be turned is not set
        QVERIFY(answer_of(sheet("lash", {{"wanted_mm", 0.45}}, {{"1i", {{"cold_mm", 0.44}}}})).closes ==
                std::vector<Check>{Check::Lash});
    }
    void a_name_with_braces_is_text_and_no_pattern() {
        const KeyedAnswer answer =
            answer_of(sheet("lash", {{"wanted_mm", 0.2}}, {{"{}{:x}", {{"cold_mm", 0.40}}}}));
        CONTAINS(answer.told.front().text.in_words(), "valve {}{:x}: 0.400 mm where 0.200 mm");
    }
    void feelers_that_scatter_as_feelers_do_cry_no_wear() {
        std::mt19937 draw(5);
        std::normal_distribution<double> feel(0, 0.015);
        int wolf = 0;
        for (int round = 0; round < 400; ++round)
            wolf +=
                !answer_of(sheet("lash", {},
                                 {{"1", {{"cold_mm", 0.4 + feel(draw)}, {"before_mm", 0.4 + feel(draw)}}}}))
                     .told.empty();
        QVERIFY2(wolf < 8, qPrintable(QString::number(wolf)));
    }

    void a_mark_is_judged_by_its_edge_and_by_both_schools() {
        const KeyedAnswer good =
            answer_of(sheet("mark", {{"width_mm", 1.1}, {"offset_mm", 0.3}, {"tip_mm", 8}}));
        NEAR(si(good, "edge_mm"), (4 - 0.3 - 0.55) * 1e-3, 1e-9);
        QVERIFY(good.told.empty());
        const Fields off = {{"width_mm", 2.0}, {"offset_mm", 2.4}, {"tip_mm", 8}};
        const KeyedAnswer bad = answer_of(sheet("mark", off));
        QVERIFY(tells(bad, "near_edge") && tells(bad, "wide"));
        Fields capped = off;
        capped["cap_mm"] = 11;
        QVERIFY(!tells(answer_of(sheet("mark", capped)), "near_edge")); // a cap widens the tip
    }

    void gaps_lose_the_lift_and_what_the_motion_adds() {
        const std::vector<std::pair<std::string, Fields>> piston = {
            {"", {{"crank_deg", -10}, {"gap_mm", 3.4}}},
            {"", {{"crank_deg", -4}, {"gap_mm", 2.6}}},
            {"", {{"crank_deg", 2}, {"gap_mm", 3.1}}}};
        const KeyedAnswer answer = answer_of(sheet(
            "clearance", {{"lift_mm", 12.0}, {"loft_mm", 0.8}, {"to_seal_mm", 13.5}, {"to_rocker_mm", 0.7}},
            piston));
        NEAR(si(answer, "to_seal_mm_left"), 0.7e-3, 1e-9);
        NEAR(si(answer, "to_rocker_mm_left"), 0.7e-3, 1e-9); // read over the whole lift
        NEAR(si(answer, "piston_mm"), 1.8e-3, 1e-9);
        NEAR(si(answer, "piston_at_deg"), radians(-4), 1e-9);
        QVERIFY(tells(answer, "seal_too_close") && tells(answer, "rocker_too_close") &&
                tells(answer, "piston_too_close"));
        QVERIFY(answer.closes.empty()); // a gap that is too small is no answer
        const KeyedAnswer good = answer_of(
            sheet("clearance", {{"lift_mm", 12.0}, {"to_seal_mm", 14}, {"to_rocker_mm", 1.4}}, piston));
        QVERIFY(good.told.empty());
        QVERIFY((good.closes ==
                 std::vector<Check>{Check::RetainerToSeal, Check::RetainerToRocker, Check::PistonToValve}));
        auto cut = piston;
        cut.pop_back();
        const KeyedAnswer half = answer_of(sheet("clearance", {{"lift_mm", 12.0}}, cut));
        QVERIFY(tells(half, "range_too_short"));
        QVERIFY(half.closes.empty());
    }

    void two_valves_are_judged_by_their_own_gap() {
        const std::vector<std::pair<std::string, Fields>> overlap = {
            {"", {{"crank_deg", -6}, {"other_mm", 1.9}}},
            {"", {{"crank_deg", 0}, {"gap_mm", 4.0}, {"other_mm", 1.6}}},
            {"", {{"crank_deg", 6}, {"other_mm", 2.0}}}};
        const KeyedAnswer good =
            answer_of(sheet("clearance", {{"lift_mm", 12.0}, {"loft_mm", 0.4}}, overlap));
        NEAR(si(good, "other_valve_mm"), 1.2e-3, 1e-9);
        NEAR(si(good, "other_valve_at_deg"), 0, 1e-12);
        QVERIFY(tells(good, "range_too_short")); // one reading to the piston is no least
        QVERIFY((good.closes == std::vector<Check>{Check::ValveToValve}));
        const KeyedAnswer bad = answer_of(
            sheet("clearance", {{"lift_mm", 12.0}, {"loft_mm", 0.4}, {"other_least_mm", 1.5}}, overlap));
        QVERIFY(tells(bad, "valves_too_close"));
        QVERIFY(bad.closes.empty());
    }

    void a_spring_on_its_step_has_room_and_a_height_of_its_own() {
        const std::vector<std::pair<std::string, Fields>> nested = {
            {"outer", {{"step_diameter_mm", 30.0}, {"inside_mm", 30.2}, {"step_mm", 4.0}}},
            {"inner", {{"step_diameter_mm", 22.3}, {"outside_mm", 22.1}, {"step_mm", 6.5}}}};
        const KeyedAnswer good = answer_of(sheet("steps", {{"height_mm", 46.0}}, nested));
        QVERIFY(good.told.empty());
        QVERIFY((good.closes == std::vector<Check>{Check::SpringFit}));
        NEAR(item(good, 0, "room_mm"), 0.2e-3, 1e-9);
        NEAR(item(good, 1, "room_mm"), 0.2e-3, 1e-9);
        NEAR(item(good, 0, "height_mm"), 46e-3, 1e-9);
        NEAR(item(good, 1, "height_mm"), 43.5e-3, 1e-9); // a deeper step is nearer the seat
        auto wrong = nested;
        wrong[0].second["inside_mm"] = 30.6;
        wrong[1].second["outside_mm"] = 22.4;
        const KeyedAnswer bad = answer_of(sheet("steps", {}, wrong));
        QVERIFY(tells(bad, "loose") && tells(bad, "tight"));
        QVERIFY(bad.closes.empty());
        REFUSED(answer_of(sheet("steps", {}, {{"outer", {{"step_diameter_mm", 30}}}})), "inside_mm");
    }

    void other_rods_move_the_path_on_the_tip_and_the_lift() {
        Train train = starter_train();
        RockerGeometry bent = usual_geometry(train);
        bent.arms_angle_rad = radians(150);
        train.rocker->ratio = bent;
        const KeyedAnswer answer =
            answer_of(sheet("mark", {{"width_mm", 1.1}, {"offset_mm", 0.3}, {"tip_mm", 8}}), &train);
        QCOMPARE(answer.of_each, std::string("rods"));
        QCOMPARE(answer.items.size(), std::size_t(5));
        NEAR(item(answer, 2, "offset_mm"), si(answer, "computed_offset_mm"), 1e-12);
        // A longer rod turns the rocker to where the linkage of that rod stands.
        const RockerLinkage longer(bent, train.rocker->input_arm_m, train.rocker->output_arm_m,
                                   train.pushrod->length_m + 2.54e-3);
        NEAR(item(answer, 4, "peak_lift_mm"), longer.at(curve_of(train.lobe).at(0)).travel_m, 1e-12);
        QVERIFY(std::abs(item(answer, 2, "offset_mm") - item(answer, 4, "offset_mm")) > 1e-4);
        QVERIFY(item(answer, 4, "low_ratio") != item(answer, 4, "nose_ratio"));
    }

    void a_head_is_shimmed_from_what_lies_there_each_shim_once() {
        const std::vector<std::pair<std::string, Fields>> heights = {
            {"1", {{"height_mm", 45.40}, {"ball_depth_mm", 2.10}}},
            {"2", {{"height_mm", 45.02}, {"ball_depth_mm", 2.12}}},
            {"3", {{"height_mm", 45.80}, {"ball_depth_mm", 2.35}}},
            {"4", {{"height_mm", 44.70}, {"ball_depth_mm", 2.09}}}};
        KeyedSheet head = sheet("head", {{"wanted_mm", 45.0}}, heights);
        head.fields["shims_mm"].repeats = {{0.4e-3, 0.5e-3, 0.3e-3}};
        const Train one = train();
        const KeyedAnswer answer = answer_of(head, &one);
        NEAR(item(answer, 0, "shim_mm"), 0.4e-3, 1e-9);
        NEAR(item(answer, 1, "shim_mm"), 0, 1e-12);
        NEAR(item(answer, 2, "shim_mm"), 0.8e-3, 1e-9); // the widest gap chose first: 0.5 and 0.3
        NEAR(item(answer, 2, "seat_N") - item(answer, 2, "before_N"),
             SpringStatics(one.springs[0]).load_N(0.045) - SpringStatics(one.springs[0]).load_N(0.0458),
             1e-6);
        QVERIFY(tells(answer, "out_of_reach")); // the fourth is short
        QVERIFY(tells(answer, "retainer_differs"));
        QVERIFY(answer.closes.empty());
        const KeyedAnswer even = answer_of(sheet(
            "head", {{"wanted_mm", 45.0}}, {{"1", {{"height_mm", 45.05}}}, {"2", {{"height_mm", 44.98}}}}));
        QVERIFY(even.closes == std::vector<Check>{Check::InstalledHeight});
        NEAR(si(even, "height_mm"), 45.015e-3, 1e-9);
        REFUSED(answer_of(sheet("head", {{"wanted_mm", 45}})), "0 valves");
    }

    void the_height_for_a_margin_is_solid_plus_lift_plus_loft_plus_margin() {
        const Train one = train();
        const double lift = RigidMotion(one, curve_of(one.lobe)).peak_m();
        const KeyedAnswer answer =
            answer_of(sheet("near_solid", {{"margin_mm", 1.5}, {"loft_mm", 0.4}}), &one);
        double tallest = 0;
        for (const Spring& spring : one.springs)
            tallest = std::max(tallest, SpringStatics(spring).solid_height_m() + lift + 1.9e-3);
        NEAR(si(answer, "height_mm"), tallest, 1e-9);
        NEAR(si(answer, "shim_mm"), one.installed_height_m - tallest, 1e-9);
        double seat = 0;
        for (const Spring& spring : one.springs)
            seat += SpringStatics(spring).load_N(tallest);
        NEAR(si(answer, "seat_N"), seat, 1e-6);
        QVERIFY(answer.told.empty());
        CONTAINS(answer.lines.front().in_words(), "close school");
        const KeyedAnswer tight = answer_of(sheet("near_solid", {{"margin_mm", 0.5}}), &one);
        QVERIFY(tells(tight, "under_close"));
        REFUSED(answer_of(sheet("near_solid", {{"margin_mm", 1}})), "train");
    }

    void the_stress_on_the_nose_is_that_of_two_cylinders() {
        Train one = train();
        one.lobe.base_radius_m = 0.016;
        one.lobe.follower = FollowerKind::Roller;
        one.lobe.follower_radius_m = 0.0095;
        const KeyedAnswer answer = answer_of(sheet("contact", {{"width_mm", 12}, {"allowed_MPa", 10}}), &one);
        // The radius of the nose by the circle through three points of the contour's roller path.
        const LobeCurve curve = curve_of(one.lobe);
        const auto path = [&](double t) {
            const double r = one.lobe.base_radius_m + one.lobe.follower_radius_m + curve.at(t);
            return std::pair{r * std::sin(t), r * std::cos(t)};
        };
        const double step = 0.004;
        const auto [x1, y1] = path(step);
        const auto [x0, y0] = path(0);
        const double sagitta = y0 - y1, pitch = (x1 * x1 + sagitta * sagitta) / (2 * sagitta);
        const double nose = pitch - one.lobe.follower_radius_m;
        const double modulus = 207e9 / (2 * (1 - 0.09));
        const double stress = std::sqrt(si(answer, "nose_N") * modulus *
                                        (1 / nose + 1 / one.lobe.follower_radius_m) / (kPi * 0.012));
        QVERIFY(x0 == 0);
        NEAR(si(answer, "nose_MPa"), stress, 1e-3 * stress);
        QVERIFY(tells(answer, "over"));
        // As the speed rises from idle the inertia takes load off the nose and puts it on the flanks.
        const double slow =
            si(answer_of(sheet("contact", {{"width_mm", 12}, {"speed_rpm", 3000}}), &one), "flank_MPa");
        const double fast =
            si(answer_of(sheet("contact", {{"width_mm", 12}, {"speed_rpm", 9000}}), &one), "flank_MPa");
        QVERIFY(fast > slow);
    }

    void parts_in_series_give_what_they_must_seen_from_the_valve() {
        const double ratio = 1.6, tube = 205e9 * kPi / 4 * (9.5e-3 * 9.5e-3 - 6.3e-3 * 6.3e-3) / 0.2,
                     beam = 3 * 70e9 * (20e-3 * std::pow(30e-3, 3) / 12) / std::pow(40e-3, 3);
        const KeyedAnswer answer = answer_of(
            sheet("compliance", {},
                  {{"Rocker nose",
                    {{"length_mm", 40}, {"width_mm", 20}, {"depth_mm", 30}, {"modulus_GPa", 70}}},
                   {"stand", {{"stiffness_N_per_mm", 60000}}},
                   {"pushrod", {{"length_mm", 200}, {"outer_mm", 9.5}, {"inner_mm", 6.3}, {"ratio", ratio}}},
                   {"ball ends", {{"stiffness_N_per_mm", 30000}, {"ratio", ratio}}},
                   {"valve cap", {{"stiffness_N_per_mm", 900000}}}}),
            nullptr);
        const double give = 1 / beam + 1 / 60e6 + ratio * ratio * (1 / tube + 1 / 30e6) + 1 / 900e6;
        NEAR(si(answer, "valve_N_per_mm"), 1 / give, 1e-6 / give);
        NEAR(item(answer, 0, "part_N_per_mm"), beam, 1e-6 * beam);
        NEAR(item(answer, 3, "at_valve_N_per_mm"), 30e6 / (ratio * ratio), 1);
        double shares = 0;
        for (std::size_t i = 0; i < 5; ++i)
            shares += item(answer, i, "share");
        NEAR(shares, 1, 1e-9);
        QVERIFY(tells(answer, "nowhere")); // the cap is no number of a train
        CONTAINS(answer.lines.front().in_words(), "ball ends: the one to mend first");
        // What the train takes over: at the valve, and on the rod's side.
        QCOMPARE(answer.found.size(), std::size_t(2));
        NEAR(answer.found[0].figure.value, 1 / (1 / beam + 1 / 60e6), 1);
        NEAR(answer.found[1].figure.value, 1 / (1 / tube + 1 / 30e6), 1);
        Train one = train();
        const SheetEffect effect = effect_of(answer, one);
        one = with_changes(one, effect, {"rocker.stiffness_N_per_mm"});
        NEAR(one.rocker->stiffness_N_per_m, answer.found[0].figure.value, 1);
        REFUSED(answer_of(sheet("compliance", {}, {{"rod", {{"length_mm", 200}}}}), nullptr),
                "is missing at");
        REFUSED(answer_of(sheet("compliance", {},
                                {{"rod", {{"length_mm", 200}, {"outer_mm", 8}, {"inner_mm", 9}}}}),
                          nullptr),
                "no wall");
    }

    void a_lobe_read_by_hand_has_its_durations_and_is_held_against_its_card() {
        // A triangle is exact under straight lines: 8 mm at 5 degrees, 0 at 65 degrees away.
        std::vector<std::pair<std::string, Fields>> rows;
        for (int deg = -90; deg <= 90; deg += 5)
            rows.push_back(
                {"",
                 {{"cam_deg", double(deg)}, {"rise_mm", std::max(0.0, 8 - std::abs(deg - 5) * 8 / 60.0)}}});
        const Fields card = {{"card_lift_mm", 8.3}, {"card_duration_deg", 212}, {"card_height_mm", 1.0}};
        const KeyedAnswer answer = answer_of(sheet("degree_wheel", card, rows));
        NEAR(si(answer, "lift_mm"), 8e-3, 1e-9);
        NEAR(si(answer, "nose_deg"), radians(5), 1e-9);
        // 1 mm at 52.5 degrees each side: 210 degrees of crank; straight lines lose nothing of a triangle.
        NEAR(si(answer, "card_off_deg"), radians(-2), 1e-6);
        QVERIFY(tells(answer, "card_lift") && tells(answer, "card_duration"));
        QVERIFY(
            tells(answer_of(sheet("degree_wheel", {{"card_duration_deg", 212}}, rows)), "not_comparable"));
        std::swap(rows[3], rows[4]);
        REFUSED(answer_of(sheet("degree_wheel", {}, rows)), "one way only");
    }

    void coarse_readings_of_a_smooth_lobe_tell_its_durations() {
        const auto rise_mm = [](double deg) { // flanks bend both ways
            const double u = std::abs(deg) / 72;
            return u >= 1 ? 0.0 : 8.4 * std::pow(1 - u * u, 3) * (1 + 1.1 * u * u);
        };
        std::vector<std::pair<std::string, Fields>> rows;
        for (int deg = -90; deg <= 90; deg += 5)
            rows.push_back({"", {{"cam_deg", double(deg)}, {"rise_mm", rise_mm(deg)}}});
        const KeyedAnswer answer = answer_of(
            sheet("degree_wheel", {{"resolution_rise_mm", 0.01}, {"resolution_cam_deg", 0.5}}, rows));
        NEAR(si(answer, "lift_mm"), 8.4e-3, 5e-6);
        const std::vector<std::pair<std::string, double>> heights = {
            {"at 0.5 mm", 0.5}, {"at 1.27 mm", 1.27}, {"at 5 mm", 5.0}};
        for (const AnswerItem& one : answer.items)
            for (const auto& asked : heights) {
                if (asked.first != one.name)
                    continue;
                double low = 0, high = 72; // where it crosses, by halving
                for (int i = 0; i < 60; ++i)
                    (rise_mm((low + high) / 2) > asked.second ? low : high) = (low + high) / 2;
                NEAR(degrees(one.values[0].figure->value), 4 * low, 0.25); // both flanks, of the crank
                QVERIFY(degrees(one.values[0].figure->sd) > 2 * 0.5 / std::sqrt(12.0));
            }
        QCOMPARE(answer.items.size(), std::size_t(6));
        // Of instruments that nothing is known of, no deviation is claimed.
        QCOMPARE(value(answer_of(sheet("degree_wheel", {}, rows)), "lift_mm").figure->sd, 0.0);
    }

    void numbers_that_no_bench_reads_are_refused_by_their_key() {
        REFUSED(answer_of(sheet("weigh", {{"valve_g", 9e6}})), "valve_g");
        REFUSED(answer_of(sheet("mark", {{"width_mm", 900}, {"offset_mm", 0}, {"tip_mm", 8}})), "width_mm");
        REFUSED(answer_of(sheet("mark", {{"width_mm", 1}, {"offset_mm", 0}})), "tip_mm");
        REFUSED(answer_of(sheet("clearance", {{"lift_mm", 12}})), "no gap");
        REFUSED(answer_of(sheet("weigh", {})), "nothing was weighed");
    }
};

QTEST_APPLESS_MAIN(TstKeyedSheets)
#include "tst_keyed_sheets.moc"
