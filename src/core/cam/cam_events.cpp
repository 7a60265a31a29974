#include "core/cam/cam_events.h"

#include "core/lobe/lobe_events.h"
#include "core/problem/input_error.h"
#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr double kLeastChange_rad = kPi / 180;
// Squeeze on running from the closed intake valve: below the first little is left to work with at low speed,
// above the second pump fuel knocks in most engines. Trade practice; fuel and chamber move both.
constexpr double kSluggish = 6.5, kKnock = 9.0;

std::optional<ValveEvents> valve_events(const PlacedLobe& lobe, bool intake, double height_m,
                                        double moved_rad) {
    const auto c = crossings_at([&](double theta) { return lobe.motion.at(theta); }, height_m);
    if (!c)
        return std::nullopt;
    const double opens = crank_of(lobe, intake, c->opening_rad, moved_rad);
    const double closes = crank_of(lobe, intake, c->closing_rad, moved_rad);
    const double nose = crank_of(lobe, intake, 0, moved_rad);
    ValveEvents out;
    out.opens_before_rad = intake ? -opens : -kPi - opens;
    out.closes_after_rad = intake ? closes - kPi : closes;
    out.duration_rad = closes - opens;
    out.lift_at_dead_centre_m = lobe.motion.at(-nose / 2);
    return out;
}

double overlap_area(const PlacedLobe& intake, const PlacedLobe& exhaust, double moved_rad) {
    constexpr double step = kPi / 720; // a quarter of a crank degree
    const double in = crank_of(intake, true, 0, moved_rad), out = crank_of(exhaust, false, 0, moved_rad);
    double area = 0;
    for (double crank = out; crank < in; crank += step)
        area += step * std::min(intake.motion.at((crank - in) / 2), exhaust.motion.at((crank - out) / 2));
    return area;
}

bool engine_known(const Engine& engine) {
    return engine.bore_m > 0 && engine.stroke_m > 0 && engine.rod_m > engine.stroke_m / 2 &&
           engine.compression_ratio > 1;
}

} // namespace

CamTiming timing_of(double intake_centreline_rad, double exhaust_centreline_rad) {
    return {(intake_centreline_rad + exhaust_centreline_rad) / 4,
            (exhaust_centreline_rad - intake_centreline_rad) / 2};
}

std::pair<double, double> centrelines_of(const CamTiming& timing) {
    return {2 * timing.separation_cam_rad - timing.advance_crank_rad,
            2 * timing.separation_cam_rad + timing.advance_crank_rad};
}

double crank_of(const PlacedLobe& lobe, bool intake, double theta_rad, double moved_rad) {
    return (intake ? 1 : -1) * lobe.centreline_rad + 2 * theta_rad + moved_rad;
}

double volume_ratio(const Engine& engine, double crank_rad) {
    if (!engine_known(engine))
        throw InputError({"", "engine", "bore, stroke, rod and compression ratio are not all known",
                          "type them in the Train station, under Engine"});
    const double r = engine.stroke_m / 2, l = engine.rod_m;
    const double down =
        r * (1 - std::cos(crank_rad)) + l - std::sqrt(l * l - std::pow(r * std::sin(crank_rad), 2));
    return 1 + (engine.compression_ratio - 1) * down / engine.stroke_m;
}

PairEvents events_of(const PlacedLobe& intake, const PlacedLobe& exhaust, double height_m, double moved_rad,
                     const Engine& engine) {
    PairEvents out;
    out.intake = valve_events(intake, true, height_m, moved_rad);
    out.exhaust = valve_events(exhaust, false, height_m, moved_rad);
    if (out.intake && out.exhaust)
        out.overlap_rad = out.intake->opens_before_rad + out.exhaust->closes_after_rad;
    out.overlap_area_m_rad = overlap_area(intake, exhaust, moved_rad);
    if (out.intake && engine_known(engine))
        out.dynamic_ratio = volume_ratio(engine, kPi + out.intake->closes_after_rad);
    if (const auto shut = valve_events(intake, true, kNearlyShut_m, moved_rad); shut && engine_known(engine))
        out.shut_ratio = volume_ratio(engine, kPi + shut->closes_after_rad);
    return out;
}

std::vector<std::string> reading_of(const PairEvents& before, const PairEvents& after) {
    std::vector<std::string> out;
    const auto say = [&](double change_rad, const char* later, const char* earlier) {
        if (std::abs(change_rad) >= kLeastChange_rad)
            out.push_back(
                fmt::format(fmt::runtime(change_rad > 0 ? later : earlier), std::abs(degrees(change_rad))));
    };
    if (before.intake && after.intake) {
        say(after.intake->closes_after_rad - before.intake->closes_after_rad,
            "The intake closes {:.0f} degrees later: it fills better at high speed; at low speed charge is "
            "pushed back, so torque and cranking pressure fall.",
            "The intake closes {:.0f} degrees earlier: it traps more at low speed, and runs out of breath "
            "sooner at high speed.");
        say(after.intake->duration_rad - before.intake->duration_rad,
            "The intake is open {:.0f} degrees longer: power moves up the range, idle and low speed suffer.",
            "The intake is open {:.0f} degrees less: low speed gains, the top end loses.");
    }
    if (before.exhaust && after.exhaust) {
        say(after.exhaust->opens_before_rad - before.exhaust->opens_before_rad,
            "The exhaust opens {:.0f} degrees earlier: less pumping at high speed, some of the expansion "
            "given away at low speed.",
            "The exhaust opens {:.0f} degrees later: more of the expansion is used at low speed, more "
            "pumping work at high speed.");
    }
    if (before.intake && before.exhaust && after.intake && after.exhaust)
        say(after.overlap_rad - before.overlap_rad,
            "Overlap grows by {:.0f} degrees: the exhaust can draw fresh charge in at high speed; at low "
            "speed "
            "exhaust runs back, idle gets rough and unburnt fuel is lost.",
            "Overlap shrinks by {:.0f} degrees: idle and low speed get cleaner, high speed loses the help of "
            "the exhaust.");
    if (before.shut_ratio && after.shut_ratio && std::abs(*after.shut_ratio - *before.shut_ratio) >= 0.05)
        out.push_back(fmt::format("The squeeze from the nearly shut intake goes from {:.1f} to {:.1f}.",
                                  *before.shut_ratio, *after.shut_ratio));
    return out;
}

std::vector<std::string> cautions_of(const PairEvents& events, const Engine& engine) {
    std::vector<std::string> out;
    if (!events.shut_ratio)
        return out;
    if (*events.shut_ratio < kSluggish)
        out.push_back(fmt::format("Only {:.1f} of the {:.1f} to 1 compression is left once the intake has "
                                  "closed: too much duration "
                                  "for this compression ratio makes a sluggish engine below the power band.",
                                  *events.shut_ratio, engine.compression_ratio));
    if (*events.shut_ratio > kKnock)
        out.push_back(
            fmt::format("A squeeze of {:.1f} to 1 from intake closing knocks on most pump fuels: ask "
                        "who tunes the engine.",
                        *events.shut_ratio));
    return out;
}

} // namespace bathmos
