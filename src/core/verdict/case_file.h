// All that is known about one state of one valve's train, as plain values: what the verdict is made from.
#pragma once

#include "core/dyno/confounders.h"
#include "core/dyno/pull_compare.h"
#include "core/fit/fit_rules.h"
#include "core/motion/sweep.h"
#include "core/rig/hold_creep.h"
#include "core/rig/rig_run.h"
#include "core/verdict/failures.h"
#include "core/verdict/later_state.h"
#include "core/verdict/run_shares.h"
#include "core/verdict/weighing.h"

namespace bathmos {

/// One pull as the verdict sees it.
struct PullCase {
    std::string name;
    PullAnalysis analysis;
    std::vector<ConfounderTest> tests;
    std::string fuel;               ///< "" when not noted
    std::optional<double> boost_Pa; ///< gauge, as set
    /// Gauge, on the valve's head: the manifold's in the upper third of the speeds; and the oil's there.
    std::optional<double> head_Pa{}, oil_Pa{};
};

/// Manifold and oil pressure in the upper third of a pull's speeds; empty where they were not logged.
void read_pressures(const Pull& pull, PullCase& out);
/// The train with that pressure on its valve's head, gauge, where it says none itself and there is one.
Train under_pressure(Train train, std::optional<double> head_Pa);
/// The median over pulls of what each has; empty where none has it.
std::optional<double> median_of(const std::vector<PullCase>& pulls, std::optional<double> PullCase::*value);

/// A change that only the model can make, and what it does to the limit.
struct Cure {
    std::string_view key;   ///< "spring", "stiffness", "damping", "pressure_off", "solid_follower"
    std::string_view label; ///< "10 % more spring"
    double gain_rpm = 0;
};

struct ModelFacts {
    std::optional<double> limit_rpm, onset_rpm;
    std::optional<double> contact_loss_rpm; ///< limit by force, which no rig sees
    std::optional<Metric> limit_metric, onset_metric;
    std::vector<SpeedMetrics> rows;
    /// Pressure on the head that the train does not say and the pulls show, gauge; the facts are with it.
    std::optional<double> head_Pa{};
    double bind_margin_m = 0;
    std::optional<double> clash_rpm; ///< lowest speed at which coils meet
    std::vector<Cure> cures;
};

struct FactsQuery {
    SpeedRange range{4000, 9600, 200};
    LimitsInForce limits{};
    ProgressSink progress{};
    std::stop_token stop{};
};
/// Sweeps the train and tries every cure that it has a place for. Throws InputError; Stopped.
ModelFacts model_facts(const Train& train, const FactsQuery& query);
/// The same of a sweep of that train which is there already.
ModelFacts model_facts(const Train& train, const Sweep& swept, const FactsQuery& query);

struct RigFacts {
    std::string name;
    std::optional<double> onset_rpm;
    std::optional<Metric> onset_metric;
    double half_step_rpm = 0;
    std::vector<Band> bands;
    std::optional<double> held_open_rpm; ///< limit crossing
    /// The first limit that is crossed, also where the metric rises gradually and leaves no trend.
    std::optional<double> limit_rpm;
    std::optional<Metric> limit_metric;
    /// What the rig shows first, by onset or by limit.
    std::optional<double> first_rpm() const;
    /// The metric that shows it.
    std::optional<Metric> first_metric() const;
    std::vector<SpeedMetrics> rows;
    std::vector<rig::HeldSpeed> holds; ///< speeds that were held; not of the reduction, but of its trace
};
/// What a reduced run says: onset, bands, first limit crossed, also where a metric rises gradually.
RigFacts rig_facts(const RigRun& run);

/// One thing that differs from the last good state.
struct StateChange {
    std::optional<PartKind> kind;          ///< empty for numbers outside any part
    MeasuredText text;                     ///< "pushrod: wall 1.24 -> 0.89 mm"
    std::optional<double> undone_gain_rpm; ///< what the limit gains when this alone is undone
    std::string key = {};                  ///< of a number outside any part, "lash_mm"
};
struct ChangeFacts {
    std::string from, to; ///< labels of the states
    std::vector<StateChange> changes;
    bool softer_link = false, spring = false, heavier = false, lobe = false, boost = false;
    bool follower = false;                       ///< a hydraulic one was fitted, changed or taken out
    MeasuredText boost_text = {}, oil_text = {}; ///< what the pulls show or say of it; empty: nothing
    bool oil = false;                            ///< its pressure was raised, or somebody worked on it
    bool nothing_in_the_train() const { return changes.empty(); }
};
/// What changed between two assemblies, and what undoing each part's change does to the limit. Throws
/// Stopped.
ChangeFacts change_facts(const Assembly& before, const Assembly& after, std::optional<double> limit_after_rpm,
                         const FactsQuery& query);

struct CaseFile {
    std::string limits = "usual"; ///< name of the set that model and rig were judged by
    std::string build, state;     ///< labels
    std::string valve = "valve";  ///< "intake valve"
    double target_rpm = 0;
    bool hydraulic = false;
    std::optional<bool> charged;               ///< empty: nothing tells
    std::vector<PullCase> pulls, pulls_before; ///< of this state, and of the last good one
    std::optional<ModelFacts> model;
    std::optional<RigFacts> rig;
    std::optional<RunReading> calibrated; ///< of that run
    std::optional<ChangeFacts> changes;
    std::vector<LaterState> later; ///< states that came after this one and were pulled
    std::vector<Finding> findings;
    std::vector<OpenCheck> open;
    std::vector<FailureSeen> failures; ///< of this state
    std::vector<std::string> unread;   ///< kept runs and pulls that could not be read, in words
};

/// The speed that the question is about: the dyno's break, else the rig's onset, else where power is lost
/// against the state before, else the peak where power falls behind it, else (without pulls) the model's
/// limit.
struct QuestionSpeed {
    std::optional<double> rpm;
    std::string from; ///< "dyno", "rig", "model"
};
/// `from` is "" and `rpm` empty where nothing tells a speed.
QuestionSpeed question_speed(const CaseFile& file);

/// Boost and oil pressure against the state before, from the pulls and from what people wrote of them, into
/// the file's changes, which must be there.
void note_pressures(CaseFile& file, const std::string& notes);

/// Where power is lost in this state, by its own pulls or against the state before.
std::optional<StateBreak> dyno_break(const CaseFile& file);

/// Every symptom that can be judged from the file, each with its sentence. What was not looked for is left
/// out.
std::vector<Evidence> evidence_of(const CaseFile& file);
/// Causes that this engine cannot have; what nothing tells stays possible.
std::vector<Cause> impossible_causes(const CaseFile& file);
/// The speed that the engine is wanted to reach, rev/min: its target, else where its power breaks, else 0.
double wanted_speed(const CaseFile& file);
/// How the calibrated run, which must be there, shares the blame.
RunShares shares_of_run(const CaseFile& file);

} // namespace bathmos
