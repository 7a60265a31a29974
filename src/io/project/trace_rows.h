// A trace in the tables of a project file.
#pragma once

#include "io/project/trace.h"

#include <SQLiteCpp/SQLiteCpp.h>

namespace bathmos::io {

/// Within a transaction of the caller's. Throw SQLite::Exception.
void write_trace_rows(SQLite::Database& db, Id id, const PackedTrace& trace);
/// Empty where there is no such trace.
PackedTrace read_trace_rows(SQLite::Database& db, Id id);

} // namespace bathmos::io
