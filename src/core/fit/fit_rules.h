// Fit and safety findings (design.md): each a rule with severity, reason and source.
#pragma once

#include "core/fit/clearance.h"
#include "core/fit/recheck.h"
#include "core/train/train_figures.h"

namespace bathmos {

/// How old a fitted part is by the record of its use (core/life).
struct FittedAge {
    double used = 0;  ///< share of its life
    std::string told; ///< "66 of 80 runs"
};

/// What the rules look at. Anything that is not known stays empty; a rule that lacks what it needs says
/// nothing.
struct FitInput {
    const Assembly& assembly;
    const TrainFigures& figures;
    const Engine* engine = nullptr;
    ValveSide side = ValveSide::Intake;
    std::optional<Clearance> piston{}, other_valve{}; ///< with the motion at speed where there is one
    std::optional<double> peak_lift_m{};              ///< highest lift at speed
    std::optional<double> clashes_at_rpm{};           ///< coils meet in the motion at that speed
    std::vector<OpenCheck> open{};
    std::map<PartKind, FittedAge> ages{};
};

/// Who says so and what it is about.
struct FitRule {
    std::string_view key;
    std::string_view label;
    std::vector<PartKind> parts; ///< a waiver holds until one of these changes
    std::string_view source;
    void (*look)(const FitInput& input, std::vector<Finding>& out); ///< null: found in figures_of
};
/// All rules, in the order in which they look.
const std::vector<FitRule>& fit_rules();
/// By its key; null where there is none.
const FitRule* find_fit_rule(std::string_view key);

/// All findings of an assembly, those of its figures first; `Finding::part` is a train-file key or
/// "parts.KIND".
std::vector<Finding> fit_findings(const FitInput& input);

/// The waiver of a rule that holds for a revision: made on it or before it, with none of the rule's parts
/// changed since. Its number, or 0.
Id waiver_of(const Project& project, Id revision, const FitRule& rule);
/// What a waiver of a rule closes, in Entry::closes.
std::string waiver_key(const FitRule& rule);

} // namespace bathmos
