// Trains from what is known: cards met, loads met, the rest marked as assumed, and honest about it.
#include "core/lobe/lobe_events.h"
#include "core/problem/input_error.h"
#include "core/start/assumption_rules.h"
#include "core/start/lobe_card.h"
#include "core/start/start_train.h"
#include "core/start/worth_knowing.h"
#include "core/train/assumed.h"
#include "core/train/train_check.h"
#include "core/train/train_figures.h"
#include "core/uncertainty/uncertain_inputs.h"
#include "io/train/train_file.h"
#include "support.h"

#include <algorithm>

using namespace bathmos;
using namespace bathmos::test;

namespace {

double crank_deg(const LobeCurve& curve, double height_m) {
    return crossings_at([&](double theta) { return curve.at(theta); }, height_m)->duration_crank_deg();
}

KnownTrain bench_pushrod() {
    KnownTrain known;
    known.name = "Bench";
    known.numbers = {{"valve.head_diameter_mm", 44e-3},
                     {"valve.stem_diameter_mm", 7e-3},
                     {"spring.seat_load_N", 420},
                     {"spring.open_load_N", 1050},
                     {"installed_height_mm", 42e-3},
                     {"rocker.ratio", 1.55},
                     {"lash_mm", 0.3e-3},
                     {"engine.target_rpm", 8600}};
    known.lobe = LobeCard{12.7e-3, true, {{1.27e-3, radians(248), false}, {0.5e-3, radians(285), false}}};
    return known;
}

bool assumes(const Train& train, const std::string& key) {
    const auto all = assumed_numbers(train);
    return std::any_of(all.begin(), all.end(), [&](const AssumedNumber& one) { return one.key == key; });
}

QString refusal(const KnownTrain& known) {
    try {
        start_train(known);
    } catch (const InputError& error) {
        return QString::fromStdString(error.problem().location);
    }
    return QStringLiteral("taken");
}

} // namespace

class TestStartTrain : public QObject {
    Q_OBJECT
  private slots:
    void a_card_of_one_duration_is_met_exactly();
    void two_durations_settle_the_fullness();
    void a_duration_on_the_ramp_settles_its_velocity();
    void durations_of_a_known_lobe_give_it_back();
    void durations_at_the_valve_go_through_ratio_and_lash();
    void a_card_that_contradicts_itself_is_refused_or_told();
    void loads_are_those_pressed();
    void wire_and_diameter_make_a_coil();
    void contradicting_wire_is_told_and_left();
    void nothing_known_still_makes_a_train_of_every_layout();
    void what_is_known_is_not_marked();
    void a_number_that_becomes_known_is_no_longer_assumed();
    void findings_speak_of_assumed_numbers();
    void impossible_numbers_are_refused_by_their_key();
    void nothing_typed_is_left_out_in_silence();
    void a_card_marks_what_it_does_not_settle();
    void what_stands_for_a_number_is_the_trains_own();
    void every_assumed_number_has_its_rule();
    void the_wall_follows_from_a_rods_mass();
    void rules_hold_for_trains_they_were_not_made_for();
    void what_moves_the_limit_is_worth_knowing_whatever_its_shape();
    void without_a_closed_band_nothing_is_worth_telling();
};

void TestStartTrain::a_card_of_one_duration_is_met_exactly() {
    const AnalyticLobe start{1, 8e-3, {6, 10, 14, 18}, 0.3e-3, 0.012e-3 / radians(1)};
    for (const double claimed : {210.0, 248.0, 290.0}) {
        const CardLobe found = lobe_of_card({{}, false, {{1.27e-3, radians(claimed), false}}}, {}, start);
        QVERIFY(found.duration && !found.fullness && !found.ramp);
        NEAR(crank_deg(LobeCurve::of(found.lobe), 1.27e-3), claimed, 1e-4);
        QCOMPARE(found.lobe.exponents, start.exponents);
    }
}

void TestStartTrain::two_durations_settle_the_fullness() {
    const AnalyticLobe start{1, 8e-3, {6, 10, 14, 18}, 0.3e-3, 0.012e-3 / radians(1)};
    double before = 0;
    for (const double high : {158.0, 166.0, 174.0}) { // a fuller lobe is open longer at half lift
        const CardLobe found = lobe_of_card(
            {{}, false, {{1.27e-3, radians(248), false}, {4e-3, radians(high), false}}}, {}, start);
        QVERIFY(found.duration && found.fullness && !found.ramp);
        NEAR(crank_deg(LobeCurve::of(found.lobe), 1.27e-3), 248, 1e-3);
        NEAR(crank_deg(LobeCurve::of(found.lobe), 4e-3), high, 1e-3);
        QVERIFY(found.lobe.exponents[0] > before);
        before = found.lobe.exponents[0];
    }
}

void TestStartTrain::a_duration_on_the_ramp_settles_its_velocity() {
    const AnalyticLobe start{1, 8e-3, {6, 10, 14, 18}, 0.3e-3, 0.012e-3 / radians(1)};
    const CardLobe found = lobe_of_card(
        {{}, false, {{0.15e-3, radians(330), false}, {1.27e-3, radians(248), false}}}, {}, start);
    NEAR(crank_deg(LobeCurve::of(found.lobe), 0.15e-3), 330, 1e-3);
    NEAR(crank_deg(LobeCurve::of(found.lobe), 1.27e-3), 248, 1e-3);
    // On the ramp the follower falls at that velocity from the ramp's height.
    NEAR(found.lobe.half_duration_rad + 0.15e-3 / found.lobe.ramp_velocity_m_per_rad, radians(330.0 / 4),
         1e-6);
}

// Durations read off a lobe whose shape the search does not know: it comes back.
void TestStartTrain::durations_of_a_known_lobe_give_it_back() {
    const AnalyticLobe truth{1.42, 7.4e-3, {7.2, 12, 16.8, 21.6}, 0.3e-3, 0.009e-3 / radians(1)};
    const LobeCurve curve = LobeCurve::of(truth);
    LobeCard card;
    for (const double height : {0.15e-3, 0.5e-3, 1.27e-3, 4e-3})
        card.durations.push_back({height, radians(crank_deg(curve, height)), false});
    AnalyticLobe start = truth;
    start.half_duration_rad = 1;
    start.exponents = {6, 10, 14, 18};
    start.ramp_velocity_m_per_rad = 0.012e-3 / radians(1);
    const CardLobe found = lobe_of_card(card, {}, start);
    QVERIFY(found.duration && found.fullness && found.ramp);
    NEAR(degrees(found.worst_crank_rad), 0, 1e-3);
    NEAR(found.lobe.half_duration_rad, truth.half_duration_rad, 1e-4);
    NEAR(found.lobe.exponents[0], 7.2, 1e-2);
    NEAR(found.lobe.ramp_velocity_m_per_rad, truth.ramp_velocity_m_per_rad, 1e-7);
}

void TestStartTrain::durations_at_the_valve_go_through_ratio_and_lash() {
    KnownTrain known = bench_pushrod();
    known.lobe = LobeCard{12.7e-3, true, {{1.27e-3, radians(250), true}}};
    const Train train = start_train(known).train;
    const RigidMotion rigid(train, curve_of(train.lobe));
    NEAR(rigid.peak_m(), 12.7e-3, 1e-7);
    const auto crossings = crossings_at([&](double theta) { return rigid.lift_m(theta); }, 1.27e-3);
    NEAR(crossings->duration_crank_deg(), 250, 1e-3);
}

void TestStartTrain::a_card_that_contradicts_itself_is_refused_or_told() {
    KnownTrain known = bench_pushrod();
    known.lobe = LobeCard{12.7e-3, true, {{1.27e-3, radians(248), false}, {2.5e-3, radians(255), false}}};
    QCOMPARE(refusal(known), QStringLiteral("card.durations"));
    known.lobe = LobeCard{12.7e-3, true, {{12e-3, radians(248), false}}};
    QCOMPARE(refusal(known), QStringLiteral("card.durations[0]"));
    known.lobe = LobeCard{12.7e-3, true, {{1.27e-3, radians(20), false}}};
    QCOMPARE(refusal(known), QStringLiteral("card.durations[0]"));
    known.lobe = LobeCard{-1e-3, true, {}};
    QCOMPARE(refusal(known), QStringLiteral("card.lift_mm"));
    // Heights of another side: no lobe falls by so little between them.
    known.lobe = LobeCard{12.7e-3, true, {{1.0e-3, radians(248), false}, {3e-3, radians(246), false}}};
    const StartedTrain told = start_train(known);
    QCOMPARE(told.doubts.size(), 1U);
    QVERIFY(told.doubts[0].find("do not make one lobe") != std::string::npos);
}

void TestStartTrain::loads_are_those_pressed() {
    KnownTrain known = bench_pushrod();
    const Train train = start_train(known).train;
    const TrainFigures figures = figures_of(train, RigidMotion(train, curve_of(train.lobe)));
    NEAR(figures.seat_load_N, 420, 0.5);
    NEAR(figures.open_load_N, 1050, 0.5);
    known.numbers.erase("spring.open_load_N");
    known.numbers["spring.rate_N_per_mm"] = 50e3;
    const Train by_rate = start_train(known).train;
    const TrainFigures rated = figures_of(by_rate, RigidMotion(by_rate, curve_of(by_rate.lobe)));
    NEAR(rated.open_load_N, 420 + 50e3 * 12.7e-3, 0.5);
    QVERIFY(!assumes(by_rate, "springs[0].load_table"));
    // All three, and they disagree.
    known.numbers["spring.open_load_N"] = 1200;
    QCOMPARE(start_train(known).doubts.size(), 1U);
}

// A spring of known coils: its loads, solid height and diameters give its coils back.
void TestStartTrain::wire_and_diameter_make_a_coil() {
    KnownTrain known = bench_pushrod();
    CoilGeometry truth;
    truth.wire_m = 4.2e-3;
    truth.mean_diameter_m = {30e-3};
    truth.active_coils = 4.2;
    truth.dead_coils = 1.9;
    truth.free_length_m = 54e-3;
    const SpringStatics spring(Spring{"true", truth});
    known.numbers["spring.seat_load_N"] = spring.load_N(42e-3);
    known.numbers["spring.open_load_N"] = spring.load_N(42e-3 - 12.7e-3);
    known.numbers["spring.solid_height_mm"] = spring.solid_height_m();
    known.numbers["spring.wire_mm"] = 4.2e-3;
    known.numbers["spring.outer_diameter_mm"] = 34.2e-3;
    // The lift that the loads were pressed over comes from the card, to a micrometre.
    const StartedTrain started = start_train(known);
    QVERIFY2(started.doubts.empty(), started.doubts.empty() ? "" : started.doubts[0].c_str());
    const Train& train = started.train;
    const auto& coil = std::get<CoilGeometry>(train.springs[0].kind);
    NEAR(coil.active_coils, 4.2, 0.01);
    NEAR(coil.dead_coils, 1.9, 0.01);
    NEAR(coil.free_length_m, 54e-3, 0.02e-3);
    QVERIFY(!assumes(train, "springs[0].dead_coils"));
}

void TestStartTrain::contradicting_wire_is_told_and_left() {
    KnownTrain known = bench_pushrod();
    known.numbers["spring.wire_mm"] = 2.0e-3; // far too thin for the load
    known.numbers["spring.outer_diameter_mm"] = 34e-3;
    const StartedTrain started = start_train(known);
    QVERIFY(std::holds_alternative<LoadTable>(started.train.springs[0].kind));
    QCOMPARE(started.doubts.size(), 1U);
}

void TestStartTrain::nothing_known_still_makes_a_train_of_every_layout() {
    for (const Layout layout : {Layout::Pushrod, Layout::Rocker, Layout::Finger, Layout::Bucket})
        for (const bool hydraulic : {false, true}) {
            if (hydraulic && layout == Layout::Rocker)
                continue; // refused, below
            KnownTrain known;
            known.layout = layout;
            known.hydraulic = hydraulic;
            const Train train = start_train(known).train;
            QCOMPARE(check_train(train).size(), 0U);
            QVERIFY(assumed_numbers(train).size() >= 15);
            QVERIFY2(figures_of(train, RigidMotion(train, curve_of(train.lobe))).separation.has_value(),
                     "a usual train separates somewhere");
        }
}

void TestStartTrain::what_is_known_is_not_marked() {
    const Train train = start_train(bench_pushrod()).train;
    for (const char* key : {"valve.head_diameter_mm", "rocker.ratio", "lash_mm", "installed_height_mm",
                            "springs[0].load_table", "lobe.analytic.lift_mm"})
        QVERIFY2(!assumes(train, key), key);
    for (const char* key : {"valve.mass_g", "retainer.mass_g", "pushrod.mass_g", "rocker.inertia_kg_mm2",
                            "springs[0].moving_mass_g", "springs[0].solid_height_mm"})
        QVERIFY2(assumes(train, key), key);
    const auto target = start_train(bench_pushrod()).target_rpm;
    QCOMPARE(target.value_or(0), 8600.0);
}

void TestStartTrain::a_number_that_becomes_known_is_no_longer_assumed() {
    Train train = start_train(bench_pushrod()).train;
    const auto tolerance = [&] {
        for (const UncertainInput& input : uncertain_inputs(train))
            if (input.key == "valve.mass_g")
                return input.tolerance;
        return Tolerance{};
    };
    QVERIFY(tolerance().plus_minus > 0.02);
    count_as_known(train, "valve.mass_g");
    QVERIFY(!assumes(train, "valve.mass_g"));
    QCOMPARE(tolerance().source, Source::Scale);
    QVERIFY(tolerance().plus_minus < 0.001);
    const std::size_t left = train.tolerances.size();
    count_as_known(train, "lobe.analytic.lift_mm"); // from a card: known, its tolerance stays
    QCOMPARE(train.tolerances.size(), left);
}

void TestStartTrain::findings_speak_of_assumed_numbers() {
    Train train = start_train(bench_pushrod()).train;
    const auto note = [&]() -> std::optional<Finding> {
        for (const Finding& finding : figures_of(train, RigidMotion(train, curve_of(train.lobe))).findings)
            if (finding.rule == "assumed")
                return finding;
        return std::nullopt;
    };
    QVERIFY(note().has_value());
    QCOMPARE(note()->severity, Severity::Note);
    QVERIFY(note()->text.find("numbers are assumed") != std::string::npos);
    while (!assumed_numbers(train).empty())
        count_as_known(train, assumed_numbers(train).front().key);
    QVERIFY(!note().has_value());
}

void TestStartTrain::impossible_numbers_are_refused_by_their_key() {
    const auto with = [](const char* key, double si) {
        KnownTrain known = bench_pushrod();
        known.numbers[key] = si;
        return refusal(known);
    };
    QCOMPARE(with("valve.mass_g", -0.05), QStringLiteral("valve.mass_g"));
    QCOMPARE(with("spring.open_load_N", 300), QStringLiteral("spring.open_load_N"));
    QCOMPARE(with("spring.solid_height_mm", 35e-3), QStringLiteral("spring.solid_height_mm"));
    QCOMPARE(with("nobody.asked", 1), QStringLiteral("nobody.asked"));
    QCOMPARE(with("spring.seat_load_N", std::nan("")), QStringLiteral("spring.seat_load_N"));
    KnownTrain known = bench_pushrod(); // a rate that would lift the valve off its seat
    known.numbers.erase("spring.seat_load_N");
    known.numbers["spring.rate_N_per_mm"] = 100e3;
    QCOMPARE(refusal(known), QStringLiteral("spring.rate_N_per_mm"));
    known = KnownTrain{};
    known.layout = Layout::Bucket;
    known.numbers["pushrod.length_mm"] = 0.2; // of another layout
    QCOMPARE(refusal(known), QStringLiteral("pushrod.length_mm"));
    known = KnownTrain{};
    known.numbers["contacts.cam.stiffness_N_per_mm"] = 40e6; // of the train file, but not asked
    QCOMPARE(refusal(known), QStringLiteral("contacts.cam.stiffness_N_per_mm"));
    known = KnownTrain{};
    known.layout = Layout::Rocker;
    known.hydraulic = true;
    QCOMPARE(refusal(known), QStringLiteral("hydraulic"));
}

// A number that was typed is used, or it is said that it is not.
void TestStartTrain::nothing_typed_is_left_out_in_silence() {
    const auto doubts = [](std::initializer_list<std::pair<const char*, double>> more, int nested = 1) {
        KnownTrain known = bench_pushrod();
        known.nested = nested;
        for (const auto& [key, si] : more)
            known.numbers[key] = si;
        return start_train(known).doubts;
    };
    QVERIFY(doubts({}).empty());
    CONTAINS(doubts({{"spring.wire_mm", 4.4e-3}}).at(0), "count together");
    CONTAINS(doubts({{"spring.wire_mm", 4.4e-3}, {"spring.outer_diameter_mm", 34e-3}}, 2).at(0),
             "one spring alone");
    CONTAINS(doubts({{"pushrod.mass_g", 0.3}}).at(0), "no steel tube");
    CONTAINS(doubts({{"pushrod.mass_g", 0.009}}).at(0), "no steel tube");
    QVERIFY(doubts({{"pushrod.mass_g", 0.055}}).empty());
    CONTAINS(
        doubts({{"spring.wire_mm", 4.2e-3}, {"spring.outer_diameter_mm", 34.2e-3}, {"spring.mass_g", 0.4}})
            .at(0),
        "would weigh");
}

// One duration on the ramp and one above it tell the ramp's velocity, not how full the lobe is.
void TestStartTrain::a_card_marks_what_it_does_not_settle() {
    const auto marked = [](std::vector<std::pair<double, double>> claims) {
        KnownTrain known = bench_pushrod();
        LobeCard card{12.7e-3, true, {}};
        for (const auto& [height, deg] : claims)
            card.durations.push_back({height, radians(deg), false});
        known.lobe = card;
        const Train train = start_train(known).train;
        return std::tuple(assumes(train, "lobe.analytic.half_duration_cam_deg"),
                          assumes(train, "lobe.analytic.exponents.0"),
                          assumes(train, "lobe.analytic.ramp_velocity_mm_per_deg"));
    };
    QVERIFY(marked({}) == std::tuple(true, true, true));
    QVERIFY(marked({{1.27e-3, 248}}) == std::tuple(false, true, true));
    QVERIFY(marked({{1.27e-3, 248}, {4e-3, 166}}) == std::tuple(false, false, true));
    QVERIFY(marked({{0.15e-3, 330}, {1.27e-3, 248}}) == std::tuple(false, true, false));
    QVERIFY(marked({{0.15e-3, 330}, {1.27e-3, 248}, {4e-3, 166}}) == std::tuple(false, false, false));
}

// What the page shows in an empty field is what the train has.
void TestStartTrain::what_stands_for_a_number_is_the_trains_own() {
    KnownTrain known = bench_pushrod();
    known.numbers.erase("spring.seat_load_N");
    known.numbers.erase("spring.open_load_N");
    const StartedTrain started = start_train(known);
    const TrainFigures figures =
        figures_of(started.train, RigidMotion(started.train, curve_of(started.train.lobe)));
    const auto at = [&](const char* key) { return stands_for(started, figures, key).value_or(StandIn{}); };
    const double head_mm2 = kPi / 4 * 44 * 44;
    NEAR(at("spring.seat_load_N").value, 0.28 * head_mm2, 0.01);
    NEAR(at("spring.seat_load_N").plus_minus, 0.35 * 0.28 * head_mm2, 0.01);
    NEAR(at("spring.open_load_N").value, 2.5 * 0.28 * head_mm2, 0.05);
    NEAR(at("spring.rate_N_per_mm").value, 1.5 * 0.28 * head_mm2 / 12.7e-3, 10);
    const auto& table = std::get<LoadTable>(started.train.springs[0].kind);
    NEAR(at("spring.mass_g").value, table.moving_mass_kg + table.dead_mass_kg, 1e-9);
    QVERIFY(at("spring.mass_g").plus_minus > 0.3 * table.moving_mass_kg);
    NEAR(at("valve.mass_g").value, started.train.valve.mass_kg, 1e-12);
    QVERIFY(!stands_for(started, figures, "engine.target_rpm").has_value());
}

void TestStartTrain::every_assumed_number_has_its_rule() {
    for (const Layout layout : {Layout::Pushrod, Layout::Rocker, Layout::Finger, Layout::Bucket})
        for (const int nested : {1, 2}) {
            KnownTrain known;
            known.layout = layout;
            known.nested = nested;
            for (const AssumedNumber& one : assumed_numbers(start_train(known).train))
                QVERIFY2(!rule_of(one.key).empty(), one.key.c_str());
        }
}

void TestStartTrain::the_wall_follows_from_a_rods_mass() {
    KnownTrain known = bench_pushrod();
    const double length = 0.212, outer = 7.94e-3, wall = 1.24e-3;
    known.numbers["pushrod.length_mm"] = length;
    known.numbers["pushrod.outer_diameter_mm"] = outer;
    known.numbers["pushrod.mass_g"] = 7850 * kPi * (outer - wall) * wall * length + 8e-3;
    const Train train = start_train(known).train;
    NEAR(train.pushrod->wall_m, wall, 1e-7);
    QVERIFY(assumes(train, "pushrod.wall_mm")); // by the rule of its ends
}

// What a bench knows of an engine at once: layout, head, lift, two durations, seat load.
KnownTrain known_at_once(const Train& truth, const RigidMotion& rigid) {
    KnownTrain known;
    known.layout = truth.layout;
    known.hydraulic = truth.hydraulic();
    known.exhaust = contains(truth.name, "exhaust");
    known.follower = truth.lobe.follower;
    known.nested = static_cast<int>(truth.springs.size());
    known.numbers = {{"valve.head_diameter_mm", truth.valve.head_diameter_m},
                     {"spring.seat_load_N", figures_of(truth, rigid).seat_load_N}};
    LobeCard card{rigid.peak_m(), true, {}};
    for (const double height : {1e-3, 4e-3})
        card.durations.push_back({height, radians(crank_deg(rigid.lobe(), height)), false});
    known.lobe = card;
    return known;
}

struct Hits {
    std::size_t within = 0, all = 0;
    QStringList outside;
    void note(const QString& what, double truth, double assumed, double plus_minus) {
        ++all;
        if (std::abs(truth - assumed) <= plus_minus)
            ++within;
        else
            outside << QStringLiteral("%1 is %2, assumed %3 ± %4")
                           .arg(what)
                           .arg(truth)
                           .arg(assumed)
                           .arg(plus_minus);
    }
};

// Whether what is assumed of an engine holds its truth. Springs count by their load at full lift alone:
// nested ones are taken together.
void look_at(const std::string& name, const Train& truth, Hits& hits) {
    const RigidMotion rigid(truth, curve_of(truth.lobe));
    const Train guess = start_train(known_at_once(truth, rigid)).train;
    for (const AssumedNumber& one : assumed_numbers(guess))
        if (const auto value = value_of(truth, one.key);
            value && !one.key.starts_with("springs[0]") && one.key != "installed_height_mm")
            hits.note(QString::fromStdString(name + " " + one.key), *value, one.value, one.plus_minus);
    const double open = figures_of(guess, RigidMotion(guess, curve_of(guess.lobe))).open_load_N;
    hits.note(QString::fromStdString(name + " open load"), figures_of(truth, rigid).open_load_N, open,
              0.2 * open);
}

// Our own sample trains, and engines of a richer model that this code did not make.
void TestStartTrain::rules_hold_for_trains_they_were_not_made_for() {
    Hits own, others;
    for (const char* name : {"skerrin-650-intake", "corrie-500-intake", "ravenmoor-t14-intake-solid",
                             "ashgill-a22-intake", "ashgill-a22-exhaust", "ashgill-a22-intake-hydraulic"})
        look_at(name, io::read_train(source_file(std::string("tests/trains/") + name + ".train.json")), own);
    const std::filesystem::path practice = source_file("tests/practice");
    std::size_t engines = 0;
    for (const auto& folder : std::filesystem::directory_iterator(practice))
        if (const auto file = folder.path() / "nominal.train.json"; std::filesystem::exists(file)) {
            look_at(folder.path().filename().string(), io::read_train(file), others);
            ++engines;
        }
    qInfo("own trains: %zu of %zu within; %s", own.within, own.all,
          qPrintable(own.outside.join(QStringLiteral("; "))));
    qInfo("%zu engines of others: %zu of %zu within; %s", engines, others.within, others.all,
          qPrintable(others.outside.join(QStringLiteral("; "))));
    QVERIFY(own.within >= 9 * own.all / 10);
    QVERIFY(engines >= 4 && others.within >= 85 * others.all / 100);
}

namespace {

// Limits made by hand: they hang on the valve by a slope, on the springs by a resonance that either side
// leaves, and not at all on the locks; the ratio is known.
LimitUncertainty drawn_by_hand(std::size_t trains) {
    LimitUncertainty out;
    out.inputs = {{"valve.mass_g", "", {Source::Estimate, 0.02}, false},
                  {"springs[0].moving_mass_g", "", {Source::Estimate, 0.02}, false},
                  {"locks.mass_g", "", {Source::Estimate, 0.001}, false},
                  {"rocker.ratio", "", {Source::Gauge, 0.01}, true}};
    for (std::size_t i = 0; i < trains; ++i) {
        std::vector<double> z;
        for (const double u : halton_point(i + 1, 4, 3)) // uniform, of variance one
            z.push_back(3.46 * (u - 0.5));
        out.limit_rpm.push_back(7000 - 200 * z[0] + 300 * std::abs(z[1]) + 300 * z[3]);
        out.off.push_back(z);
    }
    out.trains = trains;
    std::vector<double> sorted = out.limit_rpm;
    std::sort(sorted.begin(), sorted.end());
    out.low_rpm = sorted[trains / 10];
    out.middle_rpm = sorted[trains / 2];
    out.high_rpm = sorted[9 * trains / 10];
    return out;
}

} // namespace

void TestStartTrain::what_moves_the_limit_is_worth_knowing_whatever_its_shape() {
    const LimitUncertainty drawn = drawn_by_hand(400);
    const std::vector<WorthKnowing> worth = worth_knowing(drawn);
    QCOMPARE(worth.size(), 2U);
    QCOMPARE(worth[0].act, std::string_view("weigh the valve"));
    QCOMPARE(worth[1].act, std::string_view("weigh the springs"));
    // Variances: 200^2, a quarter of 300^2 for a folded uniform, and the ratio's 300^2, which is known.
    const double valve = 200.0 * 200, springs = 300 * 300 * (1 - 0.75), ratio = 300.0 * 300;
    NEAR(worth[0].share, valve / (valve + springs + ratio), 0.06);
    NEAR(worth[1].share, springs / (valve + springs + ratio), 0.04);
    NEAR(worth[0].width_rpm, (*drawn.high_rpm - *drawn.low_rpm) * std::sqrt(1 - worth[0].share), 1e-9);
}

void TestStartTrain::without_a_closed_band_nothing_is_worth_telling() {
    LimitUncertainty drawn = drawn_by_hand(400);
    drawn.high_rpm.reset();
    QVERIFY(worth_knowing(drawn).empty());
    QVERIFY(worth_knowing(drawn_by_hand(30)).empty()); // too few to tell chance from cause
    QVERIFY(worth_knowing({}).empty());
}

QTEST_GUILESS_MAIN(TestStartTrain)
#include "tst_start_train.moc"
