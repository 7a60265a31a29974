#include "io/sheet/tester_file.h"

#include "core/instrument/instrument_line.h"
#include "core/problem/input_error.h"
#include "core/tasks/tasks.h"
#include "io/json/json.h"
#include "io/text/encoding.h"
#include "io/text/fields.h"
#include "io/text/line_source.h"
#include "io/train/train_json.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

constexpr double kSameHeight_m = 2e-6;       // less is the same height again
constexpr std::size_t kMostTested = 200'000; // of one file: no tester writes more

std::string small_letters(std::string_view text) {
    std::string out(text);
    std::ranges::transform(out, out.begin(),
                           [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return out;
}

std::optional<std::size_t> column_with(const TableShape& shape,
                                       std::initializer_list<std::string_view> parts) {
    for (const std::string_view part : parts)
        for (std::size_t i = 0; i < shape.columns.size(); ++i)
            if (small_letters(shape.columns[i]).find(part) != std::string::npos)
                return i;
    return std::nullopt;
}

// The unit that a column's name ends with: "height_mm", "load [lbf]", "F (kgf)".
std::string device_unit_in(const std::string& name, Quantity quantity, const char* usual) {
    std::string word;
    std::string found;
    for (const char c : name + " ")
        if (std::isalpha(static_cast<unsigned char>(c)) || c == '"')
            word += c;
        else {
            if (!word.empty() && instrument::unit_factor(word, quantity))
                found = word;
            word.clear();
        }
    return found.empty() ? usual : found;
}

double factor_of(const std::string& unit, Quantity quantity, const char* what) {
    if (const auto factor = instrument::unit_factor(unit, quantity))
        return *factor;
    throw InputError({"", what, fmt::format("is in \"{}\"", unit), "choose one of its units"});
}

class TesterReader {
  public:
    TesterReader(const std::filesystem::path& path, const TableShape& shape, const TesterMapping& mapping)
        : path_(path), shape_(shape), mapping_(mapping),
          height_unit_(factor_of(mapping.height_unit, Quantity::Length, "height")),
          load_unit_(factor_of(mapping.load_unit, Quantity::Force, "load")) {}

    void take(std::string_view line, std::size_t number) {
        while (!line.empty() && (line.back() == '\r' || line.back() == ' '))
            line.remove_suffix(1);
        if (number <= shape_.header_lines || line.empty() || line.front() == '#')
            return;
        double height = std::nan(""), load = std::nan("");
        std::string serial;
        std::size_t count = 0;
        fields::split(line, shape_.delimiter, [&](std::size_t index, std::string_view field) {
            count = index + 1;
            if (index == mapping_.height)
                height = value_of(field, number, index) * height_unit_;
            else if (index == mapping_.load)
                load = value_of(field, number, index) * load_unit_;
            else if (mapping_.spring && index == *mapping_.spring)
                serial = as_utf8(field);
        });
        if (count < shape_.columns.size())
            refuse(number, fmt::format("{} fields where there are {} columns", count, shape_.columns.size()));
        if (std::isnan(height) || std::isnan(load))
            return; // a reading that was left out
        if (++readings_ > kMostTested)
            refuse(number, fmt::format("more than {} readings", kMostTested));
        add(serial, mapping_.free_length_m ? *mapping_.free_length_m - std::abs(height) : height, load);
    }
    std::vector<TestedSpring> springs() {
        if (springs_.empty())
            throw InputError(
                {shown_path(path_), "", "no reading in it", "choose the columns of height and load"});
        return std::move(springs_);
    }

  private:
    [[noreturn]] void refuse(std::size_t line, const std::string& what) const {
        throw InputError({shown_path(path_), fmt::format("line {}", line), what,
                          "choose other columns, or mend the file"});
    }
    std::string as_utf8(std::string_view field) const { return to_utf8(field); }
    double value_of(std::string_view field, std::size_t line, std::size_t column) const {
        double value = 0;
        const fields::Parsed read = fields::parse(field, shape_.decimal_comma, value);
        if (read == fields::Parsed::Text || read == fields::Parsed::Infinite)
            refuse(line, fmt::format("\"{}\" in column {} is no number", as_utf8(field), column + 1));
        return value;
    }
    void add(const std::string& serial, double height_m, double load_N) {
        auto at = std::ranges::find(springs_, serial, &TestedSpring::serial);
        if (at == springs_.end())
            at = springs_.insert(springs_.end(), {serial, {}});
        bench::SheetRow reading{"", {{height_m}, {load_N}}, false};
        if (!at->rows.empty()) {
            const bench::SheetRow& before = at->rows.back();
            const double risen = height_m - before.cells[0].front();
            reading.back = std::abs(risen) < kSameHeight_m ? before.back : risen > 0;
        }
        at->rows.push_back(std::move(reading));
    }

    const std::filesystem::path& path_;
    const TableShape& shape_;
    const TesterMapping& mapping_;
    double height_unit_, load_unit_;
    std::vector<TestedSpring> springs_;
    std::size_t readings_ = 0;
};

} // namespace

TesterMapping guess_tester_mapping(const TableShape& shape) {
    TesterMapping out;
    const auto height = column_with(shape, {"height", "length", "travel", "press", "deflection"});
    const auto load = column_with(shape, {"load", "force"});
    out.height = height.value_or(0);
    out.load = load.value_or(out.height == 0 ? 1 : 0);
    out.spring = column_with(shape, {"spring", "serial", "number", "no."});
    if (out.spring == out.height || out.spring == out.load)
        out.spring.reset();
    if (out.height < shape.columns.size())
        out.height_unit = device_unit_in(shape.columns[out.height], Quantity::Length, "mm");
    if (out.load < shape.columns.size())
        out.load_unit = device_unit_in(shape.columns[out.load], Quantity::Force, "N");
    return out;
}

std::vector<TestedSpring> read_tester_file(const std::filesystem::path& path, const TableShape& shape,
                                           const TesterMapping& mapping, const std::stop_token& stop) {
    if (mapping.height == mapping.load)
        throw InputError({shown_path(path), "", "height and load are the same column", "choose two"});
    TesterReader reader(path, shape, mapping);
    LineSource source(path, shape.encoding);
    std::size_t number = 0;
    while (source.read_piece([&](std::string_view line) { reader.take(line, ++number); }))
        if (stop.stop_requested())
            throw Stopped();
    return reader.springs();
}

bench::SheetDraft sheet_of(const TestedSpring& spring) {
    bench::SheetDraft out;
    out.kind = "spring";
    out.rows = spring.rows;
    return out;
}

std::string tester_mapping_text(const TesterMapping& mapping) {
    return json_text(
        {{"height", mapping.height},
         {"load", mapping.load},
         {"height_unit", mapping.height_unit},
         {"load_unit", mapping.load_unit},
         {"spring", mapping.spring ? Json(*mapping.spring) : Json()},
         {"free_length_mm", mapping.free_length_m ? number_json(*mapping.free_length_m * 1e3) : Json()}});
}

std::optional<TesterMapping> tester_mapping_of(std::string_view text) {
    try {
        const Json json = parse_json(text);
        TesterMapping out;
        out.height = json.at("height").get<std::size_t>();
        out.load = json.at("load").get<std::size_t>();
        out.height_unit = json.at("height_unit").get<std::string>();
        out.load_unit = json.at("load_unit").get<std::string>();
        if (!json.at("spring").is_null())
            out.spring = json.at("spring").get<std::size_t>();
        if (!json.at("free_length_mm").is_null())
            out.free_length_m = json.at("free_length_mm").get<double>() * 1e-3;
        return out;
    } catch (const Json::exception&) {
        return std::nullopt;
    } catch (const InputError&) {
        return std::nullopt;
    }
}

} // namespace bathmos::io
