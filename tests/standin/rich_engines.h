// Engines with one trouble each, spun and driven by stand-ins that know more than the program: every number
// off as belief allows, camshaft torsion, elastic valve, drive ripple, uneven coils, a lobe that the shop has
// gauged with noise, a sensor with errors. What calibration and verdict are scored against beside the
// practice engines.
#pragma once

#include "core/verdict/causes.h"
#include "session/entered_engine.h"

#include <optional>

namespace bathmos::test {

struct RichEngine {
    std::string name;
    Cause truth;
    std::vector<Cause> as_right; ///< that one, and what counts as the same
    Train believed;              ///< with the lobe as gauged
    Train on_the_rig;            ///< as it truly is, without what a rig does not have
    double target_rpm = 0;
    double true_limit_rpm = 0; ///< on the rig
    RigTrace trace;
    EnteredEngine entered;
};

/// Causes that can be drawn.
const std::vector<Cause>& rich_causes();

/// An engine whose trouble is the cause; the same for the same seed. `trains` holds the tests' train files.
/// A trouble counts as one where it costs more than 5 % of the speed that the engine has without it; empty
/// where this seed draws none that does. `second`: another trouble of the same train beside it, of middling
/// strength.
std::optional<RichEngine> draw_engine(Cause cause, const std::string& trains, unsigned seed,
                                      std::optional<Cause> second = {});

} // namespace bathmos::test
