// Engine use as a logger writes it: time and crank speed in any columns.
#pragma once

#include "core/life/engine_use.h"
#include "io/text/delimited.h"

namespace bathmos::io {

/// Which columns, and in which unit.
struct UseMapping {
    std::size_t time = 0, speed = 1;
    double time_to_s = 1, speed_to_rpm = 1;
};
/// By names with "time" or "t", "rpm" or "speed", and the unit that stands with them (s, ms, min, h; rpm,
/// 1/min, Hz of the crank); without names the first two columns, s and rev/min.
UseMapping guess_use_mapping(const TableShape& shape);

/// A logger's file, read as it comes: memory does not grow with it. Excursions beyond `limit_rpm`, where one
/// is given. Throws InputError (line and column), Stopped.
life::LoggedUse read_use(const std::filesystem::path& path, std::optional<double> limit_rpm = {},
                         const std::stop_token& stop = {});

} // namespace bathmos::io
