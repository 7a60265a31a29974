// A sheet as read by the keys of its kind, and its answer in the same shape for every such kind: values, a
// line for each part, what is told, what it changes. For kinds that need no reading of their own.
#pragma once

#include "core/bench/readings.h"
#include "core/fit/recheck.h"
#include "core/train/train.h"

#include <map>
#include <optional>

namespace bathmos::bench {

/// Readings by the keys of their kind (sheet_kind.h), SI.
struct KeyedSheet {
    struct Row {
        std::string name;
        std::map<std::string, Readings> cells;
        std::optional<Figure> find(const std::string& key) const;
    };
    std::string kind;
    std::map<std::string, Readings> fields;
    std::vector<Row> rows;

    /// Mean of a field with its deviation; empty where it was not read.
    std::optional<Figure> find(const std::string& key) const;
    /// The same; throws InputError where it was not read.
    Figure at(const std::string& key) const;
    /// Its readings one by one: a list of things at hand; empty where there are none.
    std::vector<double> list(const std::string& key) const;
};

struct AnswerValue {
    std::string key, label;
    std::optional<Figure> figure;
    Quantity quantity = Quantity::Count;
};
/// What is said of one part, valve or place.
struct AnswerItem {
    std::string name;
    std::vector<AnswerValue> values;
};
/// A number that the train takes over, SI.
struct FoundNumber {
    std::string key, label; ///< key as in the train file
    Figure figure;
    Source source = Source::Gauge;
};

struct KeyedAnswer {
    std::vector<AnswerValue> values;
    std::string of_each; ///< key of the list of items: "parts", "valves"
    std::vector<AnswerItem> items;
    std::vector<MeasuredText> lines; ///< words beyond the values
    std::vector<Told> told;
    std::vector<FoundNumber> found;
    std::vector<Check> closes; ///< only what was found as it should be
};

/// The answer of a kind of sheet that is read by keys. `train`: the one in hand, where there is one; some
/// kinds need it. Throws InputError for a kind that is not read so, for what is missing, and for numbers that
/// no bench reads.
KeyedAnswer answer_of(const KeyedSheet& sheet, const Train* train = nullptr);
/// Whether sheets of this kind are read by keys.
bool read_by_keys(std::string_view kind);

} // namespace bathmos::bench
