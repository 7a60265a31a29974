#include "core/rig/cycles.h"

#include "core/math/robust.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>

namespace bathmos::rig {

namespace {

constexpr std::size_t kGapReadings = 3;
constexpr double kGlitch_mm = 0.05, kGlitchSigmas = 6, kGlitchSpan_deg = 8, kSlip_deg = 1.5,
                 kSameSpeed = 0.01;
constexpr double kLeastCover_deg = 700, kLeastReadings = 90;

// Readings of one cycle, in order of angle 0..720.
struct Readings {
    std::vector<double> angle, lift;
    bool gap = false;
};

void append_turn(const RigTrace& trace, const RigTurn& turn, double from_deg, Readings& to) {
    std::size_t lost = 0;
    for (std::size_t i = turn.first; i < turn.first + turn.count; ++i) {
        if (!is_reading(trace.lift_mm[i])) {
            to.gap = to.gap || ++lost >= kGapReadings;
            continue;
        }
        lost = 0;
        const double angle = from_deg + trace.crank_deg[i];
        if (!(angle >= -720 && angle <= 1440))
            continue; // no angle of a cycle
        if (!to.angle.empty() && angle <= to.angle.back())
            continue; // a repeated reading
        to.angle.push_back(angle);
        to.lift.push_back(trace.lift_mm[i]);
    }
}

Readings readings_of(const RigTrace& trace, std::size_t turn) {
    Readings out;
    append_turn(trace, trace.turns[turn], 0, out);
    if (trace.once_per_crank_turn)
        append_turn(trace, trace.turns[turn + 1], 360, out);
    return out;
}

// Cubic Hermite through uneven readings of a ring, slopes by central differences.
RawCycle resample(const Readings& r) {
    const std::size_t n = r.angle.size();
    const auto angle = [&](std::ptrdiff_t i) {
        const auto turn =
            static_cast<std::ptrdiff_t>(std::floor(static_cast<double>(i) / static_cast<double>(n)));
        return r.angle[static_cast<std::size_t>(i - turn * static_cast<std::ptrdiff_t>(n))] +
               720.0 * static_cast<double>(turn);
    };
    const auto lift = [&](std::ptrdiff_t i) {
        const auto m = static_cast<std::ptrdiff_t>(n);
        return r.lift[static_cast<std::size_t>(((i % m) + m) % m)];
    };
    const auto slope = [&](std::ptrdiff_t i) {
        return (lift(i + 1) - lift(i - 1)) / (angle(i + 1) - angle(i - 1));
    };
    RawCycle out(kGridSteps);
    std::ptrdiff_t at = -1; // interval at .. at+1
    for (std::size_t g = 0; g < kGridSteps; ++g) {
        const double want = kGridStep_crank_deg * static_cast<double>(g);
        while (angle(at + 1) <= want)
            ++at;
        const double h = angle(at + 1) - angle(at), t = (want - angle(at)) / h, u = 1 - t;
        out[g] = u * u * ((1 + 2 * t) * lift(at) + t * h * slope(at)) +
                 t * t * ((1 + 2 * u) * lift(at + 1) - u * h * slope(at + 1));
    }
    return out;
}

CyclePlaces& group_for(std::vector<CyclePlaces>& groups, double speed_rpm) {
    const auto found = std::find_if(groups.rbegin(), groups.rend(), [&](const CyclePlaces& g) {
        return std::abs(speed_rpm / g.speed_rpm - 1) <= kSameSpeed;
    });
    if (found != groups.rend())
        return *found;
    groups.push_back({speed_rpm, {}});
    return groups.back();
}

void count(SpeedGroup& group, BadCycle reason) {
    ++group.dropped[static_cast<std::size_t>(reason)];
}

RawCycle middle(const std::vector<RawCycle>& cycles) {
    RawCycle out(kGridSteps);
    std::vector<double> here(cycles.size());
    for (std::size_t i = 0; i < kGridSteps; ++i) {
        for (std::size_t k = 0; k < cycles.size(); ++k)
            here[k] = cycles[k][i];
        out[i] = median(here);
    }
    return out;
}

// What may differ from the median cycle at each angle: robust scatter of the cycles, the widest within 5
// degrees.
RawCycle tolerance(const std::vector<RawCycle>& cycles) {
    constexpr std::size_t reach = 10;
    RawCycle sd(kGridSteps), out(kGridSteps);
    std::vector<double> here(cycles.size());
    for (std::size_t i = 0; i < kGridSteps; ++i) {
        for (std::size_t k = 0; k < cycles.size(); ++k)
            here[k] = cycles[k][i];
        sd[i] = robust_sd(here);
    }
    for (std::size_t i = 0; i < kGridSteps; ++i)
        for (std::size_t j = 0; j <= 2 * reach; ++j)
            out[i] =
                std::max({out[i], kGlitch_mm, kGlitchSigmas * sd[(i + kGridSteps + j - reach) % kGridSteps]});
    return out;
}

double misfit(const RawCycle& cycle, const RawCycle& typical, double turned_deg) {
    double sum = 0;
    for (std::size_t i = 0; i < kGridSteps; i += 4)
        sum +=
            std::abs(ring_at(cycle, kGridStep_crank_deg * static_cast<double>(i) + turned_deg) - typical[i]);
    return sum;
}

bool has_slipped(const RawCycle& cycle, const RawCycle& typical) {
    const double as_is = misfit(cycle, typical, 0);
    if (as_is / (kGridSteps / 4) < kGlitch_mm)
        return false;
    for (double turned = kSlip_deg; turned <= 360; turned += 0.5)
        for (const double side : {-turned, turned})
            if (misfit(cycle, typical, side) < 0.2 * as_is)
                return true;
    return false;
}

// A short stretch that is off the other cycles; stuck if the reading hardly moves there while the others do.
std::optional<BadCycle> glitch_in(const RawCycle& cycle, const RawCycle& typical, const RawCycle& allowed) {
    const auto span = static_cast<std::size_t>(kGlitchSpan_deg / kGridStep_crank_deg);
    const auto off = [&](std::size_t i) {
        return std::abs(cycle[i % kGridSteps] - typical[i % kGridSteps]) > allowed[i % kGridSteps];
    };
    for (std::size_t i = 0; i < kGridSteps; ++i) {
        if (!off(i) || off(i + kGridSteps - 1))
            continue;
        std::size_t end = i;
        while (end < i + kGridSteps && off(end))
            ++end;
        if (end - i > span)
            continue;
        const double moved = std::abs(cycle[end % kGridSteps] - cycle[(i + kGridSteps - 1) % kGridSteps]);
        std::size_t still = 0;
        for (std::size_t j = i; j < end; ++j)
            still += std::abs(cycle[(j + 1) % kGridSteps] - cycle[j % kGridSteps]) <
                     0.1 * std::max(moved, kGlitch_mm);
        return 2 * still > end - i ? BadCycle::Stuck : BadCycle::Spike;
    }
    return std::nullopt;
}

} // namespace

std::vector<CyclePlaces> group_cycles(const RigTrace& trace) {
    const auto inside = [&](const RigTurn& turn) {
        return turn.first <= trace.lift_mm.size() && turn.count <= trace.lift_mm.size() - turn.first &&
               turn.first + turn.count <= trace.crank_deg.size();
    };
    std::vector<CyclePlaces> groups;
    for (std::size_t i = 0; i < trace.turns.size(); ++i) {
        const std::size_t first = i;
        double speed_rpm = trace.turns[i].speed_rpm;
        bool whole = inside(trace.turns[i]);
        if (trace.once_per_crank_turn) {
            if (i + 1 >= trace.turns.size() || !trace.turns[i + 1].follows_on)
                continue; // a turn without its partner
            ++i;
            speed_rpm = 0.5 * (speed_rpm + trace.turns[i].speed_rpm);
            whole = whole && inside(trace.turns[i]);
        }
        if (!whole || !(speed_rpm > 0) || !std::isfinite(speed_rpm))
            continue;
        CyclePlaces& group = group_for(groups, speed_rpm);
        const double k = static_cast<double>(group.turns.size());
        group.speed_rpm = (group.speed_rpm * k + speed_rpm) / (k + 1);
        group.turns.push_back(first);
    }
    std::stable_sort(groups.begin(), groups.end(),
                     [](const CyclePlaces& a, const CyclePlaces& b) { return a.speed_rpm < b.speed_rpm; });
    return groups;
}

SpeedGroup read_group(const RigTrace& trace, const CyclePlaces& places, const RigOptions& options) {
    SpeedGroup out;
    double sum_rpm = 0;
    const std::size_t there = places.turns.size(), looked_at = std::min(there, kMostCycles);
    out.passed_over = there - looked_at;
    for (std::size_t i = 0; i < looked_at; ++i) {
        throw_if_stopped(options.stop);
        const std::size_t turn = places.turns[i * there / looked_at];
        const Readings cycle = readings_of(trace, turn);
        if (cycle.gap) {
            count(out, BadCycle::Dropout);
        } else if (static_cast<double>(cycle.angle.size()) < kLeastReadings ||
                   cycle.angle.back() - cycle.angle.front() < kLeastCover_deg) {
            count(out, BadCycle::Short);
        } else {
            RawCycle raw = resample(cycle);
            if (options.reversed)
                for (double& lift : raw)
                    lift = -lift;
            sum_rpm += trace.once_per_crank_turn
                           ? 0.5 * (trace.turns[turn].speed_rpm + trace.turns[turn + 1].speed_rpm)
                           : trace.turns[turn].speed_rpm;
            out.cycles.push_back(std::move(raw));
        }
    }
    out.speed_rpm = out.cycles.empty() ? places.speed_rpm : sum_rpm / static_cast<double>(out.cycles.size());
    return out;
}

void drop_bad(SpeedGroup& group) {
    if (group.cycles.size() < 3)
        return; // nothing to compare with
    const RawCycle typical = middle(group.cycles), allowed = tolerance(group.cycles);
    std::erase_if(group.cycles, [&](const RawCycle& cycle) {
        std::optional<BadCycle> reason = glitch_in(cycle, typical, allowed);
        if (has_slipped(cycle, typical))
            reason = BadCycle::Slipped;
        if (reason)
            count(group, *reason);
        return reason.has_value();
    });
}

RawCycle average(const std::vector<RawCycle>& cycles) {
    RawCycle out(kGridSteps, 0.0);
    for (const RawCycle& cycle : cycles)
        for (std::size_t i = 0; i < kGridSteps; ++i)
            out[i] += cycle[i] / static_cast<double>(cycles.size());
    return out;
}

double ring_at(const RawCycle& ring, double crank_deg) {
    const double n = static_cast<double>(ring.size());
    double at = crank_deg / 720 * n;
    at -= std::floor(at / n) * n;
    const auto i = std::min(static_cast<std::size_t>(at), ring.size() - 1);
    const double t = at - static_cast<double>(i), u = 1 - t;
    const auto y = [&](std::size_t k) { return ring[(i + ring.size() - 1 + k) % ring.size()]; };
    const double s1 = 0.5 * (y(2) - y(0)), s2 = 0.5 * (y(3) - y(1));
    return u * u * ((1 + 2 * t) * y(1) + t * s1) + t * t * ((1 + 2 * u) * y(2) - u * s2);
}

} // namespace bathmos::rig
