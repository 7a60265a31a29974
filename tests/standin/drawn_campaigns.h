// Campaigns that are drawn, with the truth of each combination kept from the plan: parts as a shop believes
// them, and what they are by the model with all that belief leaves out.
#pragma once

#include "core/plan/plan.h"

namespace bathmos::test {

struct DrawnCampaign {
    plan::Campaign campaign;
    std::vector<plan::Candidate> candidates; ///< as believed
    std::vector<Train> truth;                ///< of each, hidden
    std::vector<double> truth_rpm;           ///< its limit; 0: cannot be run
};

/// The same for the same seed: four lobes, three springs, two rods, two rockers of a pushrod train, hours to
/// change each; set-up is left out, as it is the same for all orders.
DrawnCampaign draw_campaign(unsigned seed);

/// A way through a campaign: what it took and what it chose.
struct Campaigned {
    double hours = 0;
    std::size_t runs = 0;
    double chosen_rpm = 0; ///< the truth of what was chosen
};
/// What a run of a combination would say: the truth with a rig's error; the same for the same run.
double measured_rpm(const DrawnCampaign& drawn, std::size_t candidate, std::size_t run, unsigned seed);
inline constexpr double kRig_rpm = 30; ///< one deviation of that

/// One factor at a time in the order of the shelf, the better level kept; the baseline first, last and
/// between as the campaign has it.
Campaigned one_at_a_time(const DrawnCampaign& drawn, unsigned seed);
/// As planned, and planned again after each run, until it is settled; the baseline likewise.
Campaigned as_planned(const DrawnCampaign& drawn, unsigned seed);

} // namespace bathmos::test
