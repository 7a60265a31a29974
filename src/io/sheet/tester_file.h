// Files of a spring tester: delimited text with a height (or how far it was pressed) and a load in any column
// and unit, one spring or several.
#pragma once

#include "core/bench/sheet_kind.h"
#include "io/text/delimited.h"

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace bathmos::io {

/// Words in a row of such a file: the spring's serial, and a note. For sniff_table.
inline constexpr std::size_t kTesterTexts = 2;

/// What the columns of a tester's file are: found from their names, corrected by the user, remembered.
struct TesterMapping {
    std::size_t height = 0, load = 1;
    std::string height_unit = "mm", load_unit = "N"; ///< as devices write them: "in", "lbf", "kgf"
    std::optional<std::size_t> spring;               ///< a column with the spring's number
    std::optional<double>
        free_length_m; ///< where the first column is how far it was pressed, from this length
    bool operator==(const TesterMapping&) const = default;
};

/// By names with "height", "length", "travel" or "press", "load" or "force", "spring", "serial" or "no", and
/// the units that stand with them; without names the first two columns.
TesterMapping guess_tester_mapping(const TableShape& shape);

/// One spring of a file; `back` where the height grows from one reading to the next.
struct TestedSpring {
    std::string serial; ///< as written, "" where the file has no column for it
    std::vector<bench::SheetRow> rows;
};
/// All springs, in the order of the file; their readings as they came. Throws InputError (line and column).
std::vector<TestedSpring> read_tester_file(const std::filesystem::path& path, const TableShape& shape,
                                           const TesterMapping& mapping, const std::stop_token& stop = {});

/// The sheet of one of them.
bench::SheetDraft sheet_of(const TestedSpring& spring);

/// Mapping as one line of text and back, for remembering it; empty for text that is none.
std::string tester_mapping_text(const TesterMapping& mapping);
std::optional<TesterMapping> tester_mapping_of(std::string_view text);

} // namespace bathmos::io
