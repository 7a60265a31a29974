#include "io/text/range_text.h"

#include "core/problem/input_error.h"

#include <array>
#include <cmath>
#include <fast_float/fast_float.h>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

constexpr double kMostSpeeds = 2000;

[[noreturn]] void refuse_range(const std::string& text, const std::string& what, const std::string& mend) {
    throw InputError({"", "", fmt::format("\"{}\" is {}", text, what), mend});
}

} // namespace

SpeedRange range_of(const std::string& text) {
    std::array<double, 3> n{};
    const char *at = text.data(), *end = at + text.size();
    for (std::size_t i = 0; i < n.size(); ++i) {
        const char* const field = at;
        const auto [next, error] = fast_float::from_chars(at, end, n[i]);
        const bool last = i + 1 == n.size();
        if (error == std::errc() && !std::isfinite(n[i]))
            refuse_range(std::string(field, next), "not a number", "give plain numbers of rev/min");
        if (error != std::errc() || (last ? next != end : next == end || *next != ':'))
            refuse_range(text, "no range", "give FIRST:LAST:STEP, such as 3000:9000:100");
        at = last ? next : next + 1;
    }
    const SpeedRange range{n[0], n[1], n[2]};
    if (!(range.first_rpm >= kLeastSpeed_rpm) || range.last_rpm < range.first_rpm || !(range.step_rpm >= 1))
        refuse_range(text, "no range", "FIRST at least 100, LAST not below FIRST, STEP at least 1 rev/min");
    if (range.last_rpm > kMostSpeed_rpm || (range.last_rpm - range.first_rpm) / range.step_rpm > kMostSpeeds)
        refuse_range(text, "too much", "at most 30000 rev/min and 2000 speeds");
    return range;
}

std::string range_text(const SpeedRange& range) {
    return fmt::format("{:g}:{:g}:{:g}", range.first_rpm, range.last_rpm, range.step_rpm);
}

} // namespace bathmos::io
