// The kinds of bench sheet as they are filled in: what is asked, in which order and unit, how it is taken,
// and what to take care of.
#pragma once

#include "core/units/units.h"

#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace bathmos::bench {

/// One thing that is read or known. `key` as in a sheet file, a dot before what stands in an object of it:
/// "old.step_mm".
struct SheetField {
    std::string_view key, label;
    Quantity quantity = Quantity::Count;
    std::string_view how; ///< where the instrument goes
    bool optional = false;
};

struct SheetKind {
    std::string_view key, label, purpose;
    std::vector<SheetField> fields;  ///< once a sheet
    std::vector<SheetField> columns; ///< once a reading, in the order they are taken; empty: no readings
    std::string_view usual, back; ///< words of a reading's direction, first there and then back; "" for none
    std::string_view named;       ///< what names a reading, "serial"; "" where nothing does
    std::string_view caution;
};
/// All kinds, in the order of the work.
const std::vector<SheetKind>& sheet_kinds();
/// By its key in files; null where there is none.
const SheetKind* find_sheet_kind(std::string_view key);

/// One reading: repeats of each column, SI; an empty column was not read.
struct SheetRow {
    std::string name;
    std::vector<std::vector<double>> cells;
    bool back = false; ///< its direction
    bool operator==(const SheetRow&) const = default;
};

/// A sheet as it is being filled in: raw, SI, by the keys of its kind.
struct SheetDraft {
    std::string kind;
    std::map<std::string, std::vector<double>> fields; ///< repeats
    std::vector<SheetRow> rows;
    std::string names; ///< of the valves that a set of springs goes to, with commas between
    bool operator==(const SheetDraft&) const = default;
};

} // namespace bathmos::bench
