// Sheet files: what is read, what is refused and how, what the summary holds, and sheets in the making as
// text and back.
#include "io/json/json.h"
#include "io/sheet/sheet_draft.h"
#include "io/sheet/sheet_summary.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

namespace {

std::string sheet(const std::string& kind, const std::string& rest) {
    return R"({"format": "bathmos-sheet", "version": 1, "kind": ")" + kind + "\", " + rest + "}";
}

io::Json summary(const std::string& text) {
    return io::parse_json(io::summary_of(io::parse_sheet(text)).json);
}

const std::string kSpring = R"("height_mm": [46, 42, 38, 34, 30, 30, 34, 38, 42, 46],
    "load_N": [[304, 306], 445, 585, 725, 865, 855, 715, 575, 435, 295],
    "going": ["down", "down", "down", "down", "down", "up", "up", "up", "up", "up"],
    "installed_height_mm": 44, "valve_lift_mm": 12)";

} // namespace

class TstSheetFile : public QObject {
    Q_OBJECT

  private slots:
    void a_spring_is_summed_up_in_bench_units() {
        const io::Json s = summary(sheet("spring", kSpring));
        QVERIFY(s["kind"] == "spring");
        NEAR(s["seat_N"]["value"], 370, 0.5); // 300 at 46, 35 N/mm
        NEAR(s["open_N"]["value"], 790, 0.5);
        NEAR(s["rate_N_per_mm"]["value"], 35, 0.05);
        NEAR(s["friction_N"]["value"], 5, 0.3);
        QVERIFY(s["seat_N"]["sd"].get<double>() >= 0);
        QVERIFY(s["solid_mm"].is_null() && s["margin_mm"].is_null());
        QVERIFY(s["told"][0]["rule"] == "solid_not_reached");
        const auto said = io::summary_of(io::parse_sheet(sheet("spring", kSpring)));
        CONTAINS(said.lines.front().in_words(), "seat load: 370 N");
        CONTAINS(said.lines.front().in_words(UnitSystem::Inch), "83.2 lbf");
    }

    void each_kind_has_the_keys_of_its_summary() {
        const io::Json set = summary(sheet("spring_set", R"("springs": [
            {"serial": "a", "height_mm": [44, 30], "load_N": [300, 800], "before": {"height_mm": [44], "load_N": [330], "when": "2026-01-01"}},
            {"serial": "b", "height_mm": [44, 30], "load_N": [301, 801]},
            {"serial": "c", "height_mm": [44, 30], "load_N": [280, 760]},
            {"serial": "d", "height_mm": [44, 30], "load_N": [302, 803]}], "valves": ["1a", "1b"])"));
        QVERIFY(set["tired"] == io::Json({"a"}));
        QVERIFY(set["reject"] == io::Json({"c"}));
        QVERIFY(set["pairs"][1]["serial"] == "d");
        QVERIFY(set["pairs"][1]["valve"] == "1b");
        NEAR(set["mean_N"]["value"], (300 + 301 + 280 + 302) / 4.0, 1e-6);

        const io::Json height =
            summary(sheet("height", R"("old_height_mm": [46, 46.02], "resolution_old_height_mm": 0.01,
            "old": {"step_mm": 4.0, "ball_depth_mm": 2.1, "taper_deg": 5}, "new": {"step_mm": 4.6, "ball_depth_mm": 2.35, "taper_deg": 5},
            "lock_taper_deg": 5, "ball_mm": 10, "wanted_mm": 44.5, "shims_mm": [0.38, 0.76], "rate_N_per_mm": 34, "seat_N": 300)"));
        NEAR(height["height_mm"]["value"], 45.66, 1e-6);
        NEAR(height["terms"]["step_mm"]["value"], -0.6, 1e-6);
        NEAR(height["terms"]["lock_mm"]["value"], 0.25, 1e-6);
        QVERIFY(height["shims"] == io::Json({0.76, 0.38}));
        NEAR(height["seat_N"]["value"], 300 + 34 * (46.01 - 44.52), 1e-6);

        const io::Json ratio = summary(
            sheet("ratio", R"("rise_mm": [0, 2.5, 5, 7.5, 5, 2.5, 0], "lift_mm": [0, 4, 8, 12, 8, 4, 0],
            "going": ["up", "up", "up", "up", "down", "down", "down"], "believed": 1.7,
            "working": {"rise_mm": [2.5, 5, 7.5], "lift_mm": [3.92, 7.90, 11.88], "force_N": [400, 500, 600]})"));
        NEAR(ratio["ratio"]["value"], 1.6, 1e-9);
        NEAR(ratio["local"][0]["ratio"], 1.6, 1e-9);
        NEAR(ratio["stiffness_N_per_mm"]["value"], 5000, 5);
        QVERIFY(ratio["told"][0]["rule"] == "not_as_believed");

        const io::Json stiff = summary(
            sheet("stiffness", R"("force_N": [0, 500, 1000, 1500], "dial_mm": [0.1, 0.15, 0.2, 0.25])"));
        NEAR(stiff["stiffness_N_per_mm"]["value"], 10000, 1e-3);
        NEAR(stiff["slack_mm"]["value"], 0, 1e-6);
        NEAR(stiff["r_squared"], 1, 1e-9);

        const io::Json swing = summary(sheet(
            "rocker_inertia", R"("swing_s": [3.6, 3.62, 3.58], "mass_g": 110, "pivot_to_centre_mm": 14)"));
        const double period = 0.36 / (2 * kPi);
        NEAR(swing["inertia_kg_mm2"]["value"], 0.11 * 9.80665 * 14e-3 * period * period * 1e6, 1e-3);
        QVERIFY(swing["inertia_kg_mm2"]["sd"].get<double>() > 0);
    }

    void what_is_wrong_is_named_by_its_key() {
        const auto place = [](const std::string& text) {
            return problem_of([&] { io::parse_sheet(text, "s.sheet.json"); });
        };
        QCOMPARE(place("{}").location, std::string("format"));
        QCOMPARE(place(sheet("spring", kSpring)).what, std::string("nothing was thrown"));
        QCOMPARE(place(sheet("camshaft", "\"a\": 1")).location, std::string("kind"));
        CONTAINS(place(sheet("camshaft", "\"a\": 1")).mend, "rocker_inertia");
        QCOMPARE(place(sheet("stiffness", R"("force_N": [0, "x"], "dial_mm": [0, 1])")).location,
                 std::string("force_N"));
        QCOMPARE(place(sheet("stiffness", R"("force_N": [0, 1], "dial_mm": [])")).location,
                 std::string("dial_mm"));
        QCOMPARE(place(sheet("stiffness", R"("force_N": [0, []], "dial_mm": [0, 1])")).location,
                 std::string("force_N"));
        CONTAINS(
            place(sheet("stiffness", R"("force_N": [0, 1], "dail_mm": [0, 1], "dial_mm": [0, 1])")).location,
            "dail_mm");
        CONTAINS(place(sheet("spring", kSpring + R"(, "going": ["down"])")).what, "twice"); // a key
        QCOMPARE(
            place(sheet("height", R"("old_height_mm": 46, "old": {"step_mm": 4}, "new": {}, "ball_mm": 10)"))
                .location,
            std::string("old.ball_depth_mm"));
        CONTAINS(place("[1, 2]").sentence(), "s.sheet.json");
        QVERIFY(!place("not json").what.empty());
        QCOMPARE(problem_of([&] { io::read_sheet("/nowhere/x.sheet.json"); }).source,
                 std::string("/nowhere/x.sheet.json"));
    }

    void a_sheet_in_the_making_is_a_sheet_file_and_comes_back() {
        bench::SheetDraft spring{
            "spring", {{"installed_height_mm", {44e-3}}, {"claimed.seat_N", {370}}}, {}, ""};
        for (int k = 0; k < 4; ++k)
            spring.rows.push_back({"", {{(46 - 4 * k) * 1e-3}, {300.0 + 140 * k, 301.0 + 140 * k}}, k == 3});
        const bench::SheetDraft back = io::draft_of(io::draft_text(spring));
        QCOMPARE(back.rows.size(), spring.rows.size());
        QVERIFY(back.rows[3].back && back.rows[0].cells[1].size() == 2);
        NEAR(back.rows[1].cells[0].front(), 42e-3, 1e-12);
        NEAR(back.fields.at("claimed.seat_N").front(), 370, 1e-9);
        QCOMPARE(io::draft_text(back), io::draft_text(spring));

        bench::SheetDraft set{
            "spring_set", {{"seat_height_mm", {44e-3}}, {"open_height_mm", {30e-3}}}, {}, "1a, 1b"};
        set.rows = {{"s1", {{300}, {800}, {320}}, false}, {"s2", {{305}, {806}, {}}, false}};
        QVERIFY(io::draft_of(io::draft_text(set)).rows == set.rows);
        QCOMPARE(io::draft_of(io::draft_text(set)).names, set.names);
        QVERIFY(io::parse_json(io::draft_text(set))["valves"] == io::Json({"1a", "1b"}));

        bench::SheetDraft ratio{"ratio", {}, {}, ""};
        ratio.rows = {{"", {{0}, {0}, {}, {}}, false},
                      {"", {{2.5e-3}, {4e-3}, {3.9e-3}, {400}}, false},
                      {"", {{5e-3}, {8e-3}, {7.8e-3}, {500}}, false},
                      {"", {{0}, {0}, {}, {}}, true}};
        QVERIFY(io::draft_of(io::draft_text(ratio)).rows == ratio.rows);
        // what is half typed is left out of the file
        ratio.rows.push_back({"", {{7.5e-3}, {}, {}, {}}, false});
        QCOMPARE(io::draft_of(io::draft_text(ratio)).rows.size(), std::size_t(4));
        // a sheet that is only begun comes back, too; what is none does not
        QCOMPARE(io::draft_of(io::draft_text({"height", {{"ball_mm", {10e-3}}}, {}, ""})).fields.size(),
                 std::size_t(1));
        QCOMPARE(problem_of([] { io::draft_of("[1]"); }).location, std::string("format"));
        CONTAINS(problem_of([] { io::draft_of(R"({"format": "bathmos-sheet", "kind": 3})"); }).what, "shape");
        QCOMPARE(problem_of([] { io::draft_text({"boat", {}, {}, ""}); }).location, std::string("kind"));
    }

    void what_is_half_typed_is_kept_too() {
        bench::SheetDraft set{"spring_set", {{"seat_height_mm", {44e-3}}}, {}, "1a, "};
        set.rows = {{"s1", {{300.125}, {}, {}}, false}, {"s2", {{}, {}, {}}, true}};
        QVERIFY(io::kept_draft(io::kept_text(set)) == set);
        QCOMPARE(problem_of([] { io::kept_draft(R"({"kind": "spring"})"); }).location, std::string("sheet"));
        QCOMPARE(problem_of([] { io::kept_draft("junk"); }).source, std::string());
        // a cell that is missing is an empty one
        QCOMPARE(
            io::kept_draft(
                R"({"kind": "spring", "names": "", "fields": {}, "rows": [{"name": "", "back": false, "cells": []}]})")
                .rows.front()
                .cells.size(),
            std::size_t(2));
    }

    void kinds_that_are_read_by_keys_have_fields_and_rows() {
        const io::Json lash = summary(sheet("lash", R"("wanted_mm": 0.45, "rows": [
            {"name": "1i", "cold_mm": [0.40, 0.42], "hot_mm": 0.46}, {"name": "1e", "cold_mm": 0.52}])"));
        NEAR(lash["lash_mm"]["value"], 0.49, 1e-9);
        QVERIFY(lash["valves"][0]["name"] == "1i");
        NEAR(lash["valves"][0]["grows_mm"]["value"], 0.05, 1e-9);
        QVERIFY(lash["told"][0]["rule"] == "off");
        const Train train = starter_train();
        const io::BenchSheet solid = io::parse_sheet(sheet("near_solid", R"("margin_mm": 1.5)"));
        const io::Json near = io::parse_json(io::summary_of(solid, &train).json);
        QVERIFY(near["height_mm"]["value"].get<double>() > 30);
        CONTAINS(problem_of([&] { io::summary_of(solid); }).mend, "--train");
        CONTAINS(problem_of([] { io::parse_sheet(sheet("lash", R"("rows": [{"cold_mm": 0.4}])")); }).location,
                 "rows[0]");
        CONTAINS(problem_of([] {
                     io::parse_sheet(sheet("lash", R"("rows": [{"name": "a", "cold": 0.4}])"));
                 }).location,
                 "rows[0].cold");
        QCOMPARE(problem_of([] { io::parse_sheet(sheet("mark", R"("width_mm": 1, "tip_mm": 8)")); }).location,
                 std::string("offset_mm"));

        bench::SheetDraft draft{
            "clearance", {{"lift_mm", {12e-3}}, {"to_seal_mm", {14e-3, 14.1e-3}}}, {}, ""};
        draft.rows = {{"", {{radians(-4)}, {2.5e-3}}, false}, {"", {{radians(2)}, {2.1e-3, 2.2e-3}}, false}};
        const bench::SheetDraft back = io::draft_of(io::draft_text(draft));
        QCOMPARE(back.rows.size(), std::size_t(2));
        NEAR(back.rows[0].cells[0].front(), radians(-4), 1e-9);
        QCOMPARE(io::draft_text(back), io::draft_text(draft));
    }

    // Every kind that is asked for in the window can be read, and says what it lacks.
    void every_kind_of_sheet_is_readable() {
        for (const bench::SheetKind& kind : bench::sheet_kinds()) {
            const std::string text = io::draft_text({std::string(kind.key), {}, {}, ""});
            const InputProblem problem = problem_of([&] { io::summary_of(io::parse_sheet(text)); });
            QVERIFY2(!problem.what.empty() && !problem.mend.empty(), text.c_str());
        }
    }
};

QTEST_GUILESS_MAIN(TstSheetFile)
#include "tst_sheet_file.moc"
