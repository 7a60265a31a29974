#include "io/project/parts_csv.h"

#include "core/problem/input_error.h"
#include "io/project/record_json.h"
#include "io/text/encoding.h"

#include <algorithm>
#include <fmt/format.h>
#include <map>

namespace bathmos::io {

namespace {

constexpr std::ptrdiff_t kDeepestKey = 16;
constexpr std::string_view kHead = "part,kind,name,key,value";

std::string quoted(const std::string& field) {
    if (field.find_first_of(",\"\n\r;") == std::string::npos)
        return field;
    std::string out = "\"";
    for (const char c : field)
        out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + "\"";
}

// A field as the JSON it is, else as the text it is.
Json value_of(const std::string& text) {
    try {
        return parse_own_json(text);
    } catch (const std::exception&) {
        return text;
    }
}

// Text as it is, unless it could be read as something else.
std::string value_text(const Json& value) {
    if (!value.is_string())
        return json_text(value);
    const std::string text = value.get<std::string>();
    return value_of(text).is_string() ? text : json_text(value);
}

void add_rows(const Json& json, const std::string& path,
              std::vector<std::pair<std::string, std::string>>& out) {
    const bool nested =
        json.is_object() || (json.is_array() && !json.empty() && json.front().is_object()); // springs
    if (!nested) {
        out.emplace_back(path, value_text(json));
        return;
    }
    std::size_t i = 0;
    for (const auto& [key, value] : json.items())
        add_rows(value, path + (path.empty() ? "" : "/") + (json.is_array() ? std::to_string(i++) : key),
                 out);
}

// Puts a value where its path says; numbers as steps make lists.
void put(Json& json, std::string_view path, const Json& value) {
    Json* at = &json;
    while (!path.empty()) {
        const auto slash = std::min(path.find('/'), path.size());
        const std::string step(path.substr(0, slash));
        path.remove_prefix(std::min(slash + 1, path.size()));
        const bool index = !step.empty() && step.find_first_not_of("0123456789") == std::string::npos;
        if (index && (at->is_null() || at->is_array()) && step.size() < 4)
            at = &(*at)[std::stoul(step)];
        else
            at = &(*at)[step];
    }
    *at = value;
}

// Rows of fields; quotes may hold separators and line breaks.
struct Row {
    std::size_t line;
    std::vector<std::string> fields;
};
std::vector<Row> rows_of(std::string_view text) {
    const std::string_view first = text.substr(0, text.find('\n'));
    const char separator = first.find(';') != std::string_view::npos    ? ';'
                           : first.find('\t') != std::string_view::npos ? '\t'
                                                                        : ',';
    std::vector<Row> out;
    Row row{1, {""}};
    std::size_t line = 1;
    bool inside = false;
    const auto end_row = [&] {
        if (row.fields.size() > 1 || !row.fields.front().empty())
            out.push_back(row);
        row = {line, {""}};
    };
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        line += c == '\n';
        if (inside && c == '"' && i + 1 < text.size() && text[i + 1] == '"')
            row.fields.back() += text[++i];
        else if (c == '"')
            inside = !inside;
        else if (!inside && c == separator)
            row.fields.emplace_back();
        else if (!inside && c == '\n')
            end_row();
        else if (inside || c != '\r')
            row.fields.back() += c;
    }
    end_row();
    return out;
}

} // namespace

std::string parts_csv(const std::vector<Part>& parts) {
    std::string out = std::string(kHead) + "\n";
    for (std::size_t i = 0; i < parts.size(); ++i) {
        Project scratch;
        scratch.parts[1] = parts[i];
        std::vector<std::pair<std::string, std::string>> rows;
        add_rows(parse_own_json(record_text(scratch, RecordKind::Part, 1)), "", rows);
        for (const auto& [key, value] : rows)
            if (key != "kind" && key != "name")
                out += fmt::format("{},{},{},{},{}\n", i + 1, info(parts[i].kind).key, quoted(parts[i].name),
                                   key, quoted(value));
        if (rows.size() == 2) // nothing but kind and name
            out += fmt::format("{},{},{},note,\n", i + 1, info(parts[i].kind).key, quoted(parts[i].name));
    }
    return out;
}

std::vector<Part> parse_parts_csv(std::string_view text, const std::string& source) {
    const std::string decoded = to_utf8(text);
    const std::vector<Row> rows = rows_of(decoded);
    const auto refuse = [&](std::size_t line, std::string what, std::string mend) {
        throw InputError({source, fmt::format("line {}", line), std::move(what), std::move(mend)});
    };
    if (rows.empty() ||
        rows.front().fields != std::vector<std::string>{"part", "kind", "name", "key", "value"})
        refuse(1, "does not name the columns of a table of parts", fmt::format("must be: {}", kHead));
    std::vector<std::string> order;
    std::map<std::string, std::pair<std::size_t, Json>> parts;
    for (std::size_t i = 1; i < rows.size(); ++i) {
        const Row& row = rows[i];
        if (row.fields.size() != 5)
            refuse(row.line, fmt::format("has {} fields", row.fields.size()), "must have five");
        if (!parts.contains(row.fields[0])) {
            order.push_back(row.fields[0]);
            parts[row.fields[0]].first = row.line;
        }
        if (row.fields[3].empty())
            refuse(row.line, "has no key", "give the name of the value, such as mass_g");
        Json& json = parts[row.fields[0]].second;
        json["kind"] = row.fields[1];
        json["name"] = row.fields[2];
        if (row.fields[4].empty())
            continue;
        if (std::count(row.fields[3].begin(), row.fields[3].end(), '/') > kDeepestKey)
            refuse(row.line, "its key has too many steps", "give a key such as springs/0/wire_mm");
        try {
            put(json, row.fields[3], value_of(row.fields[4]));
        } catch (const Json::exception&) {
            refuse(row.line, fmt::format("its key \"{}\" does not fit the keys before it", row.fields[3]),
                   "a key cannot be both a value and a list or group");
        }
    }
    std::vector<Part> out;
    for (const std::string& key : order) {
        const auto& [line, json] = parts.at(key);
        const std::string place = fmt::format("part {} (from line {})", key, line);
        try {
            Project scratch;
            put_record(scratch, RecordKind::Part, 1, json_text(json));
            if (const auto problems = check_part(scratch.parts.at(1)); !problems.empty())
                throw InputError(problems.front());
            out.push_back(scratch.parts.at(1));
        } catch (const InputError& error) {
            InputProblem problem = error.problem();
            throw InputError({source, place + (problem.location.empty() ? "" : ": " + problem.location),
                              problem.what, problem.mend});
        }
    }
    return out;
}

} // namespace bathmos::io
