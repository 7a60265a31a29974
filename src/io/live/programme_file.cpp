#include "io/live/programme_file.h"

#include "core/problem/input_error.h"
#include "io/file/safe_file.h"
#include "io/text/encoding.h"
#include "io/train/object_reader.h"
#include "io/train/train_json.h"

#include <algorithm>
#include <array>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

constexpr std::size_t kMostProgrammeBytes = 1u << 20;
constexpr std::array kLegKinds = {std::pair{live::LegKind::Step, "step"},
                                  std::pair{live::LegKind::Ramp, "ramp"},
                                  std::pair{live::LegKind::Hold, "hold"}};

live::Leg leg_of(const Json& json, std::size_t i) {
    ObjectReader reader(json, fmt::format("legs[{}]", i));
    live::Leg out;
    const std::string kind = reader.text("kind");
    const auto at = std::ranges::find_if(kLegKinds, [&](const auto& one) { return kind == one.second; });
    if (at == kLegKinds.end())
        reader.refuse("kind", fmt::format("is \"{}\"", kind), "must be step, ramp or hold");
    out.kind = at->first;
    out.rpm = reader.number("rpm");
    out.rpm_per_s = reader.has("rpm_per_s") ? reader.number("rpm_per_s") : 0;
    out.seconds = reader.has("seconds") ? reader.number("seconds") : 0;
    const double cycles = reader.has("cycles") ? reader.number("cycles") : 0;
    if (!(cycles >= 0 && cycles <= 1e6))
        reader.refuse("cycles", fmt::format("is {:g}", cycles), "must be a number of cycles");
    out.cycles = static_cast<std::size_t>(cycles);
    reader.finish();
    return out;
}

live::Programme programme_in(const Json& json) {
    ObjectReader reader(json, "");
    if (reader.text("format") != "bathmos-programme")
        reader.refuse("format", "is not \"bathmos-programme\"", "open a programme (*.programme.json)");
    if (reader.number("version") != 1)
        reader.refuse("version", "is not 1", "open it with a newer Bathmos");
    live::Programme out;
    out.name = reader.has("name") ? reader.text("name") : "programme";
    const Json& legs = reader.required("legs");
    if (!legs.is_array())
        reader.refuse("legs", "is no list", "must be a list of {..}");
    for (std::size_t i = 0; i < legs.size(); ++i)
        out.legs.push_back(leg_of(legs[i], i));
    const double times = reader.has("times") ? reader.number("times") : 1;
    if (!(times >= 1 && times <= 1e6))
        reader.refuse("times", fmt::format("is {:g}", times), "must be 1 or more");
    out.times = static_cast<std::size_t>(times);
    reader.finish();
    live::check_programme(out, 0);
    return out;
}

} // namespace

live::Programme parse_programme(std::string_view text, const std::string& source) {
    try {
        return programme_in(parse_json(text));
    } catch (const InputError& error) {
        throw error.in(source);
    }
}

live::Programme read_programme(const std::filesystem::path& path) {
    return parse_programme(read_file(path, kMostProgrammeBytes), shown_path(path));
}

std::string programme_text(const live::Programme& programme) {
    Json out = {{"format", "bathmos-programme"}, {"version", 1}, {"name", programme.name}};
    for (const live::Leg& leg : programme.legs) {
        Json one = {{"kind", kLegKinds[static_cast<std::size_t>(leg.kind)].second},
                    {"rpm", number_json(leg.rpm)}};
        for (const auto& [key, value] : {std::pair{"rpm_per_s", leg.rpm_per_s}, {"seconds", leg.seconds}})
            if (value > 0)
                one[key] = number_json(value);
        if (leg.cycles > 0)
            one["cycles"] = leg.cycles;
        out["legs"].push_back(std::move(one));
    }
    if (programme.times > 1)
        out["times"] = programme.times;
    return json_text(out, 1) + "\n";
}

} // namespace bathmos::io
