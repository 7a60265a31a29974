#include "io/text/delimited.h"

#include "core/problem/input_error.h"
#include "core/tasks/tasks.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fast_float/fast_float.h>
#include <fmt/format.h>
#include <fstream>
#include <limits>

namespace bathmos::io {

namespace {

constexpr std::size_t kSniffBytes = 64 * 1024, kPieceBytes = 1 << 20, kPreviewRows = 12;

std::string_view trimmed(std::string_view text) {
    const auto first = text.find_first_not_of(" \t\r\"");
    if (first == std::string_view::npos)
        return {};
    return text.substr(first, text.find_last_not_of(" \t\r\"") - first + 1);
}

// Behind a field that begins with a quotation mark, where a separator is part of the name ("Power, hp"); else
// `at`. A mark that is never closed quotes nothing.
std::size_t end_of_quoted(std::string_view line, std::size_t at) {
    const std::size_t open = line.find_first_not_of(" \t", at);
    if (open == std::string_view::npos || line[open] != '"')
        return at;
    std::size_t close = line.find('"', open + 1);
    while (close != std::string_view::npos && close + 1 < line.size() &&
           line[close + 1] == '"') // "" stands for one mark
        close = line.find('"', close + 2);
    return close == std::string_view::npos ? at : close + 1;
}

// Calls field(index, text) for each field of a line.
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

enum class Parsed { Number, Empty, Text };

Parsed parse(std::string_view text, bool decimal_comma, double& value) {
    value = std::numeric_limits<double>::quiet_NaN();
    if (text.empty())
        return Parsed::Empty;
    char buffer[64];
    if (decimal_comma) {
        if (text.size() >= sizeof buffer)
            return Parsed::Text;
        std::replace_copy(text.begin(), text.end(), buffer, ',', '.');
        text = {buffer, text.size()};
    }
    if (text.front() == '+')
        text.remove_prefix(1);
    const auto result = fast_float::from_chars(text.data(), text.data() + text.size(), value);
    const bool whole = result.ec == std::errc() && result.ptr == text.data() + text.size();
    return whole ? Parsed::Number : Parsed::Text;
}

std::vector<std::string_view> lines_of(std::string_view text) {
    std::vector<std::string_view> lines;
    while (!text.empty()) {
        const std::size_t end = std::min(text.find('\n'), text.size());
        std::string_view line = text.substr(0, end);
        if (line.ends_with('\r'))
            line.remove_suffix(1);
        lines.push_back(line);
        text.remove_prefix(std::min(end + 1, text.size()));
    }
    return lines;
}

bool is_row(std::string_view line, char delimiter, bool decimal_comma, std::size_t* fields) {
    std::size_t numbers = 0, texts = 0, all = 0;
    split(line, delimiter, [&](std::size_t, std::string_view field) {
        double value;
        const Parsed p = parse(field, decimal_comma, value);
        numbers += p == Parsed::Number;
        texts += p == Parsed::Text;
        ++all;
    });
    *fields = all;
    return numbers > 0 && texts == 0;
}

// The reading of a sample that gives most rows of an equal number of columns, most columns first.
void choose_delimiter(const std::vector<std::string_view>& lines, TableShape& shape) {
    std::size_t best = 0;
    for (const auto& [delimiter, decimal_comma] : {std::pair{';', true},
                                                   {';', false},
                                                   {'\t', true},
                                                   {'\t', false},
                                                   {',', false},
                                                   {' ', true},
                                                   {' ', false}}) {
        std::size_t rows = 0, columns = 0;
        for (std::string_view line : lines) {
            std::size_t fields;
            if (line.empty() || line.front() == '#' || !is_row(line, delimiter, decimal_comma, &fields))
                continue;
            columns = std::max(columns, fields);
            ++rows;
        }
        // A decimal comma counts only where there is one, so that it is not guessed for whole numbers.
        if (const std::size_t score = columns > 1 ? rows * 100 + columns : rows; score > best) {
            best = score;
            shape.delimiter = delimiter;
            shape.decimal_comma = decimal_comma;
        }
    }
}

void read_head(const std::vector<std::string_view>& lines, TableShape& shape) {
    std::string_view heading;
    std::size_t fields = 0;
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const std::string_view line = lines[i];
        if (line.starts_with('#')) {
            shape.comments.emplace_back(trimmed(line.substr(1)));
        } else if (is_row(line, shape.delimiter, shape.decimal_comma, &fields)) {
            shape.header_lines = i;
            break;
        } else if (!trimmed(line).empty()) {
            heading = line;
        }
    }
    split(heading, shape.delimiter,
          [&](std::size_t, std::string_view name) { shape.columns.emplace_back(trimmed(name)); });
    if (heading.empty() || shape.columns.size() != fields) {
        shape.columns.clear();
        for (std::size_t i = 0; i < fields; ++i)
            shape.columns.push_back(fmt::format("column {}", i + 1));
    }
    for (std::size_t i = shape.header_lines; i < lines.size() && shape.preview.size() < kPreviewRows; ++i) {
        std::vector<std::string> row;
        split(lines[i], shape.delimiter,
              [&](std::size_t, std::string_view field) { row.emplace_back(field); });
        shape.preview.push_back(std::move(row));
    }
}

std::ifstream open(const std::filesystem::path& path) {
    std::ifstream file(path, std::ios::binary);
    if (!file || std::filesystem::is_directory(path))
        throw InputError({path.string(), "", "cannot be read", "check that the file exists and may be read"});
    return file;
}

} // namespace

std::optional<std::size_t> TableShape::find(std::string_view name) const {
    const auto same = [](char a, char b) { return std::tolower(a) == std::tolower(b); };
    for (std::size_t i = 0; i < columns.size(); ++i)
        if (std::equal(columns[i].begin(), columns[i].end(), name.begin(), name.end(), same))
            return i;
    return std::nullopt;
}

std::optional<std::string> TableShape::comment(std::string_view key) const {
    for (const std::string& line : comments) {
        const auto colon = line.find(':');
        if (colon != std::string::npos && trimmed(std::string_view(line).substr(0, colon)) == key)
            return std::string(trimmed(std::string_view(line).substr(colon + 1)));
    }
    return std::nullopt;
}

TableShape sniff_table(const std::filesystem::path& path) {
    std::ifstream file = open(path);
    std::string text(kSniffBytes, '\0');
    file.read(text.data(), static_cast<std::streamsize>(text.size()));
    const bool whole = static_cast<std::size_t>(file.gcount()) < text.size();
    text.resize(static_cast<std::size_t>(file.gcount()));
    if (text.find_first_not_of(" \t\r\n") == std::string::npos)
        throw InputError({path.string(), "", "the file is empty", "give a table with a row of column names"});
    if (text.find('\0') != std::string::npos)
        throw InputError({path.string(), "", "is not a text file", "export it as CSV"});
    std::string_view view = text;
    if (view.starts_with("\xEF\xBB\xBF"))
        view.remove_prefix(3);
    std::vector<std::string_view> lines = lines_of(view);
    if (!whole && lines.size() > 1)
        lines.pop_back(); // probably cut
    TableShape shape;
    choose_delimiter(lines, shape);
    read_head(lines, shape);
    if (shape.preview.empty() || shape.columns.size() < 2)
        throw InputError({path.string(), "", "no row of two or more numbers was found in the first lines",
                          "give a table with columns separated by comma, semicolon, tab or blanks"});
    return shape;
}

std::string shape_key(const TableShape& shape) {
    std::string key(1, shape.delimiter);
    for (const std::string& name : shape.columns) {
        key += '|';
        for (const unsigned char c : name)
            key += static_cast<char>(std::tolower(c));
    }
    return key;
}

void stream_columns(const std::filesystem::path& path, const TableShape& shape,
                    const std::vector<std::size_t>& wanted,
                    const std::function<void(const std::vector<double>&, std::size_t)>& row,
                    const std::function<void(double)>& progress, const std::stop_token& stop) {
    std::ifstream file = open(path);
    const double size = static_cast<double>(std::max<std::uintmax_t>(std::filesystem::file_size(path), 1));
    std::vector<double> values(wanted.size());
    std::vector<std::size_t> slot(1 + *std::max_element(wanted.begin(), wanted.end()), wanted.size());
    for (std::size_t i = 0; i < wanted.size(); ++i)
        slot[wanted[i]] = i;
    std::string piece, rest;
    std::size_t line_number = 0;
    double read = 0;
    const auto take = [&](std::string_view line) {
        ++line_number;
        if (line.ends_with('\r'))
            line.remove_suffix(1);
        if (line_number <= shape.header_lines || trimmed(line).empty() || line.front() == '#')
            return;
        std::size_t seen = 0;
        split(line, shape.delimiter, [&](std::size_t index, std::string_view field) {
            if (index >= slot.size() || slot[index] == wanted.size())
                return;
            ++seen;
            if (parse(field, shape.decimal_comma, values[slot[index]]) == Parsed::Text)
                throw InputError(
                    {path.string(),
                     fmt::format("line {}, column {} ({})", line_number, index + 1, shape.columns[index]),
                     fmt::format("\"{}\" is not a number", field.substr(0, 30)),
                     "give a plain number, or leave the field empty for a lost reading"});
        });
        if (seen < wanted.size())
            throw InputError({path.string(), fmt::format("line {}", line_number), "has too few columns",
                              "the line was probably cut short; end the file before it"});
        row(values, line_number);
    };
    while (file) {
        throw_if_stopped(stop);
        piece.resize(kPieceBytes);
        file.read(piece.data(), static_cast<std::streamsize>(kPieceBytes));
        piece.resize(static_cast<std::size_t>(file.gcount()));
        read += static_cast<double>(piece.size());
        std::string_view view = piece;
        for (std::size_t end = view.find('\n'); end != std::string_view::npos; end = view.find('\n')) {
            if (rest.empty()) {
                take(view.substr(0, end));
            } else {
                rest.append(view.substr(0, end));
                take(rest);
                rest.clear();
            }
            view.remove_prefix(end + 1);
        }
        rest.append(view);
        if (progress)
            progress(read / size);
    }
    if (!rest.empty())
        take(rest);
}

} // namespace bathmos::io
