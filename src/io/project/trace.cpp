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

constexpr std::size_t kPiece = 1 << 18; // numbers: 1 or 2 MB before compression
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

const TraceColumn& column(const Trace& trace, std::string_view name) {
    for (const TraceColumn& c : trace.columns)
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

PackedTrace packed(const Trace& trace) {
    PackedTrace out{trace.name, trace.kind, trace.valve, {}, {}};
    for (std::size_t c = 0; c < trace.columns.size(); ++c) {
        const TraceColumn& column = trace.columns[c];
        out.columns.push_back({column.name, column.single, column.size()});
        for (std::size_t i = 0; i < column.size(); i += kPiece) {
            const std::size_t count = std::min(kPiece, column.size() - i);
            out.pieces.push_back(
                {c, i / kPiece, count, squeezed(at(column, i), width(column.single), count)});
        }
    }
    return out;
}

Trace unpacked(const PackedTrace& packed) {
    Trace out{packed.name, packed.kind, packed.valve, {}};
    for (const PackedTrace::Column& column : packed.columns) {
        out.columns.push_back({column.name, column.single, {}, {}});
        if (column.single)
            out.columns.back().readings.resize(column.numbers);
        else
            out.columns.back().numbers.resize(column.numbers);
    }
    std::vector<std::size_t> filled(packed.columns.size(), 0);
    for (const PackedTrace::Piece& piece : packed.pieces) {
        TraceColumn& to = out.columns.at(piece.column);
        if (piece.piece * kPiece + piece.numbers > to.size())
            break; // told below
        expand(piece.bytes, at(to, piece.piece * kPiece), width(to.single), piece.numbers);
        filled[piece.column] += piece.numbers;
    }
    for (std::size_t c = 0; c < filled.size(); ++c)
        if (filled[c] != out.columns[c].size())
            throw InputError({packed.name, out.columns[c].name, "some of its stored readings are missing",
                              "import the run's file again"});
    return out;
}

Trace trace_of(const RigTrace& rig) {
    Trace out{rig.source, "rig", rig.valve, {}};
    out.columns.push_back({"crank_deg", true, rig.crank_deg, {}});
    out.columns.push_back({"lift_mm", true, rig.lift_mm, {}});
    TraceColumn speed = numbers_column("turn_rpm", rig.turns.size()),
                first = numbers_column("turn_first", rig.turns.size()),
                count = numbers_column("turn_count", rig.turns.size()),
                follows = numbers_column("turn_follows_on", rig.turns.size());
    for (const RigTurn& turn : rig.turns) {
        speed.numbers.push_back(turn.speed_rpm);
        first.numbers.push_back(static_cast<double>(turn.first));
        count.numbers.push_back(static_cast<double>(turn.count));
        follows.numbers.push_back(turn.follows_on);
    }
    TraceColumn pulses = numbers_column("once_per_crank_turn", 1);
    pulses.numbers.push_back(rig.once_per_crank_turn);
    for (TraceColumn* c : {&speed, &first, &count, &follows, &pulses})
        out.columns.push_back(std::move(*c));
    return out;
}

RigTrace rig_of(const Trace& trace) {
    RigTrace out;
    out.source = trace.name;
    out.valve = trace.valve;
    out.crank_deg = column(trace, "crank_deg").readings;
    out.lift_mm = column(trace, "lift_mm").readings;
    const auto& speed = column(trace, "turn_rpm").numbers;
    const auto& first = column(trace, "turn_first").numbers;
    const auto& count = column(trace, "turn_count").numbers;
    const auto& follows = column(trace, "turn_follows_on").numbers;
    for (std::size_t i = 0; i < speed.size(); ++i)
        out.turns.push_back({speed[i], static_cast<std::size_t>(first.at(i)),
                             static_cast<std::size_t>(count.at(i)), follows.at(i) != 0});
    const auto& pulses = column(trace, "once_per_crank_turn").numbers;
    out.once_per_crank_turn = !pulses.empty() && pulses.front() != 0;
    return out;
}

std::string trace_csv(const Trace& trace) {
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
    }
    return fmt::to_string(out);
}

void read_trace_csv(std::string_view text, Trace& trace) {
    std::size_t line = 1;
    const auto next_line = [&]() -> std::string_view {
        const std::size_t end = std::min(text.find('\n'), text.size());
        const std::string_view out = text.substr(0, end);
        text.remove_prefix(std::min(end + 1, text.size()));
        return out;
    };
    std::string heads;
    for (const TraceColumn& c : trace.columns)
        heads += (heads.empty() ? "" : ",") + c.name;
    if (next_line() != heads)
        throw InputError({"", "line 1", "does not name the columns", "must be: " + heads});
    while (!text.empty()) {
        ++line;
        std::string_view row = next_line();
        for (std::size_t c = 0; c < trace.columns.size(); ++c) {
            const std::size_t comma = std::min(row.find(','), row.size());
            const std::string_view field = row.substr(0, comma);
            row.remove_prefix(std::min(comma + 1, row.size()));
            if (field.empty())
                continue; // a shorter column has ended
            TraceColumn& to = trace.columns[c];
            double number = std::numeric_limits<double>::quiet_NaN();
            float reading = std::numeric_limits<float>::quiet_NaN();
            const char *from = field.data(), *end = from + field.size();
            const auto result = to.single ? fast_float::from_chars(from, end, reading)
                                          : fast_float::from_chars(from, end, number);
            if (result.ec != std::errc() || result.ptr != end)
                throw InputError({"", fmt::format("line {}, column {}", line, to.name),
                                  fmt::format("\"{}\" is no number", field), "give a number, or nan"});
            if (to.single)
                to.readings.push_back(reading);
            else
                to.numbers.push_back(number);
        }
    }
}

} // namespace bathmos::io
