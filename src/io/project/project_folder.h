// A project as a folder of JSON and CSV, to read, compare and keep under version control (docs/format.md).
#pragma once

#include "core/tasks/tasks.h"
#include "io/project/store.h"

#include <stop_token>

namespace bathmos::io {

/// Both take minutes where there are gigabytes of traces: they tell how far they are, and can be stopped
/// (Stopped is thrown; what an export has written stays, an import leaves nothing).
struct FolderWatch {
    ProgressSink progress{};
    std::stop_token stop{};
};

/// Writes one file a record (`part/0012.json`), one a trace (`trace/0003.csv` beside its columns) and
/// project.json into a new or empty folder. Throws InputError.
void export_project(const Store& store, const std::filesystem::path& folder, const FolderWatch& watch = {});

/// A new project from such a folder, equal to the one it came from but for the undo steps. Throws InputError
/// naming file and key; no project is left behind then.
void import_project(const std::filesystem::path& folder, const std::filesystem::path& project,
                    const FolderWatch& watch = {});

} // namespace bathmos::io
