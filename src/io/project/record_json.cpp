#include "io/project/record_json.h"

#include "core/train/train_fields.h"
#include "io/train/train_json.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

// ---- pieces

std::string word_or(ObjectReader& reader, const std::string& key) {
    return reader.has(key) ? reader.text(key) : std::string();
}
double number_or(ObjectReader& reader, const std::string& key, double otherwise) {
    return reader.has(key) ? reader.number(key) : otherwise;
}
Id id_or(ObjectReader& reader, const std::string& key) {
    const double value = number_or(reader, key, 0);
    if (value < 0 || value != std::floor(value) || value > 1e15)
        reader.refuse(key, fmt::format("is {:g}", value), "must be the number of a record");
    return static_cast<Id>(value);
}
void put_word(Json& json, const char* key, const std::string& word) {
    if (!word.empty())
        json[key] = word;
}
void put_number(Json& json, const char* key, double value) {
    if (value != 0)
        json[key] = number_json(value);
}
std::vector<std::string> words(ObjectReader& reader, const std::string& key) {
    std::vector<std::string> out;
    if (!reader.has(key))
        return out;
    const Json& list = reader.required(key);
    for (const Json& item : list) {
        if (!list.is_array() || !item.is_string())
            reader.refuse(key, "is no list of words", "give [\"one\", \"two\"]");
        out.push_back(item.get<std::string>());
    }
    return out;
}
bool yes(ObjectReader& reader, const std::string& key, bool otherwise) {
    if (!reader.has(key))
        return otherwise;
    const Json& value = reader.required(key);
    if (!value.is_boolean())
        reader.refuse(key, "is neither true nor false", "give true or false");
    return value.get<bool>();
}

template <class T>
T one_of(ObjectReader& reader, const std::string& key, const std::string& word,
         const std::optional<T>& found) {
    if (!found)
        reader.refuse(key, fmt::format("is \"{}\"", word), "is not known here");
    return *found;
}

Json facts_json(PartKind kind, const Facts& facts) {
    Json json = Json::object();
    for (const PartFact& fact : part_facts()) {
        if (fact.kind != kind)
            continue;
        const std::string key(fact.key);
        if (const auto number = facts.number(key))
            json[key] = number_json(*number / unit_of(fact.quantity).to_si);
        else if (const std::string word = facts.word(key); !word.empty())
            json[key] = word;
    }
    return json;
}

Facts read_facts(ObjectReader& owner, PartKind kind) {
    Facts out;
    if (!owner.has("facts"))
        return out;
    ObjectReader reader = owner.object("facts");
    for (const PartFact& fact : part_facts()) {
        const std::string key(fact.key);
        if (fact.kind != kind || !reader.has(key))
            continue;
        if (fact.choices.empty())
            out.numbers[key] = reader.number(key) * unit_of(fact.quantity).to_si;
        else
            out.words[key] = reader.text(key);
    }
    reader.finish();
    return out;
}

PartKind read_kind(ObjectReader& reader, const std::string& key) {
    const std::string word = reader.text(key);
    return one_of(reader, key, word, find_part_kind(word));
}

std::optional<Layout> find_layout(const std::string& word) {
    for (const Layout layout : {Layout::Pushrod, Layout::Rocker, Layout::Finger, Layout::Bucket})
        if (layout_name(layout) == word)
            return layout;
    return std::nullopt;
}

// ---- engine

// Numbers of an engine with their keys; angles and lengths in the units of the keys.
struct EngineNumber {
    const char* key;
    double Engine::*at;
    double to_si;
};
const EngineNumber kEngineNumbers[] = {{"bore_mm", &Engine::bore_m, 1e-3},
                                       {"stroke_mm", &Engine::stroke_m, 1e-3},
                                       {"rod_mm", &Engine::rod_m, 1e-3},
                                       {"compression_ratio", &Engine::compression_ratio, 1},
                                       {"target_rpm", &Engine::target_rpm, 1},
                                       {"overspeed_rpm", &Engine::overspeed_rpm, 1},
                                       {"intake_angle_deg", &Engine::intake_angle_rad, radians(1)},
                                       {"exhaust_angle_deg", &Engine::exhaust_angle_rad, radians(1)},
                                       {"intake_drop_mm", &Engine::intake_drop_m, 1e-3},
                                       {"exhaust_drop_mm", &Engine::exhaust_drop_m, 1e-3},
                                       {"heads_apart_mm", &Engine::heads_apart_m, 1e-3}};

Json to_json(const Engine& engine) {
    Json json;
    json["name"] = engine.name;
    json["cylinders"] = engine.cylinders;
    json["intake_valves"] = engine.intake_valves;
    json["exhaust_valves"] = engine.exhaust_valves;
    for (const EngineNumber& number : kEngineNumbers)
        put_number(json, number.key, engine.*number.at / number.to_si);
    put_word(json, "head_material", engine.head_material);
    put_word(json, "valve_seat_material", engine.valve_seat_material);
    return json;
}

void read(ObjectReader& reader, Engine& engine) {
    engine.name = reader.text("name");
    engine.cylinders = static_cast<int>(id_or(reader, "cylinders"));
    engine.intake_valves = static_cast<int>(id_or(reader, "intake_valves"));
    engine.exhaust_valves = static_cast<int>(id_or(reader, "exhaust_valves"));
    for (const EngineNumber& number : kEngineNumbers)
        engine.*number.at = number_or(reader, number.key, 0) * number.to_si;
    engine.head_material = word_or(reader, "head_material");
    engine.valve_seat_material = word_or(reader, "valve_seat_material");
}

// ---- part

Json to_json(const Part& part) {
    Json json;
    json["kind"] = info(part.kind).key;
    json["name"] = part.name;
    put_word(json, "serial", part.serial);
    put_word(json, "note", part.note);
    if (part.cost)
        json["cost"] = number_json(*part.cost);
    if (!part.history_known)
        json["history_known"] = false;
    const std::string section(info(part.kind).section);
    if (!section.empty()) {
        const Json whole = train_json(part.piece);
        json["layout"] = layout_name(part.piece.layout);
        json[section] = whole.at(section);
        if (whole.contains("tolerances"))
            json["tolerances"] = whole.at("tolerances");
    }
    if (const Json facts = facts_json(part.kind, part.facts); !facts.empty())
        json["facts"] = facts;
    return json;
}

void read(ObjectReader& reader, Part& part) {
    part.kind = read_kind(reader, "kind");
    part.name = reader.text("name");
    part.serial = word_or(reader, "serial");
    part.note = word_or(reader, "note");
    if (reader.has("cost"))
        part.cost = reader.number("cost");
    part.history_known = yes(reader, "history_known", true);
    if (const std::string section(info(part.kind).section); !section.empty()) {
        const std::string layout = reader.text("layout");
        part.piece.layout = one_of(reader, "layout", layout, find_layout(layout));
        read_section(reader, section, part.piece);
        read_tolerances(reader, part.piece);
    }
    part.facts = read_facts(reader, part.kind);
}

// ---- build and revision

Json to_json(const Build& build) {
    Json json;
    json["name"] = build.name;
    json["engine"] = build.engine;
    json["side"] = build.side == ValveSide::Intake ? "intake" : "exhaust";
    put_number(json, "centreline_crank_deg", degrees(build.centreline_rad));
    json["head"] = build.head;
    put_word(json, "note", build.note);
    return json;
}

void read(ObjectReader& reader, Build& build) {
    build.name = reader.text("name");
    build.engine = id_or(reader, "engine");
    const std::string side = reader.text("side");
    build.side = one_of(reader, "side", side,
                        side == "intake"    ? std::optional(ValveSide::Intake)
                        : side == "exhaust" ? std::optional(ValveSide::Exhaust)
                                            : std::nullopt);
    build.centreline_rad = radians(number_or(reader, "centreline_crank_deg", 0));
    build.head = id_or(reader, "head");
    build.note = word_or(reader, "note");
}

Json to_json(const Revision& revision) {
    Json json;
    json["build"] = revision.build;
    if (revision.parent)
        json["parent"] = revision.parent;
    put_word(json, "name", revision.name);
    json["reason"] = revision.reason;
    json["when"] = revision.when;
    json["train"] = train_json(revision.assembly.train);
    json["parts"] = Json::object();
    for (const auto& [kind, fitted] : revision.assembly.parts) {
        Json one;
        one["part"] = fitted.part;
        one["name"] = fitted.name;
        put_word(one, "serial", fitted.serial);
        if (!fitted.history_known)
            one["history_known"] = false;
        if (const Json facts = facts_json(kind, fitted.facts); !facts.empty())
            one["facts"] = facts;
        json["parts"][std::string(info(kind).key)] = one;
    }
    return json;
}

void read(ObjectReader& reader, Revision& revision) {
    revision.build = id_or(reader, "build");
    revision.parent = id_or(reader, "parent");
    revision.name = word_or(reader, "name");
    revision.reason = reader.text("reason");
    revision.when = reader.text("when");
    revision.assembly.train = train_from_json(reader.required("train"));
    ObjectReader parts = reader.object("parts");
    for (const PartKindInfo& kind : part_kinds()) {
        const std::string key(kind.key);
        if (!parts.has(key))
            continue;
        ObjectReader one = parts.object(key);
        FittedPart fitted;
        fitted.part = id_or(one, "part");
        fitted.name = one.text("name");
        fitted.serial = word_or(one, "serial");
        fitted.history_known = yes(one, "history_known", true);
        fitted.facts = read_facts(one, kind.kind);
        one.finish();
        revision.assembly.parts[kind.kind] = std::move(fitted);
    }
    parts.finish();
}

// ---- prediction, limits, entries

struct PredictionNumber {
    const char* key;
    std::optional<double> Prediction::*at;
};
const PredictionNumber kPredictionNumbers[] = {{"contact_loss_rpm", &Prediction::contact_loss_rpm},
                                               {"limit_rpm", &Prediction::limit_rpm},
                                               {"edge_rpm", &Prediction::onset_rpm},
                                               {"p10_rpm", &Prediction::low_rpm},
                                               {"p50_rpm", &Prediction::middle_rpm},
                                               {"p90_rpm", &Prediction::high_rpm},
                                               {"separation_rpm", &Prediction::separation_rpm}};

Json to_json(const Prediction& prediction) {
    Json json;
    json["hash"] = prediction.hash;
    json["revision"] = prediction.revision;
    json["when"] = prediction.when;
    json["model"] = prediction.model;
    put_word(json, "limits", prediction.limits);
    put_word(json, "limit_metric", prediction.limit_metric);
    for (const PredictionNumber& number : kPredictionNumbers)
        if (prediction.*number.at)
            json[number.key] = number_json(*(prediction.*number.at));
    if (!prediction.stops.empty())
        json["stops"] = prediction.stops;
    return json;
}

void read(ObjectReader& reader, Prediction& prediction) {
    prediction.hash = reader.text("hash");
    prediction.revision = id_or(reader, "revision");
    prediction.when = reader.text("when");
    prediction.model = reader.text("model");
    prediction.limits = word_or(reader, "limits");
    prediction.limit_metric = word_or(reader, "limit_metric");
    for (const PredictionNumber& number : kPredictionNumbers)
        if (reader.has(number.key))
            prediction.*number.at = reader.number(number.key);
    prediction.stops = words(reader, "stops");
}

Json to_json(const LimitSet& set) {
    Json json;
    json["name"] = set.name;
    put_word(json, "reason", set.reason);
    put_word(json, "when", set.when);
    if (set.check_lift_m != kUsualCheckLift_m)
        json["check_lift_mm"] = number_json(set.check_lift_m * 1e3);
    json["limits"] = Json::array();
    for (const LimitRow& row : set.rows) {
        Json one = {{"metric", row.metric}, {"above", number_json(row.above)}};
        if (row.below)
            one["below"] = number_json(*row.below);
        json["limits"].push_back(one);
    }
    return json;
}

void read(ObjectReader& reader, LimitSet& set) {
    set.name = reader.text("name");
    set.reason = word_or(reader, "reason");
    set.when = word_or(reader, "when");
    set.check_lift_m = number_or(reader, "check_lift_mm", kUsualCheckLift_m * 1e3) * 1e-3;
    const Json& list = reader.required("limits");
    if (!list.is_array())
        reader.refuse("limits", "is no list", "give [{\"metric\": \"loft\", \"above\": 0.25}]");
    for (std::size_t i = 0; i < list.size(); ++i) {
        ObjectReader one(list[i], fmt::format("limits[{}]", i));
        LimitRow row{one.text("metric"), one.number("above"), {}};
        if (one.has("below"))
            row.below = one.number("below");
        one.finish();
        set.rows.push_back(std::move(row));
    }
}

Json to_json(const Entry& entry) {
    Json json;
    json["name"] = entry.name;
    if (entry.revision)
        json["revision"] = entry.revision;
    json["when"] = entry.when;
    put_word(json, "who", entry.who);
    put_word(json, "text", entry.text);
    for (const auto& [key, value] : entry.numbers)
        json["numbers"][key] = number_json(value);
    for (const auto& [key, value] : entry.words)
        json["words"][key] = value;
    if (!entry.closes.empty())
        json["closes"] = entry.closes;
    if (!entry.traces.empty())
        json["traces"] = entry.traces;
    return json;
}

void read(ObjectReader& reader, Entry& entry) {
    entry.name = reader.text("name");
    entry.revision = id_or(reader, "revision");
    entry.when = reader.text("when");
    entry.who = word_or(reader, "who");
    entry.text = word_or(reader, "text");
    if (reader.has("numbers")) {
        const Json& numbers = reader.required("numbers");
        if (!numbers.is_object())
            reader.refuse("numbers", "is no object", "give {\"height_mm\": 46.1}");
        for (const auto& [key, value] : numbers.items()) {
            if (!value.is_number())
                reader.refuse("numbers", fmt::format("\"{}\" is no number", key), "give a number");
            entry.numbers[key] = value.get<double>();
        }
    }
    if (reader.has("words")) {
        const Json& list = reader.required("words");
        if (!list.is_object())
            reader.refuse("words", "is no object", "give {\"fuel\": \"98\"}");
        for (const auto& [key, value] : list.items()) {
            if (!value.is_string())
                reader.refuse("words", fmt::format("\"{}\" is no text", key), "give text");
            entry.words[key] = value.get<std::string>();
        }
    }
    entry.closes = words(reader, "closes");
    if (reader.has("traces"))
        for (const double id : reader.numbers("traces"))
            entry.traces.push_back(static_cast<Id>(id));
}

// The map of a kind of record, handed to `use`.
template <class P, class Use>
auto with_records(P& project, RecordKind kind, Use use) {
    switch (kind) {
    case RecordKind::Engine:
        return use(project.engines);
    case RecordKind::Part:
        return use(project.parts);
    case RecordKind::Build:
        return use(project.builds);
    case RecordKind::Revision:
        return use(project.revisions);
    case RecordKind::Prediction:
        return use(project.predictions);
    case RecordKind::LimitSet:
        return use(project.limits);
    case RecordKind::Sheet:
        return use(project.of(EntryKind::Sheet));
    case RecordKind::Lobe:
        return use(project.of(EntryKind::Lobe));
    case RecordKind::RigRun:
        return use(project.of(EntryKind::RigRun));
    case RecordKind::DynoPull:
        return use(project.of(EntryKind::DynoPull));
    case RecordKind::Plan:
        return use(project.of(EntryKind::Plan));
    case RecordKind::Verdict:
        return use(project.of(EntryKind::Verdict));
    case RecordKind::Log:
        return use(project.of(EntryKind::Log));
    case RecordKind::Waiver:
        return use(project.of(EntryKind::Waiver));
    case RecordKind::Calibration:
        break;
    }
    return use(project.of(EntryKind::Calibration));
}

} // namespace

std::optional<RecordKind> find_record_kind(std::string_view name) {
    for (std::size_t kind = 0; kind < kRecordKinds; ++kind)
        if (kRecordNames[kind] == name)
            return static_cast<RecordKind>(kind);
    return std::nullopt;
}

RecordKind record_kind(EntryKind kind) {
    constexpr RecordKind kinds[] = {RecordKind::Sheet,    RecordKind::Lobe,   RecordKind::RigRun,
                                    RecordKind::DynoPull, RecordKind::Plan,   RecordKind::Verdict,
                                    RecordKind::Log,      RecordKind::Waiver, RecordKind::Calibration};
    return kinds[static_cast<std::size_t>(kind)];
}

std::string record_text(const Project& project, RecordKind kind, Id id) {
    return with_records(project, kind, [&](const auto& map) {
        const auto at = map.find(id);
        return at == map.end() ? std::string() : json_text(to_json(at->second));
    });
}

void put_record(Project& project, RecordKind kind, Id id, std::string_view text) {
    const std::string place = fmt::format("{} {}", record_name(kind), id);
    try {
        const Json json = parse_own_json(text);
        with_records(project, kind, [&](auto& map) {
            ObjectReader reader(json, "");
            typename std::decay_t<decltype(map)>::mapped_type record;
            read(reader, record);
            reader.finish();
            map[id] = std::move(record);
        });
    } catch (const InputError& error) {
        InputProblem problem = error.problem();
        problem.location = place + (problem.location.empty() ? "" : ", " + problem.location);
        throw InputError(problem);
    } catch (const Json::exception&) {
        throw InputError({"", place, "is not readable as JSON", "restore it from a copy or an export"});
    }
}

void remove_record(Project& project, RecordKind kind, Id id) {
    with_records(project, kind, [&](auto& map) { map.erase(id); });
}

void move_record(Project& from, Project& to, RecordKind kind, Id id) {
    with_records(to, kind, [&](auto& target) {
        with_records(from, kind, [&](auto& source) {
            using Map = std::decay_t<decltype(target)>;
            if constexpr (std::is_same_v<Map, std::decay_t<decltype(source)>>) { // the same kind: always so
                target.erase(id);
                if (auto node = source.extract(id))
                    target.insert(std::move(node));
            }
        });
    });
}

Project records_of(const Project& project, const std::vector<std::pair<RecordKind, Id>>& records) {
    Project out;
    for (const auto& [kind, id] : records)
        with_records(project, kind, [&, id = id, kind = kind](const auto& source) {
            if (const auto at = source.find(id); at != source.end())
                with_records(out, kind, [&](auto& target) {
                    if constexpr (std::is_same_v<std::decay_t<decltype(target)>,
                                                 std::decay_t<decltype(source)>>)
                        target[id] = at->second;
                });
        });
    return out;
}

std::vector<Id> record_ids(const Project& project, RecordKind kind) {
    return with_records(project, kind, [](const auto& map) {
        std::vector<Id> out;
        for (const auto& entry : map)
            out.push_back(entry.first);
        return out;
    });
}

} // namespace bathmos::io
