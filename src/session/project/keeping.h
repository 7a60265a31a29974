// Keeping what was measured, with the revision that it was made with: the same for window and command line.
#pragma once

#include "core/bench/sheet_kind.h"
#include "core/dyno/pull.h"
#include "io/project/store.h"

namespace bathmos::session {

/// What a person says of a rig run.
struct RigRunNote {
    std::string name;
    Id revision = 0;
    bool reversed = false; ///< the sensor's reading falls as the valve opens
    std::string when = {}; ///< date, ISO 8601; "": now
};
/// Keeps a run with its trace as one edit; the revision is frozen by it. Its number. Throws InputError, also
/// for a revision that is not there.
Id keep_rig_run(io::Store& store, const RigRunNote& note, const io::PackedTrace& trace);

/// A pull with what is said of it; `entry.revision` names its revision. `traces` is filled in, and `when`
/// where it is empty.
struct NotedPull {
    Entry entry;
    io::PackedTrace readings;
};
/// What is said of a pull, as a record.
struct PullNote {
    Id revision = 0;
    std::string notes, changed, fuel;
    std::optional<double> boost_kPa;
    std::string when = {}; ///< date, ISO 8601; "": now
};
NotedPull noted(const Pull& pull, const PullNote& note);
/// What pulls cost the parts, where their file says the time, too: counted with the first of them, as no run
/// from start to stop. Nothing where it does not.
void note_use(std::vector<NotedPull>& pulls, const std::filesystem::path& file,
              const std::stop_token& stop = {});
/// Keeps pulls of one file as one edit. Their numbers. Throws InputError, likewise.
std::vector<Id> keep_pulls(io::Store& store, const std::string& file, const std::vector<NotedPull>& pulls);

/// A bench sheet beside a revision, not taken over; `name` as it is listed, `when` it was read ("": now).
/// Throws InputError for a revision that is not there.
Id keep_sheet(io::Store& store, const std::string& name, const bench::SheetDraft& draft, Id revision,
              const std::string& when = {});

/// A line of the log. Throws InputError for a revision that is not there.
Id keep_log_entry(io::Store& store, const Entry& entry);

} // namespace bathmos::session
