// Cases with one known fault each, drawn by seed from the stand-in dyno and true trains: what the verdict is
// scored against. The parts on paper, the true train and the log are never the same thing here.
#pragma once

#include "core/verdict/case_file.h"
#include "standin/dyno/dyno.h"

#include <random>

namespace bathmos::test {

/// A valve train as the shop believes it, as it truly is, and what the log says; computed once, used by many
/// cases.
struct TrainScene {
    std::string name;
    std::optional<Cause> cause; ///< empty: the valves are innocent
    bool charged = false, hydraulic = false;
    ModelFacts model; ///< of the train on paper
    ChangeFacts changes;
    std::vector<SpeedMetrics> truth, truth_before;
    double suspect_share = 0.15; ///< of cases in which a check of spring or height is open
};

/// All scenes; `folder` holds the demo's train files. Takes some seconds a scene.
std::vector<TrainScene> make_scenes(const std::string& folder, unsigned seed);

/// Troubles of the train that a shop meets seldom: a lobe too harsh for the train, followers that pump up.
/// `trains` holds the tests' train files.
std::vector<TrainScene> make_rarer_scenes(const std::string& demo, const std::string& trains, unsigned seed);

struct FaultCase {
    Cause truth;
    std::string scene;
    CaseFile file;
};
/// One case. `logged`: probability that a channel was logged; a rig run is there in four of ten.
FaultCase draw_case(const std::vector<TrainScene>& scenes, unsigned seed, double logged = 0.85);

/// A case of this scene, without a fault of the dyno.
FaultCase draw_case(const TrainScene& scene, unsigned seed, double logged = 0.85);

} // namespace bathmos::test
