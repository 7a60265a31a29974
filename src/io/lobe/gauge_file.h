// Files of a profile gauge, or readings of a degree wheel typed by hand: delimited text with angles and one
// or more columns of cam lift.
#pragma once

#include "core/lobe/gauge.h"
#include "io/text/delimited.h"

#include <filesystem>
#include <optional>

namespace bathmos::io {

enum class GaugeUnit { Millimetre, Inch, Thou, Micron };

/// What the columns of a file are: found from names and numbers, corrected by the user, remembered.
struct GaugeMapping {
    std::size_t angle = 0;
    AngleUnit angle_unit = AngleUnit::CamDegree;
    std::vector<std::size_t> rises;  ///< one or more
    bool passes = false;             ///< the rises are passes over one lobe, not lobes
    std::optional<std::size_t> lobe; ///< a column with the lobe's or cylinder's number
    GaugeUnit unit = GaugeUnit::Millimetre;
    bool mirrored = false; ///< gauged against the cam's rotation
    bool operator==(const GaugeMapping&) const = default;
};

/// What can be told of a file: names with "angle", "deg", "cam" or "crank"; "mm", "in", "thou", "um"; "pass";
/// "lobe" or "cylinder". Without names the first column is the angle, and units follow from its span and the
/// largest rise.
GaugeMapping guess_mapping(const std::filesystem::path& path, const TableShape& shape,
                           const std::stop_token& stop = {});

/// All lobes of a file, pass by pass. Throws InputError (line and column) and changes nothing.
std::vector<GaugedLobe> read_gauge(const std::filesystem::path& path, const TableShape& shape,
                                   const GaugeMapping& mapping, const std::stop_token& stop = {});

/// The unit that a table keeps for a gauge's unit (thou and micron are scaled into it).
LiftUnit lift_unit(GaugeUnit unit);

/// Mapping as one line of text and back, for remembering it; empty for text that is none.
std::string mapping_text(const GaugeMapping& mapping);
std::optional<GaugeMapping> mapping_of(std::string_view text);

/// A lobe as a table: angle from the nose over the turn at a step, rise in a unit. Step 0.05 to 10 degrees of
/// the angle's unit. Throws InputError.
std::string gauge_csv(const LobeCurve& curve, AngleUnit angle_unit, double step_deg, GaugeUnit unit);

} // namespace bathmos::io
