// Bench sheets, *.sheet.json (docs/format.md): raw readings in the units of the bench, and what they say.
#pragma once

#include "core/bench/height_sheet.h"
#include "core/bench/keyed_sheet.h"
#include "core/bench/ratio_sheet.h"
#include "core/bench/spring_set.h"
#include "core/bench/spring_sheet.h"
#include "core/bench/stiffness_sheet.h"

#include <cstdint>
#include <filesystem>
#include <string>
#include <string_view>
#include <variant>

namespace bathmos::io {

using BenchSheet = std::variant<bench::SpringSheet, bench::SpringSet, bench::HeightSheet, bench::RatioSheet,
                                bench::StiffnessSheet, bench::SwingSheet, bench::KeyedSheet>;

/// The largest sheet that is read.
inline constexpr std::uint64_t kMostSheetBytes = 16u << 20;

/// Throws InputError (location = key) for what is no sheet, a missing, unknown or impossible key, and
/// readings that are no numbers.
BenchSheet parse_sheet(std::string_view text, const std::string& source = "");
/// The same from a file, whose name the error carries.
BenchSheet read_sheet(const std::filesystem::path& path);

} // namespace bathmos::io
