// Campaigns of a project: kept as records beside a revision, begun from the shelf, planned without a window.
#pragma once

#include "core/project/project.h"
#include "core/units/told.h"
#include "io/plan/campaign_file.h"

namespace bathmos::session {

/// A campaign as a record. Its train is its revision's.
Entry campaign_record(const io::CampaignDraft& draft, const std::string& name, Id revision);
/// The campaign that a record holds, with its revision's train. Throws InputError.
io::CampaignDraft campaign_of(const Project& project, const Entry& record);
/// Plans of a build that hold such a word: campaigns, a rig's programmes; latest last, by number.
std::vector<Id> plans_holding(const Project& project, Id build, const std::string& word);
/// Campaigns of a build, likewise.
std::vector<Id> campaigns_of(const Project& project, Id build);

/// A kind of part as a factor: what of it lies on the shelf and fits this revision, the fitted one first.
struct ShelfFactor {
    PartKind kind = PartKind::Spring;
    plan::Factor factor;
    std::vector<std::string> patches;
};
/// Empty where the shelf has nothing else of that kind that fits.
std::optional<ShelfFactor> shelf_factor(const Project& project, Id revision, PartKind kind);
/// All kinds of which the shelf has a part that is not fitted; whether one fits, shelf_factor tells.
std::vector<PartKind> kinds_to_try(const Project& project, Id revision);
/// Adds a factor; baseline and mounted get its first level.
void add_factor(io::CampaignDraft& draft, const ShelfFactor& factor);
void remove_factor(io::CampaignDraft& draft, std::size_t factor);
/// Takes one level out. The last two stay.
void remove_level(io::CampaignDraft& draft, std::size_t factor, std::size_t level);

/// A campaign of a revision: lobes, springs and pushrods of the shelf, two days of eight hours. Throws
/// InputError where the shelf has nothing to try.
io::CampaignDraft new_campaign(const Project& project, Id revision, const SpeedRange& range);

/// What a campaign would run although it is near the end of its life: by the record of its use and what its
/// maker or the shop rates, in words, rule "part_life"; each part once, worst first.
std::vector<Told> worn_parts(const Project& project, const plan::Campaign& campaign);

/// What the parts of a combination cost to buy and have left, so far as the shelf and the record say.
struct CombinationPrice {
    std::optional<double> cost; ///< of those that are not of the baseline; empty where one of them says none
    double used = 0;            ///< share of its life that the oldest of its parts has used; 0: nothing known
    std::string oldest;         ///< that part; ""
};
/// Costs and ages of all levels, looked up once.
class LevelPrices {
  public:
    LevelPrices(const Project& project, const plan::Campaign& campaign);
    CombinationPrice of(const plan::Combination& levels) const;

  private:
    struct Level {
        std::string name;
        std::optional<double> cost;
        double used = 0;
    };
    std::vector<std::vector<Level>> levels_; ///< by factor
    plan::Combination baseline_;
};

/// One forecast of a campaign: by hash of all that it was made from, so that it is made once.
struct KnownForecast {
    std::string hash;
    std::vector<plan::Candidate> candidates;
    std::vector<plan::Forecast> forecasts;
};
/// What calibrations have taught that were accepted as revisions, for a campaign of a revision: the newest of
/// its build and those that it stands on, each against the revision that it was accepted from, in their
/// order; without those that the campaign's own train has already. Empty where there is none.
std::vector<CarriedFit> fits_for(const Project& project, Id revision);
std::string forecast_hash(const io::CampaignDraft& draft, const LimitsInForce& limits,
                          const std::vector<CarriedFit>& fits = {});

} // namespace bathmos::session
