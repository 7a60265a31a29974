// Dyno pulls: delimited text in any columns and units, the open format bathmos-pull, and how a project keeps
// them.
#pragma once

#include "core/dyno/pull.h"
#include "io/project/trace.h"
#include "io/text/delimited.h"

#include <filesystem>
#include <optional>
#include <span>
#include <stop_token>

namespace bathmos::io {

/// A unit that a channel may come in: value_SI = value * to_si + zero_si.
struct PullUnit {
    std::string_view name;
    double to_si, zero_si;
};
/// Units of a channel, that of its own column first.
std::span<const PullUnit> pull_units(PullChannel channel);

/// Which column is what and in which unit.
struct PullMapping {
    std::array<std::optional<std::size_t>, kPullChannels> column;
    std::array<std::size_t, kPullChannels> unit{}; ///< index into pull_units
    std::optional<std::size_t> number;             ///< a column that counts the pulls of the file
    bool corrected = false;                        ///< the dyno has corrected torque and power already
    bool operator==(const PullMapping&) const = default;
};

/// From names and units in them ("Power [hp]", "Engine Speed", "boost psi"), and from what the header says
/// about correction.
PullMapping guess_pull_mapping(const TableShape& shape);

/// All pulls of a file, each complete. Throws InputError (line and column) and changes nothing; Stopped.
std::vector<Pull> read_pulls(const std::filesystem::path& path, const TableShape& shape,
                             const PullMapping& mapping, const std::stop_token& stop = {});
/// With guessed columns.
std::vector<Pull> read_pulls(const std::filesystem::path& path, const std::stop_token& stop = {});

/// Mapping as one line of text and back, for remembering it under shape_key (io/lobe); empty for text that is
/// none.
std::string pull_mapping_text(const PullMapping& mapping);
std::optional<PullMapping> pull_mapping_of(std::string_view text);

/// As the open format.
std::string pull_csv(const Pull& pull);

/// As a project keeps it: the format's columns and units, and back. Whether it was corrected stands in its
/// record.
Trace trace_of(const Pull& pull);
Pull pull_of(const Trace& trace, bool corrected);

} // namespace bathmos::io
