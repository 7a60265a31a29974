// What the program did, in a file that somebody can send: actions by name, stations, faults, its version.
// Nothing of an engine stands in it: no names, paths, numbers.
#pragma once

#include <QString>

namespace bathmos::app {

/// Begins the log in this folder, and takes Qt's warnings into it. Three files of 256 kB at most. The path of
/// the newest; "" where it cannot be written.
QString begin_log(const QString& folder, const QString& version);
/// Written out at the end of the program.
void end_log();

/// A line of the log: what happened, by the names that the program itself gives.
void log_event(const char* what, const QString& which = {});

} // namespace bathmos::app
