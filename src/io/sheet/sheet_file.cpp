#include "io/sheet/sheet_file.h"

#include "core/bench/sheet_kind.h"
#include "core/units/units.h"
#include "io/file/safe_file.h"
#include "io/text/encoding.h"
#include "io/train/object_reader.h"

#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace bathmos::io {

namespace {

using bench::Figure;
using bench::Readings;

constexpr std::string_view kSheetFormat = "bathmos-sheet";
constexpr int kSheetVersion = 1;
constexpr double kMilli = 1e-3, kRate = 1e3; // mm to m, g to kg; N/mm to N/m

double number_of(const ObjectReader& reader, const std::string& key, const Json& json) {
    if (!json.is_number() || !std::isfinite(json.get<double>()))
        reader.refuse(key, fmt::format("holds {}", json_text(json).substr(0, 40)), "must be a number");
    return json.get<double>();
}

std::vector<double> repeats_of(const ObjectReader& reader, const std::string& key, const Json& json) {
    std::vector<double> out;
    if (!json.is_array())
        return {number_of(reader, key, json)};
    for (const Json& one : json)
        out.push_back(number_of(reader, key, one));
    if (out.empty())
        reader.refuse(key, "is empty", "give a number, or a list of repeats");
    return out;
}

void scale_all(std::vector<double>& values, double factor) {
    for (double& value : values)
        value *= factor;
}

// What the instrument itself does, which may stand beside any reading.
void read_instrument(ObjectReader& reader, const std::string& key, double factor, Readings& out) {
    const auto beside = [&](const std::string& what) {
        const std::string name = what + key;
        if (!reader.has(name))
            return std::optional<double>();
        const std::vector<double> read = repeats_of(reader, name, reader.required(name));
        return std::optional(factor * std::accumulate(read.begin(), read.end(), 0.0) /
                             static_cast<double>(read.size()));
    };
    out.resolution = beside("resolution_").value_or(0);
    out.zero_before = beside("zero_before_");
    out.zero_after = beside("zero_after_");
    if (out.resolution < 0)
        reader.refuse("resolution_" + key, "is below 0", "must be 0 or more");
}

// A list of places, each a number or a list of repeats.
Readings read_places(ObjectReader& reader, const std::string& key, double factor) {
    const Json& json = reader.required(key);
    if (!json.is_array() || json.empty())
        reader.refuse(key, "is no list", "must be a list of readings");
    Readings out;
    for (const Json& place : json) {
        out.repeats.push_back(repeats_of(reader, key, place));
        scale_all(out.repeats.back(), factor);
    }
    read_instrument(reader, key, factor, out);
    return out;
}

// One place: a number, or a list of its repeats.
Readings read_one_place(ObjectReader& reader, const std::string& key, double factor) {
    Readings out;
    out.repeats.push_back(repeats_of(reader, key, reader.required(key)));
    scale_all(out.repeats.back(), factor);
    read_instrument(reader, key, factor, out);
    return out;
}

Figure read_one(ObjectReader& reader, const std::string& key, double factor) {
    return bench::means_of(read_one_place(reader, key, factor)).front();
}

template <class Value, class Read>
std::optional<Value> maybe_read(ObjectReader& reader, const std::string& key, Read read) {
    return reader.has(key) ? std::optional<Value>(read()) : std::nullopt;
}

std::optional<Figure> maybe_one(ObjectReader& reader, const std::string& key, double factor) {
    return maybe_read<Figure>(reader, key, [&] { return read_one(reader, key, factor); });
}

std::optional<double> maybe_value(ObjectReader& reader, const std::string& key, double factor) {
    const auto read = maybe_one(reader, key, factor);
    return read ? std::optional(read->value) : std::nullopt;
}

std::vector<double> values_of(const Readings& readings) {
    std::vector<double> out;
    for (const Figure& one : bench::means_of(readings))
        out.push_back(one.value);
    return out;
}

// "down"/"up" by place; empty where the key is not there.
template <class Way>
std::vector<Way> read_ways(ObjectReader& reader, const std::string& key, Way up, Way down) {
    std::vector<Way> out;
    if (!reader.has(key))
        return out;
    for (const Json& one : reader.required(key))
        if (one == "up" || one == "down")
            out.push_back(one == "up" ? up : down);
        else
            reader.refuse(key, fmt::format("holds {}", json_text(one).substr(0, 40)),
                          "must be \"up\" or \"down\"");
    return out;
}

bench::SpringSheet read_spring_sheet(ObjectReader& reader) {
    bench::SpringSheet out;
    const Readings height = read_places(reader, "height_mm", kMilli);
    out.height_m = values_of(height);
    out.height_resolution_m = height.resolution;
    out.load_N = read_places(reader, "load_N", 1);
    out.going = read_ways(reader, "going", bench::Going::Up, bench::Going::Down);
    out.mass_kg = maybe_value(reader, "mass_g", kMilli);
    out.free_length_m = maybe_value(reader, "free_length_mm", kMilli);
    out.free_after_m = maybe_value(reader, "free_after_mm", kMilli);
    out.lean_m = maybe_value(reader, "lean_mm", kMilli);
    out.installed_height_m = maybe_value(reader, "installed_height_mm", kMilli);
    out.valve_lift_m = maybe_value(reader, "valve_lift_mm", kMilli);
    if (reader.has("claimed")) {
        ObjectReader claimed = reader.object("claimed");
        out.claimed.seat_N = maybe_value(claimed, "seat_N", 1);
        out.claimed.open_N = maybe_value(claimed, "open_N", 1);
        out.claimed.rate_N_per_m = maybe_value(claimed, "rate_N_per_mm", kRate);
        claimed.finish();
    }
    return out;
}

bench::SpringSet read_spring_set(ObjectReader& reader) {
    bench::SpringSet out;
    const Json& springs = reader.required("springs");
    if (!springs.is_array())
        reader.refuse("springs", "is no list", "must be a list of springs");
    for (std::size_t i = 0; i < springs.size(); ++i) {
        ObjectReader one(springs[i], fmt::format("springs[{}]", i));
        bench::SetSpring spring;
        spring.serial = one.text("serial");
        spring.height_m = values_of(read_places(one, "height_mm", kMilli));
        spring.load_N = values_of(read_places(one, "load_N", 1));
        if (one.has("before")) {
            ObjectReader before = one.object("before");
            spring.old_height_m = values_of(read_places(before, "height_mm", kMilli));
            spring.old_load_N = values_of(read_places(before, "load_N", 1));
            before.has("when");
            before.finish();
        }
        one.finish();
        out.springs.push_back(std::move(spring));
    }
    if (reader.has("valves"))
        for (const Json& valve : reader.required("valves")) {
            if (!valve.is_string())
                reader.refuse("valves", fmt::format("holds {}", json_text(valve).substr(0, 40)),
                              "must be a list of names");
            out.valves.push_back(valve.get<std::string>());
        }
    return out;
}

bench::GaugedRetainer read_retainer(ObjectReader reader) {
    bench::GaugedRetainer out;
    out.step_m = read_one(reader, "step_mm", kMilli);
    out.ball_depth_m = read_one(reader, "ball_depth_mm", kMilli);
    out.taper_rad = radians(read_one(reader, "taper_deg", 1).value);
    reader.finish();
    return out;
}

bench::HeightSheet read_height_sheet(ObjectReader& reader) {
    bench::HeightSheet out;
    out.old_height_m = read_one(reader, "old_height_mm", kMilli);
    out.before = read_retainer(reader.object("old"));
    out.after = read_retainer(reader.object("new"));
    if (const auto taper_deg = maybe_value(reader, "lock_taper_deg", 1))
        out.lock_taper_rad = radians(*taper_deg);
    out.ball_m = read_one(reader, "ball_mm", kMilli).value;
    out.new_ball_m = maybe_value(reader, "ball_new_mm", kMilli);
    out.micrometer_m = maybe_one(reader, "micrometer_mm", kMilli);
    out.wanted_m = maybe_value(reader, "wanted_mm", kMilli);
    if (reader.has("shims_mm")) {
        out.shims_m = reader.numbers("shims_mm");
        scale_all(out.shims_m, kMilli);
        for (const double shim : out.shims_m)
            if (!(shim > 0))
                reader.refuse("shims_mm", fmt::format("holds {:g}", shim / kMilli),
                              "thicknesses are above 0");
    }
    out.rate_N_per_m = maybe_value(reader, "rate_N_per_mm", kRate);
    out.seat_N = maybe_value(reader, "seat_N", 1);
    return out;
}

bench::RatioSheet read_ratio_sheet(ObjectReader& reader) {
    bench::RatioSheet out;
    out.rise_m = read_places(reader, "rise_mm", kMilli);
    out.lift_m = read_places(reader, "lift_mm", kMilli);
    out.turn = read_ways(reader, "going", bench::Turn::Up, bench::Turn::Down);
    if (reader.has("working")) {
        ObjectReader working = reader.object("working");
        out.working = bench::WorkingLifts{values_of(read_places(working, "rise_mm", kMilli)),
                                          values_of(read_places(working, "lift_mm", kMilli)),
                                          values_of(read_places(working, "force_N", 1))};
        working.finish();
    }
    out.believed = maybe_value(reader, "believed", 1);
    return out;
}

bench::StiffnessSheet read_stiffness_sheet(ObjectReader& reader) {
    return {read_places(reader, "force_N", 1), read_places(reader, "dial_mm", kMilli)};
}

bench::SwingSheet read_swing_sheet(ObjectReader& reader) {
    return {read_one_place(reader, "swing_s", 1), read_one(reader, "mass_g", kMilli),
            read_one(reader, "pivot_to_centre_mm", kMilli)};
}

// Fields and rows by the keys of their kind; what may be missing may be missing.
bench::KeyedSheet read_keyed_sheet(ObjectReader& reader, const bench::SheetKind& kind) {
    bench::KeyedSheet out;
    out.kind = kind.key;
    for (const bench::SheetField& field : kind.fields) {
        const std::string key(field.key);
        if (!field.optional || reader.has(key))
            out.fields[key] = read_one_place(reader, key, unit_of(field.quantity).to_si);
    }
    if (kind.columns.empty() || !reader.has("rows"))
        return out;
    const Json& rows = reader.required("rows");
    if (!rows.is_array())
        reader.refuse("rows", "is no list", "must be a list of {..}, one a reading");
    for (std::size_t i = 0; i < rows.size(); ++i) {
        ObjectReader one(rows[i], fmt::format("rows[{}]", i));
        bench::KeyedSheet::Row row;
        if (!kind.named.empty())
            row.name = one.text("name");
        for (const bench::SheetField& column : kind.columns)
            if (const std::string key(column.key); one.has(key))
                row.cells[key] = read_one_place(one, key, unit_of(column.quantity).to_si);
        one.finish();
        out.rows.push_back(std::move(row));
    }
    return out;
}

std::string all_kinds() {
    std::string out;
    for (const bench::SheetKind& kind : bench::sheet_kinds())
        out += (out.empty() ? "" : ", ") + std::string(kind.key);
    return out;
}

BenchSheet read_sheet_kind(ObjectReader& reader) {
    const std::string kind = reader.text("kind");
    if (kind == "spring")
        return read_spring_sheet(reader);
    if (kind == "spring_set")
        return read_spring_set(reader);
    if (kind == "height")
        return read_height_sheet(reader);
    if (kind == "ratio")
        return read_ratio_sheet(reader);
    if (kind == "stiffness")
        return read_stiffness_sheet(reader);
    if (kind == "rocker_inertia")
        return read_swing_sheet(reader);
    if (const bench::SheetKind* known = bench::find_sheet_kind(kind))
        return read_keyed_sheet(reader, *known);
    reader.refuse("kind", fmt::format("is \"{}\"", kind), "must be one of: " + all_kinds());
}

} // namespace

BenchSheet parse_sheet(std::string_view text, const std::string& source) {
    try {
        const Json json = parse_json(text);
        ObjectReader reader(json, "");
        if (const std::string format = reader.text("format"); format != kSheetFormat)
            reader.refuse("format", fmt::format("is \"{}\"", format),
                          fmt::format("must be \"{}\"", kSheetFormat));
        if (const double version = reader.number("version"); version != kSheetVersion)
            reader.refuse("version", fmt::format("is {:g}", version),
                          fmt::format("this program reads {}", kSheetVersion));
        BenchSheet out = read_sheet_kind(reader);
        for (const char* beside : {"who", "when", "instrument", "note"})
            reader.has(beside);
        reader.finish();
        return out;
    } catch (const InputError& error) {
        throw error.in(source);
    } catch (const Json::exception&) {
        throw InputError({source, "", "the file does not have the shape of a sheet",
                          "see the sheet format in docs/format.md"});
    }
}

BenchSheet read_sheet(const std::filesystem::path& path) {
    return parse_sheet(read_file(path, kMostSheetBytes), shown_path(path));
}

} // namespace bathmos::io
