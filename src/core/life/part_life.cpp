#include "core/life/part_life.h"

#include "core/life/trend.h"
#include "core/problem/input_error.h"

#include <algorithm>
#include <charconv>
#include <chrono>
#include <cmath>
#include <numeric>
#include <set>

namespace bathmos::life {

namespace {

constexpr double kMillion = 1e6, kHour_s = 3600;

std::optional<int> digits(std::string_view text, std::size_t at, std::size_t count) {
    int out = 0;
    if (text.size() < at + count)
        return std::nullopt;
    const char *from = text.data() + at, *end = from + count;
    const auto [last, error] = std::from_chars(from, end, out);
    return error == std::errc() && last == end ? std::optional(out) : std::nullopt;
}

// The latest revision of a build that stood at a day.
Id standing_at(const Project& project, const Build& build, double day) {
    Id out = 0;
    for (const Id id : project.line_to(build.head)) {
        const auto made = day_of(project.revisions.at(id).when);
        if (out == 0 || !made || *made <= day)
            out = id;
    }
    return out;
}

// Parts of a revision that a use has not been counted for yet.
void add_fitted(const Project& project, Id revision, const DatedUse& use, std::set<Id>& counted,
                UseByPart& out) {
    const auto at = project.revisions.find(revision);
    if (at == project.revisions.end())
        return;
    for (const auto& [kind, fitted] : at->second.assembly.parts)
        if (fitted.part != 0 && counted.insert(fitted.part).second) {
            out.parts[fitted.part].push_back(use);
            out.parts[fitted.part].back().revision = revision;
        }
}

// A record that stands for a set on several valves runs once.
void add_engine_use(const Project& project, const DatedUse& use, UseByPart& out) {
    const auto at = project.revisions.find(use.revision);
    if (at == project.revisions.end())
        return;
    std::set<Id> counted;
    add_fitted(project, use.revision, use, counted, out);
    const auto mine = project.builds.find(at->second.build);
    if (mine == project.builds.end() || mine->second.engine == 0)
        return; // nobody says what else turned with it
    for (const auto& [id, build] : project.builds)
        if (id != mine->first && build.engine == mine->second.engine)
            add_fitted(project, standing_at(project, build, use.day), use, counted, out);
}

bool meant_as_use(const Entry& entry) {
    const auto kind = entry.words.find("kind");
    return kind != entry.words.end() && kind->second == "use";
}

double cycles_of(const std::vector<DatedUse>& use) {
    return std::accumulate(use.begin(), use.end(), 0.0,
                           [](double sum, const DatedUse& one) { return sum + one.use.cycles(); });
}
double hours_of(const std::vector<DatedUse>& use) {
    return std::accumulate(use.begin(), use.end(), 0.0,
                           [](double sum, const DatedUse& one) { return sum + one.use.seconds() / kHour_s; });
}
double runs_of(const std::vector<DatedUse>& use) {
    return std::accumulate(use.begin(), use.end(), 0.0,
                           [](double sum, const DatedUse& one) { return sum + one.runs; });
}

// What the part had behind it before this record began.
struct Before {
    double cycles = 0, hours = 0, runs = 0;
};

// One rule: share used by some use; how much its life is.
struct Rule {
    LifeClaim claim;
    /// Of the life, without what was before; empty where it is not known of all of it.
    std::function<std::optional<double>(const std::vector<DatedUse>&)> used;
    double before = 0; ///< share
};

std::vector<Rule> rules_of(const Part& part, const Before& before, const WireShare& wire) {
    std::vector<Rule> out;
    const std::string source = "its maker's or the shop's figure";
    if (const auto rated = part.facts.number("rated_cycles"); rated && *rated > 0)
        out.push_back({{LifeRule::Cycles, 0, *rated * kMillion, false, source},
                       [=](const auto& use) { return cycles_of(use) / (*rated * kMillion); },
                       before.cycles / (*rated * kMillion)});
    if (const auto rated = part.facts.number("rated_hours"); rated && *rated > 0)
        out.push_back({{LifeRule::Hours, 0, *rated, false, source},
                       [=](const auto& use) { return hours_of(use) / *rated; },
                       before.hours / *rated});
    if (const auto rated = part.facts.number("rated_runs"); rated && *rated > 0)
        out.push_back({{LifeRule::Runs, 0, *rated, false, source},
                       [=](const auto& use) { return runs_of(use) / *rated; },
                       before.runs / *rated});
    if (part.kind == PartKind::Spring && wire) {
        const auto share = [wire](const std::vector<DatedUse>& use) -> std::optional<double> {
            double sum = 0;
            for (const DatedUse& one : use) {
                const auto taken = wire(one.revision, one.use);
                if (!taken)
                    return std::nullopt; // a part of it would look like all
                sum += *taken;
            }
            return sum;
        };
        out.push_back(
            {{LifeRule::Wire, 0, 1, true, "stress of the wire by the full model [Zimmerli, Smith, Miner]"},
             share,
             0});
    }
    return out;
}

// Loss of load since the first reading, and how fast it grows.
std::optional<LifeClaim> by_loads(std::vector<LoadReading> loads, double cycles, double& per_cycle) {
    std::ranges::sort(loads, {}, &LoadReading::cycles);
    if (loads.size() < 2 || !(loads.front().load_N > 0) || loads.back().cycles <= loads.front().cycles)
        return std::nullopt;
    std::vector<double> at, lost;
    for (const LoadReading& one : loads) {
        at.push_back(one.cycles);
        lost.push_back(1 - one.load_N / loads.front().load_N);
    }
    const Trend trend = trend_of(at, lost);
    per_cycle = std::max(0.0, trend.per_unit) / kMostLoadLoss;
    const double now = std::max(0.0, trend.value_at(std::max(cycles, at.back())));
    return LifeClaim{LifeRule::LoadLoss, now / kMostLoadLoss, kMostLoadLoss, loads.size() < 3,
                     "loads read on the tester, carried on"};
}

} // namespace

std::optional<double> day_of(std::string_view when) {
    const auto year = digits(when, 0, 4), month = digits(when, 5, 2), day = digits(when, 8, 2);
    if (!year || !month || !day || when[4] != '-' || when[7] != '-')
        return std::nullopt;
    const std::chrono::year_month_day date{std::chrono::year(*year), std::chrono::month(unsigned(*month)),
                                           std::chrono::day(unsigned(*day))};
    if (!date.ok())
        return std::nullopt;
    const auto days = std::chrono::sys_days(date).time_since_epoch().count();
    const auto hour = digits(when, 11, 2), minute = digits(when, 14, 2), second = digits(when, 17, 2);
    return static_cast<double>(days) + hour.value_or(0) / 24.0 + minute.value_or(0) / 1440.0 +
           second.value_or(0) / 86400.0;
}

std::optional<DatedUse> use_in(const Entry& entry) {
    DatedUse out;
    try {
        out.use = use_from(entry.numbers);
    } catch (const InputError&) { // of another program, or by hand: the project stays usable
        return std::nullopt;
    }
    if (out.use.classes().empty())
        return std::nullopt;
    out.day = day_of(entry.when).value_or(0);
    out.revision = entry.revision;
    const auto runs = entry.numbers.find("runs");
    out.runs = runs == entry.numbers.end() ? 1 : std::max(0.0, runs->second);
    return out;
}

UseByPart use_by_part(const Project& project) {
    UseByPart out;
    for (const EntryKind kind : {EntryKind::Log, EntryKind::DynoPull, EntryKind::RigRun})
        for (const auto& [id, entry] : project.of(kind)) {
            const auto use = use_in(entry);
            std::set<Id> counted;
            if (!use)
                out.silent += kind == EntryKind::RigRun || meant_as_use(entry);
            else if (kind == EntryKind::RigRun)
                add_fitted(project, entry.revision, *use, counted, out);
            else
                add_engine_use(project, *use, out);
        }
    for (auto& [part, use] : out.parts)
        std::ranges::stable_sort(use, {}, &DatedUse::day);
    return out;
}

PartLife life_of(const Project& project, Id part_id, const std::vector<DatedUse>& use, double today,
                 const WireShare& wire, const std::vector<LoadReading>& loads) {
    const Part& part = project.parts.at(part_id);
    const Before before{part.facts.number("run_cycles").value_or(0) * kMillion,
                        part.facts.number("run_hours").value_or(0),
                        part.facts.number("run_runs").value_or(0)};
    PartLife out;
    out.part = part_id;
    out.cycles = before.cycles + cycles_of(use);
    out.hours = before.hours + hours_of(use);
    out.runs = before.runs + runs_of(use);
    std::vector<DatedUse> lately;
    std::ranges::copy_if(use, std::back_inserter(lately), [&](const DatedUse& one) {
        return one.day > today - kPaceDays && one.day <= today;
    });
    const double days = use.empty() ? kPaceDays : std::clamp(today - use.front().day, 1.0, kPaceDays);
    std::vector<std::pair<LifeClaim, double>> found; // with its share a day
    for (Rule& rule : rules_of(part, before, wire)) {
        const auto used = rule.used(use), of_late = rule.used(lately);
        if (!used || !of_late)
            continue;
        rule.claim.used = rule.before + *used;
        found.emplace_back(std::move(rule.claim), *of_late / days);
    }
    double per_cycle = 0;
    if (auto claim = by_loads(loads, out.cycles, per_cycle))
        found.emplace_back(std::move(*claim), per_cycle * cycles_of(lately) / days);
    std::ranges::stable_sort(found, std::greater<>(), [](const auto& one) { return one.first.used; });
    for (auto& [claim, pace] : found)
        out.claims.push_back(std::move(claim));
    if (found.empty())
        return out;
    out.share_per_day = found.front().second;
    const auto reaches = [&](double share) -> std::optional<double> {
        const double left = share - out.claims.front().used;
        if (left <= 0)
            return today;
        return out.share_per_day > 0 ? std::optional(today + left / out.share_per_day) : std::nullopt;
    };
    out.due_day = reaches(kLifeWarning);
    out.over_day = reaches(1);
    return out;
}

} // namespace bathmos::life
