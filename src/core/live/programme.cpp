#include "core/live/programme.h"

#include "core/problem/input_error.h"
#include "core/rig/rig_trace.h"

#include <cmath>
#include <fmt/format.h>

namespace bathmos::live {

namespace {

constexpr double kNear = 0.01, kNear_rpm = 15; // at speed within
constexpr double kSettle_s = 0.5;              // before cycles count
constexpr std::size_t kLeastCycles = 8, kMostLegs = 2000, kMostTimes = 1000;
constexpr double kMost_s = 24 * 3600;

bool near(double rpm, double wanted_rpm) {
    return std::abs(rpm - wanted_rpm) <= std::max(kNear_rpm, kNear * wanted_rpm);
}

} // namespace

Programme steps_programme(double first_rpm, double last_rpm, double step_rpm, std::size_t cycles) {
    Programme out;
    out.name = fmt::format("{:.0f} to {:.0f} by {:.0f}", first_rpm, last_rpm, step_rpm);
    for (double rpm = first_rpm; rpm <= last_rpm + 1e-6 && out.legs.size() <= kMostLegs; rpm += step_rpm)
        out.legs.push_back({LegKind::Step, rpm, 0, 0, cycles});
    return out;
}

void check_programme(const Programme& programme, double most_rpm) {
    const auto refuse = [](const std::string& place, const std::string& what, const std::string& mend) {
        throw InputError({"", place, what, mend});
    };
    if (programme.legs.empty() || programme.legs.size() > kMostLegs)
        refuse("legs", fmt::format("{} legs", programme.legs.size()), fmt::format("give 1 to {}", kMostLegs));
    if (programme.times < 1 || programme.times > kMostTimes)
        refuse("times", fmt::format("{} times", programme.times), fmt::format("give 1 to {}", kMostTimes));
    const double most = most_rpm > 0 ? most_rpm : kMostRig_rpm;
    for (std::size_t i = 0; i < programme.legs.size(); ++i) {
        const Leg& leg = programme.legs[i];
        const std::string place = fmt::format("legs[{}]", i);
        if (!(leg.rpm >= kLeastRig_rpm && leg.rpm <= most))
            refuse(place + ".rpm", fmt::format("{:g} rev/min", leg.rpm),
                   fmt::format("give {:g} to {:g}", kLeastRig_rpm, most));
        if (!(leg.rpm_per_s >= 0 && leg.rpm_per_s <= 1e5))
            refuse(place + ".rpm_per_s", fmt::format("{:g}", leg.rpm_per_s), "give 0 to 100000");
        if (!(leg.seconds >= 0 && leg.seconds <= kMost_s))
            refuse(place + ".seconds", fmt::format("{:g}", leg.seconds), "give 0 to a day");
        if (leg.kind == LegKind::Step && leg.cycles < kLeastCycles)
            refuse(place + ".cycles", fmt::format("{}", leg.cycles),
                   fmt::format("at least {}: fewer do not tell what repeats", kLeastCycles));
        if (leg.kind == LegKind::Hold && !(leg.seconds > 0))
            refuse(place + ".seconds", "is 0", "say how long it holds");
    }
}

double about_seconds(const Programme& programme, double rpm_per_s) {
    double out = 0, from = 0;
    for (const Leg& leg : programme.legs) {
        out += std::abs(leg.rpm - from) / (leg.rpm_per_s > 0 ? leg.rpm_per_s : rpm_per_s);
        if (leg.kind != LegKind::Ramp)
            out += kSettle_s + std::max(leg.seconds, 120.0 * static_cast<double>(leg.cycles) / leg.rpm);
        from = leg.rpm;
    }
    return out * static_cast<double>(programme.times);
}

ProgrammeRunner::ProgrammeRunner(Programme programme) : programme_(std::move(programme)) {
    check_programme(programme_, 0);
}

std::vector<Request> ProgrammeRunner::go_on(const RigState& state) {
    std::vector<Request> out;
    while (!done_) {
        const Leg& leg = now();
        if (!asked_) {
            out.push_back({Request::Kind::SetSpeed, ++number_, leg.rpm, leg.rpm_per_s, {}});
            asked_ = true;
            arrived_ = false;
        }
        if (!arrived_ && !near(state.rpm, leg.rpm))
            return out;
        if (!arrived_ && leg.kind != LegKind::Ramp) {
            if (arrived_s_ == 0)
                arrived_s_ = state.time_s;
            if (state.time_s - arrived_s_ < kSettle_s)
                return out;
            arrived_ = true;
            arrived_s_ = state.time_s;
            arrived_cycles_ = state.good_cycles;
            if (leg.kind == LegKind::Hold)
                out.push_back({Request::Kind::Hold, ++number_, leg.rpm, 0, {}});
        }
        const bool enough = leg.kind == LegKind::Ramp || (state.time_s - arrived_s_ >= leg.seconds &&
                                                          state.good_cycles - arrived_cycles_ >= leg.cycles);
        if (!enough)
            return out;
        asked_ = arrived_ = false;
        arrived_s_ = 0;
        if (++leg_ == legs()) {
            done_ = true;
            out.push_back({Request::Kind::Stop, ++number_, 0, 0, "programme done"});
        }
    }
    return out;
}

} // namespace bathmos::live
