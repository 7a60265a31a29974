#include "io/train/train_json.h"

#include "core/train/train_fields.h"
#include "core/uncertainty/uncertain_inputs.h"
#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

constexpr std::string_view kFormat = "bathmos-train";
constexpr int kVersion = 1;

// Every field below `prefix` that has a place in the train and no deeper key, e.g. "valve." -> mass_g,
// head_...
template <class Owner>
void read_fields(ObjectReader& reader, const std::string& prefix, const std::vector<Field<Owner>>& fields,
                 Owner& to) {
    for (const Field<Owner>& field : fields) {
        if (!field.key.starts_with(prefix) || !field.at(to))
            continue;
        const std::string key(field.key.substr(prefix.size()));
        if (key.find('.') != std::string::npos)
            continue;
        if (field.otherwise && !reader.has(key)) {
            field.set_file_value(to, *field.otherwise);
            continue;
        }
        const double value = reader.number(key);
        if (const std::string complaint = field.complaint(value); !complaint.empty())
            reader.refuse(key, fmt::format("is {:g}", value), complaint);
        field.set_file_value(to, value);
    }
}

std::vector<double> scaled(std::vector<double> values, double factor) {
    for (double& value : values)
        value *= factor;
    return values;
}

template <class Enum>
Enum choice(ObjectReader& reader, const std::string& key,
            const std::vector<std::pair<std::string_view, Enum>>& choices) {
    const std::string text = reader.text(key);
    std::string all;
    for (const auto& [name, value] : choices) {
        if (name == text)
            return value;
        all += (all.empty() ? "" : ", ") + std::string(name);
    }
    reader.refuse(key, fmt::format("is \"{}\"", text), "must be one of: " + all);
}

const std::vector<std::pair<std::string_view, Layout>> kLayouts = {{"pushrod", Layout::Pushrod},
                                                                   {"rocker", Layout::Rocker},
                                                                   {"finger", Layout::Finger},
                                                                   {"bucket", Layout::Bucket}};
const std::vector<std::pair<std::string_view, FollowerKind>> kFollowers = {{"roller", FollowerKind::Roller},
                                                                           {"flat", FollowerKind::Flat}};
const std::vector<std::pair<std::string_view, AngleUnit>> kAngleUnits = {
    {"cam_deg", AngleUnit::CamDegree}, {"crank_deg", AngleUnit::CrankDegree}};
const std::vector<std::pair<std::string_view, LiftUnit>> kLiftUnits = {{"mm", LiftUnit::Millimetre},
                                                                       {"in", LiftUnit::Inch}};

const std::vector<std::pair<std::string_view, BaseStep>> kBaseSteps = {
    {"as_gauged", BaseStep::AsGauged}, {"zeroed", BaseStep::Zeroed}, {"runout_off", BaseStep::RunoutOff}};
const std::vector<std::pair<std::string_view, SmoothingRule>> kSmoothingRules = {
    {"local", SmoothingRule::Local}, {"even", SmoothingRule::Even}};

template <class Enum>
std::string_view name_of(const std::vector<std::pair<std::string_view, Enum>>& choices, Enum value) {
    for (const auto& [name, candidate] : choices)
        if (candidate == value)
            return name;
    return "";
}

// What was chosen on top of a table's readings; all optional.
void read_table_steps(ObjectReader& t, LobeTable& readings) {
    if (t.has("base"))
        readings.base = choice(t, "base", kBaseSteps);
    if (t.has("left_out"))
        for (const double place : t.numbers("left_out")) {
            if (!(place >= 0 && place < static_cast<double>(readings.angle.size()) &&
                  place == std::floor(place)))
                t.refuse("left_out", fmt::format("holds {:g}", place),
                         "give places in the table, from 0 up, each below the number of readings");
            readings.left_out.push_back(static_cast<std::size_t>(place));
        }
    if (!t.has("smoothing"))
        return;
    ObjectReader s = t.object("smoothing");
    readings.smoothing.rule = choice(s, "rule", kSmoothingRules);
    readings.smoothing.strength = s.number("strength");
    if (!(readings.smoothing.strength >= kLeastStrength && readings.smoothing.strength <= kMostStrength))
        s.refuse(
            "strength", fmt::format("is {:g}", readings.smoothing.strength),
            fmt::format("give {:g} to {:g}; 1 is what the readings ask for", kLeastStrength, kMostStrength));
    readings.smoothing.reason = s.text("reason");
    s.finish();
}

void read_lobe(ObjectReader reader, Train& train) {
    Lobe& lobe = train.lobe;
    lobe.name = reader.text("name");
    const bool table = reader.has("table"), analytic = reader.has("analytic");
    if (table == analytic)
        reader.refuse("table", table ? "stands beside an analytic lobe" : "and analytic are both missing",
                      "give exactly one of table and analytic");
    lobe.shape = table ? decltype(lobe.shape)(LobeTable{}) : decltype(lobe.shape)(AnalyticLobe{});
    ObjectReader follower = reader.object("follower");
    lobe.follower = choice(follower, "kind", kFollowers);
    read_fields(follower, "lobe.follower.", train_fields(), train);
    follower.finish();
    read_fields(reader, "lobe.", train_fields(), train);
    if (table) {
        ObjectReader t = reader.object("table");
        auto& readings = std::get<LobeTable>(lobe.shape);
        readings.angle_unit = choice(t, "angle_unit", kAngleUnits);
        readings.lift_unit = choice(t, "lift_unit", kLiftUnits);
        readings.angle = t.numbers("angle");
        readings.lift = t.numbers("lift");
        if (t.has("noise_um"))
            readings.noise_m = 0;
        read_fields(t, "lobe.table.", train_fields(), train);
        read_table_steps(t, readings);
        t.finish();
    } else {
        ObjectReader a = reader.object("analytic");
        const std::vector<double> exponents = a.numbers("exponents");
        if (exponents.size() != 4)
            a.refuse("exponents", fmt::format("holds {} numbers", exponents.size()),
                     "give four, such as 6, 10, 14, 18");
        std::copy(exponents.begin(), exponents.end(), std::get<AnalyticLobe>(lobe.shape).exponents.begin());
        read_fields(a, "lobe.analytic.", train_fields(), train);
        a.finish();
    }
    reader.finish();
}

void read_lifter(ObjectReader reader, Train& train) {
    train.lifter = Lifter{};
    const bool hydraulic = reader.has("hydraulic");
    if (hydraulic)
        train.lifter->hydraulic = HydraulicFollower{};
    read_fields(reader, "lifter.", train_fields(), train);
    if (train.layout == Layout::Finger &&
        reader.has("mass_g")) // an adjuster does not move as a whole; kept as given
        train.lifter->mass_kg = reader.number("mass_g") * 1e-3;
    if (hydraulic) {
        ObjectReader oil = reader.object("hydraulic");
        if (!oil.has("preload_mm")) { // by default half the travel
            train.lifter->hydraulic->preload_m = 0.5e-3 * oil.number("travel_mm");
            for (const TrainField& field : train_fields())
                if (field.key.starts_with("lifter.hydraulic.") && !field.key.ends_with("preload_mm"))
                    field.set_file_value(train, oil.number(std::string(field.key.substr(17))));
        } else {
            read_fields(oil, "lifter.hydraulic.", train_fields(), train);
        }
        oil.finish();
    }
    reader.finish();
}

void read_pushrod(ObjectReader rod, Train& train) {
    train.pushrod = Pushrod{};
    if (rod.has("stiffness_N_per_mm"))
        train.pushrod->stiffness_N_per_m = 0;
    read_fields(rod, "pushrod.", train_fields(), train);
    rod.finish();
}

void read_rocker(ObjectReader reader, Train& train) {
    train.rocker = Rocker{};
    const bool ratio = reader.has("ratio"), table = reader.has("ratio_table"),
               geometry = reader.has("geometry");
    if (ratio + table + geometry != 1)
        reader.refuse("ratio",
                      ratio + table + geometry == 0 ? "and ratio_table are both missing"
                                                    : "stands beside another way to say it",
                      "give exactly one of ratio, ratio_table and geometry");
    if (geometry) {
        train.rocker->ratio = RockerGeometry{};
        ObjectReader g = reader.object("geometry");
        read_fields(g, "rocker.geometry.", train_fields(), train);
        g.finish();
    }
    if (table) {
        ObjectReader t = reader.object("ratio_table");
        train.rocker->ratio =
            RatioTable{scaled(t.numbers("input_mm"), 1e-3), scaled(t.numbers("output_mm"), 1e-3)};
        t.finish();
    }
    read_fields(reader, "rocker.", train_fields(), train);
    reader.finish();
}

Spring read_spring(ObjectReader reader) {
    Spring spring;
    spring.name = reader.text("name");
    if (reader.has("load_table")) {
        ObjectReader t = reader.object("load_table");
        LoadTable loads;
        loads.height_m = scaled(t.numbers("height_mm"), 1e-3);
        loads.load_N = t.numbers("load_N");
        t.finish();
        spring.kind = std::move(loads);
    } else {
        CoilGeometry coil;
        if (reader.required("mean_diameter_mm").is_array())
            coil.mean_diameter_m = scaled(reader.numbers("mean_diameter_mm"), 1e-3);
        else
            coil.mean_diameter_m = {reader.number("mean_diameter_mm") * 1e-3};
        if (reader.has("pitch_mm"))
            coil.pitch_m = scaled(reader.numbers("pitch_mm"), 1e-3);
        if (reader.has("wire_height_mm"))
            coil.wire_height_m = 0;
        if (reader.has("pitch_scatter"))
            coil.pitch_scatter = 0;
        spring.kind = std::move(coil);
    }
    read_fields(reader, "", spring_fields(), spring);
    reader.finish();
    return spring;
}

void read_springs(ObjectReader& reader, Train& train) {
    const Json& list = reader.required("springs");
    if (!list.is_array() || list.empty())
        reader.refuse("springs", list.is_array() ? "the list is empty" : "is no list",
                      "give a list with at least one spring");
    for (std::size_t i = 0; i < list.size(); ++i)
        train.springs.push_back(read_spring(ObjectReader(list[i], fmt::format("springs[{}]", i))));
}

// Objects that hold nothing but numbers of the field table.
void read_part(ObjectReader& reader, const std::string& key, Train& train) {
    ObjectReader part = reader.object(key);
    read_fields(part, key + ".", train_fields(), train);
    part.finish();
}

void read_contacts(ObjectReader& reader, Train& train) {
    const Json empty = Json::object();
    const bool given = reader.has("contacts");
    ObjectReader contacts = given ? reader.object("contacts") : ObjectReader(empty, "contacts");
    for (const char* name : {"cam", "tip", "seat"}) {
        ObjectReader one =
            contacts.has(name) ? contacts.object(name) : ObjectReader(empty, contacts.path_of(name));
        read_fields(one, fmt::format("contacts.{}.", name), train_fields(), train);
        one.finish();
    }
    contacts.finish();
}

const std::vector<std::pair<std::string_view, LashAt>> kLashAt = {{"first_touch", LashAt::FirstTouch},
                                                                  {"loaded", LashAt::LoadedRest}};

// What the model counts beyond the usual; each is off where the file does not name it.
void read_model_options(ObjectReader& reader, Train& train) {
    if (reader.has("lash_at"))
        train.lash_at = choice(reader, "lash_at", kLashAt);
    if (reader.has("camshaft")) {
        train.camshaft.emplace();
        read_part(reader, "camshaft", train);
    }
    if (reader.has("drive_ripple")) {
        train.drive_ripple.emplace();
        read_part(reader, "drive_ripple", train);
    }
}

void read_valve(ObjectReader valve, Train& train) {
    if (valve.has("stem_stiffness_N_per_mm"))
        train.valve.elastic.emplace();
    read_fields(valve, "valve.", train_fields(), train);
    valve.finish();
}

void read_optional_part(ObjectReader& reader, const std::string& key, Train& train) {
    const Json empty = Json::object();
    ObjectReader part = reader.has(key) ? reader.object(key) : ObjectReader(empty, key);
    read_fields(part, key + ".", train_fields(), train);
    part.finish();
}

void read_pressure(ObjectReader& reader, Train& train) {
    if (!reader.has("pressure_table"))
        return;
    if (reader.has("back_pressure_kPa"))
        reader.refuse("back_pressure_kPa", "stands beside a pressure_table", "give one of them");
    ObjectReader t = reader.object("pressure_table");
    train.pressure_table =
        PressureTable{scaled(t.numbers("crank_deg"), radians(1)), scaled(t.numbers("pressure_kPa"), 1e3)};
    t.finish();
}

const std::vector<std::pair<std::string_view, Source>> kSources = {
    {"scale", Source::Scale}, {"gauge", Source::Gauge},       {"tester", Source::Tester},
    {"sheet", Source::Sheet}, {"estimate", Source::Estimate}, {"fitted", Source::Fitted}};

void read_head(ObjectReader& reader, Train& train) {
    if (reader.text("format") != kFormat)
        reader.refuse("format", fmt::format("is \"{}\"", reader.text("format")),
                      fmt::format("a train file says \"{}\"", kFormat));
    const double version = reader.number("version");
    if (version != kVersion)
        reader.refuse("version", fmt::format("is {:g}", version),
                      version > kVersion ? "this program reads version 1: use a newer one" : "must be 1");
    train.name = reader.text("name");
    train.layout = choice(reader, "layout", kLayouts);
}

// ---- writing

double tidy(double value) {
    return std::stod(fmt::format("{:.12g}", value));
}

Json tidy_list(const std::vector<double>& values, double factor) {
    Json list = Json::array();
    for (double value : values)
        list.push_back(tidy(value / factor));
    return list;
}

template <class Owner>
void put_fields(const Owner& owner, const std::vector<Field<Owner>>& fields, Json& json) {
    for (const Field<Owner>& field : fields) {
        if (!field.at_const(owner) || field.key.find("exponents") != std::string_view::npos)
            continue;
        Json* place = &json;
        std::string_view rest = field.key;
        for (auto dot = rest.find('.'); dot != std::string_view::npos; dot = rest.find('.')) {
            place = &(*place)[std::string(rest.substr(0, dot))];
            rest.remove_prefix(dot + 1);
        }
        (*place)[std::string(rest)] = number_json(field.file_value(owner));
    }
}

Json lobe_json(const Lobe& lobe) {
    Json json;
    json["name"] = lobe.name;
    json["base_radius_mm"] = nullptr; // keeps the order of the format; the field table fills it in
    json["follower"]["kind"] = name_of(kFollowers, lobe.follower);
    if (const auto* analytic = std::get_if<AnalyticLobe>(&lobe.shape)) {
        json["analytic"]["exponents"] = Json(analytic->exponents);
    } else {
        const auto& table = std::get<LobeTable>(lobe.shape);
        json["table"] = {{"angle_unit", name_of(kAngleUnits, table.angle_unit)},
                         {"lift_unit", name_of(kLiftUnits, table.lift_unit)},
                         {"angle", table.angle},
                         {"lift", table.lift}};
        if (table.base != BaseStep::AsGauged)
            json["table"]["base"] = name_of(kBaseSteps, table.base);
        if (!table.left_out.empty())
            json["table"]["left_out"] = table.left_out;
        if (!(table.smoothing == LobeSmoothing{}))
            json["table"]["smoothing"] = {{"rule", name_of(kSmoothingRules, table.smoothing.rule)},
                                          {"strength", table.smoothing.strength},
                                          {"reason", table.smoothing.reason}};
    }
    return json;
}

Json spring_json(const Spring& spring) {
    Json json;
    json["name"] = spring.name;
    if (const auto* table = std::get_if<LoadTable>(&spring.kind))
        json["load_table"] = {{"height_mm", tidy_list(table->height_m, 1e-3)},
                              {"load_N", tidy_list(table->load_N, 1)}};
    put_fields(spring, spring_fields(), json);
    if (const auto* coil = std::get_if<CoilGeometry>(&spring.kind); coil && coil->mean_diameter_m.size() > 1)
        json["mean_diameter_mm"] = tidy_list(coil->mean_diameter_m, 1e-3);
    if (const auto* coil = std::get_if<CoilGeometry>(&spring.kind); coil && !coil->pitch_m.empty())
        json["pitch_mm"] = tidy_list(coil->pitch_m, 1e-3);
    return json;
}

} // namespace

Json number_json(double value) {
    const double t = tidy(value);
    if (t == std::floor(t) && std::abs(t) < 1e15)
        return static_cast<std::int64_t>(t);
    return t;
}

// Plus-minus values stand in the unit of the number that they belong to; a load table's is a share.
void read_tolerances(ObjectReader& reader, Train& train) {
    if (!reader.has("tolerances"))
        return;
    const Json& list = reader.required("tolerances");
    if (!list.is_object())
        reader.refuse("tolerances", "is no object", "give {\"valve.mass_g\": {\"plus_minus\": 0.5}}");
    for (const auto& [key, value] : list.items()) {
        const std::optional<double> unit = unit_of_value(train, key);
        if (!unit)
            reader.refuse("tolerances." + key, "is no number of this train",
                          "give a key as it stands in this file, such as valve.mass_g or springs[0].wire_mm");
        ObjectReader one(value, "tolerances." + key);
        Tolerance tolerance;
        tolerance.plus_minus = one.number("plus_minus") * *unit;
        if (tolerance.plus_minus < 0)
            one.refuse("plus_minus", "is below 0", "must be at least 0");
        if (one.has("source"))
            tolerance.source = choice(one, "source", kSources);
        one.finish();
        train.tolerances[key] = tolerance;
    }
}

void read_section(ObjectReader& owner, const std::string& section, Train& train) {
    if (section == "lobe")
        read_lobe(owner.object(section), train);
    else if (section == "lifter")
        read_lifter(owner.object(section), train);
    else if (section == "pushrod")
        read_pushrod(owner.object(section), train);
    else if (section == "rocker")
        read_rocker(owner.object(section), train);
    else if (section == "springs")
        read_springs(owner, train);
    else if (section == "valve")
        read_valve(owner.object(section), train);
    else
        read_part(owner, section, train);
}

Train train_from_json(const Json& json) {
    ObjectReader reader(json, "");
    Train train;
    read_head(reader, train);
    read_lobe(reader.object("lobe"), train);
    const bool pushrod = train.layout == Layout::Pushrod, bucket = train.layout == Layout::Bucket;
    if (train.layout != Layout::Rocker && (pushrod || bucket || reader.has("lifter")))
        read_lifter(reader.object("lifter"), train);
    if (pushrod)
        read_pushrod(reader.object("pushrod"), train);
    if (!bucket)
        read_rocker(reader.object("rocker"), train);
    read_valve(reader.object("valve"), train);
    for (const char* part : {"retainer", "locks"})
        read_part(reader, part, train);
    read_model_options(reader, train);
    read_optional_part(reader, "cap", train);
    read_springs(reader, train);
    read_contacts(reader, train);
    read_optional_part(reader, "friction", train);
    read_pressure(reader, train);
    read_fields(reader, "", train_fields(), train);
    read_tolerances(reader, train);
    reader.finish();
    return train;
}

Json train_json(const Train& train) {
    Json json;
    json["format"] = kFormat;
    json["version"] = kVersion;
    json["name"] = train.name;
    json["layout"] = layout_name(train.layout);
    json["lobe"] = lobe_json(train.lobe);
    json["lash_mm"] = nullptr;
    if (train.lash_at != LashAt::FirstTouch)
        json["lash_at"] = name_of(kLashAt, train.lash_at);
    if (train.lifter) {
        if (train.layout != Layout::Finger || train.lifter->mass_kg != 0)
            json["lifter"]["mass_g"] = number_json(train.lifter->mass_kg * 1e3);
        if (!train.lifter->hydraulic)
            json["lifter"]["hydraulic"] = nullptr;
    }
    if (train.rocker)
        if (const auto* table = std::get_if<RatioTable>(&train.rocker->ratio))
            json["rocker"]["ratio_table"] = {{"input_mm", tidy_list(table->input_m, 1e-3)},
                                             {"output_mm", tidy_list(table->output_m, 1e-3)}};
    put_fields(train, train_fields(), json);
    if (train.pressure_table)
        json["pressure_table"] = {{"crank_deg", tidy_list(train.pressure_table->crank_rad, radians(1))},
                                  {"pressure_kPa", tidy_list(train.pressure_table->pressure_Pa, 1e3)}};
    if (const auto* analytic = std::get_if<AnalyticLobe>(&train.lobe.shape))
        json["lobe"]["analytic"]["exponents"] = Json(analytic->exponents);
    json["springs"] = Json::array();
    for (const Spring& spring : train.springs)
        json["springs"].push_back(spring_json(spring));
    for (const auto& [key, tolerance] : train.tolerances)
        if (const std::optional<double> unit =
                unit_of_value(train, key)) // parts taken out leave theirs behind
            json["tolerances"][key] = {{"plus_minus", number_json(tolerance.plus_minus / *unit)},
                                       {"source", source_name(tolerance.source)}};
    return json;
}

} // namespace bathmos::io
