// Campaign files: patches into trains, names into levels, what is wrong told by its key; the plan as JSON.
#include "io/plan/campaign_file.h"
#include "io/train/train_file.h"
#include "support.h"

#include <QTemporaryDir>
#include <nlohmann/json.hpp>

using namespace bathmos;
using namespace bathmos::test;
using Json = nlohmann::json;

namespace {

Json campaign_json() {
    return Json::parse(R"({"format": "bathmos-campaign", "version": 1, "rpm": "5000:9000:250",
        "factors": [
            {"name": "rod", "change_h": 0.5, "levels": [{"name": "thin"}, {"name": "thick",
                "patch": {"pushrod": {"mass_g": 61}}}], "comes_with": ["height"]},
            {"name": "height", "change_h": 1, "levels": [{"name": "46", "patch": {"installed_height_mm": 46}},
                {"name": "45", "patch": {"installed_height_mm": 45}},
                {"name": "none", "patch": {"installed_height_mm": null}}]}],
        "mounted": {"rod": "thin", "height": "46"}, "baseline": {"height": "46", "rod": "thin"},
        "hours": [8, 6.5], "setup_h": 2, "run_h": 0.5, "baseline_every": 3,
        "measured": [{"levels": {"rod": "thin", "height": "46"}, "limit_rpm": 7400}]})");
}

io::CampaignDraft parsed(const Json& json) {
    const Train train = starter_train();
    return io::parse_campaign(json.dump(), "made up", {}, &train);
}
InputProblem problem_with(const std::function<void(Json&)>& spoil) {
    Json json = campaign_json();
    spoil(json);
    return problem_of([&] { parsed(json); });
}

} // namespace

class TstCampaignFile : public QObject {
    Q_OBJECT

  private slots:
    void levels_are_patches_of_the_train() {
        const io::CampaignDraft draft = parsed(campaign_json());
        QCOMPARE(draft.campaign.factors[0].frees, (std::vector<std::size_t>{1}));
        QCOMPARE(draft.campaign.day_h, (std::vector<double>{8, 6.5}));
        QVERIFY(draft.campaign.baseline == (plan::Combination{0, 0}));
        QCOMPARE(draft.campaign.measured[0].sd_rpm, 35.0);
        const std::vector<plan::Candidate> candidates = io::candidates_of(draft);
        QCOMPARE(candidates.size(), std::size_t(6));
        QCOMPARE(candidates[4].levels, (plan::Combination{1, 1}));
        NEAR(candidates[4].train->installed_height_m, 45e-3, 1e-12);
        NEAR(candidates[4].train->pushrod->mass_kg, 61e-3, 1e-12);
        NEAR(candidates[0].train->pushrod->mass_kg, starter_train().pushrod->mass_kg, 1e-12);
        QVERIFY(!candidates[2].train); // a train without the key is none
        CONTAINS(candidates[2].refused, "installed_height_mm");
    }

    void a_campaign_written_is_read_back_the_same() {
        const io::CampaignDraft draft = parsed(campaign_json());
        QVERIFY(io::parse_campaign(io::campaign_text(draft), "again") == draft);
        const Train train = starter_train();
        QVERIFY(io::parse_campaign(io::campaign_text(draft, false), "again", {}, &train) == draft);
        QCOMPARE(problem_of([&] { io::parse_campaign(io::campaign_text(draft, false), "again"); }).location,
                 std::string("train"));
    }

    void what_was_fitted_is_in_every_combination_that_has_the_part() {
        const io::CampaignDraft draft = parsed(campaign_json());
        QVERIFY(draft.use_fit);
        io::CampaignDraft as_believed = draft;
        as_believed.use_fit = false;
        QVERIFY(io::parse_campaign(io::campaign_text(as_believed), "again") == as_believed);
        CarriedFit fit{"", io::parse_train(draft.train, ""), io::parse_train(draft.train, "")};
        fit.fitted.pushrod->end_stiffness_N_per_m *= 0.8;
        fit.fitted.tolerances["pushrod.end_stiffness_N_per_mm"] = {Source::Fitted, 1e5};
        const std::vector<plan::Candidate> plain = io::candidates_of(draft),
                                           carried = io::candidates_of(draft, {fit});
        const auto softer = [&](std::size_t i) {
            return carried[i].train->pushrod->end_stiffness_N_per_m <
                   0.9 * plain[i].train->pushrod->end_stiffness_N_per_m;
        };
        QVERIFY(softer(0) && softer(1)); // the rod that was run
        QVERIFY(!softer(3) && !softer(4) && !carried[2].train);
    }

    void a_train_is_looked_for_beside_its_campaign() {
        QTemporaryDir folder;
        io::write_train(folder.filePath("a.train.json").toStdString(), starter_train());
        Json json = campaign_json();
        json["train"] = "a.train.json";
        const auto path =
            write_test_file(folder.filePath("c.campaign.json"), QByteArray::fromStdString(json.dump()));
        const std::vector<plan::Candidate> candidates = io::candidates_of(io::read_campaign(path));
        NEAR(candidates[1].train->installed_height_m, 45e-3, 1e-12);
        json["train"] = "not-there.train.json";
        write_test_file(folder.filePath("c.campaign.json"), QByteArray::fromStdString(json.dump()));
        CONTAINS(problem_of([&] { io::read_campaign(path); }).source, "not-there.train.json");
    }

    void what_is_wrong_is_told_by_its_key() {
        const auto at = [](const std::function<void(Json&)>& spoil) {
            return QString::fromStdString(problem_with(spoil).location);
        };
        QCOMPARE(at([](Json& j) { j["format"] = "else"; }), "format");
        QCOMPARE(at([](Json& j) { j["version"] = 2; }), "version");
        QCOMPARE(at([](Json& j) { j["rpm"] = "5000-9000"; }), "rpm");
        QCOMPARE(at([](Json& j) { j["mounted"]["rod"] = "bent"; }), "mounted.rod");
        QCOMPARE(at([](Json& j) { j["baseline"].erase("rod"); }), "baseline.rod");
        QCOMPARE(at([](Json& j) { j["factors"][0]["comes_with"] = {"lobe"}; }), "factors[0].comes_with");
        QCOMPARE(at([](Json& j) { j["factors"][1]["levels"][0]["patch"] = 3; }),
                 "factors[1].levels[0].patch");
        QCOMPARE(at([](Json& j) { j["factors"][1]["change_h"] = "two"; }), "factors[1].change_h");
        QCOMPARE(at([](Json& j) { j["baseline_every"] = 2.5; }), "baseline_every");
        QCOMPARE(at([](Json& j) { j["hours"] = Json::array(); }), "hours");
        QCOMPARE(at([](Json& j) { j["measured"][0]["limit_rpm"] = -5; }), "measured[0].limit_rpm");
        QCOMPARE(at([](Json& j) { j["hour"] = 3; }), "hour");
        QCOMPARE(at([](Json& j) { j["use_fit"] = 1; }), "use_fit");
        QCOMPARE(problem_of([] { io::parse_campaign("[1, 2", "made up"); }).source, std::string("made up"));
    }

    void a_patch_between_two_trains_makes_the_one_of_the_other() {
        const Train from = starter_train();
        Train to = from;
        to.installed_height_m = 44e-3;
        to.valve.mass_kg = 88e-3;
        to.springs.push_back(to.springs.front());
        to.springs.back().name = "inner";
        Json before = Json::parse(io::train_text(from));
        const Json patch = Json::parse(io::patch_between(from, to));
        QVERIFY(!patch.contains("lobe")); // what is alike is left alone
        before.merge_patch(patch);
        QVERIFY(io::parse_train(before.dump(), "") ==
                io::parse_train(io::train_text(to), "")); // twelve digits
        QCOMPARE(io::patch_between(from, from), std::string("{}"));
        to.pushrod.reset(); // another layout loses sections
        QVERIFY(Json::parse(io::patch_between(from, to))["pushrod"].is_null());
    }

    void a_plan_is_written_as_the_format_has_it() {
        const io::CampaignDraft draft = parsed(campaign_json());
        std::vector<plan::Forecast> expected;
        for (const plan::Candidate& one : io::candidates_of(draft)) {
            plan::Forecast forecast;
            forecast.stopped = one.refused;
            forecast.limit_rpm = 7400 + 100.0 * double(one.levels[0]);
            forecast.moved_rpm = {40, -40, 20, -20};
            expected.push_back(forecast);
        }
        const plan::Plan plan = plan::plan_runs(draft.campaign, io::candidates_of(draft), expected);
        const Json out = Json::parse(io::plan_summary(draft.campaign, plan));
        double now = 0;
        for (const Json& run : out["runs"]) {
            QVERIFY(run["start_h"].get<double>() >= now - 1e-9);
            now = run["start_h"].get<double>() + run["hours"].get<double>();
            QVERIFY(run["p10_rpm"] <= run["predicted_rpm"] && run["predicted_rpm"] <= run["p90_rpm"]);
            QVERIFY(!run["why"].get<std::string>().empty());
            QVERIFY(run["levels"].contains("rod") && run["levels"].contains("height"));
        }
        NEAR(out["hours"].get<double>(), now, 1e-3);
        QCOMPARE(out["best"]["levels"]["rod"].get<std::string>(), std::string("thin")); // of what was run
        int refused = 0;
        for (const Json& one : out["left_out"])
            refused += contains(one["why"].get<std::string>(), "installed_height_mm");
        QCOMPARE(refused, 2);
        QCOMPARE(out["measured"].size(), std::size_t(1));
    }
};

QTEST_APPLESS_MAIN(TstCampaignFile)
#include "tst_campaign_file.moc"
