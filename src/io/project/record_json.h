// The records of a project as JSON: what the project file keeps, and what an exported folder shows.
#pragma once

#include "core/project/project.h"
#include "io/train/object_reader.h"

#include <array>
#include <string_view>

namespace bathmos::io {

/// Kinds of record; each is a table of the project file and a folder of an export.
enum class RecordKind {
    Engine,
    Part,
    Build,
    Revision,
    Sheet,
    Lobe,
    RigRun,
    DynoPull,
    Prediction,
    LimitSet,
    Plan,
    Verdict,
    Log,
    Waiver,
    Calibration
};
inline constexpr std::size_t kRecordKinds = 15;

/// Names of tables and folders, by kind.
constexpr std::array<std::string_view, kRecordKinds> kRecordNames = {
    "engine",     "part",      "build", "revision", "bench_sheet", "lobe",   "rig_run",    "dyno_pull",
    "prediction", "limit_set", "plan",  "verdict",  "log_entry",   "waiver", "calibration"};
/// By its name in files; empty for another word.
std::optional<RecordKind> find_record_kind(std::string_view name);
constexpr std::string_view record_name(RecordKind kind) {
    return kRecordNames[static_cast<std::size_t>(kind)];
}
RecordKind record_kind(EntryKind kind);

/// Text of one record of a project; "" when it is not there.
std::string record_text(const Project& project, RecordKind kind, Id id);
/// Reads a record into a project, in the place of what was there. Throws InputError with the key as location.
void put_record(Project& project, RecordKind kind, Id id, std::string_view text);
void remove_record(Project& project, RecordKind kind, Id id);
/// Takes a record out of `from` into `to`, in the place of what was there; removes it there where `from` has
/// none.
void move_record(Project& from, Project& to, RecordKind kind, Id id);
/// A project of just these records, copied; those that are not there are left out.
Project records_of(const Project& project, const std::vector<std::pair<RecordKind, Id>>& records);
/// Numbers of all records of a kind, rising.
std::vector<Id> record_ids(const Project& project, RecordKind kind);

} // namespace bathmos::io
