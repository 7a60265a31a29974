#include "io/dyno/pull_file.h"

#include "core/problem/input_error.h"
#include "core/units/units.h"
#include "io/json/json.h"
#include "io/text/encoding.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>

namespace bathmos::io {

namespace {

using C = PullChannel;

constexpr std::size_t kMostPulls = 1000, kMostRows = 20'000'000; // a recording of a cell, many times over
constexpr double kPsi = 6894.757293168, kInHg = 3386.389, kAtmosphere = 101325;
constexpr PullUnit kSpeed[] = {{"rev/min", 1, 0}, {"1000 rev/min", 1000, 0}};
constexpr PullUnit kTorque[] = {{"N m", 1, 0}, {"lbf ft", 1.3558179483314, 0}, {"kgf m", 9.80665, 0}};
constexpr PullUnit kPower[] = {{"kW", 1e3, 0}, {"hp", 745.69987158227, 0}, {"PS", 735.49875, 0}, {"W", 1, 0}};
constexpr PullUnit kPressure[] = {{"kPa", 1e3, 0},
                                  {"psi", kPsi, 0},
                                  {"inHg", kInHg, 0},
                                  {"bar", 1e5, 0},
                                  {"mbar", 100, 0},
                                  {"kPa above ambient", 1e3, kAtmosphere},
                                  {"psi above ambient", kPsi, kAtmosphere},
                                  {"bar above ambient", 1e5, kAtmosphere}};
constexpr PullUnit kTemperature[] = {{"°C", 1, 273.15}, {"°F", 5.0 / 9, 273.15 - 32 * 5.0 / 9}, {"K", 1, 0}};
constexpr PullUnit kLambda[] = {{"lambda", 1, 0}, {"air/fuel, petrol", 1 / 14.7, 0}};
constexpr PullUnit kShare[] = {{"%", 0.01, 0}, {"of 1", 1, 0}};
constexpr PullUnit kAngle[] = {{"°", kPi / 180, 0}};
constexpr PullUnit kFlag[] = {{"0 or 1", 1, 0}};

// A name in small letters, its words apart: "Engine Speed [RPM]" -> " engine speed rpm ".
std::string words_of(const std::string& name) {
    std::string out = " ";
    for (unsigned char c : name) {
        const bool letter = std::isalnum(c) || c >= 0x80 || c == '%';
        if (letter)
            out += static_cast<char>(std::tolower(c));
        else if (out.back() != ' ')
            out += ' ';
    }
    return out + ' ';
}

bool says(const std::string& words, std::initializer_list<const char*> any) {
    return std::any_of(any.begin(), any.end(), [&](const char* word) {
        return words.find(fmt::format(" {}", word)) != std::string::npos;
    });
}
bool says_whole(const std::string& words, std::initializer_list<const char*> any) {
    return std::any_of(any.begin(), any.end(), [&](const char* word) {
        return words.find(fmt::format(" {} ", word)) != std::string::npos;
    });
}

bool says_uncorrected(const std::string& words) {
    for (const char* first : {" none ", " no ", " not ", " off ", " raw "})
        if (words.starts_with(first))
            return true;
    return says(words, {"uncorr", "not corr", "no corr"});
}

// The more telling names first: "blower rpm" is no crank speed.
std::optional<C> channel_in(const std::string& w) {
    if (says(w, {"blower", "compressor", "supercharger", "impeller"}) &&
        says(w, {"rpm", "speed", "rev", "1"}))
        return C::Blower;
    if (says(w, {"misfire"}))
        return C::Misfire;
    if (says(w, {"limiter", "cut"}))
        return C::Limiter;
    if (says(w, {"knock", "retard"}))
        return C::Knock;
    if (says(w, {"spark", "ignition", "advance", "timing"}))
        return C::Spark;
    if (says(w, {"throttle", "tps", "pedal"}))
        return C::Throttle;
    if (says(w, {"lambda", "afr", "mixture"}) || says(w, {"air fuel"}))
        return C::Lambda;
    if (says(w, {"fuel", "rail"}) && !says(w, {"flow", "temp"}))
        return C::FuelPressure;
    if (says(w, {"oil"}) && !says(w, {"temp", "oilt"}))
        return C::Oil;
    if (says(w, {"vapour", "vapor", "humid"}))
        return C::Vapour;
    if (says(w, {"baro", "ambient pressure", "atmos"}))
        return C::Barometer;
    if (says(w, {"map", "manifold", "boost", "plenum"}) && !says(w, {"temp"}))
        return C::Manifold;
    if (says(w, {"inlet", "intake", "filter", "airbox"}) &&
        says(w, {"press", "kpa", "psi", "inhg", "mbar", "depress"}))
        return C::Inlet;
    if ((says(w, {"air", "intake", "inlet"}) && says(w, {"temp", "c ", "f ", "k "})) ||
        says_whole(w, {"iat", "act"}))
        return C::Air;
    if (says(w, {"power", "hp ", "bhp", "kw "}))
        return C::Power;
    if (says(w, {"torque", "nm ", "lbft", "ft lb", "lb ft"}))
        return C::Torque;
    if (says(w, {"rpm", "rev", "speed", "n ", "1 min"}) && !says(w, {"wheel", "vehicle", "road"}))
        return C::Speed;
    return std::nullopt;
}

std::size_t unit_in(const std::string& w, C channel) {
    const auto units = pull_units(channel);
    const auto index = [&](std::string_view name) {
        for (std::size_t i = 0; i < units.size(); ++i)
            if (units[i].name == name)
                return i;
        return std::size_t{0};
    };
    switch (channel) {
    case C::Torque:
        return says(w, {"lb", "ft"}) ? index("lbf ft") : says(w, {"kg"}) ? index("kgf m") : 0;
    case C::Power:
        return says(w, {"hp", "bhp"})          ? index("hp")
               : says_whole(w, {"ps", "cv"})   ? index("PS")
               : says_whole(w, {"w", "watts"}) ? index("W")
                                               : 0;
    case C::Manifold:
    case C::Inlet:
    case C::FuelPressure:
    case C::Oil:
    case C::Barometer:
    case C::Vapour: {
        const bool above = channel == C::Manifold && says(w, {"boost", "gauge"});
        if (says(w, {"psi"}))
            return index(above ? "psi above ambient" : "psi");
        if (says(w, {"inhg", "in hg"}))
            return index("inHg");
        if (says(w, {"mbar", "hpa"}))
            return index("mbar");
        if (says_whole(w, {"bar"}))
            return index(above ? "bar above ambient" : "bar");
        return above ? index("kPa above ambient") : 0;
    }
    case C::Air:
        return says_whole(w, {"f", "degf", "°f"}) ? index("°F") : says_whole(w, {"k"}) ? index("K") : 0;
    case C::Lambda:
        return says(w, {"afr", "air fuel"}) ? 1 : 0;
    default:
        return 0;
    }
}

} // namespace

std::span<const PullUnit> pull_units(PullChannel channel) {
    switch (channel) {
    case C::Speed:
    case C::Blower:
        return kSpeed;
    case C::Torque:
        return kTorque;
    case C::Power:
        return kPower;
    case C::Manifold:
    case C::Inlet:
    case C::FuelPressure:
    case C::Oil:
    case C::Barometer:
    case C::Vapour:
        return kPressure;
    case C::Air:
        return kTemperature;
    case C::Lambda:
        return kLambda;
    case C::Throttle:
    case C::Misfire:
        return kShare;
    case C::Spark:
    case C::Knock:
        return kAngle;
    case C::Limiter:
    case C::Count:
        break;
    }
    return kFlag;
}

PullMapping guess_pull_mapping(const TableShape& shape) {
    PullMapping out;
    for (std::size_t i = 0; i < shape.columns.size(); ++i) {
        const std::string words = words_of(shape.columns[i]);
        if (says_whole(words, {"pull", "run", "sweep"}) && !out.number) {
            out.number = i;
            continue;
        }
        const auto exact = find_pull_channel(shape.columns[i]);
        const auto channel = exact ? exact : channel_in(words);
        if (!channel || out.column[static_cast<std::size_t>(*channel)])
            continue;
        out.column[static_cast<std::size_t>(*channel)] = i;
        out.unit[static_cast<std::size_t>(*channel)] = exact ? 0 : unit_in(words, *channel);
        if (says(words, {"corr", "std", "sae"}) && !says_uncorrected(words) &&
            (*channel == C::Power || *channel == C::Torque))
            out.corrected = true;
    }
    if (const auto said = shape.comment("correction"))
        out.corrected = !says_uncorrected(words_of(*said));
    return out;
}

std::vector<Pull> read_pulls(const std::filesystem::path& path, const TableShape& shape,
                             const PullMapping& mapping, const std::stop_token& stop) {
    std::vector<std::size_t> wanted;
    std::vector<std::size_t> channels;
    for (std::size_t c = 0; c < kPullChannels; ++c)
        if (mapping.column[c]) {
            wanted.push_back(*mapping.column[c]);
            channels.push_back(c);
        }
    if (mapping.number)
        wanted.push_back(*mapping.number);
    const auto has = [&](C c) { return mapping.column[static_cast<std::size_t>(c)].has_value(); };
    if (!has(C::Speed) || (!has(C::Torque) && !has(C::Power)))
        throw InputError({shown_path(path), "columns",
                          has(C::Speed) ? "there is neither torque nor power" : "there is no speed",
                          "choose the column of speed, and of torque or power"});
    for (std::size_t column : wanted)
        if (column >= shape.columns.size() || std::count(wanted.begin(), wanted.end(), column) > 1)
            throw InputError({shown_path(path), "columns", "one column stands for two things",
                              "choose another column for one of them"});
    std::map<double, Pull> by_number;
    std::size_t rows = 0;
    stream_columns(
        path, shape, wanted,
        [&](const std::vector<double>& v, std::size_t line) {
            if (mapping.number && std::isnan(v.back()))
                throw InputError({shown_path(path), fmt::format("line {}", line), "has no number of its pull",
                                  "fill it in, or leave the column of numbers out"});
            Pull& pull = by_number[mapping.number ? v.back() : 0];
            if (by_number.size() > kMostPulls || ++rows > kMostRows)
                throw InputError(
                    {shown_path(path), fmt::format("line {}", line),
                     fmt::format("is beyond {} pulls or {} million rows", kMostPulls, kMostRows / 1000000),
                     "is the column of numbers one? split the file"});
            for (std::size_t i = 0; i < channels.size(); ++i) {
                const PullUnit& unit = pull_units(static_cast<C>(channels[i]))[mapping.unit[channels[i]]];
                pull.columns[channels[i]].push_back(v[i] * unit.to_si + unit.zero_si);
            }
        },
        {}, stop);
    std::vector<Pull> out;
    for (auto& [number, pull] : by_number) {
        pull.name = shown_path(path.filename());
        if (mapping.number)
            pull.name += fmt::format(" {:g}", number);
        pull.corrected = mapping.corrected;
        try {
            complete(pull);
            for (Pull& piece : split_pulls(pull))
                out.push_back(std::move(piece));
        } catch (const InputError& error) {
            throw error.in(shown_path(path));
        }
    }
    if (out.empty())
        throw InputError(
            {shown_path(path), "readings", "no pull was found", "a pull rises over some hundred rev/min"});
    return out;
}

std::vector<Pull> read_pulls(const std::filesystem::path& path, const std::stop_token& stop) {
    const TableShape shape = sniff_table(path);
    return read_pulls(path, shape, guess_pull_mapping(shape), stop);
}

std::string pull_mapping_text(const PullMapping& m) {
    Json json = {{"corrected", m.corrected}};
    for (std::size_t c = 0; c < kPullChannels; ++c)
        if (m.column[c])
            json["columns"][std::string(info(static_cast<C>(c)).key)] = {*m.column[c], m.unit[c]};
    if (m.number)
        json["number"] = *m.number;
    return json_text(json);
}

std::optional<PullMapping> pull_mapping_of(std::string_view text) {
    try {
        const Json json = parse_own_json(text);
        PullMapping m;
        m.corrected = json.at("corrected");
        for (const auto& [key, value] : json.at("columns").items())
            if (const auto c = find_pull_channel(key)) {
                m.column[static_cast<std::size_t>(*c)] = value.at(0).get<std::size_t>();
                m.unit[static_cast<std::size_t>(*c)] =
                    std::min(value.at(1).get<std::size_t>(), pull_units(*c).size() - 1);
            }
        if (json.contains("number"))
            m.number = json.at("number").get<std::size_t>();
        return m;
    } catch (const Json::exception&) {
        return std::nullopt;
    }
}

std::string pull_csv(const Pull& pull) {
    std::string out = fmt::format("# format: bathmos-pull 1\n# correction: {}\n",
                                  pull.corrected ? "as recorded, corrected" : "none, as recorded");
    std::vector<std::size_t> there;
    for (std::size_t c = 0; c < kPullChannels; ++c)
        if (!pull.columns[c].empty())
            there.push_back(c);
    for (std::size_t i = 0; i < there.size(); ++i)
        out += fmt::format("{}{}", i ? "," : "", info(static_cast<C>(there[i])).column);
    out += '\n';
    for (std::size_t row = 0; row < pull.size(); ++row) {
        for (std::size_t i = 0; i < there.size(); ++i) {
            const PullChannelInfo& channel = info(static_cast<C>(there[i]));
            const double value = (pull.columns[there[i]][row] - channel.zero_si) / channel.to_si;
            out += i ? "," : "";
            if (std::isfinite(value))
                out += fmt::format("{:.{}f}", value, channel.decimals);
        }
        out += '\n';
    }
    return out;
}

Trace trace_of(const Pull& pull) {
    Trace out{pull.name, "pull", "", {}};
    for (std::size_t c = 0; c < kPullChannels; ++c) {
        if (pull.columns[c].empty())
            continue;
        const PullChannelInfo& channel = info(static_cast<C>(c));
        TraceColumn& column =
            out.columns.emplace_back(TraceColumn{std::string(channel.column), false, {}, {}});
        for (double value : pull.columns[c])
            column.numbers.push_back((value - channel.zero_si) / channel.to_si);
    }
    return out;
}

Pull pull_of(const Trace& trace, bool corrected) {
    Pull out;
    out.name = trace.name;
    out.corrected = corrected;
    for (const TraceColumn& column : trace.columns)
        if (const auto c = find_pull_channel(column.name))
            for (double value : column.numbers)
                out[*c].push_back(value * info(*c).to_si + info(*c).zero_si);
    complete(out);
    return out;
}

} // namespace bathmos::io
