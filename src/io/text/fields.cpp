#include "io/text/fields.h"

#include "core/problem/input_error.h"
#include "io/text/encoding.h"

#include <cmath>
#include <fast_float/fast_float.h>
#include <limits>

namespace bathmos::io::fields {

std::string_view trimmed(std::string_view text) {
    const auto first = text.find_first_not_of(" \t\r\"");
    if (first == std::string_view::npos)
        return {};
    return text.substr(first, text.find_last_not_of(" \t\r\"") - first + 1);
}

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
    if (result.ptr != text.data() + text.size() || result.ec == std::errc::invalid_argument) {
        value = std::numeric_limits<double>::quiet_NaN();
        return Parsed::Text;
    }
    if (std::isnan(value))
        return Parsed::Empty;
    if (std::isinf(value)) {
        value = std::numeric_limits<double>::quiet_NaN();
        return Parsed::Infinite;
    }
    return Parsed::Number;
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

std::ifstream open(const std::filesystem::path& path) {
    std::ifstream file(path, std::ios::binary);
    if (!file || std::filesystem::is_directory(path))
        refuse_table(path, "", "cannot be read", "check that the file exists and may be read");
    return file;
}

void refuse_table(const std::filesystem::path& path, std::string location, std::string what,
                  std::string mend) {
    throw InputError({shown_path(path), std::move(location), std::move(what), std::move(mend)});
}

} // namespace bathmos::io::fields
