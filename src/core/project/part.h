// A part on the shelf: what it is, what was measured on it, what it costs, and whether its past is known.
#pragma once

#include "core/problem/input_error.h"
#include "core/train/train.h"
#include "core/units/units.h"

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace bathmos {

/// Number of a record within its kind; 0 is none.
using Id = std::int64_t;

enum class PartKind {
    Lobe,
    Lifter,
    Pushrod,
    Rocker,
    Stand,
    Valve,
    Retainer,
    Locks,
    Cap,
    Spring,
    Seat,
    Seal,
    Guide,
    Shim
};
inline constexpr std::size_t kPartKinds = 14;

struct PartKindInfo {
    PartKind kind;
    std::string_view key;     ///< in files: "pushrod"
    std::string_view label;   ///< on screen
    std::string_view section; ///< of the train file that the part fills; "" when it has none
};
/// All kinds, in the order of PartKind.
const std::vector<PartKindInfo>& part_kinds();
/// Its words and section.
const PartKindInfo& info(PartKind kind);
/// By its key in files; empty where there is none.
std::optional<PartKind> find_part_kind(std::string_view key);

/// A number or a choice that fits and findings need, but the motion does not; e.g. the angle of a retainer's
/// taper.
struct PartFact {
    PartKind kind;
    std::string_view key; ///< unit in its name, "step_mm"
    std::string_view label;
    Quantity quantity = Quantity::Count;
    double minimum = 0, maximum = 1000;      ///< file units
    std::vector<std::string_view> choices{}; ///< a choice of words instead of a number
    std::string_view help{};
};
/// All facts of all kinds.
const std::vector<PartFact>& part_facts();
/// By kind and key; null where there is none.
const PartFact* find_fact(PartKind kind, std::string_view key);

/// What was found out about one part beside the numbers of the train file.
struct Facts {
    std::map<std::string, double> numbers;    ///< SI, by fact key
    std::map<std::string, std::string> words; ///< choices, by fact key
    bool operator==(const Facts&) const = default;
    /// SI; empty when not known.
    std::optional<double> number(std::string_view key) const;
    std::string word(std::string_view key) const; ///< "" when not known
};

struct Part {
    PartKind kind = PartKind::Pushrod;
    std::string name;
    std::string serial; ///< serial number, or name of the set
    std::string note;
    std::optional<double> cost;
    bool history_known = true;
    /// Only the section of the part's kind, and the tolerances of its numbers, count.
    Train piece;
    Facts facts;
    bool operator==(const Part&) const = default;
};

/// One number of a part as a row of a table.
struct PartValue {
    std::string key, label;
    Quantity quantity = Quantity::Count;
    double value = 0; ///< SI
    std::optional<Tolerance> tolerance;
};
/// All numbers of a part: those of its section, then its facts.
std::vector<PartValue> values_of(const Part& part);

/// Takes the section of a kind out of a train; empty when the train has no such part.
std::optional<Part> part_from(const Train& train, PartKind kind);

/// Puts the part's section and its tolerances into a train; other kinds' stay. `train` must have a layout
/// that takes the kind.
void put_into(Train& train, const Part& part);

/// Whether a layout has a place for the kind.
bool takes(Layout layout, PartKind kind);

/// Every problem of a part, each with the key as location; empty when it can be kept.
std::vector<InputProblem> check_part(const Part& part);

} // namespace bathmos
