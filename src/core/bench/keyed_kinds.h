// The arithmetic of each kind of sheet that is read by keys (docs/bench.md). Each throws InputError for what
// is missing and for numbers that no bench reads.
#pragma once

#include "core/bench/keyed_sheet.h"

namespace bathmos::bench {

/// Masses of single parts, and what moves with the valve. Spring: its active share by physics.md 3.
KeyedAnswer moving_mass(const KeyedSheet& sheet, const Train* train);
/// A set of one part: what comes off each to match the lightest; which is another part.
KeyedAnswer mass_set(const KeyedSheet& sheet, const Train* train);
/// A rocker resting on its two ends: its centre of mass, and its inertia as of two even arms.
KeyedAnswer rocker_on_scale(const KeyedSheet& sheet, const Train* train);
/// Lash by valve, cold and hot: what to turn, what it grows by, which has moved since the last sheet.
KeyedAnswer lash_of_valves(const KeyedSheet& sheet, const Train* train);
/// The witness mark on the stem's tip: its edge to the tip's edge, by both schools; against the geometry.
KeyedAnswer witness_mark(const KeyedSheet& sheet, const Train* train);
/// Gaps at full lift and round the overlap, with what the motion takes at speed.
KeyedAnswer clearances(const KeyedSheet& sheet, const Train* train);
/// Each spring on its step of the retainer: room on the diameter, its own height.
KeyedAnswer springs_on_steps(const KeyedSheet& sheet, const Train* train);
/// A head: shims from the stock at hand, each once, that bring every valve to one height; retainers over the
/// same ball.
KeyedAnswer head_shims(const KeyedSheet& sheet, const Train* train);
/// Installed heights that leave a margin to solid, for each spring of the train.
KeyedAnswer near_solid(const KeyedSheet& sheet, const Train* train);
/// The compliance of a train part by part, each by load and dial or by its geometry, in series at the valve.
KeyedAnswer compliance_by_part(const KeyedSheet& sheet, const Train* train);
/// Hertz stress of wheel or face on the lobe from the spring's load [Johnson].
KeyedAnswer contact_stress(const KeyedSheet& sheet, const Train* train);
/// A lobe read by degree wheel and dial: centre line, lift, durations; against what its card says.
KeyedAnswer degree_wheel(const KeyedSheet& sheet, const Train* train);

} // namespace bathmos::bench
