// Why power may fall over at high speed, what each cause predicts, and how likely each symptom is under it:
// the one table of priors and likelihoods that the weighing uses (physics.md 10).
#pragma once

#include <array>
#include <cstddef>
#include <optional>
#include <string_view>
#include <vector>

namespace bathmos {

enum class Cause : std::size_t {
    SpringWeak,
    TrainFlexible,
    Surge,
    HardLanding,
    PumpUp,
    HarshLobe,
    CoilBind,
    BoostOnHead,
    SpringNotAsBelieved,
    BeltSlip,
    Mixture,
    SparkBreakUp,
    IntakeLoss,
    ThrottleClosing,
    KnockRetard,
    OilPressure,
    DriverLift,
    RevLimiter,
    Breathing,
    Count
};
inline constexpr std::size_t kCauses = static_cast<std::size_t>(Cause::Count);

struct CauseInfo {
    std::string_view key, label;
    std::string_view sentence; ///< ends "From about 7700 rev/min ...: "
    bool valve_train = true;
    double prior = 0; ///< all together make 1
    std::string_view prior_reason;
    std::string_view predicts; ///< in words, for every kind of evidence
};
/// Its words and prior.
const CauseInfo& info(Cause cause);
/// By its key in files; empty where there is none.
std::optional<Cause> find_cause(std::string_view key);

enum class SymptomGroup { Dyno, Logged, Model, Rig, Bench, Changes, Trials };

/// What can be looked for. Each is there, is not, or nobody looked.
enum class Symptom : std::size_t {
    // dyno
    Break,
    RoughAbove,
    SmoothFall,
    Repeats,
    CutOff,
    NewInThisState,
    // what was logged beside it, one for each confounder in its order
    BlowerFalls,
    MixtureMoves,
    Misfires,
    IntakeFalls,
    ThrottleFalls,
    KnockRises,
    OilFalls,
    FootLifts,
    LimiterCuts,
    // model
    ModelNear,
    ModelBelow,
    LosesContactFirst,
    LandsHardFirst,
    HeldOpenFirst,
    SpringHelps,
    StiffnessHelps,
    DampingHelps,
    PressureOffHelps,
    SolidFollowerHelps,
    CoilsMeet,
    // rig
    RigNear,
    RigLandsFirst,
    RigLoftFirst,
    RigHeldOpen,
    RigOpensLate,
    RigSurgeBand,
    RigCreeps,
    RunReads,
    // bench and shelf
    SpringSuspect,
    LittleRoom,
    Failed,
    // change log
    SofterLink,
    SpringChanged,
    MassAdded,
    LobeChanged,
    FollowerChanged,
    BoostRaised,
    OilRaised,
    NothingInTheTrain,
    // trials
    StaysWithBoost,
    MovesWithTrain,
    Count
};
inline constexpr std::size_t kSymptoms = static_cast<std::size_t>(Symptom::Count);

struct SymptomInfo {
    std::string_view key, label;
    SymptomGroup group = SymptomGroup::Dyno;
    double usual = 0.1; ///< probability of the symptom under every cause that is not named
    std::vector<std::pair<Cause, double>> under;
    std::string_view source; ///< who says so, or why
};
/// Its words, group and likelihoods by cause.
const SymptomInfo& info(Symptom symptom);

/// Probability that a symptom is seen when a cause is at work, 0.02 .. 0.98: no table is surer than that.
double likelihood(Symptom symptom, Cause cause);

} // namespace bathmos
