#include "io/project/trace.h"

#include "core/problem/input_error.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fast_float/fast_float.h>
#include <fmt/compile.h>
#include <fmt/format.h>
#include <limits>
#include <zstd.h>

namespace bathmos::io {

namespace {

constexpr std::string_view kOilColumn = "turn_oil_C"; // where any turn's is known
constexpr std::size_t kPiece = 1 << 18;               // numbers: 1 or 2 MB before compression
constexpr int kLevel = 1; // readings hardly shrink further, and a 100 MB run shall be stored in a second

// Byte 0 of all numbers, then byte 1 of all ...
std::string sorted_by_place(const char* data, std::size_t width, std::size_t count) {
    std::string out(width * count, '\0');
    for (std::size_t byte = 0; byte < width; ++byte)
        for (std::size_t i = 0; i < count; ++i)
            out[byte * count + i] = data[i * width + byte];
    return out;
}

TraceColumn numbers_column(std::string name, std::size_t count) {
    TraceColumn out{std::move(name), false, {}, {}};
    out.numbers.reserve(count);
    return out;
}

TraceColumn& column(Trace& trace, std::string_view name) {
    for (TraceColumn& c : trace.columns)
        if (c.name == name)
            return c;
    throw InputError(
        {trace.name, std::string(name), "is no column of the stored trace", "import the run's file again"});
}

std::string squeezed(const void* data, std::size_t width, std::size_t count) {
    const std::string plain = sorted_by_place(static_cast<const char*>(data), width, count);
    std::string out(ZSTD_compressBound(plain.size()), '\0');
    const std::size_t size = ZSTD_compress(out.data(), out.size(), plain.data(), plain.size(), kLevel);
    out.resize(size);
    return out;
}

void expand(std::string_view bytes, void* data, std::size_t width, std::size_t count) {
    std::string plain(width * count, '\0');
    const std::size_t size = ZSTD_decompress(plain.data(), plain.size(), bytes.data(), bytes.size());
    if (ZSTD_isError(size) || size != plain.size())
        throw InputError({"", "trace", "its stored readings are damaged",
                          "rescue the project, or import the run's file again"});
    char* out = static_cast<char*>(data);
    for (std::size_t byte = 0; byte < width; ++byte)
        for (std::size_t i = 0; i < count; ++i)
            out[i * width + byte] = plain[byte * count + i];
}

const void* at(const TraceColumn& c, std::size_t i) {
    return c.single ? static_cast<const void*>(c.readings.data() + i) : c.numbers.data() + i;
}
void* at(TraceColumn& c, std::size_t i) {
    return c.single ? static_cast<void*>(c.readings.data() + i) : c.numbers.data() + i;
}
std::size_t width(bool single) {
    return single ? sizeof(float) : sizeof(double);
}

} // namespace

PackedTrace packed(const Trace& trace, const std::stop_token& stop) {
    PackedTrace out{trace.name, trace.kind, trace.valve, {}, {}};
    for (std::size_t c = 0; c < trace.columns.size(); ++c) {
        const TraceColumn& column = trace.columns[c];
        out.columns.push_back({column.name, column.single, column.size()});
        for (std::size_t i = 0; i < column.size(); i += kPiece) {
            throw_if_stopped(stop);
            const std::size_t count = std::min(kPiece, column.size() - i);
            out.pieces.push_back(
                {c, i / kPiece, count, squeezed(at(column, i), width(column.single), count)});
        }
    }
    return out;
}

namespace {

[[noreturn]] void refuse_trace(const std::string& name, std::string column, std::string what) {
    throw InputError(
        {name, std::move(column), std::move(what), "rescue the project, or import the run's file again"});
}

// What the file says about its own sizes, before anything of that size is made.
void require_whole(const PackedTrace& packed) {
    std::vector<std::size_t> filled(packed.columns.size(), 0);
    for (const PackedTrace::Piece& piece : packed.pieces) {
        if (piece.column >= packed.columns.size())
            refuse_trace(packed.name, "", "its stored readings are damaged: a piece belongs to no column");
        const PackedTrace::Column& column = packed.columns[piece.column];
        const unsigned long long plain = ZSTD_getFrameContentSize(piece.bytes.data(), piece.bytes.size());
        if (piece.numbers > kPiece || plain != piece.numbers * width(column.single))
            refuse_trace(packed.name, column.name, "its stored readings are damaged");
        if (piece.piece * kPiece != filled[piece.column])
            break; // told below
        filled[piece.column] += piece.numbers;
    }
    for (std::size_t c = 0; c < filled.size(); ++c)
        if (filled[c] != packed.columns[c].numbers)
            refuse_trace(packed.name, packed.columns[c].name, "some of its stored readings are missing");
}

} // namespace

Trace unpacked(const PackedTrace& packed, const std::stop_token& stop) {
    require_whole(packed);
    Trace out{packed.name, packed.kind, packed.valve, {}};
    for (const PackedTrace::Column& column : packed.columns) {
        out.columns.push_back({column.name, column.single, {}, {}});
        if (column.single)
            out.columns.back().readings.resize(column.numbers);
        else
            out.columns.back().numbers.resize(column.numbers);
    }
    for (const PackedTrace::Piece& piece : packed.pieces) {
        throw_if_stopped(stop);
        TraceColumn& to = out.columns[piece.column];
        expand(piece.bytes, at(to, piece.piece * kPiece), width(to.single), piece.numbers);
    }
    return out;
}

Trace trace_of(const RigTrace& rig) {
    Trace out{rig.source, "rig", rig.valve, {}};
    out.columns.push_back({"crank_deg", true, rig.crank_deg, {}});
    out.columns.push_back({"lift_mm", true, rig.lift_mm, {}});
    TraceColumn speed = numbers_column("turn_rpm", rig.turns.size()),
                first = numbers_column("turn_first", rig.turns.size()),
                count = numbers_column("turn_count", rig.turns.size()),
                follows = numbers_column("turn_follows_on", rig.turns.size()),
                oil = numbers_column(std::string(kOilColumn), rig.turns.size());
    for (const RigTurn& turn : rig.turns) {
        speed.numbers.push_back(turn.speed_rpm);
        first.numbers.push_back(static_cast<double>(turn.first));
        count.numbers.push_back(static_cast<double>(turn.count));
        follows.numbers.push_back(turn.follows_on);
        oil.numbers.push_back(turn.oil_C);
    }
    TraceColumn pulses = numbers_column("once_per_crank_turn", 1);
    pulses.numbers.push_back(rig.once_per_crank_turn);
    for (TraceColumn* c : {&speed, &first, &count, &follows, &pulses})
        out.columns.push_back(std::move(*c));
    if (std::ranges::any_of(oil.numbers, [](double oil_C) { return std::isfinite(oil_C); }))
        out.columns.push_back(std::move(oil));
    return out;
}

namespace {

// A whole number of a column that counts readings.
std::size_t counted(const std::string& name, const char* column, double value, std::size_t most) {
    if (!(value >= 0 && value <= static_cast<double>(most)) || value != std::floor(value))
        refuse_trace(name, column, fmt::format("says {:g}, where the trace has {} readings", value, most));
    return static_cast<std::size_t>(value);
}

} // namespace

RigTrace rig_of(Trace trace) {
    RigTrace out;
    out.source = trace.name;
    out.valve = trace.valve;
    out.crank_deg = std::move(column(trace, "crank_deg").readings);
    out.lift_mm = std::move(column(trace, "lift_mm").readings);
    const std::vector<double>&speed = column(trace, "turn_rpm").numbers,
          &first = column(trace, "turn_first").numbers, &count = column(trace, "turn_count").numbers,
          &follows = column(trace, "turn_follows_on").numbers;
    const std::size_t readings = out.lift_mm.size();
    if (out.crank_deg.size() != readings)
        refuse_trace(trace.name, "crank_deg", "does not have as many numbers as lift_mm");
    if (first.size() != speed.size() || count.size() != speed.size() || follows.size() != speed.size())
        refuse_trace(trace.name, "turn_first", "the turns' columns are not of one length");
    for (std::size_t i = 0; i < speed.size(); ++i) {
        const std::size_t from = counted(trace.name, "turn_first", first[i], readings);
        out.turns.push_back(
            {speed[i], from, counted(trace.name, "turn_count", count[i], readings - from), follows[i] != 0});
    }
    if (const auto oil = std::ranges::find(trace.columns, kOilColumn, &TraceColumn::name);
        oil != trace.columns.end()) {
        if (oil->numbers.size() != speed.size())
            refuse_trace(trace.name, std::string(kOilColumn), "is not as long as the turns' other columns");
        for (std::size_t i = 0; i < speed.size(); ++i)
            out.turns[i].oil_C = oil->numbers[i];
    }
    const std::vector<double>& pulses = column(trace, "once_per_crank_turn").numbers;
    out.once_per_crank_turn = !pulses.empty() && pulses.front() != 0;
    return out;
}

void write_trace_csv(const Trace& trace, const std::function<void(std::string_view)>& write,
                     const std::stop_token& stop) {
    constexpr std::size_t piece_bytes = 1 << 20;
    fmt::memory_buffer out;
    std::size_t rows = 0;
    for (std::size_t c = 0; c < trace.columns.size(); ++c) {
        fmt::format_to(std::back_inserter(out), "{}{}", c ? "," : "", trace.columns[c].name);
        rows = std::max(rows, trace.columns[c].size());
    }
    out.push_back('\n');
    for (std::size_t i = 0; i < rows; ++i) {
        for (std::size_t c = 0; c < trace.columns.size(); ++c) {
            if (c)
                out.push_back(',');
            const TraceColumn& from = trace.columns[c];
            if (i >= from.size())
                continue;
            if (from.single && !std::isnan(from.readings[i]))
                fmt::format_to(std::back_inserter(out), FMT_COMPILE("{}"), from.readings[i]);
            else if (from.single || std::isnan(from.numbers[i]))
                fmt::format_to(std::back_inserter(out), "nan");
            else
                fmt::format_to(std::back_inserter(out), FMT_COMPILE("{}"), from.numbers[i]);
        }
        out.push_back('\n');
        if (out.size() < piece_bytes)
            continue;
        throw_if_stopped(stop);
        write({out.data(), out.size()});
        out.clear();
    }
    write({out.data(), out.size()});
}

std::string trace_csv(const Trace& trace) {
    std::string out;
    write_trace_csv(trace, [&](std::string_view piece) { out += piece; });
    return out;
}

TraceCsvReader::TraceCsvReader(Trace& trace) : trace_(trace) {
    for (const TraceColumn& c : trace.columns)
        heads_ += (heads_.empty() ? "" : ",") + c.name;
}

void TraceCsvReader::take(std::string_view row) {
    if (row.ends_with('\r'))
        row.remove_suffix(1);
    if (++line_ == 1) {
        if (row.starts_with("\xEF\xBB\xBF"))
            row.remove_prefix(3);
        if (row != heads_)
            throw InputError({"", "line 1", "does not name the columns", "must be: " + heads_});
        return;
    }
    for (std::size_t c = 0; c < trace_.columns.size(); ++c) {
        const std::size_t comma = std::min(row.find(','), row.size());
        const std::string_view field = row.substr(0, comma);
        row.remove_prefix(std::min(comma + 1, row.size()));
        if (!field.empty()) // else a shorter column has ended
            take_field(field, trace_.columns[c]);
    }
    if (!row.empty())
        throw InputError({"", fmt::format("line {}", line_), "has more fields than there are columns",
                          "must be: " + heads_});
}

void TraceCsvReader::take_field(std::string_view field, TraceColumn& to) const {
    double number = std::numeric_limits<double>::quiet_NaN();
    float reading = std::numeric_limits<float>::quiet_NaN();
    const char *from = field.data(), *end = from + field.size();
    const auto result =
        to.single ? fast_float::from_chars(from, end, reading) : fast_float::from_chars(from, end, number);
    if (result.ec != std::errc() || result.ptr != end)
        throw InputError({"", fmt::format("line {}, column {}", line_, to.name),
                          fmt::format("\"{}\" is no number", field.substr(0, 30)), "give a number, or nan"});
    if (to.single)
        to.readings.push_back(reading);
    else
        to.numbers.push_back(number);
}

void TraceCsvReader::finish() const {
    if (line_ == 0)
        throw InputError({"", "line 1", "does not name the columns", "must be: " + heads_});
}

void read_trace_csv(std::string_view text, Trace& trace) {
    TraceCsvReader reader(trace);
    while (!text.empty()) {
        const std::size_t end = std::min(text.find('\n'), text.size());
        reader.take(text.substr(0, end));
        text.remove_prefix(std::min(end + 1, text.size()));
    }
    reader.finish();
}

} // namespace bathmos::io
