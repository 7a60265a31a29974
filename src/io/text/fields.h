// One line of a table cut into fields, and a field read as a number. For delimited and column_stream.
#pragma once

#include <algorithm>
#include <cstddef>
#include <filesystem>
#include <fstream>
#include <string>
#include <string_view>
#include <vector>

namespace bathmos::io::fields {

/// Without blanks and quotation marks around it.
std::string_view trimmed(std::string_view text);

/// Where a field that begins with a quotation mark ends, behind the mark that closes it: a separator within
/// is part of it ("Power, hp"). `at` where the field is not quoted, or its mark is never closed.
std::size_t end_of_quoted(std::string_view line, std::size_t at);

/// Calls field(index, text) for each field of a line. A delimiter ' ' means any run of blanks or tabs.
template <class F>
void split(std::string_view line, char delimiter, F field) {
    std::size_t index = 0;
    if (delimiter == ' ') {
        for (std::size_t at = line.find_first_not_of(" \t"); at != std::string_view::npos;) {
            const std::size_t end = std::min(line.find_first_of(" \t", at), line.size());
            field(index++, line.substr(at, end - at));
            at = line.find_first_not_of(" \t", end);
        }
        return;
    }
    for (std::size_t at = 0;;) {
        const std::size_t end = std::min(line.find(delimiter, end_of_quoted(line, at)), line.size());
        field(index++, trimmed(line.substr(at, end - at)));
        if (end == line.size())
            return;
        at = end + 1;
    }
}

/// Infinite: written so, or beyond what a number can be.
enum class Parsed { Number, Empty, Infinite, Text };
/// A field as a number; "" and "nan" are Empty with `value` NaN.
Parsed parse(std::string_view text, bool decimal_comma, double& value);

/// Lines without their ends (LF or CRLF).
std::vector<std::string_view> lines_of(std::string_view text);

/// The file, to read bytes of. Throws InputError for one that cannot be read, and for a folder.
std::ifstream open(const std::filesystem::path& path);

/// Throws InputError about a table.
[[noreturn]] void refuse_table(const std::filesystem::path& path, std::string location, std::string what,
                               std::string mend);

/// How to mend a table with commas for two things.
inline constexpr const char* kTwoCommas = "a comma cannot both separate columns and mark decimals: export "
                                          "with semicolons or tabs between columns, or "
                                          "with decimal points";

} // namespace bathmos::io::fields
