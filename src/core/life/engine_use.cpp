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

// The part of a straight piece that lies above the limit, joined to the excursion before it where that had
// not ended.
class Watch {
  public:
    explicit Watch(double limit_rpm) : limit_(limit_rpm) {}

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

} // namespace

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

LoggedUse use_of(const std::vector<double>& time_s, const std::vector<double>& speed_rpm,
                 std::optional<double> limit_rpm) {
    if (time_s.size() != speed_rpm.size() || time_s.size() < 2)
        refuse_use("readings", fmt::format("{} times and {} speeds", time_s.size(), speed_rpm.size()),
                   "at least two of each");
    if (std::ranges::none_of(speed_rpm, is_speed))
        refuse_use("speed", "no reading is a crank speed", "choose the column and its unit");
    LoggedUse out;
    Watch watch(limit_rpm.value_or(kMost_rpm));
    for (std::size_t i = 0; i + 1 < time_s.size(); ++i) {
        const double seconds = time_s[i + 1] - time_s[i], from = speed_rpm[i], to = speed_rpm[i + 1];
        if (!(seconds > 0))
            refuse_use(fmt::format("reading {}", i + 2),
                       fmt::format("{:g} s comes after {:g} s", time_s[i + 1], time_s[i]), "times that rise");
        if (seconds > kMostGap_s) {
            ++out.gaps;
            out.left_out_s += seconds;
        }
        if (seconds > kMostGap_s || !is_speed(from) || !is_speed(to)) {
            watch.end();
            continue;
        }
        add_piece(out.use, from, to, seconds);
        if (limit_rpm)
            watch.look(time_s[i], seconds, from, to);
    }
    out.excursions = std::move(watch.found);
    return out;
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
            out[fmt::format("{}{:.10g}", kNumberKey, EngineUse::speed_of(one))] = one.seconds;
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
