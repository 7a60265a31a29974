// Rules by which numbers are assumed that nobody knows yet: wide, and said to whoever reads the number.
#pragma once

#include <string_view>

namespace bathmos {

/// The rule in words, of a key as assumed_numbers gives it; "" where there is none.
std::string_view rule_of(std::string_view key);
/// What somebody does at the bench to know it: "weigh the valve"; "" where there is no rule.
std::string_view act_of(std::string_view key);

} // namespace bathmos
