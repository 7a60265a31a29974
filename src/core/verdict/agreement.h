// Whether model, rig and dyno claim the same speed, in words.
#pragma once

#include <string>
#include <vector>

namespace bathmos {

enum class Claimant { Model, Rig, Dyno };

/// Where a source sees the valve leave its lobe, or power break.
struct SpeedClaim {
    Claimant claimant;
    double speed_rpm = 0;
    double half_width_rpm = 0; ///< half of the band from 10 to 90 %, half a step, scatter
};

/// Claims agree where they are no further apart than both widths together (as root of squares), or 2 % of
/// their speed, whichever is more.
bool agree(const SpeedClaim& a, const SpeedClaim& b);

/// "Model, rig and dyno agree: 7440 to 7660 rev/min", "Rig and dyno agree, 7640 to 7660 rev/min; the model is
/// 480 lower", "Only the model speaks so far"; "" without claims. At most one claim a claimant.
std::string agreement_in_words(const std::vector<SpeedClaim>& claims);

} // namespace bathmos
