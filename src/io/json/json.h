// The one place that reads the JSON library (it is heavy), and how text becomes JSON and JSON text: what
// comes from elsewhere is bounded in depth, has each key once and is UTF-8; what goes out is always valid.
#pragma once

#include <cmath>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <string_view>

namespace bathmos::io {

/// Keys stay in the order they are put in.
using Json = nlohmann::ordered_json;

/// Brackets within brackets that any of our formats could need, many times over.
inline constexpr std::size_t kDeepestJson = 64;

/// Text as JSON; UTF-16 and Windows-1252 are read too. Throws InputError (no source; location = line and
/// column) for text that is no JSON, numbers beyond what a number can be, brackets deeper than kDeepestJson,
/// and a key that stands twice in one object.
Json parse_json(std::string_view text);

/// The same for text that this program wrote, without looking for keys that stand twice. Throws
/// Json::exception too.
Json parse_own_json(std::string_view text);

/// JSON as text, one line where `indent` is below 0. What is no UTF-8 becomes U+FFFD: a record can always go
/// out.
std::string json_text(const Json& json, int indent = -1);

/// A number with so many decimals, never "-0".
inline double rounded(double value, int decimals = 3) {
    const double scale = std::pow(10.0, decimals);
    return std::round(value * scale) / scale + 0.0;
}

/// Null where there is no number.
inline Json maybe(const std::optional<double>& value, int decimals = 3) {
    return value ? Json(rounded(*value, decimals)) : Json(nullptr);
}

} // namespace bathmos::io
