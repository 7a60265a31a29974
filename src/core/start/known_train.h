// What somebody at the bench knows of a train before anything is measured. Everything may be missing.
#pragma once

#include "core/lobe/lobe.h"
#include "core/train/train.h"
#include "core/units/units.h"

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

namespace bathmos {

enum class ValveMetal { Steel, Titanium };

/// One claim of a cam card.
struct CardDuration {
    double height_m = 0;
    double duration_crank_rad = 0;
    bool at_valve = false; ///< height and duration of the valve's lift; else of the lobe's
    bool operator==(const CardDuration&) const = default;
};

struct LobeCard {
    std::optional<double> lift_m;
    bool lift_at_valve = true;
    std::vector<CardDuration> durations;
    bool operator==(const LobeCard&) const = default;
};

/// A number that can be known, as the page asks for it.
struct StartField {
    std::string_view key;   ///< as in the train file where it stands there; else "spring.…"
    std::string_view group; ///< "valve", "spring", "lobe", "drive", "engine"
    std::string_view label;
    Quantity quantity;
    std::string_view help;
};

struct KnownTrain {
    std::string name = "New train";
    Layout layout = Layout::Pushrod;
    ValveMetal metal = ValveMetal::Steel;
    bool exhaust = false; ///< its valve is the smaller and heavier one
    bool hydraulic = false;
    std::optional<FollowerKind> follower;               ///< usual for the layout where empty
    int nested = 1;                                     ///< springs in each other, pressed together
    std::map<std::string, double, std::less<>> numbers; ///< SI, by StartField::key
    std::variant<LobeCard, LobeTable> lobe;

    /// SI; empty where it is not known.
    std::optional<double> number(std::string_view key) const;
    bool operator==(const KnownTrain&) const = default;
};

/// Numbers that the page asks for a layout, in the order of a bench.
std::vector<StartField> start_fields(Layout layout, bool hydraulic);

/// "" or what is wrong with a number in the unit of files, e.g. "must be above 0".
std::string start_complaint(std::string_view key, double file_value);

} // namespace bathmos
