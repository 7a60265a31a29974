#include "io/train/known_json.h"

#include "core/train/train_fields.h"
#include "io/file/safe_file.h"
#include "io/train/object_reader.h"
#include "io/train/train_json.h"

#include <algorithm>
#include <array>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

constexpr const char* kKnownFormat = "bathmos-known";
constexpr std::array kKnownLayouts = {Layout::Pushrod, Layout::Rocker, Layout::Finger, Layout::Bucket};
constexpr std::size_t kMostDurations = 20, kMostReadings = 100000;

bool yes_or_no(ObjectReader& reader, const std::string& key) {
    if (!reader.has(key))
        return false;
    const Json& value = reader.required(key);
    if (!value.is_boolean())
        reader.refuse(key, "is no yes or no", "give true or false");
    return value.get<bool>();
}

template <std::size_t N>
std::size_t one_of(ObjectReader& reader, const std::string& key, const std::array<const char*, N>& names) {
    const std::string given = reader.text(key);
    const auto at = std::find(names.begin(), names.end(), given);
    if (at == names.end())
        reader.refuse(key, "is \"" + given + "\"", fmt::format("give one of {}", fmt::join(names, ", ")));
    return static_cast<std::size_t>(at - names.begin());
}

constexpr std::array<const char*, 2> kMetals = {"steel", "titanium"}, kKnownFollowers = {"roller", "flat"},
                                     kSides = {"lobe", "valve"};

LobeCard card_from(ObjectReader reader) {
    LobeCard out;
    if (reader.has("lift_mm"))
        out.lift_m = reader.number("lift_mm") * 1e-3;
    if (reader.has("lift_at"))
        out.lift_at_valve = one_of(reader, "lift_at", kSides) == 1;
    if (reader.has("durations")) {
        const Json& list = reader.required("durations");
        if (!list.is_array() || list.size() > kMostDurations)
            reader.refuse("durations", "is no list of a few durations",
                          "give [{\"at_mm\": 1.27, \"crank_deg\": 248}]");
        for (std::size_t i = 0; i < list.size(); ++i) {
            ObjectReader one(list[i], fmt::format("card.durations[{}]", i));
            CardDuration claim{one.number("at_mm") * 1e-3, radians(one.number("crank_deg")), false};
            if (one.has("of"))
                claim.at_valve = one_of(one, "of", kSides) == 1;
            one.finish();
            out.durations.push_back(claim);
        }
    }
    reader.finish();
    return out;
}

LobeTable readings_from(ObjectReader reader) {
    LobeTable out;
    if (reader.has("angles"))
        out.angle_unit = one_of(reader, "angles", std::array<const char*, 2>{"cam_deg", "crank_deg"}) == 0
                             ? AngleUnit::CamDegree
                             : AngleUnit::CrankDegree;
    if (reader.has("lifts"))
        out.lift_unit = one_of(reader, "lifts", std::array<const char*, 2>{"mm", "in"}) == 0
                            ? LiftUnit::Millimetre
                            : LiftUnit::Inch;
    out.angle = reader.numbers("angle");
    out.lift = reader.numbers("lift");
    if (out.angle.size() != out.lift.size() || out.angle.size() > kMostReadings)
        reader.refuse("lift",
                      fmt::format("has {} values beside {} angles", out.lift.size(), out.angle.size()),
                      fmt::format("give as many of each, {} at most", kMostReadings));
    reader.finish();
    return out;
}

const StartField* find_asked(const std::vector<StartField>& fields, std::string_view key) {
    const auto at =
        std::find_if(fields.begin(), fields.end(), [&](const StartField& f) { return f.key == key; });
    return at == fields.end() ? nullptr : &*at;
}

} // namespace

KnownTrain known_from_json(const Json& json) {
    ObjectReader reader(json, "");
    if (reader.text("format") != kKnownFormat || reader.number("version") != 1)
        reader.refuse("format", "is none of what is known of a train",
                      fmt::format("give \"format\": \"{}\", \"version\": 1", kKnownFormat));
    KnownTrain out;
    if (reader.has("name"))
        out.name = reader.text("name");
    const std::string layout = reader.text("layout");
    const auto at = std::find_if(kKnownLayouts.begin(), kKnownLayouts.end(),
                                 [&](Layout one) { return layout_name(one) == layout; });
    if (at == kKnownLayouts.end())
        reader.refuse("layout", "is \"" + layout + "\"", "give pushrod, rocker, finger or bucket");
    out.layout = *at;
    if (reader.has("valve_of"))
        out.metal = static_cast<ValveMetal>(one_of(reader, "valve_of", kMetals));
    out.exhaust = yes_or_no(reader, "exhaust");
    out.hydraulic = yes_or_no(reader, "hydraulic");
    if (reader.has("follower"))
        out.follower = static_cast<FollowerKind>(one_of(reader, "follower", kKnownFollowers));
    if (reader.has("springs_nested")) {
        const double count = reader.number("springs_nested");
        if (count != 1 && count != 2 && count != 3)
            reader.refuse("springs_nested", fmt::format("is {:g}", count), "give 1, 2 or 3");
        out.nested = static_cast<int>(count);
    }
    const std::vector<StartField> fields = start_fields(out.layout, out.hydraulic);
    ObjectReader numbers = reader.object("known");
    for (const auto& [key, value] : json.at("known").items()) {
        const StartField* field = find_asked(fields, key);
        if (!field)
            numbers.refuse(key, "is no number that is asked of this layout",
                           "docs/start.md has the numbers of each layout");
        const double number = numbers.number(key);
        if (const std::string complaint = start_complaint(key, number); !complaint.empty())
            numbers.refuse(key, fmt::format("is {:g}", number), complaint);
        out.numbers[key] = number * unit_of(field->quantity).to_si;
    }
    if (reader.has("readings"))
        out.lobe = readings_from(reader.object("readings"));
    else if (reader.has("card"))
        out.lobe = card_from(reader.object("card"));
    reader.finish();
    return out;
}

Json known_json(const KnownTrain& known) {
    Json json;
    json["format"] = kKnownFormat;
    json["version"] = 1;
    json["name"] = known.name;
    json["layout"] = layout_name(known.layout);
    json["valve_of"] = kMetals[static_cast<std::size_t>(known.metal)];
    json["exhaust"] = known.exhaust;
    json["hydraulic"] = known.hydraulic;
    if (known.follower)
        json["follower"] = kKnownFollowers[static_cast<std::size_t>(*known.follower)];
    json["springs_nested"] = known.nested;
    json["known"] = Json::object();
    const std::vector<StartField> fields = start_fields(known.layout, known.hydraulic);
    for (const auto& [key, si] : known.numbers)
        if (const StartField* field = find_asked(fields, key))
            json["known"][key] = number_json(si / unit_of(field->quantity).to_si);
    if (const auto* table = std::get_if<LobeTable>(&known.lobe)) {
        json["readings"] = {{"angles", table->angle_unit == AngleUnit::CamDegree ? "cam_deg" : "crank_deg"},
                            {"lifts", table->lift_unit == LiftUnit::Millimetre ? "mm" : "in"},
                            {"angle", table->angle},
                            {"lift", table->lift}};
        return json;
    }
    const auto& card = std::get<LobeCard>(known.lobe);
    json["card"]["lift_at"] = kSides[card.lift_at_valve ? 1 : 0];
    if (card.lift_m)
        json["card"]["lift_mm"] = number_json(*card.lift_m * 1e3);
    json["card"]["durations"] = Json::array();
    for (const CardDuration& claim : card.durations)
        json["card"]["durations"].push_back({{"at_mm", number_json(claim.height_m * 1e3)},
                                             {"crank_deg", number_json(degrees(claim.duration_crank_rad))},
                                             {"of", kSides[claim.at_valve ? 1 : 0]}});
    return json;
}

KnownTrain read_known(const std::filesystem::path& path) {
    try {
        return known_from_json(parse_json(read_file(path, kMostTrainBytes)));
    } catch (const InputError& error) {
        throw error.in(path.string());
    }
}

} // namespace bathmos::io
