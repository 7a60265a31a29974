#include "core/bench/keyed_sheet.h"

#include "core/bench/keyed_kinds.h"

#include <algorithm>
#include <array>
#include <fmt/format.h>

namespace bathmos::bench {

namespace {

using Answer = KeyedAnswer (*)(const KeyedSheet&, const Train*);
constexpr std::array<std::pair<std::string_view, Answer>, 12> kAnswers = {{{"weigh", moving_mass},
                                                                           {"weigh_set", mass_set},
                                                                           {"rocker_scale", rocker_on_scale},
                                                                           {"steps", springs_on_steps},
                                                                           {"head", head_shims},
                                                                           {"near_solid", near_solid},
                                                                           {"lash", lash_of_valves},
                                                                           {"mark", witness_mark},
                                                                           {"clearance", clearances},
                                                                           {"contact", contact_stress},
                                                                           {"compliance", compliance_by_part},
                                                                           {"degree_wheel", degree_wheel}}};

const auto* find_answer(std::string_view kind) {
    const auto at = std::ranges::find(kAnswers, kind, [](const auto& one) { return one.first; });
    return at == kAnswers.end() ? nullptr : &*at;
}

std::optional<Figure> mean_in(const std::map<std::string, Readings>& readings, const std::string& key) {
    const auto at = readings.find(key);
    return at == readings.end() || at->second.repeats.empty() ? std::nullopt
                                                              : std::optional(means_of(at->second).front());
}

void state(AnswerValue& value) {
    if (value.figure)
        value.figure = stated(*value.figure);
}

} // namespace

std::optional<Figure> KeyedSheet::Row::find(const std::string& key) const {
    return mean_in(cells, key);
}

std::optional<Figure> KeyedSheet::find(const std::string& key) const {
    return mean_in(fields, key);
}

Figure KeyedSheet::at(const std::string& key) const {
    if (const auto found = find(key))
        return *found;
    refuse(key, "is missing", "read it, and enter it");
}

std::vector<double> KeyedSheet::list(const std::string& key) const {
    const auto at = fields.find(key);
    return at == fields.end() ? std::vector<double>() : all_of(at->second);
}

KeyedAnswer answer_of(const KeyedSheet& sheet, const Train* train) {
    if (const auto* known = find_answer(sheet.kind)) {
        KeyedAnswer out = known->second(sheet, train);
        for (AnswerValue& value : out.values)
            state(value);
        for (AnswerItem& item : out.items)
            for (AnswerValue& value : item.values)
                state(value);
        for (FoundNumber& number : out.found)
            number.figure = stated(number.figure);
        return out;
    }
    refuse("kind", fmt::format("is \"{}\"", sheet.kind), "choose one of the kinds of sheet");
}

bool read_by_keys(std::string_view kind) {
    return find_answer(kind) != nullptr;
}

} // namespace bathmos::bench
