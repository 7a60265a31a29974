#include "session/plan/campaign_record.h"

#include "core/problem/input_error.h"
#include "core/train/train_check.h"
#include "io/train/train_file.h"
#include "session/log/part_ages.h"
#include "session/results/input_hash.h"

#include <algorithm>
#include <fmt/format.h>
#include <map>
#include <set>

namespace bathmos::session {

namespace {

const char* const kCampaignKey = "campaign";

// Hours to change a part of a kind, as a shop that knows its engine takes; a person corrects them.
double usual_hours(PartKind kind) {
    switch (kind) {
    case PartKind::Lobe:
        return 3;
    case PartKind::Lifter:
        return 2;
    case PartKind::Spring:
    case PartKind::Retainer:
    case PartKind::Locks:
    case PartKind::Valve:
        return 1;
    case PartKind::Pushrod:
        return 0.75;
    default:
        return 0.5;
    }
}

bool is_fitted(const Revision& revision) {
    return std::ranges::any_of(revision.assembly.train.tolerances,
                               [](const auto& one) { return one.second.source == Source::Fitted; });
}

std::string level_name(const Part& part) {
    return part.serial.empty() ? part.name : part.name + " " + part.serial;
}

} // namespace

Entry campaign_record(const io::CampaignDraft& draft, const std::string& name, Id revision) {
    Entry out;
    out.name = name;
    out.revision = revision;
    out.words[kCampaignKey] = io::campaign_text(draft, false);
    return out;
}

io::CampaignDraft campaign_of(const Project& project, const Entry& record) {
    const auto revision = project.revisions.find(record.revision);
    const auto text = record.words.find(kCampaignKey);
    if (revision == project.revisions.end() || text == record.words.end())
        throw InputError({record.name, "", "holds no campaign of a revision", "make it anew"});
    return io::parse_campaign(text->second, record.name, {}, &revision->second.assembly.train);
}

std::vector<Id> plans_holding(const Project& project, Id build, const std::string& word) {
    std::vector<Id> out;
    for (const auto& [id, entry] : project.of(EntryKind::Plan))
        if (const auto revision = project.revisions.find(entry.revision);
            revision != project.revisions.end() && revision->second.build == build &&
            entry.words.contains(word))
            out.push_back(id);
    return out;
}

std::vector<Id> campaigns_of(const Project& project, Id build) {
    return plans_holding(project, build, kCampaignKey);
}

std::optional<ShelfFactor> shelf_factor(const Project& project, Id revision, PartKind kind) {
    const Assembly& assembly = project.revisions.at(revision).assembly;
    const FittedPart* fitted_one = assembly.find(kind);
    ShelfFactor out;
    out.kind = kind;
    out.factor.name = std::string(info(kind).key);
    out.factor.change_h = usual_hours(kind);
    out.factor.levels.push_back(
        fitted_one
            ? (fitted_one->serial.empty() ? fitted_one->name : fitted_one->name + " " + fitted_one->serial)
            : std::string("as it is"));
    out.patches.emplace_back("{}");
    for (const auto& [id, part] : project.parts) {
        if (part.kind != kind || (fitted_one && fitted_one->part == id))
            continue;
        try {
            const Assembly next = fitted(assembly, id, part);
            const std::string patch = io::patch_between(assembly.train, next.train), name = level_name(part);
            if (patch == "{}" || !check_train(next.train).empty() ||
                std::ranges::count(out.factor.levels, name) > 0)
                continue; // the same numbers, or of another train
            out.factor.levels.push_back(name);
            out.patches.push_back(patch);
        } catch (const InputError&) {
            continue; // no place for it
        }
    }
    return out.factor.levels.size() > 1 ? std::optional(out) : std::nullopt;
}

std::vector<PartKind> kinds_to_try(const Project& project, Id revision) {
    const Assembly& assembly = project.revisions.at(revision).assembly;
    std::set<PartKind> found;
    for (const auto& [id, part] : project.parts)
        if (const FittedPart* there = assembly.find(part.kind); !there || there->part != id)
            found.insert(part.kind);
    return {found.begin(), found.end()};
}

void add_factor(io::CampaignDraft& draft, const ShelfFactor& factor) {
    draft.campaign.factors.push_back(factor.factor);
    draft.patches.push_back(factor.patches);
    draft.campaign.mounted.push_back(0);
    draft.campaign.baseline.push_back(0);
    for (plan::MeasuredRun& run : draft.campaign.measured)
        run.levels.push_back(0); // what was run had what was fitted
}

void remove_factor(io::CampaignDraft& draft, std::size_t factor) {
    const auto at = static_cast<std::ptrdiff_t>(factor);
    plan::Campaign& c = draft.campaign;
    c.factors.erase(c.factors.begin() + at);
    draft.patches.erase(draft.patches.begin() + at);
    c.mounted.erase(c.mounted.begin() + at);
    c.baseline.erase(c.baseline.begin() + at);
    std::erase_if(c.measured, [&](const plan::MeasuredRun& run) { return run.levels[factor] != 0; });
    for (plan::MeasuredRun& run : c.measured)
        run.levels.erase(run.levels.begin() + at);
    for (plan::Factor& other : c.factors) {
        std::erase(other.frees, factor);
        for (std::size_t& one : other.frees)
            one -= one > factor ? 1 : 0;
    }
}

void remove_level(io::CampaignDraft& draft, std::size_t factor, std::size_t level) {
    plan::Campaign& c = draft.campaign;
    std::vector<std::string>& levels = c.factors[factor].levels;
    if (levels.size() <= 2 || c.baseline[factor] == level || c.mounted[factor] == level)
        throw InputError({"", c.factors[factor].name, levels[level] + " cannot be left out",
                          "take out another: two stay, with baseline and what is mounted"});
    levels.erase(levels.begin() + static_cast<std::ptrdiff_t>(level));
    draft.patches[factor].erase(draft.patches[factor].begin() + static_cast<std::ptrdiff_t>(level));
    std::erase_if(c.measured, [&](const plan::MeasuredRun& run) { return run.levels[factor] == level; });
    const auto close = [&](plan::Combination& levels_of) {
        levels_of[factor] -= levels_of[factor] > level ? 1 : 0;
    };
    close(c.mounted);
    close(c.baseline);
    for (plan::MeasuredRun& run : c.measured)
        close(run.levels);
}

io::CampaignDraft new_campaign(const Project& project, Id revision, const SpeedRange& range) {
    io::CampaignDraft out;
    out.train = io::train_text(project.revisions.at(revision).assembly.train);
    out.campaign.range = range;
    out.campaign.day_h = {8, 8};
    out.campaign.setup_h = 4;
    for (const PartKind kind : {PartKind::Lobe, PartKind::Spring, PartKind::Pushrod})
        if (const auto factor = shelf_factor(project, revision, kind))
            add_factor(out, *factor);
    if (out.campaign.factors.empty())
        throw InputError({"", "shelf", "has nothing else that fits this build",
                          "put lobes, springs or pushrods on the shelf (Train, Shelf) first"});
    // Heads are off when the cam is changed: what sits above it comes with it.
    if (out.campaign.factors.front().name == info(PartKind::Lobe).key)
        for (std::size_t f = 1; f < out.campaign.factors.size(); ++f)
            if (out.campaign.factors[f].name == info(PartKind::Pushrod).key)
                out.campaign.factors.front().frees.push_back(f);
    plan::check_campaign(out.campaign);
    return out;
}

std::vector<Told> worn_parts(const Project& project, const plan::Campaign& campaign) {
    std::vector<Told> out;
    for (const AgedPart& part : part_ages(project, 0).parts) {
        if (!part.life.due())
            continue;
        const std::string name = level_name(project.parts.at(part.life.part));
        const auto tries = [&](const plan::Factor& factor) {
            return factor.name == info(part.kind).key && std::ranges::count(factor.levels, name) > 0;
        };
        if (std::ranges::any_of(campaign.factors, tries))
            out.push_back({"part_life", fmt::format("{} has used {:.0f} % of its life", name,
                                                    100 * part.life.claims.front().used)});
    }
    return out;
}

LevelPrices::LevelPrices(const Project& project, const plan::Campaign& campaign)
    : baseline_(campaign.baseline) {
    std::map<Id, double> used;
    for (const AgedPart& part : part_ages(project, 0).parts)
        if (!part.life.claims.empty())
            used[part.life.part] = part.life.claims.front().used;
    for (const plan::Factor& factor : campaign.factors) {
        std::vector<Level>& levels = levels_.emplace_back();
        for (const std::string& name : factor.levels) {
            Level& level = levels.emplace_back(Level{name, {}, 0});
            for (const auto& [id, part] : project.parts)
                if (info(part.kind).key == factor.name && level_name(part) == name) {
                    level.cost = part.cost;
                    level.used = used.contains(id) ? used.at(id) : 0;
                }
        }
    }
}

CombinationPrice LevelPrices::of(const plan::Combination& levels) const {
    CombinationPrice out;
    out.cost = 0;
    for (std::size_t f = 0; f < levels.size(); ++f) {
        const Level& level = levels_[f][levels[f]];
        if (levels[f] != baseline_[f])
            out.cost = out.cost && level.cost ? std::optional(*out.cost + *level.cost) : std::nullopt;
        if (level.used > out.used) {
            out.used = level.used;
            out.oldest = level.name;
        }
    }
    return out;
}

std::vector<CarriedFit> fits_for(const Project& project, Id revision) {
    const auto own = project.revisions.find(revision);
    if (own == project.revisions.end())
        return {};
    const std::vector<Id> line = project.line_to(revision); // what was fitted there is in its train already
    const auto fit_of = [&](Id id) {
        const Revision& now = project.revisions.at(id);
        const auto before = project.revisions.find(now.parent);
        return before == project.revisions.end() || std::ranges::find(line, id) != line.end()
                   ? CarriedFit{}
                   : CarriedFit{project.revision_label(id), before->second.assembly.train,
                                now.assembly.train};
    };
    std::vector<CarriedFit> out;
    for (auto at = project.revisions.rbegin(); at != project.revisions.rend() && out.empty(); ++at)
        if (at->second.build == own->second.build && is_fitted(at->second) &&
            !found_numbers(fit_of(at->first)).empty())
            for (const Id id : project.line_to(at->first))
                if (CarriedFit fit = fit_of(id); !found_numbers(fit).empty())
                    out.push_back(std::move(fit));
    return out;
}

std::string forecast_hash(const io::CampaignDraft& draft, const LimitsInForce& limits,
                          const std::vector<CarriedFit>& fits) {
    io::CampaignDraft asked = draft; // hours and runs change no forecast
    plan::Campaign& c = asked.campaign;
    c.measured.clear();
    c.day_h = {1};
    c.setup_h = 0;
    c.run_h = 1;
    c.baseline_every = 0;
    for (plan::Factor& factor : c.factors) {
        factor.change_h = 0;
        factor.frees.clear();
    }
    c.mounted = c.baseline;
    asked.use_fit = true;
    std::string text = io::campaign_text(asked);
    for (const CarriedFit& fit : fits)
        text += io::train_text(fit.believed) + io::train_text(fit.fitted);
    return hash_of(text, limits);
}

} // namespace bathmos::session
