#include "core/problem/input_error.h"
#include "io/json/json.h"
#include "io/live/recording.h"
#include "io/rig/rig_file.h"
#include "io/text/encoding.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace bathmos::io {

namespace {

constexpr double kNotKnown = std::numeric_limits<double>::quiet_NaN();
constexpr float kMostCycle_deg = 730; // a whole cycle, and what the last sample may lie beyond it

[[noreturn]] void refuse(const std::filesystem::path& path, std::string place, std::string what,
                         std::string mend) {
    throw InputError({shown_path(path), std::move(place), std::move(what), std::move(mend)});
}

void require_complete(const std::filesystem::path& path, const RigColumns& c) {
    if (!c.lift)
        refuse(path, "", "no column with the valve lift",
               "name it lift_mm, or choose the column when importing");
    if (!c.crank && !c.time)
        refuse(path, "", "no column with crank angle or time",
               "an angle-based run has crank_deg, a time-based one time_s and index");
    if (c.time && !c.crank && !c.index)
        refuse(path, "", "no column with the index pulse",
               "a time-based run needs index (1 at the encoder's pulse), else turns cannot be told apart");
    if (c.crank && !c.rpm)
        refuse(path, "", "no column with the speed", "an angle-based run needs rpm");
}

// Cuts rows of an angle-based run into turns where speed or cycle changes, or the angle starts again.
class AngleTurns {
  public:
    AngleTurns(RigTrace& trace, bool has_cycle) : trace_(trace), has_cycle_(has_cycle) {}

    /// `oil_C` NaN: not known.
    void add(double rpm, double cycle, double crank_deg, double lift_mm, double oil_C) {
        const bool starts = trace_.turns.empty() || rpm != rpm_ || (has_cycle_ && cycle != cycle_) ||
                            crank_deg < last_deg_ - 180;
        if (starts) {
            const bool follows = !trace_.turns.empty() && std::abs(rpm / rpm_ - 1) < 0.01;
            trace_.turns.push_back({rpm, trace_.lift_mm.size(), 0, follows, oil_C});
        }
        rpm_ = rpm;
        cycle_ = cycle;
        last_deg_ = crank_deg;
        ++trace_.turns.back().count;
        trace_.crank_deg.push_back(static_cast<float>(crank_deg));
        trace_.lift_mm.push_back(static_cast<float>(lift_mm));
    }

    // The angle's range tells how often the index comes.
    // Returns that range, crank degrees.
    float finish() const {
        float widest = 0;
        for (const RigTurn& turn : trace_.turns)
            widest = std::max(widest,
                              trace_.crank_deg[turn.first + turn.count - 1] - trace_.crank_deg[turn.first]);
        trace_.once_per_crank_turn = widest <= 360.5f;
        return widest;
    }

  private:
    RigTrace& trace_;
    bool has_cycle_;
    double rpm_ = 0, cycle_ = 0, last_deg_ = 0;
};

// Largest rise of a turn's readings over its own smallest.
float stroke(const RigTrace& trace, const RigTurn& turn) {
    float low = INFINITY, high = -INFINITY;
    for (std::size_t i = turn.first; i < turn.first + turn.count; ++i)
        if (is_reading(trace.lift_mm[i])) {
            low = std::min(low, trace.lift_mm[i]);
            high = std::max(high, trace.lift_mm[i]);
        }
    return high - low;
}

// Mean absolute difference of two turns, as shares of a turn.
double unlike(const RigTrace& trace, const RigTurn& a, const RigTurn& b) {
    constexpr int points = 180;
    double sum = 0;
    for (int i = 0; i < points; ++i) {
        const auto at = [&](const RigTurn& t) {
            return trace.lift_mm[t.first + static_cast<std::size_t>(i) * t.count / points];
        };
        const float difference = at(a) - at(b);
        sum += std::isnan(difference) ? 0 : std::abs(difference);
    }
    return sum / points;
}

// Pulses once a crank turn: a turn is unlike the next but like the one after.
bool tell_crank_pulses(const RigTrace& trace) {
    double next = 0, after = 0, most = 0;
    for (std::size_t i = 0; i + 2 < trace.turns.size(); ++i) {
        if (!trace.turns[i + 1].follows_on || !trace.turns[i + 2].follows_on)
            continue;
        next += unlike(trace, trace.turns[i], trace.turns[i + 1]);
        after += unlike(trace, trace.turns[i], trace.turns[i + 2]);
        most = std::max<double>(most, stroke(trace, trace.turns[i]));
    }
    return next > 3 * after && next > 0.02 * most;
}

// Cuts rows of a time-based run into turns at the pulses; a pause between samples ends a turn unfinished.
class TimeTurns {
  public:
    explicit TimeTurns(RigTrace& trace) : trace_(trace) {}

    /// `oil_C` NaN: not known.
    void add(double time_s, bool pulse, double lift_mm, double oil_C, std::size_t line,
             const std::filesystem::path& path) {
        if (!times_.empty() && time_s <= times_.back())
            refuse(path, fmt::format("line {}", line),
                   fmt::format("time {} s follows {} s", time_s, times_.back()),
                   "time must increase from row to row");
        if (times_.size() >= 2) {
            const double step = times_.back() - times_[times_.size() - 2];
            if (time_s - times_.back() > 20 * step)
                pause();
        }
        if (pulse && !last_pulse_)
            close_at(time_s);
        last_pulse_ = pulse;
        oil_C_ = oil_C;
        if (in_turn_) {
            times_.push_back(time_s);
            lifts_.push_back(static_cast<float>(lift_mm));
        } else {
            times_.assign(1, time_s);
        }
    }

    bool any_pulse() const { return any_pulse_; }

    // Speeds and angles are known only once it is told how often the index comes.
    void finish() {
        trace_.once_per_crank_turn = tell_crank_pulses(trace_);
        if (!trace_.once_per_crank_turn)
            return;
        for (RigTurn& turn : trace_.turns)
            turn.speed_rpm /= 2;
        for (float& angle : trace_.crank_deg)
            angle /= 2;
    }

  private:
    void pause() {
        in_turn_ = false;
        follows_ = false;
        times_.clear();
        lifts_.clear();
    }

    // First taken as a cam turn, 720 crank degrees.
    void close_at(double time_s) {
        any_pulse_ = true;
        if (in_turn_ && !lifts_.empty()) {
            const double start = times_.front(), span = time_s - start;
            trace_.turns.push_back({120 / span, trace_.lift_mm.size(), lifts_.size(), follows_, oil_C_});
            for (std::size_t i = 0; i < lifts_.size(); ++i) {
                trace_.crank_deg.push_back(static_cast<float>(720 * (times_[i] - start) / span));
                trace_.lift_mm.push_back(lifts_[i]);
            }
            follows_ = true;
        }
        in_turn_ = true;
        times_.clear();
        lifts_.clear();
    }

    RigTrace& trace_;
    std::vector<double> times_;
    std::vector<float> lifts_;
    double oil_C_ = kNotKnown;
    bool in_turn_ = false, last_pulse_ = false, any_pulse_ = false, follows_ = false;
};

void limit_readings(const std::filesystem::path& path, const RigTrace& trace, std::size_t line) {
    if (trace.lift_mm.size() >= kMostReadings)
        refuse(path, fmt::format("line {}", line),
               fmt::format("is beyond {} million readings", kMostReadings / 1000000),
               "split the run, or keep fewer cycles a speed");
}

// Room for as many rows as the file's size lets expect: a list that doubles takes half as much again.
RigTrace empty_trace(const std::filesystem::path& path, const TableShape& shape) {
    RigTrace trace;
    std::error_code none;
    if (const auto bytes = std::filesystem::file_size(path, none); !none && shape.row_bytes > 0) {
        const double rows = static_cast<double>(bytes) / shape.row_bytes;
        const auto room =
            static_cast<std::size_t>(std::min(1.02 * rows + 1000, static_cast<double>(kMostReadings)));
        trace.lift_mm.reserve(room);
        trace.crank_deg.reserve(room);
    }
    trace.source = shown_path(path);
    trace.valve = shape.comment("valve").value_or("");
    return trace;
}

} // namespace

RigColumns guess_columns(const TableShape& shape) {
    RigColumns out;
    for (const auto& [name, factor] :
         {std::pair{"lift_mm", 1.0}, {"lift_in", 25.4}, {"lift_um", 1e-3}, {"lift_thou", 0.0254}})
        if (const auto at = shape.find(name); at && !out.lift) {
            out.lift = at;
            out.lift_to_mm = factor;
        }
    out.rpm = shape.find("rpm");
    out.cycle = shape.find("cycle");
    out.oil = shape.find("oil_C");
    out.crank = shape.find("crank_deg");
    if (!out.crank && (out.crank = shape.find("cam_deg")))
        out.angle_unit = RigAngleUnit::CamDegree;
    if (!out.crank) {
        out.time = shape.find("time_s");
        out.index = shape.find("index");
    }
    return out;
}

RigTrace read_rig_csv(const std::filesystem::path& path, const TableShape& shape, const RigColumns& c,
                      const ReadOptions& options) {
    require_complete(path, c);
    RigTrace trace = empty_trace(path, shape);
    const double per_angle = c.angle_unit == RigAngleUnit::CamDegree ? 2 : 1;
    const auto check = [&](double value, const char* what, std::size_t line) {
        if (!std::isfinite(value))
            refuse(path, fmt::format("line {}", line), fmt::format("{} is missing or no number", what),
                   "only lift may be left empty, for a lost reading");
    };
    if (!c.crank) {
        TimeTurns turns(trace);
        std::vector<std::size_t> wanted = {*c.time, *c.index, *c.lift};
        if (c.oil)
            wanted.push_back(*c.oil);
        stream_columns(
            path, shape, wanted,
            [&](const std::vector<double>& v, std::size_t line) {
                check(v[0], "time", line);
                limit_readings(path, trace, line);
                turns.add(v[0], v[1] > 0.5, v[2] * c.lift_to_mm, c.oil ? v[3] : kNotKnown, line, path);
            },
            options.progress, options.stop);
        if (!turns.any_pulse())
            refuse(path, "", "the index column never shows a pulse",
                   "it must be 1 at the encoder's pulse and 0 elsewhere");
        turns.finish();
    } else {
        AngleTurns turns(trace, c.cycle.has_value());
        std::vector<std::size_t> wanted = {*c.rpm, *c.crank, *c.lift};
        if (c.cycle)
            wanted.push_back(*c.cycle);
        if (c.oil)
            wanted.push_back(*c.oil);
        stream_columns(
            path, shape, wanted,
            [&](const std::vector<double>& v, std::size_t line) {
                check(v[0], "rpm", line);
                check(v[1], "the angle", line);
                if (!(v[0] > 0))
                    refuse(path, fmt::format("line {}", line), fmt::format("rpm is {:g}", v[0]),
                           "speeds must be above 0");
                if (c.cycle)
                    check(v[3], "the cycle", line);
                limit_readings(path, trace, line);
                turns.add(v[0], c.cycle ? v[3] : 0, v[1] * per_angle, v[2] * c.lift_to_mm,
                          c.oil ? v.back() : kNotKnown);
            },
            options.progress, options.stop);
        const float widest = trace.turns.empty() ? 0 : turns.finish();
        if (widest > kMostCycle_deg)
            refuse(path, fmt::format("column {}", shape.columns[*c.crank]),
                   fmt::format("the angle runs over {:.0f} crank degrees, a cycle has 720", widest),
                   per_angle == 2
                       ? "it is crank angle: name its column crank_deg, or choose the unit when importing"
                       : "give angles from 0 to 720 crank degrees, a row of rpm and cycle for each");
    }
    if (trace.turns.empty())
        refuse(path, "", "holds no whole turn", "record at least one turn of the cam at one speed");
    return trace;
}

bool is_hdf5(const std::filesystem::path& path) {
    return path.extension() == ".h5" || path.extension() == ".hdf5";
}

bool has_no_columns(const std::filesystem::path& path) {
    return is_hdf5(path) || is_recording(path);
}

RigTrace read_rig(const std::filesystem::path& path, const ReadOptions& options) {
    if (is_hdf5(path))
        return read_rig_hdf5(path, options);
    if (is_recording(path))
        return read_recording(path, nullptr, options);
    const TableShape shape = sniff_table(path);
    return read_rig_csv(path, shape, guess_columns(shape), options);
}

namespace {

// Columns by the name they have in a remembered mapping.
struct NamedColumn {
    const char* key;
    std::optional<std::size_t> RigColumns::*at;
};
const NamedColumn kColumns[] = {{"lift", &RigColumns::lift},   {"rpm", &RigColumns::rpm},
                                {"cycle", &RigColumns::cycle}, {"crank", &RigColumns::crank},
                                {"time", &RigColumns::time},   {"index", &RigColumns::index},
                                {"oil", &RigColumns::oil}};

} // namespace

std::string rig_mapping_text(const RigColumns& columns, bool reversed) {
    Json json = {{"lift_to_mm", columns.lift_to_mm},
                 {"cam_degrees", columns.angle_unit == RigAngleUnit::CamDegree},
                 {"reversed", reversed}};
    for (const NamedColumn& column : kColumns)
        if (columns.*column.at)
            json[column.key] = *(columns.*column.at);
    return json_text(json);
}

std::optional<RememberedRig> rig_mapping_of(std::string_view text) {
    try {
        const Json json = parse_own_json(text);
        RememberedRig out;
        out.columns.lift_to_mm = json.at("lift_to_mm");
        out.columns.angle_unit =
            json.at("cam_degrees").get<bool>() ? RigAngleUnit::CamDegree : RigAngleUnit::CrankDegree;
        out.reversed = json.at("reversed");
        for (const NamedColumn& column : kColumns)
            if (json.contains(column.key))
                out.columns.*column.at = json.at(column.key).get<std::size_t>();
        return out;
    } catch (const Json::exception&) {
        return std::nullopt;
    }
}

} // namespace bathmos::io
