#include "io/life/use_file.h"

#include "core/problem/input_error.h"
#include "core/tasks/tasks.h"
#include "io/file/safe_file.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

// Letters and figures of a heading, in small letters, cut where anything else stands: "Engine Speed [1/min]".
std::vector<std::string> heading_words(const std::string& heading) {
    std::vector<std::string> out(1);
    for (const char c : heading)
        if (const auto byte = static_cast<unsigned char>(c); std::isalnum(byte))
            out.back() += static_cast<char>(std::tolower(byte));
        else if (!out.back().empty())
            out.emplace_back();
    return out;
}

bool has(const std::vector<std::string>& words, std::initializer_list<std::string_view> any) {
    return std::ranges::any_of(
        any, [&](std::string_view one) { return std::ranges::find(words, one) != words.end(); });
}

} // namespace

UseMapping guess_use_mapping(const TableShape& shape) {
    UseMapping out;
    std::optional<std::size_t> time, speed;
    for (std::size_t i = 0; i < shape.columns.size(); ++i) {
        const std::vector<std::string> words = heading_words(shape.columns[i]);
        if (!time && has(words, {"time", "t", "zeit", "seconds"})) {
            time = i;
            out.time_to_s = has(words, {"ms"})    ? 1e-3
                            : has(words, {"min"}) ? 60
                            : has(words, {"h"})   ? 3600
                                                  : 1;
        } else if (!speed && has(words, {"rpm", "speed", "n", "revs"})) {
            speed = i;
            out.speed_to_rpm = has(words, {"hz"}) ? 60 : 1;
        }
    }
    out.time = time.value_or(speed == std::optional<std::size_t>(0) ? 1 : 0);
    out.speed = speed.value_or(out.time == 0 ? 1 : 0);
    return out;
}

life::LoggedUse read_use(const std::filesystem::path& path, std::optional<double> limit_rpm,
                         const std::stop_token& stop) {
    const TableShape shape = sniff_table(path);
    if (shape.columns.size() < 2)
        throw InputError({shown_path(path), "", "one column", "time and crank speed are needed"});
    const UseMapping mapping = guess_use_mapping(shape);
    life::UseCounter counter(limit_rpm);
    const auto told = [&](const InputError& error, std::size_t line) {
        const InputProblem& problem = error.problem();
        return InputError({shown_path(path), line > 0 ? fmt::format("line {}", line) : problem.location,
                           problem.what, problem.mend});
    };
    stream_columns(
        path, shape, {mapping.time, mapping.speed},
        [&](const std::vector<double>& row, std::size_t line) {
            if (std::isnan(row[0]) || std::isnan(row[1]))
                return; // a reading that was left out
            try {
                counter.add(row[0] * mapping.time_to_s, row[1] * mapping.speed_to_rpm);
            } catch (const InputError& error) {
                throw told(error, line);
            }
        },
        {}, stop);
    try {
        return counter.finish();
    } catch (const InputError& error) {
        throw told(error, 0);
    }
}

} // namespace bathmos::io
