// A lobe from the few numbers of a cam card: lift, and durations at heights.
#pragma once

#include "core/start/known_train.h"

namespace bathmos {

/// How valve lift follows from cam lift, as far as a card needs it.
struct CardRatio {
    double ratio = 1, lash_m = 0;
    double cam_height_m(const CardDuration& claim) const {
        return claim.at_valve ? (claim.height_m + lash_m) / ratio : claim.height_m;
    }
};

struct CardLobe {
    AnalyticLobe lobe;
    bool duration = false, fullness = false, ramp = false; ///< what of the shape the card settles
    double worst_crank_rad = 0; ///< largest difference between a claimed duration and the lobe's
};

/// The lobe of the polynomial family (AnalyticLobe) whose durations come nearest to the card's in the sense
/// of least squares: one duration settles the duration, a second above the ramp the fullness, one on the ramp
/// beside another the ramp's velocity. `start` gives lift, ramp and what nothing settles.
/// Throws InputError (location "card.…") for heights that the lobe does not reach, durations that no lobe
/// has, or a longer duration at a greater height.
CardLobe lobe_of_card(const LobeCard& card, const CardRatio& ratio, const AnalyticLobe& start);

} // namespace bathmos
