// The records of a project (design.md, Records): engines, parts, builds and their revisions, and what was
// measured, predicted and decided. Plain values; io/project keeps them.
#pragma once

#include "core/motion/limits.h"
#include "core/project/assembly.h"

#include <set>

namespace bathmos {

struct Engine {
    std::string name;
    double bore_m = 0, stroke_m = 0, rod_m = 0; ///< 0: not given
    double compression_ratio = 0;
    int cylinders = 0, intake_valves = 1, exhaust_valves = 1; ///< valves of one cylinder
    double target_rpm = 0;
    double overspeed_rpm =
        0; ///< the highest that it may see: a missed shift, a lock-up that lets go; 0: not said
    std::string head_material;                          ///< "aluminium", "iron" or ""
    std::string valve_seat_material;                    ///< "iron", "steel", "bronze" or ""
    double intake_angle_rad = 0, exhaust_angle_rad = 0; ///< valve axes against the bore
    double intake_drop_m = 0, exhaust_drop_m = 0; ///< valve lift that touches the piston at top dead centre
    double heads_apart_m = 0;                     ///< between the middles of the closed valves' heads
    bool operator==(const Engine&) const = default;
};

enum class ValveSide { Intake, Exhaust };

/// One valve's train through its changes.
struct Build {
    std::string name;
    Id engine = 0;
    ValveSide side = ValveSide::Intake;
    double centreline_rad = 0; ///< crank: from overlap's dead centre to the nose, after it (intake) or before
    Id head = 0;               ///< the revision in hand
    std::string note;
    bool operator==(const Build&) const = default;
};

struct Revision {
    Id build = 0;
    Id parent = 0;      ///< 0: the first one
    std::string name;   ///< "" or what people call it
    std::string reason; ///< why it was made
    std::string when;   ///< UTC, ISO 8601
    Assembly assembly;
    bool operator==(const Revision&) const = default;
};

/// What a model said about an assembly; kept by a hash of all inputs.
struct Prediction {
    std::string hash;
    Id revision = 0;
    std::string when;
    std::string model;  ///< version of the program
    std::string limits; ///< name of the limit set; "" in records of before
    std::string limit_metric;
    std::optional<double> contact_loss_rpm{};
    std::optional<double> limit_rpm, onset_rpm, low_rpm, middle_rpm, high_rpm, separation_rpm;
    std::vector<std::string> stops; ///< rules of stop findings that stood when it was made
    bool operator==(const Prediction&) const = default;
};

/// A limit in force: a metric's key and its bounds in the metric's unit.
struct LimitRow {
    std::string metric;
    double above = 0;
    std::optional<double> below;
    bool operator==(const LimitRow&) const = default;
};
struct LimitSet {
    std::string name;
    std::vector<LimitRow> rows;
    double check_lift_m = kUsualCheckLift_m; ///< of shifts and duration, at the valve
    std::string reason{}, when{};            ///< why it was chosen, and when (UTC, ISO 8601)
    bool operator==(const LimitSet&) const = default;
};

/// A record of something measured, planned or decided. Raw numbers sit in traces, which never change.
struct Entry {
    std::string name;
    Id revision = 0; ///< that it belongs to; 0 for none
    std::string when, who, text;
    std::map<std::string, double> numbers; ///< unit in the key
    std::vector<std::string> closes;       ///< checks and findings that it settles (core/fit)
    std::vector<Id> traces;
    std::map<std::string, std::string> words{}; ///< by key: "fuel", "changed"
    bool operator==(const Entry&) const = default;
};

/// The part of the shelf that a line of the log is about (`numbers.part`); 0 for none, or where that is no
/// number of a record.
Id part_named(const Entry& entry);

/// Kinds of record that an Entry stands for.
enum class EntryKind { Sheet, Lobe, RigRun, DynoPull, Plan, Verdict, Log, Waiver, Calibration };
inline constexpr std::size_t kEntryKinds = 9;

struct Project {
    std::map<Id, Engine> engines;
    std::map<Id, Part> parts;
    std::map<Id, Build> builds;
    std::map<Id, Revision> revisions;
    std::map<Id, Prediction> predictions;
    std::map<Id, LimitSet> limits;
    std::map<Id, Entry> entries[kEntryKinds];
    bool operator==(const Project&) const = default;

    /// Entries of a kind by number.
    const std::map<Id, Entry>& of(EntryKind kind) const { return entries[static_cast<std::size_t>(kind)]; }
    std::map<Id, Entry>& of(EntryKind kind) { return entries[static_cast<std::size_t>(kind)]; }

    /// Whether a run or pull was made with it: it then never changes.
    bool frozen(Id revision) const;
    /// All of which that is true.
    std::set<Id> frozen_revisions() const;
    /// Revisions made from this one, in order of their numbers.
    std::vector<Id> children(Id revision) const;
    /// From the first revision to this one.
    std::vector<Id> line_to(Id revision) const;
    /// Revisions of a build, parents before children.
    std::vector<Id> revisions_of(Id build) const;
    /// "r3" or "r3 thin wall": how a revision is called on screen, by its place in its build.
    std::string revision_label(Id revision) const;
    /// The same where its place in its build, from 1, is known already.
    static std::string label_at(std::size_t place, const Revision& revision);
    /// Builds whose latest revision carries the part.
    std::vector<Id> users_of(Id part) const;
};

/// Every broken reference or impossible record, each with kind and number as location.
std::vector<InputProblem> check_project(const Project& project);

} // namespace bathmos
