// The changes that people usually try, each as one number that can be dragged: what has to follow, follows.
#pragma once

#include "core/train/train.h"
#include "core/units/units.h"

#include <optional>
#include <string_view>
#include <vector>

namespace bathmos {

struct Handle {
    std::string_view key;   ///< short, for names of widgets and undo steps
    std::string_view label; ///< words on screen
    std::string_view help;  ///< what follows along
    Quantity quantity;
    /// The value now, SI; empty where the train has nothing of the kind.
    std::optional<double> (*get)(const Train& train);
    /// Sets it, with what depends on it.
    void (*set)(Train& train, double si);
    double step; ///< a small change worth making, SI
};

/// Valve mass, spring rate (seat load kept), installed height, pushrod diameter and wall (mass follows),
/// rocker ratio (output arm follows), ratio at the same
/// valve lift, load at the same margin, rocker's stiffness at its weight, lobe lift and duration (a table is
/// stretched), lash, pressure on the head.
const std::vector<Handle>& handles();

/// Every load of every spring times a factor, at any height; solid heights and masses stay.
void scale_loads(Train& train, double factor);
/// Every link between cam and valve stiffer by a factor at the same mass: rod with its ends, rocker or tip.
void scale_stiffness(Train& train, double factor);

/// The springs' damping times a factor, at least `least`.
void scale_spring_damping(Train& train, double factor, double least);
/// No pressure on the valve's head, as a number or over the angle.
void take_pressure_off(Train& train);
/// A solid follower with a usual lash in the place of a hydraulic one, which must be there.
void fit_solid_follower(Train& train);

} // namespace bathmos
