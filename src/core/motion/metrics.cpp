#include "core/motion/metrics.h"

#include "core/math/robust.h"
#include "core/math/roots.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

constexpr double kBounceCounts_m = 0.02e-3;

// clang-format off
constexpr std::array<MetricInfo, kMetrics> kMetricInfo = {{
    {"loft_mm", "Loft", "mm", 1e3, 4},
    {"loft_deg", "Loft at", "deg", 1, 1},
    {"lift_loss_mm", "Lift loss", "mm", 1e3, 4},
    {"contact_loss_deg", "Contact loss", "deg", 1, 2},
    {"tip_contact_loss_deg", "Tip apart", "deg", 1, 2},
    {"link_contact_loss_deg", "Link apart", "deg", 1, 2},
    {"opening_shift_deg", "Opening shift", "deg", 1, 3},
    {"closing_shift_deg", "Closing shift", "deg", 1, 3},
    {"duration_change_deg", "Duration change", "deg", 1, 3},
    {"seating_m_per_s", "Seating velocity", "m/s", 1, 4},
    {"first_touch_deg", "First touch", "deg", 1, 2},
    {"bounce_mm", "Bounce", "mm", 1e3, 4},
    {"bounce_count", "Bounces", "", 1, 2},
    {"held_open_mm", "Held open", "mm", 1e3, 4},
    {"seat_ripple_N", "Seat-load ripple", "N", 1, 1},
    {"surge_mm", "Surge", "mm", 1e3, 4},
    {"cycle_spread_mm", "Cycle-to-cycle variation", "mm", 1e3, 4},
}};
// clang-format on

// A cycle's grid seen as crank degrees, and as a ring: index n is index 0 of the next turn.
struct Grid {
    std::size_t steps;
    double step_deg;
    explicit Grid(std::span<const double> lift_m)
        : steps(lift_m.size() - 1), step_deg(720.0 / static_cast<double>(steps)) {}
    double angle(double index) const { return -360 + index * step_deg; }
    std::size_t nose() const { return steps / 2; }
};

// Angle nearest the nose at which the motion falls to a level, going outward; linear between points.
std::optional<double> crossing_deg(std::span<const double> lift, const Grid& grid, double level,
                                   bool opening) {
    std::size_t i = grid.nose();
    if (!(lift[i] > level))
        return std::nullopt;
    while (lift[i] > level) {
        if (i == 0 || i == grid.steps)
            return std::nullopt;
        i += opening ? -1 : 1;
    }
    const std::size_t inner = opening ? i + 1 : i - 1;
    const double share = (lift[inner] - level) / (lift[inner] - lift[i]);
    const double from = static_cast<double>(inner);
    return grid.angle(opening ? from - share : from + share);
}

void measure_lift(const CycleTrace& c, const Grid& grid, const MainEvent& event, Metrics& out) {
    double loft = 0, at = 0, peak = 0;
    for (std::size_t i = event.first; i <= event.last; ++i)
        if (const double above = c.lift_m[i] - c.rigid_m[i]; above > loft) {
            loft = above;
            at = grid.angle(static_cast<double>(i));
        }
    for (double lift : c.lift_m)
        peak = std::max(peak, lift);
    out[Metric::Loft] = loft;
    out[Metric::LoftAngle] = at;
    out[Metric::LiftLoss] = *std::max_element(c.rigid_m.begin(), c.rigid_m.end()) - peak;
    out[Metric::HeldOpen] = std::max(0.0, c.lift_m[grid.steps]);
}

void measure_shifts(const CycleTrace& c, const Grid& grid, double level, Metrics& out) {
    const auto opening = crossing_deg(c.lift_m, grid, level, true);
    const auto closing = crossing_deg(c.lift_m, grid, level, false);
    const auto asked_opening = crossing_deg(c.rigid_m, grid, level, true);
    const auto asked_closing = crossing_deg(c.rigid_m, grid, level, false);
    if (opening && asked_opening)
        out[Metric::OpeningShift] = *opening - *asked_opening;
    if (closing && asked_closing)
        out[Metric::ClosingShift] = *closing - *asked_closing;
    if (out[Metric::OpeningShift] && out[Metric::ClosingShift])
        out[Metric::DurationChange] = *out[Metric::ClosingShift] - *out[Metric::OpeningShift];
}

// Degrees within the main event with penetration <= 0, linear between points.
double apart_deg(std::span<const double> penetration, const Grid& grid, const MainEvent& event) {
    double sum = 0;
    for (std::size_t i = event.first; i < event.last; ++i) {
        const double a = penetration[i], b = penetration[i + 1];
        if (a <= 0 && b <= 0)
            sum += 1;
        else if ((a <= 0) != (b <= 0))
            sum += std::min(a, b) / -(std::max(a, b) - std::min(a, b));
    }
    return sum * grid.step_deg;
}

// Where cubic Hermite through y, y' falls to `level` between two points; share of the interval, and -y'
// there.
struct Touch {
    double share, velocity;
};
Touch touch_between(double y0, double y1, double v0, double v1, double level, double step_s) {
    const auto y = [&](double t) {
        const double u = 1 - t;
        return u * u * ((1 + 2 * t) * y0 + t * step_s * v0) + t * t * ((1 + 2 * u) * y1 - u * step_s * v1) -
               level;
    };
    const double t = find_root(y, 0.0, 1.0, 1e-12), u = 1 - t;
    const double slope = 6 * t * u * (y1 - y0) / step_s + u * (1 - 3 * t) * v0 + t * (3 * t - 2) * v1;
    return {t, -slope};
}

// The last point above the level before first touch, round the ring; empty where it is never reached before
// the rigid motion opens again.
std::optional<std::size_t> last_above(std::span<const double> lift_m, const Grid& grid,
                                      const MainEvent& event, double level) {
    std::size_t i = event.last;
    const std::size_t stop = grid.steps + event.first;
    while (i < stop && lift_m[(i + 1) % grid.steps] > level)
        ++i;
    return i < stop ? std::optional(i) : std::nullopt;
}

double slope_before(std::span<const double> lift_m, const Grid& grid, std::size_t last, double speed_rpm,
                    double approach_deg) {
    const auto back = static_cast<std::size_t>(std::lround(approach_deg / grid.step_deg));
    const double middle = 0.5 * static_cast<double>(back);
    double rise = 0, spread = 0;
    for (std::size_t k = 0; k <= back; ++k) {
        const double from_middle = static_cast<double>(k) - middle;
        rise += from_middle * lift_m[(last + grid.steps - k) % grid.steps];
        spread += from_middle * from_middle;
    }
    return rise / spread * 6 * speed_rpm / grid.step_deg;
}

// From first touch to where the rigid motion opens again, round the ring.
void measure_seat(const CycleTrace& c, const Grid& grid, const MainEvent& event, const MetricOptions& options,
                  Metrics& out) {
    const double level = options.touch_m;
    const auto lift = [&](std::size_t i) { return c.lift_m[i % grid.steps]; };
    const std::optional<std::size_t> last = last_above(c.lift_m, grid, event, level);
    if (!last)
        return;
    const std::size_t i = *last, stop = grid.steps + event.first;
    const std::size_t a = i % grid.steps, b = a + 1;
    const Touch touch = touch_between(c.lift_m[a], c.lift_m[b], c.rate_m_per_s[a], c.rate_m_per_s[b], level,
                                      grid.step_deg / (6 * c.speed_rpm));
    out[Metric::FirstTouch] = grid.angle(static_cast<double>(i) + touch.share);
    out[Metric::Seating] = options.approach_deg > 0
                               ? slope_before(c.lift_m, grid, i, c.speed_rpm, options.approach_deg)
                               : touch.velocity;
    double bounce = 0, count = 0, low_N = 0, high_N = 0;
    bool above = false, any_load = false;
    const auto load = [&](double force_N) {
        low_N = any_load ? std::min(low_N, force_N) : force_N;
        high_N = any_load ? std::max(high_N, force_N) : force_N;
        any_load = true;
    };
    const auto force = [&](std::size_t j) { return c.spring_N[j % grid.steps]; };
    for (std::size_t j = i + 1; j < stop && !(j > grid.steps && c.rigid_m[j % grid.steps] > 0); ++j) {
        bounce = std::max(bounce, lift(j));
        if (lift(j) > kBounceCounts_m && !above)
            ++count;
        above = lift(j) > kBounceCounts_m;
        if (c.spring_N.empty())
            continue;
        if (lift(j) <= 0)
            load(force(j));
        if ((lift(j - 1) <= 0) != (lift(j) <= 0)) { // the load at the moment of touching or leaving
            const double share = lift(j - 1) / (lift(j - 1) - lift(j));
            load(force(j - 1) + share * (force(j) - force(j - 1)));
        }
    }
    out[Metric::Bounce] = bounce;
    out[Metric::BounceCount] = count;
    if (any_load)
        out[Metric::SeatRipple] = high_N - low_N;
}

} // namespace

Quantity quantity_of(Metric metric) {
    const std::string_view unit = info(metric).unit;
    return unit == "mm"    ? Quantity::Length
           : unit == "m/s" ? Quantity::Velocity
           : unit == "N"   ? Quantity::Force
                           : Quantity::Count;
}

const MetricInfo& info(Metric metric) {
    return kMetricInfo[static_cast<std::size_t>(metric)];
}

std::optional<double> Metrics::in_unit(Metric m) const {
    const auto& value = (*this)[m];
    return value ? std::optional(*value * info(m).to_unit) : std::nullopt;
}

MainEvent main_event(std::span<const double> rigid_m) {
    const double level = 0.1 * *std::max_element(rigid_m.begin(), rigid_m.end());
    MainEvent event{0, rigid_m.size() - 1};
    while (event.first < event.last && rigid_m[event.first] < level)
        ++event.first;
    while (event.last > event.first && rigid_m[event.last] < level)
        --event.last;
    return event;
}

std::optional<double> approach_velocity(std::span<const double> lift_m, std::span<const double> rigid_m,
                                        double speed_rpm, const MetricOptions& options) {
    const Grid grid(lift_m);
    const auto last = last_above(lift_m, grid, main_event(rigid_m), options.touch_m);
    return last ? std::optional(slope_before(lift_m, grid, *last, speed_rpm, options.approach_deg))
                : std::nullopt;
}

Metrics measure(const CycleTrace& cycle, const MetricOptions& options) {
    const Grid grid(cycle.lift_m);
    const MainEvent event = main_event(cycle.rigid_m);
    Metrics out;
    measure_lift(cycle, grid, event, out);
    measure_shifts(cycle, grid, options.check_lift_m, out);
    measure_seat(cycle, grid, event, options, out);
    if (!cycle.cam_penetration_m.empty()) {
        out[Metric::ContactLoss] = apart_deg(cycle.cam_penetration_m, grid, event);
        out[Metric::TipContactLoss] = apart_deg(cycle.tip_penetration_m, grid, event);
        out[Metric::LinkContactLoss] = apart_deg(cycle.link_penetration_m, grid, event);
    }
    if (!cycle.surge_m.empty())
        out[Metric::Surge] = *std::max_element(cycle.surge_m.begin(), cycle.surge_m.end());
    return out;
}

Metrics mean_of(std::span<const Metrics> cycles, Metrics* deviation) {
    Metrics out;
    for (std::size_t m = 0; m < kMetrics; ++m) {
        const auto metric = static_cast<Metric>(m);
        std::vector<double> values;
        for (const Metrics& cycle : cycles)
            if (cycle[metric])
                values.push_back(*cycle[metric]);
        if (values.empty())
            continue;
        const MeanDeviation s = mean_deviation(values);
        out[metric] = s.mean;
        if (deviation)
            (*deviation)[metric] = s.deviation;
    }
    return out;
}

double cycle_variation_m(std::span<const std::vector<double>> lifts) {
    double worst = 0;
    if (lifts.size() < 2)
        return worst;
    std::vector<double> here(lifts.size());
    for (std::size_t i = 0; i < lifts.front().size(); ++i) {
        for (std::size_t k = 0; k < lifts.size(); ++k)
            here[k] = lifts[k][i];
        worst = std::max(worst, mean_deviation(here).deviation);
    }
    return worst;
}

} // namespace bathmos
