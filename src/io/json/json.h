// The one place that reads the JSON library (it is heavy), and how numbers are written into it.
#pragma once

#include <cmath>
#include <nlohmann/json.hpp>
#include <optional>

namespace bathmos::io {

/// Keys stay in the order they are put in.
using Json = nlohmann::ordered_json;

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
