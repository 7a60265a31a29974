// What a bench sheet says: as the summary that others read (docs/format.md) and in lines for a person.
#pragma once

#include "core/units/measured_text.h"
#include "io/sheet/sheet_file.h"

namespace bathmos::io {

struct SheetSummary {
    std::string kind;
    std::string json;                ///< each value as {value, sd} in bench units; "told" [{rule, text}]
    std::vector<MeasuredText> lines; ///< the same for a person, in the units of the screen
    std::vector<bench::AnswerValue> values; ///< those that have one number for the sheet
    std::vector<bench::Told> told;
};
/// `train`: the one in hand, which some kinds need. Throws InputError (no source) for readings that no answer
/// can be made of.
SheetSummary summary_of(const BenchSheet& sheet, const Train* train = nullptr);

} // namespace bathmos::io
