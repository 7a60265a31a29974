// What claims a limit speed for the build in hand, from all sources, as the threshold strip shows it.
#pragma once

#include "app/desk/context.h"
#include "app/shell/threshold_strip.h"

namespace bathmos::app {

struct StripClaims {
    QVector<StripMark> marks;
    QString agreement;   ///< of model, rig and dyno, in words
    double high_rpm = 0; ///< as far as anything is computed or claimed
};

StripClaims claims_of(const Context& context);
/// The model limit over the train's tolerances; empty until it is computed.
std::optional<StripBand> band_of(const Context& context);

} // namespace bathmos::app
