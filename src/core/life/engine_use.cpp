#include "core/life/engine_use.h"

#include "core/problem/input_error.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::life {

namespace {

constexpr std::string_view kNumberKey = "s_at_";

[[noreturn]] void refuse_use(const std::string& where, const std::string& what, const std::string& mend) {
    throw InputError({"", where, what, mend});
}

// Readings of an engine that turns backwards, or as no engine does, are none.
bool is_speed(double rpm) {
    return std::isfinite(rpm) && rpm >= 0 && rpm <= kMost_rpm;
}

// One straight piece between two readings: cut so that no piece spans more than half a class.
void add_piece(EngineUse& use, double from_rpm, double to_rpm, double seconds) {
    const double pieces = std::max(1.0, std::ceil(std::abs(to_rpm - from_rpm) / (0.5 * kClass_rpm)));
    for (double i = 0; i < pieces; ++i) {
        const double rpm = from_rpm + (to_rpm - from_rpm) * (i + 0.5) / pieces;
        if (rpm >= kStanding_rpm)
            use.add(rpm, seconds / pieces);
    }
}

} // namespace

// The part of a straight piece that lies above the limit, joined to the excursion before it where that had
// not ended.
class ExcursionWatch {
  public:
    explicit ExcursionWatch(double limit_rpm) : limit_(limit_rpm) {}

    void look(double at_s, double seconds, double from_rpm, double to_rpm) {
        if (std::max(from_rpm, to_rpm) <= limit_)
            return end();
        double first = 0, last = 1;
        if (from_rpm <= limit_)
            first = (limit_ - from_rpm) / (to_rpm - from_rpm);
        if (to_rpm <= limit_)
            last = (limit_ - from_rpm) / (to_rpm - from_rpm);
        if (!open_ || first > 0)
            found.push_back({at_s + first * seconds, 0, 0, 0});
        Excursion& now = found.back();
        const double low = from_rpm + first * (to_rpm - from_rpm),
                     high = from_rpm + last * (to_rpm - from_rpm);
        now.seconds += (last - first) * seconds;
        now.cycles += (last - first) * seconds * 0.5 * (low + high) / 120;
        now.highest_rpm = std::max({now.highest_rpm, from_rpm, to_rpm});
        open_ = to_rpm > limit_;
    }
    void end() { open_ = false; }
    std::vector<Excursion> found;

  private:
    double limit_;
    bool open_ = false;
};

void EngineUse::add(double speed_rpm, double seconds) {
    if (!is_speed(speed_rpm) || speed_rpm < kStanding_rpm)
        refuse_use("speed", fmt::format("{:g} rev/min is no speed of an engine that runs", speed_rpm),
                   fmt::format("{:g} to {:g}", kStanding_rpm, kMost_rpm));
    if (!std::isfinite(seconds) || seconds < 0)
        refuse_use("seconds", fmt::format("{:g} is no time", seconds), "a number above 0");
    if (seconds == 0)
        return;
    ClassUse& at = classes_[static_cast<int>(std::floor(speed_rpm / kClass_rpm) * kClass_rpm)];
    at.seconds += seconds;
    at.cycles += seconds * speed_rpm / 120;
}

void EngineUse::add(const EngineUse& other, double times) {
    for (const auto& [low, use] : other.classes_) {
        classes_[low].seconds += times * use.seconds;
        classes_[low].cycles += times * use.cycles;
    }
}

double EngineUse::seconds() const {
    double out = 0;
    for (const auto& [low, use] : classes_)
        out += use.seconds;
    return out;
}

double EngineUse::cycles() const {
    double out = 0;
    for (const auto& [low, use] : classes_)
        out += use.cycles;
    return out;
}

double EngineUse::cycles_above(double speed_rpm) const {
    double out = 0;
    for (const auto& [low, use] : classes_)
        out += use.cycles * std::clamp((low + kClass_rpm - speed_rpm) / kClass_rpm, 0.0, 1.0);
    return out;
}

struct UseCounter::Inside {
    struct Reading {
        double time_s = 0, rpm = 0;
    };
    explicit Inside(std::optional<double> limit) : watch(limit.value_or(kMost_rpm)), watching(limit) {}

    // `last` was waited with until the reading after it told whether it can be.
    void take(const Reading& next) {
        if (before && last && spike(*before, *last, next)) {
            ++out.lost;
            last.reset();
        }
        if (last) {
            if (before)
                piece(*before, *last);
            before = last;
        }
        last = next;
    }
    static bool spike(const Reading& a, const Reading& b, const Reading& c) {
        const double up = (b.rpm - a.rpm) / (b.time_s - a.time_s),
                     down = (c.rpm - b.rpm) / (c.time_s - b.time_s);
        return up * down < 0 && std::min(std::abs(up), std::abs(down)) > kMostRate_rpm_per_s;
    }
    void piece(const Reading& from, const Reading& to) {
        const double seconds = to.time_s - from.time_s;
        if (seconds > kMostGap_s) {
            ++out.gaps;
            out.left_out_s += seconds;
            return watch.end();
        }
        add_piece(out.use, from.rpm, to.rpm, seconds);
        if (watching)
            watch.look(from.time_s, seconds, from.rpm, to.rpm);
    }

    LoggedUse out;
    ExcursionWatch watch;
    std::optional<double> watching;
    std::optional<Reading> before, last;
    double latest_s = 0;
    std::size_t readings = 0;
};

UseCounter::UseCounter(std::optional<double> limit_rpm) : in_(std::make_unique<Inside>(limit_rpm)) {}
UseCounter::~UseCounter() = default;
UseCounter::UseCounter(UseCounter&&) noexcept = default;

void UseCounter::add(double time_s, double speed_rpm) {
    ++in_->readings;
    if (in_->readings > 1 && !(time_s > in_->latest_s))
        refuse_use(fmt::format("reading {}", in_->readings),
                   fmt::format("{:g} s comes after {:g} s", time_s, in_->latest_s), "times that rise");
    in_->latest_s = time_s;
    if (is_speed(speed_rpm))
        in_->take({time_s, speed_rpm});
    else
        ++in_->out.lost;
}

LoggedUse UseCounter::finish() {
    if (in_->readings < 2)
        refuse_use("readings", fmt::format("{} of time and speed", in_->readings), "at least two");
    if (!in_->last)
        refuse_use("speed", "no reading is a crank speed", "choose the column and its unit");
    if (in_->before)
        in_->piece(*in_->before, *in_->last);
    in_->out.excursions = std::move(in_->watch.found);
    return std::move(in_->out);
}

LoggedUse use_of(const std::vector<double>& time_s, const std::vector<double>& speed_rpm,
                 std::optional<double> limit_rpm) {
    if (time_s.size() != speed_rpm.size())
        refuse_use("readings", fmt::format("{} times and {} speeds", time_s.size(), speed_rpm.size()),
                   "as many of each");
    UseCounter counter(limit_rpm);
    for (std::size_t i = 0; i < time_s.size(); ++i)
        counter.add(time_s[i], speed_rpm[i]);
    return counter.finish();
}

EngineUse use_of(const std::vector<StatedUse>& stated) {
    EngineUse out;
    for (const StatedUse& one : stated)
        out.add(one.speed_rpm, one.seconds);
    return out;
}

std::map<std::string, double> as_numbers(const EngineUse& use) {
    std::map<std::string, double> out;
    for (const auto& [low, one] : use.classes())
        if (one.seconds > 0)
            out[fmt::format("{}{:.10g}", kNumberKey, EngineUse::speed_of(one))] += one.seconds;
    return out;
}

EngineUse use_from(const std::map<std::string, double>& numbers) {
    EngineUse out;
    for (const auto& [key, seconds] : numbers) {
        if (!key.starts_with(kNumberKey))
            continue;
        double rpm = 0;
        const char *from = key.data() + kNumberKey.size(), *end = key.data() + key.size();
        if (const auto [at, error] = std::from_chars(from, end, rpm); error != std::errc() || at != end)
            refuse_use(key, "names no speed", "s_at_ and rev/min");
        out.add(rpm, seconds);
    }
    return out;
}

} // namespace bathmos::life
