#include "io/sheet/sheet_draft.h"

#include "core/bench/keyed_sheet.h"
#include "core/problem/input_error.h"
#include "io/json/json.h"
#include "io/train/train_json.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace bathmos::io {

namespace {

using bench::SheetDraft;
using bench::SheetField;
using bench::SheetKind;
using bench::SheetRow;

constexpr double kSameRise_m = 1e-6;

Json json_of(const std::vector<double>& repeats, const SheetField& field, bool always_list = false) {
    const double unit = unit_of(field.quantity).to_si;
    Json out = Json::array();
    for (const double one : repeats)
        out.push_back(number_json(one / unit));
    return out.size() == 1 && !always_list ? out.front() : out;
}

std::vector<double> readings_in(const Json& json, const SheetField& field) {
    const double unit = unit_of(field.quantity).to_si;
    std::vector<double> out;
    for (const Json& one : json.is_array() ? json : Json::array({json}))
        if (one.is_number())
            out.push_back(one.get<double>() * unit);
    return out;
}

// "old.step_mm" as the object "old" and "step_mm".
std::pair<std::string, std::string> parts_of(std::string_view key) {
    const std::size_t dot = key.find('.');
    return dot == std::string_view::npos
               ? std::pair{std::string(), std::string(key)}
               : std::pair{std::string(key.substr(0, dot)), std::string(key.substr(dot + 1))};
}

Json& place_in(Json& sheet, std::string_view key) {
    const auto [object, name] = parts_of(key);
    return object.empty() ? sheet[name] : sheet[object][name];
}

const Json* find_place(const Json& sheet, std::string_view key) {
    const auto [object, name] = parts_of(key);
    const Json* owner = &sheet;
    if (!object.empty()) {
        if (!sheet.contains(object) || !sheet[object].is_object())
            return nullptr;
        owner = &sheet[object];
    }
    return owner->contains(name) ? &(*owner)[name] : nullptr;
}

bool full(const SheetRow& row, std::initializer_list<std::size_t> columns) {
    return std::ranges::all_of(columns,
                               [&](std::size_t c) { return c < row.cells.size() && !row.cells[c].empty(); });
}

// Readings of a spring or a part: a list for each column; those of the working spring for themselves.
void put_rows(const SheetDraft& draft, const SheetKind& kind, Json& sheet) {
    for (const SheetField& column : kind.columns)
        if (!column.optional)
            sheet[std::string(column.key)] = Json::array();
    for (const SheetRow& row : draft.rows) {
        if (!full(row, {0, 1}))
            continue;
        for (std::size_t c = 0; c < 2; ++c)
            sheet[std::string(kind.columns[c].key)].push_back(json_of(row.cells[c], kind.columns[c]));
        if (!kind.usual.empty())
            sheet["going"].push_back(row.back ? kind.back : kind.usual);
        if (kind.columns.size() > 3 && full(row, {2, 3})) {
            sheet["working"]["rise_mm"].push_back(json_of(row.cells[0], kind.columns[0]));
            sheet["working"]["lift_mm"].push_back(json_of(row.cells[2], kind.columns[2]));
            sheet["working"]["force_N"].push_back(json_of(row.cells[3], kind.columns[3]));
        }
    }
}

void put_set(const SheetDraft& draft, const SheetKind& kind, Json& sheet) {
    const auto height = [&](std::size_t field) {
        const auto at = draft.fields.find(std::string(kind.fields[field].key));
        return at == draft.fields.end() ? Json() : json_of(at->second, kind.fields[field]);
    };
    sheet["springs"] = Json::array();
    for (const SheetRow& row : draft.rows) {
        if (row.name.empty() || !full(row, {0}))
            continue;
        Json spring;
        spring["serial"] = row.name;
        for (std::size_t c = 0; c < 2; ++c)
            if (full(row, {c}) && !height(c).is_null()) {
                spring["height_mm"].push_back(height(c));
                spring["load_N"].push_back(json_of(row.cells[c], kind.columns[c]));
            }
        if (full(row, {2}) && !height(0).is_null())
            spring["before"] = {{"height_mm", Json::array({height(0)})},
                                {"load_N", Json::array({json_of(row.cells[2], kind.columns[2])})}};
        sheet["springs"].push_back(std::move(spring));
    }
    sheet["valves"] = Json::array();
    std::string name;
    for (const char letter : draft.names + ",")
        if (letter != ',')
            name += letter;
        else if (const std::size_t first = name.find_first_not_of(' '); first != std::string::npos) {
            sheet["valves"].push_back(name.substr(first, name.find_last_not_of(' ') - first + 1));
            name.clear();
        } else {
            name.clear();
        }
}

void take_rows(const Json& sheet, const SheetKind& kind, SheetDraft& draft) {
    const Json *first = find_place(sheet, kind.columns[0].key),
               *second = find_place(sheet, kind.columns[1].key);
    if (!first || !second || !first->is_array() || !second->is_array())
        return;
    const Json going = sheet.value("going", Json::array());
    for (std::size_t i = 0; i < std::min(first->size(), second->size()); ++i) {
        SheetRow row;
        row.cells.resize(kind.columns.size());
        row.cells[0] = readings_in((*first)[i], kind.columns[0]);
        row.cells[1] = readings_in((*second)[i], kind.columns[1]);
        row.back = going.is_array() && i < going.size() && going[i] == kind.back;
        draft.rows.push_back(std::move(row));
    }
    if (!sheet.contains("working") || kind.columns.size() < 4)
        return;
    const Json& working = sheet["working"];
    for (std::size_t i = 0; i < working.value("rise_mm", Json::array()).size(); ++i) {
        const std::vector<double> rise = readings_in(working["rise_mm"][i], kind.columns[0]);
        for (SheetRow& row : draft.rows)
            if (!rise.empty() && !row.back && !row.cells[0].empty() &&
                std::abs(row.cells[0].front() - rise.front()) < kSameRise_m)
                for (std::size_t c = 2; c < 4; ++c)
                    if (const Json* list = find_place(sheet, kind.columns[c].key); list && i < list->size())
                        row.cells[c] = readings_in((*list)[i], kind.columns[c]);
    }
}

void take_set(const Json& sheet, const SheetKind& kind, SheetDraft& draft) {
    for (const Json& spring : sheet.value("springs", Json::array())) {
        SheetRow row;
        row.cells.resize(kind.columns.size());
        row.name = spring.value("serial", "");
        const Json heights = spring.value("height_mm", Json::array()),
                   loads = spring.value("load_N", Json::array());
        for (std::size_t c = 0; c < 2 && c < heights.size() && c < loads.size(); ++c) {
            draft.fields[std::string(kind.fields[c].key)] = readings_in(heights[c], kind.fields[c]);
            row.cells[c] = readings_in(loads[c], kind.columns[c]);
        }
        if (spring.contains("before") && !spring["before"].value("load_N", Json::array()).empty())
            row.cells[2] = readings_in(spring["before"]["load_N"][0], kind.columns[2]);
        draft.rows.push_back(std::move(row));
    }
    std::vector<std::string> names;
    for (const Json& valve : sheet.value("valves", Json::array()))
        if (valve.is_string())
            names.push_back(valve.get<std::string>());
    draft.names = fmt::format("{}", fmt::join(names, ", "));
}

// Kinds that are read by keys: an object for each row, with what was read of it.
void put_keyed_rows(const SheetDraft& draft, const SheetKind& kind, Json& sheet) {
    sheet["rows"] = Json::array();
    for (const SheetRow& row : draft.rows) {
        Json one = Json::object();
        for (std::size_t c = 0; c < kind.columns.size(); ++c)
            if (full(row, {c}))
                one[std::string(kind.columns[c].key)] = json_of(row.cells[c], kind.columns[c]);
        if (one.empty())
            continue;
        if (!kind.named.empty())
            one["name"] = row.name;
        sheet["rows"].push_back(std::move(one));
    }
}

void take_keyed_rows(const Json& sheet, const SheetKind& kind, SheetDraft& draft) {
    for (const Json& one : sheet.value("rows", Json::array())) {
        SheetRow row;
        row.cells.resize(kind.columns.size());
        row.name = one.value("name", "");
        for (std::size_t c = 0; c < kind.columns.size(); ++c)
            if (const Json* place = find_place(one, kind.columns[c].key))
                row.cells[c] = readings_in(*place, kind.columns[c]);
        draft.rows.push_back(std::move(row));
    }
}

const SheetKind& kind_of(const std::string& key) {
    if (const SheetKind* kind = bench::find_sheet_kind(key))
        return *kind;
    throw InputError({"", "kind", fmt::format("is \"{}\"", key), "choose one of the kinds of sheet"});
}

SheetDraft draft_in(const Json& sheet) {
    if (!sheet.is_object() || sheet.value("format", "") != "bathmos-sheet")
        throw InputError(
            {"", "format", "is no bench sheet", "give a file whose format is \"bathmos-sheet\""});
    SheetDraft out;
    out.kind = sheet.value("kind", "");
    const SheetKind& kind = kind_of(out.kind);
    for (const SheetField& field : kind.fields)
        if (const Json* place = find_place(sheet, field.key))
            out.fields[std::string(field.key)] = readings_in(*place, field);
    if (out.kind == "spring_set")
        take_set(sheet, kind, out);
    else if (bench::read_by_keys(out.kind))
        take_keyed_rows(sheet, kind, out);
    else if (!kind.columns.empty())
        take_rows(sheet, kind, out);
    return out;
}

} // namespace

std::string draft_text(const SheetDraft& draft) {
    const SheetKind& kind = kind_of(draft.kind);
    Json sheet = {{"format", "bathmos-sheet"}, {"version", 1}, {"kind", draft.kind}};
    const bool set = draft.kind == "spring_set";
    for (const SheetField& field : kind.fields)
        if (const auto at = draft.fields.find(std::string(field.key));
            at != draft.fields.end() && !at->second.empty() && !set)
            place_in(sheet, field.key) = json_of(at->second, field, field.key == "shims_mm");
    if (set)
        put_set(draft, kind, sheet);
    else if (bench::read_by_keys(draft.kind) && !kind.columns.empty())
        put_keyed_rows(draft, kind, sheet);
    else if (!kind.columns.empty())
        put_rows(draft, kind, sheet);
    return json_text(sheet, 1) + "\n";
}

SheetDraft draft_of(std::string_view text) {
    try {
        return draft_in(parse_json(text));
    } catch (const Json::exception&) {
        throw InputError({"", "", "the text does not have the shape of a sheet",
                          "see the sheet format in docs/format.md"});
    }
}

std::string kept_text(const SheetDraft& draft) {
    Json rows = Json::array();
    for (const SheetRow& row : draft.rows)
        rows.push_back({{"name", row.name}, {"back", row.back}, {"cells", row.cells}});
    return json_text(
        {{"kind", draft.kind}, {"names", draft.names}, {"fields", draft.fields}, {"rows", std::move(rows)}});
}

SheetDraft kept_draft(std::string_view text) {
    try {
        const Json kept = parse_json(text);
        SheetDraft out;
        out.kind = kept.at("kind").get<std::string>();
        out.names = kept.at("names").get<std::string>();
        out.fields = kept.at("fields").get<std::map<std::string, std::vector<double>>>();
        const SheetKind& kind = kind_of(out.kind);
        for (const Json& one : kept.at("rows")) {
            SheetRow row{one.at("name").get<std::string>(),
                         one.at("cells").get<std::vector<std::vector<double>>>(), one.at("back").get<bool>()};
            row.cells.resize(kind.columns.size());
            out.rows.push_back(std::move(row));
        }
        return out;
    } catch (const Json::exception&) {
        throw InputError({"", "sheet", "its readings cannot be read", "remove it, and type them anew"});
    }
}

} // namespace bathmos::io
