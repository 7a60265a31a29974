// Raw readings as a project keeps them: named columns of numbers, never altered once stored.
#pragma once

#include "core/project/part.h"
#include "core/rig/rig_trace.h"
#include "core/tasks/tasks.h"

#include <functional>
#include <stop_token>
#include <string>
#include <string_view>
#include <vector>

namespace bathmos::io {

/// Numbers of one column; readings of a sensor as they came in single precision, all else in double.
struct TraceColumn {
    std::string name; ///< unit in it, "lift_mm"
    bool single = false;
    std::vector<float> readings; ///< where single
    std::vector<double> numbers; ///< where not
    std::size_t size() const { return single ? readings.size() : numbers.size(); }
};

struct Trace {
    std::string name;  ///< the file it came from
    std::string kind;  ///< "rig", "lobe", "pull" ...
    std::string valve; ///< which valve, if the file says so
    std::vector<TraceColumn> columns;
};

/// A trace as it is stored: columns without their numbers, and pieces of them, compressed with their bytes
/// sorted by place, which suits readings that change little from one to the next.
struct PackedTrace {
    struct Column {
        std::string name;
        bool single = false;
        std::size_t numbers = 0;
    };
    struct Piece {
        std::size_t column = 0, piece = 0, numbers = 0;
        std::string bytes;
    };
    std::string name, kind, valve;
    std::vector<Column> columns;
    std::vector<Piece> pieces;
};
/// Slow for long traces (about 200 MB a second): not for the window's thread. Throws Stopped.
PackedTrace packed(const Trace& trace, const std::stop_token& stop = {});
/// Throws InputError where a piece is damaged or missing, before anything of the size it claims is made;
/// Stopped.
Trace unpacked(const PackedTrace& packed, const std::stop_token& stop = {});

/// A rig's trace as columns, and back. Back throws InputError for columns that are missing or of other
/// lengths, and for turns that lie outside of the readings.
Trace trace_of(const RigTrace& rig);
RigTrace rig_of(Trace trace);

/// Columns as CSV, each number as short as it can be and still read back the same; an empty field is no
/// reading. `write` gets it in pieces; throws Stopped.
void write_trace_csv(const Trace& trace, const std::function<void(std::string_view)>& write,
                     const std::stop_token& stop = {});
std::string trace_csv(const Trace& trace);

/// Reads such CSV line by line into a trace that has name, kind and columns (their names and precision).
/// Throws InputError with line as location.
class TraceCsvReader {
  public:
    explicit TraceCsvReader(Trace& trace);
    void take(std::string_view line);
    void finish() const; ///< throws where there was no line at all

  private:
    void take_field(std::string_view field, TraceColumn& to) const;
    Trace& trace_;
    std::string heads_;
    std::size_t line_ = 0;
};
/// The same for text in hand.
void read_trace_csv(std::string_view text, Trace& trace);

} // namespace bathmos::io
