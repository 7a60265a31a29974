// Campaign files, *.campaign.json (docs/format.md): factors whose levels are JSON merge patches [RFC 7396] of
// a train; and the plan of one as JSON.
#pragma once

#include "core/calibration/carried_fit.h"
#include "core/plan/plan.h"

#include <filesystem>
#include <string>
#include <string_view>

namespace bathmos::io {

inline constexpr std::size_t kMostCampaignBytes = 8 << 20;

/// A campaign with the train that its levels change.
struct CampaignDraft {
    plan::Campaign campaign;
    std::string train;                             ///< as JSON
    std::vector<std::vector<std::string>> patches; ///< of each factor's levels, as JSON; "{}" changes nothing
    bool use_fit = true; ///< forecast with what a run of this build has taught, where one was calibrated
    bool operator==(const CampaignDraft&) const = default;
};

/// Throws InputError naming source, key, what is wrong and what would be right. A train named by its file is
/// looked for beside the campaign. `train`: that of a project, for a text that holds none.
CampaignDraft read_campaign(const std::filesystem::path& path);
CampaignDraft parse_campaign(std::string_view text, const std::string& source,
                             const std::filesystem::path& folder = {}, const Train* train = nullptr);
/// The file's text; `with_train` false leaves the train out: of a project's record, which names a revision.
std::string campaign_text(const CampaignDraft& draft, bool with_train = true);

/// All combinations with their trains, which have what the fits, one after the other, found out about their
/// parts. Those that make no train carry why.
std::vector<plan::Candidate> candidates_of(const CampaignDraft& draft,
                                           const std::vector<CarriedFit>& fits = {});

/// The merge patch that makes one train of another, as JSON.
std::string patch_between(const Train& from, const Train& to);

/// The plan as formats.md has it, and beyond: why, day, what falls out, what was told.
std::string plan_summary(const plan::Campaign& campaign, const plan::Plan& plan);

} // namespace bathmos::io
