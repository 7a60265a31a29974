#include "session/log/log_json.h"

#include "io/json/json.h"

#include <chrono>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::session {

namespace {

using io::Json;
using io::rounded;

Json date_json(const std::optional<double>& day) {
    return day && *day < kFurthestDay ? Json(date_text(*day)) : Json(nullptr);
}

Json claim_json(const life::LifeClaim& claim) {
    return {{"rule", name_of(claim.rule)},
            {"used", rounded(claim.used, 4)},
            {"whole", claim.whole},
            {"estimated", claim.estimated},
            {"source", claim.source}};
}

Json age_json(const AgedPart& part) {
    Json claims = Json::array();
    for (const life::LifeClaim& claim : part.life.claims)
        claims.push_back(claim_json(claim));
    return {{"kind", info(part.kind).key},
            {"name", part.name},
            {"serial", part.serial},
            {"cycles", rounded(part.life.cycles, 0)},
            {"hours", rounded(part.life.hours, 3)},
            {"runs", rounded(part.life.runs, 1)},
            {"claims", std::move(claims)},
            {"share_per_day", rounded(part.life.share_per_day, 6)},
            {"due", date_json(part.life.due_day)},
            {"over", date_json(part.life.over_day)},
            {"over_limit_cycles", rounded(part.over_limit, 0)},
            {"failures", part.failures}};
}

} // namespace

namespace {

Json files_json(const LogLine& line) {
    Json out = Json::array();
    for (const LineFile& file : line.files)
        out.push_back(Json{{"hash", file.hash}, {"name", file.name}});
    return out;
}

Json lines_json(const std::vector<LogLine>& lines) {
    Json out = Json::array();
    for (const LogLine& line : lines)
        out.push_back({{"kind", line_kinds()[static_cast<std::size_t>(line.kind)].key},
                       {"id", line.id},
                       {"when", line.when},
                       {"title", line.title},
                       {"text", line.text},
                       {"where", line.where},
                       {"revision", line.revision},
                       {"parts", line.parts},
                       {"files", files_json(line)}});
    return out;
}

} // namespace

std::string log_json(const std::vector<LogLine>& lines) {
    return io::json_text(lines_json(lines), 1) + "\n";
}

std::string between_json(const std::vector<SeenState>& states, const BetweenStates* between) {
    constexpr std::string_view kMarks[] = {"unknown", "good", "bad"};
    Json out;
    out["states"] = Json::array();
    for (const SeenState& state : states)
        out["states"].push_back(Json{{"revision", state.revision},
                                     {"label", state.label},
                                     {"mark", kMarks[static_cast<std::size_t>(state.mark)]},
                                     {"why", state.why}});
    if (!between)
        return io::json_text(out, 1) + "\n";
    out["good"] = between->of.good;
    out["bad"] = between->of.bad;
    out["limit_rpm"] = {{"good", io::maybe(between->good_rpm, 0)}, {"bad", io::maybe(between->bad_rpm, 0)}};
    out["changes"] = Json::array();
    for (const StateChange& one : between->changes.changes)
        out["changes"].push_back(
            Json{{"what", one.text.in_words()}, {"undone_gain_rpm", io::maybe(one.undone_gain_rpm, 0)}});
    out["effects"] = Json::array();
    for (const Difference& one : between->effects) {
        const Unit unit = unit_of(one.quantity);
        const auto value = [&](const std::optional<double>& si) {
            return si ? io::maybe(*si / unit.to_si) : Json(nullptr);
        };
        out["effects"].push_back(Json{{"what", one.label},
                                      {"unit", unit.name},
                                      {"good", value(one.before)},
                                      {"bad", value(one.after)}});
    }
    out["lines"] = lines_json(between->lines);
    out["cycles"] = rounded(between->cycles, 0);
    return io::json_text(out, 1) + "\n";
}

std::string_view name_of(life::LifeRule rule) {
    constexpr std::string_view kNames[] = {"cycles", "hours", "runs", "wire", "load loss"};
    return kNames[static_cast<std::size_t>(rule)];
}

std::string ages_json(const PartAges& ages) {
    Json out;
    out["parts"] = Json::array();
    for (const AgedPart& part : ages.parts)
        out["parts"].push_back(age_json(part));
    out["silent_runs"] = ages.silent;
    return io::json_text(out, 1) + "\n";
}

std::string use_json(const life::LoggedUse& use, const std::vector<life::SpringFatigue>& springs) {
    Json out;
    out["cycles"] = rounded(use.use.cycles(), 1);
    out["hours"] = rounded(use.use.seconds() / 3600, 5);
    out["classes"] = Json::array();
    for (const auto& [from, one] : use.use.classes())
        out["classes"].push_back({{"from_rpm", from},
                                  {"hours", rounded(one.seconds / 3600, 5)},
                                  {"cycles", rounded(one.cycles, 1)}});
    out["excursions"] = Json::array();
    for (const life::Excursion& one : use.excursions)
        out["excursions"].push_back({{"at_s", rounded(one.at_s)},
                                     {"seconds", rounded(one.seconds)},
                                     {"cycles", rounded(one.cycles, 1)},
                                     {"highest_rpm", rounded(one.highest_rpm, 0)}});
    out["gaps"] = use.gaps;
    out["left_out_s"] = rounded(use.left_out_s);
    out["lost"] = use.lost;
    out["springs"] = Json::array();
    for (const life::SpringFatigue& spring : springs) {
        Json one = {{"name", spring.spring}};
        if (!spring.none.empty())
            one["none"] = spring.none;
        else
            one["share"] = spring.share(use.use);
        one["by_speed"] = Json::array();
        for (const life::SpringStress& stress : spring.by_speed)
            one["by_speed"].push_back({{"rpm", stress.speed_rpm},
                                       {"low_MPa", rounded(stress.low_Pa * 1e-6, 1)},
                                       {"high_MPa", rounded(stress.high_Pa * 1e-6, 1)},
                                       {"still_MPa", rounded(stress.still_Pa * 1e-6, 1)},
                                       {"damage", stress.damage}});
        out["springs"].push_back(std::move(one));
    }
    return io::json_text(out, 1) + "\n";
}

std::string date_text(double day) {
    const std::chrono::year_month_day date{
        std::chrono::sys_days{std::chrono::days{static_cast<int>(std::floor(day))}}};
    return fmt::format("{:04}-{:02}-{:02}", static_cast<int>(date.year()),
                       static_cast<unsigned>(date.month()), static_cast<unsigned>(date.day()));
}

} // namespace bathmos::session
