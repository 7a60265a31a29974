#include "io/lobe/gauge_file.h"

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

constexpr std::size_t kMostLobes = 1000,
                      kMostGauged = 5'000'000; // a camshaft a thousandth of a degree apart

std::string lower(std::string text) {
    std::transform(text.begin(), text.end(), text.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return text;
}

bool has_word(const std::string& name, std::initializer_list<const char*> words) {
    return std::any_of(words.begin(), words.end(),
                       [&](const char* word) { return name.find(word) != std::string::npos; });
}

// A unit stands at the end of a name, after anything that is no letter: "rise_mm", "Lift (in)".
bool has_unit(std::string name, std::initializer_list<const char*> units) {
    while (!name.empty() && !std::isalpha(static_cast<unsigned char>(name.back())))
        name.pop_back();
    std::size_t letters = 0;
    while (letters < name.size() && std::isalpha(static_cast<unsigned char>(name[name.size() - 1 - letters])))
        ++letters;
    const std::string last = name.substr(name.size() - letters);
    return std::any_of(units.begin(), units.end(), [&](const char* unit) { return last == unit; });
}

std::optional<GaugeUnit> unit_in(const std::string& name) {
    if (has_unit(name, {"um", "micron", "microns"}))
        return GaugeUnit::Micron;
    if (has_unit(name, {"thou", "mil"}))
        return GaugeUnit::Thou;
    if (has_unit(name, {"in", "inch", "inches"}))
        return GaugeUnit::Inch;
    if (has_unit(name, {"mm"}))
        return GaugeUnit::Millimetre;
    return std::nullopt;
}

struct Extent {
    double low = 1e300, high = -1e300;
    void take(double value) {
        if (std::isfinite(value)) {
            low = std::min(low, value);
            high = std::max(high, value);
        }
    }
    double span() const { return high - low; }
};

GaugeUnit unit_by_size(double rise) {
    return rise > 1500 ? GaugeUnit::Micron
           : rise > 25 ? GaugeUnit::Thou
           : rise > 1  ? GaugeUnit::Millimetre
                       : GaugeUnit::Inch;
}

double into_table(GaugeUnit unit) {
    return unit == GaugeUnit::Thou || unit == GaugeUnit::Micron ? 1e-3 : 1.0;
}

} // namespace

LiftUnit lift_unit(GaugeUnit unit) {
    return unit == GaugeUnit::Inch || unit == GaugeUnit::Thou ? LiftUnit::Inch : LiftUnit::Millimetre;
}

GaugeMapping guess_mapping(const std::filesystem::path& path, const TableShape& shape,
                           const std::stop_token& stop) {
    GaugeMapping out;
    bool angle_named = false, unit_named = false, angle_unit_named = false;
    for (std::size_t i = 0; i < shape.columns.size(); ++i) {
        const std::string name = lower(shape.columns[i]);
        if (!angle_named && has_word(name, {"deg", "angle", "crank"})) {
            out.angle = i;
            angle_named = true;
            angle_unit_named = has_word(name, {"cam", "crank"});
            out.angle_unit = has_word(name, {"crank"}) ? AngleUnit::CrankDegree : AngleUnit::CamDegree;
        } else if (has_word(name, {"cylinder"}) || name == "lobe") {
            out.lobe = i;
        } else if (!has_word(name, {"note", "time", "index", "temp"})) {
            if (const auto unit = unit_in(name)) {
                out.unit = *unit;
                unit_named = true;
            }
            out.passes |= has_word(name, {"pass", "repeat"});
            out.rises.push_back(i);
        }
    }
    if (!angle_named && !out.rises.empty()) {
        out.angle = out.rises.front();
        out.rises.erase(out.rises.begin());
    }
    if (out.rises.empty())
        out.rises = {out.angle == 0 ? std::size_t{1} : std::size_t{0}};
    if (unit_named && angle_unit_named)
        return out;
    Extent angle, rise;
    stream_columns(
        path, shape, {out.angle, out.rises.front()},
        [&](const std::vector<double>& v, std::size_t) {
            angle.take(v[0]);
            rise.take(v[1]);
        },
        {}, stop);
    if (!unit_named)
        out.unit = unit_by_size(rise.span());
    if (!angle_unit_named && angle.span() > 361 && angle.span() < 721)
        out.angle_unit = AngleUnit::CrankDegree;
    return out;
}

std::vector<GaugedLobe> read_gauge(const std::filesystem::path& path, const TableShape& shape,
                                   const GaugeMapping& mapping, const std::stop_token& stop) {
    std::vector<std::size_t> wanted = {mapping.angle};
    wanted.insert(wanted.end(), mapping.rises.begin(), mapping.rises.end());
    if (mapping.lobe)
        wanted.push_back(*mapping.lobe);
    for (std::size_t i = 0; i < wanted.size(); ++i)
        if (wanted[i] >= shape.columns.size() || std::count(wanted.begin(), wanted.end(), wanted[i]) > 1 ||
            mapping.rises.empty())
            throw InputError({shown_path(path), "columns", "angle and rise are not told apart",
                              "choose one column of angle and other columns of cam lift"});
    struct Columns {
        std::vector<double> angle;
        std::vector<std::vector<double>> rise;
    };
    std::map<double, Columns> by_lobe;
    std::size_t readings = 0;
    const double scale = into_table(mapping.unit);
    stream_columns(
        path, shape, wanted,
        [&](const std::vector<double>& v, std::size_t line) {
            if (mapping.lobe && std::isnan(v.back()))
                throw InputError({shown_path(path), fmt::format("line {}", line), "has no number of its lobe",
                                  "fill it in, or leave the column of numbers out"});
            Columns& c = by_lobe[mapping.lobe ? v.back() : 0];
            if (by_lobe.size() > kMostLobes || ++readings > kMostGauged)
                throw InputError({shown_path(path), fmt::format("line {}", line),
                                  fmt::format("is beyond {} lobes or {} million readings", kMostLobes,
                                              kMostGauged / 1000000),
                                  "is the column of lobes one? split the file"});
            c.rise.resize(mapping.rises.size());
            c.angle.push_back(v[0]);
            for (std::size_t i = 0; i < mapping.rises.size(); ++i)
                c.rise[i].push_back(v[1 + i] * scale);
        },
        {}, stop);
    std::vector<GaugedLobe> out;
    const std::string stem = shown_path(path.stem());
    for (const auto& [number, columns] : by_lobe)
        for (std::size_t i = 0; i < mapping.rises.size(); ++i) {
            std::vector<GaugePass> passes = split_passes(columns.angle, columns.rise[i], mapping.angle_unit);
            if (mapping.passes && i > 0) {
                auto& to = out.back().passes;
                to.insert(to.end(), passes.begin(), passes.end());
                continue;
            }
            std::string name = stem;
            if (mapping.lobe)
                name += fmt::format(" {:g}", number);
            if (mapping.rises.size() > 1 && !mapping.passes)
                name += fmt::format(" {}", shape.columns[mapping.rises[i]]);
            out.push_back({std::move(name), std::move(passes)});
        }
    return out;
}

std::string mapping_text(const GaugeMapping& m) {
    Json json = {{"angle", m.angle},
                 {"crank", m.angle_unit == AngleUnit::CrankDegree},
                 {"rises", m.rises},
                 {"passes", m.passes},
                 {"unit", static_cast<int>(m.unit)},
                 {"mirrored", m.mirrored}};
    if (m.lobe)
        json["lobe"] = *m.lobe;
    return json_text(json);
}

std::optional<GaugeMapping> mapping_of(std::string_view text) {
    try {
        const Json json = parse_own_json(text);
        GaugeMapping m;
        m.angle = json.at("angle");
        m.angle_unit = json.at("crank") ? AngleUnit::CrankDegree : AngleUnit::CamDegree;
        m.rises = json.at("rises").get<std::vector<std::size_t>>();
        m.passes = json.at("passes");
        m.unit = static_cast<GaugeUnit>(std::clamp(json.at("unit").get<int>(), 0, 3));
        m.mirrored = json.at("mirrored");
        if (json.contains("lobe"))
            m.lobe = json.at("lobe").get<std::size_t>();
        return m;
    } catch (const Json::exception&) {
        return std::nullopt;
    }
}

std::string gauge_csv(const LobeCurve& curve, AngleUnit angle_unit, double step_deg, GaugeUnit unit) {
    if (!(step_deg >= 0.05 && step_deg <= 10))
        throw InputError({"", "step", fmt::format("{:g} degrees", step_deg), "give 0.05 to 10 degrees"});
    struct Column {
        const char* name;
        double per_m;
        int decimals;
    };
    const Column columns[] = {{"lift_mm", 1e3, 5},
                              {"lift_in", 1 / kInch_m, 6},
                              {"lift_thou", 1e3 / kInch_m, 3},
                              {"lift_um", 1e6, 2}};
    const Column& column = columns[static_cast<std::size_t>(unit)];
    const bool cam = angle_unit == AngleUnit::CamDegree;
    const double half = cam ? 180 : 360;
    const auto steps = static_cast<int>(std::floor(half / step_deg + 1e-9));
    std::string out = fmt::format("{},{}\n", cam ? "cam_deg" : "crank_deg", column.name);
    for (int i = -steps; i <= steps; ++i) {
        if (i == -steps && steps * step_deg > half - 1e-9)
            continue; // the same place as the last one
        const double theta = radians(i * step_deg * (cam ? 1.0 : 0.5));
        out += fmt::format("{:g},{:.{}f}\n", i * step_deg, curve.at(theta) * column.per_m, column.decimals);
    }
    return out;
}

} // namespace bathmos::io
