// Rig traces from CSV (angle- or time-based) and HDF5 (formats.md).
#pragma once

#include "core/rig/rig_trace.h"
#include "core/tasks/tasks.h"
#include "io/text/delimited.h"

#include <cstdint>
#include <filesystem>
#include <optional>
#include <stop_token>

namespace bathmos::io {

enum class RigAngleUnit { CrankDegree, CamDegree };

/// Which column is what, and in which unit. Either crank (angle-based) or time and index (time-based) is set.
struct RigColumns {
    std::optional<std::size_t> lift, rpm, cycle, crank, time, index, oil;
    double lift_to_mm = 1;
    RigAngleUnit angle_unit = RigAngleUnit::CrankDegree;

    bool time_based() const { return time && index; }
    bool complete() const { return lift && ((crank && rpm) || time_based()); }
};

/// Maps columns by their names: lift_mm, lift_in, lift_um, lift_thou; rpm; cycle; crank_deg, cam_deg; time_s;
/// index; oil_C.
RigColumns guess_columns(const TableShape& shape);

/// Mapping as one line of text and back, for remembering it; empty for text that is none.
std::string rig_mapping_text(const RigColumns& columns, bool reversed);
struct RememberedRig {
    RigColumns columns;
    bool reversed = false;
};
std::optional<RememberedRig> rig_mapping_of(std::string_view text);

/// The most readings that a run may have: they fit into 2 GB with their angles.
inline constexpr std::uint64_t kMostReadings = 250'000'000;

struct ReadOptions {
    ProgressSink progress{};
    std::stop_token stop{};
};

/// Reads a CSV trace with a mapping (complete() must hold; otherwise InputError says what is missing).
/// Streams: memory is below the file's size. Whether the index comes once a cam or once a crank turn is told
/// from the trace. Throws InputError; Stopped.
RigTrace read_rig_csv(const std::filesystem::path& path, const TableShape& shape, const RigColumns& columns,
                      const ReadOptions& options = {});

/// HDF5: one group a speed with data set lift_mm (cycles x samples), attributes rpm (one number, or one a
/// cycle), oil_C (the same, may be missing) and units. Extents and types are checked before anything is read.
/// Throws InputError; Stopped.
RigTrace read_rig_hdf5(const std::filesystem::path& path, const ReadOptions& options = {});

/// By ending (.h5, .hdf5; .rig-stream: a recording, io/live) or as CSV with guessed columns.
RigTrace read_rig(const std::filesystem::path& path, const ReadOptions& options = {});
bool is_hdf5(const std::filesystem::path& path);
/// Traces that need no mapping of columns: HDF5 and recordings.
bool has_no_columns(const std::filesystem::path& path);

} // namespace bathmos::io
