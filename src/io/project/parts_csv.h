// Parts of a shelf as a table: one row a value, to read and change in any program that knows tables.
#pragma once

#include "core/project/part.h"

#include <string>
#include <string_view>
#include <vector>

namespace bathmos::io {

/// Columns part, kind, name, key, value. Keys are those of a part's record, "/" between levels
/// ("pushrod/wall_mm", "facts/step_mm", "tolerances/pushrod.wall_mm/plus_minus"); a list stands in brackets.
std::string parts_csv(const std::vector<Part>& parts);

/// Rows with the same number in `part` are one part. Throws InputError with line or key as location; `source`
/// names the file.
std::vector<Part> parse_parts_csv(std::string_view text, const std::string& source);

} // namespace bathmos::io
