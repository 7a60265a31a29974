#include "core/life/spring_damage.h"

#include "core/problem/input_error.h"
#include "core/train/train.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace bathmos::life {

namespace {

// [Shigley, Mechanical Engineering Design, constants of tensile strength; MPa at a wire of 1 mm]
constexpr double kMPa = 1e6;
const std::vector<WireKind> kWires = {
    {"chrome_silicon", "chrome silicon", 1974 * kMPa, 0.108},
    {"chrome_vanadium", "chrome vanadium", 2005 * kMPa, 0.168},
    {"music", "music wire", 2211 * kMPa, 0.145},
    {"oil_tempered", "oil tempered", 1855 * kMPa, 0.187},
};
constexpr double kShearOfTensile = 0.67;
constexpr double kAmplitude_Pa = 398 * kMPa, kMean_Pa = 534 * kMPa; // peened [Zimmerli]
constexpr double kSteepest = 60;
constexpr double kSlowest_rpm = 1000; // below, coils stand as they would at rest, and cycles take for ever
constexpr double kEndurance_cycles = 1e7, kShort_cycles = 1e3, kShortShare = 0.9;
constexpr double kLeastRange_share = 0.01; // of the strength: ripples below are passed over

// Force of each segment of a spring over the cycle, N; points of the recorded coils.
std::vector<std::vector<double>> segment_forces(const SpringSegments& s, const Motion& m, std::size_t first,
                                                double installed_m) {
    const auto count = static_cast<std::size_t>(s.count);
    std::vector<std::vector<double>> out(count);
    for (std::size_t p = 0; p + 1 < kCoilPoints; ++p) { // the last point is the first again
        const double top = installed_m - m[Channel::Lift][p * kCoilStride];
        double below = s.base_m;
        for (std::size_t j = 0; j < count; ++j) {
            const double above = j + 1 == count ? top : static_cast<double>(m.coil_m(p, first + j));
            // Closed coils carry more, but their wire is not twisted further.
            out[j].push_back(s.stiffness_N_per_m[j] * (s.free_m[j] - std::max(above - below, s.solid_m)));
            below = above;
        }
    }
    return out;
}

SpringStress stress_at(const Motion& m, const std::vector<std::vector<double>>& forces, double Pa_per_N,
                       const WireLine& line) {
    SpringStress out;
    out.speed_rpm = m.speed_rpm;
    for (const std::vector<double>& force : forces) {
        std::vector<double> stress(force.size());
        std::ranges::transform(force, stress.begin(), [&](double f) { return f * Pa_per_N; });
        const double damage = line.damage(rainflow(stress, kLeastRange_share * line.shear_strength_Pa()));
        const auto [low, high] = std::ranges::minmax(stress);
        const bool wider = high - low > out.high_Pa - out.low_Pa;
        if (damage > out.damage || (damage == out.damage && wider)) {
            out.damage = damage;
            out.low_Pa = low;
            out.high_Pa = high;
        }
    }
    return out;
}

void require_wire(double wire_m) {
    if (!(wire_m > 1e-4 && wire_m < 0.05))
        throw InputError({"", "wire_mm", fmt::format("{:g} mm is no wire of a valve spring", 1e3 * wire_m),
                          "0.1 to 50 mm"});
}

} // namespace

const std::vector<WireKind>& wire_kinds() {
    return kWires;
}

const WireKind& find_wire(std::string_view key) {
    const auto at = std::ranges::find(kWires, key, &WireKind::key);
    return at == kWires.end() ? kWires.front() : *at;
}

WireLine::WireLine(const WireKind& kind, double wire_m) {
    require_wire(wire_m);
    shear_Pa_ = kShearOfTensile * kind.strength_Pa / std::pow(1e3 * wire_m, kind.exponent);
    endurance_Pa_ = std::sqrt((kMean_Pa + kAmplitude_Pa) * kAmplitude_Pa);
    slope_ = std::log(kEndurance_cycles / kShort_cycles) / std::log(kShortShare * shear_Pa_ / endurance_Pa_);
    if (!(slope_ > 0 && slope_ < kSteepest)) // soft thick wire: the published amplitude is all that it stands
        slope_ = kSteepest;
}

// Goodman's line is no good here: close to the strength, where springs that are pressed once beyond their
// yield run for years, it says that they break standing still.
double WireLine::cycles_to_failure(double low_Pa, double high_Pa) const {
    const double amplitude = 0.5 * (high_Pa - low_Pa);
    if (amplitude <= 0 || high_Pa <= 0)
        return std::numeric_limits<double>::infinity();
    return std::max(1.0,
                    kEndurance_cycles * std::pow(endurance_Pa_ / std::sqrt(high_Pa * amplitude), slope_));
}

double WireLine::damage(const std::vector<LoadCycle>& cycles) const {
    double out = 0;
    for (const LoadCycle& one : cycles)
        out += one.count / cycles_to_failure(one.low, one.high);
    return out;
}

double SpringFatigue::share(const EngineUse& use) const {
    double out = 0;
    if (by_speed.empty())
        return out;
    for (const auto& [low, one] : use.classes()) {
        if (one.seconds <= 0)
            continue;
        const double rpm = EngineUse::speed_of(one);
        const auto above =
            std::ranges::find_if(by_speed, [&](const SpringStress& s) { return s.speed_rpm >= rpm; });
        double damage = 0;
        if (above == by_speed.begin())
            damage = above->damage;
        else if (above == by_speed.end())
            damage = by_speed.back().damage;
        else {
            const SpringStress &a = *(above - 1), &b = *above;
            const double t = (rpm - a.speed_rpm) / (b.speed_rpm - a.speed_rpm);
            damage = a.damage > 0 && b.damage > 0
                         ? std::exp((1 - t) * std::log(a.damage) + t * std::log(b.damage))
                         : (1 - t) * a.damage + t * b.damage;
        }
        out += one.cycles * damage;
    }
    return out;
}

std::vector<SpringFatigue> fatigue_of(const Train& train, const std::vector<double>& speeds_rpm,
                                      std::string_view wire, const std::stop_token& stop) {
    if (speeds_rpm.empty())
        throw InputError({"", "use", "has no speed at which the engine ran", "enter time and speed"});
    const MotionModel model(train);
    const std::vector<Motion> motions = model.run(speeds_rpm, stop);
    std::vector<SpringFatigue> out;
    std::size_t first = 0;
    for (const Spring& spring : train.springs) {
        const SpringSegments segments = segments_of(spring, train.installed_height_m, model.rigid().peak_m());
        SpringFatigue one;
        one.spring = spring.name;
        const SpringStatics still(spring);
        const auto* coil = std::get_if<CoilGeometry>(&spring.kind);
        const double closed_m = train.installed_height_m - model.rigid().peak_m(),
                     open_N = still.load_N(closed_m);
        if (!coil || !still.stress_Pa(closed_m) || !(open_N > 0))
            one.none = "its wire is not known: it is given by its loads";
        else {
            const double Pa_per_N = *still.stress_Pa(closed_m) / open_N;
            const WireLine line(find_wire(wire), std::min(coil->wire_m, axial_wire_m(*coil)));
            for (const Motion& m : motions) {
                throw_if_stopped(stop);
                if (!m.finite)
                    throw InputError({"", "train", m.trouble, "mend the train first"});
                one.by_speed.push_back(stress_at(
                    m, segment_forces(segments, m, first, train.installed_height_m), Pa_per_N, line));
                one.by_speed.back().still_Pa = *still.stress_Pa(closed_m);
            }
        }
        out.push_back(std::move(one));
        first += static_cast<std::size_t>(segments.count) - 1;
    }
    return out;
}

std::vector<double> speeds_of(const EngineUse& use) {
    std::vector<double> out;
    for (const auto& [low, one] : use.classes())
        if (const double rpm = std::max(kSlowest_rpm, low + kClass_rpm / 2);
            one.seconds > 0 && (out.empty() || out.back() < rpm))
            out.push_back(rpm);
    return out;
}

} // namespace bathmos::life
