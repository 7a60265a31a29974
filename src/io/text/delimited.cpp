#include "io/text/delimited.h"

#include "core/problem/input_error.h"
#include "io/text/fields.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <set>

namespace bathmos::io {

namespace {

using fields::Parsed, fields::parse, fields::split, fields::trimmed, fields::lines_of, fields::refuse_table;

constexpr std::size_t kSniffBytes = 64 * 1024, kPreviewRows = 12;

// How a line is tried: the reading of it that is being weighed.
struct Cut {
    char delimiter = ',';
    bool decimal_comma = false;
    std::size_t texts = 0;
};
Cut cut_of(const TableShape& shape) {
    return {shape.delimiter, shape.decimal_comma, shape.texts};
}

bool is_row(std::string_view line, const Cut& cut, std::size_t* fields) {
    std::size_t numbers = 0, texts = 0, all = 0;
    split(line, cut.delimiter, [&](std::size_t, std::string_view field) {
        double value;
        const Parsed p = parse(field, cut.decimal_comma, value);
        numbers += p == Parsed::Number;
        texts += p == Parsed::Text || p == Parsed::Infinite;
        ++all;
    });
    *fields = all;
    return numbers > (texts > 0 ? 1 : 0) && texts <= cut.texts;
}

// How many fields most rows of a sample have, and how many rows have so many.
struct Regular {
    std::size_t fields = 0, rows = 0, all_rows = 0;
};
Regular regular(const std::vector<std::string_view>& lines, const Cut& cut) {
    std::map<std::size_t, std::size_t> rows_of;
    Regular out;
    for (std::string_view line : lines) {
        std::size_t fields;
        if (line.empty() || line.front() == '#' || !is_row(line, cut, &fields))
            continue;
        ++out.all_rows;
        if (const std::size_t rows = ++rows_of[fields];
            rows > out.rows || (rows == out.rows && fields > out.fields)) {
            out.rows = rows;
            out.fields = fields;
        }
    }
    return out;
}

// The reading of a sample that gives most rows of an equal number of columns, most columns first. A decimal
// comma may be read in whole numbers too: there it changes nothing.
void choose_delimiter(const std::vector<std::string_view>& lines, TableShape& shape) {
    std::size_t best = 0;
    for (const auto& [delimiter, decimal_comma] : {std::pair{';', true},
                                                   {';', false},
                                                   {'\t', true},
                                                   {'\t', false},
                                                   {',', false},
                                                   {',', true},
                                                   {' ', true},
                                                   {' ', false}}) {
        const Regular found = regular(lines, {delimiter, decimal_comma, shape.texts});
        // ragged rows count, for they shall be told rather than read as one column
        const std::size_t score =
            found.fields > 1 ? 100 * (found.rows + found.all_rows) + found.fields : found.all_rows;
        if (score > best) {
            best = score;
            shape.delimiter = delimiter;
            shape.decimal_comma = decimal_comma;
        }
    }
}

bool is_unit(std::string_view text) {
    static const std::set<std::string_view> kUnits = {"",
                                                      "-",
                                                      "mm",
                                                      "um",
                                                      "\xC2\xB5m",
                                                      "\xCE\xBCm",
                                                      "m",
                                                      "in",
                                                      "thou",
                                                      "deg",
                                                      "\xC2\xB0",
                                                      "degrees",
                                                      "cam deg",
                                                      "crank deg",
                                                      "rpm",
                                                      "1/min",
                                                      "rev/min",
                                                      "min-1",
                                                      "s",
                                                      "ms",
                                                      "N m",
                                                      "Nm",
                                                      "N",
                                                      "lbf ft",
                                                      "lb ft",
                                                      "ft lb",
                                                      "lb-ft",
                                                      "ft-lb",
                                                      "kgf m",
                                                      "kW",
                                                      "hp",
                                                      "PS",
                                                      "W",
                                                      "kPa",
                                                      "Pa",
                                                      "psi",
                                                      "inHg",
                                                      "bar",
                                                      "mbar",
                                                      "hPa",
                                                      "C",
                                                      "F",
                                                      "K",
                                                      "degC",
                                                      "degF",
                                                      "\xC2\xB0"
                                                      "C",
                                                      "\xC2\xB0"
                                                      "F",
                                                      "\xC2\xB0"
                                                      "CA",
                                                      "%",
                                                      "V",
                                                      "g",
                                                      "lambda",
                                                      "of 1"};
    if (text.size() > 2 &&
        ((text.front() == '[' && text.back() == ']') || (text.front() == '(' && text.back() == ')')))
        text = text.substr(1, text.size() - 2);
    return kUnits.contains(text);
}

std::vector<std::string> names_in(std::string_view heading, char delimiter) {
    std::vector<std::string> out;
    split(heading, delimiter, [&](std::size_t, std::string_view name) { out.emplace_back(trimmed(name)); });
    while (!out.empty() && out.back().empty())
        out.pop_back(); // a separator at the end of the line
    return out;
}

// Names, with the units of a line under them.
std::vector<std::string> named(const std::vector<std::string_view>& headings, char delimiter) {
    if (headings.empty())
        return {};
    std::vector<std::string> last = names_in(headings.back(), delimiter);
    if (headings.size() < 2 || !std::all_of(last.begin(), last.end(), is_unit))
        return last;
    std::vector<std::string> names = names_in(headings[headings.size() - 2], delimiter);
    if (names.size() < 2 || names.size() < last.size())
        return last;
    for (std::size_t i = 0; i < last.size(); ++i) {
        const std::string unit(last[i].starts_with('[') || last[i].starts_with('(')
                                   ? last[i].substr(1, last[i].size() - 2)
                                   : last[i]);
        if (!unit.empty() && unit != "-")
            names[i] += " [" + unit + "]";
    }
    return names;
}

void read_head(const std::vector<std::string_view>& lines, TableShape& shape) {
    std::vector<std::string_view> headings;
    std::size_t fields = 0;
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const std::string_view line = lines[i];
        if (line.starts_with('#')) {
            shape.comments.emplace_back(trimmed(line.substr(1)));
        } else if (is_row(line, cut_of(shape), &fields)) {
            shape.header_lines = i;
            break;
        } else if (!trimmed(line).empty()) {
            headings.push_back(line);
        }
    }
    for (std::size_t i = shape.header_lines; i < lines.size() && shape.preview.size() < kPreviewRows; ++i) {
        std::vector<std::string> row;
        split(lines[i], shape.delimiter,
              [&](std::size_t, std::string_view field) { row.emplace_back(field); });
        shape.preview.push_back(std::move(row));
    }
    shape.columns = named(headings, shape.delimiter);
    // a row may end with a separator, or with readings that were lost
    const std::vector<std::string> none;
    const std::vector<std::string>& first = shape.preview.empty() ? none : shape.preview.front();
    const bool fits =
        shape.columns.size() <= fields &&
        std::all_of(first.begin() + static_cast<std::ptrdiff_t>(std::min(shape.columns.size(), fields)),
                    first.end(), [](const std::string& field) { return field.empty(); });
    if (shape.columns.size() > 1 && fits)
        return;
    shape.columns.clear();
    for (std::size_t i = 0; i < fields; ++i)
        shape.columns.push_back(fmt::format("column {}", i + 1));
}

// Whether rows show decimal commas among separating ones: more fields than names or than other rows have, and
// a decimal point nowhere.
bool comma_for_both(const std::vector<std::string_view>& lines, const TableShape& shape) {
    if (shape.delimiter != ',' || shape.decimal_comma)
        return false;
    std::size_t fields, names = 0, most = 0;
    for (std::string_view line : lines) {
        if (line.empty() || line.front() == '#')
            continue;
        if (!is_row(line, cut_of(shape), &fields))
            names = names_in(line, ',').size();
        else if (line.find('.') != std::string_view::npos)
            return false;
        else
            most = std::max(most, names_in(line, ',').size());
    }
    return most > (names > 1 ? names : regular(lines, cut_of(shape)).fields);
}

} // namespace

std::optional<std::size_t> TableShape::find(std::string_view name) const {
    const auto same = [](char a, char b) {
        return std::tolower(static_cast<unsigned char>(a)) == std::tolower(static_cast<unsigned char>(b));
    };
    const auto matches = [&](std::string_view column) {
        return std::equal(column.begin(), column.end(), name.begin(), name.end(), same);
    };
    for (std::size_t i = 0; i < columns.size(); ++i) {
        std::string_view column = columns[i];
        if (matches(column))
            return i;
        const std::size_t open = column.find_first_of("[(");
        if (open == std::string_view::npos || open == 0 || column.size() < open + 2)
            continue;
        const std::string_view bare = trimmed(column.substr(0, open)),
                               unit = column.substr(open + 1, column.find_first_of("])", open) - open - 1);
        if (matches(bare) || matches(fmt::format("{}_{}", bare, unit)))
            return i;
    }
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

TableShape sniff_table(const std::filesystem::path& path, std::size_t texts) {
    std::ifstream file = fields::open(path);
    std::string bytes(kSniffBytes, '\0');
    file.read(bytes.data(), static_cast<std::streamsize>(bytes.size()));
    const bool whole = static_cast<std::size_t>(file.gcount()) < bytes.size();
    bytes.resize(static_cast<std::size_t>(file.gcount()));
    TableShape shape;
    shape.texts = texts;
    shape.encoding = encoding_of(bytes);
    const std::string text = to_utf8(bytes, shape.encoding);
    if (text.find_first_not_of(" \t\r\n") == std::string::npos)
        refuse_table(path, "", "the file is empty", "give a table with a row of column names");
    if (text.find('\0') != std::string::npos)
        refuse_table(path, "", "is not a text file", "export it as CSV");
    std::vector<std::string_view> lines = lines_of(text);
    if (!whole && lines.size() > 1)
        lines.pop_back(); // probably cut
    choose_delimiter(lines, shape);
    read_head(lines, shape);
    std::size_t row_bytes = 0;
    for (std::size_t i = shape.header_lines; i < lines.size(); ++i)
        row_bytes += lines[i].size() + 1;
    if (lines.size() > shape.header_lines)
        shape.row_bytes = static_cast<double>(row_bytes) /
                          static_cast<double>(lines.size() - shape.header_lines) *
                          static_cast<double>(bytes.size()) / static_cast<double>(text.size());
    if (shape.preview.empty() || shape.columns.size() < 2)
        refuse_table(path, "", "no row of two or more numbers was found in the first lines",
                     "give a table with columns separated by comma, semicolon, tab or blanks");
    if (comma_for_both(lines, shape))
        refuse_table(
            path, fmt::format("line {}", shape.header_lines + 1),
            "rows have more fields than the table has columns, as if decimals were written with a comma",
            fields::kTwoCommas);
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

} // namespace bathmos::io
