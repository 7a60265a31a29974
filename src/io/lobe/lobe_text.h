// What is read off a lobe, as JSON and CSV; keys and columns as in formats.md and docs/format.md.
#pragma once

#include "core/cam/cam_events.h"
#include "core/cam/cutting.h"
#include "core/cam/lobe_compare.h"
#include "core/lobe/gauge.h"

#include <optional>
#include <string>
#include <vector>

namespace bathmos::io {

struct LobeSummaryOptions {
    std::vector<double> heights_m;
    const RigidMotion* valve = nullptr;         ///< also durations at the valve
    std::optional<double> advertised_rad;       ///< crank; the height is found that this lobe has it at
    std::optional<Repeatability> repeatability; ///< of the file's passes
    const Lobe* against = nullptr;              ///< flags against this one
    const Lobe* same_as = nullptr;              ///< this lobe as another machine gauged it
};

/// Lift, events, peaks, figures by side, area, ramps, gauge, smoothing, cutting limits, flags. Throws
/// InputError.
std::string lobe_json(const Lobe& lobe, const LobeCurve& curve, const LobeSummaryOptions& options);

/// Events of an intake and an exhaust lobe on their cam at each height, as installed and moved; JSON.
std::string pair_json(const PlacedLobe& intake, const PlacedLobe& exhaust,
                      const std::vector<double>& heights_m, double moved_rad, const Engine& engine);

/// Rise and its derivatives per cam degree every half cam degree; with their standard deviation for a table.
std::string lobe_csv(const LobeCurve& curve);

/// Curves of several lobes side by side as samples on one aligned axis, `shift_rad[i]` of each laid on zero.
std::string lobes_csv(const std::vector<std::string>& names, const std::vector<LobeMotion>& motions,
                      const std::vector<double>& shift_rad);

} // namespace bathmos::io
