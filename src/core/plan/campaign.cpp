#include "core/plan/campaign.h"

#include "core/problem/input_error.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace bathmos::plan {

namespace {

constexpr double kMostHours = 10'000;
constexpr std::size_t kMostDays = 365;

[[noreturn]] void refuse(const std::string& place, const std::string& what, const std::string& mend) {
    throw InputError({"", place, what, mend});
}

void require_hours(const std::string& place, double hours, bool above_zero) {
    if (!(std::isfinite(hours) && hours <= kMostHours && (above_zero ? hours > 0 : hours >= 0)))
        refuse(place, fmt::format("{:g} hours", hours),
               above_zero ? "give a number above 0" : "give a number from 0 up");
}

void check_factor(const Campaign& campaign, std::size_t f) {
    const Factor& factor = campaign.factors[f];
    const std::string place = fmt::format("factors[{}]", f);
    if (factor.name.empty())
        refuse(place + ".name", "is empty", "name the factor");
    for (std::size_t other = 0; other < f; ++other)
        if (campaign.factors[other].name == factor.name)
            refuse(place + ".name", fmt::format("\"{}\" stands twice", factor.name), "name each differently");
    require_hours(place + ".change_h", factor.change_h, false);
    if (factor.levels.empty())
        refuse(place + ".levels", "is empty", "give at least one level");
    for (std::size_t i = 0; i < factor.levels.size(); ++i)
        if (std::ranges::count(factor.levels, factor.levels[i]) > 1)
            refuse(fmt::format("{}.levels[{}].name", place, i),
                   fmt::format("\"{}\" stands twice", factor.levels[i]), "name each level differently");
    for (const std::size_t with : factor.frees)
        if (with >= campaign.factors.size() || with == f)
            refuse(place + ".comes_with", "is no other factor", "name another factor");
}

void check_levels(const Campaign& campaign, const std::string& place, const Combination& levels) {
    if (levels.size() != campaign.factors.size())
        refuse(place, fmt::format("has {} levels", levels.size()),
               fmt::format("give one of each of {} factors", campaign.factors.size()));
    for (std::size_t f = 0; f < levels.size(); ++f)
        if (levels[f] >= campaign.factors[f].levels.size())
            refuse(place + "." + campaign.factors[f].name, "is none of its levels", "choose one of them");
}

} // namespace

void check_campaign(const Campaign& campaign) {
    if (campaign.factors.empty())
        refuse("factors", "is empty", "give at least one thing that can be changed");
    double combinations = 1;
    for (std::size_t f = 0; f < campaign.factors.size(); ++f) {
        check_factor(campaign, f);
        combinations *= static_cast<double>(campaign.factors[f].levels.size());
    }
    if (combinations > static_cast<double>(kMostCombinations))
        refuse(
            "factors", fmt::format("{:.0f} combinations", combinations),
            fmt::format("plan at most {}: leave out levels, or a factor that can wait", kMostCombinations));
    check_levels(campaign, "mounted", campaign.mounted);
    check_levels(campaign, "baseline", campaign.baseline);
    if (campaign.day_h.empty() || campaign.day_h.size() > kMostDays)
        refuse("hours", fmt::format("{} days", campaign.day_h.size()), "give the hours of each day booked");
    for (const double hours : campaign.day_h)
        require_hours("hours", hours, true);
    require_hours("setup_h", campaign.setup_h, false);
    require_hours("run_h", campaign.run_h, true);
    for (std::size_t i = 0; i < campaign.measured.size(); ++i) {
        const MeasuredRun& run = campaign.measured[i];
        const std::string place = fmt::format("measured[{}]", i);
        check_levels(campaign, place + ".levels", run.levels);
        if (!(run.limit_rpm > 0 && run.limit_rpm < 1e5))
            refuse(place + ".limit_rpm", fmt::format("{:g}", run.limit_rpm), "give the limit in rev/min");
        if (!(run.sd_rpm > 0 && run.sd_rpm < 1e4))
            refuse(place + ".sd_rpm", fmt::format("{:g}", run.sd_rpm), "give what it is known to, above 0");
    }
}

std::vector<Combination> all_combinations(const Campaign& campaign) {
    std::vector<Combination> out;
    Combination now(campaign.factors.size(), 0);
    while (true) {
        out.push_back(now);
        std::size_t f = now.size();
        while (f > 0 && now[f - 1] + 1 == campaign.factors[f - 1].levels.size())
            now[--f] = 0;
        if (f == 0)
            return out;
        ++now[f - 1];
    }
}

double change_hours(const Campaign& campaign, const Combination& from, const Combination& to) {
    double out = 0;
    for (std::size_t f = 0; f < from.size(); ++f) {
        if (from[f] == to[f])
            continue;
        bool free = false;
        for (std::size_t g = 0; g < from.size(); ++g)
            free = free || (from[g] != to[g] && std::ranges::count(campaign.factors[g].frees, f) > 0 &&
                            // two that free each other: the dearer one is paid
                            (std::ranges::count(campaign.factors[f].frees, g) == 0 ||
                             campaign.factors[g].change_h > campaign.factors[f].change_h ||
                             (campaign.factors[g].change_h == campaign.factors[f].change_h && g < f)));
        if (!free)
            out += campaign.factors[f].change_h;
    }
    return out;
}

double booked_hours(const Campaign& campaign) {
    return std::accumulate(campaign.day_h.begin(), campaign.day_h.end(), 0.0);
}

std::string name_of(const Campaign& campaign, const Combination& levels) {
    std::string out;
    for (std::size_t f = 0; f < levels.size(); ++f)
        if (levels[f] != campaign.baseline[f])
            out += (out.empty() ? "" : ", ") + campaign.factors[f].name + " " +
                   campaign.factors[f].levels[levels[f]];
    return out.empty() ? "baseline" : out;
}

} // namespace bathmos::plan
