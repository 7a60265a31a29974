// Tables as labs send them: comma, semicolon, tab or blanks; decimal comma; header lines, units under the
// names; UTF-8, UTF-16 or Windows-1252; CRLF.
#pragma once

#include "io/text/encoding.h"

#include <cstddef>
#include <filesystem>
#include <functional>
#include <optional>
#include <stop_token>
#include <string>
#include <string_view>
#include <vector>

namespace bathmos::io {

/// How a text file is cut into columns, as found in its first lines; the user may correct it.
struct TableShape {
    char delimiter = ','; ///< ' ' means any run of blanks or tabs
    bool decimal_comma = false;
    Encoding encoding = Encoding::Utf8;
    double row_bytes = 0;              ///< mean size of a row among the first ones
    std::size_t texts = 0;             ///< so many fields of a row may be words
    std::size_t header_lines = 0;      ///< lines before the first row of numbers
    std::vector<std::string> columns;  ///< names; "column 1".. where the file has none; a line of units
                                       ///< under the names stands behind them: "lift [mm]"
    std::vector<std::string> comments; ///< lines that start with '#', without it
    std::vector<std::vector<std::string>> preview; ///< first rows as text

    /// Exact name, any case; "lift [mm]" and "lift (mm)" are also found as lift_mm, "rpm [1/min]" as rpm.
    std::optional<std::size_t> find(std::string_view name) const;
    /// Value of a "# key: value" comment.
    std::optional<std::string> comment(std::string_view key) const;
};

/// Looks at the first 64 kB. Throws InputError (source = path) for an empty or binary file, one without a row
/// of numbers, or one whose decimal commas cannot be told from its separators. `texts`: so many fields of a
/// row may be words, beside two numbers or more (a serial).
TableShape sniff_table(const std::filesystem::path& path, std::size_t texts = 0);

/// Files whose columns are alike are read alike: what a mapping is remembered under.
std::string shape_key(const TableShape& shape);

/// Streams the numbers of chosen columns, row by row: `row(values, line)`; an empty or "nan" field is NaN.
/// Blank lines and comments are passed over. Reads in pieces, so memory does not grow with the file. Throws
/// InputError (source = path, location = line and column) for a field that is no finite number, a row with
/// more or fewer fields than columns, and decimals written in two ways; Stopped.
void stream_columns(const std::filesystem::path& path, const TableShape& shape,
                    const std::vector<std::size_t>& wanted,
                    const std::function<void(const std::vector<double>&, std::size_t line)>& row,
                    const std::function<void(double)>& progress = {}, const std::stop_token& stop = {});

} // namespace bathmos::io
