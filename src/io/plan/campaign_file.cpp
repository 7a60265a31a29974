#include "io/plan/campaign_file.h"

#include "core/problem/input_error.h"
#include "io/file/safe_file.h"
#include "io/text/encoding.h"
#include "io/text/range_text.h"
#include "io/train/object_reader.h"
#include "io/train/train_file.h"
#include "io/train/train_json.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

using plan::Campaign, plan::Combination, plan::Factor;

constexpr double kUsualSd_rpm = 35; // of a limit by a run in steps of 100, where nothing is said

const Json& list_in(ObjectReader& reader, const std::string& key) {
    const Json& list = reader.required(key);
    if (!list.is_array())
        reader.refuse(key, "is no list", "must be a list");
    return list;
}

void read_factor(const Json& json, const std::string& path, Factor& factor, std::vector<std::string>& patches,
                 std::vector<std::string>& comes_with) {
    ObjectReader reader(json, path);
    factor.name = reader.text("name");
    factor.change_h = reader.number("change_h");
    const Json& levels = list_in(reader, "levels");
    for (std::size_t i = 0; i < levels.size(); ++i) {
        ObjectReader level(levels[i], fmt::format("{}.levels[{}]", path, i));
        factor.levels.push_back(level.text("name"));
        const Json patch = level.has("patch") ? level.required("patch") : Json::object();
        if (!patch.is_object())
            level.refuse("patch", "is no object", "must be {..}: what this level changes of the train");
        patches.push_back(json_text(patch));
        level.finish();
    }
    if (reader.has("comes_with"))
        for (const Json& one : list_in(reader, "comes_with")) {
            if (!one.is_string())
                reader.refuse("comes_with", "holds no name", "must be names of factors");
            comes_with.push_back(one.get<std::string>());
        }
    reader.finish();
}

// {"lobe": "A", ..} as numbers of levels.
Combination read_levels(ObjectReader reader, const Campaign& campaign) {
    Combination out;
    for (const Factor& factor : campaign.factors) {
        const std::string level = reader.text(factor.name);
        const auto at = std::ranges::find(factor.levels, level);
        if (at == factor.levels.end())
            reader.refuse(factor.name, fmt::format("is \"{}\"", level),
                          fmt::format("must be one of {}", fmt::join(factor.levels, ", ")));
        out.push_back(static_cast<std::size_t>(at - factor.levels.begin()));
    }
    reader.finish();
    return out;
}

Json levels_json(const Campaign& campaign, const Combination& levels) {
    Json out = Json::object();
    for (std::size_t f = 0; f < levels.size(); ++f)
        out[campaign.factors[f].name] = campaign.factors[f].levels[levels[f]];
    return out;
}

void read_factors(ObjectReader& reader, CampaignDraft& out) {
    std::vector<std::vector<std::string>> with;
    const Json& factors = list_in(reader, "factors");
    for (std::size_t f = 0; f < factors.size(); ++f) {
        out.campaign.factors.emplace_back();
        read_factor(factors[f], fmt::format("factors[{}]", f), out.campaign.factors.back(),
                    out.patches.emplace_back(), with.emplace_back());
    }
    for (std::size_t f = 0; f < with.size(); ++f)
        for (const std::string& name : with[f]) {
            const auto at = std::ranges::find(out.campaign.factors, name, &Factor::name);
            if (at == out.campaign.factors.end())
                reader.refuse(fmt::format("factors[{}].comes_with", f), fmt::format("names \"{}\"", name),
                              "must name other factors");
            out.campaign.factors[f].frees.push_back(
                static_cast<std::size_t>(at - out.campaign.factors.begin()));
        }
}

void read_measured(ObjectReader& reader, Campaign& campaign) {
    if (!reader.has("measured"))
        return;
    const Json& runs = list_in(reader, "measured");
    for (std::size_t i = 0; i < runs.size(); ++i) {
        ObjectReader run(runs[i], fmt::format("measured[{}]", i));
        plan::MeasuredRun& one = campaign.measured.emplace_back();
        one.levels = read_levels(run.object("levels"), campaign);
        one.limit_rpm = run.number("limit_rpm");
        one.sd_rpm = run.has("sd_rpm") ? run.number("sd_rpm") : kUsualSd_rpm;
        run.finish();
    }
}

std::string read_train_of(ObjectReader& reader, const std::filesystem::path& folder, const Train* train) {
    if (!reader.has("train")) {
        if (train)
            return json_text(train_json(*train));
        reader.refuse("train", "is missing", "give the train, or the name of its file");
    }
    const Json& given = reader.required("train");
    if (given.is_object()) {
        parse_train(json_text(given), "");
        return json_text(given);
    }
    if (!given.is_string())
        reader.refuse("train", "is neither", "must be the train {..}, or the name of its file");
    const std::filesystem::path path = folder / given.get<std::string>();
    const std::string text = read_file(path, kMostTrainBytes);
    parse_train(text, shown_path(path));
    return json_text(parse_json(text));
}

CampaignDraft campaign_in(const Json& json, const std::filesystem::path& folder, const Train* train) {
    ObjectReader reader(json, "");
    if (reader.text("format") != "bathmos-campaign")
        reader.refuse("format", "is not \"bathmos-campaign\"", "open a campaign file (*.campaign.json)");
    if (reader.number("version") != 1)
        reader.refuse("version", "is not 1", "open it with a newer Bathmos");
    CampaignDraft out;
    out.train = read_train_of(reader, folder, train);
    const std::string range = reader.text("rpm");
    try {
        out.campaign.range = range_of(range);
    } catch (const InputError& error) {
        reader.refuse("rpm", error.problem().what, error.problem().mend);
    }
    read_factors(reader, out);
    out.campaign.mounted = read_levels(reader.object("mounted"), out.campaign);
    out.campaign.baseline = read_levels(reader.object("baseline"), out.campaign);
    out.campaign.day_h = reader.numbers("hours");
    out.campaign.setup_h = reader.has("setup_h") ? reader.number("setup_h") : 0;
    out.campaign.run_h = reader.number("run_h");
    if (reader.has("baseline_every")) {
        const double every = reader.number("baseline_every");
        if (!(every >= 0 && every <= 1000 && every == static_cast<double>(static_cast<int>(every))))
            reader.refuse("baseline_every", fmt::format("is {:g}", every),
                          "must be a whole number, 0 for never");
        out.campaign.baseline_every = static_cast<std::size_t>(every);
    }
    read_measured(reader, out.campaign);
    if (reader.has("use_fit")) {
        const Json& use = reader.required("use_fit");
        if (!use.is_boolean())
            reader.refuse("use_fit", "is neither true nor false", "must be true or false");
        out.use_fit = use.get<bool>();
    }
    reader.finish();
    plan::check_campaign(out.campaign);
    return out;
}

// RFC 7396: an object for what differs within objects, null for what is gone, the new value else.
Json merge_patch_between(const Json& from, const Json& to) {
    if (!from.is_object() || !to.is_object())
        return to;
    Json out = Json::object();
    for (const auto& [key, value] : from.items())
        if (!to.contains(key))
            out[key] = nullptr;
    for (const auto& [key, value] : to.items())
        if (!from.contains(key))
            out[key] = value;
        else if (from[key] != value)
            out[key] = merge_patch_between(from[key], value);
    return out;
}

Json expected_json(const plan::Expected& expected) {
    return {{"predicted_rpm", rounded(expected.limit_rpm, 1)},
            {"p10_rpm", rounded(expected.low_rpm, 1)},
            {"p90_rpm", rounded(expected.high_rpm, 1)},
            {"in_range", expected.in_range},
            {"chance_best", rounded(expected.chance_best, 4)}};
}

} // namespace

CampaignDraft parse_campaign(std::string_view text, const std::string& source,
                             const std::filesystem::path& folder, const Train* train) {
    try {
        return campaign_in(parse_json(text), folder, train);
    } catch (const InputError& error) {
        throw error.problem().source.empty() ? error.in(source) : error;
    } catch (const Json::exception&) {
        throw InputError({source, "", "the file does not have the shape of a campaign",
                          "see the campaign format in docs/format.md"});
    }
}

CampaignDraft read_campaign(const std::filesystem::path& path) {
    return parse_campaign(read_file(path, kMostCampaignBytes), shown_path(path), path.parent_path());
}

std::string campaign_text(const CampaignDraft& draft, bool with_train) {
    const Campaign& c = draft.campaign;
    Json out = {{"format", "bathmos-campaign"}, {"version", 1}};
    if (with_train)
        out["train"] = parse_own_json(draft.train);
    out["rpm"] = range_text(c.range);
    out["factors"] = Json::array();
    for (std::size_t f = 0; f < c.factors.size(); ++f) {
        Json factor = {{"name", c.factors[f].name}, {"change_h", number_json(c.factors[f].change_h)}};
        for (std::size_t i = 0; i < c.factors[f].levels.size(); ++i)
            factor["levels"].push_back(
                {{"name", c.factors[f].levels[i]}, {"patch", parse_own_json(draft.patches[f][i])}});
        for (const std::size_t with : c.factors[f].frees)
            factor["comes_with"].push_back(c.factors[with].name);
        out["factors"].push_back(std::move(factor));
    }
    out["mounted"] = levels_json(c, c.mounted);
    for (const double hours : c.day_h)
        out["hours"].push_back(number_json(hours));
    out["setup_h"] = number_json(c.setup_h);
    out["run_h"] = number_json(c.run_h);
    out["baseline"] = levels_json(c, c.baseline);
    out["baseline_every"] = c.baseline_every;
    if (!draft.use_fit)
        out["use_fit"] = false;
    for (const plan::MeasuredRun& run : c.measured)
        out["measured"].push_back({{"levels", levels_json(c, run.levels)},
                                   {"limit_rpm", number_json(run.limit_rpm)},
                                   {"sd_rpm", number_json(run.sd_rpm)}});
    return json_text(out, 1) + "\n";
}

std::vector<plan::Candidate> candidates_of(const CampaignDraft& draft, const std::vector<CarriedFit>& fits) {
    const Json base = parse_json(draft.train);
    std::vector<plan::Candidate> out;
    for (Combination& levels : plan::all_combinations(draft.campaign)) {
        plan::Candidate one{std::move(levels), {}, {}};
        Json train = base;
        for (std::size_t f = 0; f < one.levels.size(); ++f)
            train.merge_patch(parse_own_json(draft.patches[f][one.levels[f]]));
        try {
            one.train = parse_train(json_text(train), "");
            for (const CarriedFit& fit : fits)
                one.train = with_fit(*one.train, fit);
        } catch (const InputError& error) {
            one.refused = error.what();
        }
        out.push_back(std::move(one));
    }
    return out;
}

std::string patch_between(const Train& from, const Train& to) {
    const Json before = train_json(from), after = train_json(to);
    return before == after ? "{}" : json_text(merge_patch_between(before, after));
}

std::string plan_summary(const Campaign& campaign, const plan::Plan& plan) {
    Json out;
    out["runs"] = Json::array();
    for (const plan::PlannedRun& run : plan.runs) {
        Json one = {{"levels", levels_json(campaign, run.levels)},
                    {"start_h", rounded(run.start_h)},
                    {"hours", rounded(run.hours)},
                    {"change_h", rounded(run.change_h)},
                    {"day", run.day + 1},
                    {"why", run.why}};
        one.update(expected_json(run.expected));
        out["runs"].push_back(std::move(one));
    }
    out["left_out"] = Json::array();
    for (const plan::LeftOut& one : plan.left_out)
        out["left_out"].push_back({{"levels", levels_json(campaign, one.levels)}, {"why", one.why}});
    out["hours"] = rounded(plan.hours);
    out["booked_h"] = rounded(plan.booked_h);
    out["exact"] = plan.exact;
    out["bound_h"] = rounded(plan.bound_h);
    out["best"] = {{"levels", levels_json(campaign, plan.best)}};
    out["best"].update(expected_json(plan.best_expected));
    out["measured"] = Json::array();
    for (const plan::Compared& one : plan.made)
        out["measured"].push_back({{"levels", levels_json(campaign, one.run.levels)},
                                   {"limit_rpm", rounded(one.run.limit_rpm, 1)},
                                   {"predicted_rpm", rounded(one.expected.limit_rpm, 1)},
                                   {"off_rpm", rounded(one.off_rpm, 1)},
                                   {"off_sigma", rounded(one.off_sigma, 2)}});
    out["chance_better"] = rounded(plan.chance_better, 4);
    out["settled"] = plan.settled;
    out["if_half_a_day_is_lost"] = Json::array();
    for (const Combination& levels : plan.gone)
        out["if_half_a_day_is_lost"].push_back(levels_json(campaign, levels));
    out["told"] = Json::array();
    for (const Told& one : plan.told)
        out["told"].push_back({{"rule", one.rule}, {"text", one.text.in_words()}});
    return json_text(out, 1) + "\n";
}

} // namespace bathmos::io
