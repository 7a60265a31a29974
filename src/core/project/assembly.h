// A train as assembled: its numbers, and which part of the shelf sits where. What a revision of a build
// holds.
#pragma once

#include "core/project/part.h"
#include "core/units/measured_text.h"

namespace bathmos {

/// A part of the shelf as it was when it was fitted. Later changes on the shelf do not reach it.
struct FittedPart {
    Id part = 0;
    std::string name, serial;
    bool history_known = true;
    Facts facts;
    bool operator==(const FittedPart&) const = default;
};

struct Assembly {
    Train train;
    std::map<PartKind, FittedPart> parts;
    bool operator==(const Assembly&) const = default;

    /// The shelf's part fitted in the place of a kind; null where none is.
    const FittedPart* find(PartKind kind) const;
    /// A fitted part's fact, SI; empty when not known.
    std::optional<double> number(PartKind kind, std::string_view fact) const;
    std::string word(PartKind kind, std::string_view fact) const; ///< "" when not known
};

/// The assembly with a part fitted in the place of its kind. The installed height moves by what old and new
/// part say about it (shim and seat by thickness, retainer by lock depth less step depth, physics.md 3),
/// where both say it. Throws InputError for a kind that the layout has no place for.
Assembly fitted(Assembly assembly, Id id, const Part& part);
/// The assembly without the shelf's part of a kind; numbers stay.
Assembly unfitted(Assembly assembly, PartKind kind);

/// How much higher the spring stands through a part's facts, m; empty when they say nothing about it.
std::optional<double> height_share_m(PartKind kind, const Facts& facts);

/// Numbers of the train that differ from those of the part on the shelf it was taken from.
bool departs_from(const Assembly& assembly, const Part& part);

/// One thing that differs between two assemblies.
struct Difference {
    std::string key, label;
    Quantity quantity = Quantity::Count;
    std::optional<double> before, after;   ///< SI; empty where it is not there
    std::string words_before, words_after; ///< where it is no number
};
/// Everything that differs, in the order of the train file, then parts and their facts.
std::vector<Difference> differences(const Assembly& before, const Assembly& after);

/// "pushrod wall 1.65 -> 0.9 mm", for reasons and lists.
std::string in_words(const Difference& difference, const UnitChoice& units = {});
/// The same with its values, so that units follow the reader.
MeasuredText told(const Difference& difference);

} // namespace bathmos
