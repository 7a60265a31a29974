// How well a number is known: from where it comes, and by how much it may be off.
#pragma once

#include <string>
#include <string_view>

namespace bathmos {

/// Fitted: by a calibration to runs.
enum class Source { Scale, Gauge, Tester, Sheet, Estimate, Fitted };
std::string_view source_name(Source source); ///< "scale", "gauge", "tester", "sheet", "estimate", "fitted"

struct Tolerance {
    Source source = Source::Sheet;
    double plus_minus = 0; ///< SI; two standard deviations
    bool operator==(const Tolerance&) const = default;
};

struct Train;

/// One number of a train that may be off. `key`: as in the train file, "valve.mass_g", "springs[0].wire_mm";
/// "springs[0].load_table" stands for a factor on all loads.
struct UncertainInput {
    std::string key, label;
    Tolerance tolerance;
    bool usual = true; ///< tolerance is the default of its kind of value, not given by the user
};

} // namespace bathmos
