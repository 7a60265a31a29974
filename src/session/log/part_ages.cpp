#include "session/log/part_ages.h"

#include "core/bench/sheet_kind.h"
#include "io/train/train_file.h"
#include "session/bench/sheet_record.h"
#include "session/log/time_line.h"
#include "session/results/input_hash.h"
#include "session/results/predictions.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace bathmos::session {

namespace {

constexpr double kSameHeight_m = 0.05e-3;

std::string wire_of(const Assembly& assembly) {
    return assembly.word(PartKind::Spring, "wire");
}

// How each revision with a spring of the shelf ran.
std::map<Id, life::EngineUse> asked_of(const Project& project, const life::UseByPart& use) {
    std::map<Id, life::EngineUse> out;
    for (const auto& [part, uses] : use.parts)
        if (const auto at = project.parts.find(part);
            at != project.parts.end() && at->second.kind == PartKind::Spring)
            for (const life::DatedUse& one : uses)
                out[one.revision].add(one.use);
    return out;
}

double cycles_before(const std::vector<life::DatedUse>& use, double day) {
    double out = 0;
    for (const life::DatedUse& one : use)
        if (one.day <= day)
            out += one.use.cycles();
    return out;
}

double mean(const std::vector<double>& values) {
    return std::accumulate(values.begin(), values.end(), 0.0) / static_cast<double>(values.size());
}

struct LoadAtHeight {
    double height_m = 0, load_N = 0;
};

// What a set of springs on the tester says of one of them, or of all.
std::optional<LoadAtHeight> load_in(const bench::SheetDraft& draft, const std::string& serial) {
    const auto height = draft.fields.find("seat_height_mm");
    if (draft.kind != "spring_set" || height == draft.fields.end() || height->second.empty())
        return std::nullopt;
    std::vector<double> all, own;
    for (const bench::SheetRow& row : draft.rows)
        if (!row.cells.empty() && !row.cells.front().empty()) {
            all.push_back(mean(row.cells.front()));
            if (!serial.empty() && row.name == serial)
                own.push_back(all.back());
        }
    if (all.empty())
        return std::nullopt;
    return LoadAtHeight{mean(height->second), mean(own.empty() ? all : own)};
}

const bench::SheetDraft* readings_of(const Entry& sheet, std::optional<bench::SheetDraft>& into) {
    try {
        into = draft_of(sheet);
    } catch (const InputError&) {
        into.reset();
    }
    return into ? &*into : nullptr;
}

} // namespace

std::string fatigue_asked(const Project& project, const life::UseByPart& use) {
    std::string out;
    for (const auto& [revision, all] : asked_of(project, use)) {
        out += fmt::format("{}", revision);
        for (const auto& [key, seconds] : life::as_numbers(all))
            out += fmt::format(" {} {}", key, seconds);
        if (const auto at = project.revisions.find(revision); at != project.revisions.end())
            out += "\n" + wire_of(at->second.assembly) + "\n" + io::train_text(at->second.assembly.train);
    }
    return out.empty() ? out : hash_of(out, {});
}

FatigueByRevision fatigue_by_revision(const Project& project, const life::UseByPart& use,
                                      const ProgressSink& progress, const std::stop_token& stop) {
    const std::map<Id, life::EngineUse> asked = asked_of(project, use);
    FatigueByRevision out;
    std::size_t done = 0;
    for (const auto& [revision, all] : asked) {
        throw_if_stopped(stop);
        const auto at = project.revisions.find(revision);
        try {
            if (at != project.revisions.end())
                out[revision] = life::fatigue_of(at->second.assembly.train, life::speeds_of(all),
                                                 wire_of(at->second.assembly), stop);
        } catch (const InputError&) {
            out.erase(revision); // its train cannot be run: nothing is known of its wire
        }
        if (progress)
            progress(static_cast<double>(++done) / static_cast<double>(asked.size()));
    }
    return out;
}

std::vector<life::LoadReading> loads_of(const Project& project, Id part,
                                        const std::vector<life::DatedUse>& use) {
    std::vector<std::pair<double, LoadAtHeight>> found; // by day
    const std::string& serial = project.parts.at(part).serial;
    const double before = project.parts.at(part).facts.number("run_cycles").value_or(0) * 1e6;
    for (const auto& [id, sheet] : project.of(EntryKind::Sheet)) {
        const auto at = project.revisions.find(sheet.revision);
        const FittedPart* spring =
            at == project.revisions.end() ? nullptr : at->second.assembly.find(PartKind::Spring);
        const auto day = life::day_of(sheet.when);
        std::optional<bench::SheetDraft> kept;
        if (!spring || spring->part != part || !day || !readings_of(sheet, kept))
            continue;
        if (const auto load = load_in(*kept, serial))
            found.emplace_back(*day, *load);
    }
    std::ranges::stable_sort(found, {}, [](const auto& one) { return one.first; });
    std::vector<life::LoadReading> out;
    for (const auto& [day, load] : found)
        if (std::abs(load.height_m - found.front().second.height_m) < kSameHeight_m)
            out.push_back({before + cycles_before(use, day), load.load_N});
    return out;
}

PartRecord part_record(const Project& project) {
    PartRecord out{life::use_by_part(project), {}};
    for (const auto& [id, used] : out.use.parts)
        if (const auto part = project.parts.find(id);
            part != project.parts.end() && part->second.kind == PartKind::Spring)
            if (auto loads = loads_of(project, id, used); loads.size() > 1)
                out.loads[id] = std::move(loads);
    return out;
}

life::PartLife life_by(const PartRecord& record, const Project& project, Id part, double today,
                       const life::WireShare& wire) {
    static const std::vector<life::DatedUse> kUnused;
    const auto used = record.use.parts.find(part);
    const auto loads = record.loads.find(part);
    const bool ran = used != record.use.parts.end() && !used->second.empty();
    return life::life_of(project, part, ran ? used->second : kUnused, today, ran ? wire : life::WireShare(),
                         loads == record.loads.end() ? std::vector<life::LoadReading>() : loads->second);
}

namespace {

// Each use by the limit that was computed for the revision that ran; none where nobody computed one.
double cycles_over_limit(const Project& project, const std::vector<life::DatedUse>& uses) {
    double out = 0;
    for (const life::DatedUse& use : uses)
        if (const Prediction* made = newest_prediction(project, use.revision); made && made->limit_rpm)
            out += use.use.cycles_above(*made->limit_rpm);
    return out;
}

} // namespace

PartAges part_ages(const Project& project, double today, const FatigueByRevision* fatigue) {
    const PartRecord record = part_record(project);
    PartAges out;
    out.silent = record.use.silent;
    life::WireShare wire;
    if (fatigue)
        wire = [fatigue](Id revision, const life::EngineUse& used) -> std::optional<double> {
            const auto at = fatigue->find(revision);
            if (at == fatigue->end())
                return std::nullopt;
            std::optional<double> worst;
            for (const life::SpringFatigue& spring : at->second)
                if (spring.none.empty())
                    worst = std::max(worst.value_or(0), spring.share(used));
            return worst;
        };
    for (const auto& [id, part] : project.parts) {
        const auto used = record.use.parts.find(id);
        const bool ran = used != record.use.parts.end() && !used->second.empty();
        AgedPart aged;
        aged.life = life_by(record, project, id, today, wire);
        if (!ran && aged.life.claims.empty())
            continue;
        if (ran)
            aged.over_limit = cycles_over_limit(project, used->second);
        aged.name = part.name;
        aged.serial = part.serial;
        aged.kind = part.kind;
        for (const auto& [number, entry] : project.of(EntryKind::Log))
            aged.failures += line_kind_of(entry) == LineKind::Failure && part_named(entry) == id;
        out.parts.push_back(std::move(aged));
    }
    const auto urgency = [](const AgedPart& one) {
        return one.life.claims.empty() ? -1.0 : one.life.claims.front().used;
    };
    std::ranges::stable_sort(out.parts, std::greater<>(), urgency);
    return out;
}

std::optional<LashTrend> lash_trend(const Project& project, Id build) {
    std::vector<std::pair<double, double>> read; // day, lash
    for (const auto& [id, sheet] : project.of(EntryKind::Sheet)) {
        const auto at = project.revisions.find(sheet.revision);
        const auto day = life::day_of(sheet.when);
        if (at == project.revisions.end() || at->second.build != build || !day)
            continue;
        std::optional<bench::SheetDraft> kept;
        if (const auto said = sheet.numbers.find("lash_mm"); said != sheet.numbers.end())
            read.emplace_back(*day, said->second * 1e-3);
        else if (readings_of(sheet, kept) && kept->kind == "lash") {
            std::vector<double> all;
            for (const bench::SheetRow& row : kept->rows)
                if (!row.cells.empty() && !row.cells.front().empty())
                    all.push_back(mean(row.cells.front()));
            if (!all.empty())
                read.emplace_back(*day, mean(all));
        }
    }
    if (read.size() < 3)
        return std::nullopt;
    std::ranges::stable_sort(read, {}, [](const auto& one) { return one.first; });
    std::vector<life::DatedUse> use; // of the build: what any of its revisions ran
    for (const EntryKind kind : {EntryKind::Log, EntryKind::RigRun})
        for (const auto& [id, entry] : project.of(kind))
            if (const auto one = life::use_in(entry))
                if (const auto at = project.revisions.find(entry.revision);
                    at != project.revisions.end() && at->second.build == build)
                    use.push_back(*one);
    LashTrend out;
    for (const auto& [day, lash] : read) {
        out.cycles.push_back(cycles_before(use, day));
        out.lash_m.push_back(lash);
    }
    if (out.cycles.back() <= out.cycles.front())
        return std::nullopt;
    out.trend = life::trend_of(out.cycles, out.lash_m);
    return out;
}

} // namespace bathmos::session
