#include "core/instrument/instrument_line.h"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::instrument {

namespace {

struct DeviceUnit {
    std::string_view word;
    Quantity quantity;
    double to_si;
    double zero_si = 0; ///< what its 0 is in SI
};
constexpr double kGravity_m_s2 = 9.80665, kPound_kg = 0.45359237;
// clang-format off
constexpr DeviceUnit kUnits[] = {
    {"mm", Quantity::Length, 1e-3}, {"cm", Quantity::Length, 1e-2}, {"m", Quantity::Length, 1},
    {"um", Quantity::Length, 1e-6}, {"\xC2\xB5m", Quantity::Length, 1e-6}, {"in", Quantity::Length, kInch_m},
    {"\"", Quantity::Length, kInch_m}, {"thou", Quantity::Length, 1e-3 * kInch_m},
    {"g", Quantity::Mass, 1e-3}, {"kg", Quantity::Mass, 1}, {"mg", Quantity::Mass, 1e-6}, {"lb", Quantity::Mass, kPound_kg},
    {"oz", Quantity::Mass, kPound_kg / 16},
    {"N", Quantity::Force, 1}, {"kN", Quantity::Force, 1e3}, {"daN", Quantity::Force, 10}, {"kgf", Quantity::Force, kGravity_m_s2},
    {"kg", Quantity::Force, kGravity_m_s2}, {"lbf", Quantity::Force, kPound_kg * kGravity_m_s2}, {"lb", Quantity::Force, kPound_kg * kGravity_m_s2},
    {"deg", Quantity::Angle, kPi / 180}, {"\xC2\xB0", Quantity::Angle, kPi / 180}, {"rad", Quantity::Angle, 1},
    {"s", Quantity::Time, 1}, {"ms", Quantity::Time, 1e-3},
    {"rpm", Quantity::Speed, 1}, {"rps", Quantity::Speed, 60}, {"Hz", Quantity::Speed, 60},
    {"\xC2\xB0" "C", Quantity::Temperature, 1}, {"C", Quantity::Temperature, 1},
    {"\xC2\xB0" "F", Quantity::Temperature, 1 / 1.8, -32 / 1.8}, {"F", Quantity::Temperature, 1 / 1.8, -32 / 1.8},
    {"K", Quantity::Temperature, 1, -273.15},
};
// clang-format on

// What no device on a bench shows, SI: beyond it a number is a fault of the line.
double most_of(Quantity quantity) {
    switch (quantity) {
    case Quantity::Length:
        return 2;
    case Quantity::Mass:
        return 100;
    case Quantity::Force:
        return 1e5;
    case Quantity::Angle:
    case Quantity::Temperature:
        return 1e3;
    case Quantity::Speed:
        return 1e5;
    default:
        return 1e6;
    }
}

bool digit(char c) {
    return c >= '0' && c <= '9';
}

bool same_letters(std::string_view a, std::string_view b) {
    return std::ranges::equal(
        a, b, [](unsigned char x, unsigned char y) { return std::tolower(x) == std::tolower(y); });
}

std::size_t find_text(std::string_view line, std::string_view text, std::size_t from) {
    const auto in_word = [&](std::size_t at) {
        return std::isalnum(static_cast<unsigned char>(line[at])) != 0;
    };
    for (std::size_t i = from; i + text.size() <= line.size(); ++i)
        if (same_letters(line.substr(i, text.size()), text) && !(i > 0 && in_word(i) && in_word(i - 1)))
            return i; // a word, or what begins one: "H" is not in "CH1"
    return std::string_view::npos;
}

bool has_point(std::string_view line) {
    for (std::size_t i = 1; i + 1 < line.size(); ++i)
        if (line[i] == '.' && (digit(line[i - 1]) || digit(line[i + 1])))
            return true;
    return false;
}

struct Number {
    double value = 0;
    std::size_t end = 0;
};

// The next number from a place on; its sign may stand apart. Digits within a word are none ("CH1", "P2").
std::optional<Number> next_number(std::string_view line, std::size_t from, char decimal) {
    for (std::size_t i = from; i < line.size(); ++i) {
        const bool starts =
            digit(line[i]) || (line[i] == decimal && i + 1 < line.size() && digit(line[i + 1]));
        if (!starts)
            continue;
        if (i > from && (std::isalpha(static_cast<unsigned char>(line[i - 1])) || line[i - 1] == '_')) {
            while (i + 1 < line.size() && (digit(line[i + 1]) || line[i + 1] == decimal))
                ++i;
            continue;
        }
        std::size_t sign = i;
        while (sign > from && line[sign - 1] == ' ')
            --sign;
        const bool minus = sign > from && line[sign - 1] == '-';
        std::string text;
        std::size_t at = i;
        while (at < line.size() && (digit(line[at]) || line[at] == decimal)) {
            text += line[at] == decimal ? '.' : line[at];
            ++at;
        }
        if (at + 1 < line.size() && (line[at] == 'e' || line[at] == 'E') &&
            (digit(line[at + 1]) ||
             (at + 2 < line.size() && (line[at + 1] == '-' || line[at + 1] == '+') && digit(line[at + 2])))) {
            text += line[at];
            for (++at; at < line.size() && (digit(line[at]) || line[at] == '-' || line[at] == '+'); ++at)
                text += line[at] == '+' ? "" : std::string(1, line[at]);
        }
        double value = 0;
        const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
        if (error != std::errc() || end != text.data() + text.size())
            return std::nullopt; // two decimal signs, or beyond what a number holds
        return Number{minus ? -value : value, at};
    }
    return std::nullopt;
}

std::string_view word_after(std::string_view line, std::size_t from) {
    while (from < line.size() && line[from] == ' ')
        ++from;
    std::size_t end = from;
    while (end < line.size() &&
           (std::isalpha(static_cast<unsigned char>(line[end])) || line[end] == '"' || (line[end] & 0x80)))
        ++end;
    return line.substr(from, end - from);
}

bool overloaded(std::string_view line) {
    if (std::ranges::any_of(line, digit))
        return false;
    for (const std::string_view mark : {"----", "++++", "over", "ovl"})
        if (find_text(line, mark, 0) != std::string_view::npos)
            return true;
    for (std::size_t at = 0; at < line.size();) { // a word of its own: "OL"
        while (at < line.size() && !std::isalpha(static_cast<unsigned char>(line[at])))
            ++at;
        std::size_t end = at;
        while (end < line.size() && std::isalpha(static_cast<unsigned char>(line[end])))
            ++end;
        if (same_letters(line.substr(at, end - at), "OL"))
            return true;
        at = end;
    }
    return false;
}

std::string shown(std::string_view line) {
    std::string out;
    for (const char c : line.substr(0, 60))
        out += static_cast<unsigned char>(c) < 0x20 || c == 0x7f ? '?' : c;
    return out;
}

const DeviceUnit* unit_named(std::string_view word, Quantity quantity) {
    for (const bool exact : {true, false}) // mg is no Mg; MM is mm
        for (const DeviceUnit& one : kUnits)
            if (one.quantity == quantity && (exact ? one.word == word : same_letters(one.word, word)))
                return &one;
    return nullptr;
}

// A channel's number in SI, and where it ends; empty with what is wrong.
std::optional<Number> number_for(const Channel& channel, std::string_view line, std::size_t from,
                                 char decimal, std::string& problem) {
    if (!channel.before.empty()) {
        const std::size_t place = find_text(line, channel.before, 0);
        if (place == std::string_view::npos) {
            problem = fmt::format("no \"{}\" in it", channel.before);
            return std::nullopt;
        }
        from = place + channel.before.size();
    }
    const auto number = next_number(line, from, decimal);
    if (!number) {
        problem = fmt::format("no number for {}", channel.label);
        return std::nullopt;
    }
    const std::string_view word = word_after(line, number->end);
    const DeviceUnit* named = unit_named(word, channel.quantity);
    if (!named && is_unit(word)) {
        problem = fmt::format("{} is in {}", channel.label, word);
        return std::nullopt;
    }
    const DeviceUnit* unit = named ? named : unit_named(channel.unit, channel.quantity);
    const double read =
        unit ? number->value * unit->to_si + unit->zero_si : number->value * unit_of(channel.quantity).to_si;
    const double si = channel.reversed ? -read : read;
    if (!(std::abs(si) <= most_of(channel.quantity))) {
        problem = fmt::format("{} cannot be as large", channel.label);
        return std::nullopt;
    }
    return Number{si, number->end};
}

} // namespace

std::optional<double> unit_factor(std::string_view unit, Quantity quantity) {
    const DeviceUnit* one = unit_named(unit, quantity);
    return one ? std::optional(one->to_si) : std::nullopt;
}

// Letters stand before numbers, too ("n 3000"): one alone is a unit only as that is written, and those of
// temperature, C, F and K, are none here.
bool is_unit(std::string_view word) {
    return std::ranges::any_of(kUnits, [&](const DeviceUnit& one) {
        return one.quantity != Quantity::Temperature && one.quantity != Quantity::Speed &&
               (word.size() == 1 ? one.word == word : same_letters(one.word, word));
    });
}

std::vector<std::string> units_of(Quantity quantity) {
    std::vector<std::string> out;
    for (const DeviceUnit& one : kUnits)
        if (one.quantity == quantity)
            out.emplace_back(one.word);
    return out;
}

LineReading read_line(std::string_view line, const std::vector<Channel>& channels) {
    if (overloaded(line))
        return {LineState::Overload, {}, fmt::format("\"{}\": out of the device's range", shown(line))};
    const char decimal = has_point(line) ? '.' : ',';
    LineReading out;
    std::string why;
    std::size_t at = 0;
    for (const Channel& channel : channels) {
        std::string problem;
        const auto number = number_for(channel, line, at, decimal, problem);
        out.values_si.push_back(number ? std::optional(number->value) : std::nullopt);
        if (number)
            at = number->end;
        else if (why.empty())
            why = std::move(problem);
    }
    if (!why.empty())
        out.why = fmt::format("\"{}\": {}", shown(line), why);
    if (std::ranges::any_of(out.values_si, [](const auto& one) { return one.has_value(); }))
        out.state = LineState::Value;
    else
        out.values_si.clear();
    if (channels.empty())
        out.why = "nothing is to be read from it";
    return out;
}

} // namespace bathmos::instrument
